"""The bench by its API: lanes set, placed, logged to, ended; readings pushed; two processes in step."""

import contextlib
import datetime as dt
import io
import json
import threading
import time
import uuid
import zipfile
from dataclasses import replace

import httpx

from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.instruments.faults import fault
from jaunecharge.instruments.playback import Playback
from jaunecharge.instruments.standins import standing_in
from jaunecharge.store.bench.lanes import get_lane
from jaunecharge.store.kit import add_all
from tests.instruments.playing import scenario
from tests.serving import ServedTest, served

LINES = (
    "phone Ostrel Max 4620mAh mpp wired 25W large magnets", "puck Cairn disc mpp claims 15W asks 9V2.22A",
    "adapter Plug 20 20W", "meter Inline A 0.5%",
)  # fmt: skip
FACTORS = {"phone": "Ostrel Max", "charger": "Cairn disc", "adapter": "Plug 20"}


class BenchTest(ServedTest):
    @classmethod
    def fill(cls):
        with cls.database.session() as session:
            add_all(session, [kit_from_line(line) for line in LINES], "")

    def setUp(self):
        super().setUp()
        for lane in self.lanes():
            self.type(lane["view"]["name"], "end void tidied up")

    def lanes(self):
        return self.web.get("/api/bench").json()["lanes"]

    def open(self, **more):
        answer = self.web.post("/api/lanes", json={"factors": FACTORS, "ambient_c": 25.0, **more})
        self.assertEqual(answer.status_code, 201, answer.text)
        return answer.json()["view"]

    def type(self, lane, text, sure=True, web=None, **more):
        body = {"id": str(uuid.uuid4()), "line": f"{lane} {text}", "sure": sure, **more}
        return (web or self.web).post("/api/bench/lines", json=body).json()

    def view(self, lane, web=None):
        return (web or self.web).get(f"/api/lanes/{lane['id']}").json()["view"]

    def until(self, true, what, seconds=60.0):
        """Wait for something that happens by itself."""
        end = time.monotonic() + seconds
        while not (found := true()):
            self.assertLess(time.monotonic(), end, what)
            time.sleep(0.05)
        return found

    def token(self, lane):
        with self.database.session() as session:
            return get_lane(session, uuid.UUID(lane["id"])).token

    def push(self, lane, rows, source="meter", token=None, web=None):
        headers = {"Authorization": f"Bearer {token or self.token(lane)}"}
        body = {"source": source, "readings": rows}
        return (web or self.web).post(f"/api/lanes/{lane['id']}/readings", json=body, headers=headers)


class Levels(BenchTest):
    def test_a_level_that_the_model_does_not_know_is_forecast_as_its_card_has_it(self):
        watts = {}
        for state in ("idle", "plays a game", "In use"):
            factors = FACTORS | {"phone_state": state, "airflow": "window open"}
            made = self.web.post("/api/lanes", json={"factors": factors, "ambient_c": 25.0})
            self.assertEqual(made.status_code, 201, made.text)
            watts[state] = made.json()["ghost"]["watts"]
        self.assertEqual(watts["plays a game"], watts["idle"])
        self.assertNotEqual(watts["In use"], watts["idle"])


class Places(BenchTest):
    def test_a_probe_called_back_top_is_on_the_phone_for_figures_and_alarms_alike(self):
        lane = self.open()
        self.type("a", "placed")
        rows = [{"n": 0, "clock_s": 0.0, "celsius": 51.0, "position": "Back top"}]
        rows += [{"n": 1, "clock_s": 0.0, "celsius": 55.0, "position": "Pad underside"}]
        self.assertEqual(self.push(lane, rows, source="probe").status_code, 200)
        view = self.until(lambda: (v := self.view(lane))["hottest_c"] is not None and v, "it is shown")
        self.assertEqual(view["hottest_c"], 51.0)
        self.assertEqual({p["place"]: p["phone"] for p in view["places"]}, {"Back top": True, "Pad underside": False})
        alarms = self.until(lambda: self.view(lane)["alarms"], "it is told to stop")
        self.assertEqual(
            [(a["key"], a["seen"]) for a in alarms if a["key"] == "stop"], [("stop", "51.0 °C at the phone")]
        )


