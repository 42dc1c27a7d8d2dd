"""Jobs: the engine's own queue, in the tables that its package brings, and a record of each job beside it.

The engine's schema is that of the version which the lock file names; a later version of it brings its own steps.
"""

from importlib.resources import files

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0021"
down_revision = "0020"
branch_labels = None
depends_on = None


def upgrade() -> None:
    schema = (files("procrastinate") / "sql" / "schema.sql").read_text()
    driver = op.get_bind().connection.driver_connection
    assert driver is not None
    driver.execute(schema)
    # Rows come and go: what is dead is to be cleared away soon.
    op.execute("ALTER TABLE procrastinate_jobs SET (autovacuum_vacuum_scale_factor = 0.05)")
    op.create_table(
        "jobs",
        sa.Column("id", sa.UUID(), nullable=False),
        *(sa.Column(name, sa.Text(), nullable=False) for name in ("kind", "about", "by")),
        sa.Column("args", JSONB(), nullable=False),
        *(sa.Column(name, sa.Text(), nullable=False) for name in ("key", "state")),
        *(sa.Column(name, sa.Integer(), nullable=False) for name in ("attempt", "failures", "lost")),
        sa.Column("cancelled", sa.Boolean(), nullable=False),
        *(sa.Column(name, sa.Text(), nullable=False) for name in ("worker", "step")),
        sa.Column("fraction", sa.Float(), nullable=False),
        sa.Column("news", sa.Integer(), nullable=False),
        sa.Column("result", JSONB(), nullable=True),
        sa.Column("why", JSONB(), nullable=True),
        sa.Column("made_at", sa.DateTime(timezone=True), server_default=sa.func.clock_timestamp(), nullable=False),
        *(sa.Column(name, sa.DateTime(timezone=True), nullable=True) for name in ("began_at", "ended_at", "next_at")),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_jobs_state", "jobs", ["state", "made_at"])
    op.create_index("ix_jobs_key", "jobs", ["key"], postgresql_where=sa.text("key <> ''"))


def downgrade() -> None:
    op.drop_table("jobs")
    for table in ("events", "periodic_defers", "jobs", "workers"):
        op.execute(f"DROP TABLE procrastinate_{table} CASCADE")
    op.execute(
        """
        DO $$ DECLARE f text; BEGIN
            FOR f IN SELECT oid::regprocedure FROM pg_proc WHERE proname LIKE 'procrastinate\\_%' LOOP
                EXECUTE 'DROP FUNCTION ' || f || ' CASCADE';
            END LOOP;
        END $$
        """
    )
    for kind in ("job_to_defer_v1", "job_status", "job_event_type"):
        op.execute(f"DROP TYPE procrastinate_{kind} CASCADE")
