"""Packs beyond one output: two at once, converters, recharges, pass-through, turns, phones that give, tables."""

import unittest

import numpy as np

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.log import MeterSpec, make_check_ins, power_trace
from jaunecharge.core.measured import Measured, Part
from jaunecharge.core.packs import (
    Bounds,
    PackCharge,
    PhoneCharges,
    charge_cells,
    coil_and_cord_said,
    converter_efficiency,
    counter_doubts,
    discharges,
    in_turn,
    in_turn_said,
    lamp_level,
    lost_a_day,
    pass_sentences,
    passed_by_eye,
    percent_level,
    phone_to_phone,
    phone_to_phone_sentences,
    rating,
    read_load,
    read_recharge,
    read_together,
    recharge_by_eye,
    recharge_sentences,
    recharge_warnings,
    standby_said,
    together_sentences,
)

PACK = rating(10_000, 3.7)


def trace(*stretches, step_s=1.0, start_s=0.0):
    """(seconds, volts, amps) in order."""
    counts = [round(s / step_s) for s, _, _ in stretches]
    volts = np.repeat([v for _, v, _ in stretches], counts).astype(float)
    amps = np.repeat([a for _, _, a in stretches], counts).astype(float)
    return power_trace(start_s + np.arange(len(volts)) * step_s, volts * amps, volts, amps)


class TwoOutputs(unittest.TestCase):
    def test_together_and_what_the_one_does_to_the_other(self):
        first = trace((60, 9.0, 0.0), (600, 8.9, 2.0), (1200, 5.0, 2.0))
        second = trace((660, 5.1, 0.0), (1200, 5.0, 2.4))
        both = read_together(first, second)
        self.assertAlmostEqual(both.seconds, 1199, delta=2)
        self.assertAlmostEqual(both.delivered_wh.value, (10.0 + 12.0) * 1199 / 3600, delta=0.03)
        [yielded] = both.yielded
        self.assertEqual((yielded.output, round(yielded.from_v), round(yielded.to_v)), (0, 9, 5))
        text = " ".join(s.text for s in together_sentences(both))
        self.assertIn("As the second was loaded, the first went from 8.9 to 5.0 V", text)

    def test_a_change_long_after_is_not_an_answer(self):
        first = trace((60, 9.0, 0.0), (1500, 8.9, 2.0), (300, 5.0, 2.0))
        self.assertEqual(read_together(first, trace((660, 5.1, 0.0), (1200, 5.0, 2.4))).yielded, ())

    def test_never_at_once_is_refused(self):
        with self.assertRaisesRegex(CannotRead, "at the same time"):
            read_together(trace((100, 5.0, 1.0), (200, 5.1, 0.0)), trace((150, 5.1, 0.0), (200, 5.0, 1.0)))


class Converter(unittest.TestCase):
    def test_efficiency_at_each_load(self):
        out = trace((300, 5.1, 0.0), (300, 5.0, 0.2), (300, 5.0, 1.0), (300, 4.9, 3.0))
        into = trace(
            (300, 3.8, 0.02), (300, 3.8, 1.0 / 0.7 / 3.8), (300, 3.8, 5.0 / 0.9 / 3.8), (300, 3.8, 14.7 / 0.8 / 3.8)
        )
        found = converter_efficiency(into, out)
        self.assertEqual([round(a.share.value, 2) for a in found], [0.7, 0.9, 0.8])
        with self.assertRaisesRegex(CannotRead, "wrong way round"):
            converter_efficiency(out, into)

    def test_both_meters_doubt_it(self):
        found = converter_efficiency(trace((600, 9.0, 1.0)), trace((600, 5.0, 1.5)), MeterSpec(1.0, 0.0, 0.0))
        # Four gains of 1 %, each a rectangle (JCGM 100:2008, 4.3.7 and 5.1.6).
        self.assertAlmostEqual(found[0].share.expanded / found[0].share.value, 2 * 2 * 0.01 / 3**0.5, places=6)


