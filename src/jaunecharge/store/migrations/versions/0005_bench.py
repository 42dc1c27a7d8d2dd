"""The bench: lanes, their readings and log, meter checks, sign-ins; runs know how they ended there."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

JSON = postgresql.JSONB(astext_type=sa.Text())
MOMENT = sa.DateTime(timezone=True)


def upgrade() -> None:
    op.add_column("runs", sa.Column("outcome", sa.Text(), server_default="", nullable=False))
    op.add_column("runs", sa.Column("bench", JSON, nullable=True))
    op.create_table(
        "bench",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("tick", sa.BigInteger(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )
    op.execute("INSERT INTO bench (id, tick) VALUES (1, 0)")
    op.create_table(
        "lanes",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("state", sa.Text(), nullable=False),
        sa.Column("label", sa.Text(), nullable=False),
        sa.Column("factors", JSON, nullable=False),
        sa.Column("case", JSON, nullable=False),
        sa.Column("card", JSON, nullable=False),
        sa.Column("chain", JSON, nullable=False),
        sa.Column("setup", JSON, nullable=False),
        sa.Column("meter", sa.Text(), nullable=False),
        sa.Column("probe", sa.Text(), nullable=False),
        sa.Column("meter_address", sa.Text(), nullable=False),
        sa.Column("probe_address", sa.Text(), nullable=False),
        sa.Column("speed", sa.Float(), nullable=False),
        sa.Column("simulated", sa.Boolean(), nullable=False),
        sa.Column("survey", sa.UUID(), nullable=True),
        sa.Column("token", sa.Text(), nullable=False),
        sa.Column("zone", sa.Text(), nullable=False),
        sa.Column("slot_id", sa.UUID(), nullable=True),
        sa.Column("run_id", sa.UUID(), nullable=True),
        sa.Column("opened_at", MOMENT, nullable=False),
        sa.Column("placed_s", sa.Float(), nullable=True),
        sa.Column("closed_at", MOMENT, nullable=True),
        sa.Column("outcome", sa.Text(), nullable=False),
        sa.Column("reason", sa.Text(), nullable=False),
        sa.Column("created_by", sa.Text(), nullable=False),
        sa.Column("tick", sa.BigInteger(), nullable=False),
        sa.ForeignKeyConstraint(["slot_id"], ["slots.id"], ondelete="SET NULL"),
        sa.ForeignKeyConstraint(["run_id"], ["runs.id"], ondelete="SET NULL"),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("token"),
    )
    op.create_index("uq_lane_name", "lanes", ["name"], unique=True, postgresql_where=sa.text("state <> 'closed'"))
    op.create_index("ix_lanes_tick", "lanes", ["tick"])
    op.create_table(
        "lane_sources",
        sa.Column("lane_id", sa.UUID(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("epoch", sa.Integer(), nullable=False),
        sa.Column("boot", sa.Text(), nullable=False),
        sa.Column("last", sa.BigInteger(), nullable=False),
        sa.Column("newest_s", sa.Float(), nullable=True),
        sa.Column("offset_s", sa.Float(), nullable=True),
        sa.ForeignKeyConstraint(["lane_id"], ["lanes.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("lane_id", "name"),
    )
    op.create_table(
        "lane_readings",
        sa.Column("lane_id", sa.UUID(), nullable=False),
        sa.Column("source", sa.Text(), nullable=False),
        sa.Column("epoch", sa.Integer(), nullable=False),
        sa.Column("n", sa.BigInteger(), nullable=False),
        sa.Column("t_s", sa.Float(), nullable=False),
        sa.Column("volts", sa.Float(), nullable=True),
        sa.Column("amps", sa.Float(), nullable=True),
        sa.Column("watts", sa.Float(), nullable=True),
        sa.Column("celsius", sa.Float(), nullable=True),
        sa.Column("position", sa.Text(), nullable=False),
        sa.Column("percent", sa.Float(), nullable=True),
        sa.Column("tick", sa.BigInteger(), nullable=False),
        sa.PrimaryKeyConstraint("lane_id", "source", "epoch", "n"),
    )
    op.create_index("ix_lane_readings_tick", "lane_readings", ["tick"])
    op.create_index("ix_lane_readings_time", "lane_readings", ["lane_id", "t_s"])
    op.create_table(
        "lane_entries",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("lane_id", sa.UUID(), nullable=False),
        sa.Column("t_s", sa.Float(), nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("value", sa.Float(), nullable=True),
        sa.Column("unit", sa.Text(), nullable=False),
        sa.Column("text", sa.Text(), nullable=False),
        sa.Column("by", sa.Text(), nullable=False),
        sa.Column("first", JSON, nullable=True),
        sa.Column("corrected_by", sa.Text(), nullable=False),
        sa.Column("corrected_at", MOMENT, nullable=True),
        sa.Column("undone_by", sa.Text(), nullable=False),
        sa.Column("undone_at", MOMENT, nullable=True),
        sa.Column("tick", sa.BigInteger(), nullable=False),
        sa.ForeignKeyConstraint(["lane_id"], ["lanes.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_lane_entries_tick", "lane_entries", ["tick"])
    op.create_index("ix_lane_entries_lane", "lane_entries", ["lane_id", "t_s"])
    op.create_table(
        "meter_checks",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("meter", sa.Text(), nullable=False),
        sa.Column("way", sa.Text(), nullable=False),
        sa.Column("against", sa.Text(), nullable=False),
        sa.Column("deviation_percent", sa.Float(), nullable=False),
        sa.Column("expanded_percent", sa.Float(), nullable=False),
        sa.Column("readings", JSON, nullable=False),
        sa.Column("by", sa.Text(), nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.Column("deleted_at", MOMENT, nullable=True),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_meter_checks_meter", "meter_checks", ["meter"])
    op.create_table(
        "sign_ins",
        sa.Column("digest", sa.Text(), nullable=False),
        sa.Column("until", MOMENT, nullable=False),
        sa.PrimaryKeyConstraint("digest"),
    )
    op.create_table(
        "secrets",
        sa.Column("purpose", sa.Text(), nullable=False),
        sa.Column("digest", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("purpose"),
    )


def downgrade() -> None:
    for table in (
        "secrets", "sign_ins", "meter_checks", "lane_entries", "lane_readings", "lane_sources", "lanes", "bench",
    ):  # fmt: skip
        op.drop_table(table)
    op.drop_column("runs", "bench")
    op.drop_column("runs", "outcome")
