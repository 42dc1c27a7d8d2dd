"""The bench under fire, with real processes: killed at any moment, cut off, fed with faults."""

import contextlib
import json
import random
import signal
import socket
import subprocess
import tempfile
import threading
import time
import unittest
import uuid
from pathlib import Path

import httpx
import psycopg

from jaunecharge.core.chain.check import Chain
from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.core.simulator.circumstances import Circumstances
from jaunecharge.core.simulator.scenario import prepare
from jaunecharge.instruments.playback import Playback
from jaunecharge.instruments.pusher import Pusher
from tests.live.processes import COMMAND, Served

LINES = (
    "phone Ostrel Max 4700mAh mpp wired 25W large magnets", "puck Cairn disc mpp claims 15W asks 9V2.22A",
    "adapter Plug 20 20W",
)  # fmt: skip
CHAIN = Chain(*(kit_from_line(LINES[i]) if i is not None else None for i in (2, None, 1, 0)))
SPEED = 60.0
CIRCUMSTANCES = Circumstances()
PATIENCE_S = 240.0
KILLS = 6


class Underway(unittest.TestCase):
    """A live session: a lane, and a meter that pushes at sixty times the speed."""

    def setUp(self):
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory(prefix="jaunecharge-faults-")))
        self.folder.chmod(0o755)
        self.served = Served(self.folder)
        self.addCleanup(self.served.stop)
        self.served.start()
        self.until(self.served.answers, "it serves")

    def until(self, true, what):
        end = time.monotonic() + PATIENCE_S
        while True:
            with contextlib.suppress(httpx.HTTPError, psycopg.Error, KeyError, ValueError):
                if found := true():
                    return found
            if time.monotonic() > end:
                self.served.log.seek(0)
                self.fail(f"{what}: {self.served.log.read()[-2000:]}")
            time.sleep(0.05)

    def post(self, path, body):
        answer = httpx.post(self.served.address + path, json=body, timeout=60)
        self.assertLess(answer.status_code, 300, answer.text)
        return answer.json()

    def get(self, path):
        return httpx.get(self.served.address + path, timeout=60).json()

    def open(self, speed=None):
        for line in LINES:
            self.post("/api/kit/line", {"line": line, "keep": True})
        factors = {"phone": "Ostrel Max", "charger": "Cairn disc", "adapter": "Plug 20"}
        lane = self.post("/api/lanes", {"factors": factors, "ambient_c": 25.0})["view"]
        token = self.get(f"/api/lanes/{lane['id']}/link")["token"]
        if speed is not None:
            with self.connected() as connection:
                connection.execute("UPDATE lanes SET speed = %s", (speed,))
                connection.execute("UPDATE bench SET tick = tick + 1")
                connection.execute("UPDATE lanes SET tick = (SELECT tick FROM bench)")
                connection.execute("SELECT pg_notify('bench', '0')")
        return lane["id"], token

    def connected(self):
        address = self.served.cluster.access().url().replace("postgresql+psycopg", "postgresql")
        return psycopg.connect(address, autocommit=True)

    def pushing(self, lane, token, what="meter", playback=None, **more):
        playback = playback or Playback(
            prepare(CHAIN, more.pop("around", CIRCUMSTANCES)).scenario, time.monotonic, SPEED
        )
        pusher = Pusher(playback, self.served.address, lane, token, what, every_s=0.1, **more)
        pusher.start()
        self.addCleanup(pusher.stop, 5)
        return playback, pusher

    def stored(self, lane, source):
        with self.connected() as connection:
            rows = connection.execute(
                "SELECT n, count(*) FROM lane_readings WHERE lane_id = %s AND source = %s GROUP BY n", (lane, source)
            ).fetchall()
        return dict(rows)

    def log_of(self, lane):
        return [e["said"] for e in self.get(f"/api/lanes/{lane}/log")]


