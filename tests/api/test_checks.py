"""Meter checks and spot checks by the API."""

import time
import uuid
from unittest import mock

from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.instruments.playback import Playback
from jaunecharge.instruments.standins import standing_in
from jaunecharge.store.kit import add_all
from tests.api.test_bench import FACTORS, BenchTest
from tests.instruments.playing import scenario


class MeterChecks(BenchTest):
    def setUp(self):
        super().setUp()
        for check in self.web.get("/api/meter-checks").json():
            self.web.delete(f"/api/meter-checks/{check['id']}")

    def check(self, **more):
        return self.web.post("/api/meter-checks", json={"meter": "Inline A", **more})

    def test_against_a_load_of_known_watts(self):
        made = self.check(known_w=10.0, known_percent=0.5, pairs=[[10.2, 0], [10.21, 0], [10.19, 0]])
        self.assertEqual(made.status_code, 201, made.text)
        self.assertIn("reads 2.00 ± 0.5", made.json()["said"])
        self.assertEqual(self.web.get("/api/meter-checks").json()[0]["against"], "a load of 10 W")

    def test_a_check_counts_in_the_uncertainty_of_later_lanes(self):
        def gain():
            lane = self.open(meter="Inline A")
            run_gain = self.type(lane["name"], "end void done") and lane
            with self.database.session() as session:
                from uuid import UUID

                from jaunecharge.store.bench.lanes import get_lane

                return get_lane(session, UUID(run_gain["id"])).case.meter.gain_percent

        self.assertEqual(gain(), 0.5)
        made = self.check(known_w=10.0, known_percent=0.5, pairs=[[10.2, 0], [10.21, 0], [10.19, 0]]).json()
        self.assertAlmostEqual(gain(), made["gain_percent"], places=3)
        self.assertGreater(gain(), 2.0)
        self.web.delete(f"/api/meter-checks/{made['id']}")
        self.assertEqual(gain(), 0.5)
        self.web.post(f"/api/meter-checks/{made['id']}/restored")
        self.assertGreater(gain(), 2.0)

    def test_what_cannot_be_checked(self):
        for more, said in (
            ({"pairs": [[10, 10]] * 3, "other": "Inline A"}, "cannot be checked against itself"),
            ({"pairs": [[10, 10]] * 3}, "say what it is checked against"),
            ({"pairs": [[10, 10]] * 2, "known_w": 10}, "too few"),
            ({"pairs": [[10, 10]] * 3, "other": "Nothing"}, "no meter “Nothing”"),
        ):
            with self.subTest(said):
                answer = self.check(**more)
                self.assertEqual(answer.status_code, 422)
                self.assertIn(said, answer.json()["detail"])

    def test_two_meters_that_can_be_asked(self):
        with (
            standing_in(Playback(scenario(), time.monotonic)) as one,
            standing_in(Playback(scenario(), time.monotonic)) as two,
        ):
            lines = (f"meter One address:{one.address}", f"meter Two address:{two.address}")
            with self.database.session() as session:
                add_all(session, [kit_from_line(line) for line in lines], "")
            one.playback.place(), two.playback.place()
            pair = self.until(
                lambda: (p := self.web.post("/api/meter-checks/read", json={"meter": "One", "other": "Two"}).json())[
                    "mine_w"
                ] > 10 and p,
                "the ramp is over",
            )  # fmt: skip
            self.assertAlmostEqual(pair["mine_w"], pair["other_w"], delta=2.0)
        gone = self.web.post("/api/meter-checks/read", json={"meter": "One"})
        self.assertEqual((gone.status_code, gone.json()["title"]), (422, "The instrument does not answer"))
        by_hand = self.web.post("/api/meter-checks/read", json={"meter": "Inline A"})
        self.assertIn("has no address", by_hand.json()["detail"])


