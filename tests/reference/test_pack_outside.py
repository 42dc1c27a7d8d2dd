"""Ah and Wh of a discharge to cut-off against PyBaMM (Sulzer et al., 2021), parameters of Chen et al. (2020)."""

import os
import unittest

os.environ["PYBAMM_DISABLE_TELEMETRY"] = "true"

import numpy as np
import pybamm

from jaunecharge.core.log import MeterSpec, power_trace
from jaunecharge.core.packs import rating, read_load

IN_SERIES = 3
RATED_AH = 5.0
"""Of the published cell (Chen et al., 2020)."""


class Discharge(unittest.TestCase):
    """The pack of the test is three such cells in series, so that its volts are those of a socket."""

    def discharged(self, *steps):
        simulation = pybamm.Simulation(
            pybamm.lithium_ion.SPM({"calculate discharge energy": "true"}),
            parameter_values=pybamm.ParameterValues("Chen2020"),
            experiment=pybamm.Experiment([*steps], period="5 seconds"),
            solver=pybamm.IDAKLUSolver(rtol=1e-8, atol=1e-9),
        )
        solution = simulation.solve()
        time_s, volts, amps, wh, ah = (
            np.asarray(solution[name].entries, dtype=float)
            for name in (
                "Time [s]", "Terminal voltage [V]", "Current [A]", "Discharge energy [W.h]", "Discharge capacity [A.h]"
            )
        )  # fmt: skip
        return time_s, IN_SERIES * volts, amps, IN_SERIES * float(wh[-1]), float(ah[-1])

    def read(self, time_s, volts, amps):
        """As a meter logs it: nothing drawn before, the output gone after."""
        before, after = np.arange(-60.0, 0.0, 5.0), time_s[-1] + np.arange(5.0, 90.0, 5.0)
        t = np.concatenate((before, time_s, after))
        v = np.concatenate((np.full(len(before), volts[0]), volts, np.zeros(len(after))))
        a = np.concatenate((np.zeros(len(before)), amps, np.zeros(len(after))))
        keep = np.concatenate(([True], np.diff(t) > 0))
        trace = power_trace(t[keep], (v * a)[keep], v[keep], a[keep])
        rated = rating(RATED_AH * 1000.0, 3.63 * IN_SERIES)
        return read_load(trace, rated, MeterSpec(0.1, 0.001, 0.001))

    def check(self, *steps):
        time_s, volts, amps, wh, ah = self.discharged(*steps)
        test = self.read(time_s, volts, amps)
        self.assertAlmostEqual(test.delivered_wh.value, wh, delta=0.002 * wh)
        self.assertAlmostEqual(test.delivered_ah.value, ah, delta=0.002 * ah)
        self.assertLessEqual(abs(test.delivered_wh.value - wh), test.delivered_wh.expanded)
        self.assertFalse(test.at_least)
        self.assertAlmostEqual(test.cut_off.value, time_s[-1] / 3600.0, delta=0.005)
        return test

    def test_at_one_current(self):
        self.check("Discharge at 0.5C until 2.6 V")

    def test_at_the_rate_that_capacities_are_rated_at(self):
        # 0.2 of the capacity an hour to the end voltage: how capacities are rated (IEC 61960-3, from memory).
        test = self.check("Discharge at 0.2C until 2.5 V")
        self.assertAlmostEqual(test.delivered_ah.value, RATED_AH, delta=0.06 * RATED_AH)

    def test_at_one_power_and_in_steps(self):
        self.check("Discharge at 9 W until 2.6 V")
        self.check("Discharge at 1 A for 20 minutes", "Discharge at 2 A for 20 minutes", "Discharge at 3 A until 2.6 V")
