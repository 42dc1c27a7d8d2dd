"""Tests of battery packs: load tests with their log, charges of phones from them."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None

MOMENT = sa.DateTime(timezone=True)


def upgrade() -> None:
    op.create_table(
        "pack_tests",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("pack", sa.Text(), nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("document", JSONB(), nullable=False),
        sa.Column("log", sa.LargeBinary(), nullable=True),
        sa.Column("by", sa.Text(), nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.Column("deleted_at", MOMENT, nullable=True),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_pack_tests_pack", "pack_tests", ["pack"])


def downgrade() -> None:
    op.drop_table("pack_tests")
