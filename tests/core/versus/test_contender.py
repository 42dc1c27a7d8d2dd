"""How a run went, as a comparison sees it: heat and its cost over a window, and what a summary keeps of it."""

import unittest
from itertools import pairwise

import numpy as np

from jaunecharge.core.measured import Measured, Part
from jaunecharge.core.versus.compare import to_milestones, versus
from jaunecharge.core.versus.contender import Contender, Course, Warm, course_of, lost_within
from jaunecharge.core.versus.sentences import hottest, lost_minutes, summary_said
from tests.core.contenders import steady
from tests.core.small_runs import FULL, PLACED, cycles, falling, follow, read, rising


class OfARun(unittest.TestCase):
    """A run that throttles between 42 and 40 °C up to 84 min, then cools in its taper."""

    @classmethod
    def setUpClass(cls):
        levels = [PLACED, *cycles(15.0, 8.0, hours=1.4), *falling(50, 15, 1), FULL]
        cls.run_ = read(levels, rising(150), follow(levels))
        cls.course = course_of(cls.run_)

    def seen(self, start, end):
        """The hottest reading between two minutes after placing, by the log itself."""
        surface = self.run_.log.heat.phone()
        minutes = (surface.time_s - self.run_.placed_s) / 60
        return float(surface.celsius[(minutes >= start) & (minutes <= end)].max())

    def test_the_hottest_of_a_window_is_that_of_its_readings(self):
        warm = self.course.warm
        self.assertEqual(warm.hottest_c, self.run_.phone_heat.max_c)
        for start, end in ((0, 12), (0, 5), (95, 130), (0, 150)):
            self.assertAlmostEqual(warm.within(start, end).hottest_c, self.seen(start, end), delta=0.4)
        self.assertLess(warm.within(100, 140).hottest_c, warm.hottest_c - 1.0)

    def test_the_rise_falls_with_it(self):
        late = self.course.warm.within(100, 140)
        self.assertAlmostEqual(
            self.course.warm.rise_k - late.rise_k, self.course.warm.hottest_c - late.hottest_c, places=9
        )

    def test_what_heat_cost_over_windows_adds_up_to_the_whole(self):
        whole = self.course.lost_min
        edges = [0.0, 13.0, 41.5, 77.0, 1e4]
        parts = [lost_within(self.course, a, b) for a, b in pairwise(edges)]
        self.assertAlmostEqual(sum(p.value for p in parts), whole.value, places=9)
        self.assertGreater(parts[1].value, 0.0)
        self.assertAlmostEqual(parts[1].standard / parts[1].value, whole.standard / whole.value, places=9)

    def test_nothing_is_lost_where_nothing_was_throttled(self):
        self.assertEqual(lost_within(self.course, 130.0, 150.0).value, 0.0)
        self.assertEqual(lost_within(self.course, 0.0, 2.0).value, 0.0)

    def test_a_comparison_counts_the_window_only(self):
        run = Contender("hot", "hot", {}, self.course)
        whole, late = (versus([run, steady("b", 150, start=0.0, to=100.0)], *w) for w in ((10, 100), (85, 100)))
        for found in (whole, late):
            laps = found.timed.laps[0]
            start, end = laps[0].start.estimate, laps[0].end.estimate
            self.assertAlmostEqual(hottest(found.cells[0], laps).hottest_c, self.seen(start, end), delta=0.4)
        costs = [lost_minutes(f.cells[0], f.timed.laps[0]).value for f in (whole, late)]
        self.assertGreater(costs[0], 5.0)
        self.assertEqual(costs[1], 0.0)
        self.assertIn(" from 10 to 80 %", " ".join(summary_said(whole)))
        self.assertNotIn("Heat cost", " ".join(summary_said(late)))


class Known(unittest.TestCase):
    def test_where_the_moment_is_not_known_it_is_that_of_the_whole(self):
        self.assertEqual(Warm(41.0, 18.0).within(3, 5).hottest_c, 41.0)

    def test_nothing_measured_in_between(self):
        steps = np.array([30.0, 31.0, np.nan, np.nan])
        warm = Warm(31.2, None, 15.0, 10.0, steps)
        self.assertIsNone(warm.within(21, 40))
        self.assertAlmostEqual(warm.within(0, 8).hottest_c, 30.3)
        self.assertIsNone(warm.within(0, 8).rise_k)
        self.assertIsNone(Warm(31.2, None, 15.0).within(20, 40))

    def test_a_step_is_never_hotter_than_the_hottest(self):
        self.assertEqual(Warm(31.0, 8.0, 50.0, 10.0, np.array([31.4, 30.0])).within(0, 20).hottest_c, 31.0)

    def test_a_throttle_over_the_end_of_a_window_counts_by_its_share(self):
        course = Course(
            None, lost_min=Measured(6.0, (Part("heat", 0.6),)), losses=((10.0, 20.0, 4.0), (30.0, 34.0, 2.0))
        )
        found = lost_within(course, 15.0, 31.0)
        self.assertAlmostEqual(found.value, 4.0 * 0.5 + 2.0 * 0.25)
        self.assertAlmostEqual(found.standard, 0.6 * found.value / 6.0)
        self.assertIsNone(lost_within(Course(None), 0.0, 10.0))

    def test_milestones_count_from_where_the_window_begins(self):
        found = versus([steady("a", 100), steady("b", 150)], 20, 60)
        self.assertEqual(list(to_milestones(found)), [50.0, 80.0, 100.0])
        self.assertEqual(list(to_milestones(versus([steady("a", 100), steady("b", 150, to=70)], 20, 60))), [50.0])
        above = versus([steady("a", 100), steady("b", 150)], 60, 90)
        self.assertEqual(list(to_milestones(above)), [80.0, 100.0])


if __name__ == "__main__":
    unittest.main()
