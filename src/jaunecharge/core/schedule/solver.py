"""The soonest schedule, by constraint programming (OR-Tools CP-SAT): better and better ones, and a proof at the end."""

import itertools
import math
from collections import defaultdict
from collections.abc import Callable, Iterator
from dataclasses import replace

import numpy as np
from ortools.sat.python import cp_model

from ..errors import Impossible
from .attended_hours import DAY_MIN
from .bounds import easier, least_makespan, refuse_impossible, said_at
from .greedy import first_schedule
from .problem import (
    Grid,
    Mask,
    Problem,
    Schedule,
    Task,
    check_problem,
    schedule_of,
    slot_of,
)

WORKERS = 2
SHARE_FOR_SOONEST = 0.9
"""Share of the time that goes to finishing soonest; the rest to phones lying drained for less long (our own)."""

AT_ONCE = 2
"""Orders that are tried for the schedule that is there at once."""

LEAST_SECONDS, MOST_SECONDS = 0.2, 600.0
Better = Callable[[Schedule], None]


class Search:
    """A search for a schedule, so that another thread can stop it."""

    def __init__(self) -> None:
        self._solver: cp_model.CpSolver | None = None
        self.stopped = False

    def stop(self) -> None:
        """End it soon; what was found so far counts."""
        self.stopped = True
        if self._solver is not None:
            self._solver.stop_search()

    def solver(self, seconds: float) -> cp_model.CpSolver:
        """A solver for so many seconds; for none to speak of once it was stopped."""
        solver = cp_model.CpSolver()
        solver.parameters.max_time_in_seconds = 0.01 if self.stopped else seconds
        solver.parameters.num_workers = WORKERS
        # Ctrl-C belongs to the application, which stops its searches itself.
        solver.parameters.catch_sigint_signal = False
        self._solver = solver
        return solver


def solve(
    problem: Problem, seconds: float = 20.0, on_better: Better = lambda schedule: None, search: Search | None = None
) -> Schedule:
    """The best schedule found in some seconds: the last run over soonest, then phones drained for the least time.

    Parameters
    ----------
    problem : Problem
    seconds : float [s]
        How long to look.
    on_better : callable
        Is told each better schedule; the first one at once.
    search : Search, optional
        By which another thread can end it.

    Raises
    ------
    CannotRead
        If the problem is wrong.
    Impossible
        If no schedule can be; it says which wishes make it so.
    """
    check_problem(problem)
    refuse_impossible(problem)
    at_once = first_schedule(problem, AT_ONCE)
    if at_once is None:
        raise Impossible("No schedule holds these runs within two years.", easier(problem))
    if _in_time(problem, at_once):
        on_better(at_once)
    best = _better_of(at_once, first_schedule(problem) or at_once)
    best = schedule_of(problem, best.slots, least_makespan(problem))
    if fits := _in_time(problem, best):
        on_better(best)
    seconds = min(max(seconds, LEAST_SECONDS), MOST_SECONDS)
    model = _Model(problem, best, search or Search())
    if not best.optimal or not fits:
        best, fits = model.soonest(best, fits, seconds * SHARE_FOR_SOONEST, on_better)
    if not fits:
        raise Impossible(_late(problem, best, model.refuted), easier(problem))
    return model.least_waiting(best, max(LEAST_SECONDS, seconds - model.spent_s), on_better)


def _in_time(problem: Problem, schedule: Schedule) -> bool:
    return problem.end_min is None or schedule.makespan_min <= problem.end_min + 1e-9


def _better_of(a: Schedule, b: Schedule) -> Schedule:
    return min(a, b, key=lambda s: (s.makespan_min, s.wait_min))


def _late(problem: Problem, best: Schedule, refuted: bool) -> str:
    soonest = said_at(problem, best.makespan_min)
    if best.optimal:
        return f"The end you asked for cannot be met: the last run ends on {soonest} at the earliest."
    if refuted:
        return f"The end you asked for cannot be met: the best schedule found ends on {soonest}."
    return f"The end you asked for is not met: the best schedule found ends on {soonest}."


class _Told(cp_model.CpSolverSolutionCallback):
    """Tells each schedule that is better than the last."""

    def __init__(self, model: "_Model", best: Schedule, bound: float, on_better: Better) -> None:
        super().__init__()
        self.model, self.best, self.lower, self.told = model, best, bound, on_better

    def on_solution_callback(self) -> None:
        schedule = self.model.read(self, max(self.lower, self.model.bound_of(self.best_objective_bound)))
        if schedule.makespan_min < self.best.makespan_min - 1e-6:
            self.best = schedule
            self.told(schedule)


