"""Fitting a phone to one measured run: the figures that made the run come back, and its forecast is better for it."""

import unittest
from dataclasses import replace

import numpy as np

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.forecast.chain_forecast import forecast
from jaunecharge.core.forecast.fit import fit_phone
from jaunecharge.core.log.check_ins import make_check_ins
from jaunecharge.core.simulator.circumstances import Circumstances
from jaunecharge.core.simulator.rehearsal import rehearse
from jaunecharge.core.simulator.scenario import Fitted, prepare
from jaunecharge.core.simulator.simulate import NEVER, simulate
from tests.core.shelf import chain, charger
from tests.core.simulator.test_rehearsal import read

ODD = Fitted(receiver=0.68, conductance=0.2, heat_capacity_j=240.0, knee_percent=74.0, last_share=0.12, level_c=39.0)


def measured(fitted, **around):
    """A reading of a run of a phone with these figures, five minutes between its check-ins."""
    made = prepare(chain("20W", "mpp", "mpp"), Circumstances(interval_min=5.0, **around), None, fitted)
    return read(rehearse(made.scenario, 4, interval_min=5.0))


class Fit(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.reading = measured(ODD)
        cls.found = fit_phone(cls.reading, chain("20W", "mpp", "mpp"), Circumstances(), "a run")

    def test_the_figures_come_back(self):
        fitted = self.found.fitted
        self.assertAlmostEqual(fitted.receiver, ODD.receiver, delta=0.03)
        self.assertAlmostEqual(fitted.conductance, ODD.conductance, delta=0.05)
        self.assertAlmostEqual(fitted.level_c, ODD.level_c, delta=1.0)
        self.assertAlmostEqual(fitted.knee_percent, ODD.knee_percent, delta=6.0)
        self.assertEqual(fitted.run, "a run")

    def test_it_says_how_well_it_fits(self):
        self.assertLess(self.found.rms_w, 0.6)
        self.assertLess(self.found.rms_points, 1.5)
        self.assertLess(self.found.rms_k, 0.6)
        self.assertIn("points of battery", self.found.said())

    def test_it_foretells_another_charger_better_than_the_preset(self):
        other = chain("20W", "magnet-only", "mpp")
        truth = simulate(prepare(other, Circumstances(), None, ODD).scenario).minutes_to(80)
        preset = forecast(other).to[80].likely
        fitted = forecast(other, Circumstances(), self.found.fitted).to[80].likely
        self.assertLess(abs(fitted - truth), 0.25 * abs(preset - truth))

    def test_airflow_and_case_are_taken_out(self):
        fan = chain("20W", charger("mpp", fan="own"), "mpp")
        around = Circumstances(interval_min=5.0, airflow="charger's own fan")
        made = prepare(fan, around, None, ODD)
        found = fit_phone(read(rehearse(made.scenario, 4, interval_min=5.0)), fan, around)
        self.assertAlmostEqual(found.fitted.conductance, ODD.conductance, delta=0.06)

    def test_without_heat_its_figures_stay_at_the_preset(self):
        log = replace(self.reading.log, heat=None)
        found = fit_phone(replace(self.reading, log=log), chain("20W", "mpp", "mpp"), Circumstances())
        self.assertEqual((found.heat_fitted, found.rms_k, found.fitted.level_c), (False, None, NEVER))

    def test_too_little_to_fit_to_is_refused(self):
        few = replace(self.reading.log, readings=make_check_ins(np.array([60.0, 660.0]), np.array([5.0, 20.0])))
        with self.assertRaises(CannotRead):
            fit_phone(replace(self.reading, log=few), chain("20W", "mpp", "mpp"), Circumstances())
