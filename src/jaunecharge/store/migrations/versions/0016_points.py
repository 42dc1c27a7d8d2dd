"""Readings of other points of the chain: the socket, the phone itself; whether it charges; the room's humidity."""

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("lane_readings", sa.Column("point", sa.Text(), server_default="", nullable=False))
    op.add_column("lane_readings", sa.Column("humidity", sa.Float()))
    op.add_column("lane_readings", sa.Column("charging", sa.Boolean()))
    op.create_table(
        "socket_samples",
        sa.Column("run_id", sa.UUID(), nullable=False),
        sa.Column("t_s", sa.Float(), nullable=False),
        sa.Column("watts", sa.Float(), nullable=False),
        sa.Column("volts", sa.Float()),
        sa.Column("amps", sa.Float()),
        sa.PrimaryKeyConstraint("run_id", "t_s"),
    )
    op.create_table(
        "humidities",
        sa.Column("run_id", sa.UUID(), sa.ForeignKey("runs.id", ondelete="CASCADE"), nullable=False),
        sa.Column("t_s", sa.Float(), nullable=False),
        sa.Column("percent", sa.Float(), nullable=False),
        sa.PrimaryKeyConstraint("run_id", "t_s"),
    )
    op.create_table(
        "charging",
        sa.Column("run_id", sa.UUID(), sa.ForeignKey("runs.id", ondelete="CASCADE"), nullable=False),
        sa.Column("t_s", sa.Float(), nullable=False),
        sa.Column("charges", sa.Boolean(), nullable=False),
        sa.PrimaryKeyConstraint("run_id", "t_s"),
    )


def downgrade() -> None:
    for table in ("charging", "humidities", "socket_samples"):
        op.drop_table(table)
    for column in ("charging", "humidity", "point"):
        op.drop_column("lane_readings", column)
