"""Meters on serial ports, over pseudo-terminals: lines of figures understood as in files, SCPI, what goes wrong."""

import contextlib
import os
import time
import tty
import unittest
import uuid
from dataclasses import replace
from itertools import pairwise

import serial
from sqlalchemy import text

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.kit.addresses import address_of
from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.instruments.errors import Garbled, NotReached
from jaunecharge.instruments.playback import Playback
from jaunecharge.instruments.scpi import Scpi
from jaunecharge.instruments.serial_standin import SerialStandIn
from jaunecharge.live.figure_lines import FigureLines
from jaunecharge.live.instruments import instrument_at
from jaunecharge.live.trying import try_once
from jaunecharge.store.kit import add_all
from tests.api.test_bench import FACTORS, BenchTest
from tests.instruments.playing import scenario


class Port:
    """One end of a pseudo-terminal to write to; the other has an address."""

    def __init__(self):
        self.far, near = os.openpty()
        tty.setraw(near)
        self.device = os.ttyname(near)
        self.address = f"serial:{self.device}?baud=9600&speaks=csv"
        self._near = near

    def write(self, *lines):
        os.write(self.far, "".join(f"{line}\r\n" for line in lines).encode())

    def pull(self):
        for end in (self.far, self._near):
            with contextlib.suppress(OSError):
                os.close(end)


class Lines(unittest.TestCase):
    def setUp(self):
        self.port = Port()
        self.addCleanup(self.port.pull)
        self.lines = FigureLines(self.port.address)
        self.addCleanup(self.lines.close)
        self.lines.read(0.01)

    def shown(self, *lines):
        """(volts, amps, watts, °C) of lines as they come."""
        self.port.write(*lines)
        return [(f.volts, f.amps, f.watts, f.celsius) for f in self.lines.read(0.2)]

    def test_headings_and_units_as_in_files(self):
        for heading, row, figures in (
            ("time (ms);U [mV];I [mA];T (°C)", "{n};9012,5;1500,25;31,5", (9.0125, 1.50025, None, 31.5)),
            ("seconds,Voltage(V),Current(A),Power(W)", "{n},9.01,1.5,13.515", (9.01, 1.5, 13.515, None)),
            ("time\tWatts", "{n}\t14.25", (None, None, 14.25, None)),
            ("time_s,temp °F", "{n},98.6", (None, None, None, 37.0)),
        ):  # fmt: skip
            with self.subTest(heading):
                self.setUp()
                found = self.shown(heading, *(row.format(n=n) for n in range(5)))
                self.assertEqual(len(found), 5)
                for value, wanted in zip(found[0], figures, strict=True):
                    self.assertEqual(value, wanted) if wanted is None else self.assertAlmostEqual(value, wanted)

    def test_nothing_is_lost_while_the_columns_are_not_known_yet(self):
        self.assertEqual(self.shown("time_s,volts,amps"), [])
        self.assertEqual(len(self.shown(*(f"{n},9.0,1.{n}" for n in range(4)))), 4)
        self.assertEqual([f[1] for f in self.shown("4,9.0,1.4", "5,9.0,1.5")], [1.4, 1.5])

    def test_columns_without_headings_are_named_in_the_address(self):
        self.port.pull()
        self.port = Port()
        self.addCleanup(self.port.pull)
        self.lines = FigureLines(f"serial:{self.port.device}?columns=ms,V,mA")
        self.addCleanup(self.lines.close)
        self.lines.read(0.01)
        found = self.shown(*(f"{200 * n};9,02;{1500 + n}" for n in range(5)))
        self.assertEqual(len(found), 5)
        self.assertEqual([round(x, 6) for x in found[0][:2]], [9.02, 1.5])
        self.assertEqual(self.lines.columns()[1], "V: volts in V")

    def test_a_line_that_is_none_is_left_out_and_those_around_it_stay(self):
        self.shown("time_s,volts,amps", "0,9,1", "1,9,1", "2,9,1")
        found = self.shown("3,9,OL", "4,9", "time_s,volts,amps", "5,900,1", "6,nan,1", "7,9,1.5", "\x00\xff,9,1")
        self.assertEqual(found, [(9.0, 1.5, None, None)])
        self.assertEqual(self.lines.left_out, 5)

    def test_what_holds_no_figures_of_a_charge_is_said(self):
        self.port.write(*(f"hello {n} world" for n in range(30)))
        with self.assertRaisesRegex(Garbled, "are not understood"):
            self.lines.read(0.3)

    def test_without_an_end_of_line_the_speed_is_asked_about(self):
        os.write(self.port.far, b"\x81\x7f\x02" * 1200)
        with self.assertRaisesRegex(Garbled, "is the speed"):
            self.lines.read(0.5)

    def test_pulled_out_it_is_gone_and_what_it_means_is_kept(self):
        self.shown("time_s,volts,amps", "0,9,1", "1,9,1", "2,9,1")
        self.port.pull()
        with self.assertRaisesRegex(NotReached, "is it"):
            for _ in range(20):
                self.lines.read(0.1)
        again = Port()
        self.addCleanup(again.pull)
        self.lines.address = again.address
        self.lines.read(0.01)
        again.write("9.0,1.2", "8,9.0,1.25")
        # Plugged in again the first line may be the end of one.
        self.assertEqual([f.amps for f in self.lines.read(0.3)], [1.25])

    def test_a_port_that_does_not_exist_is_none_or_is_held_by_another_program(self):
        for address, words in (
            ("serial:ttyNOTHING", "there is no serial port /dev/ttyNOTHING"), ("serial:/dev/null", "cannot be opened"),
            (self.port.address, "in use"),
        ):  # fmt: skip
            with self.subTest(address), self.assertRaisesRegex(NotReached, words):
                FigureLines(address).read(0.05)
        self.lines.close()
        with serial.Serial(self.port.device, exclusive=True), self.assertRaisesRegex(NotReached, "in use"):
            FigureLines(self.port.address).read(0.05)


