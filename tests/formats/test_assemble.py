"""A run from its parts: files, what each gives, check-ins typed or pasted; and the tables that go out again."""

import csv
import datetime as dt
import io
import json
import unittest
import zipfile
from dataclasses import replace
from zoneinfo import ZoneInfo

import openpyxl

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.log import zone_named
from jaunecharge.core.log.clock import ClockKind
from jaunecharge.core.log.phone_reports import besides
from jaunecharge.core.reading.along_chain import along_chain
from jaunecharge.core.reading.read_run import Conditions, RunLog, read_run
from jaunecharge.core.report.sentences import sentences
from jaunecharge.documents.case import Case
from jaunecharge.documents.run_summary import RunSummary
from jaunecharge.formats.read.assemble import Part, assemble, clocks_asked, pasted_readings
from jaunecharge.formats.read.source import examine
from jaunecharge.formats.read.understanding import understand
from jaunecharge.formats.write.csv_xlsx import csv_text, xlsx_bytes
from jaunecharge.formats.write.folder import run_archive
from jaunecharge.formats.write.report import document
from tests.cases import FolderTest, checkins, reading, steps

METER = "time_s,volts,amps\n" + "".join(f"{t},9.0,{1.5 if t >= 60 else 0.05}\n" for t in range(4000))
BATTERY = "time_s,percent\n60,10\n1260,30\n3660,70\n"
HEAT = "time_s,position,celsius\n0,back,25\n1800,back,36\n0,room,24\n3600,room,25\n"


