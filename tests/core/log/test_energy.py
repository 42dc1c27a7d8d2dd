import unittest
from unittest import mock

import numpy as np
from scipy.integrate import trapezoid
from uncertainties import ufloat

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.log.energy import MeterSpec, clip, energy_between, window_means
from jaunecharge.core.log.trace import power_trace
from tests.cases import steps


class Cleaning(unittest.TestCase):
    def test_rows_out_of_order_are_sorted_and_counted(self):
        trace = power_trace(np.array([0.0, 2.0, 1.0, 3.0]), np.array([1.0, 3.0, 2.0, 4.0]))
        self.assertEqual(trace.time_s.tolist(), [0, 1, 2, 3])
        self.assertEqual(trace.power_w.tolist(), [1, 2, 3, 4])
        self.assertEqual(trace.cleaned.reordered, 1)

    def test_rows_that_share_a_time_become_their_mean_and_are_counted(self):
        trace = power_trace(np.array([0.0, 1.0, 1.0, 1.0, 2.0]), np.array([1.0, 2.0, 3.0, 4.0, 5.0]))
        self.assertEqual(trace.power_w.tolist(), [1, 3, 5])
        self.assertEqual(trace.cleaned.duplicates, 2)

    def test_a_hole_is_missing_time_less_the_step_that_was_due(self):
        time_s = np.concatenate((np.arange(100.0), np.arange(200.0, 300.0)))
        trace = power_trace(time_s, np.ones(200))
        self.assertEqual(trace.holes, [(99.0, 200.0)])
        self.assertEqual(trace.cleaned.missing_s, 100.0)
        self.assertAlmostEqual(trace.coverage, 1 - 100 / 299)

    def test_a_step_of_up_to_thirty_seconds_is_no_hole(self):
        trace = power_trace(np.array([0.0, 1.0, 2.0, 32.0, 33.0]), np.ones(5))
        self.assertEqual(trace.holes, [])

    def test_a_slow_log_has_holes_only_beyond_ten_of_its_own_steps(self):
        trace = power_trace(np.array([0.0, 60.0, 120.0, 660.0, 720.0, 1400.0]), np.ones(6))
        self.assertEqual(trace.holes, [(720.0, 1400.0)] if trace.step_s == 60.0 else [])

    def test_one_moment_is_no_log(self):
        with self.assertRaisesRegex(CannotRead, "one moment"):
            power_trace(np.array([5.0, 5.0]), np.ones(2))


class Trapezoid(unittest.TestCase):
    def test_equals_scipy_integrate(self):
        """Outside check: scipy.integrate.trapezoid."""
        rng = np.random.default_rng(1)
        time_s = np.cumsum(rng.uniform(0.2, 3.0, 5000))
        power_w = rng.uniform(0, 20, 5000)
        found = energy_between(power_trace(time_s, power_w), time_s[0], time_s[-1])
        self.assertAlmostEqual(found.metered.value, trapezoid(power_w, time_s) / 3600, places=9)
        self.assertTrue(found.complete)

    def test_a_window_between_samples_is_interpolated(self):
        trace = power_trace(np.array([0.0, 10.0, 20.0]), np.array([0.0, 10.0, 10.0]))
        found = energy_between(trace, 5.0, 15.0)
        self.assertAlmostEqual(found.metered.value * 3600, 37.5 + 50.0)

    def test_a_hole_adds_nothing_to_the_metered_and_its_trapezoid_to_the_bridged(self):
        time_s = np.concatenate((np.arange(101.0), np.arange(200.0, 301.0)))
        found = energy_between(power_trace(time_s, np.full(202, 36.0)), 0.0, 300.0)
        self.assertAlmostEqual(found.metered.value, 2.0)
        self.assertAlmostEqual(found.bridged.value, 3.0)
        self.assertEqual(found.covered_s, 200.0)
        self.assertGreater(found.bridged.standard, found.metered.standard)

    def test_a_window_that_ends_inside_a_hole_takes_none_of_it_as_metered(self):
        time_s = np.concatenate((np.arange(101.0), np.arange(200.0, 301.0)))
        found = energy_between(power_trace(time_s, np.full(202, 36.0)), 0.0, 150.0)
        self.assertAlmostEqual(found.metered.value, 1.0)
        self.assertAlmostEqual(found.bridged.value, 1.5)

    def test_outside_the_log_there_is_nothing(self):
        self.assertEqual(energy_between(steps((100, 5.0)), 200.0, 300.0).span_s, 0.0)

    def test_window_means_leave_out_what_was_not_metered(self):
        time_s = np.concatenate((np.arange(101.0), np.arange(200.0, 301.0)))
        means = window_means(power_trace(time_s, np.full(202, 7.0)), np.array([0.0, 90.0, 220.0]), 60.0)
        self.assertAlmostEqual(means[0], 7.0)
        self.assertTrue(np.isnan(means[1]))
        self.assertAlmostEqual(means[2], 7.0)


