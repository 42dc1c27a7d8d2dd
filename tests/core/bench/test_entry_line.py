"""The entry line of the bench: what it takes, how it says it back, and that no typing breaks it."""

import unittest

from hypothesis import example, given, settings
from hypothesis import strategies as st

from jaunecharge.core.bench import (
    GRAMMAR,
    EntryItem,
    Line,
    Unclear,
    canonical,
    corrected_by,
    lane_name,
    parse,
    said,
)

TYPED = {
    "a 47": ("a 47%", ["battery 47 %"]),
    "B 41,2C": ("b 41.2c back", ["back 41.2 °C"]),
    "b 106f pad": ("b 106f pad", ["pad 41.1 °C (typed 106 °F)"]),
    "a 9,02v 1,97a": ("a 9.02v 1.97a", ["9.02 V", "1.97 A"]),
    "a 9020mV 1970mA": ("a 9.02v 1.97a", ["9.02 V", "1.97 A"]),
    "a 47 41.2c 17.8w": ("a 47% 41.2c back 17.8w", ["battery 47 %", "back 41.2 °C", "17.8 W"]),
    "a 12.5w phone": ("a 12.5w phone", ["phone says 12.5 W"]),
    "a 18w 22,5w socket": ("a 18w 22.5w socket", ["18 W", "at the socket 22.5 W"]),
    "a note moved it a bit": ("a note moved it a bit", ["note: moved it a bit"]),
    "d2 light OFF": ("d2 light off", ["charger's light off"]),
    "a off": ("a off", ["off the charger"]),
    "a on": ("a on", ["on the charger again"]),
    "a no charge": ("a no charge", ["does not charge"]),
    "a fix 46": ("a fix 46%", ["correct the last entry to battery 46 %"]),
    "a fix 41.2c pad": ("a fix 41.2c pad", ["correct the last entry to pad 41.2 °C"]),
    "a fix note it was the cable": (
        "a fix note it was the cable",
        ["correct the last entry to note: it was the cable"],
    ),
    "a undo": ("a u", ["undo the last entry"]),
    "a placed": ("a placed", ["phone placed: t = 0"]),
    "a end": ("a end", ["end the lane, complete"]),
    "a end void cable came loose": ("a end void cable came loose", ["end the lane, void: cable came loose"]),
    "a end early guests": ("a end early guests", ["end the lane, stopped early: guests"]),
    "a 47 @9:05": ("a 47% @09:05", ["battery 47 %"]),
    "a 47 @-5": ("a 47% @-5", ["battery 47 %"]),
    "a note seen late @14:30": ("a note seen late @14:30", ["note: seen late"]),
}
UNCLEAR = {
    "": "nothing is typed",
    "a": "what do you see?",
    "c 41": "which lane?",
    "47": "which lane?",
    "a1 47": "which lane?",
    "a 101": "101 % cannot be",
    "a -3": "cannot be",
    "a 47.5": "not what a phone shows",
    "a 200c": "200 °C cannot be",
    "a 700w": "700 W cannot be",
    "a fish": "“fish” is not understood",
    "a 47 48": "the same is said twice",
    "a light": "on or off",
    "a note": "the note is empty",
    "a no": "no what?",
    "a off now": "one word too many",
    "a fix": "the right value is missing",
    "a fix 47 41c": "one value is corrected at a time",
    "a fix off": "one value is corrected at a time",
    "a end void": "why?",
    "a end badly": "no way to end",
    "e 47": "there is no lane E",
}


class Understood(unittest.TestCase):
    def test_what_is_typed_is_said_back(self):
        for text, (written, words) in TYPED.items():
            with self.subTest(text):
                line = parse(text)
                self.assertIsInstance(line, Line, line)
                self.assertEqual(canonical(line), written)
                self.assertEqual([said(i) for i in line.items], words)

    def test_every_example_of_the_help_is_understood(self):
        for text, _ in GRAMMAR:
            with self.subTest(text):
                self.assertIsInstance(parse(text), Line)

    def test_with_one_lane_open_its_letter_may_be_left_out(self):
        self.assertEqual(parse("47", ("D",)), Line("D", (EntryItem("percent", 47.0, "%"),)))
        self.assertEqual(parse("d 47", ("D",)), parse("47", ("D",)))

    def test_a_temperature_is_celsius_whatever_it_was_typed_in(self):
        [item] = parse("a 104f").items
        self.assertAlmostEqual(item.celsius, 40.0)
        self.assertIn("104.0 °F", said(item, in_fahrenheit=True))

    def test_a_correction_becomes_what_it_corrects(self):
        for text in ("46%", "41.2c pad", "12w phone", "14w socket", "9.1v", "note two words"):
            [fix] = parse(f"a fix {text}").items
            [plain] = parse(f"a {text}").items
            self.assertEqual(corrected_by(fix), plain)


class NotUnderstood(unittest.TestCase):
    def test_why_and_what_would_be(self):
        for text, why in UNCLEAR.items():
            with self.subTest(text):
                found = parse(text, ("A", "B", "D"))
                self.assertIsInstance(found, Unclear)
                self.assertIn(why, found.why)
                self.assertTrue(found.mend)


class Names(unittest.TestCase):
    def test_letters_that_the_line_uses_are_no_lanes(self):
        taken, names = frozenset(), []
        for _ in range(25):
            names.append(lane_name(taken))
            taken |= {names[-1]}
        self.assertEqual(names[:4], ["A", "B", "D", "E"])
        self.assertEqual(names[22:], ["Z", "A2", "B2"])
        self.assertFalse({"C", "F", "U"} & set(names))

    def test_a_free_name_is_taken_again(self):
        self.assertEqual(lane_name(frozenset({"A", "D"})), "B")


TOKENS = (
    "a", "b", "d2", "47", "41,2c", "106f", "9.02v", "1970ma", "17.8w", "phone", "socket", "pad", "back", "room", "note",
    "light", "on", "off", "no", "charge", "fix", "u", "placed", "end", "void", "early", "@14:30", "@-5", "%", "c",
    "−3", "+4", "0.000001mv", "999999",
)  # fmt: skip
WORD = st.one_of(st.sampled_from(TOKENS), st.text(max_size=6))


class Fuzz(unittest.TestCase):
    @settings(max_examples=600, deadline=None)
    @given(st.one_of(st.text(max_size=60), st.lists(WORD, max_size=7).map(" ".join)))
    @example("a note x @14:30 @14:31")
    @example("a 0.0001mv")
    @example("A ٤٧")
    @example("a -0c")
    def test_never_an_exception_and_said_back_it_says_the_same(self, text):
        line = parse(text)
        if isinstance(line, Unclear):
            self.assertTrue(line.why and line.mend)
            return
        written = canonical(line)
        again = parse(written)
        self.assertIsInstance(again, Line, written)
        self.assertEqual(canonical(again), written)
        self.assertEqual([said(i) for i in again.items], [said(i) for i in line.items])
