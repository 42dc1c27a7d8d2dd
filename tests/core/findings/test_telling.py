"""Words of a finding may be edited, figures may not."""

import unittest

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.findings.telling import FindingSentence, Stated, checked_words, named, plain_words, renewed

SAVED = Stated("saved", "22 ± 13 min", "difference", 22.0, "min", 9.0, 35.0)
PRICE = Stated("price", "26 EUR", "price", 26.0, "EUR")
SENTENCE = FindingSentence("k", "*Disc 15* is sooner by [22 ± 13 min] to 80 %, at [26 EUR] less", (SAVED, PRICE))


class Edited(unittest.TestCase):
    def test_words_may_change_and_figures_may_move(self):
        words = "At [26 EUR]  less the Disc 15 saves [22 ± 13 min]"
        self.assertEqual(checked_words(SENTENCE, words), "At [26 EUR] less the Disc 15 saves [22 ± 13 min]")

    def test_figures_stay(self):
        for words, why in (
            ("It saves [22 ± 13 min]", "is missing"), ("It saves [22 min] at [26 EUR]", "is no figure"),
            ("It saves 40 min: [22 ± 13 min], [26 EUR]", "“40” is no figure"),
            ("It saves half: [22 ± 13 min], [26 EUR]", "“half” is a figure in words"),
            ("[22 ± 13 min] [26 EUR", "stands alone"), ("", "is empty"), ("a\x00[22 ± 13 min][26 EUR]", "control"),
            ("x" * 1001, "characters long"), ("Twice as good: [22 ± 13 min], [26 EUR]", "in words"),
        ):  # fmt: skip
            with self.assertRaises(CannotRead) as raised:
                checked_words(SENTENCE, words)
            self.assertIn(why, raised.exception.what, words)

    def test_numbers_that_stood_in_the_words_may_stay_there(self):
        words = "To 80 % the Disc 15 is quicker: [22 ± 13 min], [26 EUR]"
        self.assertEqual(checked_words(SENTENCE, words), words)

    def test_new_figures_go_into_old_words_by_their_keys(self):
        now = [Stated("saved", "25 ± 9 min", "difference", 25.0, "min")]
        words = renewed("It saves [22 ± 13 min] for [26 EUR]", SENTENCE.figures, now)
        self.assertEqual(words, "It saves [25 ± 9 min] for [26 EUR]")

    def test_a_label_marks_no_figure_and_no_strong_word(self):
        self.assertEqual(named("Pad [15 W] *new*"), "Pad 15 W new")
        self.assertEqual(plain_words("*a* [1 min]"), "a 1 min")
