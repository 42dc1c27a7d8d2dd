"""Files that hold many runs: wide tables, a row a run, pairs of columns, a column that names the run, a sheet a run."""

import json
import subprocess
import sys
import unittest
from pathlib import Path

import numpy as np
import openpyxl

from jaunecharge.core.errors import CannotRead
from jaunecharge.formats.many.cells import is_empty, percentage, when
from jaunecharge.formats.many.contents import contents, read_one
from jaunecharge.formats.read.source import examine
from tests.afternoons import afternoon
from tests.cases import FolderTest

COMMAND = Path(sys.executable).with_name("jaunecharge")


class Cells(unittest.TestCase):
    def test_times_as_people_write_them(self):
        for text, seconds in (
            ("20 min", 1200), ("1 h 20", 4800), ("1h20m", 4800), ("0:20", 1200), ("2:05 pm", 50700), ("12:10 am", 600),
            ("90 s", 90), ("12.5", 12.5), ("12,5", 12.5), ("2028-02-29 00:10", 1835395800),
            ("2/29/2028 0:10", 1835395800),
        ):  # fmt: skip
            with self.subTest(text):
                self.assertEqual(when(text).seconds, seconds)
        for text in ("", "mean", "2027-02-29 00:10", "25:61", "13:00 pm", "Cairn 15"):
            with self.subTest(text):
                self.assertIsNone(when(text))

    def test_percentages_as_people_write_them(self):
        for text, value in (("47", 47), ("47 %", 47), ("47,5%", 47.5), ("full", 100), ("Voll", 100)):
            self.assertEqual(percentage(text), value)
        for text in ("abc", "120", "-4", "4 7", "47 W"):
            with self.subTest(text), self.assertRaises(CannotRead):
                percentage(text)
        self.assertTrue(all(is_empty(t) for t in ("", " - ", "n/a", "–")))


