"""The Parquet data set for analysts: what DuckDB reads from it is what is stored."""

import datetime as dt
import json
import re
import uuid
from pathlib import Path

import duckdb
import numpy as np
from sqlalchemy import text

from jaunecharge.core.log import power_trace
from jaunecharge.core.reading import RunLog
from jaunecharge.documents.case import Case
from jaunecharge.formats.write.runs_table import COLUMNS
from jaunecharge.store.errors import NotThere
from jaunecharge.store.packages import dataset
from jaunecharge.store.packages.dataset import Selection, export_dataset
from jaunecharge.store.runs.logs import load_log
from jaunecharge.store.runs.runs import NewRun, add_run, get_run, list_runs
from tests.cases import FolderTest
from tests.serving import fresh_database

EXAMPLE = re.search(r"```sql\n(.*?);\n```", Path("docs/scale.md").read_text(), re.DOTALL)


class DataSet(FolderTest):
    def setUp(self):
        super().setUp()
        self.database = self.enterContext(fresh_database(with_demo=True))
        self.engine = duckdb.connect()
        self.addCleanup(self.engine.close)

    def export(self, name="data", **wanted):
        return export_dataset(self.database, self.folder / name, Selection(**wanted))

    def rows(self, query, name="data"):
        return self.engine.sql(query.replace("data/", f"{self.folder / name}/")).fetchall()

    def test_every_sample_is_there_to_the_last_bit_and_the_minute_counts_from_placing(self):
        written = self.export()
        with self.database.session() as session:
            runs = list_runs(session)
            self.assertEqual(written.runs, len(runs))
            for run in runs:
                log = load_log(session, run)
                query = "SELECT t_s, watts, volts, amps, minute FROM read_parquet('data/samples/*/*.parquet')"
                found = self.rows(f"{query} WHERE run_id = '{run.id}'")
                if not log.trace.metered:
                    self.assertEqual(found, [])
                    continue
                columns = [log.trace.time_s, log.trace.power_w, log.trace.volts, log.trace.amps]
                for n, column in enumerate(columns):
                    expected = [None] * len(found) if column is None else column.tolist()
                    self.assertEqual([row[n] for row in found], expected)
                minutes = ((log.trace.time_s - run.placed_s) / 60.0).tolist()
                self.assertEqual([row[4] for row in found], minutes)

    def test_minutes_of_a_run_that_a_version_before_stored_count_from_its_placing_too(self):
        """It has no placing beside it, and each of its series begins at another moment."""
        query = "SELECT run_id, t_s, minute FROM read_parquet('data/{}/*/*.parquet') ORDER BY ALL"
        self.export("kept")
        with self.database.session() as session:
            session.execute(text("UPDATE runs SET placed_s = NULL"))
        self.export("before")
        for table in ("samples", "checkins", "temperatures"):
            self.assertEqual(self.rows(query.format(table), "before"), self.rows(query.format(table), "kept"))

    def test_readings_and_the_smaller_series_are_those_that_are_stored(self):
        self.export()
        found = {
            row[0]: row[1:]
            for row in self.rows(
                "SELECT run_id, label, phone, to_80_min, hottest_c FROM read_parquet('data/runs/*/*.parquet')"
            )
        }
        levels = dict(
            self.rows(
                "SELECT run_id, list(percent ORDER BY t_s) FROM read_parquet('data/checkins/*/*.parquet') GROUP BY 1"
            )
        )
        places = dict(
            self.rows("SELECT run_id, max(celsius) FROM read_parquet('data/temperatures/*/*.parquet') GROUP BY 1")
        )
        with self.database.session() as session:
            runs = list_runs(session)
            self.assertEqual(set(found), {str(r.id) for r in runs})
            for run in runs:
                eighty = None if run.summary.to_80 is None else run.summary.to_80.estimate
                self.assertEqual(found[str(run.id)], (run.label, run.factors["phone"], eighty, run.summary.hottest_c))
                log = load_log(session, run)
                self.assertEqual(
                    levels.get(str(run.id), []), [] if log.readings is None else log.readings.percent.tolist()
                )
                hottest = max((s.celsius.max() for s in log.heat.surfaces), default=None) if log.heat else None
                self.assertEqual(places.get(str(run.id)), hottest)

    def test_columns_are_described_and_the_months_are_those_of_the_runs(self):
        self.export()
        described = json.loads((self.folder / "data" / "_columns.json").read_text())
        for table in (p.name for p in (self.folder / "data").iterdir() if p.is_dir()):
            query = f"SELECT * FROM read_parquet('data/{table}/*/*.parquet', hive_partitioning = true) LIMIT 1"
            columns = self.engine.sql(query.replace("data/", f"{self.folder / 'data'}/")).columns
            self.assertEqual([c for c in columns if c != "month"], list(described["tables"][table]), table)
        self.assertEqual(len(described["tables"]["runs"]), len(COLUMNS))
        months = self.rows("SELECT DISTINCT month FROM read_parquet('data/runs/*/*.parquet', hive_partitioning = true)")
        with self.database.session() as session:
            began = {f"{(r.started_at or r.created_at).astimezone(dt.UTC):%Y-%m}" for r in list_runs(session)}
        self.assertEqual({m for (m,) in months}, began)

    def test_a_selection_holds_what_was_selected(self):
        with self.database.session() as session:
            runs = list_runs(session)
            by = {r.id: (r.factors["phone"], r.factors["charger"], r.started_at or r.created_at) for r in runs}
        some = list(by)[3:6]
        middle = sorted(b[2] for b in by.values())[len(by) // 2]
        for name, wanted, expected in (
            ("some", {"runs": tuple(some)}, set(some)),
            ("phone", {"phone": "ostrel max"}, {i for i, b in by.items() if b[0] == "Ostrel Max"}),
            ("both", {"phone": "Ostrel Max", "charger": "Cairn disc 15"},
             {i for i, b in by.items() if b[:2] == ("Ostrel Max", "Cairn disc 15")}),
            ("since", {"since": middle}, {i for i, b in by.items() if b[2] >= middle}),
            ("until", {"until": middle}, {i for i, b in by.items() if b[2] < middle}),
        ):  # fmt: skip
            with self.subTest(name):
                self.assertTrue(expected)
                self.assertEqual(self.export(name, **wanted).runs, len(expected))
                found = self.rows("SELECT run_id FROM read_parquet('data/runs/*/*.parquet')", name)
                self.assertEqual({uuid.UUID(i) for (i,) in found}, expected)

    def test_nothing_is_left_of_one_that_failed_and_nothing_overwritten(self):
        with self.assertRaises(NotThere):
            self.export("gone", finding=uuid.uuid4())
        self.assertEqual(list(self.folder.iterdir()), [])
        self.export("none", phone="nobody's")
        self.assertEqual([p.name for p in (self.folder / "none").iterdir()], ["_columns.json"])
        with self.assertRaises(FileExistsError):
            self.export("none")

    def test_files_are_cut_where_they_are_full_and_closed(self):
        was = dataset.ROWS_A_FILE
        self.addCleanup(setattr, dataset, "ROWS_A_FILE", was)
        whole = self.export("whole").rows["samples"]
        dataset.ROWS_A_FILE = 40_000
        self.export("cut")
        self.assertGreater(len(list((self.folder / "cut" / "samples").rglob("part-*.parquet"))), 3)
        self.assertEqual(self.rows("SELECT count(*) FROM read_parquet('data/samples/*/*.parquet')", "cut"), [(whole,)])


class Millions(FolderTest):
    """The example of docs/scale.md on ten million samples."""

    CHARGERS = ("Cairn disc 15", "Talus plate")

    def test_the_example_gives_what_numpy_gives(self):
        database = self.enterContext(fresh_database())
        rng = np.random.default_rng(2)
        time_s = np.arange(1_000_000.0)
        expected = []
        for n, charger in enumerate(self.CHARGERS):
            watts = np.round(np.where(time_s < 60, 0.4, 12.0 + 2 * n) + rng.normal(0, 0.05, len(time_s)), 3)
            with database.session() as session:
                log, factors = RunLog(power_trace(time_s, watts)), {"phone": "Ostrel Max", "charger": charger}
                run = add_run(session, NewRun(charger, log, Case(placed_s=60.0), factors))
                self.assertEqual(run.placed_s, 60.0)
                copies = session.scalar(
                    text(
                        "WITH copied AS (INSERT INTO runs SELECT (r).* FROM (SELECT jsonb_populate_record(runs,"
                        " jsonb_build_object('id', gen_random_uuid())) AS r FROM runs, generate_series(2, 5)"
                        " WHERE id = :id) AS made RETURNING id), logs AS (INSERT INTO series SELECT copied.id, name, n,"
                        " rows, first_s, last_s, bytes FROM series, copied WHERE run_id = :id RETURNING 1)"
                        " SELECT count(*) FROM copied"
                    ),
                    {"id": run.id},
                )
                self.assertEqual(copies, 4)
            inside = (time_s >= 60 + 600) & (time_s <= 60 + 1200)
            expected.append((charger, 5, 5 * int(inside.sum()), round(float(watts[inside].mean()), 3)))
        written = export_dataset(database, self.folder / "data")
        self.assertEqual((written.runs, written.rows["samples"]), (10, 10_000_000))
        with duckdb.connect() as engine:
            found = engine.sql(EXAMPLE.group(1).replace("data/", f"{self.folder / 'data'}/")).fetchall()
        self.assertEqual(found, sorted(expected, key=lambda row: -row[3]))
        with database.session() as session:
            self.assertEqual(get_run(session, list_runs(session)[0].id).samples, 1_000_000)
