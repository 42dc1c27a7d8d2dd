"""Lanes of packs by their API: under load, being filled, a phone on a pack, a phone on a phone; what comes of them."""

import uuid

from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.core.simulator import Load, PackScenario
from jaunecharge.instruments.pack_playback import PackPlayback, load_of
from jaunecharge.instruments.standins import standing_in
from jaunecharge.store.kit import add_all
from tests.api.test_bench import BenchTest

PACKS = (
    "pack Col bank 10000mAh 3.7V 5V3A mpp 4 lamps", "phone Ostrel Max 4620mAh mpp wired 25W large magnets",
    "phone Tarn 9 4360mAh epp gives_w:4.5 gives_stop_percent:30", "puck Cairn disc mpp claims 15W",
    "meter Inline A 0.5%",    "adapter Plug 20 20W", "cable Braided 3A",
)  # fmt: skip


class PackBench(BenchTest):
    @classmethod
    def fill(cls):
        with cls.database.session() as session:
            add_all(session, [kit_from_line(line) for line in PACKS], "")

    def open_pack(self, kind="load", status=201, **more):
        answer = self.web.post("/api/lanes", json={"kind": kind, "pack": "Col bank", **more})
        self.assertEqual(answer.status_code, status, answer.text)
        return answer.json()["view"] if status == 201 else answer.json()

    def kept_of(self, logged):
        self.assertTrue(logged["logged"], logged)
        return self.web.get(f"/api/pack-tests/{logged['pack_test']}").json()


class UnderLoad(PackBench):
    def test_read_by_eye_from_full_until_it_goes_off(self):
        lane = self.open_pack(meter="Inline A")
        name = lane["name"]
        self.assertEqual((lane["kind"], lane["phone"], lane["chain"]), ("load", "Col bank", "under load"))
        self.assertEqual([s["key"] for s in lane["steps"]], ["pack", "volts", "around", "place"])
        self.type(name, "100 @-202")
        self.assertEqual(self.view(lane)["pack_level"], "100")
        self.type(name, "5.12v 0a @-201")
        self.type(name, "placed @-200")
        for minute, text in ((0.1, "5.04v 1a"), (30, "5.03v 1a"), (60, "75"), (60, "4.98v 2a"), (150, "4.97v 2a")):
            self.type(name, f"{text} @+{minute:.0f}")
        self.type(name, "3 lamps @+61")
        self.type(name, "0v 0a @+151")
        self.type(name, "back by button")
        test = self.kept_of(self.type(name, "end"))
        self.assertEqual((test["kind"], test["pack"]), ("load", "Col bank"))
        self.assertEqual([x["level"] for x in test["document"]["notes"]["levels"]][-2:], ["75", "3 lamps"])
        self.assertEqual(test["document"]["notes"]["restart"], "by its button")
        said = " ".join(s["text"] for s in test["sentences"])
        self.assertIn("Cut off after", said)
        true = (5.03 * 1 * 60 + 4.97 * 2 * 90) / 60
        delivered = next(f for f in test["figures"] if f["key"] == "delivered")
        self.assertLess(abs(delivered["value"] - true), delivered["expanded"])
        [row] = self.web.get("/api/packs").json()["packs"]
        self.assertGreaterEqual(row["counts"]["load"], 1)
        self.assertNotIn(name, [x["view"]["name"] for x in self.lanes()])

    def test_a_stand_in_from_full_to_empty(self):
        lane = self.open_pack(practice=120)
        self.assertTrue(lane["simulated"])
        self.until(lambda: self.view(lane)["volts"], "no volts came")
        self.web.post(f"/api/lanes/{lane['id']}/placed")
        self.until(lambda: "Wh given" in self.view(lane)["phase_said"], "nothing was drawn")
        self.assertEqual(self.view(lane)["state"], "running")

        def closed():
            return [t for t in self.web.get("/api/packs/Col bank").json()["tests"] if t["kind"] == "load"]

        before = len(closed())
        # A machine that asks seldom has little of it yet: it is refused until there is something to keep.
        self.until(lambda: self.type(lane["name"], "end")["logged"], "it does not end")
        test = self.web.get(f"/api/pack-tests/{closed()[0]['id']}").json()
        self.assertEqual(len(closed()), before + 1)
        self.assertTrue(any("at least" in w for w in test["warnings"]))

    def test_a_pack_on_an_electronic_load_lets_go(self):
        scenario = PackScenario(rated_mah=10_000, cell_v=3.7, output_v=5.1, lets_go_a=2.2, back="by itself")
        clock = [0.0]
        playback = PackPlayback(scenario, [(120, Load(1.0)), (120, Load(2.0)), (60, Load(3.0))], lambda: clock[0], 1.0)
        with standing_in(playback) as stand_in:
            self.assertEqual(stand_in.answer("*IDN?").split(",")[1], "stand-in both")
            self.assertAlmostEqual(float(stand_in.answer("MEAS:VOLT?")), 5.1, delta=0.02)
            stand_in.answer("SIM:PLACE")
            clock[0] = 200.0
            self.assertAlmostEqual(float(stand_in.answer("MEAS:CURR?")), 2.0, delta=0.02)
            clock[0] = 243.0
            self.assertEqual(float(stand_in.answer("MEAS:VOLT?")), 0.0)
            stand_in.answer("SIM:LOAD 5W")
            clock[0] = 300.0
            self.assertAlmostEqual(float(stand_in.answer("MEAS:POW?")), 5.0, delta=0.1)
            stand_in.answer("SIM:PACK EMPTY")
            clock[0] = 400.0
            self.assertEqual((stand_in.answer("SIM:OVER?"), float(stand_in.answer("MEAS:VOLT?"))), ("1", 0.0))
            stand_in.answer("SIM:PACK DANCE")
            self.assertIn("Illegal", stand_in.answer("SYST:ERR?"))
            for text in ("fast", "-2A", "1e9W", ""):
                stand_in.answer(f"SIM:LOAD {text}")
                self.assertIn("Illegal", stand_in.answer("SYST:ERR?"), text)
        self.assertEqual(load_of("5 ohm"), Load(5.0, "ohm"))

    def test_a_pack_that_rises_is_asked_about_and_hardly_anything_is_refused(self):
        lane = self.open_pack()
        name = lane["name"]
        self.type(name, "100 @-61")
        self.type(name, "placed @-60")
        self.type(name, "pack 60 @+30")
        asked = self.type(name, "pack 80", sure=False)
        self.assertEqual(asked["logged"], False)
        self.assertIn("does not rise", asked["echo"]["doubts"][0])
        answer = self.web.post(f"/api/lanes/{lane['id']}/ended", json={"outcome": "complete"})
        self.assertEqual(answer.status_code, 422, answer.text)
        self.assertIn("hardly anything was logged", answer.text)
        self.assertEqual(self.type(name, "end void gave up")["logged"], True)

    def test_what_cannot_be_opened(self):
        self.open_pack(status=404, **{"pack": "Cairn disc"})
        self.assertIn("no method", str(self.open_pack(status=422, method="From dead")))
        self.assertIn("no stand-in plays", str(self.open_pack("recharge", status=422, practice=60)))


