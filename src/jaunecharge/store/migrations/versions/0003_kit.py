"""The shelf: kit in place of loose facts of phones; runs keep the kit they used and what a rehearsal was made from."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None

JSON = postgresql.JSONB(astext_type=sa.Text())
NOW = sa.text("clock_timestamp()")


def upgrade() -> None:
    op.create_table(
        "kit",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("label", sa.Text(), nullable=False),
        sa.Column("facts", JSON, nullable=False),
        sa.Column("fit", JSON, nullable=True),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("created_by", sa.Text(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=NOW, nullable=False),
        sa.Column("retired_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("retired_by", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_kit_kind", "kit", ["kind"])
    op.create_index("uq_kit_label", "kit", [sa.text("lower(label)")], unique=True)
    op.add_column("runs", sa.Column("kit", JSON, nullable=False, server_default="{}"))
    op.add_column("runs", sa.Column("rehearsal", JSON, nullable=True))
    # Battery and health of phones stand in the conditions of their runs, in full: nothing is lost with these tables.
    op.drop_constraint("runs_device_id_fkey", "runs", type_="foreignkey")
    op.drop_column("runs", "device_id")
    op.drop_table("devices")
    op.drop_table("models")


def downgrade() -> None:
    op.create_table(
        "models",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("label", sa.Text(), nullable=False),
        sa.Column("facts", JSON, nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=NOW, nullable=False),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("kind", "label"),
    )
    op.create_table(
        "devices",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("model_id", sa.UUID(), nullable=False),
        sa.Column("serial", sa.Text(), nullable=True),
        sa.Column("battery_health", sa.Float(), nullable=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=NOW, nullable=False),
        sa.Column("retired_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(["model_id"], ["models.id"]),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_devices_model_id", "devices", ["model_id"])
    op.add_column("runs", sa.Column("device_id", sa.UUID(), nullable=True))
    op.create_foreign_key("runs_device_id_fkey", "runs", "devices", ["device_id"], ["id"])
    op.drop_column("runs", "rehearsal")
    op.drop_column("runs", "kit")
    op.drop_table("kit")
