"""Setting the bench: the steps in order, what instruments tick, what is called out, what may be skipped."""

import unittest

from jaunecharge.core.bench.setup_steps import KEYS, OnBench, Told, Wanted, check_told, next_step, skipped, steps
from jaunecharge.core.errors import CannotRead

WANTED = Wanted(expected_v=9.0)
READY = OnBench(volts=9.02, no_load_w=0.38, percent=10.0, back_c=24.6, ambient_c=24.0)


def states(wanted=WANTED, bench=OnBench(), **told):
    return {s.key: s.state for s in steps(wanted, bench, told)}


def step(key, wanted=WANTED, bench=READY, **told):
    return next(s for s in steps(wanted, bench, told) if s.key == key)


class Steps(unittest.TestCase):
    def test_in_the_order_of_the_work(self):
        self.assertEqual(tuple(states()), tuple(k for k in KEYS if k != "pack"))
        self.assertEqual(next_step(steps(WANTED, OnBench(), {})).key, "adapter")

    def test_what_instruments_see_is_ticked_by_itself(self):
        found = states(bench=READY)
        self.assertEqual(
            {k for k, s in found.items() if s == "seen"}, set(KEYS) - {"settings", "around", "place", "pack"}
        )
        self.assertEqual(next_step(steps(WANTED, READY, {})).key, "settings")

    def test_a_meter_without_the_charger(self):
        found = states(bench=OnBench(volts=5.1, no_load_w=0.0))
        self.assertEqual((found["adapter"], found["charger"]), ("seen", "open"))

    def test_ticked_by_hand_and_skipped_with_a_reason(self):
        told = {"settings": Told(), "around": Told(True, "no case at hand")}
        found = steps(WANTED, READY, told)
        self.assertEqual(next_step(found).key, "place")
        self.assertEqual(skipped(found, told), ["No case, still air, phone idle: skipped, no case at hand"])

    def test_what_the_method_says_stands_in_the_steps(self):
        wanted = Wanted(20.0, "left on", "Thin case", "fan on the phone", "off")
        said = [s.said for s in steps(wanted, READY, {})]
        self.assertIn("Phone at 20 %", said)
        self.assertIn("Charge limit and optimised charging left on, as the method says", said)
        self.assertIn("Thin case, fan on the phone, phone off", said)

    def test_by_wire_and_by_a_pack(self):
        self.assertNotIn("charger", states(Wanted(by_wire=True)))
        self.assertIn("Plug the phone in", step("place", Wanted(by_wire=True)).said)
        self.assertEqual(tuple(states(Wanted(own_source=True)))[:2], ("adapter", "percent"))


class CalledOut(unittest.TestCase):
    def test_five_volts_where_nine_were_expected(self):
        odd = step("volts", bench=OnBench(volts=5.08, no_load_w=0.3)).odd
        self.assertIn("9 V expected", odd)
        self.assertEqual(step("volts").odd, "")
        self.assertEqual(step("volts").value, "9.02 V")

    def test_another_level_than_the_method_says(self):
        self.assertIn("begins at 10 %: drain it further", step("percent", bench=OnBench(percent=35.0)).odd)
        self.assertIn("begins at dead", step("percent", Wanted(0.0), OnBench(percent=30.0)).odd)
        self.assertIn("read from there on", step("percent", bench=OnBench(percent=4.0)).odd)
        self.assertEqual(step("percent", bench=OnBench(percent=11.0)).odd, "")

    def test_a_phone_that_is_still_warm(self):
        warm = step("cool", bench=OnBench(back_c=29.0, ambient_c=24.0))
        self.assertEqual((warm.state, warm.value), ("open", "29.0 °C, room 24.0 °C"))
        self.assertIn("still 5.0 K above the room", warm.odd)
        self.assertEqual(step("cool", bench=OnBench(back_c=24.0)).odd, "Room temperature? Type a 24c room")
        other = step("cool", Wanted(lane="d"), OnBench(back_c=24.0))
        self.assertEqual(other.odd, "Room temperature? Type d 24c room")
        self.assertEqual(step("cool", bench=OnBench(back_c=29.0, ambient_c=24.0), cool=Told()).state, "ticked")


class Refused(unittest.TestCase):
    def test_skipping_without_a_reason(self):
        with self.assertRaisesRegex(CannotRead, "with a reason"):
            check_told("cool", Told(True, " "))

    def test_a_run_without_placing(self):
        with self.assertRaisesRegex(CannotRead, "when the phone is placed"):
            check_told("place", Told(True, "never"))

    def test_a_step_that_there_is_none_of(self):
        with self.assertRaisesRegex(CannotRead, "no step"):
            check_told("coffee", Told())
