"""Files as they came may be kept compressed."""

import sqlalchemy as sa
from alembic import op

revision = "0020"
down_revision = "0019"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("file_chunks", sa.Column("size", sa.Integer(), nullable=True))
    # Those to come are compressed already, or cannot be: PostgreSQL is not to try it again.
    op.execute("ALTER TABLE file_chunks ALTER COLUMN bytes SET STORAGE EXTERNAL")


def downgrade() -> None:
    # What is compressed could not be read by the version before.
    if op.get_bind().scalar(sa.text("SELECT EXISTS (SELECT FROM file_chunks WHERE size IS NOT NULL)")):
        raise RuntimeError("files are kept compressed: restore a backup of before instead")
    op.execute("ALTER TABLE file_chunks ALTER COLUMN bytes SET STORAGE EXTENDED")
    op.drop_column("file_chunks", "size")
