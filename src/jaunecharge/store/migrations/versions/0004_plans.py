"""Method cards, plans and their slots; runs keep the card that they were made under."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None

JSON = postgresql.JSONB(astext_type=sa.Text())
NOW = sa.text("clock_timestamp()")
MOMENT = sa.DateTime(timezone=True)


def upgrade() -> None:
    op.create_table(
        "cards",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("facts", JSON, nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("created_by", sa.Text(), nullable=False),
        sa.Column("created_at", MOMENT, server_default=NOW, nullable=False),
        sa.Column("retired_at", MOMENT, nullable=True),
        sa.Column("retired_by", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("uq_card_name", "cards", [sa.text("lower(name)")], unique=True)
    op.create_table(
        "plans",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("question", sa.Text(), nullable=False),
        sa.Column("card", JSON, nullable=False),
        sa.Column("choice", JSON, nullable=False),
        sa.Column("wishes", JSON, nullable=False),
        sa.Column("findings", JSON, nullable=False),
        sa.Column("schedule", JSON, nullable=False),
        sa.Column("changes", JSON, nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("created_by", sa.Text(), nullable=False),
        sa.Column("created_at", MOMENT, server_default=NOW, nullable=False),
        sa.Column("deleted_at", MOMENT, nullable=True),
        sa.Column("deleted_by", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_table(
        "slots",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("plan_id", sa.UUID(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("key", sa.Text(), nullable=False),
        sa.Column("repeat", sa.Integer(), nullable=False),
        sa.Column("closing", sa.Boolean(), nullable=False),
        sa.Column("phone", sa.Text(), nullable=False),
        sa.Column("said", sa.Text(), nullable=False),
        sa.Column("factors", JSON, nullable=False),
        sa.Column("expected", JSON, nullable=False),
        sa.Column("drain_min", sa.Float(), nullable=False),
        sa.Column("cool_min", sa.Float(), nullable=False),
        sa.Column("drain_start", MOMENT, nullable=True),
        sa.Column("start_at", MOMENT, nullable=True),
        sa.Column("end_at", MOMENT, nullable=True),
        sa.Column("state", sa.Text(), nullable=False),
        sa.Column("drain_began_at", MOMENT, nullable=True),
        sa.Column("drained_at", MOMENT, nullable=True),
        sa.Column("began_at", MOMENT, nullable=True),
        sa.Column("ended_at", MOMENT, nullable=True),
        sa.Column("cool_at", MOMENT, nullable=True),
        sa.Column("void_reason", sa.Text(), nullable=False),
        sa.Column("card", JSON, nullable=True),
        sa.Column("run_id", sa.UUID(), nullable=True),
        sa.Column("history", JSON, nullable=False),
        sa.ForeignKeyConstraint(["plan_id"], ["plans.id"], ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["run_id"], ["runs.id"], ondelete="SET NULL"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_slots_plan_id", "slots", ["plan_id"])
    op.create_index("ix_slots_run_id", "slots", ["run_id"])
    op.add_column("runs", sa.Column("card", JSON, nullable=True))


def downgrade() -> None:
    op.drop_column("runs", "card")
    op.drop_table("slots")
    op.drop_table("plans")
    op.drop_table("cards")