class Assembling(FolderTest):
    def part(self, name, content, *roles):
        source = examine(self.file(name, content))
        return Part(source, understand(source), roles)

    def test_one_table_of_everything_read_by_hand(self):
        rows = [(m, min(100, 10 + m), 15.2 if m < 60 else 6.1, 25 + min(12, m / 5), "") for m in range(0, 100, 5)]
        table = "min\tback °C\tnote\tbattery %\tW\n" + "".join(f"{m}\t{c}\t{n}\t{p}\t{w}\n" for m, p, w, c, n in rows)
        found = assemble([self.part("pasted table.tsv", table, "meter", "checkins", "heat")]).log
        self.assertTrue(found.trace.sparse)
        self.assertEqual(found.readings.percent[:3].tolist(), [10, 15, 20])
        self.assertEqual(found.heat.surfaces[0].position, "back")
        reading = read_run(found, Conditions())
        self.assertEqual((reading.judged.dips, reading.judged.phases), ((), ()))
        self.assertAlmostEqual(
            reading.energy_in.bridged.value, 15.2 * 55 / 60 + 6.1 * 35 / 60 + 10.65 * 5 / 60, places=1
        )
        self.assertGreater(reading.energy_in.bridged.expanded, 0.05)

    def test_a_plugs_log_beside_the_meters_lies_where_its_times_say(self):
        at = dt.datetime(2027, 3, 1, 8, 0, tzinfo=dt.UTC)
        dated = "time,volts,amps\n" + "".join(
            f"{(at + dt.timedelta(seconds=t)).isoformat()},9.0,{1.5 if t >= 60 else 0.05}\n" for t in range(4000)
        )
        # Switched on two minutes before the meter, it reads every ten seconds.
        plug = "time,watts\n" + "".join(
            f"{(at + dt.timedelta(seconds=t)).isoformat()},{18.0 if t >= 60 else 0.6}\n" for t in range(-120, 4000, 10)
        )
        for meter, log, remarks in ((dated, plug, 0), (METER, "seconds,watts\n0,0.6\n60,18\n120,18\n3990,18\n", 1)):
            with self.subTest(remarks=remarks):
                found = assemble([self.part("m.csv", meter, "meter"), self.part("p.csv", log, "socket"),
                                  self.part("b.csv", BATTERY, "checkins")])  # fmt: skip
                self.assertEqual(found.log.socket.start_s, -120.0 if not remarks else 0.0)
                self.assertEqual(len([r for r in found.remarks if "begin with the log beside it" in r]), remarks)
        share = along_chain(read_run(assemble([
            self.part("m.csv", dated, "meter"), self.part("p.csv", plug, "socket"),
        ]).log, Conditions())).passage("socket", "meter").share  # fmt: skip
        self.assertAlmostEqual(share.value, 0.75, places=2)

    def test_a_plugs_log_and_percentages_without_a_meter(self):
        plug = "time_s,watts\n" + "".join(f"{t},18\n" for t in range(0, 3700, 10))
        found = assemble([self.part("p.csv", plug, "socket"), self.part("b.csv", BATTERY, "checkins")])
        self.assertEqual((found.log.trace.metered, found.log.socket.end_s), (False, 3690.0))
        alone = [self.part("p.csv", plug, "socket")]
        with self.assertRaisesRegex(CannotRead, "nothing in it to read"):
            assemble(alone)
        with self.assertRaisesRegex(CannotRead, "whose clock"):
            assemble(alone, "0 10\n20 30\n60 70", ClockKind.AFTER_PLACING)

    def test_a_table_without_headings(self):
        rows = "".join(f"{m}\t{min(100, 10 + m)}\t{15.2 - m / 20}\n" for m in range(0, 90, 5))
        understood = understand(examine(self.file("bare.tsv", rows)))
        self.assertEqual([c.quantity for c in understood.columns], ["time", "percent", "ignore"])
        self.assertEqual(understood.gives, ("checkins",))

    def test_files_and_typed_check_ins(self):
        found = assemble([self.part("m.csv", METER, "meter")], "0 10\n20 30")
        self.assertEqual(found.log.readings.time_s.tolist(), [60, 1260])
        self.assertIsNone(found.started_at)

    LATE = "time_s,volts,amps\n" + "".join(f"{t},9.0,{1.5 if t >= 900 else 0.05}\n" for t in range(5000))

    def test_whose_clock_a_file_is_on_is_guessed_said_and_obeyed(self):
        meter = self.part("m.csv", self.LATE, "meter")
        battery = "min,percent\n0,10\n20,30\n60,70\n"
        heat = "min,position,celsius\n20,back,30\n40,back,36\n"
        found = assemble([meter, self.part("b.csv", battery, "checkins"), self.part("h.csv", heat, "heat")])
        self.assertEqual(found.log.readings.time_s.tolist(), [900, 2100, 4500])
        self.assertEqual(found.log.heat.surfaces[0].time_s.tolist(), [1200, 2400])
        self.assertIn(
            "Times of b.csv are taken to count from the placing: on the log's clock the first would", found.remarks[0]
        )
        self.assertIn("Times of h.csv are taken to be on the meter's clock, which nobody said", found.remarks[1])
        stated = [replace(self.part(n, c, r), whose=w) for n, c, r, w in (
            ("b.csv", battery, "checkins", "log"), ("h.csv", heat, "heat", "placing"))]  # fmt: skip
        found = assemble([meter, *stated])
        self.assertEqual(found.log.readings.time_s.tolist(), [0, 1200, 3600])
        self.assertEqual(found.log.heat.surfaces[0].time_s.tolist(), [2100, 3300])
        self.assertEqual(found.remarks, ())
        asked = dict(clocks_asked([meter, *(replace(p, whose=None) for p in stated)]))
        self.assertEqual({n: g.whose for n, g in asked.items()}, {1: "placing", 2: None})

    def test_times_that_carry_their_clock_are_not_asked_about(self):
        meter = self.part("m.csv", self.LATE, "meter")
        self.assertEqual(clocks_asked([meter]), [])
        self.assertEqual(clocks_asked([self.part("b.csv", BATTERY, "checkins")]), [])

    def test_temperatures_typed_and_pasted(self):
        meter = self.part("m.csv", METER, "meter")
        found = assemble([meter], heat="0 24c\n10 98.4f\n20 36.5 pad\n0:30 41,2c thermal camera max")
        self.assertEqual([s.position for s in found.log.heat.surfaces], ["back", "pad", "thermal camera max"])
        back = found.log.heat.surfaces[0]
        self.assertEqual(back.time_s.tolist(), [60, 660])
        self.assertAlmostEqual(back.celsius[1], 36.889, places=3)
        self.assertEqual(found.log.heat.phone().position, "thermal camera max")
        american = assemble([meter], heat="10 98.4", in_fahrenheit=True)
        self.assertAlmostEqual(american.log.heat.surfaces[0].celsius[0], 36.889, places=3)
        pasted = assemble([meter], heat="seconds\tback °C\troom °C\n60\t25\t23\n660\t31\t23.5")
        self.assertEqual(pasted.log.heat.surfaces[0].time_s.tolist(), [60, 660])
        for wrong, why in (
            ("10", "is not a temperature"),
            ("10 900c", "cannot be"),
            ("10 36 ; x\n1:77 30", "59 minutes"),
        ):
            with self.subTest(wrong), self.assertRaisesRegex(CannotRead, why):
                assemble([meter], heat=wrong)

    def test_watts_as_the_phone_reports_them_are_kept_apart(self):
        meter = self.part("m.csv", METER, "meter")
        phone = self.part(
            "p.csv",
            "time_s,Battery power (W),Battery (%)\n60,-9.1,10\n660,-9.3,20\n1260,-8.8,30\n",
            "phone",
            "checkins",
        )
        self.assertEqual(phone.understood.gives, ("checkins", "phone"))
        found = assemble([meter, phone]).log
        self.assertEqual(found.besides.watts.tolist(), [9.1, 9.3, 8.8])
        self.assertEqual(found.trace.power_w.max(), 13.5)
        said = {s.key: s.plain for s in sentences(read_run(found))}
        self.assertEqual(said["phone_watts"], "The phone itself reports 9.3 W at most, 9.1 W on average")

    def test_three_files_on_one_clock(self):
        parts = [
            self.part("m.csv", METER, "meter"),
            self.part("b.csv", BATTERY, "checkins"),
            self.part("h.csv", HEAT, "heat"),
        ]
        log = assemble(parts).log
        self.assertEqual(log.readings.percent.tolist(), [10, 30, 70])
        self.assertEqual([s.position for s in log.heat.surfaces], ["back"])
        self.assertEqual(log.heat.ambient.celsius.tolist(), [24, 25])

    def test_a_file_of_check_ins_can_count_from_the_placing(self):
        parts = [self.part("m.csv", METER, "meter"), self.part("b.csv", BATTERY, "checkins")]
        log = assemble(parts, reference=ClockKind.AFTER_PLACING).log
        self.assertEqual(log.readings.time_s.tolist(), [120, 1320, 3720])

    def test_a_placing_that_is_given_is_where_typed_check_ins_begin(self):
        found = assemble([self.part("m.csv", METER, "meter")], "0 10\n20 30", case=Case(placed_s=100.0))
        self.assertEqual(found.log.readings.time_s.tolist(), [100, 1300])

    def test_when_a_dated_log_began(self):
        meter = "time,volts,amps\n" + "".join(f"2027-07-01 08:{t // 60:02}:{t % 60:02},9,1.5\n" for t in range(600))
        found = assemble([self.part("m.csv", meter, "meter")], zone=ZoneInfo("Europe/Zurich"))
        self.assertEqual(found.started_at, dt.datetime(2027, 7, 1, 6, tzinfo=dt.UTC))

    def test_what_does_not_fit_together_is_refused(self):
        meter, battery = self.part("m.csv", METER, "meter"), self.part("b.csv", BATTERY, "checkins")
        for parts, text, words in (
            ([], "", "nothing in it to read"),
            ([meter, self.part("m2.csv", METER, "meter")], "", "two files give the meter"),
            ([meter, battery], "0 10", "typed and come in a file"),
            ([meter], "0 10\nlater 20", "check-ins, row 2"),
            ([self.part("b.csv", BATTERY, "meter")], "", "no watts in it"),
        ):
            with self.subTest(words), self.assertRaises(CannotRead) as caught:
                assemble(parts, text)
            self.assertIn(words, str(caught.exception))

    def test_an_unknown_zone_is_refused(self):
        for name in ("Nowhere/Here", "../etc/passwd", "", "x" * 300):
            with self.subTest(name[:20]), self.assertRaisesRegex(CannotRead, "no time zone"):
                zone_named(name)


