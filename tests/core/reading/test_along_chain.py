"""Energy along a run's chain, on logs of plain equations: what came through, what is not known, what cannot be."""

import unittest
from dataclasses import replace

import numpy as np

from jaunecharge.core.log.check_ins import Battery, make_check_ins
from jaunecharge.core.log.energy import MeterSpec
from jaunecharge.core.log.phone_reports import besides
from jaunecharge.core.log.trace import power_trace, unmetered
from jaunecharge.core.reading.along_chain import along_chain, chain_stages
from jaunecharge.core.reading.read_run import Conditions, RunLog, read_run
from jaunecharge.core.report.figures import figures
from jaunecharge.core.report.sentences import sentences

PHONE = Battery(4000.0, 3.85, 1.0)
BATTERY_WH = 4000.0 * 3.85 / 1000.0
KNOWN = Conditions(
    battery=PHONE, placed_s=60.0, meter=MeterSpec(0.5, 0.001, 0.001), socket_meter=MeterSpec(1.0, 0.0, 0.0)
)


def meter_watts(at_s):
    """No phone for a minute, then a slope from 16 to 9 W over two hours."""
    return np.where(at_s < 60.0, 0.3, np.clip(16.0 - 7.0 * (at_s - 60.0) / 7200.0, 9.0, 16.0))


def bench(adapter=0.8, battery=0.6, step_s=5.0, to_s=7260.0, socket=True, phone=None, offset_s=0.0):
    """A run of whose energy from the socket `adapter` reaches the meter, and `battery` of that the phone."""
    at = np.arange(0.0, to_s, 1.0)
    watts = meter_watts(at)
    gained = np.concatenate(([0.0], np.cumsum(watts[at >= 60.0][1:] / 3600.0))) * battery
    percent = np.floor(5.0 + gained / BATTERY_WH * 100.0)
    every = slice(0, None, 300)
    checks = make_check_ins(at[at >= 60.0][every], np.minimum(percent, 100.0)[every])
    plug = np.arange(offset_s, to_s, step_s)
    told = np.arange(60.0, to_s, 60.0)
    return RunLog(
        power_trace(at, watts, np.full(len(at), 9.0), watts / 9.0),
        checks,
        besides=besides() if phone is None else besides(zip(told, meter_watts(told) * phone, strict=True)),
        socket=power_trace(plug, meter_watts(plug) / adapter) if socket else None,
    )


def said(reading):
    return {s.key: s.text for s in sentences(reading)}


class Through(unittest.TestCase):
    def test_truth_lies_in_what_is_stated(self):
        for adapter in (0.72, 0.85, 0.93):
            for step_s in (1.0, 10.0, 60.0):
                with self.subTest(adapter=adapter, step_s=step_s):
                    found = along_chain(read_run(bench(adapter, step_s=step_s), KNOWN))
                    share = found.passage("socket", "meter").share
                    self.assertAlmostEqual(share.value, adapter, delta=share.expanded)
                    self.assertLess(share.expanded, 0.03)
                    self.assertAlmostEqual(found.whole.share.value, adapter * 0.6, delta=found.whole.share.expanded)

    def test_all_points_of_one_window(self):
        found = along_chain(read_run(bench(0.8, 0.6, phone=0.7), KNOWN))
        self.assertEqual([p for p, _ in found.energies], ["socket", "meter", "phone", "battery"])
        through = {(p.start, p.end): p.share.value for p in found.passages}
        self.assertAlmostEqual(through["socket", "meter"], 0.8, places=2)
        self.assertAlmostEqual(through["meter", "phone"], 0.7, places=2)
        walked = chain_stages(found)
        self.assertEqual([s.wh for s in walked], sorted((s.wh for s in walked), reverse=True))
        self.assertEqual({s.stand for s in walked}, {"measured"})

    def test_without_percentages_the_share_is_still_of_the_sockets_energy(self):
        reading = read_run(replace(bench(0.8, phone=0.5), readings=None), KNOWN)
        found = along_chain(reading)
        self.assertEqual([p for p, _ in found.energies], ["socket", "meter", "phone"])
        self.assertIsNone(found.socket_to_battery)
        self.assertRegex(said(reading)["socket_to_phone"], r"^\*(39|40)\.\d %\* of \*31\.\d Wh\* from the socket")
        self.assertAlmostEqual(next(f.value for f in figures(reading) if f.key == "socket_to_phone"), 40.0, delta=0.5)

    def test_a_plug_alone_tells_how_much_of_the_sockets_energy_is_in_the_battery(self):
        log = bench(0.8, 0.6)
        log = replace(log, trace=unmetered(0.0, 7260.0))
        reading = read_run(log, KNOWN)
        found = along_chain(reading)
        self.assertEqual([p for p, _ in found.energies], ["socket", "battery"])
        self.assertAlmostEqual(found.passages[0].share.value, 0.48, delta=found.passages[0].share.expanded)
        self.assertIn("from the socket", said(reading)["socket_to_battery"])

    def test_nothing_logged_but_the_meter_and_no_percentages(self):
        self.assertIsNone(along_chain(read_run(replace(bench(socket=False), readings=None), KNOWN)))

    def test_a_socket_that_was_heard_for_a_part_has_no_energy(self):
        whole = bench().socket
        for from_s, to_s in ((0.0, 3000.0), (4000.0, 7260.0)):
            inside = (whole.time_s >= from_s) & (whole.time_s < to_s)
            part = power_trace(whole.time_s[inside], whole.power_w[inside])
            found = along_chain(read_run(replace(bench(), socket=part), KNOWN))
            self.assertEqual([p for p, _ in found.energies], ["meter", "battery"])

    def test_a_hole_widens_what_is_stated(self):
        whole = bench().socket
        kept = (whole.time_s < 2000.0) | (whole.time_s > 4000.0)
        holed = replace(bench(0.8), socket=power_trace(whole.time_s[kept], whole.power_w[kept]))
        before, after = (
            along_chain(read_run(log, KNOWN)).passage("socket", "meter").share for log in (bench(0.8), holed)
        )
        self.assertGreater(after.expanded, before.expanded)
        self.assertAlmostEqual(after.value, 0.8, delta=after.expanded)


