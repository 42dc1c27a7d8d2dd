"""A lane from setting to its run: placed, logged, corrected, undone, ended."""

import datetime as dt
import uuid

from jaunecharge.core.bench import parse
from jaunecharge.core.bench.setup_steps import Told
from jaunecharge.core.errors import CannotRead
from jaunecharge.core.report.cautions import warnings
from jaunecharge.core.report.figures import figures
from jaunecharge.core.report.sentences import sentences
from jaunecharge.documents.case import Case
from jaunecharge.store import bench_models as b
from jaunecharge.store.bench import arriving, entries
from jaunecharge.store.bench import lanes as bench
from jaunecharge.store.bench import log as store
from jaunecharge.store.runs.logs import load_log
from jaunecharge.store.runs.readings import reading_of
from tests.store.test_bench import NOW, BenchTest


class LaneTest(BenchTest):
    CASE = Case(capacity_mah=4700, nominal_v=3.87, ambient_c=24.0)

    def setUp(self):
        super().setUp()
        self.lane = self.open(case=self.CASE)

    def at(self, minutes):
        return NOW + dt.timedelta(minutes=minutes)

    def type(self, text, minutes, by="Ada", id=None):
        """What a person types on the lane, some minutes after it was opened."""
        with self.database.session() as session:
            lane = bench.lane_for_change(session, self.lane.id)
            items = parse(f"a {text}").items
            return store.log_items(session, lane, items, minutes * 60.0, self.at(minutes), by, id or uuid.uuid4())

    def metered(self, start_min, end_min, watts, first=0):
        with self.database.session() as session:
            count = int((end_min - start_min) * 6)
            rows = tuple(arriving.Row(first + i, start_min * 60.0 + 10.0 * i, 9.0, watts / 9.0) for i in range(count))
            arriving.push(session, [arriving.Batch(self.lane.id, "meter", rows[-1].clock_s, rows)])
        return first + count

    def log(self):
        with self.database.session() as session:
            return bench.entries_of(session, self.lane.id)

    def charged(self):
        """A lane that has charged for an hour."""
        n = self.metered(0, 5, 0.4)
        self.type("10", 4)
        self.type("placed", 5)
        self.metered(5, 70, 17.5, n)
        for minute, percent in ((15, 18), (35, 34), (65, 58)):
            self.type(f"{percent}", minute)


class Entries(LaneTest):
    def test_a_line_sent_twice_is_logged_once(self):
        line = uuid.uuid4()
        for _ in range(2):
            self.type("47 41.2c", 1, id=line)
        self.assertEqual([(e.kind, e.value) for e in self.log()], [("percent", 47.0), ("celsius", 41.2)])

    def test_a_correction_keeps_the_first_value_and_who(self):
        self.type("47", 1)
        self.type("46c pad", 2)
        self.type("fix 48", 3, by="Ben")
        self.type("fix 49", 4, by="Ben")
        entry = next(e for e in self.log() if e.kind == "percent")
        self.assertEqual((entry.value, entry.first["value"], entry.by, entry.corrected_by), (49.0, 47.0, "Ada", "Ben"))
        self.assertEqual(entry.t_s, 60.0)
        self.assertEqual(next(e.text for e in self.log() if e.kind == "fix"), "battery 47 % becomes battery 48 %")

    def test_a_correction_finds_its_own_kind_and_place(self):
        self.type("40c back", 1)
        self.type("45c pad", 2)
        self.type("fix 39c back", 3)
        self.assertEqual({e.text: e.value for e in self.log() if e.kind == "celsius"}, {"back": 39.0, "pad": 45.0})
        with self.assertRaisesRegex(CannotRead, "nothing of that kind"):
            self.type("fix 12w phone", 4)

    def test_undo_takes_back_the_whole_last_line(self):
        self.type("47", 1)
        self.type("52 41c", 2)
        self.type("u", 3, by="Ben")
        standing = [e.value for e in self.log() if e.undone_at is None and e.kind in {"percent", "celsius"}]
        self.assertEqual(standing, [47.0])
        self.type("u", 4)
        with self.assertRaisesRegex(CannotRead, "nothing was entered"):
            self.type("u", 5)

    def test_another_kind_is_no_correction(self):
        self.type("47", 1)
        with self.database.session() as session, self.assertRaisesRegex(CannotRead, "another kind"):
            lane = bench.lane_for_change(session, self.lane.id)
            [entry] = bench.entries_of(session, lane.id)
            [right] = parse("a 41c").items
            store.correct(session, lane, entry, right, NOW, "", uuid.uuid4())


