"""What a device, a file or a stranger may send without harm: refused at the door, or set aside; the others go on."""

import contextlib
import json
import socket
import sqlite3
import threading
import time
import uuid
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from unittest import mock

import httpx
import psycopg
from sqlalchemy import text

from jaunecharge.api.door import keepable
from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.store.kit import add_all
from jaunecharge.store.runs.uploads import Upload
from tests.serving import ServedTest, served

FULL = Path("/dev/full")
FACTORS = {"phone": "Ostrel Max", "charger": "Cairn disc", "adapter": "Plug 20"}
LINES = ("phone Ostrel Max 4620mAh mpp", "puck Cairn disc mpp claims 15W asks 9V2.22A", "adapter Plug 20 20W")


class HostileTest(ServedTest):
    @classmethod
    def fill(cls):
        with cls.database.session() as session:
            add_all(session, [kit_from_line(line) for line in LINES], "")

    def setUp(self):
        for lane in self.web.get("/api/bench").json()["lanes"]:
            self.web.post(f"/api/lanes/{lane['view']['id']}/ended", json={"outcome": "void", "reason": "tidied up"})

    def open(self):
        lane = self.web.post("/api/lanes", json={"factors": FACTORS, "ambient_c": 25.0}).json()["view"]
        return lane["id"], self.web.get(f"/api/lanes/{lane['id']}/link").json()["token"]

    def push(self, lane, token, rows, web=None, **more):
        body = {"source": "meter", "readings": rows, **more}
        return self.raw(lane, token, json.dumps(body).encode(), web)

    def raw(self, lane, token, body, web=None):
        headers = {"Authorization": f"Bearer {token}", "Content-Type": "application/json"}
        return (web or self.web).post(f"/api/lanes/{lane}/readings", content=body, headers=headers)

    def until(self, true, what, seconds=180.0):
        end = time.monotonic() + seconds
        while not (found := true()):
            if time.monotonic() > end:
                self.fail(what)
            time.sleep(0.05)
        return found

    def alarms(self, lane, web=None):
        answer = (web or self.web).get(f"/api/lanes/{lane}")
        return [a["key"] for a in answer.json()["view"]["alarms"]] if answer.status_code == 200 else []


