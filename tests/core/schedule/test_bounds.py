"""What no schedule can beat, what sets the pace, and a search that is stopped."""

import itertools
import unittest
from dataclasses import replace

from jaunecharge.core.schedule.bounds import least_makespan, pace_said
from jaunecharge.core.schedule.greedy import first_schedule
from jaunecharge.core.schedule.problem import Begun, Grid, said_of_schedule, schedule_of, without
from jaunecharge.core.schedule.solver import Search, solve
from tests.core.plans import MONDAY, faults, problem, random_problem, soonest_by_brute_force, task


class Bounds(unittest.TestCase):
    def test_no_schedule_beats_its_bound(self):
        for seed in range(300, 420):
            with self.subTest(seed=seed):
                p = random_problem(seed)
                self.assertLessEqual(least_makespan(p), first_schedule(p, 4).makespan_min + 1e-9)

    def test_a_phone_alone_is_bounded_exactly(self):
        minutes = (95, 170, 120, 60, 215)
        for count in range(1, 6):
            tasks = [task(f"r{i}", charger=f"c{i}", adapter=f"a{i}", minutes=minutes[i]) for i in range(count)]
            p = problem(*tasks, meters=9)
            self.assertEqual(least_makespan(p), soonest_by_brute_force(p))

    def test_a_charger_alone_is_bounded_exactly(self):
        tasks = [task(f"r{i}", f"P{i}", "c", f"a{i}", (95, 170, 120, 60)[i], drain=0, cool=0) for i in range(4)]
        p = problem(*tasks, meters=9)
        self.assertEqual(least_makespan(p), soonest_by_brute_force(p))

    def test_meters_together(self):
        tasks = [task(f"r{i}", f"P{i}", f"c{i}", f"a{i}", 170, drain=0) for i in range(6)]
        self.assertEqual(least_makespan(problem(*tasks, meters=2)), 180.0 + 180.0 + 170.0)
        self.assertEqual(least_makespan(problem(*tasks, meters=6)), 170.0)

    def test_many_kinds_still_give_a_bound(self):
        tasks = [task(f"r{i}", charger=f"c{i}", adapter=f"a{i}", minutes=60 + i) for i in range(18)]
        p = problem(*tasks)
        bound = least_makespan(p)
        self.assertGreater(bound, 3 * 1440)
        self.assertLessEqual(bound, first_schedule(p, 2).makespan_min)

    def test_what_runs_counts(self):
        p = problem(task("r1", begun=Begun(-200.0, -40.0, 400.0)))
        self.assertEqual(least_makespan(p), 400.0)
        self.assertIn("Nothing can end before", pace_said(p, 400.0))


class Pace(unittest.TestCase):
    def test_what_sets_the_pace_is_named(self):
        slow = [task(f"r{i}", "A", f"c{i}", f"a{i}") for i in range(4)]
        p = problem(*slow, task("q", "B", "c9", "a9", 60), meters=5)
        self.assertEqual(pace_said(p, solve(p, 2.0).makespan_min), "A is the bottleneck.")
        one = problem(*[task(f"r{i}", f"P{i}", f"c{i}", f"a{i}", drain=0) for i in range(4)], meters=1)
        self.assertEqual(pace_said(one, solve(one, 2.0).makespan_min), "The one meter is the bottleneck.")
        plug = problem(*[task(f"r{i}", f"P{i}", f"c{i}", "Plug", drain=0) for i in range(4)], meters=4)
        self.assertEqual(pace_said(plug, solve(plug, 2.0).makespan_min), "Plug is the bottleneck.")

    def test_two_that_hold_it_back_alike_are_both_named(self):
        both = problem(*[task(f"{p}{i}", p, f"c{p}{i}", f"a{p}{i}") for p in "AB" for i in range(3)], meters=6)
        self.assertEqual(pace_said(both, solve(both, 2.0).makespan_min), "A and B are each a bottleneck.")

    def test_several_things_together(self):
        p = problem(task("r1"), task("r2", "B"), task("r3", "B", "c2"))
        self.assertIn("There is no single bottleneck", pace_said(p, 2000.0))

    def test_how_good_a_schedule_is_in_words(self):
        self.assertEqual(said_of_schedule(True, 0.0, MONDAY, None), "No shorter schedule exists.")
        self.assertIn("At most 5 % longer", said_of_schedule(False, 0.05, MONDAY, None))
        self.assertEqual(said_of_schedule(False, None, MONDAY, None), "A first schedule.")
        late = said_of_schedule(True, 0.0, MONDAY, MONDAY.replace(hour=7))
        self.assertIn("later than the end you asked for, Mon 01 Mar 07:00", late)
        self.assertEqual(said_of_schedule(False, None, None, None), "Nothing is left to be scheduled.")


class Stopped(unittest.TestCase):
    def test_a_search_that_is_stopped_still_gives_a_schedule(self):
        p = problem(*[task(f"r{i}", "ABC"[i % 3], f"c{i % 4}", f"a{i % 2}", 100 + 13 * (i % 5)) for i in range(18)])
        search, told = Search(), []

        def hear(schedule):
            told.append(schedule)
            search.stop()

        found = solve(p, 60.0, hear, search)
        self.assertTrue(search.stopped)
        self.assertEqual(faults(p, found), [])
        self.assertLessEqual(found.makespan_min, told[0].makespan_min)

    def test_dropped_wishes(self):
        p = problem(task("r1"), task("r2"), order=("r2", "r1"), at_once=1, end=MONDAY.replace(hour=23))
        self.assertEqual(without(p, "order").order, ())
        self.assertIsNone(without(p, "at_once").at_once)
        self.assertIsNone(without(p, "end").end)
        self.assertEqual(without(p, "meters").meters, 2)
        self.assertEqual(without(p, "attended").attended[0].ends, 1440)
        with self.assertRaises(KeyError):
            without(p, "weather")


class GridOfTime(unittest.TestCase):
    def test_where_things_may_begin(self):
        p = problem(task("r1", minutes=170, attended=170), grid_min=30)
        grid = Grid(p, 2 * 1440.0)
        starts = grid.minutes[grid.starts(p.tasks[0])]
        self.assertEqual((starts[0], max(s for s in starts if s < 1440)), (0.0, 660.0))
        self.assertEqual(grid.manned_from(845.0), 1440.0)
        self.assertEqual(grid.manned_until(1000.0), 810.0)
        self.assertIsNone(grid.manned_from(1e9))

    def test_every_order_of_three_gives_a_schedule_that_keeps_the_rules(self):
        tasks = [task("a", minutes=170), task("b", "B", minutes=95), task("c", "A", "c2", minutes=120)]
        for order in itertools.permutations("abc"):
            p = problem(*tasks, order=order, meters=1)
            found = first_schedule(p, 3)
            self.assertEqual(faults(p, found), [])
            self.assertEqual(
                [s.id for s in sorted(found.slots, key=lambda s: s.start)], list(order), "one meter: one after another"
            )

    def test_a_schedule_counts_the_time_that_phones_wait(self):
        p = problem(task("r1", drain=60))
        found = solve(p, 0.5)
        self.assertEqual(found.wait_min, 0.0)
        moved = [replace(s, start=s.start + 45, end=s.end + 45) for s in found.slots]
        self.assertEqual(schedule_of(p, moved).wait_min, 45.0)
