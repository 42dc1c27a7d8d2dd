"""`jaunecharge chain` and `carry`, as a script uses them."""

import json
import unittest

from tests.cases import FolderTest
from tests.commands import command

FULL = ("chain", "--adapter", "5V3A,9V2.22A", "--charger", "mpp", "--phone", "mpp", "--charger-needs", "9V2.22A")

# Practice values: measured by people who do this work, no published source.
P1 = {
    "label": "p1",
    "capacity_mah": 4441,
    "checkins": [[0, 5], [15, 22], [30, 33], [45, 50], [60, 56], [90, 84], [120, 100]],
}


class ChainCommand(FolderTest):
    def test_one_document_and_nothing_else(self):
        done = command(*FULL, "--json")
        self.assertEqual((done.code, done.err), (0, ""))
        found = done.document
        self.assertEqual((found["narrowest"], found["negotiated"]), ("charger", "9V2.22A"))
        self.assertEqual(found["links"][0].keys() & {"link", "watts", "why"}, {"link", "watts", "why"})
        self.assertAlmostEqual(found["links"][0]["watts"], 19.98)
        self.assertLess(found["delivered_w"]["low"], found["delivered_w"]["high"])
        self.assertTrue(all(isinstance(s, str) for s in found["advice"]))

    def test_a_table_for_people(self):
        done = command(*FULL)
        self.assertEqual(done.code, 0)
        self.assertIn("narrowest", done.out)

    def test_nonsense_is_one_line_and_exit_2(self):
        for wrong, said in {
            ("--adapter", "9V"): "--adapter: “9V” has no amps",
            ("--charger", "foo"): "--charger: “foo” is not a transfer profile",
            ("--phone", "bar"): "--phone: “bar” is not a transfer profile",
            ("--phone-limit-w", "-5"): "--phone-limit-w: -5 W cannot be",
            ("--cable-amps", "0"): "--cable-amps: 0 A cannot be",
            ("--cable-amps", "nan"): "--cable-amps: nan A cannot be",
            ("--charger-needs", "9V"): "--charger-needs: “9V” has no amps",
            ("--adapter", "-20W"): "is negative",
        }.items():
            with self.subTest(wrong):
                given = list(FULL)
                if wrong[0] in given:
                    given[given.index(wrong[0]) + 1] = wrong[1]
                else:
                    given += wrong
                done = command(*given, "--json")
                self.assertEqual((done.code, done.out, done.err.count("\n")), (2, "", 1))
                self.assertIn(said, done.err)
                self.assertIn(";", done.err)

    def test_a_makers_own_mode_without_watts_is_answered_as_far_as_it_goes(self):
        for charger, phone in (("own:glide", "mpp"), ("own:glide,bpp", "mpp"), ("own:glide", "own:glide=18")):
            with self.subTest(charger=charger, phone=phone):
                done = command("chain", "--adapter", "20W", "--charger", charger, "--phone", phone, "--json")
                self.assertEqual((done.code, done.err), (0, ""))
                self.assertEqual(done.document["transfer"], "bpp")
                self.assertIn("own:glide states no watts", done.document["advice"][0])
        known = command("chain", "--adapter", "20W", "--charger", "own:glide=15", "--phone", "own:glide=18", "--json")
        self.assertNotIn("states no watts", " ".join(known.document["advice"]))

    def test_the_limit_of_the_phone(self):
        found = command(*FULL, "--phone-limit-w", "7.5", "--json").document
        self.assertEqual((found["narrowest"], found["delivered_w"]["high"]), ("phone", 7.5))

    def test_wired(self):
        found = command("chain", "--adapter", "20W", "--wired", "--phone-limit-w", "15", "--json").document
        self.assertEqual((found["narrowest"], found["transfer"], found["inferred"]), ("phone", None, True))

    def test_advice_from_a_shelf(self):
        shelf = self.file("shelf.csv", b"kind,label,rated_w\nadapter,Plug 30,30\n")
        poor = ("chain", "--adapter", "5V3A", "--charger", "mpp", "--phone", "mpp", "--shelf", shelf, "--json")
        self.assertIn("Plug 30", command(*poor).document["advice"][0])
        shelf.write_text("kind,label\nlamp,Bright\n")
        done = command(*poor)
        self.assertEqual(done.code, 2)
        self.assertIn("shelf.csv, row 2: “lamp” is not a kind of kit", done.err)


class Carry(FolderTest):
    def carry(self, document, from_mah, to_mah):
        file = self.file("run.json", json.dumps(document).encode())
        return command("carry", "--measured", file, "--from-mah", from_mah, "--to-mah", to_mah, "--json")

    def test_minutes_scale_at_equal_percentages(self):
        found = self.carry(P1, 4441, 3349).document
        self.assertIs(found["estimate"], True)
        for (minute, percent), (was, level) in zip(found["checkins"], P1["checkins"], strict=True):
            self.assertAlmostEqual(minute, was * 3349 / 4441, places=2)
            self.assertEqual(percent, level)
        self.assertEqual(found["checkins"][-1][1], 100)

    def test_its_range_is_fifteen_percent(self):
        found = self.carry(P1, 4441, 4441).document
        self.assertEqual(found["range_min"][-1], [102.0, 138.0])

    def test_from_files(self):
        self.file("meter.csv", "time_s,volts,amps\n" + "".join(f"{t},9,1.5\n" for t in range(0, 7300, 10)))
        self.file("battery.csv", "time_s,percent\n0,5\n3600,50\n7200,80\n")
        found = self.carry({"meter": "meter.csv", "battery": "battery.csv"}, 1000, 2000).document
        self.assertEqual(found["checkins"], [[0.0, 5.0], [120.0, 50.0], [240.0, 80.0]])

    def test_nonsense(self):
        for document, said in (
            ({"checkins": []}, "it holds no check-ins"),
            ({"checkins": [[0, 5], [0, 6]]}, "check-in 2 is not later"),
            ({"checkins": [[0, 500]]}, "is refused"),
            ([1], "refused"),
        ):
            with self.subTest(said):
                done = self.carry(document, 4000, 3000)
                self.assertEqual((done.code, done.err.count("\n")), (2, 1))
                self.assertIn(said, done.err)
        self.assertEqual(self.carry(P1, 0, 3000).code, 2)
        self.assertEqual(self.carry(P1, 3000, -1).code, 2)


if __name__ == "__main__":
    unittest.main()