class Pasting(unittest.TestCase):
    def test_minutes_under_a_heading_count_from_the_placing(self):
        for text in ("min\t%\n0\t10\n10\t18", "Minute;Akku\n0;10\n10;18", "minutes,percent\n0,10\n10,18"):
            with self.subTest(text):
                found = pasted_readings(text)
                self.assertEqual(found.clock.kind, ClockKind.AFTER_PLACING)
                self.assertEqual(found.clock.seconds.tolist(), [0, 600])

    def test_seconds_and_clocks_under_a_heading_run_on_the_logs_clock(self):
        self.assertEqual(pasted_readings("time_s\tpercent\n60\t10\n660\t18").clock.kind, ClockKind.ELAPSED)
        self.assertEqual(
            pasted_readings("clock\tpercent\n14:05:00\t10\n14:15:00\t18").clock.kind, ClockKind.TIME_OF_DAY
        )
        dated = pasted_readings("2027-03-01 14:05:00\t10\n2027-03-01 14:15:00\t18")
        self.assertEqual(dated.clock.kind, ClockKind.ABSOLUTE)

    def test_the_reference_can_be_overruled_both_ways(self):
        on_log = pasted_readings("0 10\n10 18", ClockKind.ELAPSED)
        self.assertEqual((on_log.clock.kind, on_log.clock.seconds[1]), (ClockKind.ELAPSED, 600))
        placed = pasted_readings("time_s\tpercent\n60\t10\n660\t18", ClockKind.AFTER_PLACING)
        self.assertEqual((placed.clock.kind, placed.clock.seconds[0]), (ClockKind.AFTER_PLACING, 60))

    def test_a_wrong_cell_is_named_by_its_row(self):
        with self.assertRaisesRegex(CannotRead, "check-ins, row 3: 140 %"):
            pasted_readings("min\t%\n0\t10\n10\t140")


