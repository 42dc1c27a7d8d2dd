"""A first schedule that keeps every rule: runs put down one after another as early as they fit, in a few orders."""

import itertools
import math
import random
from collections import Counter
from collections.abc import Sequence

import numpy as np

from .attended_hours import DAY_MIN
from .problem import MOST_DAYS, Counts, Grid, Problem, Schedule, Slot, Task, schedule_of, slot_of

RESTARTS = 60
MOST_PUT_DOWN = 3000
"""Runs put down at most while looking for a first schedule: about a second."""

CANDIDATES = 6
LOOK_CELLS = 400


class _Bench:
    """Occupation of each resource as tasks are put down one after another."""

    def __init__(self, grid: Grid) -> None:
        self.grid, self.problem = grid, grid.problem
        self.used: dict[tuple[str, str], Counts] = {}
        self.free_at: dict[str, float] = dict(self.problem.ready)
        self.pack_free: dict[str, float] = {}
        self.slots: list[Slot] = []
        self.latest_start: dict[tuple[str, ...], float] = {}
        self.lists = [tuple(x) for x in (self.problem.order, *self.problem.sequences) if x]
        for task in self.problem.tasks:
            if task.begun is not None and task.begun.start is not None:
                self._take(task, slot_of(task, task.begun.drain_start, task.begun.start, task.begun.end))

    def resources(self, task: Task) -> list[tuple[tuple[str, str], int, float]]:
        """Resources that a task holds, how much there is of each, and for how long [min]."""
        copies = self.problem.copies
        held = [(("meter", ""), self.problem.meters, task.minutes)]
        if task.charger:
            held.append((("charger", task.charger), copies.get(task.charger, 1), task.minutes))
        if task.adapter:
            held.append((("adapter", task.adapter), copies.get(task.adapter, 1), task.minutes))
        if self.problem.at_once is not None and task.attended_min > 0:
            held.append((("attention", ""), self.problem.at_once, task.attended_min))
        return held

    def _take(self, task: Task, slot: Slot) -> None:
        step = self.problem.grid_min
        for key, _, minutes in self.resources(task):
            used = self.used.setdefault(key, np.zeros(self.grid.size, dtype=np.int64))
            ends = slot.start + minutes if key[0] == "attention" else slot.end
            first, last = max(0, math.floor(slot.start / step)), max(0, math.ceil(ends / step - 1e-9))
            used[first:last] += 1
        if task.pack:
            self.pack_free[task.pack] = max(self.pack_free.get(task.pack, 0.0), slot.end + task.rest_min)
        self.free_at[task.phone] = max(self.free_at.get(task.phone, 0.0), slot.ready_again)
        for listed in self.lists:
            if task.id in listed:
                self.latest_start[listed] = max(self.latest_start.get(listed, 0.0), slot.start)
        self.slots.append(slot)

    def earliest(self, task: Task) -> Slot | None:
        """The earliest slot that a task fits into now; None where the horizon holds none."""
        grid, step, begun = self.grid, self.problem.grid_min, task.begun
        ready = self.free_at.get(task.phone, 0.0)
        if begun is not None:
            drained = begun.drain_start + task.drain_min
        else:
            first = grid.manned_from(ready)
            if first is None:
                return None
            drained = first + task.drain_min
        full = 0.0
        if task.pack:
            plugged = grid.manned_from(self.pack_free.get(task.pack, 0.0))
            if plugged is None:
                return None
            full = plugged + task.fill_min
        least = max([drained, full, 0.0, *(self.latest_start.get(x, 0.0) for x in self.lists if task.id in x)])
        held = [
            (self.used[key], most, self.problem.cells(m)) for key, most, m in self.resources(task) if key in self.used
        ]
        allowed = grid.starts(task)
        for begins in range(self.problem.cells(least), grid.size, LOOK_CELLS):
            ends = min(grid.size, begins + LOOK_CELLS)
            fits = allowed[begins:ends].copy()
            for used, most, length in held:
                taken = np.concatenate(([0], np.cumsum(used[begins : ends + length] >= most)))
                at = np.arange(ends - begins)
                fits &= taken[np.minimum(at + length, len(taken) - 1)] == taken[at]
            first_fit = int(np.argmax(fits))
            if fits[first_fit]:
                start = float((begins + first_fit) * step)
                drain = begun.drain_start if begun else grid.manned_until(start - task.drain_min)
                return slot_of(task, drain, start, fill_start=grid.filled_by(task, start))
        return None

    def put(self, tasks: Sequence[Task]) -> Task | None:
        """Put down whichever of some tasks fits first, the first of equals; None where none fits the horizon."""
        slots = [(slot.start, i, slot) for i, t in enumerate(tasks) if (slot := self.earliest(t)) is not None]
        if not slots:
            return None
        _, i, slot = min(slots)
        self._take(tasks[i], slot)
        return tasks[i]


