"""runs samples files notes and pictures"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "files",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("sha256", sa.Text(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("size", sa.BigInteger(), nullable=False),
        sa.Column("media_type", sa.Text(), nullable=False),
        sa.Column(
            "received_at", sa.DateTime(timezone=True), server_default=sa.text("clock_timestamp()"), nullable=False
        ),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("sha256"),
    )
    op.create_table(
        "models",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("label", sa.Text(), nullable=False),
        sa.Column("facts", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column(
            "created_at", sa.DateTime(timezone=True), server_default=sa.text("clock_timestamp()"), nullable=False
        ),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("kind", "label"),
    )
    op.create_table(
        "power_samples",
        sa.Column("run_id", sa.UUID(), nullable=False),
        sa.Column("t_s", sa.Float(), nullable=False),
        sa.Column("watts", sa.Float(), nullable=False),
        sa.Column("volts", sa.Float(), nullable=True),
        sa.Column("amps", sa.Float(), nullable=True),
        sa.PrimaryKeyConstraint("run_id", "t_s"),
    )
    op.create_table(
        "devices",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("model_id", sa.UUID(), nullable=False),
        sa.Column("serial", sa.Text(), nullable=True),
        sa.Column("battery_health", sa.Float(), nullable=True),
        sa.Column(
            "created_at", sa.DateTime(timezone=True), server_default=sa.text("clock_timestamp()"), nullable=False
        ),
        sa.Column("retired_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(
            ["model_id"],
            ["models.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index(op.f("ix_devices_model_id"), "devices", ["model_id"], unique=False)
    op.create_table(
        "file_chunks",
        sa.Column("file_id", sa.UUID(), nullable=False),
        sa.Column("n", sa.Integer(), nullable=False),
        sa.Column("bytes", sa.LargeBinary(), nullable=False),
        sa.ForeignKeyConstraint(["file_id"], ["files.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("file_id", "n"),
    )
    op.create_table(
        "runs",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("label", sa.Text(), nullable=False),
        sa.Column("device_id", sa.UUID(), nullable=True),
        sa.Column("factors", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("conditions", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("origin", sa.Text(), nullable=False),
        sa.Column("started_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("zone", sa.Text(), nullable=False),
        sa.Column("cleaned", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("remarks", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("samples", sa.BigInteger(), nullable=False),
        sa.Column("summary", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("reader_version", sa.Integer(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("created_by", sa.Text(), nullable=False),
        sa.Column(
            "created_at", sa.DateTime(timezone=True), server_default=sa.text("clock_timestamp()"), nullable=False
        ),
        sa.Column("updated_at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False),
        sa.Column("deleted_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(
            ["device_id"],
            ["devices.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_table(
        "ambients",
        sa.Column("run_id", sa.UUID(), nullable=False),
        sa.Column("t_s", sa.Float(), nullable=False),
        sa.Column("celsius", sa.Float(), nullable=False),
        sa.ForeignKeyConstraint(["run_id"], ["runs.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("run_id", "t_s"),
    )
    op.create_table(
        "checkins",
        sa.Column("run_id", sa.UUID(), nullable=False),
        sa.Column("t_s", sa.Float(), nullable=False),
        sa.Column("percent", sa.Float(), nullable=False),
        sa.ForeignKeyConstraint(["run_id"], ["runs.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("run_id", "t_s"),
    )
    op.create_table(
        "corrections",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("run_id", sa.UUID(), nullable=False),
        sa.Column("what", sa.Text(), nullable=False),
        sa.Column("first", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("now", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("by", sa.Text(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.text("clock_timestamp()"), nullable=False),
        sa.ForeignKeyConstraint(["run_id"], ["runs.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_corrections_run_id_at", "corrections", ["run_id", "at"], unique=False)
    op.create_table(
        "notes",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("run_id", sa.UUID(), nullable=False),
        sa.Column("t_s", sa.Float(), nullable=True),
        sa.Column("text", sa.Text(), nullable=False),
        sa.Column("created_by", sa.Text(), nullable=False),
        sa.Column(
            "created_at", sa.DateTime(timezone=True), server_default=sa.text("clock_timestamp()"), nullable=False
        ),
        sa.Column("deleted_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(["run_id"], ["runs.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index(op.f("ix_notes_run_id"), "notes", ["run_id"], unique=False)
    op.create_table(
        "photos",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("run_id", sa.UUID(), nullable=False),
        sa.Column("file_id", sa.UUID(), nullable=False),
        sa.Column("t_s", sa.Float(), nullable=True),
        sa.Column("caption", sa.Text(), nullable=False),
        sa.Column("created_by", sa.Text(), nullable=False),
        sa.Column(
            "created_at", sa.DateTime(timezone=True), server_default=sa.text("clock_timestamp()"), nullable=False
        ),
        sa.Column("deleted_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(
            ["file_id"],
            ["files.id"],
        ),
        sa.ForeignKeyConstraint(["run_id"], ["runs.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index(op.f("ix_photos_run_id"), "photos", ["run_id"], unique=False)
    op.create_table(
        "run_files",
        sa.Column("run_id", sa.UUID(), nullable=False),
        sa.Column("role", sa.Text(), nullable=False),
        sa.Column("file_id", sa.UUID(), nullable=False),
        sa.Column("reader", sa.Text(), nullable=False),
        sa.Column("understood", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.ForeignKeyConstraint(
            ["file_id"],
            ["files.id"],
        ),
        sa.ForeignKeyConstraint(["run_id"], ["runs.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("run_id", "role"),
    )
    op.create_index(op.f("ix_run_files_file_id"), "run_files", ["file_id"], unique=False)
    op.create_table(
        "temperatures",
        sa.Column("run_id", sa.UUID(), nullable=False),
        sa.Column("position", sa.Text(), nullable=False),
        sa.Column("t_s", sa.Float(), nullable=False),
        sa.Column("celsius", sa.Float(), nullable=False),
        sa.ForeignKeyConstraint(["run_id"], ["runs.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("run_id", "position", "t_s"),
    )
    # Logs come in compressed enough, and are read back whole: do not spend time on squeezing them.
    op.execute("ALTER TABLE file_chunks ALTER COLUMN bytes SET STORAGE EXTERNAL")


def downgrade() -> None:
    op.drop_table("temperatures")
    op.drop_index(op.f("ix_run_files_file_id"), table_name="run_files")
    op.drop_table("run_files")
    op.drop_index(op.f("ix_photos_run_id"), table_name="photos")
    op.drop_table("photos")
    op.drop_index(op.f("ix_notes_run_id"), table_name="notes")
    op.drop_table("notes")
    op.drop_index("ix_corrections_run_id_at", table_name="corrections")
    op.drop_table("corrections")
    op.drop_table("checkins")
    op.drop_table("ambients")
    op.drop_table("runs")
    op.drop_table("file_chunks")
    op.drop_index(op.f("ix_devices_model_id"), table_name="devices")
    op.drop_table("devices")
    op.drop_table("power_samples")
    op.drop_table("models")
    op.drop_table("files")