class Addresses(unittest.TestCase):
    def test_as_typed(self):
        for typed, said in (
            ("192.168.1.40:5025", "192.168.1.40:5025"), ("TCP://Hut:99", "hut:99"), ("[::1]:5025", "[::1]:5025"),
            ("serial:ttyUSB0", "serial:/dev/ttyUSB0?baud=115200"), 
            ("Serial:/dev/ttyACM1?baud=9600", "serial:/dev/ttyACM1?baud=9600"),
            ("serial:ttyS1?columns=ms, V,mA", "serial:/dev/ttyS1?baud=115200&speaks=csv&columns=ms,V,mA"),
            ("serial:com3?speaks=CSV", "serial:COM3?baud=115200&speaks=csv"),
        ):  # fmt: skip
            with self.subTest(typed):
                self.assertEqual(address_of(typed).said, said)
                self.assertEqual(address_of(said), address_of(typed))

    def test_what_is_none(self):
        for typed in (
            "", "hut", "hut:0", "hut:99999", "serial:", "serial:../../etc/passwd", "serial:a b", "serial:x?baud=-1",
            "serial:x?baud=1e9", "serial:x?baud=٣٠٠٠", "serial:x?colour=red", "serial:x?speaks=modbus", "ftp://x:1",
        ):  # fmt: skip
            with self.subTest(typed), self.assertRaises(CannotRead):
                address_of(typed)


class StandIns(unittest.TestCase):
    def test_what_writes_by_itself_is_listened_to_and_what_does_not_is_asked(self):
        for speaks, kind in (("csv", FigureLines), ("scpi", Scpi)):
            port = SerialStandIn(Playback(scenario(), time.monotonic, 60.0), speaks).start()
            self.addCleanup(port.stop)
            with contextlib.closing(instrument_at(port.address)) as instrument:
                self.assertIsInstance(instrument, kind)
            shown = try_once(port.address)
            self.assertAlmostEqual(shown.volts, 9.0, delta=0.2)
            self.assertEqual((shown.problem, shown.celsius is None), ("", False))
            if speaks == "csv":
                self.assertEqual(shown.columns[1], "voltage (V): volts in V")


class OnALane(BenchTest):
    def test_each_line_is_stored_once_and_pulled_the_lane_says_so(self):
        port = SerialStandIn(Playback(scenario(), time.monotonic, 1.0), every_s=0.1).start()
        with self.database.session() as session:
            add_all(session, [replace(kit_from_line("meter Serial B 0.5%"), address=port.address)], "")
        lane = self.web.post("/api/lanes", json={"factors": FACTORS, "meter": "Serial B", "ambient_c": 25.0}).json()[
            "view"
        ]
        query = text("SELECT volts, amps, t_s FROM lane_readings WHERE lane_id = :lane ORDER BY n")

        def stored():
            with self.database.session() as session:
                return session.execute(query, {"lane": uuid.UUID(lane["id"])}).all()

        self.until(lambda: len(stored()) >= 30, "its lines are not stored")
        self.assertIsNotNone(self.view(lane)["watts"])
        port.quiet.set()
        time.sleep(0.5)
        amps = [a for _, a in port.written]

        def each_once():
            """Whether what is stored is what was written, but for what nobody heard before it was listened to."""
            rows = stored()
            wanted = amps[-len(rows) :]
            return len(rows) <= len(amps) and all(abs(r.amps - a) < 1e-9 for r, a in zip(rows, wanted, strict=True))

        self.until(each_once, "not each line is stored once, or one is stored twice")
        rows = stored()
        port.stop()
        steps = [b.t_s - a.t_s for a, b in pairwise(rows)]
        self.assertTrue(all(s >= 0.0 for s in steps))
        silent = self.until(
            lambda: [a for a in self.view(lane)["alarms"] if a["key"] == "meter silent"], "silence is not told", 120.0
        )
        self.assertIn("serial port", silent[0]["do"] + silent[0]["seen"])
