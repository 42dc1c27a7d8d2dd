"""Schedules, held against a validator and a brute force of the tests' own."""

import datetime as dt
import unittest
from dataclasses import replace

from jaunecharge.core.errors import CannotRead, Impossible
from jaunecharge.core.log.clock import zone_named
from jaunecharge.core.schedule.attended_hours import attended_spans, minutes_between, moment_at, window
from jaunecharge.core.schedule.bounds import least_makespan
from jaunecharge.core.schedule.greedy import first_schedule
from jaunecharge.core.schedule.problem import Begun, Slot, schedule_of
from jaunecharge.core.schedule.solver import solve
from tests.core.plans import (
    DAYTIME,
    MONDAY,
    ZURICH,
    faults,
    problem,
    random_problem,
    soonest_by_brute_force,
    task,
    with_packs,
)


class RandomPlans(unittest.TestCase):
    def test_eighty_random_plans_keep_every_rule(self):
        for seed in range(80):
            with self.subTest(seed=seed):
                p, told = random_problem(seed), []
                for found in [solve(p, 0.2, told.append), *told]:
                    self.assertEqual(faults(p, found), [])

    def test_small_plans_are_over_as_soon_as_brute_force_finds(self):
        checked = 0
        for seed in range(1000, 1060):
            p = random_problem(seed, most_runs=5)
            if all(t.begun is None for t in p.tasks):
                with self.subTest(seed=seed):
                    self.assertEqual(solve(p, 5.0).makespan_min, soonest_by_brute_force(p))
                    self.assertLessEqual(least_makespan(p), soonest_by_brute_force(p))
                checked += 1
        self.assertGreater(checked, 30)

    def test_packs_are_full_before_and_rest_after(self):
        emptied = 0
        for seed in range(40):
            with self.subTest(seed=seed):
                p, told = with_packs(random_problem(seed), seed), []
                for found in [solve(p, 0.2, told.append), *told]:
                    self.assertEqual(faults(p, found), [])
                emptied += sum(bool(t.pack) for t in p.tasks)
        self.assertGreater(emptied, 75)

    def test_small_plans_with_packs_are_over_as_soon_as_brute_force_finds(self):
        checked = 0
        for seed in range(1000, 1040):
            p = with_packs(random_problem(seed, most_runs=4), seed)
            if all(t.begun is None for t in p.tasks) and any(t.pack for t in p.tasks):
                with self.subTest(seed=seed):
                    self.assertEqual(solve(p, 5.0).makespan_min, soonest_by_brute_force(p))
                    self.assertLessEqual(least_makespan(p), soonest_by_brute_force(p))
                checked += 1
        self.assertGreater(checked, 15)

    def test_six_runs_of_a_plan_in_earnest(self):
        tasks = [task(f"r{i}", "AB"[i % 2], f"c{i % 3 + 1}", minutes=(170, 95, 120)[i % 3]) for i in range(6)]
        p = problem(*tasks, meters=1)
        found = solve(p, 10.0)
        self.assertTrue(found.optimal)
        self.assertEqual(found.makespan_min, soonest_by_brute_force(p))


class Validator(unittest.TestCase):
    """The validator itself finds each fault."""

    def setUp(self):
        self.p = problem(task("r1"), task("r2", charger="c2"), task("r3", "B", "c1"), meters=1)
        self.found = solve(self.p, 1.0)
        self.assertEqual(faults(self.p, self.found), [])

    def broken(self, name, problem=None, **changes):
        slots = [replace(s, **changes) if s.id == name else s for s in self.found.slots]
        p = problem or self.p
        return " ".join(faults(p, schedule_of(p, slots)))

    def test_each_fault_is_found(self):
        first = self.found.slots[0]
        self.assertIn("before it is drained", self.broken(first.id, start=first.drain_start + 15))
        self.assertIn("another time", self.broken(first.id, end=first.end + 5))
        self.assertIn("off the grid", self.broken(first.id, start=first.start + 1, end=first.end + 1))
        self.assertIn("nobody", self.broken(first.id, start=-300.0, drain_start=-480.0, end=-130.0))
        same = {s.id: s for s in self.found.slots}
        moved = {"start": same["r1"].start, "end": same["r1"].end, "drain_start": same["r1"].drain_start}
        self.assertIn("on one phone at once", self.broken("r2", **moved))
        self.assertIn("more runs than meters", self.broken("r3", **moved))
        self.assertIn("c1 twice", self.broken("r3", **moved))
        ordered = replace(self.p, order=tuple(reversed([s.id for s in self.found.slots])))
        self.assertIn("order is not kept", " ".join(faults(ordered, self.found)))


