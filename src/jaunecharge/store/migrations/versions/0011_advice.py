"""Advice at an alarm, apart from what was seen: both stood in one text before, a line each."""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("lane_entries", sa.Column("advice", sa.Text(), nullable=False, server_default=""))
    op.execute(
        r"""
        UPDATE lane_entries
        SET advice = substr(text, position(E'\n' in text) + 1), text = substr(text, 1, position(E'\n' in text) - 1)
        WHERE kind = 'alarm' AND position(E'\n' in text) > 0
        """
    )


def downgrade() -> None:
    op.execute(r"UPDATE lane_entries SET text = text || E'\n' || advice WHERE kind = 'alarm' AND advice <> ''")
    op.drop_column("lane_entries", "advice")