class Filled(PackBench):
    def test_a_recharge_from_empty(self):
        lane = self.open_pack("recharge")
        token = self.token(lane)
        self.type(lane["name"], "0 lamps @-131")
        rows = [{"n": n, "volts": 9.0, "amps": 0.02 if n < 6 or n > 300 else 1.9} for n in range(420)]
        for row in rows:
            row["clock_s"] = row["n"] * 20.0
        self.push(lane, rows, token=token)
        self.type(lane["name"], "placed @-130")
        logged = self.type(lane["name"], "end")
        test = self.kept_of(logged)
        self.assertEqual(test["kind"], "recharge")
        self.assertEqual(test["document"]["recharge"]["before"], "0 lamps")


class BesideARun(PackBench):
    def run_of(self, factors, before, after, **more):
        answer = self.web.post("/api/lanes", json={"factors": factors, "ambient_c": 24.0})
        self.assertEqual(answer.status_code, 201, answer.text)
        lane = answer.json()["view"]
        name = lane["name"]
        if before:
            self.type(name, f"{before} @-201")
        self.type(name, "5 @-201")
        self.type(name, "placed @-200")
        for minute, percent in ((30, 20), (90, 55), (180, 100)):
            self.type(name, f"{percent} @+{minute}")
            if more.get("giver"):
                self.type(name, f"pack {100 - minute / 3:.0f} @+{minute}")
        if after:
            self.type(name, after)
        return lane, self.type(name, "end")

    def test_a_phone_on_a_pack_with_lamps(self):
        lane, logged = self.run_of({"phone": "Ostrel Max", "charger": "Col bank"}, "4 lamps", "lamps 1")
        self.assertEqual((lane["kind"], lane["pack"]), ("pack charge", "Col bank"))
        self.assertIn("pack", [s["key"] for s in lane["steps"]])
        test = self.kept_of(logged)
        self.assertEqual((test["kind"], test["document"]["charge"]["run"]), ("charge", logged["run"]))
        self.assertIn("the pack from 4 of 4 lamps to 1 of 4 lamps", test["said"])
        self.assertFalse(test["document"]["charge"]["by_cord"])
        # By cord, the pack in the adapter's place: both runs are offered to Versus as a fair pair.
        _, wired = self.run_of(
            {"phone": "Ostrel Max", "charger": "wired", "adapter": "Col bank", "cable": "Braided"},
            "pack 100",
            "pack 30",
        )
        self.assertTrue(self.kept_of(wired)["document"]["charge"]["by_cord"])
        pair = self.web.get("/api/packs/Col bank").json()["fair_pair"]
        self.assertEqual(pair, [logged["run"], wired["run"]])
        [only] = self.web.get("/api/versus", params={"run": pair}).json()["pairs"]
        self.assertEqual((only["fair"], only["fair_said"]), ("fair", "fair: only the way of charging differs"))

    def test_without_levels_of_the_pack_the_run_says_so(self):
        _, logged = self.run_of({"phone": "Ostrel Max", "charger": "Col bank"}, "pack 100", "")
        self.assertIsNone(logged["pack_test"])
        run = self.web.get(f"/api/runs/{logged['run']}").json()
        self.assertTrue(any("level was not logged before and after" in n["text"] for n in run["notes"]))

    def test_a_phone_on_a_phone(self):
        lane, logged = self.run_of({"phone": "Ostrel Max", "charger": "Tarn 9"}, "pack 100", "", giver=True)
        self.assertEqual((lane["kind"], lane["pack"]), ("phone to phone", "Tarn 9"))
        test = self.kept_of(logged)
        self.assertEqual((test["kind"], test["pack"]), ("phone_to_phone", "Tarn 9"))
        self.assertEqual(len(test["document"]["given"]["readings"]), 4)
        self.assertTrue(uuid.UUID(logged["run"]))


del BenchTest
