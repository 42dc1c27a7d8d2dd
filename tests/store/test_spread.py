"""Logs spread over three PostgreSQL servers by the statements of docs/scale.md: the same documents as on one."""

import re
import shutil
import tempfile
import unittest
from pathlib import Path
from urllib.parse import urlsplit

import httpx
import psycopg
from sqlalchemy import text
from sqlalchemy.exc import DBAPIError

from jaunecharge.demo import hut
from jaunecharge.postgres import ROLE, Cluster
from jaunecharge.store.database import Database
from jaunecharge.store.runs import changes
from jaunecharge.store.runs.logs import load_log
from jaunecharge.store.runs.runs import get_run, list_runs
from tests.cases import checkins
from tests.serving import fresh_database, served
from tests.store.test_series import flat

PAGE = Path("docs/scale.md").read_text()


def statements(kind, **filled):
    """Statements of a block of the page, with what is filled in."""
    found = re.search(rf"```sql {kind}\n(.*?)```", PAGE, re.DOTALL).group(1)
    for name, value in filled.items():
        found = found.replace(name, value)
    return found


OTHERS = {"second": range(4, 8), "third": range(8, 12)}
"""Partitions that lie on each of the other servers."""


class Spread(unittest.TestCase):
    def setUp(self):
        self.folder = Path(tempfile.mkdtemp(prefix="jaunecharge-spread-"))
        self.addCleanup(shutil.rmtree, self.folder)
        self.folder.chmod(0o755)
        self.database = self.enterContext(fresh_database(with_demo=True))
        self.name = urlsplit(self.database.engine.url.render_as_string()).path.strip("/")

    def execute(self, url, sql):
        with psycopg.connect(url.replace("+psycopg", ""), autocommit=True) as connection:
            connection.execute(sql)

    def spread(self):
        """Lay two thirds of the partitions on two other clusters."""
        from tests.serving import cluster

        own = self.database.engine.url.render_as_string(hide_password=False)
        for name, partitions in OTHERS.items():
            other = Cluster(self.folder / name, durable=False)
            other.start()
            self.addCleanup(other.stop)
            access = other.access()
            filled = {
                "HOST": "127.0.0.1", "PORT": str(access.port), "DATABASE": "jaunecharge", "PASSWORD": access.own,
                "ROLE": ROLE, "SERVER other": f"SERVER {name}",
            }  # fmt: skip
            once = statements("as-superuser", **filled).replace("user 'ROLE'", f"user '{ROLE}'")
            self.execute(cluster().access().admin_url(self.name), once)
            for n in partitions:
                self.execute(access.url(), statements("on-the-other", series_4=f"series_{n}"))
                moved = statements("as-the-application", series_4=f"series_{n}", **{"SERVER other": f"SERVER {name}"})
                self.execute(own, moved.replace("REMAINDER 4)", f"REMAINDER {n})"))

    def places(self):
        """Kinds of the partitions that hold anything: r, on this server; f, on another."""
        with self.database.session() as session:
            return set(
                session.scalars(text("SELECT relkind::text FROM pg_class WHERE oid IN (SELECT tableoid FROM series)"))
            )

    def logs(self, database):
        with database.session() as session:
            return {str(r.id): flat(load_log(session, r)) for r in list_runs(session)}

    def documents(self, database, folder):
        """Answers of the application to who lists, reads, zooms and compares."""
        with served(database, self.folder / folder) as address, httpx.Client(base_url=address, timeout=120) as web:
            runs = web.get("/api/runs").json()
            compared = ",".join(r["id"] for r in runs[:5])
            asked = ["/api/runs", "/api/throttling", "/api/versus/offered", f"/api/versus?runs={compared}"]
            for run in runs[:6]:
                asked += [f"/api/runs/{run['id']}", f"/api/runs/{run['id']}/series?start=2&end=30"]
            return {address: web.get(address).json() for address in asked}

    def test_what_is_stored_read_listed_and_compared_is_the_same(self):
        logs, documents = self.logs(self.database), self.documents(self.database, "one")
        self.assertEqual(self.places(), {"r"})
        self.spread()
        self.assertEqual(self.places(), {"r", "f"}, "runs lie on this server and on others")
        self.assertEqual(self.logs(self.database), logs)
        self.assertEqual(self.documents(self.database, "three"), documents)
        away = self.on_another()
        with self.database.session() as session:
            revision = get_run(session, away).revision
            run = changes.change_checkins(session, away, revision, checkins((2, 12), (9, 40)), "Ada")
            self.assertEqual(load_log(session, run).readings.percent.tolist(), [12.0, 40.0])

    def on_another(self):
        """A run that lies on another server."""
        with self.database.session() as session:
            foreign = "SELECT oid FROM pg_class WHERE relkind = 'f'"
            return session.scalar(
                text(f"SELECT run_id FROM series WHERE tableoid IN ({foreign}) AND name = 'checkins'")
            )

    def test_what_is_read_into_it_is_the_same_as_on_one(self):
        with fresh_database() as one:
            hut.load(one)
            expected = sorted(map(str, self.logs(one).values()))
        with fresh_database() as empty:
            self.database, self.name = empty, urlsplit(empty.engine.url.render_as_string()).path.strip("/")
            self.spread()
            hut.load(empty)
            self.assertEqual(self.places(), {"r", "f"})
            self.assertEqual(sorted(map(str, self.logs(empty).values())), expected)

    def test_a_run_that_the_other_server_refuses_is_stored_nowhere(self):
        self.spread()
        away = self.on_another()
        second = Database(Cluster(self.folder / "second", durable=False).access().url())
        third = Database(Cluster(self.folder / "third", durable=False).access().url())
        before = self.logs(self.database)[str(away)]
        for other in (second, third):
            with other.engine.begin() as connection:
                connection.execute(text("ALTER DATABASE jaunecharge SET default_transaction_read_only = on"))
            other.close()
        with self.database.engine.connect() as connection:
            connection.execute(text("SELECT 1"))
        self.database.close()
        with self.assertRaisesRegex(DBAPIError, "read-only"), self.database.session() as session:
            revision = get_run(session, away).revision
            changes.change_checkins(session, away, revision, checkins((2, 12), (9, 40)), "Ada")
        self.database.close()
        self.assertEqual(self.logs(self.database)[str(away)], before)
        with self.database.session() as session:
            corrections = session.scalar(text("SELECT count(*) FROM corrections WHERE run_id = :id"), {"id": away})
        self.assertEqual(corrections, 0)


