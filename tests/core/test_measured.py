import math
import unittest

import numpy as np
import pint
from uncertainties import ufloat

from jaunecharge.core.measured import Measured, Part, lopsided_rectangle, rectangle
from jaunecharge.core.units import FACTORS, battery_wh, fahrenheit, to_base
from jaunecharge.core.wording import duration, plus_minus, temperature, temperature_rise


class Uncertainty(unittest.TestCase):
    def test_quotient_equals_the_uncertainties_package(self):
        """Outside check: package `uncertainties`."""
        a, b = Measured(16.2, (Part("a", 0.4), Part("b", 0.3))), Measured(27.9, (Part("c", 0.2),))
        expected = ufloat(16.2, math.hypot(0.4, 0.3)) / ufloat(27.9, 0.2)
        self.assertAlmostEqual(a.over(b).value, expected.nominal_value)
        self.assertAlmostEqual(a.over(b).standard, expected.std_dev)

    def test_expanded_is_twice_the_standard(self):
        self.assertEqual(Measured(1.0, (Part("x", 0.25),)).expanded, 0.5)

    def test_a_lopsided_rectangle_counts_its_shift(self):
        drawn = np.random.default_rng(3).uniform(-0.10, 0.03, 400_000)
        self.assertAlmostEqual(lopsided_rectangle(0.10, 0.03), math.sqrt(np.mean(drawn**2)), places=3)
        self.assertAlmostEqual(lopsided_rectangle(0.03, 0.03), rectangle(0.03))


class Units(unittest.TestCase):
    def test_every_factor_equals_pint(self):
        """Outside check: package `pint`."""
        registry = pint.UnitRegistry()
        names = {"V": "volt", "A": "ampere", "W": "watt", "%": "percent", "h": "hour", "us": "microsecond"}
        for quantity, units in FACTORS.items():
            if quantity in ("celsius", "position"):
                continue
            base = next(iter(units))
            for unit, factor in units.items():
                with self.subTest(unit):
                    one = registry.Quantity(1, names.get(unit, unit)).to(names.get(base, base))
                    self.assertAlmostEqual(one.magnitude, factor)

    def test_temperatures_equal_pint(self):
        registry = pint.UnitRegistry()
        for unit, name in (("°F", "degF"), ("K", "kelvin")):
            factor, offset = to_base("celsius", unit)
            expected = registry.Quantity(104.9, name).to("degC").magnitude
            self.assertAlmostEqual(104.9 * factor + offset, expected)
        self.assertAlmostEqual(fahrenheit(42.5), registry.Quantity(42.5, "degC").to("degF").magnitude)

    def test_battery_energy_equals_pint(self):
        registry = pint.UnitRegistry()
        expected = (registry.Quantity(4441, "mA*h") * registry.Quantity(3.87, "V")).to("W*h").magnitude
        self.assertAlmostEqual(battery_wh(4441, 3.87), expected)


class Words(unittest.TestCase):
    def test_durations(self):
        said = [duration(s) for s in (5, 59 * 60 + 40, 5940, 45 * 60)]
        self.assertEqual(said, ["5 s", "1 h 00", "1 h 39", "45 min"])

    def test_a_value_shows_the_digits_that_its_uncertainty_warrants(self):
        self.assertEqual(plus_minus(Measured(54.03, (Part("x", 0.31),)), "Wh"), "54.0 ± 0.6 Wh")
        self.assertEqual(plus_minus(Measured(0.579, (Part("x", 0.02),)), "%", 100.0), "58 ± 4 %")
        self.assertEqual(plus_minus(Measured(12.41, (Part("x", 0.6),)), "W"), "12.4 ± 1.2 W")

    def test_temperatures_in_either_unit(self):
        self.assertEqual(temperature(42.5), "42.5 °C")
        self.assertEqual(temperature(42.5, True), "108.5 °F")
        self.assertEqual(temperature_rise(10.0, True), "18.0 °F")