class HostileReadings(HostileTest):
    FIGURES = ("clock_s", "volts", "amps", "watts", "celsius", "percent", "n")
    VALUES = ("1.7e308", "-1.7e308", "NaN", "Infinity", "-Infinity", "1e999", "1e400", "9" * 400, "-1e13")

    def test_numbers_out_of_bounds_are_refused(self):
        lane, token = self.open()
        for figure in self.FIGURES:
            for value in self.VALUES:
                with self.subTest(f"{figure} {value}"):
                    row = {"n": "0", "watts": "5.0"} | {figure: value}
                    body = "{" + ", ".join(f'"{k}": {v}' for k, v in row.items()) + "}"
                    answer = self.raw(lane, token, f'{{"source": "m", "readings": [{body}]}}'.encode())
                    self.assertEqual(answer.status_code, 422, answer.text)
                    self.assertEqual(answer.headers["content-type"], "application/problem+json")

    def test_clocks_at_both_ends_of_what_is_allowed_harm_nobody(self):
        lane, token = self.open()
        other, its = self.open()
        rows = [{"n": 0, "clock_s": -1e12, "watts": 400.0}, {"n": 1, "clock_s": 1e12, "watts": -400.0}]
        for n in range(5):
            again = [row | {"n": row["n"] + 2 * n} for row in (rows if n % 2 else rows[::-1])]
            answer = self.push(lane, token, again).json()
            self.assertEqual((answer["committed"], answer["refused"], answer["new"]), (True, 1, 1))
        self.assertEqual(self.push(other, its, [{"n": 0, "celsius": 60.0, "position": "back"}]).status_code, 200)
        self.until(lambda: "stop hot" in self.alarms(other) or self.alarms(other), "the other lane is watched")
        self.assertEqual(len(self.web.get("/api/bench").json()["lanes"]), 2)

    def test_a_number_given_twice_with_other_figures_is_refused(self):
        lane, token = self.open()
        answer = self.push(lane, token, [{"n": 0, "watts": 5.0}, {"n": 0, "watts": 6.0}])
        self.assertEqual(answer.status_code, 422)
        self.assertIn("given twice", answer.text)
        same = self.push(lane, token, [{"n": 0, "watts": 5.0}, {"n": 0, "watts": 5.0}]).json()
        self.assertEqual((same["new"], same["duplicates"]), (1, 1))

    def test_a_lane_that_cannot_be_read_is_set_aside_and_spoils_no_other(self):
        bad, token = self.open()
        good, its = self.open()
        with self.database.engine.begin() as connection:
            connection.execute(text("UPDATE bench SET tick = tick + 1"))
            connection.execute(
                text(
                    "INSERT INTO lane_readings (lane_id, source, epoch, n, t_s, watts, position, tick)"
                    " VALUES (:lane, 'x', 0, 0, 'Infinity', 5, '', (SELECT tick FROM bench))"
                ),
                {"lane": bad},
            )
            connection.execute(text("SELECT pg_notify('bench', '0')"))
        aside = self.until(lambda: self.web.get("/api/bench").json()["aside"], "it is set aside, and said")
        self.assertEqual([x["id"] for x in aside], [bad])
        self.assertIn("cannot be shown", " ".join(t["says"] for t in self.web.get("/api/health").json()["troubles"]))
        self.the_good_one_is_watched(good, its, self.web)
        self.assertEqual(self.web.get(f"/api/lanes/{bad}").status_code, 503)
        self.assertEqual(self.push(bad, token, [{"n": 1, "watts": 5.0}]).json()["committed"], True)
        # A process that begins with such a lane in the store serves the others as well.
        with (
            served(self.database, self.folder / "second" / "uploads") as address,
            httpx.Client(base_url=address, timeout=60) as second,
        ):
            bench = second.get("/api/bench").json()
            self.assertIn(good, [x["view"]["id"] for x in bench["lanes"]])
            self.assertEqual([x["id"] for x in bench["aside"]], [bad])
            self.assertEqual(self.push(good, its, [{"n": 5, "watts": 5.0}], second).status_code, 200)
            self.assertEqual(self.push(bad, token, [{"n": 2, "watts": 5.0}], second).status_code, 200)
        ended = self.web.post(f"/api/lanes/{bad}/ended", json={"outcome": "void", "reason": "it cannot be read"})
        self.assertEqual(ended.status_code, 200, ended.text)
        self.until(lambda: not self.web.get("/api/bench").json()["aside"], "it is gone")
        self.assertEqual(self.push(bad, token, [{"n": 3, "watts": 5.0}]).status_code, 410)

    def test_a_lane_of_which_no_run_can_be_made_can_be_ended_and_says_so(self):
        lane, token = self.open()
        self.push(lane, token, [{"n": n, "clock_s": 10.0 * n, "watts": 5.0} for n in range(20)])
        with mock.patch("jaunecharge.store.bench.ending._run_of", side_effect=ValueError("nobody thought of that")):
            ended = self.web.post(f"/api/lanes/{lane}/ended", json={"outcome": "void", "reason": "it cannot be read"})
        self.assertEqual((ended.status_code, ended.json()["run"]), (200, None), ended.text)
        log = self.web.get(f"/api/lanes/{lane}/log").json()
        self.assertIn(
            "could not be made a run, and stays with the lane: nobody thought", " ".join(e["said"] for e in log)
        )

    def the_good_one_is_watched(self, lane, token, web):
        self.assertEqual(self.push(lane, token, [{"n": 0, "celsius": 60.0, "position": "back"}], web).status_code, 200)
        self.until(lambda: self.alarms(lane, web), "a phone at 60 °C raises an alarm")
        opened, _ = self.open()
        self.assertEqual(web.get(f"/api/lanes/{opened}").status_code, 200)

    def test_410_only_for_a_lane_that_has_ended(self):
        lane, token = self.open()
        self.assertEqual(self.push(str(uuid.uuid4()), token, [{"n": 0}]).status_code, 404)
        self.assertEqual(self.push(lane, "made up", [{"n": 0}]).status_code, 401)
        self.web.post(f"/api/lanes/{lane}/ended", json={"outcome": "void", "reason": "enough"})
        self.assertEqual(self.push(lane, token, [{"n": 0}]).status_code, 410)