class GoingOut(FolderTest):
    def read(self):
        return reading(steps((60, 0.5), (3600, 12.0)), checkins((1, 10), (31, 50), (61, 85)))

    def test_text_that_a_spreadsheet_would_run_is_made_text(self):
        cells = ["=1+1", "+1", "-1", "@x", "\tx", "plain", -1.5, None]
        row = next(csv.reader(io.StringIO(csv_text(["a"] * 8, [cells]).splitlines()[1])))
        self.assertEqual(row, ["'=1+1", "'+1", "'-1", "'@x", "'\tx", "plain", "-1.5", ""])

    def test_a_workbook_holds_formulas_and_addresses_as_text(self):
        book = openpyxl.load_workbook(
            io.BytesIO(xlsx_bytes(["a", "b"], [["=1+1", "http://127.0.0.1/"], [2.5, None]], "s"))
        )
        cells = [book.active["A2"], book.active["B2"], book.active["A3"]]
        self.assertEqual(
            [(c.data_type, c.value) for c in cells], [("s", "=1+1"), ("s", "http://127.0.0.1/"), ("n", 2.5)]
        )
        self.assertIsNone(cells[1].hyperlink)

    def test_an_exported_run_reads_the_same(self):
        run = self.read()
        archive = zipfile.ZipFile(io.BytesIO(run_archive(run, {"capacity_mah": 4400, "nominal_v": 3.87})))
        archive.extractall(self.folder)
        parts = []
        for name, role in (("meter.csv", "meter"), ("battery.csv", "checkins")):
            source = examine(self.folder / name)
            parts.append(Part(source, understand(source), (role,)))
        again = read_run(
            assemble(parts).log, Case.model_validate_json((self.folder / "case.json").read_text()).conditions()
        )
        self.assertEqual(document(again), document(run))

    def test_the_document_is_plain_json(self):
        found = json.loads(json.dumps(document(self.read()), allow_nan=False))
        last = found["milestones"][-1]
        self.assertEqual((last["percent"], last["earliest"], last["latest"]), (80, 30.0, 60.0))
        self.assertTrue(30 < last["estimate"] <= 60)
        self.assertEqual(found["efficiency_window"], [10, 85])
        self.assertAlmostEqual(found["efficiency"]["value"], 0.75 * 4.4 * 3.87 / 12.0, places=3)

    def test_the_summary_is_plain_json_with_holes_as_null(self):
        run = self.read()
        found = json.loads(json.dumps(RunSummary.of(run).kept(), allow_nan=False))
        self.assertEqual(len(found["ribbon"]["watts"]), 300)
        self.assertIsNone(found["hottest_c"])


class GoesOut(unittest.TestCase):
    def test_the_charger_s_light_goes_out_as_it_was_logged(self):
        told = besides([], [(300.0, False), (120.0, True)])
        made = run_archive(read_run(RunLog(steps((60, 0.5), (600, 15.0)), besides=told), Conditions()), {})
        rows = zipfile.ZipFile(io.BytesIO(made)).read("light.csv").decode().splitlines()
        self.assertEqual(rows, ["time_s,charger's light", "120.0,on", "300.0,off"])
