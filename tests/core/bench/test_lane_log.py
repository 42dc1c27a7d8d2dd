"""From what a lane recorded to the log of a run."""

import unittest

from jaunecharge.core.bench import EntryItem, parse
from jaunecharge.core.bench.lane_log import Entered, Recorded, by_hand, levels, run_log
from jaunecharge.core.reading.read_run import Conditions, read_run


def entered(at_s, text):
    return [Entered(at_s, item) for item in parse(f"a {text}").items]


def metered(start_s, end_s, watts, step_s=10.0):
    count = int((end_s - start_s) / step_s)
    return [Recorded(start_s + i * step_s, 9.0, watts / 9.0, watts) for i in range(count)]


class Trace(unittest.TestCase):
    def test_metered_watts_in_any_order(self):
        rows = metered(0.0, 600.0, 0.4) + metered(600.0, 4000.0, 18.0)
        log = run_log(rows[::-1], [], 600.0)
        self.assertEqual((log.trace.start_s, log.trace.end_s), (0.0, 3990.0))
        self.assertIsNotNone(log.trace.volts)
        self.assertAlmostEqual(read_run(log, Conditions(placed_s=600.0)).no_load.watts, 0.4, delta=0.1)

    def test_what_was_metered_long_before_placing_is_left_out(self):
        log = run_log(metered(0.0, 4000.0, 0.4), [], 2000.0)
        self.assertEqual(log.trace.start_s, 1400.0)

    def test_typed_volts_and_amps_of_one_line_belong_together(self):
        rows = entered(60.0, "9,02v 1,97a") + entered(120.0, "17.8w") + entered(180.0, "9v")
        self.assertEqual(
            [(t, round(w, 2), v, a) for t, w, v, a in by_hand(rows)],
            [(60.0, 17.77, 9.02, 1.97), (120.0, 17.8, None, None)],
        )
        self.assertEqual(len(run_log([], rows, 0.0).trace.time_s), 2)

    def test_without_two_moments_there_is_no_log(self):
        self.assertIsNone(run_log([], [], 0.0))
        self.assertIsNone(run_log([], entered(60.0, "17w"), 0.0))

    def test_percentages_alone_are_a_log_that_no_meter_saw(self):
        log = run_log([], entered(60.0, "10") + entered(660.0, "19"), 60.0)
        self.assertEqual((log.trace.metered, log.trace.start_s, log.trace.end_s), (False, 60.0, 660.0))
        self.assertEqual(log.trace.coverage, 0.0)
        self.assertEqual(log.trace.holes, [(60.0, 660.0)])

    def test_percentages_before_the_first_typed_watts_are_kept(self):
        rows = entered(0.0, "10") + entered(300.0, "14 17w") + entered(900.0, "22 17w")
        log = run_log([], rows, 0.0)
        self.assertEqual(log.readings.percent.tolist(), [10.0, 14.0, 22.0])
        found = read_run(log, Conditions(placed_s=0.0))
        self.assertEqual(found.milestone(20).earliest_s, 300.0)


class Levels(unittest.TestCase):
    def test_a_level_entered_before_is_the_one_at_placing(self):
        found = levels([], entered(10.0, "10") + entered(700.0, "19"), 60.0)
        self.assertEqual((found.time_s.tolist(), found.percent.tolist()), ([60.0, 700.0], [10.0, 19.0]))

    def test_of_a_continuous_report_each_change_and_what_stood_before_it(self):
        reports = [Recorded(float(t), percent=p) for t, p in enumerate([10, 10, 10, 11, 11, 11, 12, 12])]
        found = levels(reports, [], 0.0)
        self.assertEqual(found.time_s.tolist(), [0.0, 2.0, 3.0, 5.0, 6.0, 7.0])

    def test_none(self):
        self.assertIsNone(levels([], [], 0.0))


class Heat(unittest.TestCase):
    def test_places_apart_and_the_room(self):
        rows = metered(0.0, 600.0, 18.0) + [Recorded(30.0 * i, celsius=25.0 + i, position="back") for i in range(10)]
        typed = entered(100.0, "104f pad") + entered(0.0, "24c room")
        log = run_log(rows, typed, 0.0)
        self.assertEqual({s.position for s in log.heat.surfaces}, {"back", "pad"})
        self.assertEqual(log.heat.ambient.celsius.tolist(), [24.0])
        self.assertAlmostEqual(next(s for s in log.heat.surfaces if s.position == "pad").celsius[0], 40.0)

    def test_the_stated_room_where_nobody_measured_it(self):
        rows = metered(0.0, 600.0, 18.0)
        self.assertIsNone(run_log(rows, [], 0.0).heat)
        self.assertEqual(run_log(rows, entered(60.0, "31c"), 0.0, 23.0).heat.ambient.celsius[0], 23.0)

    def test_phone_side_watts_never_reach_the_meters_column(self):
        rows = [Entered(60.0, EntryItem("phone watts", 12.0, "w")), Entered(120.0, EntryItem("phone watts", 12.5, "w"))]
        self.assertIsNone(run_log([], rows, 0.0))
