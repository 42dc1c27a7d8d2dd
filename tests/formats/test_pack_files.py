"""Files of packs: tables of charges as people keep them, tests out as JSON and back in."""

import datetime as dt
import json
import tempfile
import unittest
import uuid
from pathlib import Path

import numpy as np

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.log import power_trace
from jaunecharge.documents.pack_test import ChargeRead, PackTestDocument
from jaunecharge.formats.pack_tests import COLUMNS, TestOut, table_row, tests_from_json, tests_json
from jaunecharge.formats.read.files import Asked, load_log
from jaunecharge.formats.read.logs import meter_log
from jaunecharge.formats.read.pack_charges import charges_in
from jaunecharge.formats.read.source import examine
from jaunecharge.formats.read.understanding import understand

PLAIN = """pack,phone,pack before,pack after,phone before,phone after,way,minutes,date
Col bank,Ostrel Max,100,27,5,100,coil,171,2027-03-01
Col bank,Ostrel Max,4 lamps,2 lamps,5,60,cord,,
"""


class FileTest(unittest.TestCase):
    def file(self, text, name="table.csv"):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        path = Path(folder.name) / name
        path.write_text(text, encoding="utf-8")
        return path


class Charges(FileTest):
    def charges(self, text):
        return charges_in(examine(self.file(text)))

    def test_a_row_a_charge(self):
        found = self.charges(PLAIN)
        first, second = found.charges
        self.assertEqual((first.pack, first.charge.phone, first.charge.minutes), ("Col bank", "Ostrel Max", 171))
        self.assertEqual(first.at, dt.datetime(2027, 3, 1, tzinfo=dt.UTC))
        self.assertEqual((first.charge.by_cord, second.charge.by_cord), (False, True))
        self.assertEqual((second.charge.pack_before, second.at), ("4 lamps", None))

    def test_other_words_and_signs(self):
        found = self.charges(
            "Powerbank;Handy;Akku vorher %;Akku nachher %;Handy vorher %;Handy nachher %\n"
            "Col;Max;100 %;27 %;5,5 %;100 %\n"
        )
        [one] = found.charges
        self.assertEqual((one.pack, one.charge.phone_before, one.charge.pack_after), ("Col", 5.5, "27 %"))

    def test_two_levels_in_a_cell(self):
        found = self.charges("phone;pack %;phone %\nMax;100 to 27;5 to 100\nMini;100-40;10 → 80\n")
        self.assertEqual([c.charge.pack_after for c in found.charges], ["27", "40"])
        self.assertEqual([c.charge.phone_after for c in found.charges], [100, 80])

    def test_one_row_spoils_only_itself(self):
        found = self.charges(
            PLAIN + "Col bank,X,20,70,5,60,coil,,\nCol bank,X,100,,5,60,coil,,\n,,100,9,5,x,by mule,,\n"
        )
        self.assertEqual(len(found.charges), 2)
        self.assertEqual(len(found.left_out), 3)
        self.assertIn("row 4: the pack went up", found.left_out[0])
        self.assertIn("row 5: pack after is empty", found.left_out[1])

    def test_a_load_log_is_none(self):
        self.assertIsNone(self.charges("time_s,volts,amps\n0,5,1\n1,5,1\n2,5,1\n"))


