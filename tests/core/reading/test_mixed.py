"""Runs of two to four causes in one, as people log them: whole, with no lead, begun late, cut off, read by hand.

What is measured on many is in docs/confusion.md; here some of each kind, of seeds at which no rule was tried.
"""

import unittest

import numpy as np

from tests.judging import Confusion, covered, read_made, true_no_load
from tests.mixed_runs import LOGS, mixed_run
from tests.own_mixed import own_mixed

FIRST, RUNS = 90_000, 60


class Mixed(unittest.TestCase):
    def read_all(self, made):
        """Confusions by kind of log, and the share of runs without a fault."""
        by_log, whole = {log: Confusion() for log in LOGS}, []
        for seed in range(FIRST, FIRST + RUNS):
            try:
                mixed = made(seed)
            except RuntimeError:
                continue
            reading = read_made(mixed.run)
            pairs = covered(mixed.sure, mixed.perhaps, reading.judged.dips if reading.judged else ())
            by_log[mixed.log].add(pairs)
            whole.append(all(t == f for t, f in pairs))
            with self.subTest(seed):
                self.assertTrue(true_no_load(reading, mixed), "a no-load was stated that was not logged")
        return by_log, float(np.mean(whole))

    def check(self, made):
        by_log, whole = self.read_all(made)
        logged = Confusion()
        for log in LOGS[:-1]:
            logged.pairs.update(by_log[log].pairs)
        self.assertGreaterEqual(logged.right, 0.96, logged.table())
        self.assertGreaterEqual(logged.heat_true(), 0.98, logged.table())
        self.assertGreaterEqual(by_log["hand-read"].right, 0.8, by_log["hand-read"].table())
        self.assertGreaterEqual(whole, 0.9)

    def test_of_a_generator_that_is_not_ours(self):
        self.check(mixed_run)

    def test_of_the_simulator(self):
        self.check(own_mixed)


if __name__ == "__main__":
    unittest.main()
