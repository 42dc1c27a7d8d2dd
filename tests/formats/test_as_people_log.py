"""Logs as meters and spreadsheets write them: clocks of twelve hours, days beside times, clocks that start anew,
counters, units that change, headings again, summaries at the end.
"""

import datetime as dt

import numpy as np

from jaunecharge.core.errors import CannotRead
from jaunecharge.formats.read.assemble import Part, assemble
from jaunecharge.formats.read.cells import clock_seconds, is_dated, moment
from jaunecharge.formats.read.logs import meter_log
from jaunecharge.formats.read.source import examine
from jaunecharge.formats.read.understanding import understand
from tests.cases import FolderTest


class AsPeopleLog(FolderTest):
    def log(self, text):
        source = examine(self.file("log.csv", text))
        return meter_log(source, understand(source))

    def test_twelve_hours(self):
        rows = "".join(
            f"{(11 + (50 + m) // 60 - 1) % 12 + 1}:{(50 + m) % 60:02d}:00 {'AM' if m < 10 else 'PM'},9,1.5\n"
            for m in range(90)
        )
        log = self.log("time,volts,amps\n" + rows)
        self.assertEqual(np.diff(log.clock.seconds).tolist(), [60.0] * 89)
        self.assertEqual(clock_seconds("12:05 am"), 300)
        for wrong in ("0:05 am", "13:05 pm"):
            with self.subTest(wrong), self.assertRaises(ValueError):
                clock_seconds(wrong)

    def test_days_with_slashes_where_the_month_is_clear(self):
        self.assertEqual(moment("2/29/2028 2:05:30 pm"), dt.datetime(2028, 2, 29, 14, 5, 30))
        self.assertEqual(moment("29/02/2028 14:05"), dt.datetime(2028, 2, 29, 14, 5))
        self.assertEqual(moment("2028-02-29 02:05 PM"), dt.datetime(2028, 2, 29, 14, 5))
        for unclear in ("03/04/2027 14:05", "2/30/2028 2:05 pm", "29/02/2027 14:05"):
            self.assertFalse(is_dated(unclear), unclear)

    def test_the_day_stands_in_a_column_of_its_own(self):
        for day, form in (("2027-03-01", "%Y-%m-%d"), ("01.03.2027", "%d.%m.%Y")):
            start = dt.datetime(2027, 3, 1, 23, 58)
            moments = [start + dt.timedelta(seconds=10 * i) for i in range(40)]
            rows = "".join(f"{m.strftime(form)},{m.strftime('%H:%M:%S')},9.0,1.5\n" for m in moments)
            with self.subTest(day):
                source = examine(self.file("two.csv", "date,time,volts,amps\n" + rows))
                found = assemble([Part(source, understand(source), ("meter",))])
                self.assertEqual(found.started_at, dt.datetime(2027, 3, 1, 23, 58, tzinfo=dt.UTC))
                self.assertEqual(found.log.trace.end_s, 390)

    def test_a_clock_that_went_back_to_zero_runs_on_and_says_so(self):
        rows = "".join(f"{t},9.0,1.5\n" for t in [*range(0, 1200, 2), *range(0, 900, 2), *range(0, 300, 2)])
        log = self.log("time_s,volts,amps\n" + rows)
        self.assertTrue(np.all(np.diff(log.clock.seconds) == 2.0))
        self.assertIn("went back to 0 2 times", log.remarks[0])

    def test_a_few_rows_out_of_order_are_no_new_start(self):
        times = [*range(100), 50, *range(100, 200)]
        log = self.log("time_s,volts,amps\n" + "".join(f"{t},9.0,1.5\n" for t in times))
        self.assertEqual(log.clock.seconds[100], 50)

    def test_a_counter_of_mah_beside_volts(self):
        rows = "".join(f"{t},9.0,{t * 1500 / 3600:.6f}\n" for t in range(0, 600, 5))
        log = self.log("time_s,volts,capacity_mAh\n" + rows)
        np.testing.assert_allclose(log.watts, 13.5, rtol=1e-4)
        self.assertIn("mAh counter", " ".join(log.remarks))
        with self.assertRaisesRegex(CannotRead, "counter goes back"):
            self.log("time_s,volts,capacity_mAh\n0,9,5\n5,9,3\n10,9,6\n")

    def test_a_unit_that_changes_on_the_way(self):
        rows = "".join(f"{t},9.0 V,{'450 mA' if t < 50 else '1.5 A'}\n" for t in range(100))
        log = self.log("time_s,volts,amps\n" + rows)
        np.testing.assert_allclose(log.watts, [4.05] * 50 + [13.5] * 50)

    def test_headings_again_and_a_summary_at_the_end(self):
        body = "".join(f"{t},9.0,1.5\n" for t in range(60))
        log = self.log(
            "time_s,volts,amps\n"
            + body
            + "time_s,volts,amps\n"
            + "".join(f"{t},9.0,1.5\n" for t in range(60, 120))
            + "average,9.0,1.5\n"
        )
        self.assertEqual(len(log.watts), 120)
        self.assertIn("2 rows could not be read and left out", " ".join(log.remarks))

    def test_flags_and_notes_are_left_out(self):
        log = self.log("time_s,volts,amps,charging,note\n" + "".join(f"{t},9.0,1.5,true,\n" for t in range(60)))
        np.testing.assert_allclose(log.watts, 13.5)

    def test_volts_beside_watts_are_kept(self):
        log = self.log("time_s,watts,volts\n" + "".join(f"{t},13.5,9.0\n" for t in range(0, 600, 5)))
        np.testing.assert_allclose(log.amps, 1.5)
        off = self.log("time_s,watts,volts\n0,0,0\n" + "".join(f"{t},13.5,9.0\n" for t in range(5, 600, 5)))
        self.assertIsNone(off.volts)

    def test_a_log_that_a_phone_writes_itself_is_no_meter(self):
        for headings in (
            "timestamp,level,temperature_C,voltage_mV,current_mA",
            "time,battery level,battery temperature,battery voltage (mV),battery current (mA)",
            "time,level,temp,mV,mA",
        ):
            rows = "".join(
                f"2027-03-01 10:{m:02d}:00,{20 + m},{28 + m / 10},{3900 + m},{m * 5 - 1800}\n" for m in range(60)
            )
            source = examine(self.file("phone.csv", headings + "\n" + rows))
            understood = understand(source)
            with self.subTest(headings):
                self.assertEqual(understood.gives, ("checkins", "heat", "phone"))
                log = assemble([Part(source, understood, understood.gives)]).log
                self.assertFalse(log.trace.metered)
                self.assertAlmostEqual(log.besides.watts[0], 3.9 * 1.8, places=3)
                self.assertEqual(log.readings.percent[0], 20)
        meter = "time,percent,V,A\n" + "".join(f"2027-03-01 10:{m:02d}:00,{20 + m},9.0,1.5\n" for m in range(60))
        source = examine(self.file("meter.csv", meter))
        self.assertEqual(understand(source).gives, ("meter", "checkins"))

    def late_meter(self, check_ins, meter_from="10:30:00", day="2027-03-01 "):
        begin = dt.datetime.fromisoformat(f"2027-03-01 {meter_from}")
        rows = "".join(f"{day}{(begin + dt.timedelta(seconds=10 * i)):%H:%M:%S},9.0,1.5\n" for i in range(300))
        meter = examine(self.file("meter.csv", "time,volts,amps\n" + rows))
        battery = examine(self.file("battery.csv", "time,percent\n" + check_ins))
        return assemble(
            [Part(meter, understand(meter), ("meter",)), Part(battery, understand(battery), ("checkins",))]
        ).log

    def test_a_meter_started_after_the_phone_was_placed(self):
        for day in ("2027-03-01 ", ""):
            with self.subTest(day):
                log = self.late_meter(f"{day}10:00,10\n{day}10:20,24\n{day}10:40,38\n{day}11:10,55\n", day=day)
                self.assertEqual((log.readings.time_s - log.trace.start_s).tolist(), [-1800.0, -600.0, 600.0, 2400.0])

    def test_times_of_day_beside_a_dated_meter_that_was_started_late(self):
        log = self.late_meter("10:00,10\n10:20,24\n10:40,38\n11:10,55\n")
        self.assertEqual((log.readings.time_s - log.trace.start_s).tolist(), [-1800.0, -600.0, 600.0, 2400.0])
        after = self.late_meter("10:35,10\n10:50,24\n11:10,55\n")
        self.assertEqual(after.readings.time_s[0] - after.trace.start_s, 300.0)

    def test_times_of_day_that_lie_nowhere_in_a_log_of_seconds_are_refused(self):
        rows = "".join(f"{10 * i},9.0,1.5\n" for i in range(300))
        meter = examine(self.file("meter.csv", "time_s,volts,amps\n" + rows))
        battery = examine(self.file("battery.csv", "time,percent\n10:00,10\n10:20,24\n10:40,38\n"))
        with self.assertRaisesRegex(CannotRead, "counts from its first row"):
            assemble([Part(meter, understand(meter), ("meter",)), Part(battery, understand(battery), ("checkins",))])

    def test_check_ins_that_end_before_the_meter_begins_are_refused(self):
        with self.assertRaises(CannotRead):
            self.late_meter("2027-03-01 10:00,10\n2027-03-01 10:20,24\n")
