"""Fingerprints of recordings, by which one that is read twice is known for a copy."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("runs", sa.Column("recording", JSONB(), nullable=False, server_default="{}"))


def downgrade() -> None:
    op.drop_column("runs", "recording")
