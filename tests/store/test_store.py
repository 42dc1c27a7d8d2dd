"""The store on the real PostgreSQL: migrations, bulk rows, backup over a schema change, the cluster itself."""

import datetime as dt
import hashlib
import json
import re
import shutil
import subprocess
import tempfile
import unittest
import uuid
import zipfile
from pathlib import Path

import numpy as np
import psycopg
from alembic import command
from alembic.autogenerate import compare_metadata
from alembic.config import Config
from alembic.migration import MigrationContext
from sqlalchemy import delete, func, select, text

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.core.plan import ready
from jaunecharge.core.reading.read_run import READER_VERSION, RunLog
from jaunecharge.demo import hut
from jaunecharge.demo.plan import LENDING, QUESTION
from jaunecharge.documents.case import Case
from jaunecharge.postgres import Cluster
from jaunecharge.store import models as m
from jaunecharge.store import people
from jaunecharge.store.backup import backup, restore, unused
from jaunecharge.store.bench.lanes import NewLane, open_lane
from jaunecharge.store.database import MIGRATIONS, Database
from jaunecharge.store.kit import add_piece, shelf
from jaunecharge.store.plan.plans import slots_of
from jaunecharge.store.runs import runs as store
from jaunecharge.store.runs.files import file_bytes, keep_file
from jaunecharge.store.runs.logs import load_log
from jaunecharge.store.runs.readings import reading_of, stale
from jaunecharge.store.sign_ins import sign_in, signed_in
from tests.cases import FolderTest, checkins, steps
from tests.serving import PASSPHRASE, cluster, fresh_database
from tests.working import read_waiting

NOW = dt.datetime(2026, 11, 1, 8, tzinfo=dt.UTC)


def new_run(label="a run", **more):
    log = RunLog(steps((60, 0.5), (3600, 12.0)), checkins((1, 10), (30, 50), (60, 85)))
    return store.NewRun(label, log, Case(capacity_mah=4400, nominal_v=3.87), **more)


class StoreTest(FolderTest):
    def setUp(self):
        super().setUp()
        self.database = self.enterContext(fresh_database())

    def add(self, **more):
        with self.database.session() as session:
            return store.add_run(session, new_run(**more)).id


class Schema(StoreTest):
    def test_the_migrations_make_just_what_the_models_say(self):
        with self.database.engine.connect() as connection:
            others = re.compile(r"series_\d+|procrastinate_.*")
            opts = {"include_name": lambda name, kind, _: kind != "table" or not others.fullmatch(name)}
            differences = compare_metadata(MigrationContext.configure(connection, opts=opts), m.Base.metadata)
        self.assertEqual(differences, [])

    def test_every_migration_can_be_taken_back(self):
        config = Config()
        config.set_main_option("script_location", str(MIGRATIONS))
        with self.database.engine.begin() as connection:
            config.attributes["connection"] = connection
            command.downgrade(config, "base")
        self.database.migrate()
        self.assertTrue(self.database.answers())