class Killed(Underway):
    def test_random_kills_lose_nothing_that_was_acknowledged(self):
        lane, token = self.open(SPEED)
        playback, pusher = self.pushing(lane, token)
        percents = Pusher(playback, self.served.address, lane, token, "percent", every_s=0.2)
        percents.start()
        self.addCleanup(percents.stop, 5)
        self.until(lambda: len(pusher.acknowledged) > 5, "the first are acknowledged")
        playback.place()
        typed, chance = [], random.Random(4)
        for n in range(KILLS):
            time.sleep(chance.uniform(0.1, 0.9))
            line = {"id": str(uuid.uuid4()), "line": f"a note before kill {n}", "sure": True}
            with contextlib.suppress(httpx.HTTPError):
                answer = httpx.post(f"{self.served.address}/api/bench/lines", json=line, timeout=20)
                if answer.status_code == 200 and answer.json()["logged"]:
                    typed.append(line["id"])
            before = len(pusher.acknowledged)
            if chance.random() < 0.5:
                self.served.kill()
                self.served.start()
            else:
                self.served.kill_database()
            self.until(lambda before=before: len(pusher.acknowledged) > before + 2, f"it goes on after kill {n}")
        pusher.stop()
        percents.stop()
        self.until(lambda: self.get("/api/bench")["lanes"], "the lane is there by itself")
        for each in (pusher, percents):
            found = self.stored(lane, each.name)
            self.assertEqual(set(found.values()), {1}, "none is doubled")
            self.assertLessEqual(set(each.acknowledged), set(found), "none that was acknowledged is missing")
            self.assertGreater(len(each.acknowledged), KILLS)
        with self.connected() as connection:
            kept = connection.execute("SELECT id FROM lane_entries WHERE kind = 'note'").fetchall()
        self.assertEqual(sorted(typed), sorted(str(i) for (i,) in kept if str(i) in typed))
        self.assertEqual(len(kept), len({i for (i,) in kept}))
        run = self.post("/api/bench/lines", {"id": str(uuid.uuid4()), "line": "a end early enough", "sure": True})[
            "run"
        ]
        self.assertGreater(self.get(f"/api/runs/{run}")["samples"], 50)

    def test_a_gap_is_marked(self):
        lane, token = self.open(SPEED)
        playback, pusher = self.pushing(lane, token)
        self.until(lambda: len(pusher.acknowledged) > 5, "the first are acknowledged")
        playback.place()
        self.until(
            lambda: self.get("/api/bench")["lanes"][0]["view"]["state"] == "running", "the meter sees the placing"
        )
        pusher.stop()
        self.served.kill()
        time.sleep(1.5)
        self.served.start()
        self.until(self.served.answers, "it serves again")
        gap = self.until(lambda: [x for x in self.log_of(lane) if x.startswith("nothing was logged")], "the gap")
        self.assertEqual(len(gap), 1)


