"""The judgement against outside means: another change-point search, a published cell, the analytic exponential,
another propagation of uncertainty, and values that practitioners measured."""

import os
import unittest

os.environ["PYBAMM_DISABLE_TELEMETRY"] = "true"

import numpy as np
import pybamm
import ruptures
from scipy.stats import norm
from uncertainties import correlated_values, ufloat
from uncertainties.umath import log

from jaunecharge.core.log.check_ins import Battery
from jaunecharge.core.log.energy import energy_between
from jaunecharge.core.log.trace import power_trace
from jaunecharge.core.measured import Measured, Part
from jaunecharge.core.reading.grid import series
from jaunecharge.core.reading.output import USUAL_RATIO, by_idle, by_ratio, classify, ratio_of_reference
from jaunecharge.core.reading.read_run import Conditions, RunLog, read_run
from jaunecharge.core.reading.thermal_node import fit_node, node_course
from tests.cases import LOGS, checkins, practice
from tests.other_runs import made_run
from tests.reference.test_known_runs import read_folder


class LevelChanges(unittest.TestCase):
    """Source: `ruptures` 1.1 (Truong, Oudre and Vayatis, 2020), KernelCPD with the linear kernel, as oracle."""

    def bounds(self, reading, first_s, end_s, changes):
        grid = series(reading.log.trace, 10.0)
        a, b = grid.index(first_s), grid.index(end_s)
        found = ruptures.KernelCPD(kernel="linear", min_size=4).fit(grid.watts[a:b].reshape(-1, 1))
        return [grid.edge_s(a + i) for i in found.predict(n_bkps=changes)[:-1]]

    def test_stages_of_a_known_run(self):
        reading = read_folder(next(f for f in LOGS if f.name == "staged"))
        ours = [p.start_s for p in reading.judged.phases if p.kind in {"plateau", "trickle"}][1:]
        theirs = self.bounds(reading, 100, 8800, len(ours))
        self.assertEqual(len(ours), 4)
        for a, b in zip(ours, theirs, strict=True):
            self.assertAlmostEqual(a, b, delta=30)

    def test_stages_of_made_runs(self):
        compared = 0
        for seed in range(12):
            run = made_run(1000 + seed, "stages")
            trace = power_trace(run.time_s, run.volts * run.amps, run.volts, run.amps)
            reading = read_run(RunLog(trace, checkins(*zip(run.checkin_s / 60, run.percent, strict=True))))
            levels = reading.judged.course.levels
            ours = [reading.judged.grid.edge_s(level.first) for level in levels][1:]
            last = reading.judged.course.taper or reading.judged.course.end
            theirs = self.bounds(reading, run.placed_s + 120, reading.judged.grid.edge_s(last) - 60, len(run.bounds_s))
            for at in theirs:
                self.assertLess(min(abs(at - o) for o in ours), 60, f"seed {seed}: {at} in {ours}")
                compared += 1
        self.assertGreater(compared, 12)


class PublishedCell(unittest.TestCase):
    """Source: PyBaMM (Sulzer et al., 2021) with the parameters of Chen et al. (2020), single-particle model."""

    @classmethod
    def setUpClass(cls):
        simulation = pybamm.Simulation(
            pybamm.lithium_ion.SPM({"thermal": "lumped", "calculate discharge energy": "true"}),
            parameter_values=pybamm.ParameterValues("Chen2020"),
            experiment=pybamm.Experiment(
                [("Charge at 1C until 4.2 V", "Hold at 4.2 V until C/20")], period="5 seconds"
            ),
        )
        solution = simulation.solve(initial_soc=0.02)
        cls.time_s = np.asarray(solution["Time [s]"].entries)
        cls.watts = -np.asarray(solution["Power [W]"].entries)
        cls.energy_wh = -float(solution["Discharge energy [W.h]"].entries[-1])
        volts = np.asarray(solution["Voltage [V]"].entries)
        cls.cc_end_s = float(cls.time_s[int(np.argmax(volts >= 4.2 - 1e-3))])
        charged = -np.asarray(solution["Discharge capacity [A.h]"].entries)
        cls.percent = 2.0 + 98.0 * charged / charged[-1]

    def reading(self):
        """The cell's own power, logged from its first second, and its charge as the phone would show it."""
        kept = np.concatenate(([True], np.diff(self.time_s) > 0))
        time_s, watts = self.time_s[kept], self.watts[kept]
        at = np.arange(0, time_s[-1], 600.0)
        shown = np.floor(np.interp(at, time_s, self.percent[kept]))
        log = RunLog(power_trace(time_s, watts), checkins(*zip(at / 60, shown, strict=True)))
        return read_run(log, Conditions(battery=Battery(5000, 3.7), placed_s=0.0))

    def test_energy_within_a_tenth_of_a_percent_of_its_own(self):
        trace = self.reading().log.trace
        found = energy_between(trace, trace.start_s, trace.end_s).metered.value
        self.assertLess(abs(found / self.energy_wh - 1), 0.001)

    def test_the_taper_begins_where_constant_current_ends(self):
        reading = self.reading()
        taper = next(p for p in reading.judged.phases if p.kind == "taper")
        self.assertAlmostEqual(taper.start_s, self.cc_end_s, delta=60)
        self.assertEqual(reading.judged.dips, ())


