"""Links by which a finding is shared on the network."""

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "finding_links",
        sa.Column("finding_id", sa.UUID(), nullable=False),
        sa.Column("token", sa.Text(), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("made_by", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("finding_id"),
        sa.UniqueConstraint("token"),
    )


def downgrade() -> None:
    op.drop_table("finding_links")
