"""Lanes of packs: levels typed and doubted, steps, words while they run, what their log holds, their alarms."""

import unittest

import numpy as np

from jaunecharge.core.bench import (
    Entered,
    EntryItem,
    Known,
    LevelEntered,
    OnBench,
    Seen,
    Told,
    canonical,
    corrected_by,
    doubts,
    given_readings,
    levels_around,
    low_since_s,
    of_the_pack,
    pack_levels,
    pack_now,
    pack_steps,
    pack_watch,
    parse,
    said,
)


class Levels(unittest.TestCase):
    def item(self, text):
        line = parse(text, ("B",))
        self.assertEqual(canonical(line), canonical(parse(canonical(line), ("B",))), text)
        return line.items[0]

    def test_as_they_are_typed(self):
        for text, value, unit, of in (
            ("b pack 75", 75, "%", ""), ("b pack 75%", 75, "%", ""), ("b lamps 3", 3, "lamps", ""),
            ("b lamps 3/5", 3, "lamps", "5"), ("b 3 lamps", 3, "lamps", ""), ("b pack 3/5", 3, "lamps", "5"),
            ("b pack 1 lamp", 1, "lamps", ""),
        ):  # fmt: skip
            item = self.item(text)
            self.assertEqual((item.kind, item.value, item.unit, item.text), ("pack", value, unit, of), text)
        self.assertEqual(said(self.item("b lamps 3/5")), "3 of 5 lamps of the pack")

    def test_what_cannot_be_is_asked_about(self):
        for text in (
            "b pack",
            "b pack x",
            "b pack 41c",
            "b lamps",
            "b lamps 5/4",
            "b lamps x",
            "b lamps 3/0",
            "b back",
        ):
            self.assertTrue(hasattr(parse(text, ("B",)), "why"), text)

    def test_corrected(self):
        fix = self.item("b fix pack 70")
        self.assertEqual(corrected_by(fix), EntryItem("pack", 70.0, "%"))
        self.assertEqual(corrected_by(self.item("b fix lamps 2/5")), EntryItem("pack", 2.0, "lamps", "5"))
        self.assertEqual(of_the_pack(self.item("b fix 70")).text, "pack")
        self.assertEqual(of_the_pack(self.item("b 70")), EntryItem("pack", 70.0, "%"))

    def test_how_it_came_back(self):
        self.assertEqual(self.item("b back by button").text, "by its button")
        self.assertEqual(said(self.item("b back unloaded")), "the output: when the load was taken off")

    def test_one_that_rises_while_it_gives_is_asked_about(self):
        known = Known(at_s=900, placed_s=0.0, packs=[LevelEntered(600, "75")])
        [doubt] = doubts([EntryItem("pack", 80.0, "%")], known)
        self.assertIn("80 % after 75 %?", doubt.said)
        self.assertEqual(doubts([EntryItem("pack", 70.0, "%")], known), [])
        # Three of four lamps may be 75 %.
        self.assertEqual(doubts([EntryItem("pack", 3.0, "lamps")], known), [])
        fills = Known(at_s=900, placed_s=0.0, packs=[LevelEntered(600, "75")], fills=True)
        self.assertEqual(doubts([EntryItem("pack", 80.0, "%")], fills), [])
        self.assertIn("does not fall", doubts([EntryItem("pack", 70.0, "%")], fills)[0].said)
        before = Known(at_s=100, placed_s=None, packs=[LevelEntered(50, "75")])
        self.assertEqual(doubts([EntryItem("pack", 80.0, "%")], before), [])


class Logs(unittest.TestCase):
    def entered(self, *rows):
        return [Entered(t, EntryItem("pack", v, "%")) for t, v in rows]

    def test_before_and_after(self):
        levels = pack_levels(self.entered((3000, 40), (-500, 98), (20, 100)))
        self.assertEqual([x.text for x in levels_around(levels, 0.0)], ["100", "40"])
        # One level alone, or none before the charge, says nothing of what it used.
        self.assertIsNone(levels_around(levels[:1], 0.0))
        self.assertIsNone(levels_around(pack_levels(self.entered((1000, 80), (3000, 40))), 0.0))

    def test_both_phones_at_the_moments_of_the_giver(self):
        levels = pack_levels(self.entered((0, 84), (1800, 71), (3600, 58), (9000, 50)))
        rows = given_readings(levels, [(0, 12), (3600, 34)], 0.0)
        self.assertEqual(rows, [(0.0, 84.0, 12.0), (30.0, 71.0, 23.0), (60.0, 58.0, 34.0)])