class Runs(StoreTest):
    def test_a_stored_run_reads_as_it_did(self):
        run_id = self.add()
        with self.database.session() as session:
            run = store.get_run(session, run_id)
            again = reading_of(session, run, load_log(session, run))
        self.assertEqual(again.placed_s, 60)
        self.assertAlmostEqual(again.energy_in.metered.value, run.summary.energy_in_wh, places=3)

    def test_a_refused_run_leaves_nothing(self):
        with self.assertRaises(CannotRead):
            self.add(factors={"phone": "Tarn 9", "charger": "=1"})
        with self.database.session() as session:
            self.assertIsNone(session.scalar(select(m.Run)))
            self.assertIsNone(session.scalar(select(m.Kit)))

    def test_runs_that_an_older_reader_read_are_read_anew(self):
        run_id = self.add()
        with self.database.session() as session:
            run = store.get_run(session, run_id)
            run.reader_version, run.summary_json = 0, {}
        with self.database.session() as session:
            self.assertEqual(stale(session), 1)
        self.assertEqual(read_waiting(self.database), 1)
        self.assertEqual(read_waiting(self.database), 0)
        with self.database.session() as session:
            run = store.get_run(session, run_id)
            self.assertEqual(run.reader_version, READER_VERSION)
            self.assertEqual(len(run.summary.ribbon.watts), 300)

    def test_phones_are_known_from_the_shelf_and_from_runs(self):
        with self.database.session() as session:
            add_piece(session, kit_from_line("phone Ostrel 3350mAh mpp"), "")
        self.add(factors={"phone": "Tarn 9"})
        self.add(factors={"phone": "ostrel"})
        with self.database.session() as session:
            found = {p.label: p.capacity_mah for p in store.known_phones(session)}
        self.assertEqual(found, {"Ostrel": 3350, "Tarn 9": new_run().case.capacity_mah})

    def test_a_file_is_kept_once_byte_for_byte(self):
        content = np.random.default_rng(6).bytes(2_500_000)
        path = self.file("m.csv", content)
        with self.database.session() as session:
            first, second = keep_file(session, path, "m.csv"), keep_file(session, path, "again.csv")
            self.assertEqual(first.id, second.id)
            self.assertEqual(b"".join(file_bytes(session, first.id)), content)

    def test_a_file_of_text_takes_a_fraction_of_its_size_and_one_of_before_is_read(self):
        content = b"".join(b"%d,%.4f,1.5\n" % (n, 9 + n % 7 / 1000) for n in range(120_000))
        with self.database.session() as session:
            file = keep_file(session, self.file("m.csv", content), "m.csv")
            self.assertEqual(b"".join(file_bytes(session, file.id)), content)
            sizes = session.execute(select(func.sum(m.FileChunk.size), func.sum(func.length(m.FileChunk.bytes)))).one()
            self.assertEqual(sizes[0], len(content))
            self.assertLess(sizes[1], len(content) / 5)
            before = m.File(sha256="0" * 64, name="old.csv", size=11)
            session.add(before)
            session.flush()
            session.add_all([m.FileChunk(file_id=before.id, n=n, bytes=b) for n, b in enumerate((b"time_s,", b"volt"))])
            session.flush()
            self.assertEqual(b"".join(file_bytes(session, before.id)), b"time_s,volt")


