import unittest

import numpy as np

from jaunecharge.core.log.check_ins import Battery, make_check_ins, milestone, reached
from jaunecharge.core.log.flow import flow_of
from jaunecharge.core.log.trace import power_trace
from jaunecharge.core.reading.read_run import Conditions, RunLog, read_run
from jaunecharge.core.versus.contender import course_of
from jaunecharge.core.versus.window import crossing
from jaunecharge.documents.run_summary import CourseDocument
from tests.cases import checkins
from tests.other_runs import made_run
from tests.own_runs import own_run

EVERY_S = 600


def sharp(trace, time_s, percent, no_load_w):
    """Milestones of 50 and 80 % of check-ins beside a meter's log."""
    readings = make_check_ins(time_s, percent)
    readings = type(readings)(readings.time_s, readings.percent, flow=flow_of(trace, readings.time_s, no_load_w))
    return {p: m for p in (50, 80) if (m := milestone(readings, p)) is not None}


def own(seed):
    """Milestones of a run of the product's simulator, and the truth."""
    _, run, _, _ = own_run(seed)
    charge = run.charge
    placed = int(charge.scenario.placed_s)
    at = np.arange(placed, len(charge.shown), EVERY_S)
    truth = {p: float(np.argmax(charge.shown >= p)) for p in (50, 80) if charge.shown.max() >= p}
    trace = power_trace(run.time_s, run.volts * run.amps)
    return sharp(trace, at.astype(float), charge.shown[at], charge.scenario.no_load_w), truth


def other(seed):
    """The same of a run of the generator of the tests."""
    run = made_run(seed)
    step = float(np.median(np.diff(run.checkin_s))) if len(run.checkin_s) > 1 else 0.0
    thin = round(EVERY_S / step) if step else 0
    if thin < 1 or abs(thin * step - EVERY_S) > 1.0:
        return {}, {}
    trace = power_trace(run.time_s, run.volts * run.amps)
    return sharp(trace, run.checkin_s[::thin], run.percent[::thin], run.no_load_w), run.crossings_s


class Intervals(unittest.TestCase):
    def held(self, runs):
        hits, widths = [], []
        for milestones, truth in runs:
            for percent, m in milestones.items():
                if m.by_s is None or percent not in truth:
                    continue
                self.assertLessEqual(m.after_s - 1.0, m.earliest_s)
                self.assertLessEqual(m.latest_s, m.by_s + 1.0)
                hits.append(m.earliest_s - 1.0 <= truth[percent] <= m.latest_s + 1.0)
                widths.append((m.latest_s - m.earliest_s) / 60.0)
        return np.mean(hits), np.median(widths), len(hits)

    def test_of_95_percent_hold_the_truth_that_often_and_are_narrow(self):
        for name, runs in (("own", map(own, range(100))), ("other", map(other, range(250)))):
            with self.subTest(name):
                held, width, count = self.held(runs)
                self.assertGreater(count, 150)
                self.assertTrue(0.92 <= held <= 0.985, held)
                self.assertLessEqual(width, 2.5)


class Rules(unittest.TestCase):
    def trace(self, *pieces):
        watts = np.concatenate([np.full(60 * minutes, float(w)) for minutes, w in pieces])
        return power_trace(np.arange(len(watts), dtype=float), watts)

    def with_flow(self, trace, *pairs):
        readings = checkins(*pairs)
        return type(readings)(readings.time_s, readings.percent, flow=flow_of(trace, readings.time_s, 0.0))

    STEPS = ((0, 10), (10, 23), (20, 36), (30, 49), (40, 62), (50, 75), (60, 88))

    def test_the_level_follows_the_power_between_two_check_ins(self):
        trace = self.trace((25, 20), (35, 10))
        # From 20 to 25 min at 20 W, to 30 min at 10 W: two thirds of the ten points in the first half.
        bent = self.with_flow(trace, (0, 10), (10, 30), (20, 50), (30, 65), (40, 75))
        self.assertAlmostEqual(float(bent.level(25 * 60.0)), 60.0, delta=0.3)
        self.assertAlmostEqual(float(bent.level(20 * 60.0)), 50.0, places=6)
        self.assertAlmostEqual(float(bent.level(5 * 60.0)), 20.0, delta=0.1)

    def test_where_the_percentage_does_not_follow_the_energy_the_check_ins_stand(self):
        odd = self.with_flow(self.trace((60, 10)), (0, 20), (10, 30), (20, 40), (30, 41), (40, 42), (50, 70), (60, 80))
        self.assertIsNone(milestone(odd, 50).by_s)
        self.assertEqual(reached(odd, 50)[::2], (2400, 3000))

    def test_a_hole_and_a_full_phone_are_not_sharpened(self):
        time_s = np.concatenate([np.arange(0, 2100.0), np.arange(2500.0, 4000)])
        whole = power_trace(time_s, np.full(len(time_s), 12.0))
        readings = self.with_flow(whole, *self.STEPS[:-1], (60, 88), (66, 100))
        self.assertIsNone(milestone(readings, 55).by_s)
        self.assertIsNotNone(milestone(readings, 30).by_s)
        self.assertIsNone(milestone(readings, 100).by_s)

    def test_without_a_meter_or_with_one_read_by_eye_nothing_changes(self):
        sparse = power_trace(np.arange(0, 3900.0, 300.0), np.full(13, 12.0))
        self.assertIsNone(flow_of(sparse, checkins(*self.STEPS).time_s, 0.0))
        plain = checkins(*self.STEPS)
        self.assertEqual(reached(plain, 55)[::2], (1800, 2400))

    def test_a_shared_meter_tells_nothing_of_one_phone(self):
        log = RunLog(self.trace((61, 12)), checkins(*self.STEPS))
        alone = read_run(log, Conditions(Battery(4000, 3.87)))
        shared = read_run(log, Conditions(Battery(4000, 3.87), shared_with="another phone"))
        self.assertIsNotNone(alone.milestone(50).by_s)
        self.assertIsNone(shared.milestone(50).by_s)

    def test_comparisons_read_the_same_and_what_is_kept_says_the_same(self):
        reading = read_run(
            RunLog(self.trace((1, 0.3), (61, 12)), checkins(*((m + 1, p) for m, p in self.STEPS))), Conditions()
        )
        course, m = course_of(reading), reading.milestone(80)
        kept = CourseDocument.model_validate(CourseDocument.of(course).model_dump(mode="json")).course()
        for readings in (course.readings, kept.readings):
            at = crossing(readings, 80)
            self.assertAlmostEqual(at.estimate, (m.estimate_s - reading.placed_s) / 60.0, places=2)
            self.assertAlmostEqual(at.latest, (m.latest_s - reading.placed_s) / 60.0, places=2)