class Rules(unittest.TestCase):
    def solve(self, *tasks, **more):
        p = problem(*tasks, **more)
        found = solve(p, 3.0)
        self.assertEqual(faults(p, found), [])
        return {s.id: s for s in found.slots}, found

    def test_a_drain_begins_in_the_evening_and_the_run_in_the_morning(self):
        slots, _ = self.solve(task("r1"), task("r2"), task("r3"))
        drains = sorted(slots.values(), key=lambda s: s.start)
        evening = moment_at(MONDAY, drains[2].drain_start)
        self.assertEqual((evening.day, evening.hour < 22), (1, True))
        self.assertEqual(moment_at(MONDAY, drains[2].start), MONDAY + dt.timedelta(days=1))

    def test_phones_lie_drained_no_longer_than_they_must(self):
        _, found = self.solve(task("r1", drain=60), task("r2", drain=60))
        self.assertEqual(found.wait_min, 0.0)

    def test_an_unattended_run_may_go_on_into_the_night(self):
        slots, _ = self.solve(task("r1", minutes=900, attended=False, drain=0))
        self.assertEqual(slots["r1"].start, 0.0)
        soak, _ = self.solve(task("r1", minutes=900, attended=200, drain=0))
        self.assertEqual(soak["r1"].end, 900.0)

    def test_a_given_order_is_kept_though_it_takes_longer(self):
        a, b = task("a", minutes=300, drain=300), task("b", "B", minutes=60, drain=0)
        free, _ = self.solve(a, b, meters=1)
        self.assertLess(free["b"].start, free["a"].start)
        slots, _ = self.solve(a, b, meters=1, order=("a", "b"))
        self.assertGreaterEqual(slots["b"].start, slots["a"].start)

    def test_what_has_begun_never_moves(self):
        running = task("r1", begun=Begun(-200.0, -40.0, 130.0))
        drained = task("r2", "B", begun=Begun(-100.0))
        slots, _ = self.solve(running, drained, task("r3"), meters=1)
        self.assertEqual((slots["r1"].start, slots["r1"].end), (-40.0, 130.0))
        self.assertEqual(slots["r2"].drain_start, -100.0)
        self.assertGreaterEqual(slots["r2"].start, 130.0)
        self.assertGreaterEqual(slots["r3"].drain_start, 160.0)

    def test_equal_plugs_let_runs_go_side_by_side(self):
        pair = [task("r1", "A", "c1", drain=0), task("r2", "B", "c2", drain=0)]
        _, one = self.solve(*pair)
        _, two = self.solve(*pair, copies={"a1": 2})
        self.assertGreater(one.makespan_min, two.makespan_min)

    def test_one_person_minds_one_run(self):
        pair = [task("r1", "A", "c1", "a1", drain=0), task("r2", "B", "c2", "a2", drain=0)]
        _, alone = self.solve(*pair, at_once=1)
        self.assertEqual(alone.makespan_min, 350.0)

    def test_better_ones_are_told_as_they_are_found(self):
        told = []
        p = problem(*[task(f"r{i}", "ABC"[i % 3], f"c{i % 4}", f"a{i % 2}", 100 + 13 * (i % 5)) for i in range(15)])
        last = solve(p, 3.0, told.append)
        ends = [s.makespan_min for s in told]
        self.assertEqual(ends, sorted(ends, reverse=True))
        self.assertEqual(told[-1].makespan_min, last.makespan_min)
        self.assertEqual(faults(p, told[0]), [])

    def test_two_hundred_runs_get_a_first_schedule(self):
        p = problem(*[task(f"r{i}", "ABCDEFGH"[i % 8], f"c{i % 9}", f"a{i % 5}", 90 + i % 90) for i in range(200)],
                    meters=4)  # fmt: skip
        self.assertEqual(faults(p, first_schedule(p, 1)), [])


class ClockChange(unittest.TestCase):
    def test_attended_hours_follow_the_clock_on_the_wall(self):
        # Central European summer time began on 28 March 2027 (EU directive 2000/84/EC: last Sunday of March).
        start = dt.datetime(2027, 3, 27, 8, tzinfo=ZURICH)
        spans = attended_spans(DAYTIME, start, 2 * 1440)
        self.assertEqual([s for s in spans if s[0] >= 0][:2], [(0.0, 840.0), (1380.0, 2220.0)])
        self.assertEqual(moment_at(start, 1380.0).hour, 8)

    def test_a_plan_over_the_change_keeps_every_rule(self):
        for day in (dt.datetime(2027, 3, 27, 8, tzinfo=ZURICH), dt.datetime(2027, 10, 30, 8, tzinfo=ZURICH)):
            p = problem(*[task(f"r{i}", "AB"[i % 2], f"c{i}") for i in range(8)], start=day)
            found = solve(p, 1.0)
            self.assertEqual(faults(p, found), [])
            self.assertGreater(found.makespan_min, 1440)

    def test_a_window_in_the_hour_that_does_not_exist_is_no_window(self):
        start = dt.datetime(2027, 3, 27, 8, tzinfo=ZURICH)
        spans = attended_spans((window("02:10", "02:50"),), start, 1440)
        lengths = [ends - begins for begins, ends in spans]
        self.assertTrue(all(0 < x <= 40 for x in lengths), lengths)

    def test_minutes_pass_as_they_do_in_the_world(self):
        start = dt.datetime(2027, 3, 28, 1, tzinfo=ZURICH)
        self.assertEqual(minutes_between(start, dt.datetime(2027, 3, 28, 4, tzinfo=ZURICH)), 120.0)


