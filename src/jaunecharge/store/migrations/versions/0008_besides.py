"""Watts as the phone reports them, and the charger's light."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "phone_watts",
        sa.Column("run_id", sa.UUID(), sa.ForeignKey("runs.id", ondelete="CASCADE"), nullable=False),
        sa.Column("t_s", sa.Float(), nullable=False),
        sa.Column("watts", sa.Float(), nullable=False),
        sa.PrimaryKeyConstraint("run_id", "t_s"),
    )
    op.create_table(
        "lights",
        sa.Column("run_id", sa.UUID(), sa.ForeignKey("runs.id", ondelete="CASCADE"), nullable=False),
        sa.Column("t_s", sa.Float(), nullable=False),
        sa.Column("lit", sa.Boolean(), nullable=False),
        sa.PrimaryKeyConstraint("run_id", "t_s"),
    )


def downgrade() -> None:
    op.drop_table("lights")
    op.drop_table("phone_watts")