class Texts(HostileTest):
    """NUL and half a surrogate pair, in every place where text comes in."""

    BAD = ("\x00", "a\x00b", "\ud800", "x\udfff", "\udc00\ud800")

    def test_what_can_be_kept(self):
        self.assertTrue(all(keepable(t) for t in ("", "Grün", "🔋", "\u2028", "\ufffd", "\x01")))
        self.assertFalse(any(keepable(t) for t in self.BAD))

    def test_in_readings(self):
        lane, token = self.open()
        for bad in self.BAD:
            for body in (
                {"source": bad, "readings": [{"n": 0}]},
                {"source": "m", "boot": bad, "readings": [{"n": 0}]},
                {"source": "m", "readings": [{"n": 0, "celsius": 30.0, "position": bad}]},
            ):
                with self.subTest(body=repr(body)):
                    self.assertIn(self.raw(lane, token, json.dumps(body).encode()).status_code, (400, 422))
        self.assertEqual(self.push(lane, token, [{"n": 0, "watts": 1.0}]).json()["new"], 1, "nothing waits behind them")
        self.assertEqual(self.web.get("/api/bench/aside").json()["batches"], 0)

    def test_in_every_body_of_the_description(self):
        spec = self.web.get("/api/openapi.json").json()
        asked = 0
        for path, methods in spec["paths"].items():
            for method, route in methods.items():
                content = route.get("requestBody", {}).get("content", {})
                if "application/json" not in content:
                    continue
                concrete = path
                for parameter in route.get("parameters", []):
                    concrete = concrete.replace("{" + parameter["name"] + "}", str(uuid.uuid4()))
                for bad in self.BAD:
                    body = json.dumps({"anything": {"deep": [bad]}, bad: 1})
                    answer = self.web.request(
                        method, concrete, content=body, headers={"Content-Type": "application/json"}
                    )
                    asked += 1
                    self.assertEqual(answer.status_code, 400, f"{method} {path} {bad!r}: {answer.text}")
        self.assertGreater(asked, 150)

    def test_in_addresses_and_headers(self):
        for path in ("/%00", "/api/runs/%00", "/api/runs?label=%00", "/api/hand/%00", "/api/kit?q=a%00b"):
            self.assertEqual(self.web.get(path).status_code, 400, path)
        for path in ("/api/runs?label=%ff%fe", "/x?%80"):
            self.assertEqual(self.web.get(path).status_code, 400, path)
        self.assertEqual(self.web.get("/" + "a" * 21_000).status_code, 414)
        self.assertEqual(self.web.get("/api/runs?x=" + "a" * 21_000).status_code, 414)
        answer = self.web.get("/api/runs", headers={"Jaunecharge-By": "Ada%00"})
        self.assertEqual(answer.status_code, 400)

    def test_escapes_that_only_look_like_it_pass(self):
        answer = self.web.post("/api/bench/echo", content=rb'{"line": "a note C:\\u0000 \\ud800"}',
                               headers={"Content-Type": "application/json"})  # fmt: skip
        self.assertEqual(answer.status_code, 200, answer.text)
        pair = self.web.post("/api/bench/echo", content=rb'{"line": "a note \ud83d\udd0b"}',
                             headers={"Content-Type": "application/json"})  # fmt: skip
        self.assertEqual(pair.status_code, 200, pair.text)


class Zones(HostileTest):
    BODIES = (
        ("/api/lanes", {"factors": FACTORS}), ("/api/spot-checks", {"factors": FACTORS}),
        ("/api/rehearsals", {"phone": str(uuid.UUID(int=1))}),
        ("/api/runs", {"files": [{"upload": str(uuid.UUID(int=1)), "roles": ["meter"]}]}),
    )  # fmt: skip

    def test_one_that_there_is_not_is_refused_wherever_it_may_stand(self):
        for path, body in self.BODIES:
            for zone in ("a 47", "../../etc/passwd", "Europe/Nowhere", ""):
                answer = self.web.post(path, json=body | {"zone": zone})
                self.assertEqual(answer.status_code, 422, f"{path} {zone}")
                self.assertIn("zone", answer.text, f"{path} {zone}")

    def test_one_that_was_stored_keeps_no_other_run_from_being_exported(self):
        lane, token = self.open()
        self.web.post(f"/api/lanes/{lane}/placed")
        self.push(lane, token, [{"n": n, "clock_s": 10.0 * n, "watts": 5.0} for n in range(20)])
        run = self.web.post(f"/api/lanes/{lane}/ended", json={"outcome": "complete"}).json()["run"]
        with self.database.engine.begin() as connection:
            connection.execute(text("UPDATE runs SET zone = 'a 47' WHERE id = :run"), {"run": run})
        exported = self.web.get("/api/exports/runs.csv")
        self.assertEqual(exported.status_code, 200)
        self.assertIn(run, exported.text)


