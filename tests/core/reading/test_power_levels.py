import unittest

import numpy as np

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.log.placement import RISE, find_placement
from jaunecharge.core.log.temperatures import facts, heat_log, minutes_at_or_above
from jaunecharge.core.log.trace import power_trace
from jaunecharge.core.reading import power_levels as levels
from tests.cases import checkins, reading, steps


class PlacementTests(unittest.TestCase):
    def test_a_coarse_log_at_uneven_steps_shows_its_rise(self):
        time_s = np.array([24.5, 37.5, 49.5, 62.7, 74.0, 86.1])
        trace = power_trace(time_s, np.array([0.42, 0.40, 4.95, 9.0, 9.1, 9.0]))
        found = find_placement(trace, None, None)
        self.assertEqual((found.at_s, found.how), (43.5, RISE))

    def test_is_the_first_lasting_rise_above_no_load(self):
        self.assertEqual(find_placement(steps((90, 0.5), (600, 14.0)), None, None).at_s, 90)

    def test_a_flicker_of_some_seconds_is_no_placing(self):
        trace = steps((60, 0.5), (4, 9.0), (60, 0.5), (600, 14.0))
        self.assertEqual(find_placement(trace, None, None).at_s, 124)

    def test_a_dead_phone_is_placed_when_its_wake_begins(self):
        trace = steps((60, 0.5), (300, 3.0), (600, 15.0))
        self.assertEqual(find_placement(trace, None, None).at_s, 60)

    def test_a_high_idle_draw_is_no_phone(self):
        trace = steps((120, 3.0), (600, 13.0))
        self.assertEqual(find_placement(trace, None, None).at_s, 120)

    def test_a_charger_plugged_in_during_the_log_is_no_phone(self):
        time_s = np.arange(720.0)
        volts = np.where(time_s < 60, 0.0, 9.0)
        power = np.where(time_s < 60, 0.0, np.where(time_s < 120, 3.0, 13.0))
        trace = power_trace(time_s, power, volts, np.divide(power, volts, out=np.zeros(720), where=volts > 0))
        self.assertEqual(find_placement(trace, None, None).at_s, 120)

    def test_a_log_that_begins_while_charging_takes_the_first_check_in(self):
        found = find_placement(steps((600, 14.0), (100, 9.0), (300, 14.0)), None, checkins((20 / 60, 10), (5, 12)))
        self.assertEqual(found.at_s, 20.0)
        self.assertIn("first check-in", found.how)

    def test_as_given_stands(self):
        self.assertEqual(find_placement(steps((90, 0.5), (600, 14.0)), 33.0, None).at_s, 33.0)

    def test_a_moment_outside_the_log_is_refused(self):
        for given in (-100_000.0, 690.0, 1e300):
            with self.subTest(given), self.assertRaisesRegex(CannotRead, "placed_s: the phone is said to be placed"):
                find_placement(steps((90, 0.5), (600, 14.0)), given, None)

    def test_with_one_row_a_minute_it_lies_between_the_rows(self):
        trace = steps((600, 0.5), (6000, 14.0), step_s=60.0)
        self.assertEqual(find_placement(trace, None, None).at_s, 570.0)

    def test_holds_under_noise(self):
        rng = np.random.default_rng(4)
        for seed in range(20):
            power = np.concatenate((np.full(75, 0.5), np.linspace(0.5, 12.0, 40), np.full(3000, 12.0)))
            noisy = power + rng.normal(0, 0.05, len(power))
            found = find_placement(power_trace(np.arange(len(power)) * 1.0, noisy), None, None)
            self.assertLess(abs(found.at_s - 75), 15, seed)