class NotTold(unittest.TestCase):
    def test_what_hangs_on_the_adapter_as_well(self):
        for more in ({"socket_shared": True}, {"shared_with": "Tarn 9"}):
            with self.subTest(str(more)):
                reading = read_run(bench(), replace(KNOWN, **more))
                found = along_chain(reading)
                self.assertTrue(found is None or found.energy("socket") is None)
                self.assertFalse([f for f in figures(reading) if "socket" in f.key])

    def test_the_uncertainty_of_meters_that_nobody_knows(self):
        reading = read_run(bench(0.8), replace(KNOWN, socket_meter=MeterSpec(None)))
        found = along_chain(reading)
        self.assertEqual(found.passage("socket", "meter").share.parts, ())
        [figure] = [f for f in figures(reading) if f.key == "socket_to_meter"]
        self.assertIsNone(figure.expanded)
        self.assertIn("no ± is given", figure.numbers)
        self.assertNotIn("±", said(reading)["socket_to_battery"])

    def test_more_at_the_meter_than_at_the_socket_is_a_contradiction_and_no_efficiency(self):
        for meter, adapter, told in (
            (MeterSpec(1.0), 1.1, True), (MeterSpec(1.0), 1.005, False), (MeterSpec(None), 1.04, False),
            (MeterSpec(None), 1.12, True),
        ):  # fmt: skip
            with self.subTest(meter=meter, adapter=adapter):
                reading = read_run(bench(adapter), replace(KNOWN, socket_meter=meter))
                self.assertEqual("contradiction" in said(reading), told)
                self.assertEqual(along_chain(reading).whole is None, told)

    def test_the_phones_own_figure_has_no_uncertainty(self):
        reading = read_run(bench(socket=False, phone=0.7), KNOWN)
        self.assertEqual(along_chain(reading).passage("meter", "phone").share.parts, ())
        self.assertIn("*70 %*", said(reading)["meter_to_phone"])

    def test_a_few_minutes_are_too_short(self):
        log = bench(to_s=500.0)
        self.assertIsNone(along_chain(read_run(replace(log, readings=None), KNOWN)))


class Room(unittest.TestCase):
    def test_the_rooms_humidity_after_placing(self):
        log = replace(bench(), besides=besides(humidity=[(0.0, 80.0), (600.0, 40.0), (1200.0, 50.0)]))
        found = {f.key: f for f in figures(read_run(log, KNOWN))}
        self.assertEqual((found["humidity"].value, found["humidity"].unit), (45.0, "%"))
        self.assertNotIn("humidity", {f.key for f in figures(read_run(bench(), KNOWN))})


class AtRest(unittest.TestCase):
    def test_the_sockets_draw_with_no_phone(self):
        at = np.arange(0.0, 7200.0, 1.0)
        watts = np.where(at < 900.0, 0.3, 12.0)
        plug = np.arange(0.0, 7200.0, 10.0)
        drawn = np.where(plug < 900.0, 0.9, 14.0)
        log = RunLog(power_trace(at, watts, np.full(len(at), 9.0), watts / 9.0), socket=power_trace(plug, drawn))
        found = {f.key: f for f in figures(read_run(log, replace(KNOWN, placed_s=900.0)))}
        self.assertAlmostEqual(found["no_load"].value, 0.3, places=2)
        self.assertAlmostEqual(found["socket_no_load"].value, 0.9, places=2)
        self.assertEqual(found["socket_no_load"].point, "socket")
