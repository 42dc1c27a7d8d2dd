"""The claim checker: how claims are understood, and what the times say to them under each reading."""

import unittest

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.versus.claims import check_cell, check_pair, read_claim, verdict_said
from jaunecharge.core.versus.compare import versus
from tests.core.contenders import steady


class Understood(unittest.TestCase):
    def test_claims_as_people_write_them(self):
        """Common practice: claims as makers print them."""
        for text, kind, value, start, end in (
            ("42 % faster", "faster", 42, None, None),
            ("42% faster!", "faster", 42, None, None),
            ("30 percent less time to 80 %", "faster", 30, None, 80),
            ("charges 1.5x faster", "times", 1.5, None, None),
            ("1,5 times as fast", "times", 1.5, None, None),
            ("twice as fast", "times", 2, None, None),
            ("half as fast", "times", 2, None, None),
            ("takes 20 % longer", "faster", 20, None, None),
            ("takes an hour longer", "sooner", 60, None, None),
            ("in half the time", "faster", 50, None, None),
            ("fully charged an hour sooner", "sooner", 60, None, 100),
            ("20 min earlier at 80 %", "sooner", 20, None, 80),
            ("saves half an hour", "sooner", 30, None, None),
            ("half an hour faster from 10 to 80 %", "sooner", 30, 10, 80),
            ("50 % in 30 minutes", "reaches", 30, None, 50),
            ("0 to 50 % in 30 min", "reaches", 30, 0, 50),
            ("full in 2 hours", "reaches", 120, None, 100),
            ("80% after 1 h 15 min", "reaches", 75, None, 80),
            ("fully charged in 1:40 h", "reaches", 100, None, 100),
            ("from 20 to 80 % in under an hour", "reaches", 60, 20, 80),
        ):
            with self.subTest(text):
                found = read_claim(text)
                self.assertEqual((found.kind, found.value, found.start, found.end), (kind, value, start, end))

    def test_which_way_a_percentage_is_meant(self):
        self.assertEqual(read_claim("25 % less time").way, "less time")
        self.assertEqual(read_claim("40 % higher rate").way, "higher rate")
        self.assertEqual(read_claim("40 % faster").way, "")
        self.assertTrue(read_claim("20 % slower").slower)

    def test_it_says_how_it_was_understood(self):
        """Common practice, as above."""
        self.assertEqual(read_claim("fully charged an hour sooner").said, "60 min sooner to 100 %")
        self.assertEqual(read_claim("0 to 50 % in 30 min").said, "from 0 to 50 % in 30 min")
        self.assertEqual(read_claim("50 % in half an hour").said, "to 50 % in 30 min")
        self.assertEqual(read_claim("twice as fast").said, "2 times as fast")

    def test_what_times_cannot_show_is_refused(self):
        for text in (
            "",
            "   ",
            "delivers 15 W",
            "15 watts",
            "charges 3 times a day",
            "the best charger",
            "stays cool",
            "<b>",
            "50 %",
        ):
            with self.subTest(text), self.assertRaises(CannotRead) as caught:
                read_claim(text)
            self.assertTrue(caught.exception.mend)


