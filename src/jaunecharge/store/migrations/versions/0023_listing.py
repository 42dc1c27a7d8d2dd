"""Figures that lists sort and filter by, in a narrow table beside the runs that are in the list.

A trigger keeps it: whatever writes a run, its line goes with it. What cannot be read of a run is NULL in its line, and
spoils neither the run nor the list.
"""

import sqlalchemy as sa
from alembic import op

revision = "0023"
down_revision = "0022"
branch_labels = None
depends_on = None

FUNCTIONS = r"""
CREATE FUNCTION listed_number(document jsonb, VARIADIC path text[]) RETURNS float8 LANGUAGE sql IMMUTABLE AS $$
    SELECT CASE WHEN jsonb_typeof(document #> path) = 'number' THEN (document #>> path)::float8 END
$$;

CREATE FUNCTION listed_most(steps jsonb) RETURNS float8 LANGUAGE sql IMMUTABLE AS $$
    SELECT CASE WHEN jsonb_typeof(steps) = 'array' THEN (
        SELECT max((step #>> '{}')::float8) FROM jsonb_array_elements(steps) AS step WHERE jsonb_typeof(step) = 'number'
    ) END
$$;

CREATE FUNCTION listed_texts(document jsonb) RETURNS text LANGUAGE sql IMMUTABLE AS $$
    SELECT CASE WHEN jsonb_typeof(document) = 'object' THEN (
        SELECT string_agg(value #>> '{}', ' ' ORDER BY key) FROM jsonb_each(document)
    ) END
$$;

CREATE FUNCTION list_run() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
    line listing;
    f jsonb := NEW.factors;
    s jsonb := NEW.summary;
BEGIN
    DELETE FROM listing WHERE run_id = NEW.id;
    IF NEW.deleted_at IS NOT NULL THEN
        RETURN NULL;
    END IF;
    line.run_id := NEW.id;
    line.at := coalesce(NEW.started_at, NEW.created_at);
    line.created_at := NEW.created_at;
    line.started_at := NEW.started_at;
    line.label := NEW.label;
    line.phone := coalesce(f ->> 'phone', '');
    line.charger := coalesce(f ->> 'charger', '');
    line.name := lower(concat_ws(' ', coalesce(nullif(f ->> 'phone', ''), NEW.label), nullif(f ->> 'charger', ''),
        nullif(f ->> 'adapter', ''), nullif(f ->> 'cable', ''), NEW.label));
    line.simulated := coalesce(NEW.conditions ->> 'simulated', '') = 'true';
    line.spot := coalesce(NEW.card ->> 'end', '') = 'spot check';
    line.void := NEW.outcome = 'void';
    line.factors_key := md5(f::text);
    line.conditions := jsonb_build_array(f ->> 'airflow', f ->> 'case', f ->> 'phone_state', f ->> 'start',
        f ->> 'adapter', NEW.kit #>> '{charger,kind}')::text;
    line.meter_mark := coalesce(NEW.recording ->> 'meter', '');
    line.levels_mark := coalesce(NEW.recording ->> 'levels', '');
    line.reads := lower(replace(coalesce(s ->> 'headline', ''), '*', ''));
    line.minutes := listed_number(s, 'ribbon', 'minutes');
    line.peak_w := listed_most(s #> '{ribbon,watts}');
    line.to_80 := listed_number(s, 'to_80', 'estimate');
    line.hottest_c := listed_number(s, 'hottest_c');
    line.heat := coalesce(jsonb_typeof(s -> 'throttle') = 'object', false);
    line.rise_k := listed_number(s, 'throttle', 'rise_k');
    line.first_min := listed_number(s, 'throttle', 'first_min');
    line.throttled_min := listed_number(s, 'throttle', 'minutes');
    line.lost_min := listed_number(s, 'throttle', 'cost_min', 'value');
    line.room_c := coalesce(listed_number(s, 'throttle', 'ambient_c'), listed_number(NEW.conditions, 'ambient_c'));
    line.from_percent := listed_number(s, 'course', 'checkins', '0', '1');
    line.to_percent := (SELECT max(listed_number(c, '1')) FROM jsonb_array_elements(
        CASE WHEN jsonb_typeof(s #> '{course,checkins}') = 'array' THEN s #> '{course,checkins}' ELSE '[]' END) AS c);
    line.words := lower(concat_ws(' ', NEW.label, listed_texts(f), replace(s ->> 'headline', '*', ''),
        CASE WHEN f ->> 'case' = 'none' THEN 'no case' END, round(line.room_c::numeric)::text || ' °C'));
    line.line_no := nextval('listing_lines');
    INSERT INTO listing SELECT line.*;
    RETURN NULL;
END
$$;

CREATE TRIGGER list_run AFTER INSERT OR UPDATE ON runs FOR EACH ROW EXECUTE FUNCTION list_run();
"""

