import unittest

import numpy as np
from scipy.interpolate import PchipInterpolator
from scipy.optimize import brentq

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.log import check_ins as bat
from jaunecharge.core.log.check_ins import Battery
from jaunecharge.core.log.clock import ClockKind, Timeline
from tests.cases import checkins, practice


class Milestones(unittest.TestCase):
    def test_lie_between_the_last_check_in_below_and_the_first_at_or_above(self):
        found = bat.milestone(checkins((0, 5), (10, 48), (20, 52)), 50)
        self.assertEqual((found.earliest_s, found.latest_s), (600, 1200))
        self.assertTrue(600 < found.estimate_s < 1200)

    def test_estimate_equals_the_crossing_of_scipys_pchip(self):
        """Outside check: scipy.interpolate.PchipInterpolator, its crossing found by brentq."""
        readings = checkins((0, 5), (10, 14), (20, 23), (30, 31), (40, 52), (50, 83), (60, 86), (90, 91))
        curve = PchipInterpolator(readings.time_s, readings.percent)
        for percent in (20, 50, 80, 90):
            with self.subTest(percent):
                found = bat.milestone(readings, percent)
                expected = brentq(lambda t, p=percent: curve(t) - p, found.earliest_s, found.latest_s)
                self.assertAlmostEqual(found.estimate_s, expected, places=5)

    def test_a_hundred_is_the_first_sighting(self):
        found = bat.milestone(checkins((0, 90), (10, 98), (20, 100), (30, 100)), 100)
        self.assertEqual(found.estimate_s, found.latest_s)

    def test_a_reading_of_just_that_level_is_the_latest(self):
        found = bat.milestone(checkins((0, 70), (10, 80), (20, 90)), 80)
        self.assertEqual((found.earliest_s, found.latest_s), (0, 600))

    def test_a_level_there_from_the_start_or_never_reached_is_no_milestone(self):
        readings = checkins((0, 60), (10, 70))
        self.assertIsNone(bat.milestone(readings, 50))
        self.assertIsNone(bat.milestone(readings, 80))

    def test_after_a_fall_the_first_crossing_counts(self):
        found = bat.milestone(checkins((0, 40), (10, 52), (20, 48), (30, 55)), 50)
        self.assertEqual((found.earliest_s, found.latest_s), (0, 600))

    def test_one_check_in_gives_none(self):
        self.assertEqual(bat.milestones(checkins((0, 40))), [])


class Practice(unittest.TestCase):
    """Values measured by people who do this work (common practice, `tests/data/practice.json`)."""

    def test_percent_at_the_usual_minutes(self):
        run = practice()["runs"][0]
        found = dict(bat.percent_at(checkins(*run["checkins"]), 0.0))
        seen = {m: p for m, p in run["checkins"] if m in bat.REPORTED_MINUTES}
        for minute, percent in seen.items():
            self.assertAlmostEqual(found[minute], percent)

    def test_time_from_five_to_full(self):
        runs = practice()["runs"]
        times = [bat.milestone(checkins(*r["checkins"]), 100).estimate_s / 60 for r in runs[:2]]
        expected = practice()["expect"][0]
        self.assertEqual(times[1] - times[0], expected["minutes_saved"])

    def test_the_reading_of_fifty_between_33_and_56_is_asked_about(self):
        found = bat.doubts(checkins(*practice()["runs"][0]["checkins"]))
        self.assertEqual([d.percent for d in found], [50])

    def test_the_even_run_has_no_doubts(self):
        self.assertEqual(bat.doubts(checkins(*practice()["runs"][1]["checkins"])), [])


class Doubts(unittest.TestCase):
    def test_a_hold_is_a_bend_not_a_doubt(self):
        readings = checkins((0, 50), (10, 60), (20, 70), (30, 80), (40, 80), (50, 80), (60, 80))
        self.assertEqual(bat.doubts(readings), [])

    def test_a_slip_of_ten_is_asked_about_with_what_was_expected(self):
        readings = checkins((0, 10), (10, 18), (20, 26), (30, 44), (40, 42), (50, 50), (60, 58))
        found = bat.doubts(readings)
        self.assertEqual([(d.percent, d.expected) for d in found], [(44, 34)])

    def test_falls_are_kept_and_told(self):
        readings = checkins((0, 40), (10, 52), (20, 48))
        self.assertEqual(len(readings), 3)
        self.assertEqual(bat.falls(readings), [(1200, 52, 48)])

    def test_check_ins_before_the_log_are_refused_by_their_row(self):
        source = Timeline(ClockKind.ELAPSED, np.array([600.0, 0.0]), file="b.csv", rows=np.array([2, 3]))
        with self.assertRaises(CannotRead) as caught:
            bat.refuse_outside(source.seconds, 120.0, source)
        self.assertIn("b.csv, row 3: the check-in at 0 s comes before the meter log", str(caught.exception))
        bat.refuse_outside(source.seconds, 20.0, source)

    def test_of_two_readings_at_one_moment_the_last_written_stands(self):
        self.assertEqual(checkins((0, 10), (5, 20), (5, 22)).percent.tolist(), [10, 22])


class Account(unittest.TestCase):
    def test_window_runs_from_ten_to_the_first_sight_of_the_highest_up_to_ninety(self):
        found = bat.account_window(checkins((0, 5), (10, 12), (20, 50), (30, 88), (40, 88), (50, 93)))
        self.assertEqual((found.from_percent, found.to_percent), (12, 88))
        self.assertEqual((found.start_s, found.end_s), (600, 1800))

    def test_there_is_none_where_nothing_is_gained_inside_it(self):
        self.assertIsNone(bat.account_window(checkins((0, 92), (10, 95))))
        self.assertIsNone(bat.account_window(checkins((0, 50), (10, 50))))

    def test_energy_is_points_times_capacity_times_voltage(self):
        points = bat.points_gained(checkins((0, 5), (10, 100)))
        found = bat.energy_into_battery(points, Battery(4400, 3.87))
        self.assertAlmostEqual(found.value, 0.95 * 4.4 * 3.87)

    def test_health_scales_the_capacity_and_narrows_its_uncertainty(self):
        points = bat.points_gained(checkins((0, 5), (10, 100)))
        unknown = bat.energy_into_battery(points, Battery(4400, 3.87))
        known = bat.energy_into_battery(points, Battery(4400, 3.87, 0.9))
        self.assertAlmostEqual(known.value, 0.9 * unknown.value)
        self.assertLess(known.standard, unknown.standard)

    def test_percent_outside_the_check_ins_is_not_made_up(self):
        found = bat.percent_at(checkins((0, 10), (40, 50)), placed_s=0.0)
        self.assertEqual([m for m, _ in found], [15, 30])

    def test_the_curve_never_overshoots_its_readings(self):
        readings = checkins((0, 5), (10, 79), (20, 80), (30, 80))
        level = bat.curve(readings)(np.linspace(0, 1800, 500))
        self.assertLessEqual(level.max(), 80.0 + 1e-9)
