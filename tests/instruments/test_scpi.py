"""The SCPI driver: against byte-level conversations, our stand-in, and an instrument simulator that is not ours.

The conversations follow IEEE 488.2 (response data and terminators) and SCPI-1999 (9.9E37, 9.91E37), both from memory.
"""

import contextlib
import socket
import tempfile
import threading
import time
import unittest
import warnings
from pathlib import Path

import pyvisa

from jaunecharge.core.errors import CannotRead
from jaunecharge.instruments.faults import fault
from jaunecharge.instruments.playback import Playback
from jaunecharge.instruments.scpi import (
    Garbled,
    Identity,
    NotReached,
    OverRange,
    Scpi,
    Silent,
    decimal,
    identity,
)
from jaunecharge.instruments.standins import standing_in
from tests.instruments.playing import Turned, scenario


@contextlib.contextmanager
def talking(reply):
    """A server on a free port; `reply` gives the bytes that answer a line, or None to hang up."""
    server = socket.create_server(("127.0.0.1", 0))
    heard = []

    def serve():
        with contextlib.suppress(OSError):
            while True:
                connection, _ = server.accept()
                with connection, connection.makefile("rb") as lines:
                    for line in lines:
                        heard.append(line)
                        answer = reply(line)
                        if answer is None:
                            break
                        connection.sendall(answer)

    thread = threading.Thread(target=serve, daemon=True)
    thread.start()
    try:
        yield f"127.0.0.1:{server.getsockname()[1]}", heard
    finally:
        server.close()


class Numbers(unittest.TestCase):
    def test_response_data(self):
        for text, value in {
            "9": 9.0, "+9.02": 9.02, "-.5": -0.5, "1.97E+00": 1.97, "+9.02150e-1": 0.90215, "5.": 5.0,
            "9.02,1.97": 9.02, " 3 ": 3.0,
        }.items():  # fmt: skip
            with self.subTest(text):
                self.assertAlmostEqual(decimal(text), value)

    def test_what_is_none(self):
        for text in ("", "nan", "inf", "9.0.2", "e,1", "0x10", "9 V", "--1", "\x00", "1e"):
            with self.subTest(text), self.assertRaises(Garbled):
                decimal(text)

    def test_over_range_and_no_reading(self):
        for text in ("9.9E37", "-9.9E+37", "9.91E37", "1e39"):
            with self.subTest(text), self.assertRaises(OverRange):
                decimal(text)

    def test_identity(self):
        self.assertEqual(identity("Maker, M-1,0,1.2"), Identity("Maker", "M-1", "0", "1.2"))
        for text in ("Maker,M-1", "", "a,b,c,\x07"):
            with self.assertRaises(Garbled):
                identity(text)


class Conversations(unittest.TestCase):
    def test_one_line_a_question_and_one_an_answer(self):
        with talking(lambda line: b"+9.02E+00\r\n") as (address, heard):
            instrument = Scpi(address)
            self.addCleanup(instrument.close)
            self.assertAlmostEqual(instrument.volts(), 9.02)
            self.assertAlmostEqual(instrument.amps(), 9.02)
        self.assertEqual(heard, [b"MEAS:VOLT?\n", b"MEAS:CURR?\n"])

    def test_an_answer_in_pieces(self):
        server = socket.create_server(("127.0.0.1", 0))
        self.addCleanup(server.close)

        def serve():
            connection, _ = server.accept()
            connection.recv(100)
            for piece in (b"+9", b".0", b"2\n"):
                connection.sendall(piece)
                time.sleep(0.05)

        threading.Thread(target=serve, daemon=True).start()
        instrument = Scpi(f"127.0.0.1:{server.getsockname()[1]}")
        self.addCleanup(instrument.close)
        self.assertAlmostEqual(instrument.volts(), 9.02)

    def test_nobody_there(self):
        with socket.create_server(("127.0.0.1", 0)) as server:
            address = f"127.0.0.1:{server.getsockname()[1]}"
        with self.assertRaisesRegex(NotReached, "nobody answers at"):
            Scpi(address).volts()

    def test_silence_and_an_answer_that_comes_too_late(self):
        count = iter(range(10))

        def late(line):
            if next(count) == 0:
                time.sleep(0.6)
                return b"1.0\n"
            return b"2.0\n"

        with talking(late) as (address, _):
            instrument = Scpi(address, timeout_s=0.2)
            self.addCleanup(instrument.close)
            with self.assertRaisesRegex(Silent, r"does not answer MEAS:VOLT\?"):
                instrument.volts()
            # The late answer to the first question must not be taken for that to the second.
            instrument._timeout_s = 5.0
            self.assertEqual(instrument.volts(), 2.0)

    def test_garbage_hangs_up_and_the_next_question_is_fresh(self):
        for garbage in (b"\xff\xfe\n", b"9.0.2\n", b"1.0\n2.0\n", b"x" * 5000):
            count = iter(range(10))
            with (
                self.subTest(garbage[:10]),
                talking(lambda line, g=garbage, c=count: g if next(c) == 0 else b"3.0\n") as (address, _),
            ):
                instrument = Scpi(address, timeout_s=1.0)
                with self.assertRaises(Garbled):
                    instrument.volts()
                self.assertEqual(instrument.volts(), 3.0)
                instrument.close()

    def test_a_dropped_connection(self):
        count = iter(range(10))
        with talking(lambda line: None if next(count) == 0 else b"3.0\n") as (address, _):
            instrument = Scpi(address)
            self.addCleanup(instrument.close)
            with self.assertRaisesRegex(NotReached, "dropped the connection"):
                instrument.volts()
            self.assertEqual(instrument.volts(), 3.0)

    def test_an_address_that_is_none(self):
        for text in ("", "meter", "meter:0", "meter:70000", "http://meter:80/x"):
            with self.subTest(text), self.assertRaises(CannotRead):
                Scpi(text)


