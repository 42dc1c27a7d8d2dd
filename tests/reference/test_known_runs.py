"""Sixteen runs whose truth is known, read from their files as a user would."""

import unittest

import numpy as np

from jaunecharge.core.reading.read_run import read_run
from jaunecharge.formats.json_files import read_case
from jaunecharge.formats.read.logs import meter_log, put_together, temperatures, timed_readings
from jaunecharge.formats.read.source import examine
from jaunecharge.formats.read.understanding import understand
from tests.cases import LOGS, truth
from tests.judging import matched
from tests.other_runs import TrueDip


def read_folder(folder):
    """A run of `tests/data/logs`, read with nothing said about its columns."""
    sources = {
        name: examine(folder / file)
        for name, file in (("meter", "meter.csv.gz"), ("battery", "battery.csv"), ("heat", "heat.csv.gz"))
        if (folder / file).exists()
    }
    conditions = read_case(folder / "case.json").conditions()
    log = put_together(
        meter_log(sources["meter"], understand(sources["meter"])),
        timed_readings(sources["battery"], understand(sources["battery"])),
        temperatures(sources["heat"], understand(sources["heat"])) if "heat" in sources else None,
        ambient_c=conditions.ambient_c,
    )
    return read_run(log, conditions)


class KnownRuns(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.read = {folder.name: (read_folder(folder), truth(folder.name)) for folder in LOGS}

    @classmethod
    def tearDownClass(cls):
        for folder in LOGS:
            for leftover in folder.glob("*.unpacked"):
                leftover.unlink()

    def each(self):
        for name, (reading, true) in self.read.items():
            with self.subTest(name):
                yield reading, true

    def test_there_are_sixteen(self):
        self.assertEqual(len(self.read), 16)

    def test_energy_in_within_half_a_percent(self):
        for reading, true in self.each():
            found = reading.energy_in.bridged.value
            self.assertLess(abs(found / true["energy_in_wh"] - 1), 0.005)

    def test_placing_within_fifteen_seconds(self):
        for reading, true in self.each():
            self.assertLess(abs(reading.placed_s - true["placed_s"]), 15)

    def test_every_crossing_lies_between_its_check_ins_and_nearly_all_in_the_interval_of_95_percent(self):
        hits, widths = [], []
        for reading, true in self.each():
            for percent, minute in true["crossings_min_after_placing"].items():
                m = reading.milestone(int(percent))
                at = reading.placed_s + minute * 60
                first, last = (m.earliest_s, m.latest_s) if m.by_s is None else (m.after_s, m.by_s)
                self.assertTrue(first <= at <= last, f"{percent} %: {at} in {m}")
                if m.by_s is not None:
                    hits.append(m.earliest_s - 2.0 <= at <= m.latest_s + 2.0)
                    widths.append((m.latest_s - m.earliest_s) / 60.0)
        self.assertGreater(len(hits), 20)
        self.assertGreaterEqual(np.mean(hits), 0.93)
        self.assertLess(np.median(widths), 2.5)

    def test_battery_energy_within_three_percent(self):
        for reading, true in self.each():
            self.assertLess(abs(reading.energy_battery.value / true["energy_battery_wh"] - 1), 0.03)

    def test_efficiency_within_five_percent_and_inside_its_own_uncertainty(self):
        for reading, true in self.each():
            self.assertLess(abs(reading.efficiency.value / true["efficiency_10_90"] - 1), 0.05)
            self.assertLess(abs(reading.efficiency.value - true["efficiency_10_90"]), reading.efficiency.expanded)

    def test_no_load_and_after_full(self):
        for reading, true in self.each():
            self.assertAlmostEqual(reading.no_load.watts, true["no_load_w"], delta=0.02)
            if true["after_full_w"] is not None:
                self.assertAlmostEqual(reading.after_full.watts, true["after_full_w"], delta=0.02)

    def test_best_settled_within_one_percent(self):
        for reading, true in self.each():
            self.assertLess(abs(reading.best_settled.watts / true["best_settled_w"] - 1), 0.01)

    def test_hottest_within_a_quarter_of_a_degree(self):
        for reading, true in self.each():
            if reading.phone_heat is not None:
                self.assertAlmostEqual(reading.phone_heat.max_c, true["max_c"], delta=0.25)
                self.assertAlmostEqual(reading.phone_heat.minutes_over[40], true["minutes_over"]["40"], delta=1.0)

    def test_every_dip_with_its_cause_and_none_besides(self):
        for reading, true in self.each():
            blind = reading.log.heat is None
            # With no temperatures heat cannot be proven, and is never called so.
            expected = [
                TrueDip(d["start_s"], d["end_s"], "unexplained" if blind and "heat" in d["cause"] else d["cause"])
                for d in true["dips"]
            ]
            pairs = matched(expected, reading.judged.dips)
            self.assertEqual([p for p in pairs if p[0] != p[1]], [])

    def test_onset_of_each_dip(self):
        for reading, true in self.each():
            for found, wanted in zip(reading.judged.dips, true["dips"], strict=True):
                self.assertAlmostEqual(found.onset_percent, wanted["onset_percent"], delta=2.0)
                if found.onset_c is not None:
                    self.assertAlmostEqual(found.onset_c, wanted["onset_c"], delta=0.3)

    def test_the_taper_and_the_stages_begin_within_a_minute(self):
        for reading, true in self.each():
            starts = [p.start_s for p in reading.judged.phases]
            wanted = [*true["phase_bounds_s"], *([true["taper_from_s"]] if true["taper_from_s"] else [])]
            for at in wanted:
                self.assertLess(min(abs(s - at) for s in starts), 60, f"{at} in {starts}")
            tapers = [p for p in reading.judged.phases if p.kind == "taper"]
            self.assertEqual(bool(tapers), bool(true["taper_from_s"]))

    def test_throttled_minutes(self):
        for reading, true in self.each():
            if reading.throttle is not None:
                self.assertAlmostEqual(reading.throttle.minutes, true["throttled_min_below_80"], delta=1.5)

    def test_the_class_follows_from_what_it_settled_at(self):
        classes = {"low-class": 7.5, "staged": 15.0, "after-full": 10.0}
        for name, watts in classes.items():
            group = self.read[name][0].output.group
            self.assertTrue(group.fits)
            self.assertEqual(group.watts, watts)
        self.assertFalse(self.read["low-class"][0].output.group.claim_met)
        self.assertTrue(self.read["staged"][0].output.group.claim_met)

    def test_the_holes_are_found(self):
        reading, true = self.read["gaps-in-log"]
        self.assertEqual(reading.log.trace.cleaned.missing_s, true["missing_s"])
        self.assertEqual((reading.log.trace.cleaned.duplicates, reading.log.trace.cleaned.reordered), (1, 1))
        self.assertLess(reading.log.trace.coverage, 1.0)
        self.assertLess(reading.energy_in.metered.value, reading.energy_in.bridged.value)
