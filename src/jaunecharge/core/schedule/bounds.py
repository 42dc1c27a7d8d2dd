"""Bounds: what no schedule can beat, what sets its pace, and which wishes make it impossible: found without
searching.
"""

import itertools
import math
from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np

from ..arrays import Array
from ..errors import Impossible
from ..wording import counted, duration
from .attended_hours import moment_at
from .greedy import first_schedule, horizon
from .problem import Grid, Problem, Task, longest_span, without

MOST_STATES = 5000


def refuse_impossible(problem: Problem) -> None:
    """Refuse what no schedule can hold, whatever its order.

    Raises
    ------
    Impossible
    """
    span = longest_span(problem)
    length = 0.0 if span is None else span[1] - span[0]
    if span is None:
        raise Impossible("Nobody is ever there: no drain and no run can begin.", ["Widen the attended hours."])
    long = [t for t in problem.tasks if not t.running and t.attended_min > length + 1e-9]
    if long:
        worst = max(long, key=lambda t: t.attended_min)
        name = worst.said or f"Run “{worst.id}”"
        more = f", as {counted(len(long) - 1, 'other run')}" if len(long) > 1 else ""
        raise Impossible(
            f"{name} needs somebody for {duration(worst.attended_min * 60)}{more}, but the longest attended stretch is "
            f"{duration(length * 60)}.",
            ["Widen the attended hours, end the runs earlier, or log the percentage without anybody there."],
        )


def said_at(problem: Problem, minutes: float) -> str:
    """A moment of a plan in words."""
    return f"{moment_at(problem.start, minutes):%Y-%m-%d at %H:%M}"


_WISHES = {
    "order": "Without the order of the runs",
    "at_once": "With somebody for every run",
    "meters": "With a meter for every run",
    "attended": "With somebody there day and night",
}


def easier(problem: Problem) -> list[str]:
    """Which single wish, dropped, would make it possible; each tried."""
    ways = []
    for wish, words in _WISHES.items():
        easier = without(problem, wish)
        if easier == problem:
            continue
        schedule = first_schedule(easier)
        if schedule is not None and (problem.end_min is None or schedule.makespan_min <= problem.end_min):
            ways.append(f"{words} it would be over on {said_at(problem, schedule.makespan_min)}.")
    if problem.end_min is not None:
        ways.append("A later end makes it possible.")
    return ways


def least_makespan(problem: Problem) -> float:
    """A bound that no schedule can beat [min]: what each phone, charger, adapter and all meters together need alone."""
    return max((bound for bound, _ in _bounds(problem)), default=0.0)


def pace_said(problem: Problem, makespan_min: float) -> str:
    """Bottleneck of a plan, as far as one thing alone does."""
    bounds = _bounds(problem)
    what = max(bounds, default=(0.0, ""))[1]
    if not what:
        return "Nothing can end before the run that is under way."
    tight = sorted({name for bound, name in bounds if name and bound >= makespan_min - problem.grid_min})
    if not tight:
        return f"There is no single bottleneck; {what} comes closest."
    named = f"{', '.join(tight[:-1])} and {tight[-1]}" if len(tight) > 1 else tight[0]
    # Each of several would hold the plan back alone.
    if len(tight) > 1:
        return f"{named[0].upper()}{named[1:]} are each a bottleneck."
    return f"{named[0].upper()}{named[1:]} {'are' if named.endswith(' meters') else 'is'} the bottleneck."


def _bounds(problem: Problem) -> list[tuple[float, str]]:
    """Time that each thing needs alone [min], and what it is."""
    open_tasks = [t for t in problem.tasks if not t.running]
    running = [t.begun.end or t.begun.start + t.minutes for t in problem.tasks if t.begun and t.begun.start is not None]
    groups: dict[tuple[str, str], list[Task]] = defaultdict(list)
    for t in open_tasks:
        groups["phone", t.phone].append(t)
        for kind, name in (("charger", t.charger), ("adapter", t.adapter)):
            if name and problem.copies.get(name, 1) == 1:
                groups[kind, name].append(t)
        if t.pack:
            groups["pack", t.pack].append(t)
    bounds = [(end, "") for end in running]
    for (kind, name), tasks in groups.items():
        alone = replace(
            problem, tasks=tuple(_alone_with(kind, t) for t in tasks), order=(), sequences=(),
            ready=problem.ready if kind == "phone" else {},
        )  # fmt: skip
        bounds.append((_alone(alone), name))
    if open_tasks:
        meters = "the one meter" if problem.meters == 1 else f"the {problem.meters} meters"
        bounds.append((_by_meters(problem, open_tasks), meters))
    return bounds


