"""A phone at its charge limit that is charged back up to it, again and again."""

import unittest

import numpy as np

from jaunecharge.core.log.check_ins import Battery, make_check_ins
from jaunecharge.core.log.temperatures import heat_log
from jaunecharge.core.log.trace import power_trace
from jaunecharge.core.reading.read_run import Conditions, RunLog, read_run
from jaunecharge.core.report.sentences import sentences


def kept_at(limit, off_min, run_down, with_heat=True, limits="", hours=4):
    """The reading of a charge to a limit at a point a minute, then stops in which the battery runs down."""
    rng = np.random.default_rng(1)
    watts, level = [np.full(60, 0.4)], [np.full(60, 10.0)]
    up = np.arange(10.0, limit, 1 / 60)
    watts.append(np.full(len(up), 15.0))
    level.append(up)
    while sum(map(len, watts)) < hours * 3600 + 5000:
        off = np.linspace(limit, limit - run_down, int(off_min * 60))
        again = np.arange(limit - run_down, limit, 0.7 / 60)
        watts += [np.full(len(off), 0.45), np.full(len(again), 15.0)]
        level += [off, again]
    drawn, levels = np.concatenate(watts), np.concatenate(level)
    drawn = np.maximum(0.0, drawn + 0.03 * rng.normal(size=len(drawn)))
    at = np.arange(60, len(drawn), 600)
    celsius = [25.0]
    for w in drawn[1:]:
        celsius.append(celsius[-1] + (25.0 + 0.9 * w - celsius[-1]) / 900.0)
    times = np.arange(0, len(drawn), 30)
    heat = heat_log(["back"] * len(times), times.astype(float), np.array(celsius)[times], 25.0) if with_heat else None
    log = RunLog(
        power_trace(np.arange(len(drawn), dtype=float), drawn),
        make_check_ins(at.astype(float), np.floor(levels[at] + 0.3)),
        heat,
    )
    return read_run(log, Conditions(Battery(4400, 3.87), limits=limits))


class ToppedUp(unittest.TestCase):
    def causes(self, reading):
        return {d.cause for d in reading.judged.dips}

    def test_every_stop_is_the_limit(self):
        for limit, off_min, run_down in ((80, 55, 2), (80, 95, 3), (85, 40, 2)):
            for with_heat in (True, False):
                with self.subTest((limit, off_min, with_heat)):
                    reading = kept_at(limit, off_min, run_down, with_heat)
                    self.assertEqual(self.causes(reading), {"hold"})
                    said = " ".join(s.plain for s in sentences(reading))
                    self.assertIn(f"Held at {limit} %", said)
                    self.assertNotIn("contact", said)

    def test_at_a_level_where_no_phone_is_told_to_stop_it_is_none(self):
        self.assertNotIn("hold", self.causes(kept_at(70, 55, 2)))

    def test_a_battery_that_runs_down_far_was_taken_off(self):
        self.assertNotIn("hold", self.causes(kept_at(80, 55, 12)))

    def test_with_limits_seen_off_nothing_explains_it(self):
        self.assertEqual(self.causes(kept_at(80, 55, 2, limits="seen off")), {"unexplained"})
