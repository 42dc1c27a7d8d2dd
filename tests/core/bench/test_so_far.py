"""A lane is read before its run is over by the rules of the finished run: what both say is the same."""

import unittest
from dataclasses import replace

import numpy as np

from jaunecharge.core.bench.alarms import watch
from jaunecharge.core.bench.phase_now import phase_now
from jaunecharge.core.bench.seen import Seen
from jaunecharge.core.bench.so_far import SoFar, lower_said, paced_now, so_far, stop_said
from tests.cases import steps
from tests.core.small_runs import PLACED, cycles, follow, read
from tests.judging import read_made
from tests.mixed_runs import mixed_run

NONE = np.zeros(0)


def by_then(run, minute, no_load_w=None, placed_s=None):
    """A made run as a lane knows it after so many minutes: means of ten seconds."""
    until = minute * 60.0
    watts = run.volts * run.amps
    kept = run.time_s <= until
    place = (run.time_s[kept] // 10).astype(int)
    count = np.bincount(place)
    mean, volts = (np.bincount(place, v[kept])[count > 0] / count[count > 0] for v in (watts, run.volts))
    times = (np.flatnonzero(count) + 0.5) * 10.0
    percents = [(t, p) for t, p in zip(run.checkin_s, run.percent, strict=True) if run.placed_s <= t <= until]
    warm = run.heat_s <= until
    placed = run.placed_s if placed_s is None else placed_s
    return so_far(times, mean, volts, placed, no_load_w, percents, run.heat_s[warm], run.celsius[warm])


def lane(levels, percents, heat=(NONE, NONE), limits=""):
    """Levels as a lane knows them as they end: (what is known, moment)."""
    trace = steps(*levels, step_s=10.0)
    rows = [(60.0 * m, float(p)) for m, p in percents]
    known = so_far(trace.time_s, trace.power_w, None, 60.0, 0.5, rows, *heat, limits)
    return known, trace.end_s


class Stops(unittest.TestCase):
    LIMIT = (PLACED, (3600, 15.0), (1500, 0.5))
    AT_80 = ((1, 20), (31, 50), (60, 80), (70, 80), (85, 80))

    def test_held_at_a_limit(self):
        known, now_s = lane(self.LIMIT, self.AT_80)
        self.assertEqual((known.held_at, stop_said(known, now_s)), (80.0, "held at 80 % for 25 min"))
        self.assertEqual(read(self.LIMIT, self.AT_80).judged.dips[-1].cause, "hold")
        trace = steps(*self.LIMIT, step_s=10.0)
        now = phase_now(now_s, 60.0, trace.time_s, trace.power_w, 80.0, 0.5, known=known)
        self.assertEqual((now.kind, now.said), ("hold", "held at 80 % for 25 min"))

    def test_too_early_to_tell_it_is_no_power(self):
        known, now_s = lane([PLACED, (3600, 15.0), (300, 0.5)], self.AT_80[:-1])
        self.assertEqual(stop_said(known, now_s), "")
        seen_off, now_s = lane(self.LIMIT, self.AT_80, limits="seen off")
        self.assertEqual(stop_said(seen_off, now_s), "")

    def test_charged_back_up_again_and_again(self):
        levels = [*self.LIMIT, (200, 15.0), (1500, 0.5), (200, 15.0), (400, 0.5)]
        percents = [*self.AT_80, (87, 79), (90, 80), (100, 80), (112, 79), (116, 80), (121, 80)]
        known, now_s = lane(levels, percents)
        self.assertEqual(stop_said(known, now_s), "held at 80 %, stopped 3 times")

    def test_to_cool(self):
        levels = cycles(15.0, 0.5, hot_c=42.0, cool_c=38.0, hours=2.0)
        levels = [PLACED, *levels[:-1][: len(levels[:-1]) // 2 * 2]]
        known, now_s = lane(levels, [(1, 10), (60, 40), (150, 70)], follow(levels))
        self.assertRegex(stop_said(known, now_s), r"^stopped by heat, \d+ min$")

    def alarms(self, known, now_s):
        at = np.arange(now_s - 900.0, now_s)
        seen = Seen(now_s, 60.0, at, np.where(at < now_s - 700, 15.0, 0.5), percents=((0.0, 10.0), (now_s, 80.0)),
                    no_load_w=0.5, metered=True, known=known)  # fmt: skip
        return {a.key: a for a in watch(seen) if a.key in {"no power", "held", "cooling"}}

    def test_the_alarm_says_why_once_that_is_known(self):
        known, now_s = lane(self.LIMIT, self.AT_80)
        [held] = self.alarms(known, now_s).values()
        self.assertEqual((held.key, held.seen), ("held", "held at 80 %"))
        self.assertEqual(set(self.alarms(SoFar(), now_s)), {"no power"})
        levels = [PLACED, *cycles(15.0, 0.5, hot_c=42.0, cool_c=38.0, hours=2.0)[:-1]]
        levels = levels if levels[-1][1] < 1 else levels[:-1]
        cooling, now_s = lane(levels, [(1, 10), (60, 40), (150, 70)], follow(levels))
        [alarm] = self.alarms(cooling, now_s).values()
        self.assertEqual((alarm.key, alarm.level), ("cooling", "note"))
        self.assertEqual(self.alarms(replace(cooling, dip=None), now_s).keys(), {"no power"})


class AsRead(unittest.TestCase):
    def test_what_the_bench_says_the_finished_run_says_too(self):
        said = wrong = 0
        for seed in range(40_000, 40_035, 5):
            run = mixed_run(seed).run
            read_later = read_made(run).judged
            for minute in np.arange(run.time_s[0] / 60 + 20, run.time_s[-1] / 60, 14.0):
                known = by_then(run, minute, run.no_load_w)
                words = stop_said(known, minute * 60) or lower_said(known)
                if not words:
                    continue
                said += 1
                at = [d for d in read_later.dips if d.start_s - 60 <= minute * 60 <= d.end_s + 60]
                wrong += not any(d.cause == known.dip.cause for d in at)
        self.assertGreater(said, 10)
        self.assertLessEqual(wrong, 0.1 * said)


class Pace(unittest.TestCase):
    def paced(self, *pairs):
        rows = [(60.0 * m, float(p)) for m, p in pairs]
        return paced_now(so_far(NONE, NONE, None, 60.0, None, rows, NONE, NONE))

    def test_a_lane_without_a_meter_says_how_fast_it_goes(self):
        self.assertEqual(self.paced(), "")
        self.assertEqual(self.paced(*((m, 10 + m) for m in range(0, 50, 10))), "1.00 points/min")
        slower = [*((m, 10 + m) for m in range(0, 50, 10)), *((50 + m, 58 + m * 0.3) for m in range(0, 60, 10))]
        self.assertRegex(self.paced(*((m, round(p)) for m, p in slower)), r"^0\.3\d points/min, slowed at 5\d %$")

    def test_that_it_stands_still(self):
        rows = [*((m, 10 + m) for m in range(0, 50, 10)), *((50 + m, 60) for m in range(0, 40, 10))]
        self.assertRegex(self.paced(*rows), r"^60 % for \d\d min$")


class Metered(unittest.TestCase):
    def test_with_hardly_any_samples_nothing_is_said(self):
        known = so_far(np.arange(5.0), np.full(5, 12.0), None, 0.0, None, [], NONE, NONE)
        self.assertEqual(known, SoFar())

    def test_a_cut_by_heat_that_has_not_come_back(self):
        levels = [PLACED, (2400, 15.0), (2400, 8.0)]
        at, celsius = follow(levels, hot_w_k=1.2, tau_s=500.0)
        celsius = np.where(at > 2460, celsius[at <= 2460][-1], celsius)
        known, now_s = lane(levels, [(1, 10), (41, 50), (75, 65)], (at, celsius))
        self.assertEqual(lower_said(known), "perhaps by heat")
        trace = steps(*levels, step_s=10.0)
        now = phase_now(now_s, 60.0, trace.time_s, trace.power_w, 65.0, 0.5, known=known)
        self.assertEqual(now.said, "plateau, down from 15.0 W, perhaps by heat")


if __name__ == "__main__":
    unittest.main()
