"""When a check-in is due."""

import unittest

from jaunecharge.core.bench.next_check_in import moments, next_due


class NextDue(unittest.TestCase):
    def test_before_the_phone_is_placed_nothing_is_due(self):
        self.assertEqual(next_due(None, 10.0, [], 100.0).state, "none")

    def test_a_continuous_log_calls_for_nobody(self):
        self.assertEqual(next_due(0.0, 0.0, [], 100.0).state, "none")

    def test_the_first_is_due_at_placing(self):
        found = next_due(60.0, 10.0, [], 62.0)
        self.assertEqual((found.state, found.at_s), ("due", 60.0))

    def test_quiet_due_and_late(self):
        for now, state in ((300.0, "quiet"), (585.0, "due"), (640.0, "due"), (670.0, "late")):
            with self.subTest(now):
                found = next_due(0.0, 10.0, [0.0], now)
                self.assertEqual((found.state, found.at_s), (state, 600.0))
                self.assertAlmostEqual(found.in_s, 600.0 - now)

    def test_one_that_came_a_little_early_counts(self):
        self.assertEqual(next_due(0.0, 10.0, [0.0, 500.0], 520.0).at_s, 1200.0)
        self.assertEqual(next_due(0.0, 10.0, [0.0, 300.0], 320.0).at_s, 600.0)

    def test_a_late_one_counts_for_its_own_moment(self):
        self.assertEqual(next_due(0.0, 10.0, [0.0, 760.0], 761.0).at_s, 1200.0)

    def test_one_logged_for_a_later_moment_does_not_count_yet(self):
        self.assertEqual(next_due(0.0, 10.0, [0.0, 1300.0], 590.0).at_s, 600.0)

    def test_all_moments_of_a_run(self):
        self.assertEqual(moments(60.0, 10.0, 1300.0), [60.0, 660.0, 1260.0])
        self.assertEqual(moments(60.0, 0.0, 1300.0), [])
