"""A line that is taken from the list counts as a change of it, as one that is written does."""

from alembic import op

revision = "0024"
down_revision = "0023"
branch_labels = None
depends_on = None


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


def downgrade() -> None:
    op.execute("DROP TRIGGER count_line ON listing; DROP FUNCTION count_line()")
