"""Entries that are odd are asked about; those that are not are let pass."""

import unittest

from jaunecharge.core.bench import EntryItem, parse
from jaunecharge.core.bench.doubts import Known, denied, doubts


def asked(text, **known):
    return [d.said for d in odd(text, **known)]


def odd(text, **known):
    return doubts(parse(f"a {text}").items, Known(**{"at_s": 3600.0, **known}))


EVERY_TEN = [(0.0, 10.0), (600.0, 18.0), (1200.0, 26.0), (1800.0, 34.0)]


class Percentages(unittest.TestCase):
    def test_a_fall_is_asked_about(self):
        self.assertIn("47 after 52?", asked("47", percents=[(3000.0, 52.0)])[0])

    def test_a_usual_step_is_let_pass(self):
        self.assertEqual(asked("42", at_s=2400.0, percents=EVERY_TEN), [])
        self.assertEqual(asked("34", at_s=2400.0, percents=EVERY_TEN), [])

    def test_a_jump_is_asked_about(self):
        [question] = asked("74", at_s=2400.0, percents=EVERY_TEN)
        self.assertIn("74 after 34?", question)

    def test_more_than_any_battery_takes(self):
        self.assertIn("more than a battery takes", asked("60", at_s=60.0, percents=[(0.0, 10.0)])[0])

    def test_one_that_its_neighbours_deny(self):
        [question] = asked("56", at_s=1800.0, percents=[(600.0, 33.0), (1200.0, 50.0)])
        self.assertIn("Was it 50 before? 33, 50, 56", question)
        self.assertEqual(denied([(0.0, 33.0), (600.0, 50.0), (1200.0, 56.0)]), 50.0)
        self.assertIsNone(denied([(0.0, 33.0), (600.0, 44.0), (1200.0, 56.0)]))
        self.assertIsNone(denied([(0.0, 33.0), (600.0, 50.0), (900.0, 56.0)]), "steps that differ deny nothing")
        self.assertIsNone(denied([(0.0, 70.0), (600.0, 88.0), (1200.0, 92.0)]), "above 80 % every charger slows")

    def test_the_first_is_never_odd(self):
        self.assertEqual(asked("83"), [])

    def test_only_what_came_before_it_counts(self):
        self.assertEqual(asked("22", at_s=900.0, percents=EVERY_TEN), [])


class Temperatures(unittest.TestCase):
    def test_fahrenheit_typed_as_celsius(self):
        [doubt] = odd("102c pad")
        self.assertEqual(doubt.said, "Did you mean 102 °F (38.9 °C)? If it is 102 °C, take the phone off.")
        self.assertEqual((doubt.instead, doubt.names), (EntryItem("celsius", 102.0, "f", "pad"), ("°F", "keep °C")))

    def test_celsius_typed_as_fahrenheit(self):
        [doubt] = odd("40f")
        self.assertEqual((doubt.said[:22], doubt.names), ("Did you mean 40 °C? 40", ("°C", "keep °F")))

    def test_usual_ones_are_let_pass(self):
        for text in ("41.2c", "106f", "24c room", "52c pad"):
            self.assertEqual(asked(text), [], text)

    def test_a_leap_within_minutes(self):
        last = {"back": (3500.0, 30.0)}
        self.assertIn("41.0 °C after 30.0 °C", asked("41c", celsius=last)[0])
        self.assertEqual(asked("41c pad", celsius=last), [])
        self.assertEqual(asked("41c", at_s=9000.0, celsius=last), [])

    def test_a_surface_that_nobody_can_hold(self):
        self.assertIn("take the phone off", asked("63c", celsius={})[0])


class Watts(unittest.TestCase):
    def test_over_the_rating_of_the_adapter(self):
        self.assertIn("rated 20 W", asked("9v 3a", adapter_w=20.0)[0])
        self.assertIn("rated 20 W", asked("25w", adapter_w=20.0)[0])
        self.assertEqual(asked("9v 2.22a", adapter_w=20.0), [])
        self.assertEqual(asked("25w"), [])
        self.assertEqual(asked("25w phone", adapter_w=20.0), [], "the phone's own figure is another point")


class Charger(unittest.TestCase):
    def test_on_without_off(self):
        self.assertEqual(len(asked("on", placed=True)), 1)
        self.assertEqual(asked("on", placed=False), [])