class Refilling(unittest.TestCase):
    def test_off_a_display_from_empty(self):
        found = recharge_by_eye(196, 41.3, 17.6, 9.02, True, percent_level(0))
        text = " ".join(s.text for s in recharge_sentences(found, Measured(29.2, (Part("x", 0.1),))))
        self.assertIn("Full after 3 h 16", text)
        self.assertIn("the 9 V profile", text)
        self.assertIn("71 ± 1 % of what was filled in comes out again", text)

    def test_no_round_trip_unless_from_empty(self):
        for before in (None, percent_level(30), lamp_level(1)):
            found = recharge_by_eye(100, 20.0, None, None, True, before)
            self.assertNotIn("comes out again", " ".join(s.text for s in recharge_sentences(found, Measured(29.2))))
            self.assertTrue(any("from empty" in w for w in recharge_warnings(found)))

    def test_a_log_that_ends_early_is_not_full(self):
        found = read_recharge(trace((30, 9.0, 0.0), (3600, 9.0, 1.9)), before=percent_level(0))
        self.assertFalse(found.full)
        self.assertFalse(found.whole)
        self.assertIn("Took at least", " ".join(s.text for s in recharge_sentences(found, None)))

    def test_nothing_read_is_refused(self):
        for args in ((None, None), (-3, None), (None, -1.0), (10, float("nan"))):
            with self.assertRaises(CannotRead):
                recharge_by_eye(*args, None, None, True, None)

    def test_passing_through_off_two_displays(self):
        passed = passed_by_eye(20.0, 14.0, 60)
        self.assertAlmostEqual(passed.share.value, 0.7)
        self.assertIn("70 ± 1 % of what goes in comes out", pass_sentences(passed)[0].text)
        with self.assertRaisesRegex(CannotRead, "gave of its own"):
            passed_by_eye(10.0, 14.0, 60)

    def test_standby_that_a_gauge_cannot_show(self):
        lamps = lost_a_day(lamp_level(4), lamp_level(3), 26 * 86400.0)
        self.assertIn("at most 1.92 points a day", standby_said(lamps).text)
        shown = lost_a_day(percent_level(100), percent_level(85), 30 * 86400.0)
        self.assertIn("Loses 0.50 ± 0.02 points a day", standby_said(shown).text)

    def test_what_it_loses_a_day_lies_in_what_is_stated(self):
        rng, inside = np.random.default_rng(11), 0
        for n in range(600):
            first, loss, days = rng.uniform(60, 99), rng.uniform(0.01, 0.6), rng.uniform(2, 60)
            last = first - loss * days
            if n % 3:
                levels = [percent_level(float(round(x))) for x in (first, last)]
            else:
                levels = [lamp_level(int(np.ceil(x / 25.0))) for x in (first, last)]
            found = lost_a_day(*levels, days * 86400.0)
            inside += abs(found.measured.value - loss) <= found.measured.expanded
            self.assertLessEqual(found.bounds.low, loss + 1e-9)
            self.assertGreaterEqual(found.bounds.high, loss - 1e-9)
        self.assertTrue(0.92 <= inside / 600 <= 0.98, inside)


class Turns(unittest.TestCase):
    def charge(self, pack, phone):
        levels = [percent_level(x) for x in (*pack, *phone)]
        return PackCharge(*levels, phone_wh=17.9)

    def test_charges_of_one_discharge(self):
        charges = [
            self.charge((100, 47), (8, 100)), self.charge((47, 0), (5, 62)), self.charge((100, 30), (5, 100)),
            self.charge((60, 10), (5, 80)),
        ]  # fmt: skip
        self.assertEqual(discharges(charges), [[0, 1], [2], [3]])
        turn = in_turn(charges[:2], emptied=True)
        self.assertAlmostEqual(turn.charges.value, 1.49)
        text = in_turn_said(["A", "B"], turn).text
        self.assertIn("2 phones in turn, A, then B: 1.49 full charges in all", text)
        self.assertIn("ran empty with the last one at 62 %", text)

    def test_coil_against_cord(self):
        self.assertIn("no difference shown", coil_and_cord_said("A", Bounds(0.8, 1.0, 1.2), Bounds(1.1, 1.3, 1.5)).text)
        said = coil_and_cord_said("A", Bounds(0.95, 1.0, 1.05), Bounds(1.26, 1.3, 1.34)).text
        self.assertIn("20 % more by cord at least", said)