class Tables(FolderTest):
    def read(self, text, name="t.csv"):
        return contents(examine(self.file(name, text)))

    def runs(self, text):
        return {run.label: list(run.checkins) for run in self.read(text).runs}

    def test_time_down_a_column_a_run(self):
        found = self.runs("min,Cairn disc 15,Serac dock\n0,10,11\n10,20,23\n20,31,\n30,42,46\n")
        self.assertEqual(found["Cairn disc 15"], [(0, 10), (10, 20), (20, 31), (30, 42)])
        self.assertEqual(found["Serac dock"], [(0, 11), (10, 23), (30, 46)])

    def test_a_heading_that_names_a_charger_is_no_column_of_names(self):
        found = self.runs("min,Puck 1,Serac dock\n0,70,60\n10,85,70\n20,100,80\n30,100,90\n40,100,99\n50,100,100\n")
        levels = {name: [p for _, p in own] for name, own in found.items()}
        self.assertEqual(levels, {"Puck 1": [70, 85, 100, 100, 100, 100], "Serac dock": [60, 70, 80, 90, 99, 100]})

    def test_a_row_a_run_minutes_across(self):
        found = self.read(
            "charger,phone,0,10,20,30\nCairn,Tarn 9,10,20,30,41\nSerac,Tarn 9,8,22,,47\nmean,,9,21,30,44\n"
        )
        self.assertEqual([r.label for r in found.runs], ["Tarn 9 on Cairn", "Tarn 9 on Serac"])
        self.assertEqual(found.runs[1].checkins, ((0, 8), (10, 22), (30, 47)))
        self.assertEqual(found.runs[0].factors, {"charger": "Cairn", "phone": "Tarn 9"})
        self.assertEqual(found.left_out, ("row 4: a summary, “mean”",))

    def test_pairs_on_their_own_times(self):
        found = self.runs(",Cairn,,Serac,\n,min,%,min,%\n,0,10,0,9\n,12,22,10,18\n,25,34,20,27\n,,,30,36\n")
        self.assertEqual(found["Cairn"], [(0, 10), (12, 22), (25, 34)])
        self.assertEqual(found["Serac"], [(0, 9), (10, 18), (20, 27), (30, 36)])

    def test_a_column_that_names_the_run(self):
        found = self.runs("run,time_min,percent,watts\n1,0,10,17\n1,10,20,17\n2,0,12,9\n2,10,18,9\n2,20,24,9\n")
        self.assertEqual(found, {"run 1": [(0, 10), (10, 20)], "run 2": [(0, 12), (10, 18), (20, 24)]})
        named = self.runs("charger,phone,time,level\nCairn,Tarn,0:00,10\n,,0:10,20\nSerac,Tarn,0:00,8\n,,0:10,15\n")
        self.assertEqual(set(named), {"Tarn on Cairn", "Tarn on Serac"})

    def test_a_sheet_a_run(self):
        book = openpyxl.Workbook()
        for name, rate in (("Cairn", 1.0), ("Serac", 0.7)):
            sheet = book.create_sheet(name)
            sheet.append(["min", "%"])
            for minute in range(0, 50, 10):
                sheet.append([minute, round(10 + rate * minute)])
        book.remove(book["Sheet"])
        book.create_sheet("remarks").append(["all by the window"])
        book.save(self.folder / "runs.xlsx")
        found = contents(examine(self.folder / "runs.xlsx"))
        self.assertEqual([r.label for r in found.runs], ["Cairn", "Serac"])
        self.assertEqual(found.runs[1].checkins[-1], (40, 38))
        self.assertIn("sheet “remarks”: no run in it", found.left_out)

    def test_fractions_signs_words_and_two_of_one_name(self):
        found = self.runs("minutes;Disc;Disc\n0;0,05;0,10\n15;0,25;0,20\n30;0,47;0,33\n45;full;0,41\n")
        self.assertEqual(found["Disc"], [(0, 5), (15, 25), (30, 47), (45, 100)])
        self.assertEqual(found["Disc (2)"], [(0, 10), (15, 20), (30, 33), (45, 41)])

    def test_times_of_day_run_on_over_midnight_and_over_noon(self):
        night = self.runs("time,A,B\n22:50,10,11\n23:30,30,33\n00:10,50,55\n00:50,70,76\n")
        self.assertEqual([m for m, _ in night["A"]], [0, 40, 80, 120])
        noon = self.runs("time,A,B\n11:50 am,10,11\n12:30 PM,30,33\n1:10 pm,50,55\n")
        self.assertEqual([m for m, _ in noon["B"]], [0, 40, 80])
        leap = self.read(
            "when,A,B\n2028-02-28 23:50,10,11\n2028-02-29 00:10,20,22\n2027-02-29 00:40,40,44\n2028-02-29 00:50,50,55\n"
        )
        self.assertEqual([m for m, _ in leap.runs[0].checkins], [0, 20, 60])
        self.assertEqual(leap.left_out, ("row 4: “2027-02-29 00:40” is no time",))

    def test_what_cannot_be_read_is_left_out_and_said(self):
        found = self.read(
            "time;Cairn %;Serac %;Cairn W;Notes;Empty\n0:00;5 %;6 %;17,5;hot;\n0:10;14 %;abc;17,4;;\n"
            "time;Cairn %;Serac %;Cairn W;Notes;Empty\n0:20;124 %;28;17,2;;\n0:30;33%;38;;;\nmean;19 %;20 %;;;\n"
        )
        self.assertEqual([r.checkins for r in found.runs], [((0, 5), (10, 14), (30, 33)), ((0, 6), (20, 28), (30, 38))])
        self.assertEqual(
            set(found.left_out),
            {
                "row 3: “abc” is no percentage, under “Serac”", "row 4: the headings again",
                "row 5: 124 % is no battery level, under “Cairn”", "row 7: a summary, “mean”",
                "column “Cairn W”: no percentages", "column “Notes”: no percentages", "column “Empty” is empty",
            },
        )  # fmt: skip

    def test_letters_are_names_and_volts_are_no_percentages(self):
        self.assertEqual(set(self.runs("min,A,B,C\n0,10,20,5\n10,20,33,9\n20,30,46,14\n")), {"A", "B", "C"})
        meter = "".join(f"{t},9.0{t % 3},1.5{t % 4},13.5\n" for t in range(400))
        [run] = self.read("time_s,volts,amps,watts\n" + meter).runs
        self.assertEqual((run.kind, run.checkins), ("log", ()))
        self.assertEqual(self.read(meter).runs[0].kind, "log")

    def test_one_table_is_one_run_named_by_its_file(self):
        [run] = self.read("time_s,percent\n0,10\n600,20\n1200,29\n", "disc.csv").runs
        self.assertEqual((run.label, run.checkins), ("disc.csv", ((0, 10), (10, 20), (20, 29))))

    def test_no_run_is_refused(self):
        for text in ("min,%\n0,10\n", "a,b\n1,2\n", ""):
            with self.subTest(text), self.assertRaises(CannotRead):
                self.read(text)
        with self.assertRaisesRegex(CannotRead, "there is no run 3 in it"):
            read_one(examine(self.file("t.csv", "min,A,B\n0,10,11\n10,20,21\n20,30,31\n")), 3)


