"""Meter logs as meters and spreadsheets write them."""

import datetime as dt
import gzip
from zoneinfo import ZoneInfo

import numpy as np
import openpyxl

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.log.clock import ClockKind
from jaunecharge.formats.read import columns as tables
from jaunecharge.formats.read.cells import TimeForm
from jaunecharge.formats.read.logs import meter_log, put_together, readings_after_placing, temperatures, timed_readings
from jaunecharge.formats.read.source import examine
from jaunecharge.formats.read.understanding import Choice, understand
from tests.cases import FolderTest

SECONDS = range(0, 300)


def rows(line, seconds=SECONDS, sep="\n"):
    return sep.join(line(t) for t in seconds) + sep


class MeterFileTest(FolderTest):
    def log(self, content, name="meter.csv", choice=Choice(), zone=None):
        source = examine(self.file(name, content))
        understood = understand(source, choice)
        return understood, meter_log(source, understood, zone)

    def reads(self, content, power=13.5, last_s=299.0, **more):
        understood, log = self.log(content, **more)
        found = put_together(log).trace
        self.assertAlmostEqual(float(np.median(found.power_w)), power, places=3)
        self.assertAlmostEqual(found.end_s - found.start_s, last_s, places=3)
        return understood, log


class Layouts(MeterFileTest):
    def test_canonical(self):
        self.reads("time_s,volts,amps\n" + rows(lambda t: f"{t},9.0,1.5"))

    def test_semicolons_decimal_comma_and_a_bom(self):
        text = "\ufeffZeit;Spannung [V];Strom [mA]\r\n" + rows(lambda t: f"0:0{t // 60}:{t % 60:02};9,000;1500,0")
        understood, _ = self.reads(text)
        self.assertTrue(understood.comma)

    def test_tabs_with_dots(self):
        self.reads("Time (s)\tVoltage (V)\tCurrent (A)\n" + rows(lambda t: f"{t}\t9.00\t1.500"))

    def test_quoted_decimal_commas_between_commas(self):
        self.reads("t,U [V],I [A]\n" + rows(lambda t: f'{t},"9,000","1,500"'))

    def test_utf16_as_spreadsheets_save_it(self):
        text = "time_s\tvolts\tamps\n" + rows(lambda t: f"{t}\t9.0\t1.5")
        self.reads(text.encode("utf-16"))

    def test_an_old_encoding_with_a_degree_sign(self):
        text = "time_s,volts,amps,Gehäuse °C\n" + rows(lambda t: f"{t},9.0,1.5,31.0")
        understood, _ = self.reads(text.encode("cp1252"))
        self.assertEqual(understood.of("celsius")[0].unit, "°C")

    def test_gzip(self):
        self.reads(gzip.compress(("time_s,volts,amps\n" + rows(lambda t: f"{t},9.0,1.5")).encode()), name="m.csv.gz")

    def test_lines_about_the_meter_above_the_headings(self):
        head = "USB meter log\nexported,2027-03-01\n\ntime_s,volts,amps\n"
        self.reads(head + rows(lambda t: f"{t},9.0,1.5"))

    def test_a_row_of_units_under_the_headings(self):
        understood, _ = self.reads("Time,Voltage,Current\ns,V,mA\n" + rows(lambda t: f"{t},9.0,1500"))
        self.assertEqual(understood.of("amps")[0].unit, "mA")

    def test_no_headings_at_all(self):
        understood, _ = self.reads(rows(lambda t: f"{t},9.0,1.5"))
        self.assertEqual([c.quantity for c in understood.columns], ["time", "volts", "amps"])

    def test_units_written_in_the_cells(self):
        self.reads("time,voltage,current\n" + rows(lambda t: f"{t},9.00 V,1500 mA"))

    def test_the_data_lines_of_the_plug_are_left_out(self):
        text = "Time(s),Voltage(V),Current(A),D+(V),D-(V)\n" + rows(lambda t: f"{t},9.0,1.5,0.6,0.6")
        understood, _ = self.reads(text)
        self.assertEqual([c.quantity for c in understood.columns[3:]], ["ignore", "ignore"])

    def test_a_sheet_of_a_workbook(self):
        book = openpyxl.Workbook()
        book.active.title = "notes"
        book.active.append(["what this is", "a log", 3])
        page = book.create_sheet("log")
        page.append(["Time", "Voltage [V]", "Current [A]"])
        for t in SECONDS:
            page.append([dt.time(0, t // 60, t % 60), 9.0, 1.5])
        path = self.folder / "log.xlsx"
        book.save(path)
        source = examine(path)
        understood = understand(source, Choice(sheet="log"))
        self.assertEqual(understood.layout.sheets, ("notes", "log"))
        trace = put_together(meter_log(source, understood)).trace
        self.assertEqual((trace.end_s, trace.power_w[0]), (299.0, 13.5))


class Quantities(MeterFileTest):
    def test_watts_alone(self):
        _, log = self.reads("time_s,power_w\n" + rows(lambda t: f"{t},13.5"))
        self.assertIsNone(log.volts)

    def test_milliwatts(self):
        self.reads("time_s,Leistung [mW]\n" + rows(lambda t: f"{t},13500"))

    def test_an_energy_counter_alone(self):
        self.reads("time_s,Energy [Wh]\n" + rows(lambda t: f"{t},{13.5 * t / 3600:.9f}"))

    def test_milliamps_without_a_unit_are_seen_by_their_size(self):
        understood, _ = self.reads("time_s,vbus,ibus\n" + rows(lambda t: f"{t},9000,1500"))
        self.assertEqual([c.unit for c in understood.columns[1:]], ["mV", "mA"])

    def test_a_meter_the_other_way_round_is_turned_and_said(self):
        _, log = self.reads("time_s,volts,amps\n" + rows(lambda t: f"{t},9.0,-1.5"))
        self.assertIn("other way round", log.remarks[0])

    def test_watts_that_contradict_volts_and_amps_are_said(self):
        _, log = self.reads("time_s,volts,amps,watts\n" + rows(lambda t: f"{t},9.0,1.5,12.0"))
        self.assertIn("volts × amps are used", log.remarks[0])

    def test_an_overload_cell_is_left_out_and_said(self):
        _, log = self.reads("time_s,volts,amps\n" + rows(lambda t: f"{t},9.0,{'OL' if t == 7 else 1.5}"))
        self.assertIn("row 9", log.remarks[0])

    def test_fast_and_careful_reading_agree(self):
        text = "time_s;volts;amps\n" + rows(lambda t: f"{t + 0.25};{9 + t / 1000:.4f};{1.5 - t / 3000:.4f}")
        source = examine(self.file("m.csv", text.replace(".", ",")))
        understood = understand(source)
        wanted = [c for c in understood.columns if c.quantity != "time"]
        arguments = (source, understood, understood.of("time")[0], wanted, tables.no_progress)
        fast, careful = tables._fast(*arguments), tables._careful(*arguments)
        self.assertIsNotNone(fast)
        np.testing.assert_allclose(fast[0], careful[0])
        np.testing.assert_allclose(fast[1], careful[1])
        np.testing.assert_array_equal(fast[3], careful[3])


class TimeForms(MeterFileTest):
    def form(self, heading, cell, form, seconds=SECONDS, **more):
        understood, log = self.reads(f"{heading},volts,amps\n" + rows(lambda t: f"{cell(t)},9.0,1.5", seconds), **more)
        self.assertEqual(understood.time_form, form)
        return log

    def test_seconds(self):
        self.form("time", str, TimeForm.SECONDS)

    def test_minutes_by_heading(self):
        self.form("t [min]", lambda t: f"{t / 60:.7f}", TimeForm.MINUTES)

    def test_minutes_without_a_unit(self):
        self.form("time", lambda t: f"{t / 60:.7f}", TimeForm.MINUTES)

    def test_milliseconds_by_heading_and_by_size(self):
        self.form("time_ms", lambda t: t * 1000, TimeForm.MILLISECONDS)
        self.form("time", lambda t: t * 1000, TimeForm.MILLISECONDS)

    def test_hours_minutes_seconds(self):
        log = self.form("time", lambda t: f"00:{t // 60:02}:{t % 60:02}", TimeForm.CLOCK)
        self.assertEqual(log.clock.kind, ClockKind.TIME_OF_DAY)

    def test_over_midnight(self):
        self.form("clock", lambda t: f"{(23 * 3600 + 3480 + t) // 3600 % 24:02}:{(3480 + t) // 60 % 60:02}:{t % 60:02}",
                  TimeForm.CLOCK)  # fmt: skip

    def test_epoch_in_seconds_and_milliseconds(self):
        self.form("timestamp", lambda t: 1_790_000_000 + t, TimeForm.EPOCH_SECONDS)
        self.form("timestamp", lambda t: 1_790_000_000_000 + t * 1000, TimeForm.EPOCH_MILLISECONDS)

    def test_iso_with_offset_and_with_z(self):
        start = dt.datetime(2027, 3, 1, 23, 58, tzinfo=dt.UTC)
        at = lambda t: start + dt.timedelta(seconds=t)  # noqa: E731
        self.form("time", lambda t: at(t).isoformat(), TimeForm.DATED)
        log = self.form("time", lambda t: at(t).strftime("%Y-%m-%dT%H:%M:%SZ"), TimeForm.DATED)
        self.assertEqual(log.clock.seconds[0], start.timestamp())

    def test_day_month_year_with_dots(self):
        start = dt.datetime(2027, 3, 1, 23, 58)
        self.form("Datum", lambda t: (start + dt.timedelta(seconds=t)).strftime("%d.%m.%Y %H:%M:%S"), TimeForm.DATED)

    def test_a_clock_change_in_a_known_zone(self):
        zone = ZoneInfo("Europe/Zurich")
        start = dt.datetime(2027, 10, 31, 0, 50, tzinfo=dt.UTC)
        cell = lambda t: (start + dt.timedelta(seconds=60 * t)).astimezone(zone).strftime("%Y-%m-%d %H:%M:%S")  # noqa: E731
        text = "time,volts,amps\n" + rows(lambda t: f"{cell(t)},9.0,1.5", range(120))
        _, log = self.log(text, zone=zone)
        self.assertEqual(set(np.diff(log.clock.seconds)), {60.0})
        self.assertEqual(log.clock.seconds[0], start.timestamp())

    def test_a_clock_change_without_a_zone_is_mended_and_said(self):
        cell = lambda t: f"{2 + (50 + t) // 60 - (50 + t >= 60)}:{(50 + t) % 60:02}:00"  # noqa: E731
        _, log = self.log("time,volts,amps\n" + rows(lambda t: f"{cell(t)},9.0,1.5", range(65)))
        self.assertEqual(set(np.diff(log.clock.seconds)), {60.0})
        self.assertIn("clock went back", log.remarks[0])

    def test_a_date_beside_a_clock(self):
        text = "date,time,volts,amps\n" + rows(lambda t: f"2027-03-01,10:0{t // 60}:{t % 60:02},9.0,1.5")
        understood, _ = self.reads(text)
        self.assertEqual([c.quantity for c in understood.columns], ["ignore", "time", "volts", "amps"])

    def test_another_form_can_be_chosen(self):
        text = "time,volts,amps\n" + rows(lambda t: f"{t // 60:02}:{t % 60:02},9.0,1.5")
        _, log = self.log(text, choice=Choice(time_form=TimeForm.MINUTE_CLOCK))
        self.assertEqual(log.clock.seconds[-1], 299)


class Choices(MeterFileTest):
    TEXT = "time_s,x,y\n" + rows(lambda t: f"{t},9.0,1500")

    def test_a_column_is_put_right(self):
        choice = Choice(columns={1: ("volts", "V"), 2: ("amps", "mA")})
        self.reads(self.TEXT, choice=choice)

    def test_what_is_unknown_is_a_problem_said_in_words(self):
        understood = understand(examine(self.file("m.csv", self.TEXT)))
        self.assertIn("no column looks like volts", understood.problems[0])

    def test_an_unknown_unit_is_refused(self):
        with self.assertRaisesRegex(CannotRead, "no unit of volts"):
            understand(examine(self.file("m.csv", self.TEXT)), Choice(columns={1: ("volts", "mA")}))


class OneClock(MeterFileTest):
    METER = "time,volts,amps\n" + rows(lambda t: f"{t},9.0,{1.5 if t >= 60 else 0.05}")

    def together(self, meter, battery=None, heat=None, zone=None):
        _, log = self.log(meter, zone=zone)
        found = {}
        for kind, text, read in (("battery", battery, timed_readings), ("heat", heat, temperatures)):
            if text:
                source = examine(self.file(f"{kind}.csv", text))
                found[kind] = read(source, understand(source), zone)
        return put_together(log, found.get("battery"), found.get("heat"))

    def test_seconds_beside_an_absolute_meter_count_from_its_first_row(self):
        meter = "timestamp_ms,volts,amps\n" + rows(lambda t: f"{1790000000000 + t * 1000},9.0,1.5")
        log = self.together(meter, "time_s,percent\n60,5\n200,7\n", "time_s,position,celsius\n0,back,25\n100,back,26\n")
        self.assertEqual(log.readings.time_s.tolist(), [60, 200])
        self.assertEqual(log.trace.start_s, 0)
        self.assertEqual(log.heat.surfaces[0].time_s.tolist(), [0, 100])

    def test_seconds_beside_a_time_of_day_count_from_its_first_row(self):
        meter = "time,volts,amps\n" + rows(lambda t: f"14:0{3 + t // 60}:{t % 60:02},9.0,1.5")
        log = self.together(meter, "time_s,percent\n60,5\n200,7\n")
        self.assertEqual((log.trace.start_s, log.readings.time_s.tolist()), (0, [60, 200]))

    def test_times_of_day_beside_a_dated_meter(self):
        meter = "time,volts,amps\n" + rows(lambda t: f"2027-03-01T23:5{8 + t // 60}:{t % 60:02},9.0,1.5", range(120))
        log = self.together(meter, "time,percent\n23:58:30,5\n23:59:30,7\n")
        self.assertEqual(log.readings.time_s.tolist(), [30, 90])

    def test_times_of_day_after_midnight_beside_an_evening_meter(self):
        clock = lambda t: f"{(86340 + t) // 3600 % 24:02}:{(86340 + t) // 60 % 60:02}:{t % 60:02}"  # noqa: E731
        log = self.together(
            "time,volts,amps\n" + rows(lambda t: f"{clock(t)},9.0,1.5"), "t,%\n00:01:00,5\n00:02:00,6\n"
        )
        self.assertEqual((log.readings.time_s - log.trace.start_s).tolist(), [120, 180])

    def test_dates_beside_a_meter_without_them_are_refused(self):
        with self.assertRaisesRegex(CannotRead, "carries dates"):
            self.together(self.METER, "time,percent\n2027-03-01T10:00:00,5\n2027-03-01T10:01:00,6\n")

    def test_typed_check_ins_count_from_the_placing(self):
        _, log = self.log(self.METER)
        found = put_together(log, readings_after_placing([(0, 5), (2, 9)]))
        self.assertEqual(found.readings.time_s.tolist(), [60, 180])

    def test_one_table_can_hold_watts_percent_and_heat(self):
        text = "minute,watts,battery %,back °C,room °C\n" + rows(
            lambda t: f"{t},13.5,{5 + t if t % 5 == 0 else ''},{30 + t / 10},25", range(60)
        )
        source = examine(self.file("all.csv", text))
        understood = understand(source)
        self.assertEqual(understood.gives, ("meter", "checkins", "heat"))
        log = put_together(
            meter_log(source, understood), timed_readings(source, understood), temperatures(source, understood)
        )
        self.assertEqual(len(log.readings), 12)
        self.assertEqual([s.position for s in log.heat.surfaces], ["back"])
        self.assertEqual(log.heat.ambient.celsius[0], 25)

    def test_fahrenheit_is_turned(self):
        source = examine(self.file("h.csv", "time_s,back [°F]\n0,77\n60,104\n"))
        self.assertAlmostEqual(temperatures(source, understand(source)).celsius[1], 40.0)
