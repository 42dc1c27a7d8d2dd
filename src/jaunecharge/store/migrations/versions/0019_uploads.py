"""Files that were sent, in the database: every server that has it has them."""

import sqlalchemy as sa
from alembic import op

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "uploads",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("size", sa.BigInteger(), nullable=False),
        sa.Column("sent_at", sa.DateTime(timezone=True), server_default=sa.func.clock_timestamp(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_uploads_sent_at", "uploads", ["sent_at"])
    op.create_table(
        "upload_chunks",
        sa.Column("upload_id", sa.UUID(), nullable=False),
        sa.Column("n", sa.Integer(), nullable=False),
        sa.Column("bytes", sa.LargeBinary(), nullable=False),
        sa.ForeignKeyConstraint(["upload_id"], ["uploads.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("upload_id", "n"),
    )


def downgrade() -> None:
    op.drop_table("upload_chunks")
    op.drop_table("uploads")