class Setting(BenchTest):
    def test_an_empty_bench(self):
        self.assertEqual(self.lanes(), [])
        self.assertIn("no lane is open", self.type("a", "47")["echo"]["why"])

    def test_a_lane_knows_what_to_expect(self):
        lane = self.open()
        self.assertEqual((lane["name"], lane["state"], lane["label"]), ("A", "setting", "Ostrel Max on Cairn disc"))
        self.assertEqual(lane["steps"][0]["key"], "adapter")
        found = self.web.get(f"/api/lanes/{lane['id']}").json()
        self.assertGreater(max(found["ghost"]["watts"]), 15.0)

    def test_steps_are_told_and_seen(self):
        lane = self.open()
        self.push(lane, [{"n": n, "clock_s": n, "volts": 9.02, "amps": 0.04} for n in range(20)])
        self.type("a", "10")
        self.type("a", "24.8c 24.5c room")
        seen = self.until(
            lambda: {s["key"] for s in self.view(lane)["steps"] if s["state"] == "seen"} == {
                "adapter", "charger", "volts", "no_load", "percent", "cool"
            },
            "the meter's steps",
        )  # fmt: skip
        self.assertTrue(seen)
        url = f"/api/lanes/{lane['id']}/steps/settings"
        self.assertEqual(self.web.post(url, json={"state": "done"}).status_code, 200)
        refused = self.web.post(url, json={"state": "skipped"})
        self.assertEqual((refused.status_code, refused.json()["detail"]), (422, "a step is skipped with a reason"))
        self.assertEqual(self.view(lane)["next_step"], "around")

    def test_five_volts_are_called_out(self):
        lane = self.open()
        self.push(lane, [{"n": n, "clock_s": n, "volts": 5.1, "amps": 0.05} for n in range(20)])
        odd = self.until(lambda: {s["key"]: s["odd"] for s in self.view(lane)["steps"]}["volts"], "what is odd")
        self.assertIn("9 V expected", odd)

    def test_what_is_unknown_is_refused(self):
        answer = self.web.post("/api/lanes", json={"factors": FACTORS, "meter": "Nothing"})
        self.assertIn("no meter “Nothing” on the shelf", answer.json()["detail"])
        self.assertEqual(self.web.post("/api/lanes", json={"factors": {}}).json()["detail"], "no phone is named")
        self.assertEqual(self.web.get(f"/api/lanes/{uuid.uuid4()}").status_code, 404)


class Typing(BenchTest):
    def test_echo_before_it_is_logged(self):
        self.open()
        self.type("a", "41")
        said = self.web.post("/api/bench/echo", json={"line": "a 47"}).json()
        self.assertEqual((said["understood"], said["lane"], said["said"]), (True, "A", ["battery 47 %"]))
        self.assertIn("up from 41 %", said["before"])
        self.assertFalse(self.web.post("/api/bench/echo", json={"line": "a fish"}).json()["understood"])

    def test_what_is_odd_is_asked_once_and_then_logged(self):
        lane = self.open()
        self.type("a", "52")
        asked = self.type("a", "47", sure=False)
        self.assertEqual((asked["logged"], len(asked["echo"]["doubts"])), (False, 1))
        self.assertTrue(self.type("a", "47")["logged"])
        self.assertEqual(self.view(lane)["percent"], 47.0)

    def test_sent_twice_it_is_logged_once(self):
        lane = self.open()
        body = {"id": str(uuid.uuid4()), "line": "a 47 33c"}
        for _ in range(2):
            self.web.post("/api/bench/lines", json=body)
        self.assertEqual(len(self.view(lane)["entries"]), 2)

    def test_a_correction_shows_its_first_value(self):
        lane = self.open()
        self.type("a", "47")
        entry = self.view(lane)["entries"][0]
        url = f"/api/lanes/{lane['id']}/entries/{entry['id']}"
        fixed = self.web.patch(url, json={"id": str(uuid.uuid4()), "line": "46"}).json()["entries"][0]
        self.assertEqual((fixed["said"], fixed["first"]), ("battery 46 %", "battery 47 %"))
        refused = self.web.patch(url, json={"id": str(uuid.uuid4()), "line": "31c"})
        self.assertEqual(refused.json()["detail"], "that is of another kind")
        log = self.web.get(f"/api/lanes/{lane['id']}/log").json()
        self.assertIn("corrected: battery 47 % becomes battery 46 %", [e["said"] for e in log])

    def test_minutes_ago_and_times_of_day(self):
        lane = self.open()
        self.type("a", "47 @-5")
        self.assertAlmostEqual(self.view(lane)["percent_s"], self.view(lane)["now_s"] - 300.0, delta=5.0)
        # A time of day is one of today: in the last hours of the day the last minute is what is still to come.
        now = dt.datetime.now(dt.UTC)
        later = "23:59" if now.hour >= 22 else f"{now + dt.timedelta(hours=2):%H:%M}"
        self.assertIn("still to come", self.type("a", f"47 @{later}")["echo"]["why"])

    def test_the_help_is_what_the_parser_takes(self):
        self.open(), self.open(), self.open()
        self.type("a", "placed")
        for row in self.web.get("/api/bench/help").json():
            found = self.web.post("/api/bench/echo", json={"line": row["example"]}).json()
            # By the clock of the day a moment may be still to come.
            self.assertTrue(found["understood"] or "still to come" in found["why"], row)


