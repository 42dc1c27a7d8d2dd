"""What is printed on a pack against what came, and phones charged from it."""

import unittest

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.packs import (
    PackCharge,
    cabin_class,
    check_charge,
    check_delivered,
    full_charges,
    hours_at_load,
    in_turn,
    is_good,
    lamp_level,
    mah_at_usb,
    not_believed,
    percent_level,
    rating,
    share_of_rated_mah,
    transfer_efficiency,
    typed_level,
)
from tests.cases import practice

PACK = rating(10_000, 3.7)


def charge(pack, phone, wh=None, by_cord=False):
    return PackCharge(*(percent_level(p) for p in (*pack, *phone)), wh, by_cord)


class Ratings(unittest.TestCase):
    def test_against_common_practice(self):
        [bench] = [e for e in practice()["expect"] if e["of"].startswith("pack bench test")]
        rated = rating(bench["rated_mah"], bench["cell_v"])
        self.assertAlmostEqual(rated.wh, bench["rated_wh"], places=1)
        self.assertAlmostEqual(mah_at_usb(bench["delivered_wh"]), bench["mah_at_5v"])
        self.assertAlmostEqual(share_of_rated_mah(bench["delivered_wh"], rated), bench["mah_at_5v_of_rated"], places=2)
        measured = bench["delivered_wh"] / rated.wh
        self.assertAlmostEqual(measured, bench["yield"], places=3)
        self.assertAlmostEqual(hours_at_load(rated, 50.0, measured=measured).hours, bench["hours"], places=2)
        self.assertEqual(is_good(bench["delivered_wh"], rated), bench["good"])

    def test_half_of_the_rated_mah_is_the_border(self):
        self.assertTrue(is_good(25.0, PACK))
        self.assertFalse(is_good(24.9, PACK))

    def test_the_yield_that_counts(self):
        told = [hours_at_load(PACK, 10, s, m) for s, m in ((0.5, 0.9), (None, 0.9), (None, None))]
        self.assertEqual([h.basis for h in told], ["stated", "measured", "usual"])
        self.assertEqual([round(h.hours, 3) for h in told[:2]], [1.85, 3.33])

    def test_what_is_no_pack_is_refused_with_the_mend(self):
        for mah, volts, words in (
            (10_000, None, "add the volts"), (None, 3.7, "capacity"), (0, 3.7, "capacity"), (-5, 3.7, "capacity"),
            (float("nan"), 3.7, "capacity"), (10_000, 0, "no voltage"), (10_000, float("inf"), "no voltage"),
        ):  # fmt: skip
            with self.subTest((mah, volts)), self.assertRaisesRegex(CannotRead, words):
                rating(mah, volts)
        for load in (0, -3, float("nan"), 1e9):
            with self.assertRaisesRegex(CannotRead, "no load"):
                hours_at_load(PACK, load)
        with self.assertRaisesRegex(CannotRead, "0.79 for 79 %"):
            hours_at_load(PACK, 10, 79)
        for wh in (0, -1, float("nan")):
            with self.assertRaises(CannotRead):
                check_delivered(wh)

    def test_cabins(self):
        self.assertEqual([cabin_class(w) for w in (37, 100, 100.1, 160, 161)],
                         ["cabin", "cabin", "with approval", "with approval", "not in the cabin"])  # fmt: skip


class Levels(unittest.TestCase):
    def test_a_percentage_is_half_a_point_wide_and_full_is_full(self):
        self.assertEqual([(percent_level(p).low, percent_level(p).high) for p in (0, 47, 100)],
                         [(0, 0), (46.5, 47.5), (100, 100)])  # fmt: skip

    def test_lamps_are_steps(self):
        self.assertEqual([(lamp_level(n).low, lamp_level(n).high) for n in (0, 1, 3, 4)],
                         [(0, 0), (0, 25), (50, 75), (75, 100)])  # fmt: skip
        for lit, lamps in ((5, 4), (-1, 4), (1, 0), (3, 99)):
            with self.assertRaises(CannotRead):
                lamp_level(lit, lamps)
        with self.assertRaises(CannotRead):
            percent_level(101)


class Typed(unittest.TestCase):
    def test_levels_as_people_type_them(self):
        for text, said in (
            ("75", "75 %"), (" 75 % ", "75 %"), ("47,5%", "47.5 %"), ("3 lamps", "3 of 4 lamps"),
            ("1 lamp", "1 of 4 lamps"),
            ("2/5", "2 of 5 lamps"), ("2 of 5 lamps", "2 of 5 lamps"),
        ):  # fmt: skip
            self.assertEqual(typed_level(text).said, said)
        for text in ("", "half", "-3", "5 lamps", "101", "3/2", "1e3"):
            with self.subTest(text), self.assertRaises(CannotRead):
                typed_level(text)


class Charges(unittest.TestCase):
    def test_full_charges_against_common_practice(self):
        by_id = {r["id"]: r for r in practice()["runs"]}
        for expected in (e for e in practice()["expect"] if "full_charges" in e):
            run = by_id[expected["of"].split()[0]]
            phone = (run["checkins"][0][1], run["checkins"][-1][1])
            found = full_charges(charge((run["pack"]["from"], run["pack"]["to"]), phone))
            self.assertAlmostEqual(found.value, expected["full_charges"], places=2)
            self.assertLess(found.low, found.value)
            self.assertLess(found.value, found.high)

    def test_four_lamps_leave_a_wide_range(self):
        told = PackCharge(percent_level(100), lamp_level(1), percent_level(5), percent_level(100))
        found = full_charges(told)
        self.assertAlmostEqual(found.low, 0.945, places=3)
        self.assertAlmostEqual(found.high, 0.955 / 0.75, places=3)
        still = PackCharge(lamp_level(4), lamp_level(4), percent_level(5), percent_level(20))
        self.assertIsNone(full_charges(still))

    def test_what_arrives(self):
        found = transfer_efficiency(charge((100, 27), (5, 100), 17.19), PACK)
        self.assertAlmostEqual(found.value, 0.95 * 17.19 / (0.73 * 37.0), places=4)
        self.assertIsNone(transfer_efficiency(charge((100, 27), (5, 100)), PACK))

    def test_a_gauge_that_cannot_be_true_is_called_so(self):
        self.assertEqual(not_believed(charge((100, 27), (5, 100), 17.19), PACK), "")
        told = not_believed(charge((100, 60), (5, 100), 17.19), PACK)
        self.assertIn("110% by coil", told.replace(" %", "%"))
        by_cord = charge((100, 47), (5, 100), 17.19, by_cord=True)
        self.assertEqual(not_believed(by_cord, PACK), "")

    def test_levels_the_wrong_way_round_are_refused(self):
        with self.assertRaisesRegex(CannotRead, "went up from 20 % to 27 %"):
            check_charge(charge((20, 27), (5, 100)))
        with self.assertRaisesRegex(CannotRead, "from 50 % to 20 %"):
            check_charge(charge((100, 27), (50, 20)))

    def test_phones_in_turn_until_it_is_empty(self):
        first, last = charge((100, 40), (10, 90)), charge((40, 0), (5, 62))
        found = in_turn([first, last], emptied=True)
        self.assertAlmostEqual(found.charges.value, 1.37)
        self.assertEqual(found.ran_empty_at.said, "62 %")
        self.assertIsNone(in_turn([first], emptied=False).ran_empty_at)
        with self.assertRaisesRegex(CannotRead, "between two charges"):
            in_turn([first, charge((80, 20), (5, 62))], emptied=False)
        with self.assertRaises(CannotRead):
            in_turn([], emptied=True)


if __name__ == "__main__":
    unittest.main()
