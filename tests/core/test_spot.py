"""Spot checks and meter checks."""

import math
import unittest

import numpy as np

from jaunecharge.core.chain import Chain
from jaunecharge.core.errors import CannotRead
from jaunecharge.core.kit_line import kit_from_line
from jaunecharge.core.meter_check import Against, check_said, deviation, gain_after
from jaunecharge.core.presets import prepare
from jaunecharge.core.rehearse import rehearse
from jaunecharge.core.spot import again_asked, classes, drift, seems, spot
from jaunecharge.core.surroundings import Circumstances

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
        self.assertAlmostEqual(found.settled_w, 18.0)
        self.assertAlmostEqual(found.ramp_s, 0.95 * 40.0 - 5.0, delta=3.0)

    def test_what_has_not_settled_says_so(self):
        time_s = np.arange(0.0, 121.0)
        self.assertFalse(spot(time_s, 5.0 + time_s / 10.0, 0.0).steady)

    def test_too_short(self):
        self.assertIsNone(spot(np.arange(0.0, 30.0), np.full(30, 18.0), 0.0))
        self.assertIsNone(spot(np.zeros(0), np.zeros(0), 0.0))

    def test_classes(self):
        self.assertEqual(classes(18.75), (15.0,))
        self.assertEqual(classes(9.4), (7.5,))
        self.assertEqual(classes(13.8), (10.0, 12.0))
        self.assertEqual(classes(0.5), ())
        self.assertEqual(seems(spot(np.arange(0.0, 90.0), np.full(90, 13.8), 0.0)), "like 10 or 12 W")
        self.assertEqual(seems(spot(np.arange(0.0, 90.0), np.full(90, 0.5), 0.0)), "fits no class")

    def test_the_first_is_asked_for_again(self):
        self.assertIn("Repeat Cairn", again_asked(["Cairn", "Serac"]))
        self.assertEqual(again_asked(["Cairn", "Serac", "Cairn"]), "")
        self.assertEqual(again_asked(["Cairn"]), "")
        self.assertIn("-0.6 W (-3 %)", drift(["Cairn", "Serac", "Cairn"], [18.6, 9.0, 18.0]))
        self.assertEqual(drift(["Cairn", "Serac"], [18.6, 9.0]), "")


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
