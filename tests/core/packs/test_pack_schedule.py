"""Tests of packs put in time: full before, rested after, somebody there; what was done of a plan."""

import datetime as dt
import itertools
import unittest
from zoneinfo import ZoneInfo

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.packs import (
    METHODS,
    WantedTest,
    can_be_timed,
    done_of,
    method_named,
    problem_of_tests,
    rating,
    timed_tests,
)
from tests.core.plans import DAYTIME, somebody_there

START = dt.datetime(2027, 3, 1, 8, tzinfo=ZoneInfo("Europe/Zurich"))
PACK = rating(10_000, 3.7)


def wanted(*tests):
    return [WantedTest(label, PACK, method_named(name, kind), known) for label, kind, name, known in tests]


class InTime(unittest.TestCase):
    def timed(self, tests, meters=1):
        problem = problem_of_tests(tests, START, DAYTIME, meters)
        return problem, timed_tests(tests, problem, 2.0)

    def test_every_pack_is_full_before_and_rests_after(self):
        tests = wanted(
            ("Col", "load", "Full to empty at one load", False), ("Col", "load", "Load in steps", True),
            ("Scree", "load", "Load in steps", False), ("Scree", "recharge", "Empty to full", True),
        )  # fmt: skip
        problem, rows = self.timed(tests)
        self.assertEqual(len(rows), 4)
        for row in rows:
            minutes = (row.start - START).total_seconds() / 60
            self.assertTrue(somebody_there(problem, minutes))
            if row.fill_at is not None:
                self.assertGreaterEqual((row.start - row.fill_at).total_seconds() / 3600, 37 * 1.3 / 15 - 0.01)
                self.assertTrue(somebody_there(problem, (row.fill_at - START).total_seconds() / 60))
        for a, b in itertools.pairwise(sorted(rows, key=lambda r: r.start)):
            self.assertGreaterEqual(b.start, a.end, "one meter")
        ends = {r.method: r.end for r in rows if r.pack == "Col"}
        fills = {r.method: r.fill_at for r in rows if r.pack == "Col"}
        first, second = sorted(ends, key=lambda m: ends[m])
        self.assertGreaterEqual(fills[second] - ends[first], dt.timedelta(hours=1))
        # An unknown pack is not left alone; an empty one need not be full.
        self.assertEqual({r.method: r.attended for r in rows if r.pack == "Scree"}["Load in steps"], True)
        self.assertIsNone(next(r for r in rows if r.method == "Empty to full").fill_at)

    def test_it_is_emptied_before_it_is_filled_and_all_begins_on_the_quarter(self):
        tests = wanted(
            ("Col", "recharge", "Empty to full", True), ("Col", "load", "Full to empty at one load", True),
        )  # fmt: skip
        problem = problem_of_tests(tests, START.replace(minute=12, second=7), DAYTIME, 2)
        first, second = timed_tests(tests, problem, 2.0)
        self.assertEqual((first.kind, second.kind), ("load", "recharge"))
        self.assertTrue(all(t.start.minute % 15 == 0 and t.start.second == 0 for t in (first, second)))
        self.assertGreaterEqual(first.start, START.replace(minute=15))

    def test_an_unknown_pack_is_emptied_by_day(self):
        problem, [row] = self.timed(wanted(("Col", "load", "Full to empty at one load", False)))
        self.assertTrue(row.attended)
        minutes = int((row.end - row.start).total_seconds() // 60)
        self.assertTrue(
            all(somebody_there(problem, (row.start - START).total_seconds() / 60 + k) for k in range(0, minutes, 5))
        )

    def test_what_cannot_be_planned_is_refused(self):
        left = next(m for m in METHODS if m.kind == "standby")
        self.assertFalse(can_be_timed(left))
        with self.assertRaisesRegex(CannotRead, "takes no hours of a day"):
            problem_of_tests([WantedTest("Col", PACK, left, True)], START, DAYTIME, 1)
        for tests in ([], wanted(("Col", "load", "Load in steps", True)) * 61):
            with self.assertRaises(CannotRead):
                problem_of_tests(tests, START, DAYTIME, 1)


class Done(unittest.TestCase):
    def test_each_test_that_was_made_answers_for_one(self):
        planned = [("col", "load"), ("col", "load"), ("scree", "load"), ("col", "recharge")]
        self.assertEqual(done_of(planned, [("col", "load"), ("col", "charge")]), [True, False, False, False])
        self.assertEqual(done_of(planned, [("col", "load")] * 3 + [("scree", "load")]), [True, True, True, False])
