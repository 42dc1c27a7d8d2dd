"""Reports of findings: page, PDF, workbook, tables and texts; equal bytes, nothing from outside, hostile words."""

import csv
import io
import re
import shutil
import subprocess
import tempfile
import unittest
from functools import cache
from html.parser import HTMLParser
from pathlib import Path

import openpyxl
from pypdf import PdfReader

from jaunecharge.documents.run_summary import RunSummary
from jaunecharge.formats.report.page import page, pdf
from jaunecharge.formats.report.tables import TableRow, figures_of, headings, table_csv, table_markdown, written
from jaunecharge.formats.report.texts import long_text, markdown, short_text
from jaunecharge.formats.report.workbook import workbook
from tests.drawn import band, report

HOSTILE = (
    "<script>alert(1)</script>", '"><img src=http://x/y onerror=z>', "=cmd|' /C calc'!A1", "\u202eevil", "+1",
    "@SUM(1)", "a|b\nc", "{{ 7*7 }}", "😀" * 40, "long " * 2000,
)  # fmt: skip
ROWS = [TableRow("Ostrel Max", "Disc", 3, {"% at 30 min": 41.0, "80 %, min": 78.3, "after full, W": None})]


class Seen(HTMLParser):
    """Tags, addresses and texts of a page."""

    def __init__(self, html):
        super().__init__()
        self.tags, self.addresses, self.ids, self.text = set(), [], [], ""
        self.feed(html)

    def handle_starttag(self, tag, attrs):
        self.tags.add(tag)
        for name, value in attrs:
            if name in {"href", "src", "srcset", "action", "data", "poster", "xlink:href"} or name.startswith("on"):
                self.addresses.append((name, value))
            if name == "id":
                self.ids.append(value)

    def handle_data(self, data):
        self.text += data


@cache
def plain_pdf():
    return pdf(report())


class Page(unittest.TestCase):
    def test_it_needs_no_script_and_asks_for_nothing(self):
        seen = Seen(page(report()))
        self.assertFalse(seen.tags & {"script", "iframe", "object", "embed", "form", "link", "img", "base"})
        self.assertTrue(all(name == "href" and value.startswith("#") for name, value in seen.addresses))
        urls = re.findall(r"url\(([^)]{0,12})", page(report()))
        self.assertTrue(urls and all(u.startswith(("data:font", "#")) for u in urls), set(urls))

    def test_every_link_leads_somewhere_and_ids_are_unique(self):
        seen = Seen(page(report()))
        self.assertEqual(len(seen.ids), len(set(seen.ids)))
        self.assertLessEqual({v[1:] for _, v in seen.addresses}, set(seen.ids))

    def test_each_figure_has_its_working_with_the_run_it_is_from(self):
        text = " ".join(Seen(page(report())).text.split())
        self.assertIn("1 h 18 (73.0 to 83.0 min): Mean of 3 runs. From Disc 1.", text)
        self.assertIn("abababab", text, "the file's hash")
        self.assertIn("order of the plan: randomised, seed 7", text)
        self.assertIn("Jaunecharge 0.1.0, reader 8", text)

    def test_the_same_finding_gives_the_same_bytes(self):
        self.assertEqual(page(report()), page(report()))

    def test_edited_words_say_so_and_what_was_left_out_is_not_there(self):
        text = " ".join(Seen(page(report(edits={"m": "Three evenings"}, hidden=["n"]))).text.split())
        self.assertIn("Three evenings. (words by Ana; first: first wording)", text)
        self.assertNotIn("Never tried", text)
        self.assertIn("Stop at swelling", text)

    def test_out_of_date_is_said_on_top(self):
        self.assertIn(
            "Out of date. Disc 1 was corrected",
            " ".join(Seen(page(report(changed=["Disc 1 was corrected"]))).text.split()),
        )

    def test_whom_it_is_for_decides_which_purposes_are_told(self):
        self.assertNotIn("thriftiest: ", Seen(page(report())).text)
        self.assertIn("thriftiest: ", Seen(page(report(audience="association"))).text)

    def test_hostile_words_are_text(self):
        usual = Seen(page(report())).tags
        for text in HOSTILE:
            seen = Seen(page(report(question=text[:300].replace("\n", " "), label=text)))
            self.assertEqual(seen.tags, usual, text[:40])
            self.assertTrue(all(v.startswith("#") for _, v in seen.addresses), text[:40])
            self.assertNotIn("\u202e", page(report(label=text)))


