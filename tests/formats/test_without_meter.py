"""Runs that no meter saw: percentages, temperatures or both, from files or typed."""

import datetime as dt
import json
import subprocess
import sys
from pathlib import Path

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.reading.read_run import Conditions, read_run
from jaunecharge.documents.case import Case
from jaunecharge.formats.read.assemble import Part, assemble
from jaunecharge.formats.read.source import examine
from jaunecharge.formats.read.understanding import understand
from tests.cases import DATA, FolderTest

NEEDS_A_METER = (
    "energy_in_wh", "efficiency", "peak_w", "best_settled_w", "sustained_w", "no_load_w", "after_full_w", "output",
    "output_class",
)  # fmt: skip


class WithoutMeter(FolderTest):
    def part(self, name, content, *roles, whose=None):
        source = examine(self.file(name, content))
        return Part(source, understand(source), roles, whose)

    def test_typed_lines_count_from_the_placing(self):
        found = assemble([], "5 14\n15 25\n25 36")
        self.assertEqual((found.placed_s, found.started_at), (0.0, None))
        self.assertEqual(found.log.readings.time_s.tolist(), [300, 900, 1500])
        self.assertEqual((found.log.trace.start_s, found.log.trace.end_s, found.log.trace.metered), (0, 1500, False))

    def test_a_file_of_percentages_is_placed_at_its_first(self):
        found = assemble([self.part("b.csv", "time_s,percent\n60,10\n660,20\n1260,30\n", "checkins")])
        self.assertIsNone(found.placed_s)
        self.assertEqual(read_run(found.log, Conditions()).placed_s, 60)

    def test_dates_say_when_it_began_and_lay_both_on_one_clock(self):
        battery = "time,percent\n2027-03-01T08:00:00Z,10\n2027-03-01T08:30:00Z,40\n"
        heat = "time,position,celsius\n2027-03-01T07:50:00Z,back,24\n2027-03-01T08:20:00Z,back,36\n"
        found = assemble([self.part("b.csv", battery, "checkins"), self.part("h.csv", heat, "heat")])
        self.assertEqual(found.started_at, dt.datetime(2027, 3, 1, 8, tzinfo=dt.UTC))
        self.assertEqual(found.log.readings.time_s.tolist(), [0, 1800])
        self.assertEqual(found.log.heat.surfaces[0].time_s.tolist(), [-600, 1200])

    def test_temperatures_may_count_from_the_placing(self):
        battery, heat = "time_s,percent\n100,10\n1900,40\n", "time_s,position,celsius\n0,back,24\n600,back,33\n"
        parts = [self.part("b.csv", battery, "checkins"), self.part("h.csv", heat, "heat", whose="placing")]
        self.assertEqual(assemble(parts).log.heat.surfaces[0].time_s.tolist(), [100, 700])
        placed = assemble(parts, case=Case(placed_s=40))
        self.assertEqual(placed.log.heat.surfaces[0].time_s.tolist(), [40, 640])
        self.assertEqual(placed.placed_s, 40)

    def test_temperatures_alone_are_a_run(self):
        log = assemble([self.part("h.csv", "time_s,position,celsius\n0,back,24\n900,back,41\n", "heat")]).log
        self.assertIsNone(log.readings)
        self.assertEqual(read_run(log, Conditions()).phone_heat.max_c, 41)

    def test_nothing_and_a_single_moment_are_refused(self):
        with self.assertRaisesRegex(CannotRead, "nothing in it to read"):
            assemble([])
        with self.assertRaisesRegex(CannotRead, "only one moment"):
            assemble([self.part("b.csv", "time_s,percent\n60,10\n", "checkins")])

    def test_the_command_reads_percentages_alone(self):
        command, log = Path(sys.executable).with_name("jaunecharge"), DATA / "logs" / "gaps-in-log"
        for file in log.iterdir():
            self.file(file.name, file.read_bytes())

        def read(*options):
            done = subprocess.run(
                [command, "read", *options, "--json"], capture_output=True, text=True, cwd=self.folder, timeout=300
            )
            self.assertEqual((done.returncode, done.stderr), (0, ""))
            return json.loads(done.stdout)

        beside = ("--battery", "battery.csv", "--heat", "heat.csv.gz", "--case", "case.json")
        metered, alone = read("--meter", "meter.csv.gz", *beside), read(*beside)
        self.assertEqual({key: alone[key] for key in NEEDS_A_METER}, dict.fromkeys(NEEDS_A_METER))
        self.assertEqual((alone["phases"], alone["dips"]), ([], []))
        self.assertEqual(alone["energy_battery_wh"], metered["energy_battery_wh"])
        self.assertEqual(alone["pace"], metered["pace"])
        self.assertEqual(alone["heat"]["max_c"], metered["heat"]["max_c"])
        self.assertIsNone(alone["heat"]["cost_min"])
        first = alone["pace"][0]
        self.assertEqual(first["points_per_min"].keys(), {"value", "expanded"})
        self.assertGreater(first["points_per_min"]["value"], 0.2)