class DatabaseAway(Underway):
    def test_readings_wait_on_disk_and_are_stored_when_it_is_back(self):
        lane, token = self.open()
        # The database is stopped and kept from starting, as if its disk were busy.
        blocked = self.served.cluster.data / "PG_VERSION"
        hidden = blocked.with_name("PG_VERSION.away")
        blocked.rename(hidden)
        self.served.kill_database()
        headers = {"Authorization": f"Bearer {token}"}
        rows = [{"n": n, "clock_s": float(n), "watts": 17.0} for n in range(50)]
        body = {"source": "meter", "readings": rows}

        def waits():
            answer = httpx.post(
                f"{self.served.address}/api/lanes/{lane}/readings", json=body, headers=headers, timeout=60
            )
            return answer if answer.status_code == 202 else None

        answer = self.until(waits, "it keeps them")
        self.assertEqual(answer.json()["committed"], False)
        self.assertGreaterEqual(answer.json()["waiting"], 50)
        bench = self.get("/api/bench")
        self.assertTrue(bench["away"])
        self.assertGreaterEqual(bench["waiting"], 50)
        refused = httpx.get(f"{self.served.address}/api/runs", timeout=60)
        self.assertEqual((refused.status_code, refused.json()["title"]), (503, "The database does not answer"))
        hidden.rename(blocked)
        self.until(lambda: not self.get("/api/bench")["away"], "it is back")
        self.until(lambda: len(self.stored(lane, "meter")) == 50, "what waited is stored")
        self.assertEqual(set(self.stored(lane, "meter").values()), {1})

    def test_what_waits_outlives_the_application(self):
        lane, token = self.open()
        blocked = self.served.cluster.data / "PG_VERSION"
        hidden = blocked.with_name("PG_VERSION.away")
        blocked.rename(hidden)
        self.served.kill_database()
        headers = {"Authorization": f"Bearer {token}"}
        body = {"source": "meter", "readings": [{"n": n, "watts": 17.0} for n in range(9)]}
        path = f"{self.served.address}/api/lanes/{lane}/readings"
        self.until(lambda: httpx.post(path, json=body, headers=headers, timeout=60).status_code == 202, "it keeps them")
        self.served.kill()
        hidden.rename(blocked)
        self.served.start()
        self.until(lambda: len(self.stored(lane, "meter")) == 9, "what waited is stored")


class StandIns(Underway):
    """Stand-ins as processes of their own, each with a fault to order."""

    def standing(self, *options):
        process = subprocess.Popen(
            [COMMAND, "stand-in", "--speed", "60", *options], stdout=subprocess.PIPE, text=True, start_new_session=True
        )
        self.addCleanup(process.wait, 60)
        self.addCleanup(process.send_signal, signal.SIGINT)
        self.addCleanup(process.stdout.close)
        return process.stdout.readline().strip()

    def metered_lane(self, *options):
        address = self.standing(*options)
        for line in (*LINES, f"meter Stand address:{address}", f"probe Bead address:{address}"):
            self.post("/api/kit/line", {"line": line, "keep": True})
        factors = {"phone": "Ostrel Max", "charger": "Cairn disc", "adapter": "Plug 20"}
        body = {"factors": factors, "ambient_c": 25.0, "meter": "Stand", "probe": "Bead"}
        return {**self.post("/api/lanes", body)["view"], "address": address}

    def order(self, lane, fault):
        """Order a fault once the instrument has been read, however long it took to get there."""
        self.until(lambda: self.get(f"/api/lanes/{lane['id']}")["view"]["watts_s"], "it is read")
        host, port = lane["address"].split(":")
        with socket.create_connection((host, int(port)), timeout=60) as line:
            line.sendall(f"*OPC?\nSIM:FAULT {fault}\n".encode())
            self.assertEqual(line.recv(9), b"1\n")

    def alarm(self, lane, what):
        """The line of an alarm in the lane's log, where it stays."""
        return self.until(
            lambda: next((x for x in self.log_of(lane["id"]) if x.startswith(f"alarm: {what}")), None), f"alarm {what}"
        )

    def over(self, lane, what):
        self.until(lambda: any(x.startswith("over:") and what in x for x in self.log_of(lane["id"])), f"{what} is over")

    def test_silence_and_back(self):
        lane = self.metered_lane()
        self.order(lane, "silence+900")
        self.assertIn("does not answer", self.alarm(lane, "nothing from the meter"))
        self.over(lane, "nothing from the meter")
        self.assertEqual(sum("alarm: nothing from the meter" in x for x in self.log_of(lane["id"])), 1, "it fires once")

    def test_garbage_and_back(self):
        lane = self.metered_lane()
        self.order(lane, "garbage+900")
        self.assertRegex(self.alarm(lane, "nothing from the meter"), "is not a number|answers|does not answer")
        self.over(lane, "nothing from the meter")

    def test_lag_and_a_dropped_connection_are_survived(self):
        lane = self.metered_lane("--fault", "lag@200+120", "--fault", "drop@500", "--fault", "drop@560")
        newest = lambda: self.get(f"/api/lanes/{lane['id']}")["view"]["watts_s"] or 0.0  # noqa: E731
        self.until(lambda: newest() > 800.0, "readings come after all of it")

    def test_a_restart_and_a_clock_that_jumps(self):
        lane, token = self.open(SPEED)
        self.standing(
            "--lane", lane, "--token", token, "--server", self.served.address, "--push", "meter",
            "--fault", "restart@300", "--fault", "clock@600",
        )  # fmt: skip
        self.until(lambda: any("started over" in x for x in self.log_of(lane)), "the restart is in the log")
        self.until(lambda: any("jumped" in x for x in self.log_of(lane)), "the jump is in the log")
        steps = self.get(f"/api/lanes/{lane}")["traced"]["watts"]
        view = self.get(f"/api/lanes/{lane}")["view"]
        self.assertLess(max(i for i, _ in steps) * 10.0, view["now_s"] + 60.0, "nothing stands in the future")


