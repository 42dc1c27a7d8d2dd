"""What headings and cells mean, in the forms that meters and spreadsheets write."""

import datetime as dt
import math
import unittest
from zoneinfo import ZoneInfo

from jaunecharge.formats.read import cells
from jaunecharge.formats.read.headings import meaning, place

HEADINGS = (
    ("time_s", "time", "s"),
    ("Time (s)", "time", "s"),
    ("Time[min]", "time", "min"),
    ("timestamp_ms", "time", "ms"),
    ("t/min", "time", "min"),
    ("elapsed", "time", None),
    ("Zeit", "time", None),
    ("Uhrzeit", "time", None),
    ("Temps (s)", "time", "s"),
    ("Tempo", "time", None),
    ("minutes", "time", "min"),
    ("Sekunden", "time", "s"),
    ("volts", "volts", "V"),
    ("V", "volts", "V"),
    ("Voltage (V)", "volts", "V"),
    ("VBUS", "volts", None),
    ("vbus_mv", "volts", "mV"),
    ("Spannung [V]", "volts", "V"),
    ("Tension/V", "volts", "V"),
    ("U [mV]", "volts", "mV"),
    ("amps", "amps", "A"),
    ("A", "amps", "A"),
    ("ibus_ma", "amps", "mA"),
    ("Strom [mA]", "amps", "mA"),
    ("Courant (A)", "amps", "A"),
    ("Stromstärke in A", "amps", "A"),
    ("Current", "amps", None),
    ("power_w", "watts", "W"),
    ("Leistung [mW]", "watts", "mW"),
    ("W", "watts", "W"),
    ("Puissance", "watts", None),
    ("Energy (Wh)", "energy", "Wh"),
    ("mWh", "energy", "mWh"),
    ("Wh", "energy", "Wh"),
    ("Capacity(mAh)", "charge", "mAh"),
    ("percent", "percent", "%"),
    ("battery %", "percent", "%"),
    ("Battery (%)", "percent", "%"),
    ("Battery", "percent", None),
    ("Battery power (W)", "phone_watts", "W"),
    ("Battery power", "phone_watts", None),
    ("battery_mw", "phone_watts", "mW"),
    ("phone watts (W)", "phone_watts", "W"),
    ("Reported power [W]", "phone_watts", "W"),
    ("Battery voltage (V)", "phone_volts", "V"),
    ("Akku [mA]", "phone_amps", "mA"),
    ("battery temperature", "celsius", None),
    ("thermal camera max", "celsius", None),
    ("Thermal camera max (°F)", "celsius", "°F"),
    ("phone (°C)", "celsius", "°C"),
    ("SoC", "percent", None),
    ("Akku [%]", "percent", "%"),
    ("celsius", "celsius", "°C"),
    ("back °C", "celsius", "°C"),
    ("Temp (°F)", "celsius", "°F"),
    ("Temperatur", "celsius", None),
    ("battery temp (°C)", "celsius", "°C"),
    ("position", "position", None),
    ("D+ (V)", "ignore", None),
    ("D-[V]", "ignore", None),
    ("CC1 (V)", "ignore", None),
    ("T (°C)", "celsius", "°C"),
    ("t (s)", "time", "s"),
    ("No.", "ignore", None),
    ("#", "ignore", None),
    ("remark", None, None),
    ("", None, None),
)


class Headings(unittest.TestCase):
    def test_quantity_and_unit(self):
        for heading, quantity, unit in HEADINGS:
            with self.subTest(heading):
                self.assertEqual(meaning(heading), (quantity, unit))

    def test_the_place_of_a_temperature(self):
        for heading, expected in (
            ("back °C", "back"),
            ("Temp (°C)", "back"),
            ("pad underside [°C]", "pad underside"),
            ("room temperature", "room"),
            ("front_c", "front"),
            ("Gehäuse [°C]", "gehäuse"),
        ):
            with self.subTest(heading):
                self.assertEqual(place(heading), expected)


class Numbers(unittest.TestCase):
    def test_with_a_decimal_point(self):
        for text, value in (
            ("9.01", 9.01), (" 9 ", 9), ("-1.5e-3", -0.0015), ("1,234.5", 1234.5), ("12 821", 12821), ("8.99 V", 8.99),
            ("54mA", 54), ("−3", -3), (".5", 0.5), ("1'200", 1200),
        ):  # fmt: skip
            with self.subTest(text):
                self.assertAlmostEqual(cells.number(text, comma=False), value)

    def test_with_a_decimal_comma(self):
        for text, value in (("9,01", 9.01), ("1.234,5", 1234.5), ("0,5 °C", 0.5), ("7", 7), ("-0,25", -0.25)):
            with self.subTest(text):
                self.assertAlmostEqual(cells.number(text, comma=True), value)

    def test_an_empty_cell_is_no_reading(self):
        self.assertTrue(math.isnan(cells.number("  ", False)))

    def test_what_is_no_number_is_refused(self):
        for text in ("OL", "n/a", "1.2.3", "9,5", "--", "inf", "nan", "1e999", "3 x 4"):
            with self.subTest(text), self.assertRaises(ValueError):
                cells.number(text, comma=False)


class Times(unittest.TestCase):
    def test_clocks(self):
        for text, seconds in (
            ("0:00:05", 5),
            ("01:02:03", 3723),
            ("25:00:00", 90000),
            ("1:30", 5400),
            ("0:00:01,5", 1.5),
        ):
            with self.subTest(text):
                self.assertEqual(cells.clock_seconds(text), seconds)
        self.assertEqual(cells.clock_seconds("75:30", minute_clock=True), 4530)

    def test_clocks_that_cannot_be(self):
        for text in ("1:60:00", "0:00:75", "12", "a:b", "1:2:3:4"):
            with self.subTest(text), self.assertRaises(ValueError):
                cells.clock_seconds(text)

    def test_dates(self):
        expected = dt.datetime(2027, 3, 1, 22, 5, 7)
        for text in ("2027-03-01T22:05:07", "2027-03-01 22:05:07", "01.03.2027 22:05:07", "1.3.2027 22:05:07"):
            with self.subTest(text):
                self.assertTrue(cells.is_dated(text))
                self.assertEqual(cells.moment(text), expected)

    def test_an_offset_is_heeded(self):
        seconds, day_start = cells.local_epoch([cells.moment("2027-03-01T22:00:00+01:00")], None)
        self.assertEqual(seconds[0], dt.datetime(2027, 3, 1, 21, tzinfo=dt.UTC).timestamp())
        self.assertEqual(day_start, 22 * 3600)

    def test_the_lost_hour_of_spring_in_a_known_zone(self):
        local = [dt.datetime(2027, 3, 28, 1, 59, 50), dt.datetime(2027, 3, 28, 3, 0, 0)]
        seconds, _ = cells.local_epoch(local, ZoneInfo("Europe/Zurich"))
        self.assertEqual(seconds[1] - seconds[0], 10)