class Table(unittest.TestCase):
    def test_measured_and_estimated_are_told_apart(self):
        measured = [PhoneCharges("Ostrel Max", "coil", Bounds(0.98, 1.0, 1.02), 17.88, 2)]
        cells = charge_cells(PACK, Measured(29.2), measured, [("ostrel max", 17.88), ("Mini", 12.3)], ["coil", "cord"])
        basis = {(c.phone, c.way): c.basis for c in cells}
        self.assertEqual(
            basis,
            {
                ("Ostrel Max", "coil"): "measured",
                ("ostrel max", "cord"): "load test",
                ("Mini", "coil"): "another phone",
                ("Mini", "cord"): "load test",
            },
        )
        mini = next(c for c in cells if c.basis == "another phone")
        self.assertAlmostEqual(mini.charges.value, 17.88 / 12.3)
        self.assertLess(mini.charges.low, 0.98 * 17.88 / 12.3)
        [bare] = charge_cells(PACK, None, [], [("Mini", 12.3)], ["coil"])
        self.assertEqual(bare.basis, "rating")
        self.assertLess(bare.charges.low / bare.charges.value, 0.6)


class Counters(unittest.TestCase):
    def test_a_counter_that_agrees_is_silent(self):
        t = np.arange(0.0, 3601.0, 10.0)
        watts, amps = np.full(len(t), 10.0), np.full(len(t), 2.0)
        self.assertEqual(counter_doubts(t, watts, amps, 10.0 * t / 3600, 2.0 * t / 3600), [])
        self.assertEqual(counter_doubts(t, watts, amps, None, None), [])
        [doubt] = counter_doubts(t, watts, amps, 10.8 * t / 3600, None)
        self.assertIn("rose by 10.80 Wh, the rows add up to 10.00 Wh", doubt)
        [doubt] = counter_doubts(t, watts, amps, np.where(t > 1800, t - 1800, t) / 360, None)
        self.assertIn("goes back", doubt)

    def test_two_packs_one_after_another(self):
        one = [(30, 5.1, 0.0), (10_000, 5.0, 2.0), (60, 0.0, 0.0)]
        with self.assertRaisesRegex(CannotRead, "two packs"):
            read_load(trace(*one, *one, step_s=5.0), PACK)
        # Taken off for a minute in the middle: one pack.
        half = [(5_000, 5.0, 2.0), (60, 0.0, 0.0)]
        found = read_load(trace((30, 5.1, 0.0), *half, *half, step_s=5.0), PACK)
        self.assertAlmostEqual(found.delivered_wh.value, 10.0 * 10_000 / 3600, delta=0.1)
        self.assertEqual(len(found.interruptions), 1)


class Giving(unittest.TestCase):
    def given(self, giver, taker, **more):
        t = np.arange(len(giver)) * 900.0
        return phone_to_phone(
            make_check_ins(t, np.array(giver, float)), make_check_ins(t, np.array(taker, float)), **more
        )

    def test_stopped_by_heat_or_by_its_level(self):
        levels = ([84, 70, 58, 56, 56, 56], [12, 23, 33, 35, 35, 35])
        hot = self.given(*levels, hottest_c=45.8, usual_stop=30.0)
        self.assertTrue(hot.by_heat)
        self.assertIn("warm enough to have stopped by heat", phone_to_phone_sentences(hot, "T", "M", False)[-1].text)
        self.assertFalse(self.given(*levels, hottest_c=41.0, usual_stop=30.0).by_heat)
        self.assertFalse(self.given(*levels, hottest_c=45.8, usual_stop=55.0).by_heat)
        self.assertFalse(self.given(*levels).by_heat)