class Pdf(unittest.TestCase):
    def test_it_is_tagged_has_a_title_and_its_text_is_that_of_the_page(self):
        read = PdfReader(io.BytesIO(plain_pdf()))
        self.assertTrue(read.trailer["/Root"]["/MarkInfo"]["/Marked"])
        self.assertIn("/StructTreeRoot", read.trailer["/Root"])
        self.assertEqual(read.metadata.title, "Which disc is fastest to 80 %?")
        text = " ".join(" ".join(p.extract_text() for p in read.pages).split())
        for figure in ("1 h 18", "62 ± 13 min", "44 %"):
            self.assertIn(figure, text)
        self.assertIn("Which disc is fastest to 80 %?", text)

    def test_the_same_finding_gives_the_same_bytes(self):
        self.assertEqual(plain_pdf(), pdf(report()))

    def test_fonts_are_those_that_ship(self):
        read = PdfReader(io.BytesIO(plain_pdf()))
        names = {f.get_object()["/BaseFont"].split("+")[1] for f in read.pages[0]["/Resources"]["/Font"].values()}
        self.assertLessEqual(names, {"Sofia-Sans", "Sofia-Sans-Bold", "Red-Hat-Mono", "Red-Hat-Mono-Bold"})

    def test_a_row_of_a_table_does_not_break_between_pages(self):
        many = [["Ostrel Max", f"Charger {n} first line second line third line", "3", str(n)] for n in range(120)]
        read = PdfReader(io.BytesIO(pdf(report(rows=many))))
        pages = [" ".join(p.extract_text().split()) for p in read.pages]
        for n in range(120):
            whole = [p for p in pages if re.search(rf"Charger {n}\b", p)]
            self.assertTrue(all("third" in p[p.index(f"Charger {n}") :] for p in whole), n)
        self.assertGreater(sum("80 %, min" in p for p in pages), 1, "headings are repeated")


class Workbook(unittest.TestCase):
    def sheets(self, formulas, content=None):
        return openpyxl.load_workbook(io.BytesIO(content or workbook(report(), ROWS)), data_only=not formulas)

    def test_formulas_stand_beside_what_was_published(self):
        live, frozen = (self.sheets(f)["Differences"] for f in (True, False))
        self.assertEqual([live.cell(2, c).value for c in (8, 10, 12)], ["=E2-G2", "=100*(1-G2/E2)", "=100*(E2/G2-1)"])
        for c in (8, 10, 12):
            self.assertAlmostEqual(frozen.cell(2, c).value, frozen.cell(2, c + 1).value, places=9)
        self.assertAlmostEqual(frozen.cell(2, 8).value, 140.0 - 78.0)
        self.assertAlmostEqual(frozen.cell(2, 10).value, 100 * (1 - 78 / 140))
        self.assertAlmostEqual(frozen.cell(2, 12).value, 100 * (140 / 78 - 1))

    def test_energy_is_the_sum_of_its_steps(self):
        frozen = self.sheets(False)["Energy"]
        watts = [w for w in band(78.0 / 0.78).watts if w is not None]
        self.assertAlmostEqual(frozen.cell(5, 2).value, sum(watts) / 60.0)

    def test_the_same_finding_gives_the_same_bytes(self):
        self.assertEqual(workbook(report(), ROWS), workbook(report(), ROWS))

    def test_no_text_is_run_as_a_formula(self):
        for text in HOSTILE:
            sheets = self.sheets(True, workbook(report(label=text), [TableRow("p", text, 1, {})]))
            ours = re.compile(r"=(E\d+-G\d+|100\*.*|SUM\([A-Z]+6:.*)$")
            for sheet in sheets:
                for row in sheet.iter_rows():
                    for cell in row:
                        if cell.data_type == "f":
                            self.assertRegex(cell.value, ours)

    def test_an_office_program_recomputes_the_shown_values(self):
        """LibreOffice opens it and computes every formula anew."""
        with tempfile.TemporaryDirectory() as folder:
            # Saved again without any value: what is shown then is what the office program computed.
            openpyxl.load_workbook(io.BytesIO(workbook(report(), ROWS))).save(f"{folder}/f.xlsx")
            for sheet in ("Differences", "Energy"):
                n = self.sheets(False).sheetnames.index(sheet) + 1
                subprocess.run(
                    [
                        shutil.which("soffice"), f"-env:UserInstallation=file://{folder}/profile", "--headless",
                        "--convert-to",
                        f"csv:Text - txt - csv (StarCalc):44,34,76,1,,0,false,true,false,false,false,{n}",
                        "--outdir", f"{folder}/{sheet}", f"{folder}/f.xlsx",
                    ],
                    check=True, capture_output=True, timeout=180, env={"HOME": folder, "PATH": "/usr/bin:/bin"},
                )  # fmt: skip
                rows = list(csv.reader(next(Path(folder, sheet).glob("*.csv")).read_text().splitlines()))
                pairs = (
                    [(row[c], row[c + 1]) for row in rows[1:] for c in (7, 9, 11)]
                    if sheet == "Differences"
                    else list(zip(rows[3][1:], rows[4][1:], strict=True))
                )
                self.assertTrue(pairs)
                for live, frozen in pairs:
                    self.assertAlmostEqual(float(live), float(frozen), places=1)