class Levels(unittest.TestCase):
    def test_no_load_is_the_mean_before_placing(self):
        self.assertAlmostEqual(reading(steps((120, 0.7), (3000, 12.0))).no_load.watts, 0.7)

    def test_there_is_no_no_load_in_a_log_that_begins_with_the_phone_on(self):
        self.assertIsNone(reading(steps((3000, 12.0)), placed_s=0.0).no_load)

    def test_best_settled_is_the_best_minute_after_the_ramp(self):
        found = reading(steps((60, 0.5), (30, 6.0), (400, 12.0), (60, 15.0), (3000, 12.0)))
        self.assertAlmostEqual(found.best_settled.watts, 15.0, places=1)

    def test_best_settled_ends_where_the_phone_is_hot(self):
        trace = steps((60, 0.5), (600, 12.0), (600, 16.0))
        heat = heat_log(["back"] * 3, np.array([0.0, 500.0, 1300.0]), np.array([25.0, 39.0, 40.0]))
        until = levels.cool_until(trace, heat, 60.0)
        self.assertEqual(until, 500.0)
        self.assertAlmostEqual(levels.best_settled(trace, 70.0, until).watts, 12.0)

    def test_the_wake_of_a_dead_phone_is_not_settled_power(self):
        found = reading(steps((60, 0.5), (300, 3.0), (3000, 15.0)))
        self.assertAlmostEqual(found.ramp_end_s, 360.0, delta=12.0)

    def test_sustained_is_the_mean_to_sixty_percent(self):
        trace = steps((60, 0.5), (1200, 15.0), (1200, 9.0), (1200, 4.0))
        found = reading(trace, checkins((1, 10), (21, 40), (41, 60), (61, 70)))
        self.assertAlmostEqual(found.sustained.watts, 12.0, delta=0.1)

    def test_sustained_is_unknown_where_sixty_was_not_passed(self):
        self.assertIsNone(reading(steps((60, 0.5), (1200, 15.0)), checkins((1, 70), (20, 90))).sustained)

    def test_after_full_begins_when_the_phone_has_come_to_rest(self):
        trace = steps((60, 0.5), (3600, 12.0), (900, 2.0), (1800, 0.6))
        found = reading(trace, checkins((1, 50), (61, 99), (63, 100), (100, 100)))
        self.assertAlmostEqual(found.after_full.watts, 0.6, delta=0.02)

    def test_after_full_takes_the_last_hour_only(self):
        trace = steps((60, 0.5), (3600, 12.0), (5400, 1.1), (3600, 0.9))
        found = reading(trace, checkins((1, 50), (61, 100), (200, 100)))
        self.assertAlmostEqual(found.after_full.watts, 0.9, delta=0.01)

    def test_there_is_no_after_full_without_a_hundred(self):
        self.assertIsNone(reading(steps((60, 0.5), (3600, 12.0), (900, 0.6)), checkins((1, 50), (61, 80))).after_full)


class Heat(unittest.TestCase):
    def test_minutes_are_counted_on_straight_lines_between_readings(self):
        log = heat_log(["back"] * 3, np.array([0.0, 600.0, 1200.0]), np.array([30.0, 50.0, 30.0]))
        self.assertAlmostEqual(minutes_at_or_above(log.surfaces[0], 40.0), 10.0)
        self.assertAlmostEqual(minutes_at_or_above(log.surfaces[0], 45.0), 5.0)

    def test_a_gap_in_the_readings_is_not_counted(self):
        log = heat_log(["back"] * 5, np.array([0.0, 30, 60, 5000, 5030]), np.full(5, 41.0))
        self.assertAlmostEqual(minutes_at_or_above(log.surfaces[0], 40.0), 1.5)

    def test_places_stay_apart_and_the_room_is_no_surface(self):
        log = heat_log(["back", "pad underside", "room"] * 2, np.array([0.0, 0, 0, 60, 60, 60]),
                       np.array([30.0, 40, 25, 35, 49.5, 26]))  # fmt: skip
        self.assertEqual([s.position for s in log.surfaces], ["back", "pad underside"])
        self.assertEqual(log.phone().position, "back")
        self.assertAlmostEqual(facts(log.surfaces[1], log.ambient).rise_k, 23.5)

    def test_without_a_room_there_is_no_rise(self):
        log = heat_log(["back"], np.array([0.0]), np.array([30.0]))
        self.assertIsNone(facts(log.surfaces[0], log.ambient).rise_k)
