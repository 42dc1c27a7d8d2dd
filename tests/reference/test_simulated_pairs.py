"""Simulated truth: how often a difference is claimed of equal chargers, and how often one that is there is found."""

import unittest

from tests.simulated_pairs import METHODS, fewest_found, most_wrong, pairs, told


class Truth(unittest.TestCase):
    """Judged by the 99 % binomial bound; seeds are fixed, the 400 of the benchmark are others."""

    def test_equal_pairs_are_seldom_told_apart(self):
        found = told(180, 1, size=0.0)
        self.assertLessEqual(found.claimed, most_wrong(found.pairs))

    def test_what_is_resolvable_is_found(self):
        found = told(180, 2, size=1.0)
        self.assertGreaterEqual(found.right, fewest_found(found.pairs))
        self.assertLessEqual(found.claimed - found.right, 2, "the wrong one is hardly ever called the faster")

    def test_the_bounds_are_those_of_the_binomial(self):
        # By hand: 200 × 0.05 = 10, deviation 3.1; 200 × 0.8 = 160, deviation 5.7; 2.33 of them.
        self.assertEqual((most_wrong(200), fewest_found(200)), (18, 146))

    def test_half_of_what_is_resolvable_is_found_far_less_often(self):
        self.assertLess(told(90, 3, size=0.5).right, fewest_found(90) / 1.5)

    def test_single_runs_and_repeats_are_among_them(self):
        sizes = [len(pair.runs) // 2 for pair in pairs(len(METHODS), 4, size=1.0)]
        self.assertEqual(sizes, [runs for runs, _, _ in METHODS])


if __name__ == "__main__":
    unittest.main()
