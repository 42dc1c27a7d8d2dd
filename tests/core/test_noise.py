"""The rule of a fair comparison: against a Monte-Carlo of itself, and against a published power function."""

import unittest

import numpy as np
from scipy.stats import norm, t
from statsmodels.stats.power import TTestIndPower

from jaunecharge.core.noise import (
    Side,
    Spread,
    compare,
    interval_variance,
    measured_spread,
    noise,
    resolvable,
)

DRAWS = 10_000


def shown(slow_min, difference, runs, cells, interval, assumed, seed=3, comparisons=1):
    """How often the rule shows a difference: runs drawn, seen through check-ins, and compared as a person would."""
    rng = np.random.default_rng(seed)
    means = np.full(cells, slow_min)
    means[1] = slow_min - difference
    hits = 0
    for _ in range(DRAWS):
        times = rng.normal(means[:, None], assumed.assumed * means[:, None], (cells, runs))
        if interval:
            phase = rng.uniform(0, interval, (cells, runs))
            times = (np.floor((times - phase) / interval) + 0.5) * interval + phase
        spread = measured_spread(assumed, list(times))
        width = interval_variance(interval)
        slow, fast = Side(times[0].mean(), runs, width), Side(times[1].mean(), runs, width)
        hits += compare(fast, slow, spread, comparisons).said == "a faster"
    return hits / DRAWS


class Resolvable(unittest.TestCase):
    def check(self, minutes, runs, interval, cells=2, comparisons=1, assumed=Spread()):
        """The difference found, and those 5 % below and above it, enclose a power of 0.8 in the simulation."""
        found = resolvable(minutes, runs, interval_variance(interval), assumed, float(cells * (runs - 1)), comparisons)
        below, above = (shown(minutes, found * k, runs, cells, interval, assumed, comparisons=comparisons)
                        for k in (0.95, 1.05))  # fmt: skip
        self.assertLess(below, 0.8, f"{found:.1f} min is more than 5 % too much")
        self.assertGreater(above, 0.8, f"{found:.1f} min is more than 5 % too little")

    def test_a_single_run_a_side(self):
        self.check(100.0, 1, 10.0)

    def test_repeats_of_two_cells(self):
        self.check(90.0, 3, 5.0)

    def test_the_spread_is_pooled_over_all_cells(self):
        self.check(120.0, 2, 15.0, cells=9)

    def test_a_ranking_with_its_correction(self):
        self.check(100.0, 3, 10.0, cells=3, comparisons=3)

    def test_a_chamber_with_a_continuous_log(self):
        self.check(100.0, 2, 1.0, assumed=Spread(0.03))

    def test_where_the_assumption_has_no_weight_it_is_the_two_sample_t_test(self):
        # Source: statsmodels 0.15, TTestIndPower.solve_power: noncentral t, two-sided, alpha 0.05, power 0.8.
        for runs in (3, 5, 10, 40):
            published = TTestIndPower().solve_power(nobs1=runs, alpha=0.05, power=0.8)
            # A spread of a thousandth: the two sides then take nearly equal times, as the published function has it.
            ours = resolvable(1000.0, runs, 0.0, Spread(0.001, 1e-9))
            self.assertAlmostEqual(ours / published, 1.0, delta=0.05, msg=f"{runs} runs")
            self.assertAlmostEqual(ours / published, 1.0, delta=0.004)

    def test_by_hand_for_one_run_a_side(self):
        # Nothing is random but the runs: (t(0.975, 4) + z(0.8)) × √2 × 6 %, were both sides of one length.
        by_hand = (t.ppf(0.975, 4) + norm.ppf(0.8)) * np.sqrt(2.0) * 0.001
        self.assertAlmostEqual(resolvable(1.0, 1, 0.0, Spread(0.001)), by_hand, delta=by_hand * 0.005)

    def test_more_runs_show_more_and_longer_intervals_less(self):
        found = [resolvable(100.0, n, interval_variance(10.0)) for n in (1, 2, 3, 5, 9)]
        self.assertEqual(found, sorted(found, reverse=True))
        coarse = [resolvable(100.0, 2, interval_variance(w)) for w in (0.0, 5.0, 10.0, 15.0, 30.0)]
        self.assertEqual(coarse, sorted(coarse))

    def test_unequal_sides_lie_between(self):
        one, both, two = resolvable(100.0, 1), resolvable(100.0, (1, 3)), resolvable(100.0, 3)
        self.assertLess(two, both)
        self.assertLess(both, one)

    def test_none_where_nothing_would_show(self):
        self.assertIsNone(resolvable(10.0, 1, interval_variance(60.0)))


class Noise(unittest.TestCase):
    def test_one_run_a_side_by_hand(self):
        # 100 and 80 min, 10-min check-ins: u² = 0.06²(100² + 80²) + 2 × 100/12; Welch–Satterthwaite on the spread's 4.
        by_spread, by_interval = 0.0036 * 16_400.0, 200.0 / 12.0
        variance = by_spread + by_interval
        dof = 4.0 * (variance / by_spread) ** 2
        found = noise(Side(100.0, 1, 100.0 / 12.0), Side(80.0, 1, 100.0 / 12.0))
        self.assertAlmostEqual(found.standard, variance**0.5)
        self.assertAlmostEqual(found.dof, dof)
        self.assertAlmostEqual(found.minutes, t.ppf(0.975, dof) * variance**0.5)

    def test_two_identical_results_never_make_the_spread_nothing(self):
        found = measured_spread(Spread(), [[90.0, 90.0], [80.0, 80.0]])
        self.assertAlmostEqual(found.share, 0.06 * (4 / 6) ** 0.5)
        self.assertEqual(found.dof, 6.0)

    def test_a_measured_spread_contains_its_intervals(self):
        assumed = Side(100.0, 2, 25.0)
        little = noise(assumed, assumed, Spread(measured=0.06, measured_dof=2))
        much = noise(assumed, assumed, Spread(measured=0.06, measured_dof=400))
        self.assertAlmostEqual(much.standard, 6.0, delta=0.05)
        self.assertGreater(little.standard, much.standard)

    def test_cells_of_one_run_tell_nothing(self):
        self.assertEqual(measured_spread(Spread(), [[90.0], [70.0]]), Spread())

    def test_holms_strictest_step_widens(self):
        one, three = (noise(Side(100.0), Side(100.0), comparisons=n).minutes for n in (1, 3))
        self.assertGreater(three, one)

    def test_verdicts(self):
        self.assertEqual(compare(Side(60.0), Side(100.0)).said, "a faster")
        self.assertEqual(compare(Side(100.0), Side(60.0)).said, "b faster")
        tie = compare(Side(95.0), Side(100.0))
        self.assertEqual((tie.said, tie.minutes_saved), ("no difference shown", 5.0))
        self.assertEqual(compare(Side(100.0), Side(100.0)).said, "no difference shown")
