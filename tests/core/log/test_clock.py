import unittest
from dataclasses import replace

import numpy as np

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.log.clock import (
    ClockKind,
    Timeline,
    one_clock,
    refuse_backwards,
    unwrapped,
    whose_clock,
    without_clock_change,
)

HOUR = 3600.0


def elapsed(*seconds):
    return Timeline(ClockKind.ELAPSED, np.array(seconds, dtype=float))


def of_day(*seconds):
    return Timeline(ClockKind.TIME_OF_DAY, np.array(seconds, dtype=float))


def absolute(*seconds, day_start_s=None):
    return Timeline(ClockKind.ABSOLUTE, np.array(seconds, dtype=float), day_start_s)


class Whose(unittest.TestCase):
    """A log of two hours; the phone was placed after a quarter of one."""

    def whose(self, *minutes, placed=15.0, log=120.0):
        return whose_clock(np.array(minutes) * 60.0, 0.0, log * 60.0, placed * 60.0).whose

    def test_a_first_one_that_would_lie_before_the_placing_counts_from_it(self):
        self.assertEqual(self.whose(0, 10, 20, 30), "placing")

    def test_one_at_the_placing_is_on_the_log_s_clock(self):
        self.assertEqual(self.whose(15, 25, 35), "log")
        self.assertEqual(self.whose(15.8, 30), "log")

    def test_what_would_reach_beyond_the_log_is_on_its_clock(self):
        self.assertEqual(self.whose(25, 60, 118), "log")

    def test_readings_as_long_as_the_log_were_logged_beside_it(self):
        self.assertEqual(self.whose(*range(0, 120, 2)), "log")

    def test_where_both_are_possible_nobody_can_know(self):
        self.assertIsNone(self.whose(25, 40, 60))

    def test_the_minute_that_a_no_load_takes_counts_as_well(self):
        self.assertEqual(self.whose(0, 10, 20, placed=1.0), "placing")
        self.assertEqual(self.whose(1, 11, 21, placed=1.0), "log")
        # Neither speaks: at most the minute is wrong, which nobody is asked about.
        self.assertEqual(self.whose(5, 10, 20, placed=1.0), "log")

    def test_where_the_log_begins_with_the_placing_both_are_the_same(self):
        self.assertEqual(self.whose(25, 40, 60, placed=0.5), "log")


class RunningOn(unittest.TestCase):
    def test_over_one_midnight_and_over_two(self):
        found, remark = unwrapped(np.array([86390.0, 10.0, 43200.0, 86000.0, 5.0]))
        self.assertEqual(found.tolist(), [86390, 86410, 129600, 172400, 172805])
        self.assertIsNone(remark)

    def test_a_small_step_back_is_no_midnight(self):
        found, _ = unwrapped(np.array([100.0, 99.0, 101.0]))
        self.assertEqual(found.tolist(), [100, 99, 101])

    def test_one_hour_back_is_a_clock_change_and_is_said(self):
        local = np.concatenate((np.arange(7200.0, 10800.0, 10.0), np.arange(7200.0, 9000.0, 10.0)))
        found, remark = without_clock_change(local)
        self.assertEqual(set(np.diff(found)), {10.0})
        self.assertIn("hour was added", remark)

    def test_rows_out_of_order_are_no_clock_change(self):
        seconds = np.array([0.0, 10, 20, 30, 20, 40, 30, 50])
        found, remark = without_clock_change(seconds)
        np.testing.assert_array_equal(found, seconds)
        self.assertIsNone(remark)

    def test_two_steps_back_of_an_hour_are_left_alone(self):
        seconds = np.array([0.0, 3600, 10, 3610, 20])
        self.assertIsNone(without_clock_change(seconds)[1])


class Backwards(unittest.TestCase):
    def test_time_that_runs_backwards_throughout_is_refused_by_its_first_such_row(self):
        clock = replace(elapsed(*range(100, 0, -1)), file="m.csv", rows=np.arange(2, 102))
        with self.assertRaises(CannotRead) as caught:
            refuse_backwards(clock)
        self.assertEqual((caught.exception.file, caught.exception.row), ("m.csv", 3))

    def test_some_rows_out_of_order_are_not(self):
        refuse_backwards(elapsed(0, 1, 3, 2, 4, 6, 5, 7))
        refuse_backwards(elapsed(5))


class OneClock(unittest.TestCase):
    def test_relative_clocks_stay_as_they_are(self):
        meter, (battery, heat) = one_clock(elapsed(100, 200), [elapsed(160), elapsed(130)])
        self.assertEqual([meter.tolist(), battery.tolist(), heat.tolist()], [[100, 200], [160], [130]])

    def test_absolute_clocks_count_from_the_meters_first_row(self):
        meter, (battery,) = one_clock(absolute(1000, 1600), [absolute(1060)])
        self.assertEqual([meter.tolist(), battery.tolist()], [[0, 600], [60]])

    def test_a_relative_clock_beside_an_absolute_one_starts_with_it(self):
        _, (battery,) = one_clock(absolute(1000, 1600), [elapsed(60)])
        self.assertEqual(battery.tolist(), [60])

    def test_a_time_of_day_beside_a_dated_meter_is_set_by_its_day(self):
        meter = absolute(5000, 5000 + 4 * HOUR, day_start_s=22 * HOUR)
        _, (battery,) = one_clock(meter, [of_day(23 * HOUR, 24.5 * HOUR)])
        self.assertEqual(battery.tolist(), [HOUR, 2.5 * HOUR])

    def test_a_time_of_day_after_midnight_beside_a_dated_meter(self):
        meter = absolute(5000, 5000 + 6 * HOUR, day_start_s=22 * HOUR)
        _, (battery,) = one_clock(meter, [of_day(0.25 * HOUR + 8 * HOUR - 8 * HOUR + 86400 - 86400 + 3.75 * HOUR)])
        self.assertEqual(battery.tolist(), [4 * HOUR])

    def test_elapsed_h_mm_ss_beside_a_dated_meter_is_not_taken_for_the_day(self):
        meter = absolute(5000, 5000 + 4 * HOUR, day_start_s=22 * HOUR)
        _, (battery,) = one_clock(meter, [of_day(60, 660)])
        self.assertEqual(battery.tolist(), [60, 660])

    def test_a_meter_on_the_time_of_day_keeps_it_beside_one_on_the_same_day(self):
        meter, (battery,) = one_clock(of_day(50000, 60000), [of_day(50060)])
        self.assertEqual([meter[0], battery[0]], [50000, 50060])

    def test_a_meter_on_the_time_of_day_starts_at_zero_beside_one_that_counts(self):
        meter, (battery, heat) = one_clock(of_day(50000, 60000), [elapsed(60), of_day(50010)])
        self.assertEqual([meter[0], battery[0], heat[0]], [0, 60, 10])

    def test_an_elapsed_log_in_h_mm_ss_that_starts_late_keeps_its_clock(self):
        meter, (battery,) = one_clock(of_day(600, 9000), [elapsed(660)])
        self.assertEqual([meter[0], battery[0]], [600, 660])

    def test_dates_beside_a_meter_without_them_are_refused(self):
        for meter in (elapsed(0, 10), of_day(0, 10)):
            with self.subTest(meter.kind), self.assertRaises(CannotRead) as caught:
                one_clock(meter, [replace(absolute(1000), file="b.csv", rows=np.array([2]))])
            self.assertIn("b.csv, row 2: it carries dates", str(caught.exception))