class Setting(LaneTest):
    def tell(self, key, told):
        with self.database.session() as session:
            store.tell_step(session, bench.lane_for_change(session, self.lane.id), key, told, NOW, "Ada")

    def test_steps_are_ticked_skipped_and_opened_again(self):
        self.tell("settings", Told())
        self.tell("cool", Told(True, "no probe"))
        with self.database.session() as session:
            lane = bench.get_lane(session, self.lane.id)
            self.assertEqual(entries.told_of(lane), {"settings": Told(), "cool": Told(True, "no probe")})
        self.tell("cool", None)
        self.assertEqual(
            [e.text for e in self.log()], ["ticked: settings", "skipped: cool, no probe", "open again: cool"]
        )

    def test_what_was_skipped_stays_with_the_run(self):
        self.tell("cool", Told(True, "no probe"))
        self.charged()
        run = self.type("end", 71)
        self.assertEqual(run.remarks, ["Phone as cool as the room: skipped, no probe."])


class Ending(LaneTest):
    def test_a_lane_becomes_a_run(self):
        self.charged()
        self.type("note moved the lamp", 20)
        run = self.type("end", 71)
        self.assertEqual((run.outcome, run.origin, run.label), ("complete", "bench", "Ostrel Max on Cairn disc"))
        self.assertEqual((run.factors["method"], run.card.name), ("From ten to full",) * 2)
        with self.database.session() as session:
            reading = reading_of(session, run, load_log(session, run))
            lane = bench.get_lane(session, self.lane.id)
            self.assertEqual((lane.state, lane.run_id), ("closed", run.id))
            self.assertEqual(bench.readings_of(session, lane.id), [])
        self.assertEqual(reading.placed_s, 300.0)
        self.assertAlmostEqual(reading.no_load.watts, 0.4, delta=0.1)
        self.assertEqual(reading.log.readings.percent.tolist(), [10.0, 18.0, 34.0, 58.0])
        self.assertEqual(reading.log.readings.time_s[0], 300.0)
        self.assertIn("percent", {line.kind for line in run.bench.log})

    def test_corrected_and_undone_entries_reach_the_run_as_they_stand(self):
        self.charged()
        self.type("fix 57", 66)
        self.type("99", 67)
        self.type("u", 68)
        run = self.type("end", 71)
        with self.database.session() as session:
            self.assertEqual(load_log(session, run).readings.percent.tolist(), [10.0, 18.0, 34.0, 57.0])

    def test_early_and_void_keep_their_reason(self):
        self.charged()
        run = self.type("end void cable came loose", 71)
        self.assertEqual((run.outcome, run.bench.reason), ("void", "cable came loose"))

    def test_a_void_lane_that_was_never_metered_leaves_no_run(self):
        self.assertIsNone(self.type("end void wrong phone", 1))
        with self.database.session() as session:
            self.assertEqual(session.get(b.Lane, self.lane.id).reason, "wrong phone")

    def test_what_cannot_end_says_what_would(self):
        with self.assertRaisesRegex(CannotRead, "never placed; a end void"):
            self.type("end", 1)
        self.type("placed", 1)
        with self.assertRaisesRegex(CannotRead, "hardly anything was logged"):
            self.type("end", 2)
        with self.assertRaises(CannotRead):
            self.type("placed", 3)
        with self.database.session() as session:
            self.assertEqual(session.get(b.Lane, self.lane.id).state, "running")

    def test_a_lane_metered_by_hand(self):
        self.type("10", 0)
        self.type("placed", 1)
        for minute, percent in ((2, 10), (12, 18), (22, 26)):
            self.type(f"{percent} 9v 1.9a", minute)
        run = self.type("end", 23)
        self.assertEqual(run.samples, 3)
        self.assertEqual(run.case.placed_s, 60.0, "the placing stands, though watts were typed later")

    def test_a_phone_that_lay_there_already_begins_with_the_first_reading(self):
        self.metered(0, 30, 17.6)
        self.type("10", 2)
        with self.database.session() as session:
            store.place_already(session, bench.lane_for_change(session, self.lane.id), self.at(5), "Ada")
        for minute, percent in ((15, 22), (29, 38)):
            self.type(f"{percent}", minute)
        run = self.type("end early seen enough", 30)
        self.assertEqual(run.case.placed_s, 0.0)
        self.assertIn(entries.STARTED_BEFORE, run.remarks)
        self.assertIn("Note the no-load watts: skipped, the phone was on it already.", run.remarks)
        with self.database.session() as session:
            reading = reading_of(session, run, load_log(session, run))
        self.assertIsNone(reading.no_load)
        self.assertEqual(reading.judged.outcome, "")
        self.assertAlmostEqual(reading.best_settled.watts, 17.6, places=1)

    def test_a_placing_long_before_the_lane_counts_for_the_times(self):
        self.metered(0, 60, 12.0)
        self.type("placed", -100)
        for minute, percent in ((1, 70), (30, 80), (59, 88)):
            self.type(f"{percent}", minute)
        run = self.type("end", 60)
        with self.database.session() as session:
            reading = reading_of(session, run, load_log(session, run))
        self.assertEqual(reading.placed_s, -6000.0)
        self.assertEqual(reading.milestone(80).latest_s - reading.placed_s, 130 * 60.0)


