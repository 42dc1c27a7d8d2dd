"""Minutes of a trace against plain loops over its samples."""

import unittest

import numpy as np

from jaunecharge.core.log import by_minute, power_trace


def made(seed, count=4000):
    rng = np.random.default_rng(seed)
    steps = rng.choice([0.5, 1.0, 2.0], count)
    steps[rng.integers(1, count, 6)] = rng.uniform(20, 400, 6)
    time_s = 1000.0 + np.cumsum(steps)
    return power_trace(time_s, np.round(12 + rng.normal(0, 1, count), 1))


class Minutes(unittest.TestCase):
    def test_each_holds_what_its_samples_say(self):
        for seed in range(8):
            trace = made(seed)
            minutes = by_minute(trace)
            self.assertEqual(int(minutes.samples.sum()), len(trace.time_s))
            for start, end, low_s, low, high_s, high, mean, count in zip(*vars(minutes).values(), strict=True):
                inside = (trace.time_s >= start) & (trace.time_s <= end)
                watts, times = trace.power_w[inside], trace.time_s[inside]
                self.assertEqual(len(watts), count)
                self.assertEqual((low, high), (watts.min(), watts.max()))
                self.assertEqual((low_s, high_s), (times[watts.argmin()], times[watts.argmax()]))
                self.assertAlmostEqual(mean, sum(watts.tolist()) / count)
                self.assertLess(end - start, 60.0)
                self.assertEqual((start - trace.start_s) // 60, (end - trace.start_s) // 60)

    def test_no_hole_is_hidden_in_one(self):
        for seed in range(8):
            trace = made(seed)
            self.assertGreater(len(trace.holes), 0)
            self.assertEqual(by_minute(trace).holes(trace.hole_limit_s), trace.holes)

    def test_their_curve_has_the_extremes_in_order(self):
        trace = made(3)
        time_s, watts = by_minute(trace).curve
        self.assertTrue(np.all(np.diff(time_s) >= 0))
        self.assertEqual((watts.min(), watts.max()), (trace.power_w.min(), trace.power_w.max()))
        self.assertEqual(time_s[watts.argmax()], trace.time_s[trace.power_w.argmax()])