TABLE = """
CREATE TABLE listing (
    run_id uuid PRIMARY KEY, at timestamptz NOT NULL, created_at timestamptz NOT NULL, started_at timestamptz,
    label text NOT NULL, phone text NOT NULL, charger text NOT NULL, name text NOT NULL,
    simulated boolean NOT NULL, spot boolean NOT NULL, void boolean NOT NULL, heat boolean NOT NULL,
    factors_key text NOT NULL, conditions text NOT NULL, meter_mark text NOT NULL, levels_mark text NOT NULL,
    reads text NOT NULL, minutes float8, peak_w float8, to_80 float8, hottest_c float8, rise_k float8, first_min float8,
    throttled_min float8, lost_min float8, room_c float8, from_percent float8, to_percent float8, words text NOT NULL,
    line_no bigint NOT NULL
)
"""

SORTED = (
    "at", "name", "minutes", "to_80", "hottest_c", "reads", "rise_k", "first_min", "throttled_min", "lost_min",
    "conditions",
)  # fmt: skip
"""Columns that a list is sorted by; an index serves both directions, the measured and the simulated by a part of it."""


def upgrade() -> None:
    op.execute("CREATE SEQUENCE listing_lines")
    op.execute(TABLE)
    op.execute("CREATE TABLE phone_columns (phone text PRIMARY KEY, state text NOT NULL, document jsonb NOT NULL)")
    driver = op.get_bind().connection.driver_connection
    assert driver is not None
    driver.execute(FUNCTIONS)
    # Every run goes through the trigger once; nothing of it changes.
    op.execute("UPDATE runs SET id = id WHERE deleted_at IS NULL")
    for column in SORTED:
        op.create_index(f"ix_listing_{column}", "listing", ["simulated", column, "run_id"])
    op.create_index("ix_listing_phone", "listing", [sa.text("lower(phone)"), "created_at", "run_id"])
    op.create_index("ix_listing_began", "listing", [sa.text("lower(phone)"), "started_at", "run_id"])
    op.create_index("ix_listing_charger", "listing", [sa.text("lower(charger)"), "created_at", "run_id"])
    op.create_index("ix_listing_factors_key", "listing", ["factors_key"])
    op.create_index("ix_listing_meter_mark", "listing", ["meter_mark"], postgresql_where="meter_mark <> ''")
    op.create_index("ix_listing_levels_mark", "listing", ["levels_mark"], postgresql_where="levels_mark <> ''")
    # A database whose owner may not have the extension is searched row by row.
    op.execute(
        """
        DO $$ BEGIN
            CREATE EXTENSION IF NOT EXISTS pg_trgm WITH SCHEMA public;
            CREATE INDEX ix_listing_words ON listing USING gin (words gin_trgm_ops);
        EXCEPTION WHEN insufficient_privilege OR undefined_file OR feature_not_supported THEN
            RAISE NOTICE 'no pg_trgm: lists are searched without an index';
        END $$
        """
    )


def downgrade() -> None:
    op.execute("DROP TRIGGER list_run ON runs")
    op.execute("DROP FUNCTION list_run()")
    op.execute("DROP TABLE listing")
    op.execute("DROP TABLE phone_columns")
    op.execute("DROP SEQUENCE listing_lines")
    for function in ("listed_texts(jsonb)", "listed_most(jsonb)", "listed_number(jsonb, text[])"):
        op.execute(f"DROP FUNCTION {function}")
    op.execute("DROP EXTENSION IF EXISTS pg_trgm")
