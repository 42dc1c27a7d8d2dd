"""Files made to fill the machine, to stop it, or to take the application with it: each is refused with its sentence."""

import gzip
import io
import json
import os
import time
import zipfile

import openpyxl

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.labels import as_typed, harmless, label
from jaunecharge.formats.read.apart import apart
from jaunecharge.formats.read.columns import read_figures
from jaunecharge.formats.read.files import Asked, look, run_of
from jaunecharge.formats.read.limits import MOST_COLUMNS, MOST_SHEETS
from jaunecharge.formats.read.source import examine
from jaunecharge.formats.read.understanding import understand
from jaunecharge.formats.write.csv_xlsx import csv_text
from jaunecharge.formats.write.folder import numbered
from tests.cases import FolderTest

GOOD = "time_s,volts,amps\n" + "".join(f"{t},9.0,1.5\n" for t in range(200))
SHEET = "xl/worksheets/sheet1.xml"


def figures_of(path) -> int:
    source = examine(path)
    return len(read_figures(source, understand(source)).clock.seconds)


def takes(bytes_: int) -> int:
    return len(bytearray(os.urandom(1024) * (bytes_ // 1024)))


def lasts() -> None:
    time.sleep(60)


def spins() -> None:
    while True:
        pass


def dies() -> None:
    os.kill(os.getpid(), 9)


def aborts() -> None:
    os.abort()


def stumbles() -> None:
    raise ZeroDivisionError("nobody thought of that")


def says(progress) -> dict[str, object]:
    progress(0.5)
    return {"a": 1}


class Apart(FolderTest):
    """What a file may take, whatever it is."""

    def refused(self, said, work, *arguments, **more):
        with self.assertRaisesRegex(CannotRead, said) as caught:
            apart(work, *arguments, name="x.csv", **more)
        self.assertEqual(caught.exception.file, "x.csv")

    def test_what_it_returns_and_tells(self):
        heard = []
        self.assertEqual(apart(says, progress=heard.append), {"a": 1})
        self.assertEqual(heard, [0.5])

    def test_memory(self):
        self.assertEqual(apart(takes, 50_000_000, memory=200_000_000), 49_999_872)
        self.refused("more memory", takes, 400_000_000, memory=200_000_000)

    def test_time(self):
        for work in (lasts, spins):
            began = time.monotonic()
            self.refused("longer to read", work, seconds=1.0)
            self.assertLess(time.monotonic() - began, 30.0)

    def test_one_that_is_ended_from_outside(self):
        for work, said in ((dies, "more memory"), (aborts, "its reader broke down")):
            with self.assertLogs("jaunecharge.formats.read.apart", "ERROR"):
                self.refused(said, work)

    def test_one_that_nobody_thought_of(self):
        with self.assertLogs("jaunecharge.formats.read.apart", "ERROR"):
            self.refused("cannot be read", stumbles)

    def test_arrays_come_back_as_they_were(self):
        path = self.file("meter.csv", GOOD)
        asked = [Asked(path, "meter.csv", roles=("meter",))]
        here, there = run_of(asked), apart(run_of, asked)
        self.assertEqual(here.assembled.log.trace.power_w.tolist(), there.assembled.log.trace.power_w.tolist())
        there.assembled.log.trace.power_w[0] = 1.0

    def test_a_long_log_takes_little_more_than_its_figures(self):
        rows = 1_500_000
        lines = "".join(f"{n},9.0,1.5,13.5\n" for n in range(rows))
        path = self.file("meter.csv", "time_ms,volts,amps,watts\n" + lines)
        with self.assertRaisesRegex(CannotRead, "more memory"):
            apart(figures_of, path, name="x.csv", memory=60_000_000)
        self.assertEqual(apart(figures_of, path, name="x.csv", memory=180_000_000), rows)


class Limits(FolderTest):
    """Each limit, by the file that goes beyond it; in the process that files are read in."""

    def refused(self, name, content, *said, roles=()):
        path = self.file(name, content)
        with self.assertRaises(CannotRead) as caught:
            if roles:
                apart(run_of, [Asked(path, name, roles=roles)], name=name)
            else:
                apart(look, Asked(path, name), name=name)
        for words in said:
            self.assertIn(words, str(caught.exception))
        self.assertEqual([p.name for p in self.folder.iterdir()], [name], "nothing is left beside it")
        path.unlink()

    def packed(self, *blocks):
        out = io.BytesIO()
        with gzip.GzipFile(fileobj=out, mode="wb", compresslevel=1) as file:
            for block in blocks:
                file.write(block)
        return out.getvalue()

    def workbook(self, replace=None, **sheets):
        """A workbook with a sheet of figures, and what stands in its first sheet replaced."""
        book = openpyxl.Workbook()
        page = book.active
        for row in (line.split(",") for line in GOOD.splitlines()):
            page.append([float(c) if c[0].isdigit() else c for c in row])
        for n in range(sheets.get("more", 0)):
            book.create_sheet(f"s{n}")
        out = io.BytesIO()
        book.save(out)
        if replace is None:
            return out.getvalue()
        made = io.BytesIO()
        with zipfile.ZipFile(out) as old, zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as new:
            for part in old.infolist():
                content = old.read(part)
                new.writestr(part.filename, replace(content) if part.filename == SHEET else content)
        return made.getvalue()

    def test_a_place_of_many_letters_in_many_rows(self):
        row = b",25,%s\n" % (b"p" * 130_000)
        content = self.packed(b"time_s,celsius,position\n", *(b"%d" % n + row for n in range(1500)))
        self.refused("heat.csv.gz", content, "a cell has more than 32 767 letters")
        row = b",25,%s\n" % (b"p" * 200)
        content = b"time_s,celsius,position\n" + b"".join(b"%d" % n + row for n in range(300))
        meter = self.file("m.csv", GOOD)
        path = self.file("heat.csv", content)
        asked = [Asked(meter, "m.csv", roles=("meter",)), Asked(path, "heat.csv", roles=("heat",))]
        with self.assertRaisesRegex(CannotRead, "name of a place has 200 letters"):
            apart(run_of, asked)

    def test_many_places(self):
        content = "time_s,celsius,position\n" + "".join(f"{n},25,p{n}\n" for n in range(5000))
        asked = [
            Asked(self.file("m.csv", GOOD), "m.csv", roles=("meter",)),
            Asked(self.file("heat.csv", content), "heat.csv", roles=("heat",)),
        ]
        with self.assertRaisesRegex(CannotRead, "5000 places are named"):
            apart(run_of, asked)

    def test_many_columns(self):
        self.refused("wide.csv", ",".join(["1.0"] * (MOST_COLUMNS + 1)) + "\n", "cells", "1 000 columns")
        self.refused("wider.csv", ",".join(["1"] * 400_000) + "\n", "400 000 cells")

    def test_a_line_without_an_end(self):
        content = self.packed(b"time_s,volts\n1,2\n", *([b"," * 1_000_000] * 190))
        self.refused("commas.csv.gz", content, "longer than a million letters")
        self.refused("letters.csv", "a,b\n1,2\n" + "x" * 3_000_000, "million letters")

    def test_a_cell_without_an_end(self):
        lines = GOOD + '200,"9.0\n' + "x\n" * 400_000
        self.refused("quote.csv", lines, "a cell has more than 32 767 letters", "row 202", roles=("meter",))

    def test_packed_in_packed(self):
        content = GOOD.encode()
        for _ in range(40):
            content = gzip.compress(content)
        self.refused("deep.csv.gz", content, "packed twice")

    def test_unpacking_leaves_nothing_and_overwrites_nothing(self):
        path = self.file("log.csv.gz", gzip.compress(GOOD.encode()))
        kept = self.file("log.csv.gz.unpacked", "mine")
        source = examine(path)
        self.assertTrue(source.path.exists())
        self.assertNotEqual(source.path.parent, self.folder)
        unpacked = source.path
        del source
        self.assertFalse(unpacked.exists())
        self.assertEqual(kept.read_text(), "mine")

    def test_a_workbook_whose_last_row_has_a_huge_number(self):
        row = b'<row r="1000000000"><c r="A1000000000"><v>1</v></c></row></sheetData>'
        began = time.monotonic()
        content = self.workbook(lambda xml: xml.replace(b"</sheetData>", row))
        self.refused("rows.xlsx", content, "more than 1 048 576 rows", roles=("meter",))
        self.assertLess(time.monotonic() - began, 60.0)

    def test_a_workbook_with_a_cell_of_seven_hundred_megabytes(self):
        made = io.BytesIO()
        with (
            zipfile.ZipFile(io.BytesIO(self.workbook())) as old,
            zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as new,
        ):
            for part in old.infolist():
                if part.filename != SHEET:
                    new.writestr(part.filename, old.read(part))
            with new.open(SHEET, "w") as out:
                before, after = old.read(SHEET).split(b"</sheetData>")
                out.write(before + b'<row r="300"><c r="A300" t="inlineStr"><is><t>')
                for _ in range(700):
                    out.write(b"x" * 1_000_000)
                out.write(b"</t></is></c></row></sheetData>" + after)
        self.refused("cell.xlsx", made.getvalue(), "at most 200 MB")

    def test_a_workbook_with_a_long_cell(self):
        cell = b'<row r="300"><c r="A300" t="inlineStr"><is><t>' + b"x" * 40_000 + b"</t></is></c></row></sheetData>"
        content = self.workbook(lambda xml: xml.replace(b"</sheetData>", cell))
        self.refused("long.xlsx", content, "a cell has 40 000 letters", "row 300", roles=("meter",))

    def test_workbooks_with_cells_that_are_nowhere_or_nothing(self):
        for cell in (
            b'<c r="ZZZZ50"><v>1</v></c>', b'<c r="A0"><v>1</v></c>', b'<c r="50"><v>1</v></c>',
            b'<c r="A300" t="n"><v>one</v></c>', b'<c r="A300" t="s"><v>99999</v></c>',
            b'<c r="A300" t="d"><v>x</v></c>', b'<c r="A300" s="9999"><v>1</v></c>',
            b'<c r="A300" t="n"><v>1e9999</v></c>', b'<c r="A300" t="s"><v>-1</v></c>',
        ):  # fmt: skip
            with self.subTest(cell):
                row = b'<row r="300">' + cell + b"</row></sheetData>"
                path = self.file("odd.xlsx", self.workbook(lambda xml, row=row: xml.replace(b"</sheetData>", row)))
                try:
                    apart(run_of, [Asked(path, "odd.xlsx", roles=("meter",))], name="odd.xlsx")
                except CannotRead as error:
                    self.assertNotIn("it cannot be read", error.what, "it says what is wrong")

    def test_many_sheets(self):
        self.refused("sheets.xlsx", self.workbook(more=MOST_SHEETS), "201 sheets")

    def test_years_that_no_log_is_of(self):
        for first in (
            "0001-01-01T00:30:00+14:00",
            "0000-01-01T00:00:00Z",
            "9999-12-31T23:59:59-14:00",
            "1969-12-31T23:00Z",
        ):
            lines = "".join(f"{first},9.0,1.5\n" for _ in range(20))
            self.refused("years.csv", "time,volts,amps\n" + lines, "", roles=("meter",))
        for first in (1e300, -1e300, 1e18):
            lines = "".join(f"{first + n},9.0,1.5\n" for n in range(20))
            self.refused("epoch.csv", "time_s,volts,amps\n" + lines, "", roles=("meter",))

    def test_check_ins_next_to_no_time_apart(self):
        rows = "".join(f"{n}e-297,{10 + n}\n" for n in range(30))
        asked = [
            Asked(self.file("m.csv", GOOD), "m.csv", roles=("meter",)),
            Asked(self.file("b.csv", "time_s,percent\n" + rows), "b.csv", roles=("checkins",)),
        ]
        try:
            apart(run_of, asked, name="b.csv")
        except CannotRead as error:
            self.assertNotIn("it cannot be read", error.what)


class Out(FolderTest):
    """What goes out runs nowhere, and holds each file."""

    RUN = ("=1+1", "+1", "-1", "@x", "\t=1", " =1", 'x;=HYPERLINK("http://x")', "x\t=1", "x|@a", "a\n=1", "x; ＝1",
           "＝1+1", "＋1", "－1", "＠x", "\ufeff=1", "\u200b=1", "x;'=1", "'=1", "a,-1", "﹦1",
           "\tx", "'\rx", "'")  # fmt: skip
    PLAIN = ("Cairn disc", "Plug 20 W", "10 - 20", "a=b", "x;y", "5-fold", "", "'quoted'", "a; b")

    def test_every_cell_is_harmless_and_reads_back(self):
        for text in (*self.RUN, *self.PLAIN):
            with self.subTest(text):
                made = harmless(text)
                self.assertEqual(as_typed(made), text)
                for separator in ";,|\t\n":
                    for part in made.split(separator):
                        plain = part.strip(" \ufeff\u200b")
                        self.assertFalse(plain[:1] in tuple("=+-@＝＋－＠﹦"), repr(made))
        for text in self.PLAIN:
            self.assertEqual(harmless(text), text)

    def test_in_every_csv(self):
        self.assertIn("'=1", csv_text(("a",), [["=1"]]))
        self.assertIn(";'=1", csv_text(("a",), [["x;=1"]]))
        self.assertIn("-5", csv_text(("a",), [[-5.0]]))

    def test_labels_that_begin_like_a_formula_are_refused(self):
        for text in ("=1", "+1", "＝1", "\u200b=1"):
            with self.subTest(text), self.assertRaises(CannotRead):
                label(text)

    def test_names_of_files_side_by_side(self):
        names = numbered(["log.csv", "log.csv", "LOG.CSV", "../log.csv", "a/log 2.csv"])
        self.assertEqual(len({n.casefold() for n in names}), 5)
        self.assertFalse(any("/" in n for n in names))
        self.assertTrue(json.dumps(names))