class _Model:
    """The problem as constraints on the grid."""

    def __init__(self, problem: Problem, first: Schedule, search: Search) -> None:
        self.problem, self.search = problem, search
        wished = problem.end_min if problem.end_min is not None else math.inf
        self.latest = min(first.makespan_min, wished) if first.makespan_min > 0 else wished
        self.grid = Grid(problem, self.latest + DAY_MIN)
        self.cp = cp_model.CpModel()
        self.start: dict[str, cp_model.IntVar] = {}
        self.drain: dict[str, cp_model.IntVar] = {}
        self.tasks = {t.id: t for t in problem.tasks}
        self.open = [t for t in problem.tasks if not t.running]
        self.possible = True
        self.spent_s = 0.0
        self.refuted = False
        self._build(first)

    def _domain(self, mask: Mask, latest: float) -> cp_model.Domain | None:
        cells = np.flatnonzero(mask & (self.grid.minutes <= latest + 1e-9))
        return cp_model.Domain.from_values(cells.tolist()) if len(cells) else None

    def _build(self, first: Schedule) -> None:
        problem, cp, cells = self.problem, self.cp, self.problem.cells
        hints = {s.id: s for s in first.slots}
        phones: dict[str, list[cp_model.IntervalVar]] = defaultdict(list)
        held: dict[tuple[str, str], list[cp_model.IntervalVar]] = defaultdict(list)
        for t in self.open:
            ready = cells(max(0.0, problem.ready.get(t.phone, 0.0)))
            domain = self._domain(self.grid.starts(t), self.latest - t.minutes)
            drains = self._domain(self.grid.manned & (self.grid.minutes >= ready * problem.grid_min), self.latest)
            if domain is None or (drains is None and t.begun is None):
                self.possible = False
                return
            start = cp.new_int_var_from_domain(domain, f"s {t.id}")
            if t.begun is not None:
                begins = math.floor(t.begun.drain_start / problem.grid_min)
                drain = cp.new_constant(begins)
                cp.add(start >= cells(t.begun.drain_start + t.drain_min))
            else:
                drain = cp.new_int_var_from_domain(drains, f"d {t.id}")
                cp.add(start >= drain + cells(t.drain_min))
            whole = cells(t.minutes + t.cool_min)
            busy = cp.new_int_var(0, self.grid.size + 10_000, f"b {t.id}")
            phones[t.phone].append(cp.new_interval_var(drain, busy, start + whole, f"p {t.id}"))
            self.start[t.id], self.drain[t.id] = start, drain
            for key, minutes in self._held(t):
                held[key].append(cp.new_fixed_size_interval_var(start, cells(minutes), f"{key} {t.id}"))
            if t.pack and not self._fill(t, start, held):
                self.possible = False
                return
            cp.add_hint(start, round(hints[t.id].start / problem.grid_min))
            if t.begun is None:
                cp.add_hint(drain, round(hints[t.id].drain_start / problem.grid_min))
                cp.add_hint(busy, cells(hints[t.id].start - hints[t.id].drain_start) + whole)
        self._hold_running(phones, held)
        for intervals in phones.values():
            cp.add_no_overlap(intervals)
        for key, intervals in held.items():
            most = self._copies(key)
            if most == 1:
                cp.add_no_overlap(intervals)
            elif len(intervals) > most:
                cp.add_cumulative(intervals, [1] * len(intervals), most)
        self._keep_orders()
        self._break_ties()
        self.makespan = cp.new_int_var(0, math.ceil(min(self.latest, 1e8)) + 1, "makespan")
        self._fill_days()
        for t in self.open:
            cp.add(self.makespan >= self.start[t.id] * problem.grid_min + math.ceil(t.minutes))

    def _fill(self, t: Task, start: cp_model.IntVar, held: dict[tuple[str, str], list[cp_model.IntervalVar]]) -> bool:
        """Filling of a run's pack before it, begun with somebody there, and its rest; whether that can be."""
        cp, cells = self.cp, self.problem.cells
        moments = self._domain(self.grid.manned, self.latest)
        if moments is None:
            return False
        fill = cp.new_int_var_from_domain(moments, f"f {t.id}")
        cp.add(start >= fill + cells(t.fill_min))
        busy = cp.new_int_var(0, self.grid.size + 10_000, f"k {t.id}")
        held["pack", t.pack].append(
            cp.new_interval_var(fill, busy, start + cells(t.minutes + t.rest_min), f"pack {t.id}")
        )
        return True

    def _hold_running(
        self, phones: dict[str, list[cp_model.IntervalVar]], held: dict[tuple[str, str], list[cp_model.IntervalVar]]
    ) -> None:
        """Constraints that hold begun tasks in their place."""
        for t in self.problem.tasks:
            if t.begun is None or t.begun.start is None:
                continue
            slot = slot_of(t, t.begun.drain_start, t.begun.start, t.begun.end)
            begins = math.floor(slot.start / self.problem.grid_min)
            last, cool = self.problem.cells(slot.end), self.problem.cells(slot.ready_again)
            phones[t.phone].append(self.cp.new_fixed_size_interval_var(begins, max(0, cool - begins), f"r {t.id}"))
            for key, minutes in self._held(t):
                ends = self.problem.cells(slot.start + minutes) if key[0] == "attention" else last
                held[key].append(self.cp.new_fixed_size_interval_var(begins, max(0, ends - begins), f"{key} {t.id}"))
            if t.pack:
                rested = self.problem.cells(slot.end + t.rest_min)
                size = max(0, rested - begins)
                held["pack", t.pack].append(self.cp.new_fixed_size_interval_var(begins, size, f"pack {t.id}"))

    def _held(self, task: Task) -> Iterator[tuple[tuple[str, str], float]]:
        yield ("meter", ""), task.minutes
        if task.charger:
            yield ("charger", task.charger), task.minutes
        if task.adapter:
            yield ("adapter", task.adapter), task.minutes
        if self.problem.at_once is not None and task.attended_min > 0:
            yield ("attention", ""), task.attended_min

    def _copies(self, key: tuple[str, str]) -> int:
        if key[0] == "meter":
            return self.problem.meters
        if key[0] == "attention":
            return self.problem.at_once or 1
        if key[0] == "pack":
            return 1
        return self.problem.copies.get(key[1], 1)

    def _keep_orders(self) -> None:
        for listed in (self.problem.order, *self.problem.sequences):
            for before, after in itertools.pairwise(listed):
                if after in self.start and before in self.start:
                    self.cp.add(self.start[before] <= self.start[after])
                elif after in self.start:
                    begun = self.tasks[before].begun
                    assert begun is not None and begun.start is not None
                    self.cp.add(self.start[after] * self.problem.grid_min >= math.ceil(begun.start))

    def _break_ties(self) -> None:
        """Runs that differ in nothing begin in the order in which they are listed."""
        listed = {i for order in (self.problem.order, *self.problem.sequences) for i in order}
        alike: dict[Task, Task] = {}
        for t in self.open:
            if t.id in listed or t.begun is not None:
                continue
            kind = replace(t, id="")
            if kind in alike:
                self.cp.add(self.start[alike[kind].id] <= self.start[t.id])
            alike[kind] = t

    def _fill_days(self) -> None:
        """Constraints on the runs that need somebody throughout, by attended stretch; implied, but seen sooner.

        Runs of a phone have a cool-down and a drain between them: one less of each than there are runs.
        """
        inside = [t for t in self.open if t.attended_min >= t.minutes - 1e-9 and t.begun is None]
        spans = [s for s in self.grid.spans if s[1] > 0 and s[0] <= self.latest]
        within: dict[tuple[str, int], cp_model.IntVar] = {}
        step, cells = self.problem.grid_min, self.problem.cells
        for t in inside:
            chosen = []
            for i, (begins, ends) in enumerate(spans):
                low, high = cells(max(0.0, begins)), math.floor((ends - t.minutes) / step + 1e-9)
                if high < low:
                    continue
                within[t.id, i] = x = self.cp.new_bool_var(f"{t.id} in {i}")
                self.cp.add_linear_constraint(self.start[t.id], low, high).only_enforce_if(x)
                chosen.append(x)
            self.cp.add_exactly_one(chosen)
        for i, (begins, ends) in enumerate(spans):
            groups: dict[tuple[str, str], list[Task]] = defaultdict(list)
            for t in inside:
                if (t.id, i) in within:
                    groups["phone", t.phone].append(t)
                    for key, _ in self._held(t):
                        groups[key].append(t)
            room = math.floor(ends / step + 1e-9) - cells(max(0.0, begins))
            for (kind, name), tasks in groups.items():
                if kind == "phone":
                    taken = {t.id: cells(t.minutes + t.cool_min) + cells(t.drain_min) for t in tasks}
                    # After the last run neither cool-down nor drain lies inside; before the very first, its drain does.
                    beyond = max(taken[t.id] - cells(t.minutes) for t in tasks)
                    extra = min(cells(t.drain_min) for t in tasks) if i == 0 else 0
                    most = room + beyond - extra
                else:
                    taken = {t.id: cells(t.minutes) for t in tasks}
                    most = room * self._copies((kind, name))
                copies = 1 if kind == "phone" else self._copies((kind, name))
                work = sum(taken[t.id] * within[t.id, i] for t in tasks)
                # The end of the last run may lie between two steps of the grid.
                odd = copies * any(t.minutes % step for t in tasks)
                self.cp.add(work <= most + odd)
                used = self.cp.new_bool_var(f"{kind} {name} in {i}")
                self.cp.add_max_equality(used, [within[t.id, i] for t in tasks])
                spare = odd + (beyond if kind == "phone" else 0)
                first = cells(max(0.0, begins)) * copies + (extra if kind == "phone" else 0)
                self.cp.add(self.makespan * copies >= step * (work + (first - spare) * used))

    def read(self, values: cp_model.CpSolver | cp_model.CpSolverSolutionCallback, bound: float) -> Schedule:
        """The schedule of a solution."""
        step, slots = self.problem.grid_min, []
        for t in self.problem.tasks:
            if t.begun is not None and t.begun.start is not None:
                slots.append(slot_of(t, t.begun.drain_start, t.begun.start, t.begun.end))
                continue
            start = float(values.value(self.start[t.id]) * step)
            drain = t.begun.drain_start if t.begun else self._last_drain(t, values, start)
            slots.append(slot_of(t, drain, start, fill_start=self.grid.filled_by(t, start)))
        return schedule_of(self.problem, slots, bound)

    def _last_drain(
        self, task: Task, values: cp_model.CpSolver | cp_model.CpSolverSolutionCallback, start: float
    ) -> float:
        """The last moment at which a drain may begin that is over in time: the solver leaves it anywhere."""
        chosen = float(values.value(self.drain[task.id]) * self.problem.grid_min)
        later = self.grid.manned & (self.grid.minutes >= chosen) & (self.grid.minutes + task.drain_min <= start + 1e-9)
        return float(self.grid.minutes[np.flatnonzero(later)[-1]])

    def bound_of(self, objective: float) -> float:
        """A bound of the solver as minutes of the plan."""
        running = max((t.begun.end or 0.0 for t in self.problem.tasks if t.begun is not None), default=0.0)
        return max(objective, running)

    def soonest(self, best: Schedule, fits: bool, seconds: float, on_better: Better) -> tuple[Schedule, bool]:
        """The schedule whose last run is over soonest; whether it meets the end that is wished."""
        if not self.possible:
            return replace(best, optimal=True), fits
        self.cp.add(self.makespan >= math.ceil(best.bound_min - 1e-6))
        self.cp.minimize(self.makespan)
        heard = _Told(self, best if fits else replace(best, makespan_min=math.inf), best.bound_min, on_better)
        solver = self.search.solver(seconds)
        status = solver.solve(self.cp, heard)
        self.spent_s = solver.wall_time
        self.cp.clear_objective()
        if status in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            bound = max(best.bound_min, self.bound_of(solver.best_objective_bound))
            schedule = self.read(solver, bound)
            chosen = schedule if not fits or schedule.makespan_min < best.makespan_min - 1e-6 else best
            chosen = schedule_of(self.problem, chosen.slots, bound)
            on_better(chosen)
            return chosen, True
        if status == cp_model.INFEASIBLE:
            # Nothing ends before the latest end that was allowed: the first schedule, if that is what it allowed.
            self.refuted = not fits
            return (schedule_of(self.problem, best.slots, best.makespan_min) if fits else best), fits
        return best, fits

    def least_waiting(self, best: Schedule, seconds: float, on_better: Better) -> Schedule:
        """The schedule that ends as soon, with phones lying drained for the least time."""
        free = [t for t in self.open if t.begun is None and t.drain_min > 0]
        if not self.possible or not free or best.wait_min <= 0:
            return best
        self.cp.add(self.makespan <= math.ceil(best.makespan_min))
        self.cp.minimize(sum(self.start[t.id] - self.drain[t.id] for t in free))
        self.cp.clear_hints()
        hints = {s.id: s for s in best.slots}
        for t in self.open:
            self.cp.add_hint(self.start[t.id], round(hints[t.id].start / self.problem.grid_min))
            if t.begun is None:
                self.cp.add_hint(self.drain[t.id], round(hints[t.id].drain_start / self.problem.grid_min))
        solver = self.search.solver(seconds)
        if solver.solve(self.cp) not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            return best
        schedule = self.read(solver, best.bound_min)
        if schedule.wait_min < best.wait_min and schedule.makespan_min <= best.makespan_min + 1e-9:
            schedule = replace(schedule, optimal=best.optimal)
            on_better(schedule)
            return schedule
        return best
