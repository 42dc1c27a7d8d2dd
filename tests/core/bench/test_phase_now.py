"""The phase of a lane while it runs, and when it will be done, on simulated charges whose truth is known."""

import unittest
from typing import ClassVar

import numpy as np

from jaunecharge.core.bench.finish_time import Curve, finish, minutes_at, tens_reached
from jaunecharge.core.bench.phase_now import phase_now
from jaunecharge.core.chain.check import Chain
from jaunecharge.core.forecast.chain_forecast import forecast
from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.core.log.check_ins import Battery, make_check_ins
from jaunecharge.core.log.trace import power_trace
from jaunecharge.core.reading.read_run import Conditions, RunLog, read_run
from jaunecharge.core.simulator.circumstances import Circumstances, Event
from jaunecharge.core.simulator.scenario import prepare
from jaunecharge.core.simulator.simulate import simulate

CHAIN = Chain(
    kit_from_line("adapter Plug 20 20W"), None, kit_from_line("puck Cairn disc mpp claims 15W asks 9V2.22A"),
    kit_from_line("phone Ostrel Max 4700mAh mpp wired 25W large magnets"),
)  # fmt: skip


def lane(around=Circumstances(), step=10):
    """A simulated lane: means of ten seconds, and what the phone shows."""
    charge = simulate(prepare(CHAIN, around).scenario)
    n = len(charge.power_w) // step
    watts = charge.power_w[: n * step].reshape(n, step).mean(axis=1)
    return charge, step * (np.arange(n) + 0.5), watts


class Tens(unittest.TestCase):
    def test_each_ten_once_on_the_line_between_readings(self):
        rows = [(0.0, 5.0), (10.0, 15.0), (20.0, 35.0), (30.0, 31.0), (40.0, 40.0)]
        self.assertEqual(tens_reached(rows), [(10, 5.0), (20, 12.5), (30, 17.5), (40, 40.0)])

    def test_the_level_at_the_start_is_not_reached_then(self):
        self.assertEqual(tens_reached([(0.0, 10.0), (10.0, 12.0)]), [])
        self.assertEqual(tens_reached([]), [])