class Backup(StoreTest):
    def test_what_was_backed_up_comes_back_with_its_ids(self):
        run_id = self.add(label="kept")
        backup(self.database, self.folder / "all.backup")
        self.add(label="made later")
        restore(self.database, self.folder / "all.backup")
        with self.database.session() as session:
            found = store.list_runs(session)
            self.assertEqual([(r.id, r.label) for r in found], [(run_id, "kept")])
            self.assertEqual(len(load_log(session, found[0]).trace.time_s), 3660)

    def test_a_backup_of_an_older_schema_is_brought_up_to_date(self):
        """The first schema did not know who deleted a run; its data come through every later migration."""
        self.assertGreater(head(), "0001")
        with fresh_database("0001") as old:
            run_id, model_id, device_id = uuid.uuid4(), uuid.uuid4(), uuid.uuid4()
            with old.engine.begin() as connection:
                connection.execute(text("INSERT INTO models VALUES (:m, 'phone', 'Tarn 9', '{}')"), {"m": model_id})
                connection.execute(
                    text("INSERT INTO devices VALUES (:d, :m, NULL, 0.9)"), {"d": device_id, "m": model_id}
                )
                connection.execute(
                    text(
                        "INSERT INTO runs (id, label, factors, conditions, origin, zone, cleaned, remarks, samples,"
                        " summary, reader_version, revision, created_by, device_id) VALUES (:id, 'old',"
                        ' \'{"phone": "Tarn 9"}\', :conditions,'
                        " 'imported', 'UTC', '{}', '[]', 3, '{}', 0, 1, 'Anna', :device)"
                    ),
                    {
                        "id": run_id,
                        "device": device_id,
                        "conditions": json.dumps({"capacity_mah": 4400.0, "nominal_v": 3.87}),
                    },
                )
                connection.execute(
                    text(
                        "INSERT INTO power_samples VALUES (:id, 0, 1, 9, 0.1), (:id, 1, 1, 9, 0.1), (:id, 2, 1, 9, 0.1)"
                    ),
                    {"id": run_id},
                )
            backup(old, self.folder / "old.backup")
        restore(self.database, self.folder / "old.backup")
        with self.database.session() as session:
            self.assertEqual(session.scalar(text("SELECT version_num FROM alembic_version")), head())
            self.assertEqual(read_waiting(self.database), 1)
            run = store.get_run(session, run_id)
            session.refresh(run)
            self.assertEqual((run.label, run.created_by), ("old", "Anna"))
            self.assertAlmostEqual(run.summary.energy_in_wh, 2 / 3600, places=3)
            self.assertEqual((run.kit, run.rehearsal), ({}, None))
            phone = store.known_phones(session)[0]
            self.assertEqual((phone.label, phone.capacity_mah), ("Tarn 9", 4400.0))

    def test_what_is_no_backup_is_refused_and_changes_nothing(self):
        self.add()
        with self.assertRaisesRegex(CannotRead, "not a backup"):
            restore(self.database, self.file("no.backup", "hello"))
        backup(self.database, self.folder / "cut.backup")
        cut = self.file("cut.backup", (self.folder / "cut.backup").read_bytes()[:-3000])
        with self.assertRaisesRegex(CannotRead, "not a backup"):
            restore(self.database, cut)
        self.assertEqual(self.runs(), 1)

    def runs(self):
        with self.database.session() as session:
            return len(store.list_runs(session))

    def altered(self, change):
        """A backup whose files were altered by somebody."""
        backup(self.database, self.folder / "good.backup")
        with zipfile.ZipFile(self.folder / "good.backup") as archive:
            parts = {n: archive.read(n) for n in archive.namelist()}
        manifest = json.loads(parts["manifest.json"])
        change(parts, manifest)
        parts["manifest.json"] = json.dumps(manifest).encode()
        with zipfile.ZipFile(self.folder / "altered.backup", "w") as archive:
            for name, content in parts.items():
                archive.writestr(name, content)
        return self.folder / "altered.backup"

    def signed(self, parts, manifest, table, content):
        """Put content in the place of a table's, with the hash that belongs to it."""
        parts[f"tables/{table}.csv"] = content
        manifest["tables"][table]["sha256"] = hashlib.sha256(content).hexdigest()

    def test_a_strangers_file_is_rows_of_the_schema_or_refused(self):
        self.add()

        def damaged(parts, manifest):
            parts["tables/runs.csv"] = parts["tables/runs.csv"].replace(b"kept", b"Kept").replace(b"0", b"1", 1)

        def fewer(parts, manifest):
            manifest["tables"]["runs"]["rows"] += 1

        def more(parts, manifest):
            parts["tables/evil.csv"] = b"x"

        def code(parts, manifest):
            parts["restore.sql"] = b"COPY runs TO PROGRAM 'id'"

        def named(parts, manifest):
            table = 'runs"; DROP TABLE runs; --'
            manifest["tables"][table] = manifest["tables"].pop("runs")
            parts[f"tables/{table}.csv"] = parts.pop("tables/runs.csv")

        def columns(parts, manifest):
            manifest["tables"]["runs"]["columns"][0] = "version()"

        def types(parts, manifest):
            self.signed(parts, manifest, "bench", b"id,tick\n1,many\n")

        def stranger(parts, manifest):
            head = parts["tables/notes.csv"].split(b"\n")[0]
            count = len(head.split(b","))
            self.signed(parts, manifest, "notes", head + b"\n" + b",".join([b"x"] * count) + b"\n")
            manifest["tables"]["notes"]["rows"] = 1

        def missing(parts, manifest):
            del parts["tables/runs.csv"], manifest["tables"]["runs"]

        def later(parts, manifest):
            manifest["schema_revision"] = "9999"

        def path(parts, manifest):
            manifest["schema_revision"] = "../x"

        def form(parts, manifest):
            manifest["format"] = "something else"

        def keys(parts, manifest):
            manifest["tables"]["people"] = {"columns": ["id"], "rows": 0, "sha256": "0" * 64}
            parts["tables/people.csv"] = b"id\n"

        for change in (
            damaged, fewer, more, code, named, columns, types, stranger, missing, later, path, form, keys,
        ):  # fmt: skip
            with self.subTest(change.__name__):
                with self.assertRaises(CannotRead):
                    restore(self.database, self.altered(change))
                self.assertEqual(self.runs(), 1, "what was stored stays")
        restore(self.database, self.altered(lambda parts, manifest: None))
        self.assertEqual(self.runs(), 1)

    def test_a_dump_of_the_database_is_not_taken(self):
        with self.assertRaisesRegex(CannotRead, "before backups had their present form"):
            restore(self.database, self.file("old.backup", b"PGDMP" + bytes(100)))

    def test_it_is_for_its_owner_and_holds_no_key(self):
        with self.database.session() as session:
            ada = people.add_person(session, "Ada", "change", PASSPHRASE)
            token = sign_in(session, ada, NOW)
            lane = open_lane(session, NewLane("x", {"phone": "x"}, ready("From ten to full")), NOW)
            tokens = [token, lane.token, ada.digest]
        file = self.folder / "all.backup"
        backup(self.database, file)
        self.assertEqual(file.stat().st_mode & 0o777, 0o600)
        with zipfile.ZipFile(file) as archive:
            whole = b"".join(archive.read(n) for n in archive.namelist())
            self.assertFalse({n for n in archive.namelist() if "secret" in n or "sign" in n or "people" in n})
        for each in tokens:
            self.assertNotIn(each.encode(), whole)
        restore(self.database, file)
        with self.database.session() as session:
            self.assertIsNone(signed_in(session, token, NOW), "nobody is signed in any more")
            self.assertEqual(people.by_name(session, "ada").digest, ada.digest, "who may sign in stays as it is")
            [new] = session.scalars(text("SELECT token FROM lanes"))
            self.assertNotIn(new, (lane.token, str(lane.id)), "the lane has a new key")

    def test_nothing_is_overwritten(self):
        for expected in ("x.before-restore", "x.before-restore-2", "x.before-restore-3"):
            found = unused(self.folder / "x.before-restore")
            self.assertEqual(found.name, expected)
            found.touch()


