"""`jaunecharge pack`, as a script uses it."""

import json
import unittest

from tests.cases import FolderTest, practice
from tests.commands import command

PACK = ("pack", "--rated-mah", "10000", "--cell-volts", "3.7")
LOG = "time_s,volts,amps\n" + "".join(
    f"{t},{v},{a}\n"
    for t, v, a in [
        *((t, 5.10, 0.0) for t in range(30)),
        *((t, 5.05, 1.0) for t in range(30, 630)),
        *((t, 5.00, 2.0) for t in range(630, 1230)),
        *((t, 4.95, 3.0) for t in range(1230, 6630)),
        *((t, 0.0, 0.0) for t in range(6630, 6700)),
    ]
)


class PackCommand(FolderTest):
    def test_practice_values(self):
        [bench] = [e for e in practice()["expect"] if e["of"].startswith("pack bench test")]
        found = command(
            "pack", "--rated-mah", str(bench["rated_mah"]), "--cell-volts", str(bench["cell_v"]),
            "--delivered-wh", str(bench["delivered_wh"]), "--load-watts", "50", "--json",
        ).document  # fmt: skip
        self.assertAlmostEqual(found["rated_wh"], bench["rated_wh"], places=1)
        self.assertAlmostEqual(found["yield"], bench["yield"], places=3)
        self.assertAlmostEqual(found["mah_at_5v"], bench["mah_at_5v"])
        self.assertAlmostEqual(found["hours_at_load"], bench["hours"], places=2)
        self.assertEqual(found["cabin_class"], "cabin")

    def test_a_charge(self):
        levels = ("--pack-from", "100", "--pack-to", "27", "--phone-from", "5", "--phone-to", "100")
        found = command(*PACK, *levels, "--phone-mah", "4441", "--phone-volts", "3.87", "--json").document
        self.assertAlmostEqual(found["full_charges"], 1.30, places=2)
        self.assertLess(found["full_charges_range"][0], 1.30)
        self.assertAlmostEqual(found["transfer_efficiency"], 0.6045, places=3)
        self.assertEqual(found["warnings"], [])
        doubted = command(
            *PACK, *levels[:2], "--pack-to", "70", *levels[4:], "--phone-mah", "4441", "--phone-volts", "3.87"
        )
        self.assertIn("not to be believed", doubted.out)

    def test_only_what_is_known_is_answered(self):
        found = command(*PACK, "--json").document
        self.assertEqual(set(found), {"rated_wh", "cabin_class", "sentences", "warnings"})
        self.assertIn("a usual yield", command(*PACK, "--load-watts", "5").out)
        self.assertIn("yield that was stated", command(*PACK, "--load-watts", "5", "--yield", "0.8").out)

    def test_a_load_test(self):
        log, case = (
            self.file("load.csv", LOG),
            self.file("pack.json", json.dumps({"rated_mah": 10000, "cell_volts": 3.7})),
        )
        found = command("pack", "--log", str(log), "--case", str(case), "--json").document
        true = (5.05 * 600 + 10.0 * 600 + 14.85 * 5400) / 3600
        self.assertAlmostEqual(found["delivered_wh"]["value"], true, delta=0.01)
        self.assertGreater(found["delivered_wh"]["expanded"], 0)
        self.assertAlmostEqual(found["yield"]["value"], true / 37, places=3)
        self.assertAlmostEqual(found["resistance_ohm"]["value"], 0.05, places=3)
        self.assertAlmostEqual(found["no_load_v"]["value"], 5.1)
        self.assertEqual((found["cut_off_s"], found["at_least"], found["trip_a"]), (6630, False, None))
        self.assertEqual([round(s["amps"]) for s in found["steps"]], [1, 2, 3])
        told = command("pack", "--log", str(log), "--rated-mah", "10000", "--cell-volts", "3.7").out
        self.assertIn("Cut off after 1 h 50 under load", told)

    def test_bad_input_is_one_line_and_exit_2(self):
        log = self.file("load.csv", LOG)
        watts = self.file("watts.csv", "time_s,watts\n" + "".join(f"{t},10\n" for t in range(60)))
        for words, said in (
            (("--rated-mah", "10000"), "add the volts of the cells"),
            ((*PACK[1:], "--load-watts", "-5"), "is no load"),
            ((*PACK[1:], "--delivered-wh", "0"), "0 Wh was delivered by no pack"),
            ((*PACK[1:], "--pack-from", "100"), "--pack-to, --phone-from, --phone-to is missing"),
            ((*PACK[1:], "--pack-from", "20", "--pack-to", "30", "--phone-from", "1", "--phone-to", "9"), "went up"),
            (("--log", str(log)), "rated capacity is missing"),
            ((*PACK[1:], "--log", str(watts)), "log volts and amps"),
            ((*PACK[1:], "--log", "nowhere.csv"), "nowhere.csv"),
        ):  # fmt: skip
            with self.subTest(words):
                done = command("pack", *words, "--json")
                self.assertEqual((done.code, done.out), (2, ""))
                self.assertIn(said, done.err)
                self.assertEqual(done.err.count("\n"), 1)


if __name__ == "__main__":
    unittest.main()
