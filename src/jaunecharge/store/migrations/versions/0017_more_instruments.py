"""A lane's meter at the socket, and what measures its room."""

import sqlalchemy as sa
from alembic import op

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None

COLUMNS = ("socket", "socket_address", "room", "room_address")


def upgrade() -> None:
    for name in COLUMNS:
        op.add_column("lanes", sa.Column(name, sa.Text(), server_default="", nullable=False))


def downgrade() -> None:
    for name in COLUMNS:
        op.drop_column("lanes", name)
