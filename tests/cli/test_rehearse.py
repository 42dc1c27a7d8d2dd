"""`jaunecharge rehearse`, and reading what it wrote."""

import json

from tests.cases import FolderTest
from tests.commands import command


class Rehearse(FolderTest):
    def rehearse(self, *more):
        return command("rehearse", "-o", self.folder / "run", *more)

    def read(self):
        folder = self.folder / "run"
        files = ("--meter", folder / "meter.csv", "--battery", folder / "battery.csv", "--heat", folder / "heat.csv")
        return command("read", *files, "--case", folder / "case.json", "--json").document

    def truth(self):
        return json.loads((self.folder / "run" / "truth.json").read_text())

    def test_reading_it_gives_the_truth_back(self):
        self.assertEqual(self.rehearse("--seed", 3, "--slips", 1).code, 0)
        found, truth = self.read(), self.truth()
        self.assertLess(abs(found["energy_in_wh"]["value"] / truth["energy_in_wh"] - 1.0), 0.005)
        for milestone in found["milestones"]:
            minute = truth["crossings_min_after_placing"].get(str(milestone["percent"]))
            if minute is not None and milestone["earliest"] is not None:
                self.assertTrue(milestone["earliest"] - 0.02 <= minute <= milestone["latest"] + 0.02)
        self.assertIn("Simulated", found["warnings"][0])

    def test_the_same_seed_writes_the_same_files(self):
        written = []
        for seed in (5, 5, 6):
            self.rehearse("--seed", seed)
            written.append({p.name: p.read_bytes() for p in (self.folder / "run").iterdir()})
        self.assertEqual(written[0], written[1])
        self.assertNotEqual(written[0]["meter.csv"], written[2]["meter.csv"])
        self.assertEqual(set(written[0]), {"meter.csv", "battery.csv", "heat.csv", "case.json", "truth.json"})

    def test_circumstances_reach_the_run(self):
        self.rehearse("--ambient-c", "36", "--airflow", "still air", "--phone-state", "in use")
        self.assertIn("heat", {d["cause"] for d in self.truth()["dips"]})
        self.rehearse("--hold-percent", "80")
        self.assertIn("hold", {d["cause"] for d in self.truth()["dips"]})
        self.rehearse("--wired", "--phone-limit-w", "20")
        fast = self.truth()["crossings_min_after_placing"]["80"]
        self.rehearse("--adapter", "5V3A", "--start-percent", "10")
        self.assertGreater(self.truth()["crossings_min_after_placing"]["80"], 1.5 * fast)

    def test_kit_from_a_shelf_by_its_labels(self):
        shelf = self.file(
            "shelf.csv",
            "kind,label,capacity_mah,accepts,pads,rated_mah,cell_v,gives,rated_w\n"
            "phone,Quill Lite,3900,bpp,,,,,\ncharger,Cairn disc,,,mpp,,,,\npack,Col bank,,,,10000,3.7,mpp,\n",
        )
        given = ("--shelf", shelf, "--phone", "quill lite")
        self.assertEqual(self.rehearse(*given, "--charger", "Cairn disc", "--json").document["simulated"], True)
        self.assertEqual(json.loads((self.folder / "run" / "case.json").read_text())["capacity_mah"], 3900)
        self.assertEqual(self.rehearse(*given, "--charger", "Col bank").code, 0)

    def test_nonsense_is_one_line_and_exit_2(self):
        self.file("taken", "")
        for wrong in (
            ("--adapter", "9V"), ("--charger", "foo"), ("--phone", "bar"), ("--start-percent", "100"),
            ("--start-percent", "nan"), ("--ambient-c", "90"), ("--airflow", "storm"), ("--phone-state", "dancing"),
            ("--offset-mm", "-1"), ("--hold-percent", "0"), ("--interval-min", "0"), ("--case", "thick"),
            ("--slips", "99"), ("--seed", "-1"), ("--capacity-mah", "0"), ("-o", self.folder / "taken"),
        ):  # fmt: skip
            with self.subTest(wrong):
                done = self.rehearse(*wrong)
                self.assertEqual((done.code, done.out, done.err.count("\n")), (2, "", 1))
                self.assertIn(";", done.err)