class AgainstAnother(unittest.TestCase):
    """170 against 120 min: 29.4 % less time, 41.7 % higher rate (tests/data/practice.json)."""

    def setUp(self):
        # A chamber's spread, so that the outcomes turn on the arithmetic and not on the noise.
        self.found = versus([steady(n, t, every=1, chamber=True) for n, t in (("a", 120), ("b", 170))])

    def outcomes(self, text, a=0, b=1):
        return {c.reading: c.outcome for c in check_pair(read_claim(text), self.found, a, b)}

    def test_a_percentage_is_held_against_both_ways_to_say_faster(self):
        """Common practice: a claim that is true as a rate and false as a time."""
        found = self.outcomes("42 % faster from 10 to 100 %")
        self.assertEqual(found["higher rate from 10 to 100 %"], "supported")
        self.assertEqual(found["less time from 10 to 100 %"], "not supported")

    def test_without_a_window_every_milestone_is_looked_at(self):
        found = self.outcomes("42 % faster")
        for to in (50, 80, 100):
            # Levels that are read to the point may miss it by a hair.
            self.assertIn(found[f"higher rate from 10 to {to} %"], {"supported", "within the noise"})
            self.assertEqual(found[f"less time from 10 to {to} %"], "not supported")
        self.assertEqual(found["higher rate from 10 to 100 %"], "supported")
        self.assertIn("more charge after 30 min", found)

    def test_a_named_way_is_the_only_one(self):
        self.assertEqual(self.outcomes("29 % less time to 100 %"), {"less time from 10 to 100 %": "supported"})
        self.assertEqual(self.outcomes("60 % less time to 100 %"), {"less time from 10 to 100 %": "not supported"})

    def test_minutes(self):
        self.assertEqual(self.outcomes("fully charged 50 min sooner"), {"minutes from 10 to 100 %": "supported"})
        self.assertEqual(self.outcomes("fully charged 55 min sooner"), {"minutes from 10 to 100 %": "within the noise"})
        self.assertEqual(self.outcomes("fully charged two hours sooner"), {"minutes from 10 to 100 %": "not supported"})

    def test_times_as_fast(self):
        self.assertEqual(self.outcomes("1.4 times as fast to 100 %"), {"times as fast from 10 to 100 %": "supported"})
        self.assertEqual(self.outcomes("3x as fast to 100 %"), {"times as fast from 10 to 100 %": "not supported"})

    def test_the_wrong_one_praised(self):
        self.assertEqual(set(self.outcomes("10 % faster", 1, 0).values()), {"not supported"})

    def test_slower(self):
        self.assertEqual(self.outcomes("40 min slower to 100 %", 1, 0), {"minutes from 10 to 100 %": "supported"})
        # 170 against 120 min: 29.4 % lower rate, 41.7 % more time.
        found = self.outcomes("40 % slower to 100 %", 1, 0)
        self.assertEqual(found["lower rate from 10 to 100 %"], "not supported")
        self.assertEqual(found["more time from 10 to 100 %"], "supported")
        longer = self.outcomes("takes 40 % longer to 100 %", 1, 0)
        self.assertEqual(longer, {"more time from 10 to 100 %": "supported"})
        for text in ("0.72 times as fast to 100 %", "1.4 times slower to 100 %"):
            self.assertEqual(self.outcomes(text, 1, 0), {"times as slow from 10 to 100 %": "supported"})

    def test_where_nothing_is_shown_nobody_can_tell(self):
        found = versus([steady("a", 160), steady("b", 170)])
        checks = check_pair(read_claim("5 % faster to 100 %"), found, 0, 1)
        self.assertEqual({c.outcome for c in checks}, {"cannot be told"})
        self.assertEqual(verdict_said(checks), "The times do not show it.")

    def test_a_window_that_one_does_not_cover(self):
        found = versus([steady("a", 160), steady("b", 170, to=60)])
        (check,) = check_pair(read_claim("an hour sooner to 80 %"), found, 0, 1)
        self.assertEqual((check.outcome, check.found), ("not covered", None))
        self.assertEqual(verdict_said([check]), "The runs do not cover what is claimed.")

    def test_more_charge_after_half_an_hour(self):
        (check,) = [
            c for c in check_pair(read_claim("42 % faster"), self.found, 0, 1) if c.reading.startswith("more charge")
        ]
        # 90 points in 120 and in 170 min: 22.5 and 15.9 after half an hour.
        self.assertAlmostEqual(check.found, 41.7, delta=5)

    def test_the_verdict_counts_readings(self):
        checks = check_pair(read_claim("42 % faster from 10 to 100 %"), self.found, 0, 1)
        self.assertEqual(verdict_said(checks), "The times support it under 1 of 2 readings.")
        none = check_pair(read_claim("400 % faster to 100 %"), self.found, 0, 1)
        self.assertEqual(verdict_said(none), "The times do not support it under any reading.")
        both = check_pair(read_claim("5 % faster to 100 %"), self.found, 0, 1)
        self.assertEqual(verdict_said(both), "The times support it under every reading.")


class InTime(unittest.TestCase):
    def setUp(self):
        self.found = versus([steady("a", 90, every=5, chamber=True), steady("b", 180, every=5, chamber=True)])

    def test_shown_and_gained_are_two_readings(self):
        # From 10 %: 50 % is shown after 40 min, 50 points are gained after 50.
        shown, gained = check_cell(read_claim("50 % in 42 minutes"), self.found, 0)
        self.assertIn("50 % shown, from the 10 %", shown.reading)
        self.assertEqual(shown.outcome, "supported")
        self.assertAlmostEqual(gained.found, 50, delta=1)
        self.assertEqual(gained.outcome, "not supported")

    def test_a_named_window_is_the_only_reading(self):
        (check,) = check_cell(read_claim("20 to 80 % in 65 minutes"), self.found, 0)
        self.assertEqual(check.outcome, "supported")
        (check,) = check_cell(read_claim("0 to 50 % in 30 minutes"), self.found, 0)
        self.assertEqual(check.outcome, "not covered")

    def test_points_that_cannot_be_gained_are_not_covered(self):
        checks = check_cell(read_claim("fully charged in 3 hours"), self.found, 1)
        self.assertEqual([c.outcome for c in checks], ["supported", "not covered"])
        self.assertEqual(verdict_said(checks), "The times support it.")
        self.assertEqual(
            verdict_said(check_cell(read_claim("full in 1 hour"), self.found, 1)), "The times do not support it."
        )


if __name__ == "__main__":
    unittest.main()
