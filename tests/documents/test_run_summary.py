"""Summaries as they are kept: what comes back from them, also from those of older readers."""

import json
import unittest

from jaunecharge.core.versus.contender import course_of, lost_within
from jaunecharge.documents.document import VERSION
from jaunecharge.documents.run_summary import CourseDocument, RunSummary
from tests.core.small_runs import FULL, PLACED, cycles, falling, follow, read, rising


class Kept(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        levels = [PLACED, *cycles(15.0, 8.0, hours=1.4), *falling(50, 15, 1), FULL]
        cls.reading = read(levels, rising(150), follow(levels))
        cls.kept = json.loads(json.dumps(RunSummary.of(cls.reading).kept()))

    def changed(self, **course):
        return {**self.kept, "course": {**self.kept["course"], **course}}

    def without(self, name):
        return {**self.kept, "course": {k: v for k, v in self.kept["course"].items() if k != name}}

    def course(self, kept):
        found = RunSummary.read(kept)
        return None if found.course is None else found.course.course(found.ribbon)

    def test_the_same_comes_back(self):
        self.assertEqual(RunSummary.read(self.kept), RunSummary.of(self.reading))
        self.assertEqual(self.kept[VERSION], RunSummary.VERSION)

    def test_a_course_for_comparisons(self):
        found, true = self.course(self.kept), course_of(self.reading)
        self.assertEqual(CourseDocument.of(found), RunSummary.read(self.kept).course)
        for start, end in ((0, 12), (100, 140), (0, 150)):
            mine, theirs = found.warm.within(start, end), true.warm.within(start, end)
            self.assertAlmostEqual(mine.hottest_c, theirs.hottest_c, delta=0.06)
            self.assertAlmostEqual(
                lost_within(found, start, end).value, lost_within(true, start, end).value, delta=0.05
            )

    def test_one_that_was_kept_before_an_unknown_accuracy_could_be_said_is_sure(self):
        self.assertFalse(self.course(self.without("power_unsure")).power.unsure)
        self.assertTrue(self.course(self.changed(power_unsure=True)).power.unsure)

    def test_a_cost_whose_uncertainty_is_not_known(self):
        cost = self.course(self.changed(lost_min={"value": 3.0, "expanded": None})).lost_min
        self.assertEqual((cost.value, cost.expanded), (3.0, 0.0))

    def test_what_an_older_reader_made_has_no_course(self):
        old = {k: v for k, v in self.without("losses").items() if k != VERSION}
        self.assertIsNone(self.course(old))
        self.assertIsNone(self.course({k: v for k, v in old.items() if k != "course"}))

    def test_the_first_summaries_had_a_ribbon_and_little_else(self):
        first = {k: self.kept[k] for k in ("ribbon", "headline", "coverage")}
        found = RunSummary.read(first)
        self.assertEqual((found.headline, found.milestones, found.throttle), (self.kept["headline"], [], None))


if __name__ == "__main__":
    unittest.main()
