"""Lanes of packs: their kind, the pack, and the test that they close into; packs found without regard to capitals."""

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("lanes", sa.Column("kind", sa.Text(), nullable=False, server_default="charge"))
    op.add_column("lanes", sa.Column("pack", sa.Text(), nullable=False, server_default=""))
    op.add_column("lanes", sa.Column("pack_test_id", sa.UUID(), nullable=True))
    op.create_index("ix_pack_tests_listed", "pack_tests", [sa.text("lower(pack)"), sa.text("at DESC"), "id"])


def downgrade() -> None:
    op.drop_index("ix_pack_tests_listed", "pack_tests")
    for column in ("pack_test_id", "pack", "kind"):
        op.drop_column("lanes", column)
