"""Two servers and two workers on one database, each a process with a folder of its own, killed at random under load:
nothing acknowledged is lost, no job is lost or done twice."""

import contextlib
import os
import random
import shutil
import subprocess
import sys
import tempfile
import threading
import time
import unittest
import uuid
from pathlib import Path

import httpx
from sqlalchemy import text

from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.store.kit import add_all
from tests.live.processes import COMMAND
from tests.ports import free_port
from tests.serving import fresh_database

KILLS = int(os.environ.get("SERVER_KILLS", "1"))
"""Kills of each of the four."""

PATIENCE_S = 300.0
KIT = "phone Ostrel Max 4700mAh mpp", "phone Ostrel Mini 3180mAh mpp", "puck Cairn disc mpp", "adapter Plug 20 20W"


def table(name):
    """A file of two runs, a row each minute, labelled so that they are known again."""
    rows = [f"{m};{10 + m};{20 + m}" for m in range(30)]
    return "\n".join([f"minute;{name} first;{name} second", *rows]).encode()


class Fire(unittest.TestCase):
    def setUp(self):
        self.database = self.enterContext(fresh_database())
        self.folder = Path(tempfile.mkdtemp(prefix="jaunecharge-fire-"))
        self.addCleanup(shutil.rmtree, self.folder, True)
        with self.database.session() as session:
            add_all(session, [kit_from_line(line) for line in KIT], "")
        self.ports = [free_port(), free_port()]
        self.addresses = [f"http://127.0.0.1:{port}" for port in self.ports]
        self.over = threading.Event()
        self.running = {}
        self.addCleanup(self.end)
        for n in range(2):
            self.start(f"server {n}", "serve", "--no-worker", JAUNECHARGE_PORT=str(self.ports[n]))
            self.start(f"worker {n}", "worker")
        for n in range(2):
            self.until(lambda n=n: self.answers(n), f"server {n} answers")

    def start(self, name, *command, **more):
        url = self.database.engine.url.render_as_string(hide_password=False)
        state = self.folder / name.replace(" ", "-")
        environment = {**os.environ, "JAUNECHARGE_DATABASE_URL": url, "JAUNECHARGE_STATE": str(state), **more}
        log = (self.folder / f"{name}.log").open("a")
        process = subprocess.Popen(
            [COMMAND, *command], env=environment, stdout=log, stderr=log, stdin=subprocess.DEVNULL,
            start_new_session=True,
        )  # fmt: skip
        log.close()
        self.running[name] = process, command, more

    def kill(self, name):
        process, command, more = self.running[name]
        process.kill()
        process.wait(60)
        self.start(name, *command, **more)

    def end(self):
        self.over.set()
        for process, *_ in self.running.values():
            with contextlib.suppress(ProcessLookupError):
                process.kill()
            process.wait(60)

    def answers(self, n):
        with contextlib.suppress(httpx.HTTPError):
            return httpx.get(f"{self.addresses[n]}/api/health", timeout=5).status_code == 200
        return False

    def until(self, true, what):
        end = time.monotonic() + PATIENCE_S
        while not (found := true()):
            if time.monotonic() > end:
                logs = [f.read_text()[-1500:] for f in self.folder.glob("*.log")]
                self.fail("\n".join([what, *logs]))
            time.sleep(0.1)
        return found

    def ask(self, method, path, **more):
        """An answer of either server, asked until one gives one; None where that is in doubt."""
        for _ in range(3):
            with contextlib.suppress(httpx.HTTPError):
                address = random.choice(self.addresses)
                return httpx.request(method, address + path, timeout=90, **more)
            time.sleep(0.3)
        return None

    def pushing(self, lane, token, acknowledged):
        """A meter that sends each reading, to either server, until it is acknowledged."""
        number, headers = 0, {"Authorization": f"Bearer {token}"}
        while not self.over.is_set():
            body = {"source": "meter", "readings": [{"n": number, "clock_s": number * 0.1, "watts": 5.0}]}
            answer = self.ask("POST", f"/api/lanes/{lane}/readings", json=body, headers=headers)
            if answer is not None and answer.status_code == 200:
                acknowledged.append(number)
                number += 1
                time.sleep(0.05)

    def storing(self, asked, acknowledged):
        """Files of two runs each: sent, and stored by a job; acknowledged once its last line says so."""
        while not self.over.is_set():
            name = f"r{uuid.uuid4().hex[:10]}"
            sent = self.ask("POST", f"/api/uploads?name={name}.csv", content=table(name))
            if sent is None or sent.status_code != 201:
                continue
            runs = [{"ns": [1], "label": f"{name} 1"}, {"ns": [2], "label": f"{name} 2"}]
            asked.append(name)
            body = {"upload": sent.json()["id"], "runs": runs}
            with contextlib.suppress(httpx.HTTPError):
                done = httpx.post(f"{random.choice(self.addresses)}/api/runs/many", json=body, timeout=120)
                if done.status_code == 201:
                    acknowledged.append(name)

    def forecasting(self, acknowledged):
        """Tables of the shelf, each in another room."""
        celsius = 0.0
        while not self.over.is_set():
            celsius += 0.01
            answer = self.ask("POST", "/api/coverage", json={"around": {"ambient_c": 10.0 + celsius}})
            if answer is not None and '"done"' in answer.text:
                acknowledged.append(celsius)

    def rows(self, query, **values):
        with self.database.session() as session:
            return session.execute(text(query), values).all()

    def test_nothing_acknowledged_is_lost_and_no_job_lost_or_done_twice(self):
        lane = self.ask("POST", "/api/lanes", json={"factors": {"phone": "Ostrel Max"}}).json()["view"]["id"]
        token = self.ask("GET", f"/api/lanes/{lane}/link").json()["token"]
        pushed, asked, stored, tables = [], [], [], []
        threads = [
            threading.Thread(target=self.pushing, args=(lane, token, pushed), daemon=True),
            threading.Thread(target=self.storing, args=(asked, stored), daemon=True),
            threading.Thread(target=self.storing, args=(asked, stored), daemon=True),
            threading.Thread(target=self.forecasting, args=(tables,), daemon=True),
        ]
        for thread in threads:
            thread.start()
        self.until(lambda: pushed and stored and tables, "each of them works")
        chance = random.Random(int(os.environ.get("FIRE_SEED", "5")))
        order = [name for name in self.running for _ in range(KILLS)]
        chance.shuffle(order)
        for name in order:
            before = len(pushed)
            time.sleep(chance.uniform(0.2, 2.0))
            self.kill(name)
            if name.startswith("server"):
                self.until(lambda n=int(name[-1]): self.answers(n), f"{name} answers again")
            self.until(lambda before=before: len(pushed) > before, f"readings go on after {name} was killed")
        ended = len(stored)
        self.until(lambda: len(stored) > ended, "files are stored after the last kill")
        self.over.set()
        for thread in threads:
            thread.join(PATIENCE_S)
        # What those who died had begun is taken up by those who live.
        left = "SELECT count(*) FROM jobs WHERE state IN ('waiting', 'running')"
        self.until(lambda: self.rows(left)[0][0] == 0, "every job ends")
        self.check(lane, pushed, asked, stored)

    def check(self, lane, pushed, asked, stored):
        readings = self.rows("SELECT n, count(*) FROM lane_readings WHERE lane_id = :id GROUP BY n", id=lane)
        self.assertEqual({count for _, count in readings}, {1}, "no reading is doubled")
        self.assertLessEqual(set(pushed), {n for n, _ in readings}, "no acknowledged reading is missing")
        jobs = self.rows("SELECT state, count(*), max(attempt), sum(lost) FROM jobs GROUP BY state")
        self.assertEqual(
            [state for state, *_ in jobs], ["done"], self.rows("SELECT kind, why FROM jobs WHERE why IS NOT NULL")
        )
        labels = dict(self.rows("SELECT label, count(*) FROM runs GROUP BY label"))
        self.assertEqual(set(labels.values()), {1}, "no job had its effect twice")
        for name in stored:
            self.assertLessEqual({f"{name} 1", f"{name} 2"}, set(labels), "an acknowledged run is missing")
        jobs = self.rows("SELECT args ->> 'upload', result -> 'runs' FROM jobs WHERE kind = 'runs of a file'")
        self.assertEqual(len(labels), 2 * len(jobs), "each job had its effect, and nothing else had")
        self.assertLessEqual(len(jobs), len(asked))
        print(
            f"{4 * KILLS} kills: {len(pushed)} readings, {len(stored)} of {len(asked)} files acknowledged,"
            f" {len(jobs)} stored", file=sys.stderr,
        )  # fmt: skip
        queued = self.rows("SELECT count(*) FROM procrastinate_jobs")
        self.until(
            lambda: self.rows("SELECT count(*) FROM procrastinate_jobs")[0][0] == 0, f"the queue is empty: {queued}"
        )


if __name__ == "__main__":
    unittest.main()
