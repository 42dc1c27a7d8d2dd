"""The battery's circuit against PyBaMM (Sulzer et al., 2021): the published parameter set of Chen et al. (2020)."""

import os
import unittest

os.environ["PYBAMM_DISABLE_TELEMETRY"] = "true"

import numpy as np
import pybamm
from scipy.optimize import least_squares
from scipy.signal import lfilter

from jaunecharge.core.simulator.cell import EXCHANGE_C_RATE, GRID
from jaunecharge.core.simulator.engine import THERMAL_V, Figures, Tables, cc_cv

# J. Electrochem. Soc. 167 (2020) 080534: a 5 Ah cell, 4.2 V; charged at constant current, then held until C/20.
NOMINAL_AH, MOST_V, END_A = 5.0, 4.2, 0.25
FULL_AH = 5.25
"""Charge at which the tables of our circuit end: a little beyond what the held charge reaches."""

START = 0.02
KNOTS = np.array([0.0, 0.05, 0.2, 0.5, 0.8, 0.92, 1.0])
SLOW_KNOTS = np.array([0.0, 0.6, 0.85, 1.0])
STEP_S = 10.0
CHARGE = np.linspace(0.0, 1.0, GRID)


class Published:
    """One charge of the published cell, by the single-particle model with a lumped temperature."""

    def __init__(self, c_rate):
        steps = (f"Charge at {c_rate}C until {MOST_V} V", f"Hold at {MOST_V} V until C/20")
        simulation = pybamm.Simulation(
            pybamm.lithium_ion.SPM({"thermal": "lumped"}),
            parameter_values=pybamm.ParameterValues("Chen2020"),
            experiment=pybamm.Experiment([steps], period=f"{STEP_S:.0f} seconds"),
        )
        solution = simulation.solve(initial_soc=START)
        self.time_s = solution["Time [s]"].entries
        self.volts = solution["Voltage [V]"].entries
        self.amps = -solution["Current [A]"].entries
        self.ocv_v = solution["Bulk open-circuit voltage [V]"].entries
        mean = (self.amps[1:] + self.amps[:-1]) / 2.0
        gained = np.concatenate([[0.0], np.cumsum(np.diff(self.time_s) * mean)]) / 3600.0
        self.charge = (START * NOMINAL_AH + gained) / FULL_AH


def said(time_s, volts, amps):
    """Minutes at constant current and at constant voltage, % of the charge at the end of the first, Wh."""
    mean = (amps[1:] + amps[:-1]) / 2.0
    gained = np.concatenate([[0.0], np.cumsum(np.diff(time_s) * mean)])
    end = int(np.argmax(volts >= MOST_V - 1e-3))
    return {
        "minutes in CC": time_s[end] / 60.0,
        "minutes in CV": (time_s[-1] - time_s[end]) / 60.0,
        "% at the end of CC": 100.0 * gained[end] / gained[-1],
        "Wh": np.trapezoid(volts * amps, time_s) / 3600.0,
    }


def fitted(run):
    """Resistance and slow branch of our circuit, from one charge of the published cell."""
    at = np.arange(run.time_s[0], run.time_s[-1], STEP_S)
    amps, volts, ocv, charge = (np.interp(at, run.time_s, a) for a in (run.amps, run.volts, run.ocv_v, run.charge))
    transfer = THERMAL_V * np.arcsinh(amps / (2.0 * EXCHANGE_C_RATE * NOMINAL_AH))
    table = np.interp(CHARGE, run.charge, run.ocv_v)
    beyond = run.charge[-1] < CHARGE
    rise = (run.ocv_v[-1] - run.ocv_v[-50]) / (run.charge[-1] - run.charge[-50])
    table[beyond] = run.ocv_v[-1] + (CHARGE[beyond] - run.charge[-1]) * rise

    def parts(x):
        r = np.interp(CHARGE, KNOTS, np.exp(x[:7]))
        return r, np.interp(CHARGE, SLOW_KNOTS, np.exp(x[7:11])), float(np.exp(x[11]))

    def residual(x):
        r, slow, tau_s = parts(x)
        keep = np.exp(-STEP_S / tau_s)
        drive = amps * np.interp(charge, CHARGE, slow) * (1.0 - keep)
        slow_v = lfilter([1.0], [1.0, -keep], np.append(0.0, drive[:-1]))
        said_v = ocv + slow_v + amps * np.interp(charge, CHARGE, r) + transfer
        smooth = np.append(np.diff(x[:7]), np.diff(x[7:11])) * 0.3
        return np.append((said_v - volts) * 300.0, smooth)

    first = np.log([*[0.008] * 11, 600.0])
    found = least_squares(residual, first, bounds=(first - 4.0, first + 3.0))
    return (table, *parts(found.x))


def ours(cell, c_rate):
    """The same charge by our circuit."""
    table, r, slow, tau_s = cell
    figures = Figures(**{
        **dict.fromkeys(Figures._fields, 0.0), "start_charge": START * NOMINAL_AH / FULL_AH, "capacity_ah": FULL_AH,
        "exchange_a": EXCHANGE_C_RATE * NOMINAL_AH, "slow_s": tau_s, "most_v": MOST_V, "end_a": END_A,
    })  # fmt: skip
    none = np.zeros(1)
    tables = Tables(none, table, r, slow, none, none, none, np.zeros((2, 2)), np.zeros((2, 3)))
    volts, amps = np.zeros(30_000), np.zeros(30_000)
    n = cc_cv(figures, tables, c_rate * NOMINAL_AH, volts, amps)
    return said(np.arange(n, dtype=float), volts[:n], amps[:n])


class FittedAtHalfPredictsOne(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        pybamm.set_logging_level("ERROR")
        cls.half, cls.one = Published(0.5), Published(1.0)
        cls.cell = fitted(cls.half)

    def assert_close(self, run, c_rate, share):
        expected = said(run.time_s, run.volts, run.amps)
        found = ours(self.cell, c_rate)
        for name, value in expected.items():
            with self.subTest(name, c_rate=c_rate):
                self.assertLess(abs(found[name] / value - 1.0), share, f"{found[name]:.2f} against {value:.2f}")

    def test_the_published_cell_is_the_one_meant(self):
        expected = said(self.one.time_s, self.one.volts, self.one.amps)
        self.assertAlmostEqual(expected["minutes in CC"], 49.5, delta=1.0)
        self.assertAlmostEqual(expected["% at the end of CC"], 82.0, delta=1.5)

    def test_at_the_rate_of_the_fit(self):
        self.assert_close(self.half, 0.5, 0.05)

    def test_at_twice_the_rate(self):
        self.assert_close(self.one, 1.0, 0.05)
