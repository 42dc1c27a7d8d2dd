"""When a plan may stop: the error over all looks, runs saved, and what is said."""

import itertools
import unittest

import numpy as np

from jaunecharge.core.findings import PlannedTimes, stopping, stopping_said
from jaunecharge.core.findings.stopping import spent

MINUTES = {"Ostrel Max": 80.0, "Tarn 9": 110.0}
REPEATS = 3


def order(rng):
    """Rounds over both phones, the three chargers of each in an order of its own."""
    return [(p, c) for _ in range(REPEATS) for p in MINUTES for c in rng.permutation(["A", "B", "C"])]


def cells(runs, planned=REPEATS):
    times = {(p, c): [] for p in MINUTES for c in "ABC"}
    for turn, (phone, charger, minutes) in enumerate(runs):
        times[phone, charger].append((turn, minutes))
    return [PlannedTimes(p, c, planned, tuple(t)) for (p, c), t in times.items()]


def plan(seed, factors=(1.0, 1.0, 1.0), spread=0.06):
    """Runs of a plan: times that spread about their mean by a share, drawn from a log-normal or a uniform law."""
    rng = np.random.default_rng([seed, 11])
    wide = spread * np.sqrt(3.0)
    off = (lambda: np.exp(rng.normal(0.0, spread))) if seed % 2 else (lambda: 1.0 + rng.uniform(-wide, wide))
    share = dict(zip("ABC", factors, strict=True))
    return [(p, str(c), MINUTES[p] * share[str(c)] * float(off())) for p, c in order(rng)]


def stops_after(runs):
    """State and the number of runs at which somebody who asks after every run stops."""
    for n in range(2, len(runs) + 1):
        state = stopping(cells(runs[:n]))
        if state.answered:
            break
    return state, n


class Error(unittest.TestCase):
    def test_a_thousand_plans_without_a_difference(self):
        """All looks of a plan are taken, also those after it would have stopped: it errs at most as often."""
        wrong = sum(any(len(p.first) < 3 for p in stopping(cells(plan(seed))).phones) for seed in range(1000))
        self.assertLessEqual(wrong / 1000, 0.05)
        self.assertGreater(wrong, 0, "a rule that never errs is one that never answers")

    def test_what_is_spent_never_exceeds_the_error(self):
        looks = np.linspace(0, 1, 19)
        steps = np.diff([spent(x) for x in looks])
        self.assertTrue((steps >= 0).all())
        self.assertAlmostEqual(steps.sum(), 0.05)
        self.assertEqual(spent(7.0), spent(1.0))

    def test_plans_with_a_difference_name_the_fastest_and_are_shorter(self):
        made, named, lost = [], 0, 0
        for seed in range(60):
            state, n = stops_after(plan(seed, (1.0, 1.5, 1.6)))
            made.append(n)
            named += sum(p.first == ("A",) for p in state.phones)
            lost += sum("A" not in p.first for p in state.phones)
        self.assertLess(np.mean(made), 14, "of 18 runs of the fixed plan")
        self.assertGreaterEqual(named / 120, 0.9)
        self.assertLessEqual(lost / 120, 0.05)

    def test_without_a_difference_it_does_not_run_longer_than_the_plan(self):
        made = [stops_after(plan(seed))[1] for seed in range(40)]
        self.assertLess(np.mean(made), 18)


class State(unittest.TestCase):
    def test_a_plan_without_runs_is_open_and_one_that_is_over_is_not(self):
        self.assertFalse(stopping(cells([])).answered)
        over = stopping(cells(plan(4)))
        self.assertTrue(over.answered)
        self.assertEqual((over.made, over.planned, over.left), (18, 18, 0))

    def test_one_early_run_of_each_does_not_answer_a_plan_of_three(self):
        runs = plan(3, (1.0, 1.3, 1.3))[:6]
        self.assertFalse(stopping(cells(runs)).answered)

    def test_an_answer_stays_when_a_late_run_contradicts_it(self):
        clear = [(p, c, m * (2.0 if c == "B" else 1.0)) for p, c, m in plan(5, spread=0.01)]
        early, n = stops_after(clear)
        self.assertTrue(all("B" not in p.first for p in early.phones))
        later = [*clear[:n], *[(p, c, m * 1.3) for p, c, m in clear[n:]]]
        self.assertTrue(all("B" not in p.first for p in stopping(cells(later)).phones))

    def test_unequal_unit_or_order_of_cells_changes_nothing(self):
        runs = plan(6, (1.0, 1.5, 1.0))
        one = stopping(cells(runs))
        for permuted in itertools.islice(itertools.permutations(cells(runs)), 0, 720, 97):
            other = stopping(permuted)
            self.assertEqual(other.answered, one.answered)
            self.assertEqual({p.phone: set(p.first) for p in other.phones}, {p.phone: set(p.first) for p in one.phones})

    def test_a_phone_with_one_charger_asks_nothing(self):
        alone = [PlannedTimes("Tarn 9", "A", 2, ((0, 80.0), (1, 82.0)))]
        state = stopping(alone)
        self.assertFalse(state.answered)
        self.assertIn("Nothing to tell apart", stopping_said(state, 0, 0.0))


class Said(unittest.TestCase):
    def test_what_is_saved_is_told_once_only_while_there_are_runs_to_come(self):
        state, _ = stops_after(plan(1, (1.0, 1.8, 1.9), 0.02))
        told = stopping_said(state, state.left, 400.0)
        self.assertIn(f"{state.left} runs can be let go, 6 h 40 saved", told)
        self.assertIn("*A* is fastest on *Ostrel Max*", told)
        self.assertNotIn("let go", stopping_said(state, 0, 0.0))

    def test_no_difference_is_not_told_as_equal(self):
        told = stopping_said(stopping(cells(plan(4))), 0, 0.0)
        self.assertIn("no difference shown between", told)
        self.assertNotIn("equal", told)

    def test_what_is_open_names_its_phones(self):
        told = stopping_said(stopping(cells(plan(2)[:4])), 14, 900.0)
        self.assertRegex(told, r"Not answered yet on .*Ostrel Max.*: 14 runs to come")

    def test_runs_that_have_no_time_leave_it_open_and_that_is_said(self):
        state = stopping(cells([]))
        self.assertIn("no run of it is planned any more", stopping_said(state, 0, 0.0))
        self.assertNotIn("fastest", stopping_said(state, 0, 0.0))
