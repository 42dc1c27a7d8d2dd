"""`jaunecharge versus`, as a script uses it: on documents, on files, and with input that cannot be compared."""

import gzip
import json
import shutil
import unittest

from tests.cases import DATA, FolderTest, practice
from tests.commands import command

KEYS = {"window", "rows", "pairs", "sentences", "warnings"}
ROW_KEYS = {"label", "minutes", "rank", "percent_at_30"}
PAIR_KEYS = {
    "a", "b", "minutes_saved", "less_time_percent", "higher_rate_percent", "noise_min", "verdict", "differs_in",
    "unknown", "fair",
}  # fmt: skip


def even(minutes, every=10, start=10):
    """Check-ins of a charge that takes so many minutes."""
    at = [*range(0, minutes, every), minutes]
    return [[m, round(start + (100 - start) * m / minutes)] for m in at]


class Versus(FolderTest):
    def run_file(self, label, checkins, name="", **more):
        return self.file(f"{name or label}.json", json.dumps({"label": label, "checkins": checkins, **more}).encode())

    def compared(self, *runs, options=()):
        files = [self.run_file(*r[:2], **r[2]) for r in runs]
        return command("versus", *files, "--json", *options)

    def practice(self, run_id, **factors):
        found = next(r for r in practice()["runs"] if r["id"] == run_id)
        return run_id, found["checkins"], {"capacity_mah": found["capacity_mah"], "factors": factors}

    def test_packs_of_two_standards_on_one_phone(self):
        """Common practice, no published source: p1 and p2 of practice.json."""
        expected = next(e for e in practice()["expect"] if e["of"].startswith("p1 against p2"))
        done = self.compared(self.practice("p1", charger="new"), self.practice("p2", charger="old"))
        found = done.document
        self.assertEqual(done.code, 0)
        self.assertLessEqual(KEYS, set(found))
        (pair,) = found["pairs"]
        self.assertLessEqual(PAIR_KEYS, set(pair))
        for row in found["rows"]:
            self.assertLessEqual(ROW_KEYS, set(row))
        self.assertEqual(found["window"], [5, 100])
        self.assertAlmostEqual(pair["minutes_saved"], expected["minutes_saved"], delta=0.05)
        self.assertAlmostEqual(pair["less_time_percent"], expected["less_time_percent"], delta=0.05)
        self.assertAlmostEqual(pair["higher_rate_percent"], expected["higher_rate_percent"], delta=0.05)
        self.assertEqual(pair["verdict"], expected["verdict"])
        self.assertEqual((pair["differs_in"], pair["fair"]), (["charger"], "fair"))
        self.assertEqual([r["percent_at_30"] for r in found["rows"]], [33, 24])
        self.assertEqual(found["rows"][0]["minutes"], {"earliest": 90, "estimate": 120, "latest": 120})
        self.assertEqual([r["rank"] for r in found["rows"]], [1, 2])
        # Check-ins every 15 and 30 min, from placing at 5 %: 80 % lies between the two that were made around it.
        self.assertEqual([m["percent"] for m in found["rows"][0]["milestones"]], [50, 80, 100])
        bounds = [[m["earliest"], m["latest"]] for r in found["rows"] for m in r["milestones"]]
        self.assertEqual(bounds, [[30, 45], [60, 90], [90, 120], [60, 90], [120, 150], [150, 180]])

    def test_the_other_way_round_it_is_mirrored(self):
        found = self.compared(self.practice("p2"), self.practice("p1")).document["pairs"][0]
        self.assertEqual((found["minutes_saved"], found["verdict"]), (-60, "b faster"))
        self.assertAlmostEqual(found["less_time_percent"], 33.3, delta=0.05)

    def test_noise(self):
        found = self.compared(("a", even(160), {}), ("b", even(170), {})).document["pairs"][0]
        expected = next(e for e in practice()["expect"] if e["of"].startswith("160 against 170"))
        self.assertEqual(found["verdict"], expected["verdict"])
        self.assertGreater(found["noise_min"], 10)

    def test_a_window_can_be_chosen(self):
        runs = (self.practice("p1"), self.practice("p2"))
        self.assertEqual(self.compared(*runs, options=("--from", 10, "--to", 80)).document["window"], [10, 80])
        self.assertEqual(self.compared(*runs, options=("--to", 50)).document["window"], [5, 50])

    def test_fairness(self):
        def pair(**b):
            base = {"charger": "x", "case": "none", "adapter": "P", "ambient_c": 22}
            runs = [("a", even(100), {"factors": base}), ("b", even(150), {"factors": {**base, **b}})]
            found = self.compared(*runs).document["pairs"][0]
            return found["fair"], found["differs_in"], found["unknown"]

        self.assertEqual(pair(), ("fair", [], []))
        self.assertEqual(pair(charger="y"), ("fair", ["charger"], []))
        self.assertEqual(pair(charger="y", case="thick"), ("bundle", ["charger", "case"], []))
        self.assertEqual(pair(charger="y", case=None), ("unknown", ["charger"], ["case"]))
        self.assertEqual(pair(ambient_c=24), ("fair", [], []))
        self.assertEqual(pair(ambient_c=27), ("fair", ["ambient_c"], []))
        self.assertEqual(pair(ambient_c=None, charger=""), ("unknown", [], ["charger", "ambient_c"]))

    def test_repeats_of_a_group_are_one_row(self):
        runs = [(f"fast {n}", even(t), {"group": "fast"}) for n, t in enumerate((100, 105, 110))]
        runs += [("slow", even(t), {"group": "slow", "name": f"s{t}"}) for t in (140, 150, 145)]
        found = self.compared(*runs).document
        self.assertEqual([(r["label"], r["runs"]) for r in found["rows"]], [("fast", 3), ("slow", 3)])
        pair, *among = found["pairs"]
        self.assertEqual((pair["verdict"], pair["a"], pair["b"]), ("a faster", "fast", "slow"))
        self.assertEqual(len(pair["welch_min"]), 2)
        # Repeats against one another stand behind, marked: nothing parts them.
        self.assertEqual(len(among), 3 + 3)
        self.assertEqual(
            {(p["fair"], p["repeats"], p["verdict"]) for p in among}, {("fair", True, "no difference shown")}
        )

    def test_repeats_that_are_none_are_said_to_be(self):
        runs = [("a", even(100), {"group": "g", "factors": {"charger": "x"}}),
                ("b", even(105), {"group": "g", "factors": {"charger": "y"}}), ("c", even(150), {})]  # fmt: skip
        said = " ".join(self.compared(*runs).document["warnings"])
        self.assertIn("Runs of g are taken as repeats, though they differ in charger", said)

    def test_one_that_does_not_reach_the_window_is_no_pair(self):
        short = ("short", even(100)[:5], {"group": "s"})
        also = ("also short", even(100)[:4], {"group": "s"})
        found = self.compared(
            ("a", even(100), {}), ("b", even(150), {}), short, also, options=("--to", 90, "--from", 10)
        )
        rows = {r["label"]: r for r in found.document["rows"]}
        self.assertIsNone(rows["s"]["minutes"])
        self.assertIsNone(rows["s"]["rank"])
        apart = [p for p in found.document["pairs"] if "s" in (p["a"], p["b"])]
        self.assertEqual(len(apart), 2)
        self.assertEqual({p["fair"] for p in apart}, {"not comparable"})
        self.assertTrue(all(p["minutes_saved"] is None for p in apart))

    def files_of(self, log):
        """The files of a log, put beside the documents that name them."""
        names = {"meter": "meter.csv.gz", "battery": "battery.csv", "heat": "heat.csv.gz", "case": "case.json"}
        for name in names.values():
            shutil.copy(DATA / "logs" / log / name, self.folder / name)
        return names

    def test_from_files(self):
        whole = self.files_of("after-full")
        files = [self.file("a.json", json.dumps({"label": "a", **whole}).encode())]
        files.append(self.file("b.json", json.dumps({"label": "b", "battery": "again/battery.csv"}).encode()))
        files.append(self.file("c.json", json.dumps({"label": "c", "files": whole}).encode()))
        one = command("versus", files[0], files[2], "--json").document
        self.assertEqual([r["label"] for r in one["rows"]], ["a", "c"])
        self.assertIn("c is a copy of a: the same file, read twice. They cannot differ.", one["warnings"])
        (self.folder / "again").mkdir()
        for name in whole.values():
            shutil.copy(self.folder / name, self.folder / "again" / name)
        # A row less: another recording.
        meter, battery = (self.folder / "again" / whole[role] for role in ("meter", "battery"))
        lines = gzip.decompress(meter.read_bytes()).splitlines()
        meter.write_bytes(gzip.compress(b"\n".join([*lines[:5], *lines[6:]])))
        battery.write_text(battery.read_text().rpartition("\n")[0].rpartition("\n")[0])
        elsewhere = {role: f"again/{name}" for role, name in whole.items()}
        files.append(self.file("d.json", json.dumps({"label": "d", **elsewhere}).encode()))
        copied = command("versus", files[0], *files[2:], "--json").document
        self.assertEqual([r["label"] for r in copied["rows"]], ["a", "d"])
        self.assertIn("c is a copy of a: the same file, read twice. It is left out.", copied["warnings"])
        files[2] = self.file(
            "c.json", json.dumps({"label": "c", "files": {**elsewhere, "battery": "battery.csv"}}).encode()
        )
        done = command("versus", *files[:3], "--json")
        self.assertEqual(done.code, 0, done.err)
        self.assertIn("energy_wh", done.document["rows"][0])
        self.assertNotIn("energy_wh", done.document["rows"][1])
        for key in ("value", "expanded"):
            energies = [done.document["rows"][n]["energy_wh"][key] for n in (0, 2)]
            self.assertAlmostEqual(*energies, delta=0.01)
        self.assertNotIn("hottest_c", done.document["rows"][1])

    def test_heat_is_that_of_the_window(self):
        """The hottest of the window by its readings; what heat cost in two halves adds up to the whole."""
        whole = self.files_of("heat-cycles")
        files = [self.file(f"{x}.json", json.dumps({"label": x, **whole}).encode()) for x in "ab"]

        def row(start, end):
            done = command("versus", *files, "--from", start, "--to", end, "--json")
            self.assertEqual(done.code, 0, done.err)
            return done.document["rows"][0]

        first, second, both = row(10, 40), row(40, 80), row(10, 80)
        self.assertEqual(max(first["hottest_c"], second["hottest_c"]), both["hottest_c"])
        self.assertAlmostEqual(
            first["heat_cost_min"]["value"] + second["heat_cost_min"]["value"],
            both["heat_cost_min"]["value"],
            delta=0.01,
        )
        self.assertGreater(min(first["heat_cost_min"]["value"], second["heat_cost_min"]["value"]), 0.5)

    def test_a_claim_is_checked(self):
        runs = (self.practice("p1"), self.practice("p2"))
        found = self.compared(*runs, options=("--claim", "full 40 minutes sooner")).document["claim"]
        self.assertEqual([(c["reading"], c["outcome"]) for c in found], [("minutes from 5 to 100 %", "supported")])
        self.assertEqual(found[0]["found"], 60)
        reaches = self.compared(*runs, options=("--claim", "60 % in 25 minutes")).document["claim"]
        self.assertEqual({c["outcome"] for c in reaches}, {"not supported"})

    def test_a_table_for_people(self):
        files = [self.run_file(*r[:2], **r[2]) for r in (self.practice("p1"), self.practice("p2"))]
        said = command("versus", *files, "--claim", "50 % faster", "--align-percent").out
        for expected in (
            "p1 is sooner than p2 by 60 ± 38 min from 5 to 100 %", "33 % less time, 50 % higher rate",
            "largest gap: p1 25 points ahead", "“50 % faster”:", "Be careful:",
            "run-to-run spread 6 % (assumed, in a room; no repeats yet)",
        ):  # fmt: skip
            self.assertIn(expected, said)

    def test_a_chamber(self):
        runs = [(n, even(t, 1), {"chamber": True, "interval_min": 0}) for n, t in (("a", 100), ("b", 116))]
        self.assertEqual(self.compared(*runs).document["pairs"][0]["verdict"], "a faster")
        runs = [(n, even(t, 1), {"factors": {"method": "Chamber 25 °C"}, "interval_min": 1}) for n, t in
                (("a", 100), ("b", 116))]  # fmt: skip
        self.assertEqual(self.compared(*runs).document["pairs"][0]["verdict"], "a faster")

    def test_input_that_cannot_be_compared_is_refused_in_one_line(self):
        good = ("good", even(100), {})
        cases = (
            (("good", "one run only"), [good]),
            (("share no window",), [("a", [[0, 5], [30, 40]], {}), ("b", [[0, 60], [30, 90]], {})]),
            (("b.json", "no check-ins"), [good, ("b", [], {})]),
            (("no check-ins that rise",), [good, ("b", [[0, 50], [10, 50]], {})]),
            (("b.json", "shares of 1"), [good, ("b", [[0, 0.1], [50, 0.6], [90, 1.0]], {})]),
            (("b.json", "not seconds"), [good, ("b", [[0, 10], [3600, 60], [7200, 100]], {})]),
            (("b.json", "check-in 3"), [good, ("b", [[0, 10], [30, 60], [30, 70]], {})]),
            (("b.json", "refused"), [good, ("b", [[0, 10], [30, 160]], {})]),
            (("b.json", "refused"), [good, ("b", even(100), {"factors": {"case": ["none"]}})]),
            (("b.json", "formula"), [good, ("b", even(100), {"factors": {"case": "=1+1"}})]),
        )
        for said, runs in cases:
            with self.subTest(said):
                done = self.compared(*runs)
                self.assertEqual((done.code, done.err.count("\n"), done.out), (2, 1, ""))
                self.assertTrue(any(s in done.err for s in said), done.err)
                self.assertNotIn("Traceback", done.err)

    def test_windows_claims_and_files_that_cannot_be(self):
        runs = [("a", even(100), {}), ("b", even(150), {})]
        for options, said in (
            (("--from", 80, "--to", 20), "is empty"), (("--from", -5), "cannot be"), (("--to", 150), "cannot be"),
            (("--from", 0, "--to", 50), "nothing is left"), (("--claim", "delivers 15 W"), "speed claims"),
        ):  # fmt: skip
            with self.subTest(options):
                done = self.compared(*runs, options=options)
                self.assertEqual((done.code, done.err.count("\n")), (2, 1))
                self.assertIn(said, done.err)
        self.assertEqual(command("versus", self.folder / "none.json", self.folder / "none.json").code, 2)
        self.assertEqual(command("versus").code, 2)


if __name__ == "__main__":
    unittest.main()
