"""Logs as columns, spread by hash of the run; those that are stored in rows are packed in the background."""

import sqlalchemy as sa
from alembic import op

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None

PARTITIONS = 12
"""As many as can be laid on two, three, four, six or twelve machines alike."""

FIGURES = ("step_s", "placed_s")


def upgrade() -> None:
    op.create_table(
        "series",
        sa.Column("run_id", sa.UUID(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("n", sa.Integer(), nullable=False),
        sa.Column("rows", sa.Integer(), nullable=False),
        sa.Column("first_s", sa.Float(), nullable=False),
        sa.Column("last_s", sa.Float(), nullable=False),
        sa.Column("bytes", sa.LargeBinary(), nullable=False),
        postgresql_partition_by="HASH (run_id)",
    )
    # The bytes are compressed already: PostgreSQL is not to try it again.
    op.execute("ALTER TABLE series ALTER COLUMN bytes SET STORAGE EXTERNAL")
    for n in range(PARTITIONS):
        op.execute(
            f"CREATE TABLE series_{n} PARTITION OF series (PRIMARY KEY (run_id, name, n))"
            f" FOR VALUES WITH (MODULUS {PARTITIONS}, REMAINDER {n})"
        )
        op.execute(f"ALTER TABLE series_{n} ALTER COLUMN bytes SET STORAGE EXTERNAL")
    for name in FIGURES:
        op.add_column("runs", sa.Column(name, sa.Float(), nullable=True))
    # Those that are there are not packed yet; those to come are.
    op.add_column("runs", sa.Column("packed", sa.Boolean(), nullable=False, server_default="false"))
    op.alter_column("runs", "packed", server_default="true")
    op.create_index("ix_runs_reader_version", "runs", ["reader_version"])
    op.create_index("ix_runs_unpacked", "runs", ["created_at"], postgresql_where=sa.text("NOT packed"))


def downgrade() -> None:
    op.drop_index("ix_runs_unpacked", "runs")
    op.drop_index("ix_runs_reader_version", "runs")
    op.drop_column("runs", "packed")
    for name in FIGURES:
        op.drop_column("runs", name)
    op.drop_table("series")
