"""Pages that only read take a replica, as soon as it knows what their browser has written; else the database itself."""

import tempfile
import time
import unittest
from pathlib import Path

import httpx
from sqlalchemy import event

from jaunecharge.api.replicated import COOKIE, ITSELF
from jaunecharge.demo import hut
from jaunecharge.store import replica
from jaunecharge.store.database import Database
from tests.replica import copied
from tests.serving import cluster, fresh_database, served


class Read(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        first = cls.enterClassContext(fresh_database())
        hut.load(first)
        url = first.engine.url.render_as_string(hide_password=False)
        cls.copy = cls.enterClassContext(copied(cluster()))
        cls.database = Database(url, cls.copy.url(url.rsplit("/", 1)[1]))
        cls.addClassCleanup(cls.database.close)
        cls.asked = []
        event.listen(cls.database._replica._engine, "before_cursor_execute", lambda *call: cls.asked.append(call[2]))
        folder = Path(cls.enterClassContext(tempfile.TemporaryDirectory()))
        cls.address = cls.enterClassContext(served(cls.database, folder / "uploads"))

    def setUp(self):
        self.web = self.enterContext(httpx.Client(base_url=self.address, timeout=60))
        self.caught_up()
        self.asked.clear()

    def caught_up(self):
        with self.database.engine.connect() as connection:
            at = replica.position(connection)
        end = time.monotonic() + 60
        while not self.copy.execute(f"SELECT pg_last_wal_replay_lsn() >= '{at}'")[0] and time.monotonic() < end:
            time.sleep(0.02)

    def read_there(self):
        return [s for s in self.asked if "SET TRANSACTION" not in s and "replay_lsn" not in s]

    def rename(self, label):
        run = self.web.get("/api/runs?limit=1").json()[0]
        changed = self.web.patch(f"/api/runs/{run['id']}", json={"revision": run["revision"], "label": label})
        self.assertEqual(changed.status_code, 200, changed.text)
        return run["id"]

    def test_lists_runs_and_comparisons_come_from_it(self):
        for path in ("/api/runs/listed", "/api/throttling", "/api/versus/offered", "/api/plans", "/api/packs"):
            with self.subTest(path):
                self.asked.clear()
                self.assertEqual(self.web.get(path).status_code, 200)
                self.assertTrue(self.read_there())
        run = self.web.get("/api/runs?limit=1").json()[0]["id"]
        self.asked.clear()
        self.assertEqual(self.web.get(f"/api/runs/{run}").status_code, 200)
        self.assertTrue(self.read_there())

    def test_the_bench_and_what_is_kept_on_the_way_do_not(self):
        for path in ("/api/bench", "/api/versus/table", "/api/jobs", "/api/rereading", "/api/settings"):
            with self.subTest(path):
                self.asked.clear()
                self.assertEqual(self.web.get(path).status_code, 200)
                self.assertEqual(self.read_there(), [])

    def test_who_has_written_something_finds_it_however_far_behind_it_is(self):
        self.copy.execute("SELECT pg_wal_replay_pause()")
        try:
            run = self.rename("seen at once")
            self.asked.clear()
            self.assertEqual(self.web.get(f"/api/runs/{run}").json()["label"], "seen at once")
            self.assertEqual(self.read_there(), [], "the copy is behind")
            # Who has written nothing reads what the copy knows.
            other = httpx.get(f"{self.address}/api/runs/{run}", timeout=60).json()["label"]
            self.assertNotEqual(other, "seen at once")
        finally:
            self.copy.execute("SELECT pg_wal_replay_resume()")
        self.caught_up()
        self.asked.clear()
        self.assertEqual(self.web.get(f"/api/runs/{run}").json()["label"], "seen at once")
        self.assertTrue(self.read_there())

    def test_after_work_that_goes_on_the_database_itself_answers_for_a_while(self):
        self.web.post("/api/packages", json={})
        self.assertEqual(self.web.cookies[COOKIE], ITSELF)
        self.asked.clear()
        self.web.get("/api/runs/listed")
        self.assertEqual(self.read_there(), [])

    def test_a_cookie_that_is_none_spoils_nothing(self):
        for value in ("x", "0/", "FFFFFFFF/FFFFFFFFF", "0/0'; DROP TABLE runs", "ITSELF"):
            with self.subTest(value):
                answer = self.web.get("/api/runs/listed", headers={"Cookie": f"{COOKIE}={value}"})
                self.assertEqual(answer.status_code, 200)

    def test_where_it_is_away_the_database_itself_answers(self):
        self.copy.stop()
        try:
            self.assertEqual(self.web.get("/api/runs/listed").status_code, 200)
        finally:
            self.copy.start()
        self.database._replica._away_until = 0.0
        self.asked.clear()
        self.assertEqual(self.web.get("/api/runs/listed").status_code, 200)
        self.assertTrue(self.read_there())


if __name__ == "__main__":
    unittest.main()
