"""What is refused, each with file, row where there is one, what is wrong, and what would mend it."""

import gzip
import random
import tempfile
from pathlib import Path

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.labels import label
from jaunecharge.core.log.typed_check_ins import typed_checkins
from jaunecharge.formats.json_files import read_case
from jaunecharge.formats.read.limits import MOST_BYTES
from jaunecharge.formats.read.logs import meter_log, put_together, temperatures, timed_readings
from jaunecharge.formats.read.source import examine
from jaunecharge.formats.read.understanding import understand
from tests.cases import FolderTest

GOOD = "time_s,volts,amps\n" + "".join(f"{t},9.0,1.5\n" for t in range(200))


class BadMeterLogs(FolderTest):
    def refused(self, content, *said, row=None, name="meter.csv"):
        path = self.file(name, content)
        with self.assertRaises(CannotRead) as caught:
            source = examine(path)
            put_together(meter_log(source, understand(source)))
        error = caught.exception.within(name)
        self.assertEqual(error.file, name)
        self.assertEqual(error.row, row)
        self.assertTrue(error.mend)
        for words in said:
            self.assertIn(words, str(error))

    def test_an_empty_file(self):
        self.refused("", "empty")

    def test_blank_lines_only(self):
        self.refused("\n\n  \n", "not a table")

    def test_a_binary_file(self):
        self.refused(random.Random(1).randbytes(20_000), "binary")

    def test_a_picture(self):
        self.refused(b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR" + bytes(200), "binary")

    def test_headings_without_data(self):
        self.refused("time_s,volts,amps\n", "headings, but no rows", row=1)

    def test_time_running_backwards_throughout(self):
        lines = GOOD.splitlines()
        self.refused("\n".join([lines[0], *reversed(lines[1:])]), "backwards", "oldest first", row=3)

    def test_a_thousand_volts_by_its_row(self):
        self.refused(GOOD.replace("57,9.0,1.5", "57,1000,1.5"), "1000 V", "60 V at most", "mV", row=59)

    def test_a_thousand_volts_throughout(self):
        self.refused(GOOD.replace("9.0", "1000"), "1000 V", row=2)

    def test_three_columns_that_all_look_like_volts(self):
        text = "time_s,volts,voltage,vbus\n" + "".join(f"{t},9.0,9.1,9.2\n" for t in range(100))
        self.refused(text, "2 (volts), 3 (voltage) and 4 (vbus) all look like volts", row=1)

    def test_three_columns_that_look_like_volts_without_headings(self):
        self.refused("".join(f"{t},9.0,9.1,9.2\n" for t in range(100)), "all look like volts")

    def test_volts_without_amps(self):
        self.refused("time_s,volts\n" + "".join(f"{t},9.0\n" for t in range(50)), "volts but no amps", row=1)

    def test_a_truncated_gzip(self):
        self.refused(gzip.compress(GOOD.encode() * 40)[:-200], "cut short", name="meter.csv.gz")

    def test_a_gzip_that_unpacks_to_more_than_may_be_read(self):
        path = self.folder / "bomb.csv.gz"
        with gzip.open(path, "wb", compresslevel=1) as packed:
            for _ in range(MOST_BYTES // 1_000_000 + 1):
                packed.write(b"1,9.0,1.5\n" * 100_000)
        with self.assertRaisesRegex(CannotRead, "200 MB"):
            examine(path)
        self.assertEqual([p.name for p in self.folder.iterdir()], ["bomb.csv.gz"])

    def test_two_hundred_megabytes_and_a_byte(self):
        path = self.folder / "large.csv"
        with path.open("wb") as file:
            file.truncate(MOST_BYTES + 1)
        with self.assertRaisesRegex(CannotRead, "200 000 001 bytes"):
            examine(path)

    def test_a_nul_by_its_row(self):
        self.refused(GOOD.replace("9,9.0", "9,9\0.0", 1), "NUL", row=11)

    def test_mixed_encodings_by_the_row(self):
        content = ("time_s,volts,amps,note\n" + "0,9.0,1.5,für\n").encode() + "1,9.0,1.5,für\n".encode("cp1252")
        self.refused(content + b"2,9.0,1.5,x\n" * 100, "partly UTF-8", row=3)

    def test_mixed_encodings_far_from_each_other(self):
        content = "time_s,volts,amps,note\n0,9.0,1.5,Gehäuse\n".encode() + b"1,9.0,1.5,x\n" * 100_000
        self.refused(content + b"2,9.0,1.5,\xe4\n" + b"3,9.0,1.5,x\n" * 10, "partly UTF-8", row=100_003)

    def test_mixed_encodings_the_other_way_round(self):
        content = b"time_s,volts,amps,note\n" + "0,9.0,1.5,für\n".encode("cp1252") + "1,9.0,1.5,für\n".encode()
        self.refused(content + b"2,9.0,1.5,x\n" * 100, "partly UTF-8", row=2)

    def test_a_workbook_that_is_none(self):
        self.refused(b"PK\x03\x04" + b"x" * 300, "workbook", name="log.xlsx")

    def test_rows_that_are_no_figures(self):
        text = "time_s,volts,amps\n0,9.0,1.5\n1,9.0,1.5\n" + "".join(f"{t},x,1.5\n" for t in range(2, 50))
        self.refused(text, "“x” is not a figure", row=4)

    def test_a_table_of_words(self):
        self.refused("name,maker\na,b\nc,d\n", "no rows of figures", row=3)

    def test_a_quote_that_never_ends(self):
        self.refused(
            'time_s,volts,amps\n0,9.0,1.5\n1,"9.0,1.5\n' + "x" * 200_000, "a cell has more than 32 767 letters", row=3
        )

    def test_a_file_that_is_not_there(self):
        with self.assertRaisesRegex(CannotRead, "no such file"):
            examine(self.folder / "none.csv")


class BadCheckInsAndHeat(FolderTest):
    def readings(self, text):
        source = examine(self.file("battery.csv", text))
        return timed_readings(source, understand(source))

    def test_a_hundred_and_forty_percent_by_its_row(self):
        with self.assertRaisesRegex(CannotRead, "battery.csv, row 3: 140 % is not a battery level"):
            self.readings("time_s,percent\n0,5\n600,140\n")

    def test_no_percentage(self):
        with self.assertRaisesRegex(CannotRead, "no column of it is a percentage"):
            self.readings("time_s,volts,amps\n0,9,1\n1,9,1\n")

    def test_an_impossible_temperature(self):
        source = examine(self.file("heat.csv", "time_s,position,celsius\n0,back,25\n30,back,900\n"))
        meter = examine(self.file("meter.csv", GOOD))
        with self.assertRaisesRegex(CannotRead, "heat.csv, row 3: 900 °C"):
            put_together(meter_log(meter, understand(meter)), heat=temperatures(source, understand(source)))

    def test_typed_lines_are_refused_by_their_line(self):
        for text, row, words in (
            ("0 5\nfifteen 22", 2, "“fifteen 22” is not a check-in"),
            ("15 140", 1, "140 %"),
            ("15 -3", 1, "-3 %"),
            ("\n0:75 22", 2, "more than 59 minutes"),
            ("15", 1, "h:mm"),
        ):
            with self.subTest(text), self.assertRaises(CannotRead) as caught:
                typed_checkins(text)
            self.assertEqual(caught.exception.row, row)
            self.assertIn(words, str(caught.exception))

    def test_typed_lines_that_are_understood(self):
        typed = typed_checkins("0 5\n15 22\n0:30 33 %\n1h05\t60\n1:30:30 ; 84\n\n100,5 90\n110=95")
        self.assertEqual(typed, [(0, 5), (15, 22), (30, 33), (65, 60), (90.5, 84), (100.5, 90), (110, 95)])


class BadCases(FolderTest):
    def refused(self, document, words):
        with self.assertRaises(CannotRead) as caught:
            read_case(self.file("case.json", document)).conditions()
        self.assertIn(words, str(caught.exception))

    def test_negative_capacity(self):
        self.refused('{"capacity_mah": -4400, "nominal_v": 3.87}', "capacity_mah (-4400) is refused")

    def test_capacity_without_a_voltage(self):
        self.refused('{"capacity_mah": 4400}', "give both, mAh and V")

    def test_no_json(self):
        self.refused('{"capacity_mah": 4400,}', "not JSON")
        self.refused("[1, 2]", "refused")

    def test_not_a_number(self):
        self.refused('{"capacity_mah": NaN, "nominal_v": 3.87}', "refused")
        self.refused('{"placed_s": Infinity}', "refused")

    def test_unknown_keys_are_ignored(self):
        case = read_case(self.file("case.json", '{"name": "x", "capacity_mah": 4400, "nominal_v": 3.87}'))
        self.assertEqual(case.conditions().battery.capacity_mah, 4400)


class Labels(FolderTest):
    def test_what_a_spreadsheet_or_a_browser_would_run_is_refused(self):
        for text in (
            "=1+1",
            "+cmd",
            "-2+3",
            "@SUM(A1)",
            "<script>alert(1)</script>",
            "<img src=x>",
            "a\x00b",
            "x" * 121,
        ):
            with self.subTest(text[:20]), self.assertRaises(CannotRead) as caught:
                label(text)
            self.assertTrue(caught.exception.mend)

    def test_what_people_write_is_kept(self):
        for text in ("Disc 15 · 20 W", "5 < 10 W", "Ring (own) – still air", "100 % – ½", "Löss & Söhne"):
            self.assertEqual(label(f" {text} "), text)


class Fuzz(FolderTest):
    @settings(max_examples=150, deadline=None, suppress_health_check=list(HealthCheck))
    @given(st.binary(max_size=400) | st.text("0123456789,;.\t\n:-TZVAmWs%\"' \x00é=", max_size=400).map(str.encode))
    def test_any_bytes_are_read_or_refused_in_words(self, content):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "any.csv"
            path.write_bytes(content)
            try:
                source = examine(path)
                put_together(meter_log(source, understand(source)))
            except CannotRead as error:
                self.assertTrue(error.what and error.mend)