def head() -> str:
    return sorted(p.name[:4] for p in (MIGRATIONS / "versions").glob("0*.py"))[-1]


class Demonstration(StoreTest):
    def test_is_loaded_once_and_marked_as_invented(self):
        self.assertGreater(hut.load(self.database), len(hut.SCENES))
        self.assertEqual(hut.load(self.database), 0)
        with self.database.session() as session:
            session.execute(delete(m.Kit))
        self.assertEqual(hut.load(self.database), 0, "an older demonstration gets the shelf that it did not have")
        with self.database.session() as session:
            self.assertEqual(len(shelf(session)), len(hut.SHELF))
        with self.database.session() as session:
            runs = store.list_runs(session)
            self.assertEqual({r.origin for r in runs}, {"demo"})
            self.assertGreater(sum(r.summary.to_80 is not None for r in runs), 12)

    def test_carries_the_situations_of_its_story(self):
        hut.load(self.database)
        with self.database.session() as session:
            runs = store.list_runs(session)
            kinds = {piece.kind for piece in shelf(session)}
            hottest = {r.label: r.summary.hottest_c for r in runs}
        self.assertEqual(len(kinds), 8)
        self.assertGreaterEqual(len(runs), 12)
        self.assertEqual(len([r for r in runs if r.card is None]), len(hut.SCENES))
        runs = [r for r in runs if r.card is None]
        big = [r for r in runs if r.factors["phone"] == "Ostrel Max"]
        by = {(r.factors["charger"], r.factors.get("adapter"), r.factors["airflow"]): r.summary for r in big}
        claim = by["Moraine magnet pad", "Plug 20", "still air"].best_settled_w
        self.assertLess(claim, 0.55 * by["Cairn disc 15", "Plug 20", "still air"].best_settled_w)
        self.assertLess(by["Cairn disc 15", "Plug 18", "still air"].best_settled_w, 13.5)
        fan = by["Serac dock 15", "Plug 20", "charger's own fan"]
        self.assertLess(fan.to_80.estimate, by["Serac dock 15", "Plug 20", "still air"].to_80.estimate - 5)
        self.assertGreater(hottest["Ostrel Mini on Cairn disc 15"], 40.0)
        self.assertFalse(any(r.case.simulated or r.rehearsal for r in runs))

    def test_the_plan_of_the_packs_is_half_done_and_fills_them(self):
        now = dt.datetime(2026, 11, 25, 14, 20, tzinfo=dt.UTC)
        hut.load(self.database, now)
        with self.database.session() as session:
            [plan] = session.scalars(select(m.Plan).where(m.Plan.question == LENDING))
            slots = slots_of(session, plan.id)
            self.assertEqual(sorted(s.state for s in slots), ["done", "done", "planned", "planned"])
            for s in slots:
                if s.state == "planned":
                    self.assertEqual(s.expected.pack, s.factors["charger"])
                    self.assertGreaterEqual((s.start_at - s.fill_at).total_seconds() / 60, s.expected.fill_min)

    def test_the_hut_plan_is_half_done_with_a_void_run_and_a_replan(self):
        now = dt.datetime(2026, 11, 25, 14, 20, tzinfo=dt.UTC)
        hut.load(self.database, now)
        with self.database.session() as session:
            [plan] = session.scalars(select(m.Plan).where(m.Plan.question == QUESTION))
            slots = slots_of(session, plan.id)
            states = [s.state for s in slots]
            self.assertEqual(len(slots), 19)
            self.assertTrue(7 <= states.count("done") <= 12, states)
            self.assertEqual(states.count("void"), 1)
            self.assertEqual({s.void_reason for s in slots if s.state == "void"}, {"the fan was off"})
            self.assertGreaterEqual(states.count("planned"), 2)
            self.assertEqual(len(plan.changes), 2)
            self.assertIn("void", plan.changes[0]["why"])
            self.assertIn("always change together: Serac dock 15", plan.findings["warnings"][0])
            for s in slots:
                if s.state == "done":
                    run = session.get(m.Run, s.run_id)
                    self.assertEqual((run.factors["phone"], run.card.name), (s.phone, "Bunk room"))
                    self.assertLess(s.ended_at, now)
                if s.state == "planned":
                    self.assertGreaterEqual(s.drain_start, now - dt.timedelta(minutes=15))