class TwoProcesses(Underway):
    def test_the_one_that_is_left_keeps_the_bench(self):
        lane = self.post_lane_with_stand_in()
        other = Served(self.folder)
        other.environment["JAUNECHARGE_DATABASE_URL"] = self.served.cluster.access().url()
        other.environment["JAUNECHARGE_STATE"] = str(self.folder / "other")
        process = None
        try:
            other.start()
            process = other.process
            self.until(other.answers, "the second one serves")
            first = httpx.get(f"{other.address}/api/bench", timeout=60).json()["lanes"][0]["view"]
            self.served.kill()
            self.until(
                lambda: (
                    (httpx.get(f"{other.address}/api/lanes/{lane}", timeout=60).json()["view"]["watts_s"] or 0)
                    > (first["watts_s"] or 0) + 300
                ),
                "the second one asks the instruments",
            )
        finally:
            if process is not None:
                process.send_signal(signal.SIGINT)
                process.wait(120)
            other.log.close()

    def post_lane_with_stand_in(self):
        address = StandIns.standing(self)
        for line in (*LINES, f"meter Stand address:{address}"):
            self.post("/api/kit/line", {"line": line, "keep": True})
        factors = {"phone": "Ostrel Max", "charger": "Cairn disc", "adapter": "Plug 20"}
        return self.post("/api/lanes", {"factors": factors, "meter": "Stand"})["view"]["id"]


class Events(Underway):
    def test_events_resume_over_a_restart(self):
        lane, token = self.open()
        heard, over = [], threading.Event()

        def listen():
            last = -1
            while not over.is_set():
                with (
                    contextlib.suppress(httpx.HTTPError),
                    httpx.stream(
                        "GET",
                        f"{self.served.address}/api/bench/events",
                        headers={"Last-Event-ID": str(last)},
                        timeout=30,
                    ) as answer,
                ):
                    for line in answer.iter_lines():
                        if line.startswith("id:"):
                            last = int(line[3:])
                        elif line.startswith("data:"):
                            heard.append(json.loads(line[5:]))
                        if over.is_set():
                            break
                time.sleep(0.1)

        thread = threading.Thread(target=listen, daemon=True)
        thread.start()
        headers = {"Authorization": f"Bearer {token}"}

        def push(n, watts):
            body = {"source": "m", "readings": [{"n": n, "watts": watts}]}
            return httpx.post(
                f"{self.served.address}/api/lanes/{lane}/readings", json=body, headers=headers, timeout=30
            )

        self.until(lambda: push(0, 5.0).status_code == 200, "stored")
        self.until(lambda: any(e["figures"].get(lane, [0, 0])[1] == 5.0 for e in heard), "heard")
        self.served.kill()
        self.served.start()
        self.until(lambda: push(1, 9.0).status_code == 200, "stored after the restart")
        self.until(lambda: any(e["figures"].get(lane, [0, 0])[1] == 9.0 for e in heard), "heard after the restart")
        over.set()
        push(2, 1.0)
        thread.join(60)