class Placing(BenchTest):
    """A placing that was told wrong can be moved and taken back."""

    def begun(self):
        lane = self.open()
        self.type("a", "10 24c room")
        self.type("a", "placed")
        self.assertEqual(self.view(lane)["state"], "running")
        return lane

    def test_a_line_may_count_from_the_placing(self):
        lane = self.open()
        self.assertIn("not placed yet", self.type("a", "34 @+30")["echo"]["why"])
        self.type("a", "placed @-60")
        self.assertEqual(self.type("a", "34 @+30")["echo"]["at"], "30 min after placing")
        view = self.view(lane)
        self.assertAlmostEqual(view["percent_s"] - view["placed_s"], 1800.0, delta=0.1)
        self.assertIn("still to come", self.type("a", "34 @+90")["echo"]["why"])

    def test_it_is_moved_by_a_line_and_by_a_moment(self):
        lane = self.begun()
        before = self.view(lane)
        self.assertTrue(self.type("a", "placed @-10")["logged"])
        moved = self.view(lane)
        self.assertAlmostEqual(before["placed_s"] - moved["placed_s"], 600.0, delta=10.0)
        at = (dt.datetime.now(dt.UTC) - dt.timedelta(minutes=5)).isoformat()
        again = self.web.put(f"/api/lanes/{lane['id']}/placed", json={"at": at}).json()
        self.assertAlmostEqual(again["now_s"] - again["placed_s"], 300.0, delta=5.0)
        log = self.web.get(f"/api/lanes/{lane['id']}/log").json()
        placings = [(e["said"], e["undone"]) for e in log if e["kind"] == "placed"]
        self.assertEqual(sorted(undone for _, undone in placings), [False, True, True])
        twice = self.web.post(f"/api/lanes/{lane['id']}/placed")
        self.assertIn("placed @14:05 moves the placing", twice.json()["mend"])

    def test_it_is_taken_back_by_the_line_by_undo_and_by_the_button(self):
        lane = self.begun()
        ways = (
            lambda: self.type("a", "not placed"),
            lambda: self.type("a", "u"),
            lambda: self.web.delete(f"/api/lanes/{lane['id']}/placed"),
        )
        for way in ways:
            way()
            view = self.view(lane)
            self.assertEqual((view["state"], view["placed_s"], view["percent"]), ("setting", None, 10.0))
            self.type("a", "placed")
            self.assertEqual(self.view(lane)["state"], "running")

    def test_undo_takes_back_what_a_person_entered_and_not_what_the_meter_saw(self):
        lane = self.open()
        self.push(lane, [{"n": n, "clock_s": n, "watts": 0.4 if n < 60 else 17.0} for n in range(180)])
        self.until(lambda: self.view(lane)["state"] == "running", "the meter sees it")
        self.type("a", "12")
        self.type("a", "u")
        self.assertEqual((self.view(lane)["state"], self.view(lane)["percent"]), ("running", None))
        # Taken back by hand it is not seen once more in what the meter showed before.
        self.type("a", "not placed")
        time.sleep(2.5)
        self.assertEqual(self.view(lane)["state"], "setting")


