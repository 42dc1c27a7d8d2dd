import unittest
from itertools import pairwise

import numpy as np

from jaunecharge.core.log.pace import _Fit, pace, slows
from jaunecharge.core.log.trace import unmetered
from jaunecharge.core.milestones import at_limit
from jaunecharge.core.reading.read_run import Conditions, RunLog, read_run
from jaunecharge.core.report.sentences import sentences
from tests.cases import checkins
from tests.paced_runs import paced_run


class Pieces(unittest.TestCase):
    def test_one_straight_piece_is_the_line_of_least_squares(self):
        """Outside check: numpy.polyfit of degree 1, its covariance with the variance of whole numbers, 1/12."""
        readings = checkins(*((m, round(7.3 + 0.83 * m)) for m in range(0, 91, 10)))
        [piece] = pace(readings)
        minutes = readings.time_s / 60.0
        slope, _ = np.polyfit(minutes, readings.percent, 1)
        variance = (1.0 / 12.0) * (1.0 + slope**2) / np.sum((minutes - minutes.mean()) ** 2)
        self.assertAlmostEqual(piece.points_per_min.value, slope, places=9)
        self.assertAlmostEqual(piece.points_per_min.standard, variance**0.5, places=9)
        self.assertEqual((piece.start_s, piece.end_s), (0.0, 5400.0))

    def test_a_bend_is_found_between_two_check_ins(self):
        level = [10 + 1.2 * m if m < 34 else 50.8 + 0.5 * (m - 34) for m in range(0, 101, 10)]
        before, after = pace(checkins(*((10 * i, round(p)) for i, p in enumerate(level))))
        self.assertTrue(after.bend_s[0] <= 34 * 60 <= after.bend_s[1], after.bend_s)
        self.assertAlmostEqual(before.points_per_min.value, 1.2, delta=before.points_per_min.expanded)
        self.assertAlmostEqual(after.points_per_min.value, 0.5, delta=after.points_per_min.expanded)
        self.assertTrue(slows(before, after))
        self.assertFalse(slows(after, before))

    def test_a_stop_stands_still_and_ends_again(self):
        pieces = pace(checkins((0, 40), (10, 50), (20, 60), (30, 70), (40, 80), (50, 80), (60, 80), (70, 80), (80, 90)))
        self.assertEqual([p.stands_still for p in pieces[:2]], [False, True])
        self.assertEqual(at_limit(pieces[1].end_percent), 80)

    def test_what_a_full_gauge_shows_says_nothing(self):
        stays = checkins((0, 70), (10, 80), (20, 90), (30, 100), (60, 100), (90, 100))
        self.assertEqual(pace(stays), pace(checkins((0, 70), (10, 80), (20, 90))))

    def test_a_slip_of_the_pen_makes_no_bend(self):
        readings = checkins((0, 10), (10, 20), (20, 30), (30, 40), (40, 15), (50, 60), (60, 70), (70, 80))
        self.assertEqual(len(pace(readings)), 1)

    def test_too_little_says_nothing(self):
        self.assertEqual(pace(checkins((0, 10))), ())
        self.assertEqual(len(pace(checkins((0, 10), (10, 18)))), 1)


class RandomRuns(unittest.TestCase):
    """Two hundred runs of five kinds, read every 5, 10 or 15 minutes, rounded or cut, from a model of the tests."""

    @classmethod
    def setUpClass(cls):
        rng = np.random.default_rng(20)
        kinds = ("straight", "step", "taper", "hold", "pause")
        cls.runs = [(kind, paced_run(rng, kind)) for kind in kinds for _ in range(40)]

    def test_a_fall_by_a_third_is_found_within_one_interval(self):
        late, count = [], 0
        for kind, run in self.runs:
            if run.slows_s is None:
                continue
            count += 1
            pieces = pace(run.readings)
            bends = [b.start_s for a, b in pairwise(pieces) if slows(a, b)]
            every = float(np.median(np.diff(run.readings.time_s)))
            if not any(abs(at - run.slows_s) <= every for at in bends):
                late.append(kind)
        self.assertGreater(count, 130)
        self.assertLess(len(late), 0.1 * count, late)

    def test_a_straight_charge_has_no_bend(self):
        self.assertEqual({len(pace(run.readings)) for kind, run in self.runs if kind == "straight"}, {1})

    def test_the_first_pace_lies_in_its_interval(self):
        hit = [
            abs(first.points_per_min.value - run.first_rate) <= first.points_per_min.expanded
            for _, run in self.runs
            for first in pace(run.readings)[:1]
        ]
        self.assertGreater(np.mean(hit), 0.88)

    def test_without_a_meter_no_cause_is_named(self):
        words = set()
        for _, run in self.runs[::4]:
            log = RunLog(unmetered(float(run.readings.time_s[0]), float(run.readings.time_s[-1])), run.readings)
            reading = read_run(log, Conditions())
            self.assertIsNone(reading.judged)
            words |= {w for s in sentences(reading) for w in f"{s.plain} {s.basis}".lower().replace(",", " ").split()}
        self.assertIn("slows", words)
        for cause in ("heat", "hot", "contact", "supply", "restart", "moved", "adapter", "throttled"):
            self.assertNotIn(cause, words)


class Search(unittest.TestCase):
    """Bends that are looked for all at once against each tried by itself."""

    def fits(self):
        rng = np.random.default_rng(9)
        for _ in range(25):
            count = int(rng.integers(6, 50))
            minutes = np.cumsum(rng.choice([5.0, 7.5, 10.0], count))
            level = 5 + minutes * np.where(minutes < rng.uniform(20, 300), 0.9, 0.3) + rng.normal(0, 1, count)
            yield _Fit(minutes, np.round(level)), rng

    def test_the_bend_that_helps_most_is_the_one_that_a_full_search_finds(self):
        for fit, rng in self.fits():
            for knots in ([], [float(rng.choice(fit.places))]):
                costs = [fit.cost([*knots, p]) for p in fit.places.tolist()]
                found = fit.best_added(knots)
                if min(costs) == np.inf:
                    self.assertIsNone(found)
                else:
                    self.assertEqual(found, [*knots, fit.places[int(np.argmin(costs))]])

    def test_costs_that_are_told_at_once_are_those_of_the_fits(self):
        for fit, rng in self.fits():
            more = np.sort(rng.choice(fit.places, (30, 2)), axis=1)
            for columns in (more[:, :1], more[more[:, 0] < more[:, 1]]):
                about, slack = fit._about([], columns)
                for row, told in zip(columns.tolist(), about.tolist(), strict=True):
                    true = fit.cost(row)
                    self.assertEqual(np.isinf(told), np.isinf(true), row)
                    if np.isfinite(true):
                        self.assertAlmostEqual(told, true, delta=slack)
