"""A lane with a meter at the socket and a sensor of the room for all lanes, over a broker; what its run keeps."""

import csv
import datetime as dt
import io
import json
import tempfile
import time
import uuid
import zipfile
from dataclasses import replace
from pathlib import Path

from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.core.log.points import METER, SOCKET
from jaunecharge.live.figures import Figures
from jaunecharge.live.instruments import Hangs, row_of, wanted
from jaunecharge.store.kit import add_all
from tests.api.test_bench import FACTORS, LINES, BenchTest
from tests.live.test_topics import Broker


class Rows(BenchTest):
    def test_each_lane_gets_what_the_instrument_measures_there(self):
        a, b = uuid.uuid4(), uuid.uuid4()
        hangs = [
            Hangs(a, {"meter": "m:1", "probe": "m:1", "socket": "s:1", "room": "r:1"}, 1.0),
            Hangs(b, {"meter": "m:2", "probe": "", "socket": "", "room": "r:1"}, 10.0),
        ]
        asked = wanted(hangs)
        self.assertEqual(set(asked), {"m:1", "m:2", "s:1", "r:1"})
        self.assertEqual(dict(asked["m:1"].lanes), {a: frozenset({"meter", "probe"})})
        self.assertEqual({lane for lane, _ in asked["r:1"].lanes}, {a, b})
        self.assertEqual((asked["r:1"].power, asked["s:1"].power, asked["r:1"].speed), (False, True, 10.0))

    def test_a_plugs_own_temperature_is_nobodys_and_the_rooms_is_the_rooms(self):
        told = Figures(1.0, 230.0, 0.1, 14.0, 35.0, 50.0, 41.0)
        socket = row_of(told, 7, 1.0, frozenset({"socket"}))
        self.assertEqual((socket.point, socket.watts, socket.celsius, socket.percent), (SOCKET, 14.0, None, None))
        room = row_of(told, 7, 1.0, frozenset({"room"}))
        self.assertEqual((room.position, room.celsius, room.watts, room.humidity), ("room", 35.0, None, 41.0))
        meter = row_of(told, 7, 1.0, frozenset({"meter"}))
        self.assertEqual((meter.point, meter.position, meter.watts), (METER, "back", 14.0))
        self.assertIsNone(row_of(replace(told, humidity=None), 7, 1.0, frozenset()))