class OnSamples(unittest.TestCase):
    """Moments that are samples are read without a search: to the last bit what interpolating gives."""

    def setUp(self):
        rng = np.random.default_rng(3)
        steady = power_trace(np.arange(2000.0), rng.uniform(0, 15, 2000), rng.uniform(4, 12, 2000))
        at = np.cumsum(rng.choice([1.0, 1.5, 2.25, 400.0], 2000, p=[0.8, 0.1, 0.09, 0.01]))
        self.traces = steady, power_trace(at, rng.uniform(0, 15, 2000))

    def test_means_of_windows(self):
        for trace in self.traces:
            running, covered = trace.running
            for starts in (trace.time_s[5:900], np.r_[7.3, trace.time_s[8:900], 2500.4], np.arange(3.5, 900, 0.7)):
                ends = starts + 60.0
                wh, seconds = (
                    np.interp(ends, trace.time_s, t) - np.interp(starts, trace.time_s, t) for t in (running, covered)
                )
                with np.errstate(invalid="ignore", divide="ignore"):
                    expected = np.where(seconds >= 54.0, wh * 3600.0 / seconds, np.nan)
                for at_once in (1, 7, 65536):
                    with mock.patch("jaunecharge.core.log.energy.AT_ONCE", at_once):
                        np.testing.assert_array_equal(window_means(trace, starts, 60.0), expected)

    def test_cut_at_samples_or_between_them(self):
        for trace in self.traces:
            for start, end in ((trace.time_s[4], trace.time_s[700]), (trace.time_s[4] + 0.3, trace.time_s[700])):
                time_s, (power_w, volts, _), hole = clip(trace, start, end)
                np.testing.assert_array_equal(power_w, np.interp(time_s, trace.time_s, trace.power_w))
                self.assertEqual(volts is None, trace.volts is None)
                self.assertEqual((time_s[0], time_s[-1], len(hole)), (start, end, len(time_s) - 1))


class MeterUncertainty(unittest.TestCase):
    def test_equals_the_uncertainties_package_with_errors_common_to_all_samples(self):
        """Outside check: package `uncertainties`, one gain and one offset a channel for the whole log."""
        rng = np.random.default_rng(2)
        time_s = np.arange(500.0)
        volts, amps = rng.normal(9, 0.05, 500), rng.uniform(0.5, 2.0, 500)
        root3 = 3**0.5
        gain_v, gain_a = ufloat(1, 0.005 / root3), ufloat(1, 0.005 / root3)
        zero_v, zero_a = ufloat(0, 0.02 / root3), ufloat(0, 0.03 / root3)
        power = [(v * gain_v + zero_v) * (a * gain_a + zero_a) for v, a in zip(volts, amps, strict=True)]
        expected = sum((power[i] + power[i + 1]) / 2 for i in range(499)) / 3600
        found = energy_between(power_trace(time_s, volts * amps, volts, amps), 0, 499, MeterSpec(0.5, 0.02, 0.03))
        self.assertAlmostEqual(found.metered.value, expected.nominal_value, places=9)
        self.assertAlmostEqual(found.metered.standard / expected.std_dev, 1.0, places=6)

    def test_does_not_shrink_with_the_number_of_samples(self):
        """Common practice: 54.0 ± 0.6 Wh, not ± 0.006."""
        few = energy_between(steps((36000, 5.4), step_s=60.0), 0, 36000).metered
        many = energy_between(steps((36000, 5.4)), 0, 36000).metered
        self.assertAlmostEqual(few.standard / many.standard, 1.0, places=2)

    def test_an_unknown_accuracy_is_in_no_uncertainty(self):
        found = energy_between(power_trace(np.arange(3601.0), np.full(3601, 10.0)), 0, 3600, MeterSpec(None)).metered
        self.assertEqual([p.source for p in found.parts if "meter" in p.source], [])

    def test_watts_alone_carry_the_gain_only(self):
        found = energy_between(power_trace(np.arange(3601.0), np.full(3601, 10.0)), 0, 3600).metered
        self.assertAlmostEqual(found.standard, 10.0 * 0.005 * (2 / 3) ** 0.5)
