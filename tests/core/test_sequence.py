"""Duplicates, late readings, restarts and clocks that jump."""

import random
import unittest

from jaunecharge.core.sequence import Pushed, Source, settle


def batch(numbers, clock=lambda n: 1000.0 + n):
    return [Pushed(n, None if clock is None else clock(n)) for n in numbers]


class Usual(unittest.TestCase):
    def test_the_sources_clock_is_laid_on_the_lanes(self):
        found = settle(Source("m"), batch(range(5)), arrived_s=64.0)
        self.assertEqual(found.at_s, (60.0, 61.0, 62.0, 63.0, 64.0))
        self.assertEqual((found.source.last, found.restarted, found.jumped_s), (4, False, 0.0))

    def test_without_a_clock_the_arrival_counts(self):
        found = settle(Source("m"), batch([0, 1], clock=None), arrived_s=7.0)
        self.assertEqual(found.at_s, (7.0, 7.0))

    def test_a_lag_does_not_shift_what_is_known_of_the_clock(self):
        first = settle(Source("m"), batch([0]), 60.0).source
        late = settle(first, batch([1, 2]), 69.0)
        self.assertEqual(late.at_s, (61.0, 62.0))

    def test_a_long_lag_is_no_jump_of_the_clock(self):
        first = settle(Source("m"), batch([0]), 60.0).source
        late = settle(first, batch([1, 2]), 160.0)
        self.assertEqual((late.at_s, late.jumped_s), ((61.0, 62.0), 0.0))

    def test_the_quickest_arrival_tells_how_the_clocks_stand(self):
        first = settle(Source("m"), batch([0]), 65.0).source
        quick = settle(first, batch([10]), 71.0)
        self.assertEqual(quick.at_s, (71.0,))

    def test_an_empty_batch_is_a_mistake_of_the_caller(self):
        with self.assertRaises(ValueError):
            settle(Source("m"), [], 0.0)


class AgainAndLate(unittest.TestCase):
    def test_the_same_again_lands_where_it_was(self):
        first = settle(Source("m"), batch(range(5)), 64.0)
        again = settle(first.source, batch(range(5)), 80.0)
        self.assertEqual(again.at_s, first.at_s)
        self.assertEqual((again.source.epoch, again.restarted), (0, False))

    def test_late_ones_fall_between(self):
        source = settle(Source("m"), batch([0, 1, 4]), 64.0).source
        late = settle(source, batch([2, 3]), 66.0)
        self.assertEqual(late.at_s, (62.0, 63.0))
        self.assertEqual(late.source.last, 4)

    def test_any_order_settles_to_the_same(self):
        numbers = list(range(40))
        kept = {}
        for seed in range(5):
            order = numbers[:]
            random.Random(seed).shuffle(order)
            source = settle(Source("m"), batch([0, 39]), 99.0).source
            where = {}
            for i in range(0, 40, 7):
                part = order[i : i + 7]
                found = settle(source, batch(part), 99.0 + i)
                source = found.source
                where |= dict(zip(part, found.at_s, strict=True))
            kept[seed] = where
        self.assertTrue(all(kept[s] == kept[0] for s in kept))


class Restarts(unittest.TestCase):
    def test_numbers_from_zero_with_later_times(self):
        source = settle(Source("m"), batch(range(100)), 99.0).source
        found = settle(source, batch([0, 1], clock=lambda n: 1200.0 + n), 300.0)
        self.assertTrue(found.restarted)
        self.assertEqual((found.source.epoch, found.source.last), (1, 1))

    def test_it_says_so_itself(self):
        source = settle(Source("m"), batch(range(3)), 3.0, boot="first").source
        self.assertFalse(settle(source, batch([0]), 9.0, boot="first").restarted)
        found = settle(source, batch([0], clock=lambda n: 5.0), 9.0, boot="second")
        self.assertTrue(found.restarted)
        self.assertEqual(found.at_s, (9.0,))

    def test_old_ones_sent_again_are_no_restart(self):
        source = settle(Source("m"), batch(range(100)), 99.0).source
        self.assertFalse(settle(source, batch([5, 6]), 120.0).restarted)


class Clocks(unittest.TestCase):
    def test_one_that_jumps_is_laid_anew_and_told(self):
        source = settle(Source("m"), batch(range(10)), 100.0).source
        for leap in (3600.0, -7200.0):
            found = settle(source, batch([10, 11], clock=lambda n, leap=leap: 1000.0 + n + leap), 102.0)
            self.assertEqual(found.at_s, (101.0, 102.0))
            self.assertAlmostEqual(found.jumped_s, -leap, delta=1.0)
            after = settle(found.source, batch([12], clock=lambda n, leap=leap: 1000.0 + n + leap), 103.0)
            self.assertEqual((after.at_s, after.jumped_s), ((103.0,), 0.0))