class Twelve(FolderTest):
    """Twelve runs of twenty times, wide, long and across, as CSV and XLSX."""

    def tables(self):
        minutes = list(range(0, 200, 10))
        levels = {f"Pad {n}": [min(100, round(5 + (0.3 + 0.05 * n) * m)) for m in minutes] for n in range(1, 13)}
        wide = [["min", *levels], *([m, *(levels[name][i] for name in levels)] for i, m in enumerate(minutes))]
        across = [["charger", *minutes], *([name, *own] for name, own in levels.items())]
        long = [
            ["charger", "min", "%"],
            *([n, m, p] for n, own in levels.items() for m, p in zip(minutes, own, strict=True)),
        ]
        return levels, minutes, {"wide": wide, "across": across, "long": long}

    def test_all_are_the_same_twelve_runs(self):
        levels, minutes, tables = self.tables()
        for name, table in tables.items():
            text = "\n".join(",".join(map(str, row)) for row in table)
            book = openpyxl.Workbook()
            for row in table:
                book.active.append(row)
            book.save(self.folder / f"{name}.xlsx")
            for path in (self.file(f"{name}.csv", text), self.folder / f"{name}.xlsx"):
                with self.subTest(path.name):
                    found = {r.label: [p for _, p in r.checkins] for r in contents(examine(path)).runs}
                    self.assertEqual(found, levels)
                    self.assertEqual([m for m, _ in contents(examine(path)).runs[0].checkins], minutes)


class Logs(FolderTest):
    def command(self, *options):
        return subprocess.run([COMMAND, *options], capture_output=True, text=True, cwd=self.folder, timeout=300)

    def test_a_log_of_four_placings_is_listed_and_each_is_read(self):
        time_s, watts, placed = afternoon(1, ("none",))
        rows = "\n".join(f"{t:.0f},{w:.3f}" for t, w in zip(time_s, watts, strict=True))
        self.file("afternoon.csv", "time_s,watts\n" + rows)

        def ask(*options):
            done = subprocess.run(
                [COMMAND, *options, "--json"], capture_output=True, text=True, cwd=self.folder, timeout=300
            )
            self.assertEqual((done.returncode, done.stderr), (0, ""))
            return json.loads(done.stdout)

        runs = ask("runs", "afternoon.csv")["runs"]
        self.assertEqual([(r["n"], r["kind"]) for r in runs], [(n, "log") for n in range(1, 5)])
        np.testing.assert_allclose([r["placed_s"] for r in runs], placed, atol=60)
        third = ask("read", "--meter", "afternoon.csv", "--run", "3")
        self.assertAlmostEqual(third["placed_s"], placed[2], delta=15)
        self.assertIsNotNone(third["no_load_w"])
        self.assertAlmostEqual(third["duration_min"], (runs[2]["end_s"] - placed[2]) / 60, delta=1)

    def test_the_command_reads_one_of_a_table(self):
        self.file("wide.csv", "min,Cairn,Serac\n0,10,11\n10,20,23\n20,31,35\n30,42,46\n40,52,58\n")
        done = self.command("read", "--battery", "wide.csv", "--run", "2", "--json")
        found = json.loads(done.stdout)
        self.assertEqual((found["placed_s"], found["duration_min"]), (0, 40))
        self.assertAlmostEqual(found["pace"][0]["points_per_min"]["value"], 1.18, delta=0.03)
        listed = subprocess.run(
            [COMMAND, "runs", "wide.csv"], capture_output=True, text=True, cwd=self.folder, timeout=60
        )
        self.assertIn("Serac", listed.stdout)
        refused = subprocess.run(
            [COMMAND, "runs", "none.csv"], capture_output=True, text=True, cwd=self.folder, timeout=60
        )
        self.assertEqual((refused.returncode, len(refused.stderr.strip().splitlines())), (2, 1))
