"""The shelf as JSON and as CSV."""

import unittest

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.documents.kit import facts_of, kit_of
from jaunecharge.formats.kit import kit_csv, kit_from_text, kit_json
from tests.core.kit.test_kit import LINES

SHELF = tuple(kit_from_line(line) for line in LINES)


class Files(unittest.TestCase):
    def test_json_and_csv_read_back(self):
        for written in (kit_json(SHELF), kit_csv(SHELF), "\ufeff" + kit_csv(SHELF), kit_csv(SHELF[:1])):
            found = kit_from_text(written, "shelf")
            self.assertEqual(found, SHELF[: len(found)])
        self.assertEqual(len(kit_from_text(kit_csv(SHELF), "shelf")), len(SHELF))

    def test_a_semicolon_csv_of_a_spreadsheet(self):
        found = kit_from_text("kind;label;amps\ncable;Long;1,5\n;;\n", "shelf.csv")
        self.assertEqual((len(found), found[0].amps), (1, 1.5))

    def test_facts_leave_out_what_is_unknown_and_read_back(self):
        for item in SHELF:
            self.assertEqual(kit_of(facts_of(item)), item)
        self.assertNotIn("claimed_w", facts_of(kit_from_line("pad Plain bpp")))

    def test_what_is_wrong_names_its_row_and_field(self):
        for text, said in {
            "kind,label\ncable,a\ncable,A\n": "shelf, row 3: the label “A” stands in it twice",
            "kind,label,amps\ncable,a,many\n": "shelf, row 2: amps: “many” is not a number",
            "a,b\n1,2\n": "does not name kind and label",
            '{"kit": [{"kind": "cable", "label": "a", "amps": -1}]}': "piece 1: ",
            '{"kit": [{"kind": "lamp", "label": "a"}]}': "piece 1: ",
            '{"kit": [7]}': "piece 1 is not an object",
            '{"kit": 7}': "no list of kit",
            "{": "is not JSON",
            '[{"kind": "cable", "label": "=1+1"}]': "begins like a spreadsheet formula",
            '[{"kind": "charger", "label": "a", "pads": []}]': "pads: one of its places gives nothing",
        }.items():
            with self.subTest(said), self.assertRaises(CannotRead) as caught:
                kit_from_text(text, "shelf")
            self.assertIn(said, str(caught.exception))

    def test_a_note_that_looks_like_a_formula_is_harmless_and_reads_back(self):
        item = kit_from_line("cable Long 3A note:=1+1")
        written = kit_csv([item])
        self.assertNotIn(",=1+1", written)
        self.assertEqual(kit_from_text(written, "shelf")[0].note, "=1+1")
