"""Comparisons against statistics that others wrote: SciPy 1.17, statsmodels 0.15, uncertainties 3.2."""

import math
import unittest

import numpy as np
from scipy.optimize import brentq
from scipy.stats import t as student
from scipy.stats import ttest_ind
from statsmodels.stats.meta_analysis import combine_effects
from statsmodels.stats.multitest import multipletests
from statsmodels.stats.weightstats import CompareMeans, DescrStatsW
from uncertainties import ufloat

from jaunecharge.core.noise import Side, Spread, compare, measured_spread, noise
from jaunecharge.core.reading.standby import Habits
from jaunecharge.core.versus.compare import versus
from jaunecharge.core.versus.contender import window_energy
from jaunecharge.core.versus.cost import cell_charge, charge
from jaunecharge.core.versus.factor_effects import effects
from jaunecharge.core.versus.ranking import holm
from jaunecharge.core.versus.window import lap
from tests.core.contenders import charger, powered, steady


def repeats(name, times, every=1):
    return [steady(f"{name}{n}", t, every=every, group=name, factors=charger(name)) for n, t in enumerate(times)]


A, B = (100.0, 112.0, 105.0, 99.0), (128.0, 141.0, 150.0)


class Statistics(unittest.TestCase):
    def setUp(self):
        self.found = versus([*repeats("a", A), *repeats("b", B)])
        self.times = [np.array([x.estimate for x in laps]) for laps in self.found.timed.laps]

    def test_welch_is_that_of_statsmodels(self):
        # Source: statsmodels CompareMeans.tconfint_diff(usevar="unequal").
        mine, other = self.times
        low, high = CompareMeans(DescrStatsW(other), DescrStatsW(mine)).tconfint_diff(usevar="unequal")
        found = self.found.timed.welch(0, 1)
        self.assertAlmostEqual(found[0], low)
        self.assertAlmostEqual(found[1], high)

    def test_without_an_assumption_it_is_the_pooled_t_test(self):
        # Source: scipy.stats.ttest_ind with equal variances, on relative times so that the spreads are of one size.
        rng = np.random.default_rng(7)
        for _ in range(20):
            mine, other = rng.normal(100.0, 0.05, 4), rng.normal(100.05, 0.05, 5)
            spread = measured_spread(Spread(0.06, 1e-9), [mine, other])
            verdict = compare(Side(mine.mean(), 4), Side(other.mean(), 5), spread)
            published = ttest_ind(other, mine)
            interval = published.confidence_interval(0.95)
            self.assertAlmostEqual(verdict.noise.minutes, (interval.high - interval.low) / 2.0, places=4)
            self.assertEqual(verdict.said == "no difference shown", bool(published.pvalue > 0.05))

    def test_the_pooled_variance_is_that_of_the_cells(self):
        # Source: statsmodels CompareMeans.std_meandiff_pooledvar.
        mine, other = (np.array(x) / np.mean(x) for x in self.times)
        spread = measured_spread(Spread(0.06, 1e-9), list(self.times))
        published = CompareMeans(DescrStatsW(mine), DescrStatsW(other)).std_meandiff_pooledvar
        self.assertAlmostEqual(spread.share * math.sqrt(1 / 4 + 1 / 3), published, places=9)

    def test_t_is_scipys_quantile_at_the_welch_satterthwaite_degrees(self):
        # Source: JCGM 100:2008, G.4.1, by hand; scipy.stats.t.
        found = noise(Side(100.0, 1, 10.0), Side(140.0, 1, 12.0))
        by_spread = 0.06**2 * (100.0**2 + 140.0**2)
        by_hand = (by_spread + 22.0) ** 2 / (by_spread**2 / 4.0)
        self.assertAlmostEqual(found.dof, by_hand)
        self.assertAlmostEqual(found.factor, student.ppf(0.975, by_hand))
        self.assertAlmostEqual(found.standard, math.sqrt(by_spread + 22.0))

    def test_a_difference_is_shown_exactly_where_its_p_is_under_five_percent(self):
        pair = self.found.pairs[0]
        found = pair.difference.verdict
        published = 2 * student.sf(abs(found.minutes_saved) / found.noise.standard, found.noise.dof)
        self.assertAlmostEqual(pair.difference.p, published, places=9)

    def test_holm_is_that_of_statsmodels(self):
        # Source: statsmodels multipletests(method="holm").
        rng = np.random.default_rng(11)
        for size in (1, 2, 5, 45, 300):
            p = rng.uniform(0, 1, size) ** 4
            self.assertEqual(holm(p).tolist(), multipletests(p, 0.05, "holm")[0].tolist())