class Running(BenchTest):
    def test_a_whole_lane_with_stand_ins(self):
        lane = self.open(practice=120)
        self.assertTrue(lane["simulated"])
        self.until(lambda: self.view(lane)["volts"], "the meter answers")
        self.web.post(f"/api/lanes/{lane['id']}/placed")
        running = self.until(lambda: (v := self.view(lane))["state"] == "running" and v, "the meter sees the placing")
        self.assertIn("placed: t = 0", [e["said"] for e in self.web.get(f"/api/lanes/{lane['id']}/log").json()])
        self.until(lambda: (self.view(lane)["percent"] or 0) >= 25, "the phone reports its percentage")
        found = self.web.get(f"/api/lanes/{lane['id']}").json()
        self.assertGreater(max(w for _, w in found["traced"]["watts"]), 15.0)
        self.assertTrue(found["traced"]["celsius"])
        self.assertIsNotNone(found["view"]["finish"]["likely_s"])
        ended = self.type(running["name"], "end early seen enough")
        run = self.web.get(f"/api/runs/{ended['run']}").json()
        self.assertEqual((run["origin"], run["simulated"]), ("bench", True))
        self.assertGreater(run["samples"], 20)
        self.assertEqual(self.lanes(), [])
        self.assertEqual(self.web.get(f"/api/lanes/{lane['id']}").status_code, 410)
        late = self.push(lane, [{"n": 0, "watts": 1.0}])
        self.assertEqual(late.status_code, 410)

    def test_a_lane_of_which_the_stand_in_has_played_all_ends_by_itself(self):
        short = replace(scenario(), most_s=240.0)
        with standing_in(Playback(short, time.monotonic, 120.0)) as standin:
            with self.database.session() as session:
                add_all(session, [kit_from_line(f"meter Short address:{standin.address}")], "")
            lane = self.open(meter="Short")
            self.until(lambda: self.view(lane)["volts"], "the meter answers")
            self.web.post(f"/api/lanes/{lane['id']}/placed")
            self.type(lane["name"], "10")
            self.until(lambda: not self.lanes(), "it ends by itself")
        run = self.web.get("/api/runs").json()[0]
        self.assertEqual((run["origin"], run["outcome"], run["simulated"]), ("bench", "complete", True))

    def test_a_stand_in_on_the_shelf_is_known_for_one(self):
        playback = Playback(scenario(), time.monotonic, 60.0)
        with standing_in(playback) as standin:
            tried = self.web.post("/api/instruments/try", json={"address": standin.address}).json()
            self.assertTrue(tried["stand_in"])
            self.assertAlmostEqual(tried["volts"], 9.0, delta=0.3)
            with self.database.session() as session:
                add_all(session, [kit_from_line(f"meter Stand address:{standin.address}")], "")
            lane = self.open(meter="Stand")
            self.assertEqual((lane["speed"], lane["simulated"]), (60.0, True))
            self.until(lambda: self.view(lane)["watts"] is not None, "it is asked")
            standin.faults.order(fault("silence@0+99999"))
            alarm = self.until(lambda: self.view(lane)["alarms"], "silence is told")[0]
            self.assertEqual(alarm["key"], "meter silent")
            self.assertIn("does not answer", alarm["do"])

    def test_an_instrument_that_is_none(self):
        tried = self.web.post("/api/instruments/try", json={"address": "127.0.0.1:1"}).json()
        self.assertIn("nobody answers", tried["problem"])
        self.assertEqual(self.web.post("/api/instruments/try", json={"address": "x"}).status_code, 422)


class Pushing(BenchTest):
    def test_acknowledged_once_and_only_with_the_lanes_token(self):
        lane, other = self.open(), self.open()
        rows = [{"n": n, "clock_s": n, "watts": 18.0} for n in range(5)]
        first, again = (self.push(lane, rows).json() for _ in range(2))
        self.assertEqual((first["committed"], first["new"], again["new"], again["duplicates"]), (True, 5, 0, 5))
        self.assertEqual(self.push(lane, rows, token=self.token(other)).status_code, 401)
        self.assertEqual(self.push(lane, rows, token="nothing").status_code, 401)

    def test_what_is_no_reading_is_refused(self):
        lane = self.open()
        for row in ({"n": -1, "watts": 1}, {"watts": 1}, {"n": 0, "volts": 900}, {"n": 0, "percent": 101}):
            with self.subTest(row):
                self.assertEqual(self.push(lane, [row]).status_code, 422)
        self.assertEqual(self.push(lane, []).status_code, 422)

    def test_a_restart_and_a_leaping_clock_are_in_the_log(self):
        lane = self.open()
        self.push(lane, [{"n": n, "clock_s": n, "watts": 18.0} for n in range(5)])
        self.push(lane, [{"n": n, "clock_s": 50 + n, "watts": 18.0} for n in range(2)])
        self.push(lane, [{"n": 2, "clock_s": 9000, "watts": 18.0}])
        log = [e["said"] for e in self.web.get(f"/api/lanes/{lane['id']}/log").json()]
        self.assertTrue(any("started over" in x for x in log), log)
        self.assertTrue(any("jumped ahead" in x for x in log), log)


