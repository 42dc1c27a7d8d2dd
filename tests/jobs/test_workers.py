"""Workers as real processes: they do what waits, end when told to, and are taken over from when they are killed."""

import contextlib
import os
import signal
import subprocess
import sys
import tempfile
import time
import unittest
import uuid
from pathlib import Path

from sqlalchemy import text

from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.jobs.workforce import Beside
from jaunecharge.store.jobs import jobs as store
from jaunecharge.store.kit import add_all
from tests.serving import fresh_database

RUN = "from jaunecharge.cli import main; main()"
LINES = (
    "phone Ostrel Mini 3180mAh mpp@12 small magnets", "puck Cairn disc mpp claims 15W", "adapter Plug 20 20W",
)  # fmt: skip
CHOICE = {"adapter": None, "cable": None, "case": None, "around": {"ambient_c": 24.0}}
PATIENCE_S = 120.0


class WorkersTest(unittest.TestCase):
    def setUp(self):
        self.database = self.enterContext(fresh_database())
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory(prefix="jaunecharge-workers-")))
        url = self.database.engine.url.render_as_string(hide_password=False)
        self.environment = {**os.environ, "JAUNECHARGE_DATABASE_URL": url, "JAUNECHARGE_STATE": str(self.folder)}
        with self.database.session() as session:
            add_all(session, [kit_from_line(line) for line in LINES], "")

    def worker(self, *more, stdin=subprocess.DEVNULL):
        process = subprocess.Popen(
            [sys.executable, "-c", RUN, "worker", *more], env=self.environment, stdin=stdin,
            stdout=subprocess.PIPE, start_new_session=True,
        )  # fmt: skip
        self.addCleanup(process.stdout.close)
        self.addCleanup(self.end, process)
        return process

    def end(self, process):
        with contextlib.suppress(ProcessLookupError):
            process.kill()
        process.wait(60)

    def defer(self, **more):
        with self.database.session() as session:
            return store.defer(session, "table", {**CHOICE, **more}, "a shelf")

    def until(self, true, what):
        end = time.monotonic() + PATIENCE_S
        while not true():
            self.assertLess(time.monotonic(), end, what)
            time.sleep(0.05)

    def registered(self):
        with self.database.session() as session:
            return session.scalar(text("SELECT count(*) FROM procrastinate_workers"))

    def job(self, job_id):
        with self.database.session() as session:
            return store.get_job(session, job_id)

    def in_state(self, job_id, state):
        self.until(lambda: self.job(job_id).state == state, f"it is {state}")
        return self.job(job_id)


class Alone(WorkersTest):
    def test_it_does_what_waited_and_what_comes_and_ends_when_told_to(self):
        first = self.defer()
        process = self.worker()
        done = self.in_state(first, "done")
        self.assertEqual(len(done.result["coverage"]["rows"]), 2)
        second = self.defer(around={"ambient_c": 10.0})
        self.in_state(second, "done")
        with self.database.session() as session:
            self.assertTrue(store.any_worker(session))
        process.send_signal(signal.SIGTERM)
        self.assertEqual(process.wait(60), 0)
        self.assertIn(b"worker ", process.stdout.read())
        with self.database.session() as session:
            self.assertFalse(store.any_worker(session))

    def test_several_share_the_work(self):
        process = self.worker("--jobs", "2")
        self.until(lambda: self.registered() == 4, "both are there, each for two queues")
        jobs = [self.defer(around={"ambient_c": float(n)}) for n in range(24)]
        for job_id in jobs:
            self.in_state(job_id, "done")
        self.assertGreater(len({self.job(job_id).worker for job_id in jobs}), 1)
        process.send_signal(signal.SIGINT)
        self.assertEqual(process.wait(90), 0)

    def test_a_refusal_is_one_line(self):
        process = self.worker("--jobs", "0")
        self.assertEqual(process.wait(60), 2)

    def test_what_was_refused_says_why(self):
        with self.database.session() as session:
            job_id = store.defer(session, "pdf", {"finding": str(uuid.uuid4())})
        self.worker()
        self.assertIn("there is no finding", self.in_state(job_id, "failed").why["what"])


class Killed(WorkersTest):
    def test_its_job_is_taken_up_by_another_and_done_once(self):
        job_id = self.defer(around={"ambient_c": 12.0})
        # Held up where it reads the shelf, until it is killed.
        holding = self.enterContext(self.database.engine.begin())
        holding.execute(text("LOCK TABLE kit IN ACCESS EXCLUSIVE MODE"))
        first = self.worker()
        self.until(lambda: self.job(job_id).state == "running", "it is begun")
        name = self.job(job_id).worker
        first.kill()
        first.wait(60)
        holding.rollback()
        with self.database.session() as session:
            # As if the seconds had gone by after which a worker counts as dead.
            session.execute(text("UPDATE procrastinate_workers SET last_heartbeat = now() - interval '1 minute'"))
        self.worker()
        done = self.in_state(job_id, "done")
        self.assertEqual((done.attempt, done.lost), (2, 1))
        self.assertNotEqual(done.worker, name)

    def test_one_beside_a_server_ends_with_it_however_that_ends(self):
        process = self.worker("--beside", stdin=subprocess.PIPE)
        job_id = self.defer()
        self.in_state(job_id, "done")
        process.stdin.close()
        self.assertEqual(process.wait(60), 0)

    def test_one_beside_a_server_is_started_again(self):
        command = [sys.executable, "-c", "import os; os.mkdir(f'at {os.getpid()}'); import time; time.sleep(1000)"]
        hands = Beside(command, {"PWD": str(self.folder)})
        before = Path.cwd()
        os.chdir(self.folder)
        self.addCleanup(os.chdir, before)
        hands.start()
        hands.need()
        try:
            self.until(lambda: list(self.folder.glob("at *")), "it is started")
            [first] = self.folder.glob("at *")
            with self.assertLogs("jaunecharge.jobs", "WARNING"):
                os.kill(int(first.name.split()[1]), signal.SIGKILL)
                self.until(lambda: len(list(self.folder.glob("at *"))) == 2, "it is started again")
        finally:
            hands.stop()
        for place in self.folder.glob("at *"):
            with self.assertRaises(ProcessLookupError):
                os.kill(int(place.name.split()[1]), 0)


class Away(WorkersTest):
    def test_after_the_database_cut_it_off_it_goes_on(self):
        self.worker()
        self.in_state(self.defer(), "done")
        with self.database.session() as session:
            cut = "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = current_database()"
            session.execute(text(f"{cut} AND pid <> pg_backend_pid()"))
        self.in_state(self.defer(around={"ambient_c": 11.0}), "done")


if __name__ == "__main__":
    unittest.main()