def horizon(problem: Problem) -> float:
    """Minutes in which all surely fits, one run after another, a day and a night for each and more for the longest."""
    longest = max((t.minutes + t.drain_min + t.cool_min + t.fill_min + t.rest_min for t in problem.tasks), default=0.0)
    days_off = 7 if any(len(w.days) < 7 for w in problem.attended) else 1
    taken = max([0.0, *problem.ready.values(), *(t.begun.end or 0.0 for t in problem.tasks if t.begun)])
    most = taken + len(problem.tasks) * (longest + days_off * DAY_MIN) + 8 * DAY_MIN
    return min(most, float(MOST_DAYS * DAY_MIN))


def first_schedule(problem: Problem, restarts: int = RESTARTS, seed: int = 0) -> Schedule | None:
    """A schedule that keeps every rule, put together one run after another; the best of some orders.

    Parameters
    ----------
    problem : Problem
    restarts : int
        Orders that are tried.
    seed : int

    Returns
    -------
    Schedule, or None where not even its wide horizon holds it. The end that is wished is not looked at.
    """
    grid = Grid(problem, _rough_horizon(problem))
    best = _best_of(problem, grid, restarts, seed)
    if best is None:
        best = _best_of(problem, Grid(problem, horizon(problem)), restarts, seed)
    return best


def _rough_horizon(problem: Problem) -> float:
    """A shorter horizon that mostly suffices: it makes the search faster."""
    load: Counter[str] = Counter()
    for t in problem.tasks:
        for name in {t.phone, f"charger {t.charger}", f"adapter {t.adapter}", f"pack {t.pack}" if t.pack else t.phone}:
            load[name] += 1
    runs = max(max(load.values()), len(problem.tasks) / problem.meters)
    days_off = 7 / 5 if any(len(w.days) < 7 for w in problem.attended) else 1
    taken = max([0.0, *problem.ready.values()])
    return min(horizon(problem), taken + (runs + 3) * DAY_MIN * days_off * 1.2)


def _best_of(problem: Problem, grid: Grid, restarts: int, seed: int) -> Schedule | None:
    rng = random.Random(seed)
    best: Schedule | None = None
    waiting = [t for t in problem.tasks if not t.running]
    busy: Counter[str] = Counter()
    for t in waiting:
        for name, minutes in _loads(t):
            busy[name] += round(minutes)
    for n in range(max(1, min(restarts, MOST_PUT_DOWN // max(1, len(waiting))))):
        jitter = 0.0 if n == 0 else 0.5 * n / restarts
        weights = {
            t.id: (max(busy[name] for name, _ in _loads(t)) + t.minutes / 10.0) * (1.0 + rng.uniform(-jitter, jitter))
            for t in waiting
        }
        schedule = _put_down(problem, grid, sorted(waiting, key=lambda t: -weights[t.id]), 1 if n % 2 else CANDIDATES)
        if schedule is not None and (
            best is None or (schedule.makespan_min, schedule.wait_min) < (best.makespan_min, best.wait_min)
        ):
            best = schedule
    return best


def _loads(task: Task) -> list[tuple[str, float]]:
    return [
        (f"phone {task.phone}", task.minutes + task.drain_min + task.cool_min),
        (f"charger {task.charger}", task.minutes),
        (f"adapter {task.adapter}", task.minutes),
        *([(f"pack {task.pack}", task.minutes + task.fill_min + task.rest_min)] if task.pack else []),
    ]


def _put_down(problem: Problem, grid: Grid, tasks: Sequence[Task], candidates: int) -> Schedule | None:
    """Put runs down, always one of the phone that is free first; of its next few the one that fits first."""
    bench = _Bench(grid)
    waiting: dict[str, list[Task]] = {}
    for t in tasks:
        waiting.setdefault(t.phone, []).append(t)
    before = _predecessors(problem)
    undone = {t.id for t in tasks}
    while undone:
        able = {
            phone: [t for t in own if not (before.get(t.id, set()) & undone)] for phone, own in waiting.items() if own
        }
        phones = [p for p, own in able.items() if own]
        if not phones:
            return None
        # A phone whose drain has begun does nothing before that run.
        phone = min(phones, key=lambda p: (all(t.begun is None for t in able[p]), bench.free_at.get(p, 0.0)))
        drained = [t for t in able[phone] if t.begun is not None]
        done = bench.put((drained or able[phone])[:candidates])
        if done is None:
            return None
        undone.remove(done.id)
        waiting[phone].remove(done)
    return schedule_of(problem, bench.slots)


def _predecessors(problem: Problem) -> dict[str, set[str]]:
    """For each run those that must begin before it, by the orders that are to be kept."""
    before_of: dict[str, set[str]] = {}
    for listed in (problem.order, *problem.sequences):
        for before, after in itertools.pairwise(listed):
            before_of.setdefault(after, set()).add(before)
    return before_of