class Now(unittest.TestCase):
    def test_under_load_and_gone(self):
        t = np.arange(5.0, 3600.0, 10.0)
        now = pack_now("load", 3600.0, 0.0, t, np.full(len(t), 10.0), 10.0, 37.0)
        self.assertAlmostEqual(now.wh, 10.0, delta=0.05)
        self.assertIn("27 % of what is printed; empty in about 1 h 46", now.said)
        gone = pack_now("load", 3600.0, 0.0, t, np.where(t < 3000, 10.0, 0.0), 10.0, 37.0)
        self.assertIn("output off for 10 min: 8.3 Wh given", gone.said)
        self.assertEqual(pack_now("load", 60.0, None, t[:0], t[:0], 10.0, 37.0).said, "waiting for the load")

    def test_full(self):
        t = np.arange(5.0, 3600.0, 10.0)
        watts = np.where(t < 3000, 17.0, 0.3)
        self.assertIn("full: 14.2 Wh taken", pack_now("recharge", 3600.0, 0.0, t, watts, 10.0, 37.0).said)
        self.assertIn("filling", pack_now("recharge", 3120.0, 0.0, t[:312], watts[:312], 10.0, 37.0).said)

    def test_never_drawn_is_not_gone(self):
        t = np.arange(10.0)
        self.assertIsNone(low_since_s(t, np.zeros(10)))
        self.assertIsNone(low_since_s(t[:0], t[:0]))


class Setting(unittest.TestCase):
    def test_full_before_a_load(self):
        listed = pack_steps("load", "b", "", OnBench(), {})
        self.assertEqual([s.key for s in listed], ["pack", "volts", "around", "place"])
        self.assertEqual(listed[0].state, "open")
        self.assertEqual(pack_steps("load", "b", "100", OnBench(volts=5.1), {})[0].state, "seen")
        self.assertEqual(pack_steps("load", "b", "4 lamps", OnBench(volts=5.1), {})[0].state, "seen")
        self.assertIn("fill it first", pack_steps("load", "b", "70", OnBench(), {})[0].odd)
        skipped = pack_steps("load", "b", "", OnBench(), {"pack": Told(True, "in a hurry")})
        self.assertEqual(skipped[0].state, "skipped")
        self.assertEqual(pack_steps("recharge", "b", "0", OnBench(volts=9.0), {})[0].state, "seen")


class Alarms(unittest.TestCase):
    def seen(self, **more):
        t = np.arange(0.0, 1800.0, 1.0)
        return Seen(
            **{"now_s": 1800.0, "placed_s": 0.0, "time_s": t, "watts": np.full(len(t), 10.0), "kind": "load", **more}
        )

    def keys(self, **more):
        return [a.key for a in pack_watch(self.seen(**more))]

    def test_output_off(self):
        t = np.arange(0.0, 1800.0, 1.0)
        self.assertNotIn("output off", self.keys())
        self.assertIn("output off", self.keys(watts=np.where(t < 1700, 10.0, 0.0)))
        self.assertNotIn("output off", self.keys(watts=np.where(t < 1790, 10.0, 0.0)))
        self.assertIn("pack full", self.keys(kind="recharge", watts=np.where(t < 1400, 10.0, 0.2)))
        self.assertNotIn("output off", self.keys(kind="recharge", watts=np.where(t < 1400, 10.0, 0.2)))

    def test_heat_and_nobody_who_measures_it(self):
        self.assertIn("unattended", self.keys())
        hot = {"heat_s": np.array([1700.0, 1790.0]), "celsius": np.array([44.0, 46.0])}
        self.assertEqual(self.keys(**hot), ["hot"])
        self.assertEqual(self.keys(**{**hot, "celsius": np.array([49.0, 51.0])}), ["stop"])
        [alarm] = pack_watch(self.seen(**{**hot, "celsius": np.array([49.0, 51.0])}))
        self.assertIn("at the pack", alarm.seen)
        self.assertIn("do not charge it again", alarm.do)
