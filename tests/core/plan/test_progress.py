"""What happens to a plan: replanning, learning, slots that are filled, and what is to be done next."""

import datetime as dt
import unittest
from dataclasses import replace

from jaunecharge.core.plan.agenda import TimedSlot, evening, events, next_step, run_said
from jaunecharge.core.plan.progress import (
    Happened,
    Placed,
    carried_over,
    overdue_min,
    seen_times,
    slot_filled_by,
    what_is_left,
)
from jaunecharge.core.schedule.solver import solve
from tests.core.plans import MONDAY, faults, problem, task


def at(hours):
    return MONDAY + dt.timedelta(hours=hours)


FACTORS = {"phone": "A", "charger": "c1", "adapter": "a1", "case": "none"}


def placed(t, start=0.0, state="planned", **moments):
    return Placed(t, {**FACTORS, "phone": t.phone, "charger": t.charger}, Happened(state, **moments), at(start))


class Replan(unittest.TestCase):
    def left(self, *slots, now=3.0, **more):
        return what_is_left(problem(*[s.task for s in slots], **more), slots, at(now))

    def test_what_is_over_is_gone_and_its_phone_cools(self):
        done = placed(task("r1"), state="done", drain_began=at(0), began=at(2.5), ended=at(2.9))
        left = self.left(done, placed(task("r2")), sequences=(("r1", "r2"),))
        self.assertEqual([t.id for t in left.tasks], ["r2"])
        self.assertEqual((left.start, left.sequences), (at(3), (("r2",),)))
        self.assertAlmostEqual(left.ready["A"], 24.0)
        cool = replace(done, happened=replace(done.happened, cool=at(3)))
        self.assertEqual(self.left(cool, placed(task("r2"))).ready["A"], 0.0)

    def test_what_has_begun_is_held_and_the_rest_moves_around_it(self):
        runs = placed(task("r1"), state="running", drain_began=at(0), began=at(2.5))
        drains = placed(task("r2", "B", "c2"), state="draining", drain_began=at(2))
        left = self.left(runs, drains, placed(task("r3", "B", "c1")))
        begun = {t.id: t.begun for t in left.tasks}
        self.assertEqual((begun["r1"].start, begun["r1"].end), (-30.0, 140.0))
        self.assertEqual((begun["r2"].drain_start, begun["r2"].start, begun["r3"]), (-60.0, None, None))
        found = solve(left, 2.0)
        self.assertEqual(faults(left, found), [])

    def test_a_late_run_is_given_a_little_longer(self):
        late = placed(task("r1", minutes=60), state="running", began=at(0))
        left = self.left(late, placed(task("r2")), now=4.0)
        self.assertEqual(left.tasks[0].begun.end, 15.0)

    def test_a_phone_that_was_drained_sooner_can_begin_sooner(self):
        early = placed(task("r1"), state="drained", drain_began=at(1), drained=at(2))
        left = self.left(early, now=2.0)
        self.assertEqual(left.tasks[0].drain_min, 60.0)
        self.assertEqual(solve(left, 0.5).slots[0].start, 0.0)

    def test_nothing_begins_before_now_and_all_on_the_grid_of_the_plan(self):
        left = self.left(placed(task("r1")), now=3.2)
        self.assertEqual(left.start, at(3))
        early = self.left(placed(task("r1")), now=-5.0)
        self.assertEqual(early.start, MONDAY)

    def test_nothing_left(self):
        void = placed(task("r1"), state="void", ended=at(1))
        self.assertIsNone(self.left(void))
        self.assertIsNone(self.left(void, placed(task("r2"), state="running", began=at(2))))


class Late(unittest.TestCase):
    def test_a_quarter_of_an_hour_is_not_late_yet(self):
        def late(state, hour, drains=True):
            return overdue_min(Happened(state), at(1), at(4), at(7), drains, at(hour))

        self.assertEqual((late("planned", 1.2), late("planned", 1.25), late("planned", 0.5)), (0.0, 15.0, 0.0))
        self.assertEqual((late("planned", 3, drains=False), late("planned", 5, drains=False)), (0.0, 60.0))
        self.assertEqual((late("drained", 5), late("running", 8), late("done", 99)), (60.0, 60.0, 0.0))


class Learning(unittest.TestCase):
    def test_only_what_was_told_is_learned(self):
        slots = [
            placed(task("r1"), state="done", drain_began=at(0), drained=at(3), began=at(3), ended=at(6), cool=at(6.5)),
            placed(task("r2"), state="done", drain_began=at(7), began=at(10), ended=at(12)),
            placed(task("r3", "B"), state="drained", drain_began=at(0), drained=at(2)),
        ]
        found = seen_times(slots)
        self.assertEqual(found.drains, {"A": [180.0], "B": [120.0]})
        self.assertEqual(found.cools, {"A": [30.0]})