class PrivateCluster(unittest.TestCase):
    def test_is_started_reused_stopped_and_started_again_with_its_data(self):
        folder = Path(tempfile.mkdtemp(prefix="jaunecharge-cluster-"))
        self.addCleanup(shutil.rmtree, folder)
        first = Cluster(folder / "postgres", durable=False)
        self.addCleanup(first.stop)
        self.assertTrue(first.start())
        self.assertFalse(Cluster(folder / "postgres", durable=False).start(), "a running server is reused")
        database = Database(first.access().url())
        with database.engine.begin() as connection:
            connection.execute(text("CREATE TABLE kept (n int)"))
        database.close()
        first.stop()
        self.assertFalse(first.running())
        self.assertTrue(first.start())
        database = Database(first.access().url())
        with database.engine.connect() as connection:
            self.assertEqual(connection.execute(text("SELECT count(*) FROM kept")).scalar(), 0)
            listens = connection.execute(text("SHOW listen_addresses")).scalar()
        database.close()
        self.assertEqual(listens, "127.0.0.1")

    def test_the_port_of_the_application_is_left_to_it(self):
        """Nothing listens on it yet when the database server is started."""
        folder = Path(tempfile.mkdtemp(prefix="jaunecharge-cluster-"))
        self.addCleanup(shutil.rmtree, folder)
        first = Cluster(folder / "postgres", durable=False)
        first.start()
        port = first.access().port
        first.stop()
        again = Cluster(folder / "postgres", durable=False, but=port)
        self.addCleanup(again.stop)
        self.assertTrue(again.start())
        self.assertNotEqual(again.access().port, port)

    def test_a_password_is_wanted(self):
        access = cluster().access()
        database = Database(access.url().replace(access.own, "wrong"))
        with self.assertRaisesRegex(Exception, "password"):
            database.answers()
        database.close()

    def test_a_server_left_behind_by_a_process_that_died_is_taken_over(self):
        folder = Path(tempfile.mkdtemp(prefix="jaunecharge-cluster-"))
        self.addCleanup(shutil.rmtree, folder)
        first = Cluster(folder / "postgres", durable=False)
        self.addCleanup(first.stop)
        first.start()
        gone = subprocess.Popen(["true"])
        gone.wait()
        (folder / "postgres" / "owner").write_text(str(gone.pid))
        self.assertTrue(Cluster(folder / "postgres", durable=False).start())
        self.assertFalse(Cluster(folder / "postgres", durable=False).start())

    def test_the_application_is_no_superuser_and_owns_its_database_alone(self):
        with fresh_database() as database:
            engine = database.engine.execution_options(isolation_level="AUTOCOMMIT")
            with engine.connect() as connection:
                rights = "rolsuper, rolcreatedb, rolcreaterole, rolreplication"
                may = connection.execute(text(f"SELECT {rights} FROM pg_roles WHERE rolname = current_user")).one()
                self.assertEqual(tuple(may), (False, False, False, False))
            for statement in (
                "COPY (SELECT 1) TO PROGRAM 'true'", "SELECT pg_read_file('/etc/passwd')", "CREATE ROLE another",
                "CREATE FUNCTION f() RETURNS int AS 'x', 'y' LANGUAGE c", "SELECT lo_import('/etc/passwd')",
                "ALTER SYSTEM SET work_mem = '1GB'", "CREATE EXTENSION file_fdw",
            ):  # fmt: skip
                with (
                    self.subTest(statement),
                    self.assertRaisesRegex(Exception, "permission denied|superuser|must be"),
                    engine.connect() as connection,
                ):
                    connection.execute(text(statement))

    def test_a_database_of_the_superuser_is_handed_over_with_its_data(self):
        folder = Path(tempfile.mkdtemp(prefix="jaunecharge-cluster-"))
        self.addCleanup(shutil.rmtree, folder)
        made = Cluster(folder / "postgres", durable=False)
        self.addCleanup(made.stop)
        made.start()
        access = made.access()
        with psycopg.connect(access.admin_url().replace("+psycopg", ""), autocommit=True) as connection:
            connection.execute("DROP DATABASE jaunecharge")
            connection.execute("CREATE DATABASE jaunecharge")
            connection.execute("DROP ROLE jaunecharge_app")
        old = Database(access.admin_url("jaunecharge"))
        old.migrate()
        with old.session() as session:
            store.add_run(session, new_run())
        old.close()
        made.stop()
        # As it was kept before the application had a role of its own.
        (folder / "postgres" / "access.json").write_text(json.dumps({"port": access.port, "password": access.password}))
        self.assertTrue(made.start())
        database = Database(made.access().url())
        database.migrate()
        with database.session() as session:
            self.assertEqual(len(store.list_runs(session)), 1)
            session.execute(text("ALTER TABLE runs ADD COLUMN mine int"))
            self.assertEqual(session.scalar(text("SELECT rolsuper FROM pg_roles WHERE rolname = current_user")), False)
        database.close()
