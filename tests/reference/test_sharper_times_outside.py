"""When a percentage was reached, by the meter, on charge curves of PyBaMM (Sulzer et al., 2021) read every ten minutes:
the published parameter set of Chen et al. (2020), behind a chain of invented losses.
"""

import os
import unittest

os.environ["PYBAMM_DISABLE_TELEMETRY"] = "true"

import numpy as np

from jaunecharge.core.log.check_ins import CheckIns, milestone
from jaunecharge.core.log.flow import flow_of
from jaunecharge.core.log.trace import power_trace
from tests.reference.test_published_cell import Published

C_RATES = (0.2, 0.35, 0.5, 0.7)
READINGS_OF_EACH = 40
EVERY_S = 600.0


class PublishedCurves(unittest.TestCase):
    """Each curve is read many times: by a gauge that steps elsewhere, from another start on, at other minutes."""

    @classmethod
    def setUpClass(cls):
        rng = np.random.default_rng(8)
        cls.hits, cls.widths, cls.plain = [], [], []
        for c_rate in C_RATES:
            charge = Published(c_rate)
            time_s = np.arange(0.0, charge.time_s[-1], 1.0)
            level = np.interp(time_s, charge.time_s, charge.charge / charge.charge[-1])
            drawn_w = np.interp(time_s, charge.time_s, charge.volts * charge.amps)
            for _ in range(READINGS_OF_EACH):
                cls.read(rng, time_s, level, drawn_w)

    @classmethod
    def read(cls, rng, time_s, level, drawn_w):
        idle_w, passes, copper = rng.uniform(0.2, 0.8), rng.uniform(0.6, 0.75), rng.uniform(0.0, 0.01)
        watts = idle_w + drawn_w / passes + copper * drawn_w**2
        trace = power_trace(time_s, watts * (1 + 0.003 * rng.normal(size=len(watts))))
        shown = np.floor(level * 100.0 + rng.uniform(0.0, 1.0))
        begin = float(rng.uniform(0, 600)) + float(time_s[np.argmax(shown >= rng.integers(3, 20))])
        at = np.arange(begin, time_s[-1], EVERY_S)
        percent = np.minimum(100.0, shown[np.searchsorted(time_s, at)])
        readings = CheckIns(at, percent, flow=flow_of(trace, at, idle_w))
        for level_asked in (50, 80):
            m = milestone(readings, level_asked)
            if m is None or m.by_s is None:
                continue
            true_s = float(time_s[np.argmax(shown >= level_asked)])
            cls.hits.append(m.earliest_s - 1.0 <= true_s <= m.latest_s + 1.0)
            cls.widths.append((m.latest_s - m.earliest_s) / 60.0)
            cls.plain.append((m.by_s - m.after_s) / 60.0)

    def test_nineteen_of_twenty_intervals_hold_the_truth(self):
        self.assertGreater(len(self.hits), 250)
        self.assertTrue(0.93 <= np.mean(self.hits) <= 0.99, np.mean(self.hits))

    def test_they_are_much_narrower_than_the_check_ins(self):
        self.assertLessEqual(np.median(self.widths), 2.5)
        self.assertGreater(np.median(self.plain), 9.9)