class SharedMeters(LaneTest):
    def test_watts_of_two_phones_are_credited_to_neither(self):
        with self.database.session() as session:
            one = bench.lane_for_change(session, self.lane.id)
            one.meter = "Inline A"
        other = self.open(meter="Inline A", name="B")
        with self.database.session() as session:
            lane = bench.lane_for_change(session, other.id)
            lane.factors = {"phone": "Tarn 9"}
            store.place(session, lane, 60.0, NOW)
        self.charged()
        run = self.type("end", 71)
        self.assertEqual(run.case.shared_with, "Tarn 9")
        with self.database.session() as session:
            reading = reading_of(session, run, load_log(session, run))
        for figure in ("best_settled", "sustained", "no_load", "after_full", "efficiency"):
            self.assertIsNone(getattr(reading, figure), figure)
        said = " ".join(s.plain for s in sentences(reading))
        self.assertIn("Together with Tarn 9 it took in", said)
        self.assertNotIn("Draws", said)
        self.assertIn("neither phone is credited with them", warnings(reading)[0])
        self.assertTrue(reading.milestones, "the times are its own")

    def test_another_meter_or_another_time_is_not_shared(self):
        with self.database.session() as session:
            bench.lane_for_change(session, self.lane.id).meter = "Inline A"
        self.open(meter="Inline B", name="B")
        self.charged()
        self.assertEqual(self.type("end", 71).case.shared_with, "")


class WithoutAMeter(LaneTest):
    def test_a_lane_that_no_meter_saw_is_a_run_of_times_and_heat(self):
        self.type("10 24.5c", 0)
        self.type("placed", 1)
        for minute, percent, celsius in ((11, 18, 31.0), (21, 26, 33.5), (31, 33, 34.0), (61, 55, 33.0)):
            self.type(f"{percent} {celsius}c", minute)
        run = self.type("end", 62)
        self.assertEqual((run.samples, run.summary.energy_in_wh, run.summary.coverage), (0, None, 0.0))
        with self.database.session() as session:
            reading = reading_of(session, run, load_log(session, run))
        self.assertEqual(reading.milestone(50).percent, 50)
        self.assertEqual(reading.phone_heat.max_c, 34.0)
        for figure in ("best_settled", "sustained", "no_load", "after_full", "efficiency"):
            self.assertIsNone(getattr(reading, figure), figure)
        shown = {f.key for f in figures(reading)}
        self.assertTrue({"to_50"} <= shown and not shown & {"peak", "energy_in", "energy_bridged"}, shown)
        said = " ".join(s.plain for s in sentences(reading))
        self.assertNotIn("Wh", said)
        self.assertIn("No watts were logged", warnings(reading)[0])
        self.assertTrue(all(w is None for w in run.summary.ribbon.watts))


class FromAPlan(LaneTest):
    def test_speed_counts_in_the_lanes_clock(self):
        lane = self.open(speed=60.0)
        self.assertEqual(store.lane_s(lane, self.at(1)), 3600.0)
        self.assertEqual(store.moment(lane, 3600.0), self.at(1))
