"""What must hold of any log, on many invented ones."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunecharge.core.log import check_ins as bat
from jaunecharge.core.log.check_ins import Battery, make_check_ins
from jaunecharge.core.log.energy import energy_between
from jaunecharge.core.log.trace import power_trace
from jaunecharge.core.reading.read_run import Conditions, RunLog, read_run
from jaunecharge.core.simulator.cell import usual_cell
from jaunecharge.core.simulator.rehearsal import rehearse
from jaunecharge.core.simulator.simulate import Nodes, Scenario

seeds = st.integers(0, 10_000)


def rough_log(seed, count=400):
    """A log with noise, doubled rows, rows out of order and a hole."""
    rng = np.random.default_rng(seed)
    time_s = np.cumsum(rng.choice([1.0, 1.0, 1.0, 2.0, 90.0], count, p=[0.4, 0.3, 0.2, 0.09, 0.01]))
    power_w = rng.uniform(0, 20, count)
    at = rng.integers(0, count, 20)
    time_s, power_w = np.append(time_s, time_s[at]), np.append(power_w, power_w[at])
    swap = int(rng.integers(0, count - 2))
    time_s[[swap, swap + 1]] = time_s[[swap + 1, swap]]
    return time_s, power_w


class OfAnyLog(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(seeds)
    def test_cleaning_twice_changes_nothing(self, seed):
        once = power_trace(*rough_log(seed))
        twice = power_trace(once.time_s, once.power_w)
        np.testing.assert_array_equal(once.time_s, twice.time_s)
        self.assertEqual((twice.cleaned.duplicates, twice.cleaned.reordered), (0, 0))
        self.assertEqual(once.cleaned.missing_s, twice.cleaned.missing_s)
        self.assertTrue(np.all(np.diff(once.time_s) > 0))

    @settings(max_examples=60, deadline=None)
    @given(seeds, st.floats(0.05, 0.95))
    def test_energies_of_two_parts_make_the_whole(self, seed, share):
        trace = power_trace(*rough_log(seed))
        middle = trace.start_s + share * (trace.end_s - trace.start_s)
        parts = [
            energy_between(trace, trace.start_s, middle), energy_between(trace, middle, trace.end_s),
        ]  # fmt: skip
        whole = energy_between(trace, trace.start_s, trace.end_s)
        self.assertAlmostEqual(sum(p.bridged.value for p in parts), whole.bridged.value, places=9)
        self.assertAlmostEqual(sum(p.metered.value for p in parts), whole.metered.value, places=9)
        self.assertLessEqual(whole.metered.value, whole.bridged.value + 1e-12)
        self.assertLessEqual(whole.covered_s, whole.span_s + 1e-9)

    @settings(max_examples=100, deadline=None)
    @given(st.lists(st.integers(0, 100), min_size=2, max_size=25), st.integers(1, 100))
    def test_a_milestone_lies_in_its_interval(self, percents, percent):
        readings = make_check_ins(np.arange(len(percents)) * 600.0, np.array(percents, dtype=float))
        found = bat.milestone(readings, percent)
        if found is not None:
            self.assertTrue(found.earliest_s < found.estimate_s <= found.latest_s)
            self.assertTrue(np.all(readings.percent[readings.time_s <= found.earliest_s] < percent))
            self.assertGreaterEqual(readings.percent[readings.time_s == found.latest_s][0], percent)

    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.integers(0, 100), min_size=2, max_size=25))
    def test_later_milestones_come_later(self, percents):
        readings = make_check_ins(np.arange(len(percents)) * 600.0, np.array(percents, dtype=float))
        times = [m.estimate_s for m in bat.milestones(readings)]
        self.assertEqual(times, sorted(times))


def invented(watts, cell, **more):
    """A run that is never hot: what is read from it depends on its watts alone."""
    nodes = Nodes(170.0, 90.0, 3.0, 3.0, 0.25)
    return Scenario(**{"cell": cell, "nodes": nodes, "stages": ((0.0, watts),), **more})


class OfInventedRuns(unittest.TestCase):
    """Runs whose capacity, meter and percentages err as stated: the stated uncertainty covers what is true."""

    def test_the_efficiency_is_covered_about_as_often_as_k_2_says(self):
        rng = np.random.default_rng(8)
        made = rehearse(invented(15.0, usual_cell(4400.0, 3.87), tail_s=300.0, start_percent=5.0), 21)
        true = read_run(self.log(made, 1.0, 1.0), Conditions(Battery(4400.0, 3.87, 1.0))).efficiency.value
        hits = 0
        for _ in range(200):
            gain_v, gain_a = 1 + rng.uniform(-0.005, 0.005, 2)
            zero_v, zero_a = rng.uniform(-0.01, 0.01, 2)
            rated = 4400.0 / (1 + rng.uniform(-0.03, 0.03))
            reading = read_run(self.log(made, gain_v, gain_a, zero_v, zero_a), Conditions(Battery(rated, 3.87, 1.0)))
            hits += abs(reading.efficiency.value - true) <= reading.efficiency.expanded
        self.assertGreaterEqual(hits / 200, 0.95)
        self.assertLess(reading.efficiency.expanded / true, 0.1, "an interval that covers all says nothing")

    def log(self, made, gain_v, gain_a, zero_v=0.0, zero_a=0.0):
        volts, amps = made.volts * gain_v + zero_v, made.amps * gain_a + zero_a
        return RunLog(power_trace(made.time_s, volts * amps, volts, amps), make_check_ins(made.checkin_s, made.percent))

    def test_placing_and_levels_are_found_in_every_one(self):
        rng = np.random.default_rng(9)
        for seed in range(12):
            placed, watts, idle = rng.uniform(20, 600), rng.uniform(5, 20), rng.uniform(0.1, 3.0)
            cell = usual_cell(2500.0, 3.87, most_c_rate=3.0)
            made = rehearse(invented(watts, cell, placed_s=float(round(placed)), no_load_w=idle, idle_w=0.0), seed)
            found = read_run(self.log(made, 1.0, 1.0), Conditions(Battery(2500.0, 3.87)))
            with self.subTest(seed):
                self.assertAlmostEqual(found.placed_s, placed, delta=15)
                drawn = idle + watts / made.charge.scenario.efficiency
                self.assertAlmostEqual(found.best_settled.watts, drawn, delta=0.02 * drawn)
                self.assertAlmostEqual(found.no_load.watts, idle, delta=0.05)
                self.assertAlmostEqual(found.after_full.watts, idle, delta=0.05)