class OurStandIn(unittest.TestCase):
    def setUp(self):
        self.clock = Turned()
        self.playback = Playback(scenario(), self.clock, speed=60.0)

    def asked(self, standin, timeout_s=2.0):
        instrument = Scpi(standin.address, timeout_s)
        self.addCleanup(instrument.close)
        return instrument

    def test_nothing_lies_on_it_until_it_is_placed(self):
        with standing_in(self.playback) as standin:
            instrument = self.asked(standin)
            self.assertEqual(instrument.identify().maker, "Jaunecharge")
            self.clock.now += 30.0
            self.assertLess(instrument.volts() * instrument.amps(), 0.6)
            self.assertEqual(instrument.ask("SIM:PLACED?"), "0")
            instrument.tell("SIM:PLACE")
            self.assertEqual(instrument.ask("SIM:PLACED?"), "1")
            self.clock.now += 5.0
            self.assertGreater(instrument.volts() * instrument.amps(), 15.0)
            self.assertGreater(instrument.celsius(), 25.0)

    def test_time_runs_at_its_speed(self):
        self.playback.place()
        self.clock.now += 60.0
        truth = self.playback.charge.shown[int(self.playback.scenario.placed_s) + 3600]
        self.assertEqual(self.playback.read().percent, truth)
        for wrong in (0.5, 121.0):
            with self.assertRaises(ValueError):
                Playback(scenario(), self.clock, wrong)

    def test_a_meter_does_not_know_temperatures_and_says_so(self):
        with standing_in(self.playback, "meter") as standin:
            instrument = self.asked(standin, 0.3)
            with self.assertRaises(Silent):
                instrument.celsius()
            self.assertIn("Undefined header", instrument.ask("SYST:ERR?"))
            self.assertEqual(instrument.ask("SYST:ERR?"), '0,"No error"')
            self.assertAlmostEqual(float(instrument.ask(":MEASure:VOLTage:DC?")), 9.0, delta=0.3)

    def test_each_fault_is_survived_with_the_right_error(self):
        with standing_in(self.playback, "both") as standin:
            instrument = self.asked(standin, 0.4)
            for order, error in (
                ("silence+60", Silent),
                ("garbage+60", Garbled),
                ("lag+60", Silent),
                ("drop", NotReached),
            ):
                with self.subTest(order):
                    instrument.tell(f"SIM:FAULT {order}")
                    instrument.close()
                    time.sleep(0.1)  # The order was sent; it is carried out once the stand-in has read it.
                    with self.assertRaises((error, Silent) if order.startswith("garbage") else error):
                        for _ in range(6):
                            instrument.volts()
                    self.clock.now += 2.0
                    self.assertAlmostEqual(instrument.volts(), 9.0, delta=0.3)

    def test_orders_that_are_none(self):
        for text in ("", "fire", "lag@x", "silence@1+"):
            with self.subTest(text), self.assertRaises(CannotRead):
                fault(text)


class NotOurs(unittest.TestCase):
    """PyVISA-sim plays an instrument that we did not write, and PyVISA-py asks ours."""

    DEVICES = """
spec: "1.0"
devices:
  bench meter:
    eom:
      ASRL INSTR:
        q: "\\n"
        r: "\\n"
    error: ERROR
    dialogues:
      - q: "*IDN?"
        r: "Somebody,Bench Meter,SN7,2.1"
    channels: {}
    properties:
      volts:
        default: 9.02
        getter:
          q: "MEAS:VOLT?"
          r: "{:+.4E}"
        specs: {type: float}
      amps:
        default: 1.97
        getter:
          q: "MEAS:CURR?"
          r: "{:.3f}"
        specs: {type: float}
      temperature:
        default: 31.25
        getter:
          q: "MEAS:TEMP?"
          r: "{:.2f}"
        specs: {type: float}
resources:
  ASRL1::INSTR:
    device: bench meter
"""

    def test_our_driver_reads_a_simulated_instrument(self):
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "devices.yaml"
            file.write_text(self.DEVICES)
            manager = pyvisa.ResourceManager(f"{file}@sim")
            self.addCleanup(manager.close)
            device = manager.open_resource("ASRL1::INSTR", read_termination="\n", write_termination="\n")

            def passed_on(line):
                return device.query(line.decode("ascii").strip()).encode("ascii") + b"\n"

            with talking(passed_on) as (address, _):
                instrument = Scpi(address)
                self.assertEqual(instrument.identify(), Identity("Somebody", "Bench Meter", "SN7", "2.1"))
                self.assertAlmostEqual(instrument.volts(), 9.02)
                self.assertAlmostEqual(instrument.amps(), 1.97)
                self.assertAlmostEqual(instrument.celsius(), 31.25)
                instrument.close()

    def test_their_driver_reads_our_stand_in(self):
        playback = Playback(scenario(), Turned())
        with standing_in(playback) as standin, warnings.catch_warnings():
            warnings.simplefilter("ignore")
            manager = pyvisa.ResourceManager("@py")
            self.addCleanup(manager.close)
            host, port = standin.address.split(":")
            device = manager.open_resource(
                f"TCPIP0::{host}::{port}::SOCKET", read_termination="\n", write_termination="\n"
            )
            self.assertTrue(device.query("*IDN?").startswith("Jaunecharge,"))
            self.assertAlmostEqual(float(device.query("MEAS:VOLT?")), 9.0, delta=0.3)
            self.assertAlmostEqual(float(device.query("MEAS:TEMP?")), 25.0, delta=0.5)
            device.close()
