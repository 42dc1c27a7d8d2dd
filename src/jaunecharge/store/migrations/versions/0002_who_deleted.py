"""The person who deleted a run, a note or a picture."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None

TABLES = ("runs", "notes", "photos")


def upgrade() -> None:
    for table in TABLES:
        op.add_column(table, sa.Column("deleted_by", sa.Text(), nullable=False, server_default=""))


def downgrade() -> None:
    for table in TABLES:
        op.drop_column(table, "deleted_by")
