"""Lanes of packs: their kind, the pack, and the test that they close into; packs found without regard to capitals;
when the pack of a planned run is plugged in."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None

FIGURES = (
    "delivered_wh",
    "expanded_wh",
    "held_a",
    "held_v",
    "phone_wh",
    "charges",
    "charges_low",
    "charges_high",
    "charges_width",
)


def upgrade() -> None:
    op.add_column("lanes", sa.Column("kind", sa.Text(), nullable=False, server_default="charge"))
    op.add_column("lanes", sa.Column("pack", sa.Text(), nullable=False, server_default=""))
    op.add_column("lanes", sa.Column("pack_test_id", sa.UUID(), nullable=True))
    for name in FIGURES:
        op.add_column("pack_tests", sa.Column(name, sa.Float(), nullable=True))
    for name in ("at_least", "by_cord"):
        op.add_column("pack_tests", sa.Column(name, sa.Boolean(), nullable=False, server_default="false"))
    op.add_column("pack_tests", sa.Column("phone", sa.Text(), nullable=False, server_default=""))
    op.add_column("pack_tests", sa.Column("listed_version", sa.Integer(), nullable=False, server_default="0"))
    op.create_table(
        "pack_plans",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("document", JSONB(), nullable=False),
        sa.Column("by", sa.Text(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("deleted_at", sa.DateTime(timezone=True), nullable=True),
        sa.PrimaryKeyConstraint("id"),
    )
    op.add_column("slots", sa.Column("fill_at", sa.DateTime(timezone=True), nullable=True))
    op.create_index("ix_pack_tests_listed", "pack_tests", [sa.text("lower(pack)"), sa.text("at DESC"), "id"])


def downgrade() -> None:
    op.drop_index("ix_pack_tests_listed", "pack_tests")
    op.drop_column("slots", "fill_at")
    op.drop_table("pack_plans")
    for name in (*FIGURES, "at_least", "by_cord", "phone", "listed_version"):
        op.drop_column("pack_tests", name)
    for column in ("pack_test_id", "pack", "kind"):
        op.drop_column("lanes", column)
