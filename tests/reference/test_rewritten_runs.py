"""Known runs, their meter logs rewritten as other meters and spreadsheets would write them: the reading stays."""

import csv
import datetime as dt
import gzip
import io
import tempfile
import unittest
from pathlib import Path

import openpyxl

from jaunecharge.core.reading.read_run import read_run
from jaunecharge.formats.json_files import read_case
from jaunecharge.formats.read.logs import meter_log, put_together, timed_readings
from jaunecharge.formats.read.source import examine
from jaunecharge.formats.read.understanding import understand
from tests.cases import DATA, truth

NAMES = ("staged", "holds-at-80")
START = dt.datetime(2027, 3, 28, 0, 30, tzinfo=dt.timezone(dt.timedelta(hours=1)))


def of_day(t, start=0):
    t = int(t + start)
    return f"{t // 3600 % 24:02}:{t // 60 % 60:02}:{t % 60:02}"


def at(t):
    return START + dt.timedelta(seconds=t)


FORMS = {
    "afternoon": ("Time,Voltage(V),Current(A)", ",", ".", lambda t, v, a: (of_day(t, 50587), v, a)),
    "over midnight": ("Uhrzeit;U/V;I/mA", ";", ",", lambda t, v, a: (of_day(t, 82987), v, a * 1000)),
    "minutes": ("time (min)\tvbus [mV]\tibus [mA]", "\t", ".", lambda t, v, a: (f"{t / 60:.5f}", v * 1000, a * 1000)),
    "iso with offset": ("timestamp,volts,amps", ",", ".", lambda t, v, a: (at(t).isoformat(), v, a)),
    "local watts": (
        "Datum/Zeit;Leistung (W)", ";", ",", lambda t, v, a: (at(t).strftime("%Y-%m-%d %H:%M:%S"), v * a)
    ),
    "epoch milliwatts": ("unix_time,power_mw", ",", ".", lambda t, v, a: (1790000000 + int(t), v * a * 1000)),
    "milliseconds": ("ms;V;A;W;D+ (V)", ";", ".", lambda t, v, a: (int(t * 1000), v, a, v * a, 0.6)),
    "no headings": ("", ",", ".", lambda t, v, a: (int(t), v, a)),
    "dotted dates": (
        "Datum;Spannung [V];Strom [A]", ";", ",", lambda t, v, a: (at(t).strftime("%d.%m.%Y %H:%M:%S"), v, a)
    ),
    "quoted commas": ('"Zeit [s]","Spannung [V]","Strom [A]"', ",", ",", lambda t, v, a: (int(t), v, a)),
}  # fmt: skip


def written(rows, form):
    """The text of a log in another form."""
    heading, separator, decimal, row = FORMS[form]
    lines = [heading] if heading else []
    for t, v, a in rows:
        cells = [f"{c:.4f}".replace(".", decimal) if isinstance(c, float) else str(c) for c in row(t, v, a)]
        lines.append(separator.join(f'"{c}"' if separator in c else c for c in cells))
    return "\r\n".join(lines) + "\r\n"


class Rewritten(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.folder = Path(cls.enterClassContext(tempfile.TemporaryDirectory()))
        cls.rows = {}
        for name in NAMES:
            text = gzip.decompress((DATA / "logs" / name / "meter.csv.gz").read_bytes()).decode()
            cls.rows[name] = [tuple(map(float, row)) for row in list(csv.reader(io.StringIO(text)))[1:]]

    def check(self, name, path):
        folder, true = DATA / "logs" / name, truth(name)
        meter, battery = examine(path), examine(folder / "battery.csv")
        conditions = read_case(folder / "case.json").conditions()
        log = put_together(meter_log(meter, understand(meter)), timed_readings(battery, understand(battery)))
        found = read_run(log, conditions)
        self.assertAlmostEqual(found.energy_in.metered.value / true["energy_in_wh"], 1, delta=0.005)
        self.assertAlmostEqual(found.placed_s, true["placed_s"], delta=15)
        self.assertAlmostEqual(found.efficiency.value / true["efficiency_10_90"], 1, delta=0.05)
        for percent, minute in true["crossings_min_after_placing"].items():
            m = found.milestone(int(percent))
            self.assertTrue(m.earliest_s <= found.placed_s + minute * 60 <= m.latest_s)

    def test_every_form_reads_the_same(self):
        for name in NAMES:
            for form in FORMS:
                with self.subTest(f"{name}, {form}"):
                    path = self.folder / f"{name}.csv"
                    path.write_text(written(self.rows[name], form), encoding="utf-8")
                    self.check(name, path)

    def test_as_a_sheet_of_a_workbook(self):
        book = openpyxl.Workbook(write_only=True)
        page = book.create_sheet("log")
        page.append(["Zeit", "Spannung [V]", "Strom [A]"])
        start = dt.datetime(2027, 3, 1, 22, 0)
        for t, v, a in self.rows["holds-at-80"]:
            page.append([start + dt.timedelta(seconds=t), v, a])
        path = self.folder / "log.xlsx"
        book.save(path)
        self.check("holds-at-80", path)

    def test_rows_shuffled_doubled_and_lost(self):
        rows = list(self.rows["staged"])
        rows[500:520] = reversed(rows[500:520])
        rows[900:900] = rows[890:900]
        del rows[4000:4090]
        path = self.folder / "rough.csv"
        path.write_text("time_s,volts,amps\n" + "".join(f"{t},{v},{a}\n" for t, v, a in rows))
        meter = examine(path)
        trace = put_together(meter_log(meter, understand(meter))).trace
        self.assertEqual(trace.cleaned.duplicates, 10)
        self.assertEqual(
            trace.cleaned.reordered, 19 + 9, "of a reversed block all but its first, of a copied one all but its last"
        )
        self.assertEqual(trace.cleaned.missing_s, 90)