class PhaseNow(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.charge, cls.time_s, cls.watts = lane(Circumstances(start_percent=10.0))

    def at(self, minute, percent=True, **more):
        now = 60.0 + minute * 60.0
        kept = self.time_s <= now
        shown = float(self.charge.shown[int(now)]) if percent else None
        placed = 60.0 if now >= 60.0 else None
        return phase_now(now, placed, self.time_s[kept], self.watts[kept], shown, 0.4, **more)

    def test_from_waiting_to_full(self):
        self.assertEqual(self.at(-0.5).said, "waiting for the phone")
        self.assertEqual(self.at(0.5).kind, "ramp")
        self.assertEqual(self.at(12).said, "plateau")
        ninety = self.charge.minutes_to(92)
        self.assertIn(self.at(ninety).kind, {"taper", "trickle"})
        full = self.charge.minutes_to(100)
        self.assertIn("full", self.at(full + 5).said)

    def test_nothing_is_claimed_without_a_percentage(self):
        self.assertNotIn(self.at(self.charge.minutes_to(92), percent=False).kind, {"taper", "trickle", "full"})

    def test_a_dead_phone_wakes(self):
        time_s = np.arange(0.0, 300.0, 10.0)
        self.assertEqual(phase_now(300.0, 0.0, time_s, np.full(30, 3.0), 0.0, 0.4, 0.0).kind, "wake")

    def test_a_weak_chain_is_no_dead_phone(self):
        time_s = np.arange(0.0, 300.0, 10.0)
        told = phase_now(300.0, 0.0, time_s, np.full(30, 6.3), 0.0, 0.4, 0.0, expected_w=6.5)
        self.assertEqual(told.said, "plateau")

    def test_a_lost_phone(self):
        _, time_s, watts = lane(Circumstances(events=(Event("slip", 1500.0, 300.0),)))
        kept = time_s <= 1571
        self.assertRegex(phase_now(1571.0, 60.0, time_s[kept], watts[kept], 30.0, 0.4).said, "no power for (60|70) s")

    def test_a_lower_plateau_says_from_where(self):
        time_s = np.arange(0.0, 3600.0, 10.0)
        watts = np.where(time_s < 1800, 18.0, 9.0)
        self.assertEqual(phase_now(3600.0, 0.0, time_s, watts, 40.0, 0.4).said, "plateau, down from 18.0 W")

    def test_without_a_meter(self):
        empty = np.zeros(0)
        self.assertEqual(phase_now(600.0, 0.0, empty, empty).said, "logged by hand")
        self.assertEqual(phase_now(600.0, None, empty, empty).said, "waiting for the meter")

    def test_just_placed_the_meter_has_shown_nothing_of_it_yet(self):
        before, watts = np.arange(0.0, 600.0, 10.0), np.full(60, 0.4)
        self.assertEqual(phase_now(605.0, 601.0, before, watts).said, "ramp")
        self.assertEqual(phase_now(690.0, 601.0, before, watts).said, "nothing from the meter")


class AsRead(unittest.TestCase):
    """Minute by minute the bench says what the reading says once the run is over."""

    KINDS: ClassVar = {
        "plain": Circumstances(start_percent=10.0), "from dead": Circumstances(start_percent=0.0),
        "in a warm room": Circumstances(ambient_c=33.0),
    }  # fmt: skip

    def test_the_phase_of_each_minute(self):
        for name, around in self.KINDS.items():
            with self.subTest(name):
                said = self.both(around)
                settled = [(read, now) for read, now, minutes in said if minutes >= 6 and read in {"plateau", "taper"}]
                self.assertGreater(len(settled), 90)
                self.assertLess(sum(read != now for read, now in settled), 0.1 * len(settled), settled)
                tapers = [read for read, now, _ in said if now in {"taper", "trickle"}]
                self.assertLessEqual(set(tapers), {"taper", "trickle", "full"})

    def both(self, around):
        """For each minute: the phase as it was read, as it was told, and how long it had lasted."""
        charge, time_s, watts = lane(around)
        noisy = charge.power_w + np.random.default_rng(3).normal(0.0, 0.05, len(charge.power_w))
        at = np.arange(60, len(noisy), 600)
        log = RunLog(
            power_trace(np.arange(len(noisy), dtype=float), noisy),
            make_check_ins(at.astype(float), charge.shown[at]),
        )
        phases = read_run(log, Conditions(battery=Battery(4700.0, 3.87))).judged.phases
        found = []
        for now in range(120, len(noisy) - 60, 60):
            read = next(p for p in phases if p.start_s <= now < p.end_s)
            kept = time_s <= now
            told = phase_now(now, 60.0, time_s[kept], watts[kept], float(charge.shown[now]), 0.4, around.start_percent)
            found.append((read.kind, told.kind, (now - read.start_s) / 60.0))
        return found


class FinishTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        found = forecast(CHAIN, Circumstances())
        cls.curve = Curve(found.minutes, found.least, found.likely, found.most)

    def shown(self, until, pace=1.0, step=10.0):
        minutes = np.arange(0.0, until + 1e-9, step)
        return [(m, float(np.floor(np.interp(m / pace, self.curve.minutes, self.curve.likely) + 0.5))) for m in minutes]

    def test_before_the_start_it_is_the_forecast(self):
        found = finish(self.curve, [], 80.0)
        self.assertEqual(found.likely_min, minutes_at(self.curve, "likely", 80.0))
        self.assertLess(found.low_min, found.likely_min)
        self.assertGreater(found.high_min, found.likely_min)

    def test_a_slower_lane_is_done_later(self):
        for pace in (0.8, 1.0, 1.3):
            truth = minutes_at(self.curve, "likely", 80.0) * pace
            found = finish(self.curve, self.shown(truth * 0.6, pace), 80.0)
            self.assertAlmostEqual(found.likely_min, truth, delta=0.08 * truth)
            self.assertLess(found.low_min, truth)
            self.assertGreater(found.high_min, truth)

    def test_the_range_shrinks_as_it_goes_on(self):
        truth = minutes_at(self.curve, "likely", 80.0)
        widths = [f.high_min - f.low_min for s in (0, 20, 40) if (f := finish(self.curve, self.shown(s), 80.0))]
        self.assertEqual(widths, sorted(widths, reverse=True))
        self.assertLess(widths[-1], 0.4 * truth)

    def test_once_it_is_reached_nothing_is_forecast(self):
        found = finish(self.curve, [(0.0, 70.0), (14.0, 82.0), (24.0, 90.0)], 80.0)
        self.assertEqual((found.low_min, found.likely_min, found.high_min), (14.0, 14.0, 14.0))

    def test_a_level_that_is_never_reached(self):
        capped = Curve(
            self.curve.minutes, *(np.minimum(c, 70.0) for c in (self.curve.least, self.curve.likely, self.curve.most))
        )
        self.assertIsNone(finish(capped, [(0.0, 10.0), (10.0, 20.0)], 100.0).likely_min)