class Tables(unittest.TestCase):
    def test_figures_of_a_summary(self):
        summary = RunSummary(ribbon=band(100), milestones=[], hottest_c=38.0)
        found = figures_of(summary)
        self.assertAlmostEqual(found["at 1 h, °C"], summary.ribbon.celsius[60])
        self.assertIsNone(found["80 %, min"])
        self.assertAlmostEqual(figures_of(summary, True)["hottest, °F"], 100.4)

    def test_rows_are_written_with_their_places_and_gaps(self):
        self.assertEqual(written(ROWS[0]), ["Ostrel Max", "Disc", "3", "41", "78", ""])
        self.assertEqual(headings(ROWS)[:3], ["phone", "charger", "runs"])
        self.assertEqual(headings([]), ["phone", "charger", "runs"])

    def test_csv_and_markdown_are_safe(self):
        for text in HOSTILE:
            rows = [TableRow("p", text, 1, {"% at 30 min": 41.0})]
            cell = next(csv.reader(io.StringIO(table_csv(rows).partition("\n")[2])))[1]
            self.assertNotRegex(cell, r"^[\s\u200b]*[=+@\-]", text[:20])
            table = table_markdown(rows).splitlines()
            self.assertEqual(len(table), 3, text[:20])
            self.assertEqual(len(re.findall(r"(?<!\\)\|", table[2])), 5, text[:20])
            self.assertNotRegex(table[2], r"(?<!\\)<")


class Texts(unittest.TestCase):
    def test_short_and_long_hold_every_figure_and_no_mark(self):
        short, long = short_text(report()), long_text(report())
        self.assertEqual(short.splitlines()[2], "Disc is fastest, in 1 h 18, 62 ± 13 min sooner.")
        for text in (short, long):
            self.assertNotRegex(text, r"[\[\]*]")
        for part in (
            "Ostrel Max, Disc, place 1: 62 ± 13 min sooner than Pad.",
            "Never tried: in a case.",
            "Stop at swelling.",
        ):
            self.assertIn(part, long)

    def test_what_is_not_supported_is_in_the_short_text(self):
        made = report()
        made.draft.claims[0].found = "not supported"
        self.assertIn("Not supported: Disc, “20 to 35 % faster” on Ostrel Max.", short_text(made))

    def test_markdown_has_the_table_and_bold_words(self):
        post = markdown(report(), ROWS)
        self.assertIn("# Which disc is fastest to 80 %?", post)
        self.assertIn("**Disc** is fastest, in 1 h 18, 62 ± 13 min sooner.", post)
        self.assertIn("| Ostrel Max | Disc | 3 | 41 | 78 |  |", post)
        for text in HOSTILE:
            self.assertNotRegex(markdown(report(label=text), []), r"(?<!\\)<(script|img)")