def _alone_with(kind: str, task: Task) -> Task:
    """A run as one thing alone sees it: its phone, its pack, which is filled and rests as a phone drains and cools, or
    its charger or adapter."""
    if kind == "phone":
        return replace(task, pack="", fill_min=0.0, rest_min=0.0)
    if kind == "pack":
        return replace(_bare(task), phone=task.pack, drain_min=task.fill_min, cool_min=task.rest_min)
    return _bare(task)


def _bare(task: Task) -> Task:
    """A run without what its phone needs before and after: what a charger sees of it."""
    return replace(task, phone=task.id, drain_min=0.0, cool_min=0.0, begun=None, pack="", fill_min=0.0, rest_min=0.0)


def _alone(problem: Problem) -> float:
    """The least end of runs of which only one can be at a time: exact, unless they are of too many kinds.

    Over how many of each kind are over, the earliest moment at which the next can follow: to be free sooner is never
    worse.
    """
    kinds = Counter(_kind(t) for t in problem.tasks)
    if math.prod(n + 1 for n in kinds.values()) > MOST_STATES or any(t.begun for t in problem.tasks):
        return _as_the_shortest(problem)
    grid = Grid(problem, horizon(problem))
    starts = {k: grid.minutes[grid.starts(t)] for t in problem.tasks if (k := _kind(t)) is not None}
    names = list(kinds)
    ready = max(0.0, problem.ready.get(problem.tasks[0].phone, 0.0))
    free: dict[tuple[int, ...], float] = {tuple(0 for _ in names): ready}
    for done in itertools.product(*(range(kinds[k] + 1) for k in names)):
        if done not in free:
            continue
        for n, kind in enumerate(names):
            if done[n] == kinds[kind]:
                continue
            after = (*done[:n], done[n] + 1, *done[n + 1 :])
            end = _end_of(kind, free[done], grid, starts[kind])
            last = sum(after) == len(problem.tasks)
            free[after] = min(free.get(after, math.inf), end if last else end + kind.cool_min)
    return free[tuple(kinds[k] for k in names)]


class _Kind(NamedTuple):
    """Lengths of a run where it is alone [min]."""

    minutes: float
    attended_min: float
    drain_min: float
    cool_min: float


def _kind(task: Task) -> _Kind:
    return _Kind(task.minutes, task.attended_min, task.drain_min, task.cool_min)


def _end_of(kind: _Kind, ready: float, grid: Grid, starts: Array) -> float:
    drain = grid.manned_from(ready)
    if drain is None:
        return math.inf
    i = int(np.searchsorted(starts, drain + kind.drain_min - 1e-9))
    return float(starts[i]) + kind.minutes if i < len(starts) else math.inf


def _as_the_shortest(problem: Problem) -> float:
    """The same were all as short as the shortest of them."""
    short = problem.tasks[0]
    drains = 0.0 if any(t.begun for t in problem.tasks) else min(t.drain_min for t in problem.tasks)
    ids = [f"{i}" for i in range(len(problem.tasks))]
    alike = replace(
        short, phone="", charger="", adapter="", begun=None, pack="", fill_min=0.0, rest_min=0.0, drain_min=drains,
        minutes=min(t.minutes for t in problem.tasks), attended_min=min(t.attended_min for t in problem.tasks),
        cool_min=min(t.cool_min for t in problem.tasks),
    )  # fmt: skip
    ready = problem.ready.get(short.phone, 0.0)
    schedule = first_schedule(
        replace(problem, tasks=tuple(replace(alike, id=i) for i in ids), meters=1, ready={"": ready}, end=None), 1
    )
    return 0.0 if schedule is None else schedule.makespan_min


def _by_meters(problem: Problem, tasks: Sequence[Task]) -> float:
    """When meters that never rest could be done, runs as short as the shortest, each beginning with somebody there."""
    if not tasks:
        return 0.0
    each = math.ceil(len(tasks) / problem.meters)
    short = min(t.minutes for t in tasks)
    attended = min(t.attended_min for t in tasks)
    alike = [Task(str(i), "", "", "", short, attended) for i in range(each)]
    schedule = first_schedule(
        replace(problem, tasks=tuple(alike), meters=1, order=(), sequences=(), ready={}, end=None), 1
    )
    return 0.0 if schedule is None else schedule.makespan_min
