"""Why a run of a field would tell nothing, for shelves larger than one plan takes."""

import unittest

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.store.fill import plan_draft, why_pointless
from jaunecharge.store.kit import add_all, by_label
from tests.serving import fresh_database

PHONES, CHARGERS = 3, 62


class Large(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.database = cls.enterClassContext(fresh_database())
        lines = [f"phone Phone {n} {3000 + n}mAh {('mpp', 'epp', 'bpp')[n % 3]} large" for n in range(PHONES)]
        lines += [f"puck Disc {n} {('mpp', 'own:flash=20')[n % 2]} claims 15W asks 9V2.22A" for n in range(CHARGERS)]
        with cls.database.session() as session:
            add_all(session, [kit_from_line(line) for line in [*lines, "adapter Plug 20 20W", "adapter Weak 5W"]], "")

    def setUp(self):
        self.session = self.enterContext(self.database.session())
        self.fields = [(f"Phone {p}", f"Disc {c}") for p in range(PHONES) for c in range(CHARGERS)]

    def test_what_is_left_comes_later_and_is_the_same_as_by_itself(self):
        usual = {"adapter": "Weak"}
        first, left = why_pointless(self.session, self.fields, usual, seconds=0.0)
        self.assertEqual((first, left), ({}, len(self.fields)))
        reasons, left = why_pointless(self.session, self.fields, usual)
        self.assertEqual(left, 0)
        self.assertEqual(why_pointless(self.session, self.fields, usual, seconds=0.0), (reasons, 0), "remembered")
        self.assertIn("5 V 1 A only", reasons["Phone 0", "Disc 0"])
        for field in (*self.fields[::37], self.fields[-1]):
            alone, _ = why_pointless(self.session, [field], {"adapter": "WEAK"})
            self.assertEqual(alone.get(field, ""), reasons.get(field, ""), field)

    def test_a_change_of_the_kit_is_seen(self):
        field = ("phone 1", "DISC 3")
        why_pointless(self.session, [field], {})
        self.assertEqual(why_pointless(self.session, [field], {}, seconds=0.0)[1], 0)
        piece = by_label(self.session, "Disc 3")
        piece.facts = {**piece.facts, "note": "another coil"}
        self.session.flush()
        self.assertEqual(why_pointless(self.session, [field], {}, seconds=0.0)[1], 1, "it is to be found anew")
        self.session.rollback()

    def test_what_is_not_on_the_shelf_has_no_reason(self):
        self.assertEqual(why_pointless(self.session, [("Nobody", "Disc 1"), ("Phone 1", "Nothing")], {}), ({}, 0))

    def test_a_plan_takes_no_more_than_it_can(self):
        with self.assertRaisesRegex(CannotRead, "62 chargers are more than one plan takes"):
            plan_draft(self.session, self.fields, {})


if __name__ == "__main__":
    unittest.main()
