import unittest

import numpy as np

from jaunecharge.core.log.check_ins import make_check_ins
from jaunecharge.core.log.placings import placings
from jaunecharge.core.log.trace import power_trace, unmetered
from tests.afternoons import PHONES, afternoon

PLAIN = ("none", "stages", "heat level", "heat cycles")
WITH_STOPS = ("contact", "cut-out", "hold", "hold that ends", "restart")


def steps(*pieces):
    """A trace of one sample a second from (seconds, watts)."""
    watts = np.concatenate([np.full(seconds, float(w)) for seconds, w in pieces])
    return power_trace(np.arange(len(watts), dtype=float), watts)


class Placings(unittest.TestCase):
    def right(self, kinds, seeds):
        good = 0
        for seed in seeds:
            time_s, watts, placed = afternoon(seed, kinds)
            seen = [p.placed_s for p in placings(power_trace(time_s, watts))]
            good += len(seen) == PHONES and all(
                at is not None and abs(at - true) <= 60 for at, true in zip(seen, placed, strict=True)
            )
        return good

    def test_four_phones_in_a_row_are_told_apart(self):
        self.assertEqual(self.right(PLAIN, range(50)), 50)

    def test_with_stops_inside_the_runs_four_in_five(self):
        self.assertGreaterEqual(self.right(WITH_STOPS, range(30)), 24)

    def test_a_part_begins_with_the_no_load_before_its_placing(self):
        first, second = placings(steps((120, 0.4), (7200, 15), (3000, 1.2), (300, 0.4), (7200, 9), (600, 0.4)))
        self.assertEqual((first.start_s, first.placed_s), (0, 120))
        self.assertAlmostEqual(second.start_s, 120 + 7200 + 3000, delta=10)
        self.assertAlmostEqual(second.placed_s, 120 + 7200 + 3000 + 300, delta=5)
        self.assertTrue(second.sure)

    def test_a_lost_contact_is_no_other_phone(self):
        self.assertEqual(len(placings(steps((60, 0.4), (3600, 15), (240, 0.4), (3600, 15)))), 1)

    def test_a_hold_at_a_limit_is_no_other_phone(self):
        self.assertEqual(len(placings(steps((60, 0.4), (5400, 12), (3600, 0.5), (1500, 12), (2400, 5), (600, 0.8)))), 1)

    def test_another_level_is_perhaps_another_phone(self):
        parts = placings(steps((60, 0.4), (5400, 12), (180, 0.4), (5400, 18)))
        self.assertEqual([p.sure for p in parts], [True, True])
        lower = placings(steps((60, 0.4), (5400, 18), (180, 0.4), (7200, 12)))
        self.assertEqual([p.sure for p in lower], [True, False])

    def test_a_percentage_that_comes_back_lower_decides(self):
        trace = steps((60, 0.4), (3600, 15), (240, 0.4), (3600, 15))
        again = make_check_ins(np.array([60.0, 3600, 3960, 7000]), np.array([10.0, 60, 12, 55]))
        on = make_check_ins(np.array([60.0, 3600, 3960, 7000]), np.array([10.0, 60, 60, 95]))
        self.assertEqual(len(placings(trace, again)), 2)
        self.assertEqual(len(placings(trace, on)), 1)

    def test_a_phone_that_had_begun_to_slow_does_not_hold_a_level_again(self):
        slowing = [(60, w) for w in np.linspace(15.0, 11.0, 14)]
        still = placings(steps((60, 0.4), (5400, 15), *slowing, (300, 0.4), (1200, 11.5), *slowing, (900, 5)))
        self.assertEqual([p.sure for p in still], [True, False])
        taper = [(60, float(w)) for w in 11.0 * np.exp(-np.arange(60) / 25.0)]
        self.assertEqual(len(placings(steps((60, 0.4), (5400, 15), *slowing, (300, 0.4), *taper))), 1)

    def test_more_than_a_phone_takes_is_two(self):
        parts = placings(steps((60, 0.4), (6000, 13), (120, 0.4), (7000, 13)))
        self.assertEqual([p.sure for p in parts], [True, False])

    def test_where_nothing_is_known_it_is_one(self):
        for trace in (unmetered(0.0, 600.0), steps((3000, 15)), steps((600, 0.4)), steps((20, 15), (20, 14))):
            [only] = placings(trace)
            self.assertEqual((only.start_s, only.end_s), (trace.start_s, trace.end_s))