class OnLanes(BenchTest):
    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        folder = Path(cls.enterClassContext(tempfile.TemporaryDirectory()))
        cls.broker = Broker(folder).start()
        cls.addClassCleanup(cls.broker.stop)
        at = f"mqtt://127.0.0.1:{cls.broker.port}"
        pieces = [
            replace(kit_from_line("meter Hut plug socket 1%"), address=f"{at}/plug?watts=power"),
            replace(kit_from_line("probe Bunk room air 0.5K"), address=f"{at}/room?celsius=t&humidity=rh"),
            kit_from_line("probe Bead thermocouple"),
        ]
        with cls.database.session() as session:
            add_all(session, pieces, "")
        cls.client = cls.broker.publisher()
        cls.addClassCleanup(cls.client.loop_stop)

    @classmethod
    def fill(cls):
        with cls.database.session() as session:
            add_all(session, [kit_from_line(line) for line in LINES], "")

    def publish(self, watts=18.0, celsius=19.5, humidity=55.0):
        self.client.publish("plug", json.dumps({"power": watts, "temperature": 60.0}), qos=1)
        self.client.publish("room", json.dumps({"t": celsius, "rh": humidity}), qos=1)

    def told(self, lane):
        """The lane once its socket and its room are heard; published again and again until then."""

        def there():
            self.publish()
            time.sleep(0.2)
            view = self.view(lane)
            return view if view["socket_w"] is not None and view["humidity"] is not None else None

        return self.until(there, "socket and room are not heard")

    def test_the_socket_of_one_lane_and_the_room_of_all(self):
        a = self.open(meter="Inline A", socket="Hut plug socket")
        b = self.open(meter="Inline A")
        none = self.open(meter="Inline A", room="")
        self.assertEqual((a["room"], b["room"], none["room"]), ("Bunk room air", "Bunk room air", ""))
        view = self.told(a)
        self.assertEqual(
            (view["socket_w"], view["watts"], view["humidity"], view["hottest_c"]), (18.0, None, 55.0, None)
        )
        self.assertEqual({p["place"]: p["celsius"] for p in view["places"]}, {"room": 19.5})
        other = self.until(lambda: (v := self.view(b))["humidity"] is not None and v, "the room is not told to lane B")
        self.assertIsNone(other["socket_w"])
        self.assertIsNone(self.view(none)["humidity"])

    def test_an_instrument_in_another_ones_place_is_refused(self):
        for role, label in (
            ("meter", "Hut plug socket"), ("socket", "Inline A"), ("probe", "Bunk room air"), ("room", "Bead"),
        ):  # fmt: skip
            answer = self.web.post("/api/lanes", json={"factors": FACTORS, role: label})
            self.assertEqual((answer.status_code, role in answer.text), (422, True), answer.text)

    def test_its_run_keeps_the_points_and_what_is_lost_between_them(self):
        lane = self.open(meter="Inline A", socket="Hut plug socket")
        self.told(lane)
        self.type("a", "placed")
        hour_ago = dt.datetime.now(dt.UTC) - dt.timedelta(hours=1)
        moved = self.web.put(f"/api/lanes/{lane['id']}/placed", json={"at": hour_ago.isoformat()})
        self.assertEqual(moved.status_code, 200, moved.text)
        # An hour, pushed at once: 12 W at the meter, 15 at the socket, 8 as the phone says; a point each 90 s.
        clock = [10.0 * n for n in range(361)]
        sent = {
            "m": [{"volts": 9.0, "amps": 12.0 / 9.0} for _ in clock],
            "p": [{"watts": 15.0, "point": "socket"} for _ in clock],
            "f": [{"watts": 8.0, "point": "phone", "percent": 10.0 + t // 90.0} for t in clock],
        }
        for source, rows in sent.items():
            rows = [row | {"n": n, "clock_s": t} for n, (t, row) in enumerate(zip(clock, rows, strict=True))]
            self.assertEqual(self.push(lane, rows, source=source).status_code, 200)
        answer = self.web.post(
            f"/api/lanes/{lane['id']}/ended", json={"id": str(uuid.uuid4()), "outcome": "complete", "reason": ""}
        )
        self.assertEqual(answer.status_code, 200, answer.text)
        run = self.web.get(f"/api/runs/{answer.json()['run']}").json()
        self.assertEqual([s["key"] for s in run["stages"]], ["socket", "meter", "phone", "battery"])
        figures = {f["key"]: f for f in run["figures"]}
        self.assertAlmostEqual(figures["socket_to_meter"]["value"], 80.0, delta=0.5)
        self.assertAlmostEqual(figures["meter_to_phone"]["value"], 66.7, delta=0.5)
        self.assertEqual(run["case"]["socket_meter"]["gain_percent"], 1.0)
        series = self.web.get(f"/api/runs/{run['id']}/series").json()
        self.assertIn(15.0, series["socket_watts"])
        self.assertIn(8.0, series["phone_watts"])
        with zipfile.ZipFile(io.BytesIO(self.web.get(f"/api/exports/runs/{run['id']}.zip").content)) as archive:
            read = list(csv.DictReader(io.StringIO(archive.read("socket.csv").decode("utf-8-sig"))))
            document = json.loads(archive.read("reading.json"))
        self.assertGreater(len(read), 300)
        through = {(p["from"], p["to"]): p["share"]["value"] for p in document["along_chain"]["through"]}
        self.assertAlmostEqual(through["socket", "meter"], 0.8, delta=0.005)
        table = self.web.get("/api/exports/runs.csv").text
        row = next(r for r in csv.DictReader(io.StringIO(table.lstrip("\ufeff"))) if r["id"] == run["id"])
        self.assertAlmostEqual(float(row["through_adapter"]), 0.8, delta=0.005)

    def test_a_plug_that_is_read_by_eye(self):
        lane = self.open()
        self.type("a", "placed")
        for minute, watts in ((0, 20.0), (20, 19.0), (40, 18.0), (60, 12.0)):
            self.type("a", f"{watts}w socket @-{60 - minute}")
            self.type("a", f"{10 + minute} @-{60 - minute}")
        self.assertEqual(self.view(lane)["socket_w"], 12.0)
        self.type("a", "fix 12.5w socket")
        self.assertEqual(self.view(lane)["socket_w"], 12.5)

    def test_a_socket_that_feeds_two_lanes_is_credited_to_neither(self):
        a, b = (self.open(meter="", socket="Hut plug socket") for _ in range(2))
        runs = []
        for lane in (a, b):
            self.told(lane)
            self.type(lane["name"].lower(), "placed")
            self.type(lane["name"].lower(), "20")
        for lane in (a, b):
            self.type(lane["name"].lower(), "21")
            answer = self.web.post(
                f"/api/lanes/{lane['id']}/ended", json={"id": str(uuid.uuid4()), "outcome": "complete", "reason": ""}
            )
            runs.append(self.web.get(f"/api/runs/{answer.json()['run']}").json())
        self.assertEqual([run["case"]["socket_shared"] for run in runs], [True, True])
