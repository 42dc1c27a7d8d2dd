"""Duplicates, late readings, restarts and clocks that jump."""

import random
import unittest

from jaunecharge.core.bench.arrivals import Pushed, Source, settle, start_of


def batch(numbers, clock=lambda n: 1000.0 + n):
    return [Pushed(n, None if clock is None else clock(n)) for n in numbers]


class Usual(unittest.TestCase):
    def test_the_sources_clock_is_laid_on_the_lanes(self):
        found = settle(Source("m"), batch(range(5)), arrived_s=64.0)
        self.assertEqual(found.at_s, (60.0, 61.0, 62.0, 63.0, 64.0))
        self.assertEqual((found.source.last, found.jumped_s), (4, 0.0))

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
        self.assertEqual(again.source, first.source)

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


def figures(numbers, watts=5.0):
    return {n: (watts,) for n in numbers}


class Starts(unittest.TestCase):
    """To which start of a source a batch belongs."""

    def setUp(self):
        self.first = settle(Source("m"), batch(range(100)), 99.0).source

    def start(self, numbers, sent, stored, clock=None, starts=None):
        return start_of(starts or [self.first], batch(numbers, clock), sent, stored)

    def test_there_is_none_at_first(self):
        self.assertIsNone(start_of([], batch([0]), figures([0]), {}))

    def test_numbers_from_zero_with_later_times_are_a_new_one(self):
        same = figures([0, 1])
        self.assertIsNone(self.start([0, 1], same, {0: same}, lambda n: 1200.0 + n))

    def test_numbers_from_zero_with_other_figures_are_a_new_one(self):
        self.assertIsNone(self.start([0, 1], figures([0, 1], 7.0), {0: figures([0, 1])}))
        self.assertIsNone(self.start([0, 1], figures([0]) | figures([1], 7.0), {0: figures([0, 1])}))

    def test_old_ones_sent_again_are_none(self):
        self.assertEqual(self.start([5, 6], figures([5, 6]), {0: figures([5, 6])}, lambda n: 1000.0 + n), self.first)

    def test_higher_numbers_go_on(self):
        self.assertEqual(self.start([100, 101], figures([100, 101], 9.0), {0: {}}), self.first)

    def test_those_of_an_older_start_are_known_again(self):
        second = Source("m", epoch=1, last=1)
        stored = {0: figures([0, 1]), 1: figures([0, 1], 7.0)}
        starts = [self.first, second]
        self.assertEqual(self.start([0, 1], figures([0, 1]), stored, starts=starts), self.first)
        self.assertEqual(self.start([0, 1], figures([0, 1], 7.0), stored, starts=starts), second)
        self.assertIsNone(self.start([0, 1], figures([0, 1], 8.0), stored, starts=starts))


class Impossible(unittest.TestCase):
    """Clock values that no reading of the lane can have."""

    def test_one_far_from_the_others_is_refused_alone(self):
        found = settle(Source("m"), [Pushed(0, -1e12), Pushed(1, 50.0), Pushed(2, 51.0)], 51.0)
        self.assertEqual(found.at_s, (None, 50.0, 51.0))

    def test_nothing_lies_in_the_future(self):
        source = settle(Source("m"), batch(range(3)), 60.0).source
        found = settle(source, [Pushed(1, 1e12), Pushed(0, 1000.0)], 61.0)
        self.assertLessEqual(max(found.at_s), 61.0)

    def test_those_that_a_meter_kept_from_the_night_before_count(self):
        found = settle(Source("m"), [Pushed(0, 0.0), Pushed(1, 40_000.0)], 60.0)
        self.assertEqual(found.at_s, (-39_940.0, 60.0))


class Clocks(unittest.TestCase):
    def test_one_that_jumps_is_laid_anew_and_told(self):
        source = settle(Source("m"), batch(range(10)), 100.0).source
        for leap in (3600.0, -7200.0):
            found = settle(source, batch([10, 11], clock=lambda n, leap=leap: 1000.0 + n + leap), 102.0)
            self.assertEqual(found.at_s, (101.0, 102.0))
            self.assertAlmostEqual(found.jumped_s, -leap, delta=1.0)
            after = settle(found.source, batch([12], clock=lambda n, leap=leap: 1000.0 + n + leap), 103.0)
            self.assertEqual((after.at_s, after.jumped_s), ((103.0,), 0.0))