class InStep(BenchTest):
    @contextlib.contextmanager
    def listening(self, web=None, after=None, last=None):
        """Events of the stream as they come."""
        heard, ready, over = [], threading.Event(), threading.Event()

        def listen():
            headers = {"Last-Event-ID": str(last)} if last is not None else {}
            address = f"/api/bench/events?after={after if after is not None else -1}"
            with (web or self.web).stream("GET", address, headers=headers, timeout=60) as answer:
                ready.set()
                for line in answer.iter_lines():
                    if line.startswith("data:"):
                        heard.append(json.loads(line[5:]))
                    if over.is_set():
                        return

        thread = threading.Thread(target=listen, daemon=True)
        thread.start()
        self.assertTrue(ready.wait(60))
        try:
            yield heard
        finally:
            over.set()
            thread.join(60)

    def test_two_processes_on_one_database_tell_the_same(self):
        lane = self.open()
        with (
            served(self.database, self.folder / "other" / "uploads") as address,
            httpx.Client(base_url=address, timeout=60) as other,
            self.listening(other) as heard,
        ):
            self.until(lambda: heard, "the other process tells what there is")
            self.type("a", "47")
            self.until(
                lambda: any(v["percent"] == 47.0 for e in heard for v in e["views"]),
                "an entry reaches the other process",
            )
            self.push(lane, [{"n": n, "clock_s": n, "watts": 17.0} for n in range(3)], web=other)
            self.assertEqual(self.until(lambda: self.view(lane)["watts"], "a reading comes back"), 17.0)

    def test_who_comes_back_misses_nothing(self):
        lane = self.open()
        tick = self.push(lane, [{"n": 0, "clock_s": 0, "watts": 5.0}]).json()["tick"]
        self.push(lane, [{"n": n, "clock_s": 0.01 * n, "watts": 9.0} for n in range(1, 4)])
        with self.listening(last=tick) as heard:
            first = self.until(lambda: [e for e in heard if e["tick"] > tick], "what was missed")[0]
        figures = first["figures"][lane["id"]]
        self.assertEqual(figures[1], 9.0)
        self.assertIn(round(figures[5][-1][1]), (8, 9), "the mean of those in the last step")

    def test_a_lane_that_ends_is_told(self):
        lane = self.open()
        with self.listening() as heard:
            self.until(lambda: heard, "the first")
            self.type("a", "end void enough")
            self.until(lambda: any(lane["id"] in e["over"] for e in heard), "its end")


class WithoutAMeter(BenchTest):
    def test_a_run_that_no_meter_saw_is_shown_and_exported(self):
        lane = self.open()
        for text in ("10 24c", "placed", "12 25c", "end"):
            ended = self.type(lane["name"], text)
        run = self.web.get(f"/api/runs/{ended['run']}").json()
        self.assertEqual((run["samples"], run["outcome"]), (0, "complete"))
        self.assertIn("No watts were logged", run["warnings"][0])
        self.assertTrue(all("nothing was logged" not in w for w in run["warnings"]))
        series = self.web.get(f"/api/runs/{ended['run']}/series").json()
        self.assertEqual([w for w in series["watts"] if w is not None], [])
        archive = self.web.get(f"/api/exports/runs/{ended['run']}.zip")
        self.assertEqual(archive.status_code, 200)
        self.assertNotIn("meter.csv", zipfile.ZipFile(io.BytesIO(archive.content)).namelist())
        self.assertIn(lane["label"], self.web.get("/api/exports/runs.csv").text)
        listed = next(r for r in self.web.get("/api/runs").json() if r["id"] == ended["run"])
        self.assertIsNone(listed["summary"]["energy_in_wh"])