class Propagation(unittest.TestCase):
    """Source: `uncertainties`, linear propagation (JCGM 100:2008, 5.1.2); a Monte-Carlo where it is not linear."""

    def test_the_ratio_of_two_times(self):
        found = versus([steady("a", 100), steady("b", 150)])
        timed = found.timed
        a, b = (ufloat(float(timed.sides.minutes[n]), timed.standard(n)) for n in (0, 1))
        ratio = b / a
        self.assertAlmostEqual(timed.relative(0, 1), ratio.s / ratio.n)

    def test_the_difference_of_two_times(self):
        found = versus([*repeats("a", A, every=10), *repeats("b", B, every=10)])
        timed = found.timed
        a, b = (ufloat(float(timed.sides.minutes[n]), timed.standard(n)) for n in (0, 1))
        self.assertAlmostEqual(found.pairs[0].difference.verdict.noise.standard, (b - a).s)

    def test_the_middle_of_two_intervals_by_monte_carlo(self):
        found = lap(steady("a", 100, start=5.0, phase=3.0).course.readings, 20, 80)
        rng = np.random.default_rng(5)
        start, end = (rng.uniform(c.earliest, c.latest, 400_000) for c in (found.start, found.end))
        self.assertAlmostEqual((end - start).mean(), found.end.middle - found.start.middle, delta=0.05)
        self.assertAlmostEqual((end - start).var(), found.variance, delta=0.1)

    def test_energy_of_a_window(self):
        run = steady("a", 100, course={"power": powered(12, 140, relative=0.004)})
        found = window_energy(run.course, (10.0, 6.0), (70.0, 10.0))
        begun, ended = ufloat(10.0, 6.0 / math.sqrt(12)), ufloat(70.0, 10.0 / math.sqrt(12))
        expected = (ended - begun) / 60.0 * 12.0 * ufloat(1.0, 0.004)
        self.assertAlmostEqual(found.value, expected.n)
        self.assertAlmostEqual(found.standard, expected.s)

    def test_what_comes_from_socket_and_hut_battery(self):
        found = versus([steady(n, 100, course={"power": powered(12, 140)}) for n in "ab"])
        habits = Habits(adapter_share=0.87, hut_share=0.78)
        made = cell_charge(found, 0, habits)
        meter = ufloat(made.meter_wh.value, made.meter_wh.standard)
        for share, ours in ((habits.adapter_share, made.wall_wh), (habits.hut_share, made.hut_wh)):
            expected = meter / ufloat(share, Habits.share_u)
            self.assertAlmostEqual(ours.value, expected.n)
            self.assertAlmostEqual(ours.standard, expected.s, places=6)
        self.assertEqual(charge(made.meter_wh, habits), made)


class PutTogether(unittest.TestCase):
    def test_one_pair_by_fiellers_interval(self):
        # Source: its definition (Fieller 1954), solved by SciPy's brentq: those ratios r at which the difference of one
        # time and r times the other is just its noise.
        runs = [steady("off", 140, factors=charger("Serac")),
                steady("on", 112, factors=charger("Serac", airflow="fan on the phone"))]  # fmt: skip
        found = versus(runs)
        (fan,) = effects(found)
        own = fan.contrasts[0]
        off, on = (found.timed.sides.minutes[k] for k in (own.a, own.b))
        t = student.ppf(0.975, own.dof)

        def beyond(r):
            return abs(off - r * on) - t * math.hypot(found.timed.standard(own.a), r * found.timed.standard(own.b))

        low, high = brentq(beyond, 0.5, off / on), brentq(beyond, off / on, 3.0)
        self.assertAlmostEqual(fan.low_percent, 100 * (1 - 1 / low))
        self.assertAlmostEqual(fan.high_percent, 100 * (1 - 1 / high))

    def test_effects_of_independent_pairs_are_the_fixed_effect_of_statsmodels(self):
        # Source: statsmodels combine_effects, fixed effect: inverse variances; Cochran's Q.
        runs = []
        for phone, off, on in (("Ostrel Max", 140, 100), ("Tarn 9", 180, 150), ("Fen 5", 120, 104)):
            factors = charger("Serac", phone=phone)
            runs.append(steady(f"{phone} off", off, factors=factors))
            runs.append(steady(f"{phone} on", on, factors={**factors, "airflow": "fan on the phone"}))
        (fan,) = [e for e in effects(versus(runs)) if e.factor == "airflow"]
        logs = np.log([c.ratio for c in fan.contrasts])
        variances = np.array([c.relative[0] ** 2 + c.relative[1] ** 2 for c in fan.contrasts])
        published = combine_effects(logs, variances, method_re="dl")
        self.assertAlmostEqual(fan.less_time_percent, 100 * (1 - math.exp(-published.mean_effect_fe)))
        half = student.ppf(0.975, min(c.dof for c in fan.contrasts)) * published.sd_eff_w_fe
        self.assertAlmostEqual(fan.low_percent, 100 * (1 - math.exp(-(published.mean_effect_fe - half))))
        self.assertIs(fan.alike, True)


if __name__ == "__main__":
    unittest.main()