class Windows(unittest.TestCase):
    def test_over_midnight_on_weekdays_and_merged(self):
        late = window("20:00", "02:00", ["fri"])
        spans = attended_spans((late, window("01:00", "03:00", ["saturday"])), MONDAY, 7 * 1440)
        self.assertEqual(spans, [(4 * 1440 + 720.0, 4 * 1440 + 1140.0)])
        self.assertEqual(late.said, "20:00 to 02:00 on Fri")

    def test_refused_with_the_mend(self):
        for bad in (("8", "22:00"), ("08:00", "25:00"), ("08:61", "22:00")):
            with self.assertRaisesRegex(CannotRead, "no time of day"):
                window(*bad)
        with self.assertRaisesRegex(CannotRead, "length zero"):
            window("08:00", "08:00")
        with self.assertRaisesRegex(CannotRead, "no day of the week"):
            window("08:00", "09:00", ["someday"])
        with self.assertRaisesRegex(CannotRead, "no time zone"):
            zone_named("Middle/Earth")


class Refused(unittest.TestCase):
    def test_wrong_plans_say_what_would_mend_them(self):
        one = task("r1")
        cases = [
            (problem(), "no runs"),
            (problem(*[replace(one, id=f"r{i}") for i in range(501)]), "501 runs"),
            (problem(one, one), "id of two runs"),
            (problem(one, meters=0), "0 meters"),
            (problem(one, attended=()), "no attended hours"),
            (problem(one, grid_min=0), "grid of 0"),
            (problem(one, end=MONDAY - dt.timedelta(hours=1)), "end comes before the start"),
            (problem(one, order=("r2",)), "no run of the plan"),
            (problem(one, order=("r1", "r1")), "stands in it twice"),
            (problem(replace(one, minutes=0.0)), "takes 0 min"),
            (problem(replace(one, drain_min=-1.0)), "cannot be"),
            (problem(one, at_once=0), "nobody may watch"),
        ]
        for p, said in cases:
            with self.subTest(said), self.assertRaises(CannotRead) as refused:
                solve(p, 0.2)
            self.assertIn(said, str(refused.exception))
            self.assertTrue(refused.exception.mend)

    def impossible(self, p):
        with self.assertRaises(Impossible) as refused:
            solve(p, 2.0)
        return refused.exception

    def test_a_run_longer_than_anybody_is_there(self):
        found = self.impossible(problem(task("long", minutes=300), attended=(window("18:00", "22:00"),)))
        self.assertIn("“long” needs somebody for 5 h 00", found.why)
        self.assertIn("4 h 00", found.why)
        self.assertIn("Widen the attended hours", found.wishes[0])

    def test_an_end_that_is_too_soon_says_what_would_make_it_possible(self):
        tasks = [task(f"r{i}", "ABCD"[i], f"c{i}", f"a{i}", drain=0) for i in range(4)]
        found = self.impossible(problem(*tasks, meters=1, end=MONDAY + dt.timedelta(hours=7)))
        self.assertIn("end you asked for cannot be met", found.why)
        self.assertIn("2027-03-01 at 19:50", found.why)
        self.assertTrue(
            any("With a meter for every run it would be over on 2027-03-01 at 10:50" in w for w in found.wishes)
        )
        self.assertFalse(any("attended" in w or "day and night" in w for w in found.wishes))
        self.assertIn("A later end makes it possible.", found.wishes)

    def test_an_end_that_can_just_be_met_is(self):
        p = problem(task("r1", drain=60), end=MONDAY + dt.timedelta(minutes=60 + 170))
        self.assertEqual(solve(p, 1.0).makespan_min, 230.0)
        self.impossible(replace(p, end=MONDAY + dt.timedelta(minutes=229)))

    def test_the_order_may_be_what_makes_it_impossible(self):
        a, b = task("a", minutes=240, drain=300), task("b", "B", "c2", "a2", minutes=60, drain=0)
        late = MONDAY + dt.timedelta(hours=9, minutes=30)
        found = self.impossible(problem(a, b, meters=1, order=("a", "b"), end=late))
        self.assertTrue(any(w.startswith("Without the order") for w in found.wishes), found.wishes)

    def test_nobody_is_ever_there_at_the_right_time(self):
        hourly = problem(task("r1", minutes=30, drain=0), attended=(window("08:05", "08:10"),), grid_min=15)
        self.assertIn("longest attended stretch is 5 min", self.impossible(hourly).why)


class SlotTimes(unittest.TestCase):
    def test_the_gap_to_the_bound(self):
        p = problem(task("r1", drain=0))
        found = schedule_of(p, [Slot("r1", 30.0, 30.0, 200.0, 230.0)], 160.0)
        self.assertAlmostEqual(found.gap, 0.25)
        self.assertFalse(found.optimal)