class WarmNode(unittest.TestCase):
    """Source: the analytic exponential, and `uncertainties` for what follows from the fit."""

    def fit(self, seed=1, noise=0.1, length=4000):
        at = np.arange(0, length, 30.0)
        celsius = node_course(at, 43.7, 24.5, 850.0) + np.random.default_rng(seed).normal(0, noise, len(at))
        return fit_node("back", at + 100, celsius, 12.0)

    def test_an_exponential_without_noise_is_found_again(self):
        node = self.fit(noise=0.0)
        self.assertAlmostEqual(node.steady_c.value, 43.7, places=4)
        self.assertAlmostEqual(node.tau_s.value, 850.0, places=2)
        self.assertAlmostEqual(node.crossing(40.0).value, -850 * np.log((43.7 - 40) / (43.7 - 24.5)), places=2)

    def test_its_uncertainty_covers_the_truth_as_often_as_it_says(self):
        inside = [abs((n := self.fit(seed)).steady_c.value - 43.7) <= n.steady_c.expanded for seed in range(120)]
        # 95.45 % at k = 2; below this bound only one time in a thousand (binomial, normal approximation).
        least = 0.9545 - norm.ppf(0.999) * np.sqrt(0.9545 * 0.0455 / 120)
        self.assertGreaterEqual(np.mean(inside), least)

    def test_the_crossing_is_propagated_as_uncertainties_does(self):
        node = self.fit()
        steady, first, tau = correlated_values([node.steady_c.value, node.first_c, node.tau_s.value], node.covariance)
        theirs = -tau * log((steady - 42.0) / (steady - first))
        ours = node.crossing(42.0)
        self.assertAlmostEqual(ours.value, theirs.n, places=6)
        self.assertAlmostEqual(ours.standard, theirs.s, places=6)

    def test_none_is_given_over_too_short_a_stretch(self):
        self.assertIsNone(self.fit(length=900))


class OutputByUncertainties(unittest.TestCase):
    """Source: `uncertainties` for propagation; practice values for the figures (common practice)."""

    def test_the_quotient(self):
        drawn = Measured(9.5, (Part("meter", 0.08),))
        theirs = ufloat(9.5, 0.08) / ufloat(1.25, 0.06)
        ours = by_ratio(drawn, USUAL_RATIO).watts
        self.assertAlmostEqual(ours.value, theirs.n, places=12)
        self.assertAlmostEqual(ours.standard, theirs.s, places=12)

    def test_the_reference_of_practice(self):
        known = next(e for e in practice()["expect"] if e["of"] == "reference ratio")
        ratio = ratio_of_reference(Measured(known["drawn_w"]), known["delivered_w"], "a reference")
        self.assertAlmostEqual(ratio.value.value, known["k"], places=3)
        found = by_ratio(Measured(9.5, (Part("meter", 0.05),)), ratio).watts
        self.assertAlmostEqual(found.value, known["then_drawn_9.5_delivers"], delta=0.05)
        self.assertEqual(classify(found, 15.0).watts, known["class_w"])

    def test_idle_subtraction_of_practice(self):
        for known in (e for e in practice()["expect"] if e["of"] == "idle subtraction"):
            found = by_idle(Measured(known["drawn_w"]), Measured(known["idle_w"]), "no-load")
            self.assertAlmostEqual(found.watts.value, known["delivered_w"], places=6)


if __name__ == "__main__":
    unittest.main()