class Statements(unittest.TestCase):
    """A database that spreads by run needs no join of logs with anything, and no key that lacks the run."""

    def setUp(self):
        self.database = self.enterContext(fresh_database())

    def test_the_key_of_a_log_begins_with_its_run_and_nothing_refers_to_or_from_it(self):
        with self.database.session() as session:
            keys = session.scalars(
                text(
                    "SELECT pg_get_constraintdef(oid) FROM pg_constraint"
                    " WHERE contype = 'p' AND conrelid::regclass::text ~ '^series_'"
                )
            ).all()
            self.assertEqual(keys, ["PRIMARY KEY (run_id, name, n)"] * 12)
            foreign = session.scalar(
                text(
                    "SELECT count(*) FROM pg_constraint WHERE contype = 'f' AND (conrelid::regclass::text ~ '^series'"
                    " OR confrelid::regclass::text ~ '^series')"
                )
            )
            self.assertEqual(foreign, 0)

    def test_no_statement_of_the_code_joins_logs_with_another_table(self):
        """Every statement on logs stands in one module, and names one run."""
        users = [
            p.relative_to("src/jaunecharge").as_posix()
            for p in Path("src/jaunecharge").rglob("*.py")
            if re.search(r"\bSeriesChunk\b|\bFROM series\b|\bINTO series\b", p.read_text())
        ]
        self.assertEqual(sorted(users), ["store/models.py", "store/runs/series.py"])
        source = Path("src/jaunecharge/store/runs/series.py").read_text()
        self.assertNotIn("join(", source)
        for statement in re.findall(r"(?:select|delete)\(SeriesChunk.*?\n\n", source, re.DOTALL):
            self.assertRegex(statement, r"run_id == run_id|\*mine")
