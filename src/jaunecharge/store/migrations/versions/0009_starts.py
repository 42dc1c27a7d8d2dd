"""A row for every start of a source of readings, where there was one for the latest start."""

from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.drop_constraint("lane_sources_pkey", "lane_sources")
    op.create_primary_key("lane_sources_pkey", "lane_sources", ["lane_id", "name", "epoch"])


def downgrade() -> None:
    op.execute(
        "DELETE FROM lane_sources s USING lane_sources t"
        " WHERE s.lane_id = t.lane_id AND s.name = t.name AND s.epoch < t.epoch"
    )
    op.drop_constraint("lane_sources_pkey", "lane_sources")
    op.create_primary_key("lane_sources_pkey", "lane_sources", ["lane_id", "name"])
