"""Alembic's environment: the connection comes from the application."""

from alembic import context

from jaunecharge.store import (  # noqa: F401 - their tables are part of the schema
    bench_models,
    finding_models,
    pack_models,
    row_models,
)
from jaunecharge.store.jobs import models as job_models  # noqa: F401
from jaunecharge.store.listing import models as listing_models  # noqa: F401
from jaunecharge.store.models import Base

context.configure(connection=context.config.attributes["connection"], target_metadata=Base.metadata)
with context.begin_transaction():
    context.run_migrations()
