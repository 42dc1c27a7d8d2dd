"""Battery curves laid together: of repeats, by placing or by a percentage, and the largest gap between two."""

import unittest

import numpy as np

from jaunecharge.core.versus.compare import versus
from jaunecharge.core.versus.curves import curves
from tests.core.contenders import practice_run, steady


class Curves(unittest.TestCase):
    def test_the_largest_gap_and_when(self):
        # From 10 %: 90 points in 100 and in 200 min, so that at 100 min one is at 100 and the other at 55 %.
        gap = versus([steady("a", 100), steady("b", 200)]).pairs[0].gap
        self.assertAlmostEqual(gap.points, 45, delta=1)
        self.assertAlmostEqual(gap.minute, 100, delta=3)

    def test_laid_together_by_placing_or_by_a_percentage(self):
        late = steady("late", 100, start=40.0)
        early = steady("early", 150)
        by_placing = versus([early, late]).pairs[0].gap
        by_percent = versus([early, late], align="common percent").pairs[0].gap
        self.assertAlmostEqual(by_placing.points, -30, delta=1, msg="the late one is ahead by where it began")
        self.assertLess(abs(by_percent.points), 5, "90 points in 150 min are 60 in 100")
        self.assertEqual(versus([early, late]).window, (40, 100))

    def test_where_a_repeat_has_ended_the_others_say_how_it_goes_on(self):
        # 90 points in 100 and in 110 min; the second is taken off at 60 %, after 62 min.
        runs = [steady("r", 100, every=1, group="r"), steady("r", 110, every=1, to=60, group="r")]
        found = versus([*runs, steady("b", 120, every=1)], 10, 60)
        at = dict(found.percent_at(0))
        self.assertAlmostEqual(at[45.0], 10 + 90 * 45 * (1 / 100 + 1 / 110) / 2, delta=1)
        ended = runs[1].course.readings.time_s[-1] / 60
        mean_then = 10 + 90 * ended * (1 / 100 + 1 / 110) / 2
        self.assertAlmostEqual(at[90.0], mean_then + (90 - ended) * 0.9, delta=1.2)
        level = curves(found.cells[:1], found.window, found.align, np.linspace(0, 100, 500))[0]
        self.assertTrue(np.all(np.diff(level) > -0.05), "no step down where one ended")
        self.assertAlmostEqual(np.interp(90.0, np.linspace(0, 100, 500), level), at[90.0], delta=0.1)

    def test_percent_at_fixed_minutes(self):
        found = versus([practice_run("p1"), practice_run("p2")])
        self.assertEqual(dict(found.percent_at(0))[30.0], 33.0)
        self.assertEqual(dict(found.percent_at(1))[60.0], 43.0)
        self.assertEqual(max(dict(versus([steady("a", 50), steady("b", 60)]).percent_at(0))), 120.0, "full stays full")


if __name__ == "__main__":
    unittest.main()