class Surveys(BenchTest):
    def spot(self, survey=None, practice=120, **factors):
        body = {"factors": {**FACTORS, **factors}, "minutes": 1, "practice": practice, "survey": survey}
        made = self.web.post("/api/spot-checks", json=body)
        self.assertEqual(made.status_code, 201, made.text)
        return made.json()

    def show(self, survey):
        return self.web.get(f"/api/spot-checks/{survey}").json()

    def test_many_chains_in_a_row(self):
        with self.database.session() as session:
            add_all(session, [kit_from_line("pad Moraine pad magnet-only claims 15W")], "")
        survey = "11111111-2222-3333-4444-555555555555"
        for charger in ("Cairn disc", "Moraine pad", "Cairn disc"):
            # Slow enough that a busy machine still asks the meter often within the minute.
            row = self.spot(survey, practice=30, charger=charger)
            self.until(lambda row=row: self.view({"id": row["lane"]})["volts"], "the meter answers")
            self.web.post(f"/api/lanes/{row['lane']}/placed")
            self.until(
                lambda row=row: (
                    next(r for r in self.show(survey)["rows"] if r["lane"] == row["lane"])["state"] == "closed"
                ),
                "it ends by itself",
            )
            if charger == "Moraine pad":
                [asked] = self.show(survey)["asked"]
                self.assertIn("Repeat Cairn disc, Plug 20 at the end", asked)
        found = self.show(survey)
        self.assertEqual([r["outcome"] for r in found["rows"]], ["complete"] * 3)
        self.assertEqual(found["rows"][1]["seems"], "like 7.5 W")
        self.assertIn("15 W", found["rows"][0]["seems"])
        self.assertEqual(found["asked"], [])
        self.assertIn("Cairn disc, Plug 20 again", found["drift"][0])
        run = self.web.get(f"/api/runs/{found['rows'][0]['run']}").json()
        self.assertEqual(run["method"]["card"], "Spot check")

    def by_hand(self, survey, *lines, **factors):
        """A check of which all is typed: placed two minutes ago, then these lines."""
        body = {"factors": {**FACTORS, **factors}, "minutes": 1, "survey": survey}
        row = self.web.post("/api/spot-checks", json=body).json()
        for line in ("placed @-2", *lines):
            # Whoever types one after the other takes longer than a look at the lane.
            time.sleep(2.5 if line.endswith("@+2") else 0.0)
            self.assertTrue(self.type(row["name"], line)["logged"], line)
        self.assertEqual(self.web.get(f"/api/lanes/{row['lane']}").json()["view"]["due"]["state"], "none")
        return self.until(
            lambda: (
                found := next(r for r in self.show(survey)["rows"] if r["lane"] == row["lane"])
            )["state"] == "closed" and found,
            "it ends by itself",
        )  # fmt: skip

    def test_watts_typed_by_hand_make_a_row(self):
        survey = str(uuid.uuid4())
        row = self.by_hand(
            survey, "35", "0.4w @-3", "12w @+0", "17.9w @+1", "18.1w @+2", "33.5c", place="left", cable="Braided",
            alignment="moved about for the best",
        )  # fmt: skip
        self.assertEqual((row["settled_w"]["value"], row["by_hand"], row["sparse"]), (18.0, True, True))
        self.assertGreater(row["settled_w"]["expanded"], 0.0)
        self.assertEqual((row["start_percent"], row["hottest_c"], row["seems"]), (35.0, 33.5, "like 15 W"))
        self.assertEqual(row["label"], "Cairn disc, left, Plug 20, Braided, moved about for the best")
        self.assertTrue(row["run"])

    def test_one_reading_is_enough_and_none_is_waited_for(self):
        self.enterContext(mock.patch("jaunecharge.live.keeper.TYPED_RESTS_S", 1.0))
        survey = str(uuid.uuid4())
        row = self.by_hand(survey, "0.5w @+1")
        self.assertEqual((row["settled_w"]["value"], row["steady"], row["seems"]), (0.5, None, "not charging"))
        waits = self.web.post("/api/spot-checks", json={"factors": FACTORS, "minutes": 1, "survey": survey}).json()
        self.type(waits["name"], "placed @-5")
        time.sleep(2.0)
        self.assertEqual(self.show(survey)["rows"][-1]["state"], "running")

    def test_two_phones_in_one_survey_are_kept_apart(self):
        self.enterContext(mock.patch("jaunecharge.live.keeper.TYPED_RESTS_S", 1.0))
        survey = str(uuid.uuid4())
        with self.database.session() as session:
            add_all(session, [kit_from_line("phone Quill Lite 3840mAh bpp")], "")
        for phone, charger in (
            ("Ostrel Max", "Cairn disc"),
            ("Quill Lite", "Cairn disc"),
            ("Ostrel Max", "Serac dock"),
        ):
            self.by_hand(survey, "9w @+1", phone=phone, charger=charger)
        self.assertEqual(
            [t.partition(" at the")[0] for t in self.show(survey)["asked"]], ["Ostrel Max: Repeat Cairn disc, Plug 20"]
        )
        listed = self.web.get("/api/spot-checks").json()
        self.assertEqual([r["phone"] for r in listed[:3]], ["Ostrel Max", "Quill Lite", "Ostrel Max"])

    def test_minutes_that_are_none(self):
        self.assertEqual(self.web.post("/api/spot-checks", json={"factors": FACTORS, "minutes": 9}).status_code, 422)