class Filled(unittest.TestCase):
    def setUp(self):
        self.slots = [
            placed(task("r1"), 0, "done", began=at(0), ended=at(2)),
            placed(task("r2"), 5),
            placed(task("r3"), 30),
            placed(task("r4", "B", "c2"), 5, "running", began=at(5)),
        ]

    def fills(self, started=None, **stated):
        return slot_filled_by({**FACTORS, **stated}, started, self.slots)

    def test_the_next_planned_slot_that_agrees(self):
        self.assertEqual(self.fills(at(5.2)), 1)
        self.assertEqual(self.fills(at(28)), 2)
        self.assertEqual(self.fills(at(5), charger="C1 "), 1)

    def test_a_running_slot_comes_first(self):
        self.assertEqual(self.fills(None, phone="B", charger="c2"), 3)
        self.assertEqual(self.fills(at(6), phone="B", charger="c2"), 3)

    def test_another_run_fills_none(self):
        self.assertIsNone(self.fills(at(5), charger="c9"))
        self.assertIsNone(self.fills(at(5), adapter="other plug"))
        self.assertIsNone(self.fills(at(24 * 40)))
        self.assertIsNone(self.fills(None), "when it began is not known, and nothing runs")
        self.assertIsNone(slot_filled_by({"phone": "A"}, at(5), self.slots))

    def test_what_is_not_stated_is_not_held_against_it(self):
        self.assertEqual(slot_filled_by({"phone": "A", "charger": "c1"}, at(5), self.slots), 1)


class CarriedOver(unittest.TestCase):
    def test_a_charger_still_warm_by_hand(self):
        times = {"a": (0.0, 100.0), "b": (105.0, 200.0), "c": (260.0, 300.0)}
        found = carried_over(
            times, dict.fromkeys(times, "X"), dict.fromkeys(times, 8.0), dict.fromkeys(times, 10.0), 2.0
        )
        # 8 K × e^(−5/10) = 4.85 K; an hour later nothing.
        self.assertEqual([(w.before, w.after, round(w.warm_k, 2)) for w in found], [("a", "b", 4.85)])
        self.assertEqual(carried_over(times, {}, {}, {}, 2.0), [])


class Agenda(unittest.TestCase):
    def timed(self, name, drain, start, end, state="planned", phone="Ostrel Max"):
        return TimedSlot(name, phone, "Cairn disc", state, at(drain), at(start), at(end))

    def test_the_events_of_a_slot_by_its_state(self):
        kinds = {
            state: [e.kind for e in events([self.timed("r1", 0, 3, 6, state)])]
            for state in ("planned", "draining", "running", "done", "void")
        }
        self.assertEqual(kinds["planned"], ["drain", "run", "end", "reminder"])
        self.assertEqual(kinds["draining"], ["run", "end", "reminder"])
        self.assertEqual(kinds["running"], ["end", "reminder"])
        self.assertEqual(kinds["done"], ["reminder"])
        self.assertEqual(kinds["void"], ["reminder"])
        self.assertIn("charge limits", events([self.timed("r1", 0, 3, 6)])[-1].said)

    def test_a_run_in_words(self):
        self.assertEqual(run_said("Ostrel Max", "Cairn disc, own fan"), "Ostrel Max on Cairn disc, own fan")
        self.assertEqual(run_said("Ostrel Max", "wired, no case"), "Ostrel Max by wire, no case")

    def test_next_and_tonight(self):
        slots = [
            self.timed("r1", 0, 3, 6, "done"),
            self.timed("r2", 13.5, 24, 27),
            self.timed("r3", 13.75, 25, 27, phone="Ostrel Mini"),
        ]
        self.assertEqual(next_step(slots).said, "Drain Ostrel Max")
        tonight = evening(slots, at(11))
        self.assertEqual(
            [(f"{e.at:%H:%M}", e.said) for e in tonight.due],
            [("21:30", "Drain Ostrel Max"), ("21:45", "Drain Ostrel Mini")],
        )
        self.assertEqual(tonight.then, "Nothing else before 08:00.")
        later = evening([self.timed("r2", 48, 50, 52)], at(11))
        self.assertEqual(later.then, "Nothing needs you tonight. Nothing else before Wed 08:00.")
        self.assertEqual(evening([slots[0]], at(11)).then, "Nothing is left to do.")
        self.assertIsNone(next_step([slots[0]]))
