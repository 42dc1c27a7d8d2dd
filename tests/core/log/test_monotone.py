"""The curve between check-ins, against SciPy's PCHIP."""

import unittest

import numpy as np
from scipy.interpolate import PchipInterpolator

from jaunecharge.core.log.monotone import monotone


class AgainstSciPy(unittest.TestCase):
    def assert_same(self, x, y):
        ours, theirs = monotone(x, y), PchipInterpolator(x, y, extrapolate=False)
        at = np.concatenate([np.linspace(x[0] - 5.0, x[-1] + 5.0, 997), x])
        np.testing.assert_allclose(ours(at), theirs(at), rtol=1e-12, atol=1e-12, equal_nan=True)
        np.testing.assert_allclose(ours.c, theirs.c, rtol=1e-9, atol=1e-12)

    def test_curves_of_all_kinds(self):
        rng = np.random.default_rng(4)
        for n in (2, 3, 4, 9, 60):
            for kind in ("rising", "level at times", "anything"):
                x = np.cumsum(rng.uniform(0.5, 900.0, n))
                steps = rng.uniform(-3.0, 9.0, n)
                if kind != "anything":
                    steps = np.maximum(steps, 0.0)
                if kind == "level at times":
                    steps = np.round(steps / 4.0)
                with self.subTest(n=n, kind=kind):
                    self.assert_same(x, np.cumsum(steps))

    def test_a_level_battery(self):
        self.assert_same(np.array([0.0, 60.0, 120.0]), np.array([80.0, 80.0, 80.0]))

    def test_one_place(self):
        made = monotone(np.array([0.0, 10.0]), np.array([10.0, 20.0]))
        self.assertEqual((float(made(5.0)), float(made(10.0))), (15.0, 20.0))
        self.assertTrue(np.isnan(made(10.1)))


if __name__ == "__main__":
    unittest.main()
