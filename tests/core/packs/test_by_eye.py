"""Pack tests off a display, and the gauge against the energy: what a tester without a logging meter can say."""

import unittest

import numpy as np
from scipy.stats import linregress

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.log import MeterSpec, power_trace
from jaunecharge.core.packs import (
    LevelSeen,
    LoadNotes,
    SeenByEye,
    SmallLoad,
    gauge_doubts,
    held_power,
    lamp_level,
    load_figures,
    load_sentences,
    load_warnings,
    modes_seen,
    percent_level,
    rating,
    read_by_eye,
    small_loads_said,
    typed_loads,
)

PACK = rating(10_000, 3.7)
LOADS = "0 A 5.12 V, 0.5 A 5.09 V, 1 A 5.06 V, 2 A 5.00 V"


def said(test, notes=LoadNotes(), claimed=None):
    return " | ".join(s.text for s in load_sentences(PACK, test, notes, claimed))


class ByEye(unittest.TestCase):
    def test_energy_off_a_display(self):
        test = read_by_eye(SeenByEye(wh=29.2, minutes=188, emptied=True), PACK)
        self.assertEqual((test.delivered_wh.value, test.at_least), (29.2, False))
        # Gain of volts and amps at 0.5 % each, and a twentieth of a Wh, all rectangles (JCGM 100:2008, 4.3.7).
        gain = 0.005 * 29.2 / 3**0.5
        self.assertAlmostEqual(test.delivered_wh.standard, (2 * gain**2 + (0.05 / 3**0.5) ** 2) ** 0.5)
        self.assertAlmostEqual(test.yield_.value, 29.2 / 37.0)
        self.assertIn("Cut off after 3 h 08 under load", said(test))
        self.assertIsNone(read_by_eye(SeenByEye(wh=29.2), PACK, MeterSpec(gain_percent=None)).delivered_wh.stated)

    def test_not_emptied_is_at_least(self):
        test = read_by_eye(SeenByEye(wh=12.0, minutes=60), PACK)
        self.assertTrue(test.at_least)
        self.assertIn("Delivered at least 12.0", said(test))
        self.assertTrue(any("not followed until the pack was empty" in w for w in load_warnings(PACK, test)))

    def test_milliampere_hours_need_their_volts(self):
        self.assertAlmostEqual(read_by_eye(SeenByEye(mah=5840, volts=5.0), PACK).delivered_wh.value, 29.2)
        with self.assertRaisesRegex(CannotRead, "say nothing of energy without a voltage"):
            read_by_eye(SeenByEye(mah=5840), PACK)

    def test_resistance_from_a_few_readings(self):
        test = read_by_eye(SeenByEye(loads=typed_loads(LOADS)), PACK)
        a, v = zip(*typed_loads(LOADS), strict=True)
        self.assertAlmostEqual(test.line.resistance_ohm.value, -linregress(a, v).slope)
        # They lie on a line to the digit: the last digit of the display is left to doubt.
        self.assertGreater(test.line.resistance_ohm.expanded, 0.003)
        self.assertIsNone(test.delivered_wh)
        self.assertAlmostEqual(test.sag_v, 0.12)
        self.assertIn("At 2.00 A it gives 5.00 V, 0.12 V less", said(test))
        self.assertNotIn("Delivered", said(test))
        self.assertNotIn("delivered", [f.key for f in load_figures(PACK, test)])

    def test_the_truth_of_rounded_readings_lies_within(self):
        rng, inside = np.random.default_rng(3), 0
        for _ in range(200):
            ohm, level = rng.uniform(0.02, 0.2), rng.uniform(5.0, 5.25)
            amps = np.array([0.0, 0.5, 1.0, 1.5, 2.0])
            volts = np.round(level - ohm * amps, 2)
            seen = SeenByEye(loads=tuple(zip(amps.tolist(), volts.tolist(), strict=True)))
            found = read_by_eye(seen, PACK).line.resistance_ohm
            inside += abs(found.value - ohm) <= found.expanded
        self.assertGreaterEqual(inside, 190)

    def test_where_it_let_go_and_what_was_claimed(self):
        test = read_by_eye(SeenByEye(loads=((0.0, 20.1), (4.1, 19.65)), let_go_a=4.4), PACK)
        text = said(test, LoadNotes(restart="by its button"), 100.0)
        self.assertIn("Protection: held 4.10 A, let go at 4.40 A; it came back by its button", text)
        self.assertIn("Held 81 W of the 100 W that are claimed", text)
        self.assertTrue(held_power(test, 100.0).falls_short)
        # Nobody said how it came back: nothing is said of it.
        self.assertIn("let go at 4.40 A |", said(test) + " |")
        with self.assertRaisesRegex(CannotRead, "let go at 2 A"):
            read_by_eye(SeenByEye(loads=((3.0, 5.0),), let_go_a=2.0), PACK)

    def test_without_a_trip_no_claim_is_denied(self):
        test = read_by_eye(SeenByEye(loads=((0.0, 20.1), (2.0, 19.9))), PACK)
        self.assertNotIn("claimed", said(test, claimed=100.0))
        self.assertIn("Held 40 W: the 30 W that are claimed", said(test, claimed=30.0))

    def test_nothing_and_what_cannot_be_is_refused(self):
        for seen in (
            SeenByEye(),
            SeenByEye(emptied=True, minutes=10),
            SeenByEye(wh=0.0),
            SeenByEye(wh=10, minutes=-1),
            SeenByEye(let_go_a=-2.0),
        ):
            with self.assertRaises(CannotRead):
                read_by_eye(seen, PACK)

    def test_loads_as_they_are_typed(self):
        for text in ("0 5.12; 1 5.06", "0 A 5,12 V; 1 A 5,06 V", "0A 5.12V\n1A 5.06V", "0@5.12, 1@5.06"):
            self.assertEqual(typed_loads(text), ((0.0, 5.12), (1.0, 5.06)), text)
        for text in ("fast", "1", "1 A -5 V", "-1 A 5 V", "99 A 5 V"):
            with self.assertRaises(CannotRead, msg=text):
                typed_loads(text)
        self.assertEqual(typed_loads(""), ())