class LoadLogs(FileTest):
    def test_counters_beside_the_rows(self):
        rows = "".join(f"{t},5.0,2.0,{10 * t / 3600 * 1.1:.4f}\n" for t in range(0, 3600, 10))
        log = load_log(Asked(self.file("time [s],U [V],I [A],E [Wh]\n" + rows), "load.csv"))
        self.assertTrue(any("The counter rose by 10.9" in r for r in log.remarks), log.remarks)
        honest = "".join(f"{t},5.0,2.0,{10 * t / 3600:.4f}\n" for t in range(0, 3600, 10))
        log = load_log(Asked(self.file("time [s],U [V],I [A],E [Wh]\n" + honest), "load.csv"))
        self.assertFalse(any("counter" in r for r in log.remarks), log.remarks)

    def test_a_counter_of_milliampere_hours_beside_volts_and_amps(self):
        head = "Zeit;Spannung [V];Strom [mA];Kapazität [mAh];Energie [mWh]\n"
        rows = [f"00:{m:02d}:00;5,10;1500;{25 * m};{127.5 * m:.0f}\n" for m in range(60)]
        path = self.file(head + "".join(rows))
        log = load_log(Asked(path, "load.csv"))
        self.assertAlmostEqual(log.ah[-1], 25 * 59 / 1000)
        self.assertFalse(any("counter" in r for r in log.remarks), log.remarks)
        # The same as a run's log, where the counter is passed over.
        source = examine(path)
        self.assertIsNone(meter_log(source, understand(source)).ah)
        [doubt] = load_log(
            Asked(self.file(head + "".join(r.replace(";5,10;1500", ";5,10;1400") for r in rows)), "x")
        ).remarks[-1:]
        self.assertIn("The counter rose", doubt)
        torn = "".join(r.replace(";25;", ";-;").replace(";50;", ";error;") for r in rows)
        self.assertEqual(len(load_log(Asked(self.file(head + torn), "x")).clock.seconds), 58)
        words = "".join(f"00:{m:02d}:00;5,10;1500;full;{127.5 * m:.0f}\n" for m in range(60))
        self.assertEqual(len(load_log(Asked(self.file(head + words), "x")).clock.seconds), 60)

    def test_temperatures_beside_the_rows(self):
        rows = "".join(f"{t},5.0,2.0,{25 + t / 100},{24 + t / 50}\n" for t in range(0, 1000, 10))
        log = load_log(Asked(self.file("time [s],U [V],I [A],back [°C],side [°C]\n" + rows), "load.csv"))
        self.assertAlmostEqual(log.celsius[0], 25.0)
        self.assertAlmostEqual(log.celsius[-1], 24 + 990 / 50)


class OutAndIn(unittest.TestCase):
    def made(self):
        t = np.arange(0.0, 100.0, 0.5)
        volts = np.random.default_rng(5).normal(5.0, 0.01, len(t))
        log = power_trace(t, volts * 1.0, volts, np.ones(len(t)))
        at = dt.datetime(2027, 3, 1, 12, 0, 0, 123, tzinfo=dt.UTC)
        charge = ChargeRead(phone="=1+1", pack_before="100", pack_after="27", phone_before=5, phone_after=100)
        facts = {"rated_mah": 1e4, "cell_v": 3.7}
        return [
            TestOut(uuid.uuid4(), "Col bank", at, "W", PackTestDocument(kind="load", **facts), (log,)),
            TestOut(uuid.uuid4(), "Col bank", at, "", PackTestDocument(kind="charge", charge=charge, **facts)),
        ]

    def test_to_the_last_bit(self):
        tests = self.made()
        text = tests_json(tests)
        self.assertEqual(text, tests_json(reversed(tests)))
        back, left_out = tests_from_json(text, "packs.json")
        self.assertEqual(left_out, [])
        self.assertEqual(tests_json(back), text)
        load = next(t for t in back if t.document.kind == "load")
        np.testing.assert_array_equal(load.logs[0].volts, tests[0].logs[0].volts)

    def test_one_test_spoils_only_itself(self):
        document = json.loads(tests_json(self.made()))
        good = document["tests"][0]
        for change in (
            {"id": "x"}, {"at": "2027-03-01"}, {"document": {}}, {"document": 5}, {"pack": "a\0b"},
            {"logs": [{"time_s": [0, 1], "watts": [1]}]}, {"logs": [{"time_s": [0, 1], "watts": [1, 1e300]}]},
            {"logs": [5]}, {"at": "9999-12-31T00:00:00+00:00"},
        ):  # fmt: skip
            back, left_out = tests_from_json(json.dumps({**document, "tests": [{**good, **change}, good]}), "x.json")
            self.assertEqual((len(back), len(left_out)), (1, 1), change)
        for text in ("", "[]", "{}", '{"format": "pack tests", "tests": 5}', "[" * 100_000):
            with self.assertRaises(CannotRead):
                tests_from_json(text, "x.json")

    def test_a_row_of_the_table(self):
        for test in self.made():
            row = dict(zip(COLUMNS, table_row(test), strict=True))
            self.assertEqual(row["rated, Wh"], 37.0)
        self.assertEqual((row["phone"], row["way"], row["pack after"]), ("=1+1", "coil", "27"))
