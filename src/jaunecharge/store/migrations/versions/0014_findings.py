"""Findings: a question, what was drawn up for it, and from what."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None

MOMENT = sa.DateTime(timezone=True)


def upgrade() -> None:
    op.create_table(
        "findings",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("question", sa.Text(), nullable=False),
        sa.Column("document", JSONB(), nullable=False),
        sa.Column("draft", JSONB(), nullable=False),
        sa.Column("sources", JSONB(), nullable=False),
        sa.Column("software", sa.Text(), nullable=False),
        sa.Column("drawn_at", MOMENT, nullable=False),
        sa.Column("drawn_by", sa.Text(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("created_by", sa.Text(), nullable=False),
        sa.Column("created_at", MOMENT, server_default=sa.func.clock_timestamp(), nullable=False),
        sa.Column("deleted_at", MOMENT, nullable=True),
        sa.Column("deleted_by", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )


def downgrade() -> None:
    op.drop_table("findings")