class Modes(unittest.TestCase):
    def test_volts_name_their_mode(self):
        self.assertEqual(modes_seen([5.1, 4.8, 8.9, 20.2, 10.5]), ("5 V", "9 V", "20 V"))
        self.assertEqual(modes_seen([13.3, 7.0]), ())

    def test_seen_and_ticked(self):
        test = read_by_eye(SeenByEye(loads=((0.0, 5.1), (1.0, 5.0), (1.0, 9.0))), PACK)
        self.assertIn(
            "Showed 5 V, 9 V, and by hand PPS at USB-C", said(test, LoadNotes(modes=("PPS",), outlet="USB-C"))
        )
        alone = read_by_eye(SeenByEye(loads=((0.0, 5.1), (1.0, 5.0))), PACK)
        self.assertNotIn("Showed", said(alone))


class SmallLoads(unittest.TestCase):
    def test_told_only_where_both_were_tried(self):
        off, on = SmallLoad(False, 0.06, None), SmallLoad(True, None, 0.05)
        [said] = small_loads_said([on, off])
        self.assertEqual(
            said.text, "With its mode for small loads off it sleeps under 60 mA; with it on it stays on under 50 mA"
        )
        self.assertEqual(small_loads_said([off, SmallLoad(None, 0.06, None)]), [])


class Gauge(unittest.TestCase):
    def doubts(self, *levels, hours=3.0, ends=None):
        time_s = np.arange(0.0, hours * 3600 + 1, 10.0)
        trace = power_trace(time_s, np.full(len(time_s), 10.0), np.full(len(time_s), 5.0), np.full(len(time_s), 2.0))
        return gauge_doubts([LevelSeen(h * 3600, level) for h, level in levels], trace, 0.0, ends or float(time_s[-1]))

    def test_one_that_keeps_pace_is_believed(self):
        self.assertEqual(
            self.doubts((0, percent_level(100)), (1, percent_level(70)), (2, percent_level(40)), (3, percent_level(0))),
            [],
        )
        self.assertEqual(self.doubts((0, lamp_level(4)), (1, lamp_level(3)), (2.5, lamp_level(1))), [])

    def test_half_gone_in_a_tenth_of_the_energy(self):
        [doubt] = self.doubts((0, percent_level(100)), (0.3, percent_level(50)), (3, percent_level(0)))
        self.assertIn("from 100 % to 50 % in 18 min, with 10 % of the energy", doubt)

    def test_full_until_it_falls(self):
        [doubt] = self.doubts((0, percent_level(100)), (2.4, percent_level(98)), (3, percent_level(0)))
        self.assertIn("from 100 % to 98 %", doubt)

    def test_one_that_rises(self):
        [doubt, *_] = self.doubts((0, percent_level(80)), (1, percent_level(85)))
        self.assertIn("went up from 80 % to 85 %", doubt)
        # Two lamps, then the third again, flickering at the step: that may be one level.
        self.assertEqual(self.doubts((0, lamp_level(3)), (0.1, lamp_level(2)), (0.2, lamp_level(3))), [])