class Moments(HostileTest):
    def test_years_that_no_zone_can_hold_are_refused(self):
        slot, lane = uuid.uuid4(), uuid.uuid4()
        for at in ("0001-01-01T00:00:00+14:00", "9999-12-31T23:59:59-14:00", "1969-12-31T00:00:00Z"):
            for path, body in (
                (f"/api/slots/{slot}/happened", {"what": "begin", "at": at}),
                ("/api/bench/lines", {"id": str(lane), "line": "a 47", "at": at}),
            ):
                with self.subTest((at, path)):
                    answer = self.web.post(path, json=body)
                    self.assertEqual(answer.status_code, 422, answer.text)
                    self.assertIn("outside 1970 to 2200", answer.text)


class Bodies(HostileTest):
    def test_more_than_the_limit_is_refused_before_it_is_read(self):
        for path in ("/api/sign-in", "/api/bench/echo", "/sign-in"):
            with self.subTest(path):
                host, port = self.address.removeprefix("http://").split(":")
                with socket.create_connection((host, int(port)), timeout=30) as connection:
                    head = f"POST {path} HTTP/1.1\r\nHost: {host}:{port}\r\nContent-Length: 600000000\r\n\r\n"
                    connection.sendall(head.encode())
                    self.assertIn(b" 413 ", connection.recv(4096).split(b"\r\n")[0])

    def test_an_unsaid_length_is_counted(self):
        blocks = (b"x" * 65536 for _ in range(64))
        answer = self.web.post("/api/bench/echo", content=blocks)
        self.assertEqual(answer.status_code, 413)
        self.assertEqual(answer.json()["title"], "Too large")

    def test_nested_too_deep(self):
        for body in (b"[" * 100_000, b'{"a":' * 5000 + b"1" + b"}" * 5000, b"[" * 400_000 + b"]" * 400_000):
            answer = self.web.post("/api/bench/echo", content=body, headers={"Content-Type": "application/json"})
            self.assertIn(answer.status_code, (400, 422), answer.text)

    def test_within_the_limit_passes(self):
        answer = self.web.post("/api/bench/echo", json={"line": "a note " + "x" * 1900})
        self.assertEqual(answer.status_code, 200)


class NoRoom(HostileTest):
    """A full disk is said before, answered with 507, and gone on from by itself."""

    def test_pushed_readings(self):
        lane, token = self.open()
        inbox = "jaunecharge.live.inbox."
        full = sqlite3.OperationalError("database or disk is full")
        full.sqlite_errorcode = sqlite3.SQLITE_FULL
        with (
            mock.patch(inbox + "push", side_effect=psycopg.errors.DiskFull("could not extend file")),
            mock.patch(inbox + "Spool.put", side_effect=full),
            self.assertLogs("jaunecharge.live.inbox", "ERROR"),
        ):
            answer = self.push(lane, token, [{"n": 0, "watts": 5.0}])
            self.assertEqual((answer.status_code, answer.json()["title"]), (507, "The disk is full"))
            said = " ".join(t["says"] for t in self.web.get("/api/health").json()["troubles"])
            self.assertIn("readings are not stored: the disk is full", said)
        self.assertEqual(self.push(lane, token, [{"n": 0, "watts": 5.0}]).json()["new"], 1)
        self.until(lambda: self.web.get("/api/health").json()["status"] == "ok", "it goes on by itself")

    def test_uploads(self):
        full = Upload(uuid.uuid4(), FULL, "m.csv")
        uploads = "jaunecharge.store.runs.uploads.Uploads."
        with mock.patch(uploads + "begin", return_value=full), mock.patch(uploads + "drop"):
            answer = self.web.post("/api/uploads", params={"name": "m.csv"}, content=b"x" * 3_000_000)
        self.assertEqual(answer.status_code, 507, answer.text)

    def test_other_changes(self):
        with mock.patch("jaunecharge.api.shelf.kit.store.add_piece", side_effect=psycopg.errors.DiskFull("no space")):
            answer = self.web.post("/api/kit/line", json={"line": "adapter Plug 30 30W", "keep": True})
        self.assertEqual(answer.status_code, 507, answer.text)

    def test_it_is_said_before(self):
        for free, total, low in ((900_000_000, 10**10, True), (4 * 10**9, 10**11, True), (2 * 10**10, 10**11, False)):
            with mock.patch(
                "jaunecharge.live.health.shutil.disk_usage", return_value=mock.Mock(free=free, total=total)
            ):
                health = self.web.get("/api/health").json()
            self.assertEqual(any("GB are left on the disk" in t["says"] for t in health["troubles"]), low)
            self.assertEqual((health["free_bytes"], health["total_bytes"]), (free, total))


