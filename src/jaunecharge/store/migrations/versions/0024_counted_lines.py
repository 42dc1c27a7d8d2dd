"""A line that is taken from the list counts as a change of it, as one that is written does; indexes in which lists,
their usual conditions and what is compared are counted without looking at the lines."""

from alembic import op

revision = "0024"
down_revision = "0023"
branch_labels = None
depends_on = None


MEASURED = "spot IS FALSE AND void IS FALSE AND simulated IS FALSE"
TABLED = f"{MEASURED} AND phone <> '' AND charger <> ''"
INDEXES = {
    "ix_listing_counted": (["void", "simulated", "conditions"], "spot IS FALSE"),
    "ix_listing_rooms": (["void", "room_c"], "spot IS FALSE"),
    "ix_listing_measured": (["phone", "charger", "line_no"], MEASURED),
    "ix_listing_tabled": (["conditions"], TABLED),
    "ix_listing_tabled_rooms": (["room_c"], TABLED),
}


def upgrade() -> None:
    op.execute(
        """
        CREATE FUNCTION count_line() RETURNS trigger LANGUAGE plpgsql AS $$
        BEGIN
            PERFORM nextval('listing_lines');
            RETURN NULL;
        END
        $$;
        CREATE TRIGGER count_line AFTER DELETE ON listing FOR EACH STATEMENT EXECUTE FUNCTION count_line();
        """
    )
    for name, (columns, where) in INDEXES.items():
        op.create_index(name, "listing", columns, postgresql_where=where)


def downgrade() -> None:
    for name in INDEXES:
        op.drop_index(name, "listing")
    op.execute("DROP TRIGGER count_line ON listing; DROP FUNCTION count_line()")
