"""Spot checks and meter checks."""

import math
import unittest

import numpy as np

from jaunecharge.core.bench.meter_check import Against, check_said, deviation, gain_after
from jaunecharge.core.chain.check import Chain
from jaunecharge.core.errors import CannotRead
from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.core.log.energy import MeterSpec
from jaunecharge.core.reading.spot_check import again_asked, classes, drift_said, spot, spot_seems
from jaunecharge.core.simulator.circumstances import Circumstances
from jaunecharge.core.simulator.rehearsal import rehearse
from jaunecharge.core.simulator.scenario import prepare

PHONE = kit_from_line("phone Ostrel Max 4700mAh mpp large magnets")
PLUG = kit_from_line("adapter Plug 20 20W")


def checked(charger, minutes=3.0):
    chain = Chain(PLUG, None, kit_from_line(charger), PHONE)
    run = rehearse(prepare(chain, Circumstances(start_percent=30.0)).scenario, 3)
    kept = run.time_s <= 60.0 + minutes * 60.0
    return spot(run.time_s[kept], (run.volts * run.amps)[kept], 60.0)


class Spots(unittest.TestCase):
    def test_settled_watts_and_ramp_of_simulated_chargers(self):
        for charger, watts in (
            ("puck Cairn disc mpp claims 15W asks 9V2.22A", 15.0),
            ("pad Moraine pad magnet-only", 7.5),
        ):
            for minutes in (1.0, 3.0, 5.0):
                with self.subTest(charger, minutes=minutes):
                    found = checked(charger, minutes)
                    self.assertIn(watts, found.like_w)
                    self.assertTrue(found.steady)
                    self.assertTrue(10.0 < found.ramp_s < 90.0, found.ramp_s)

    def test_a_ramp_of_known_length(self):
        time_s = np.arange(0.0, 181.0)
        watts = np.clip(time_s / 40.0, 0.0, 1.0) * 18.0
        found = spot(time_s, watts, 0.0)
        self.assertAlmostEqual(found.settled.value, 18.0)
        self.assertAlmostEqual(found.ramp_s, 0.95 * 40.0 - 5.0, delta=3.0)

    def test_what_has_not_settled_says_so(self):
        time_s = np.arange(0.0, 121.0)
        self.assertFalse(spot(time_s, 5.0 + time_s / 10.0, 0.0).steady)

    def test_too_short(self):
        self.assertIsNone(spot(np.arange(0.0, 30.0), np.full(30, 18.0), 0.0))
        self.assertIsNone(spot(np.zeros(0), np.zeros(0), 0.0))

    def test_watts_read_sparse(self):
        """The ramp lies between two readings; whether it has settled needs two."""
        found = spot(np.array([-5.0, 10.0, 30.0, 60.0, 90.0]), np.array([0.4, 3.0, 17.9, 18.0, 18.2]), 0.0)
        self.assertTrue(found.sparse and found.steady)
        self.assertEqual((found.ramp_from_s, found.ramp_s), (10.0, 30.0))
        self.assertAlmostEqual(found.settled.value, 18.1)
        once = spot(np.array([60.0]), np.array([17.8]), 0.0)
        self.assertEqual((once.settled.value, once.steady, once.ramp_from_s), (17.8, None, 0.0))
        self.assertEqual(once.settled.expanded, 0.0)
        self.assertIsNone(spot(np.array([20.0]), np.array([17.8]), 0.0), "it may still be ramping")
        falling = spot(np.array([10.0, 30.0, 60.0, 75.0, 90.0]), np.array([18.0, 18.0, 18.0, 16.0, 14.0]), 0.0)
        self.assertFalse(falling.steady)

    def test_its_uncertainty_is_that_of_meter_and_scatter(self):
        rng = np.random.default_rng(4)
        watts = 18.0 + rng.normal(0.0, 0.2, 181)
        found = spot(np.arange(181.0), watts, 0.0, MeterSpec(gain_percent=1.0))
        self.assertEqual([p.source for p in found.settled.parts], ["scatter of the readings", "meter gain"])
        gain = 2.0**0.5 * 0.18 / 3.0**0.5
        self.assertAlmostEqual(found.settled.expanded, 2.0 * math.hypot(gain, 0.2 / 60.0**0.5), delta=0.01)

    def test_what_a_charger_draws_alone_is_no_charge(self):
        for watts, no_load, seen in (
            (0.5, 0.45, "not charging"), (0.5, None, "not charging"), (2.6, 2.5, "not charging"),
            (2.6, 0.4, "under 5 W"), (22.0, 0.4, "between 15 and 20 W"),
        ):  # fmt: skip
            with self.subTest(watts=watts, no_load=no_load):
                found = spot(np.arange(0.0, 90.0), np.full(90, watts), 0.0, no_load_w=no_load)
                self.assertEqual(spot_seems(found), seen)

    def test_classes(self):
        self.assertEqual(classes(18.75), (15.0,))
        self.assertEqual(classes(9.4), (7.5,))
        self.assertEqual(classes(13.8), (10.0, 12.0))
        self.assertEqual(classes(0.5), ())
        self.assertEqual(spot_seems(spot(np.arange(0.0, 90.0), np.full(90, 13.8), 0.0)), "like 10 or 12 W")
        self.assertEqual(spot_seems(spot(np.arange(0.0, 90.0), np.full(90, 0.5), 0.0)), "not charging")

    def test_the_first_is_asked_for_again(self):
        self.assertIn("Repeat Cairn", again_asked(["Cairn", "Serac"]))
        self.assertEqual(again_asked(["Cairn", "Serac", "Cairn"]), "")
        self.assertEqual(again_asked(["Cairn"]), "")
        self.assertIn("-0.6 W (-3 %)", drift_said(["Cairn", "Serac", "Cairn"], [18.6, 9.0, 18.0]))
        self.assertEqual(drift_said(["Cairn", "Serac"], [18.6, 9.0]), "")


class MeterChecks(unittest.TestCase):
    SURE = Against("a load", 0.5)

    def test_a_known_deviation_is_found(self):
        rng = np.random.default_rng(2)
        true_w = np.full(12, 10.0)
        mine = true_w * 1.012 * (1.0 + rng.normal(0.0, 0.001, 12))
        found = deviation(mine.tolist(), true_w.tolist(), self.SURE)
        self.assertAlmostEqual(found.value, 1.2, delta=0.1)
        self.assertAlmostEqual(found.standard, math.hypot(0.5 / math.sqrt(3.0), 0.1 / math.sqrt(12)), delta=0.02)

    def test_equal_meters_show_none(self):
        found = deviation([10.0, 12.0, 15.0], [10.0, 12.0, 15.0], self.SURE)
        self.assertEqual(found.value, 0.0)
        self.assertIn("no deviation shown", check_said(found.value, found.expanded))

    def test_what_comes_of_it(self):
        self.assertEqual(check_said(1.2, 0.6), "reads 1.20 ± 0.60 % high")
        self.assertEqual(check_said(-1.2, 0.6), "reads 1.20 ± 0.60 % low")
        self.assertGreater(gain_after(1.2, 0.6), 1.2)
        self.assertAlmostEqual(gain_after(0.0, 2.0 / math.sqrt(3.0)), 1.0)

    def test_too_few_or_too_little(self):
        with self.assertRaisesRegex(CannotRead, "too few"):
            deviation([10.0, 11.0], [10.0, 11.0], self.SURE)
        with self.assertRaisesRegex(CannotRead, "too little"):
            deviation([10.0, 11.0, 0.4], [10.0, 11.0, 0.4], self.SURE)
