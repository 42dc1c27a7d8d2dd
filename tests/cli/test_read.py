"""The command line as a person and as a script use it."""

import json
import subprocess
import sys
from pathlib import Path

from tests.cases import DATA, FolderTest

COMMAND = Path(sys.executable).with_name("jaunecharge")
LOG = DATA / "logs" / "gaps-in-log"
KEYS = {
    "placed_s", "duration_min", "samples", "cleaned", "coverage", "energy_in_wh", "energy_bridged_wh",
    "energy_battery_wh", "efficiency", "peak_w", "best_settled_w", "sustained_w", "no_load_w", "after_full_w",
    "milestones", "percent_at", "phases", "dips", "heat", "output", "output_class", "sentences", "warnings",
}  # fmt: skip


class Read(FolderTest):
    def setUp(self):
        super().setUp()
        for file in LOG.iterdir():
            self.file(file.name, file.read_bytes())

    def run_it(self, *arguments):
        return subprocess.run([COMMAND, *arguments], capture_output=True, text=True, cwd=self.folder, timeout=300)

    def read(self, *more):
        return self.run_it("read", "--meter", "meter.csv.gz", *more)

    def test_json_is_one_document_and_nothing_else(self):
        done = self.read("--battery", "battery.csv", "--heat", "heat.csv.gz", "--case", "case.json", "--json")
        self.assertEqual((done.returncode, done.stderr), (0, ""))
        found = json.loads(done.stdout)
        self.assertLessEqual(KEYS, set(found))
        self.assertEqual(found["energy_in_wh"].keys(), {"value", "expanded"})
        self.assertEqual(found["dips"], [])
        self.assertEqual([p["kind"] for p in found["phases"]][:3], ["no_load", "ramp", "plateau"])
        self.assertEqual(found["phases"][0].keys(), {"kind", "start_s", "end_s", "mean_w"})
        methods = ["reference ratio", "idle subtraction, no-load", "idle subtraction, after full", "battery account"]
        self.assertEqual([(e["method"], e["point"]) for e in found["output"]],
                         [(m, "battery" if m == "battery account" else "charger") for m in methods])  # fmt: skip
        group = {"watts": 12.0, "fits": True, "also_possible": [], "claim_met": False, "claim_kept_up": False}
        self.assertEqual(found["output_class"], group)
        self.assertEqual((found["heat"]["cycles"], found["heat"]["throttled_min"]), (0, 0))
        self.assertGreater(found["heat"]["steady_c"]["expanded"], 0)
        eighty = next(m for m in found["milestones"] if m["percent"] == 80)
        self.assertLess(eighty["earliest"], eighty["latest"])
        self.assertIn("4 min of the log are missing, in 1 hole", found["warnings"][0])

    def test_without_json_it_is_a_table_for_people(self):
        done = self.read("--battery", "battery.csv", "--case", "case.json")
        for words in ("80 % after", "plateau", "taper", "energy in, metered", "Wh", "k = 2", "Be careful"):
            self.assertIn(words, done.stdout)

    def test_a_plugs_log_beside_the_meters(self):
        plug = "time_s,watts\n" + "".join(f"{t},{20 if t > 60 else 1}\n" for t in range(0, 40000, 10))
        (self.folder / "plug.csv").write_text(plug)
        found = json.loads(self.read("--socket", "plug.csv", "--json").stdout)
        self.assertEqual([p["from"] for p in found["along_chain"]["through"]][:1], ["socket"])
        self.assertTrue([w for w in found["warnings"] if "begin with the log beside it" in w])
        self.assertNotIn("along_chain", json.loads(self.read("--json").stdout))

    def test_the_meter_alone_can_be_read(self):
        found = json.loads(self.read("--json").stdout)
        self.assertEqual((found["milestones"], found["energy_battery_wh"], found["heat"]), ([], None, None))
        self.assertGreater(found["best_settled_w"], 13)

    def refused(self, done, *words):
        self.assertEqual((done.returncode, done.stdout), (2, ""))
        self.assertEqual(len(done.stderr.strip().splitlines()), 1, done.stderr)
        for word in words:
            self.assertIn(word, done.stderr)

    def test_bad_input_is_one_line_with_file_and_row_and_exit_two(self):
        self.file("volts.csv", "time_s,volts,amps\n0,9.0,1.0\n1,1000,1.0\n2,9.0,1.0\n")
        self.refused(self.run_it("read", "--meter", "volts.csv", "--json"), "volts.csv, row 3", "1000 V", "mV")

    def test_check_ins_before_the_log_name_their_file(self):
        self.file("early.csv", "time_s,percent\n-600,5\n600,15\n")
        self.refused(
            self.read("--battery", "early.csv"), "early.csv, row 2: the check-in at -600 s comes before the meter log"
        )

    def test_a_negative_capacity_names_the_case(self):
        self.file("case.json", '{"capacity_mah": -1, "nominal_v": 3.8}')
        self.refused(self.read("--case", "case.json"), "case.json", "capacity_mah")

    def test_a_missing_file(self):
        self.refused(self.run_it("read", "--meter", "none.csv"), "none.csv", "no such file")

    def test_a_wrong_call_is_one_line_too(self):
        self.refused(self.run_it("read"), "there is no file to read", "--meter", "--battery")
        self.refused(self.run_it("read", "--meter", "meter.csv.gz", "--batery", "x"), "--batery")
        self.refused(self.run_it("red"), "red")

    def test_a_file_of_another_kind_is_named(self):
        self.refused(self.read("--battery", "heat.csv.gz"), "heat.csv.gz", "no column of it is a percentage")
        self.refused(self.read("--heat", "battery.csv"), "battery.csv", "no column of it is a temperature")
        self.refused(self.run_it("read", "--meter", "battery.csv"), "battery.csv", "no watts in it")

    def test_a_reference_ratio_of_ones_own_is_used(self):
        usual, own = (json.loads(self.read(*more, "--json").stdout) for more in ((), ("--reference-ratio", "1.5")))
        first, second = (f["output"][0]["watts"] for f in (usual, own))
        self.assertAlmostEqual(second["value"] * 1.5, first["value"] * 1.25, places=2)
        self.assertNotEqual(usual["output_class"]["watts"], own["output_class"]["watts"])