class BehindTheOthers(HostileTest):
    HEALTHY = 9
    END_C = 39.5

    def test_a_hostile_lane_beside_nine_healthy_ones(self):
        """It changes nothing for the others: same readings, same alarms, same runs with the same figures."""
        alone = self.session(hostile=False)
        beside = self.session(hostile=True)
        self.assertEqual(len(alone), self.HEALTHY)
        self.assertTrue(any(alarms for alarms, *_ in alone) and not all(alarms for alarms, *_ in alone))
        self.assertEqual(alone, beside)

    def session(self, hostile):
        """Of each healthy lane: its alarms, its readings as stored, and the figures of its run."""
        lanes = [self.open() for _ in range(self.HEALTHY)]
        over = threading.Event()
        with ThreadPoolExecutor(1) as pool, contextlib.ExitStack() as at_last:
            # Whatever fails here, the attack ends before it is waited for.
            at_last.callback(over.set)
            if hostile:
                pool.submit(self.attack, *self.open(), over)
            for k, (lane, token) in enumerate(lanes):
                self.assertEqual(self.web.post(f"/api/lanes/{lane}/placed").status_code, 200)
                rows = [
                    {"n": i, "clock_s": i / 10, "volts": 9.0, "amps": 1.0 + i / 1000 + k / 10,
                     "celsius": self.END_C + k - max(0, 150 - i) / 10, "position": "back"}
                    for i in range(300)
                ]  # fmt: skip
                self.until(lambda: self.push(lane, token, rows).json().get("committed"), "they are stored")  # noqa: B023
            # The last quarter of a minute is level: whichever steps it falls into, their means are the same.
            hot = [lane for k, (lane, _) in enumerate(lanes) if self.END_C + k >= 45.0]
            hotly = lambda lane: any(not a.endswith("silent") for a in self.alarms(lane))  # noqa: E731
            self.until(lambda: all(map(hotly, hot)), "alarms come")
            return [self.ended(lane) for lane, _ in lanes]

    def ended(self, lane):
        # How long nothing came is a matter of the machine: all readings of a lane are sent at once.
        alarms = sorted(a for a in self.alarms(lane) if not a.endswith("silent"))
        with self.database.engine.connect() as connection:
            query = "SELECT n, watts, celsius FROM lane_readings WHERE lane_id = :lane ORDER BY n"
            stored = [tuple(r) for r in connection.execute(text(query), {"lane": lane})]
        ended = self.web.post(f"/api/lanes/{lane}/ended", json={"outcome": "complete"})
        run = self.web.get(f"/api/runs/{ended.json()['run']}").json()
        figures = {f["key"]: round(f["value"], 6) for f in run["figures"] if f["value"] is not None}
        return alarms, stored, run["samples"], figures

    def attack(self, lane, token, over):
        n = 0
        while not over.is_set():
            for clock in (-1e12, 1e12, 0.0, -1e-300):
                n += 1
                self.push(lane, token, [{"n": n, "clock_s": clock, "watts": 400.0}], source=f"s{n % 7}", boot=str(n))
