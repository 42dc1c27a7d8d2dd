"""A schedule: what has to happen when, and the rules that it keeps.

A run is preceded on its phone by a drain and followed by a cool-down; between a drain and the end of its cool-down the
phone does nothing else. A run holds its charger, its adapter and one meter. A pack that it empties is filled before,
once it has rested from the run before that. Drains, runs and fillings begin while somebody is there; what of a run
needs somebody lies inside attended hours. All begin on a grid that starts with the plan.
"""

import datetime as dt
import math
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..errors import CannotRead
from .attended_hours import DAY_MIN, Span, Window, attended_spans, minutes_between

MOST_RUNS = 500
MOST_METERS = 50
MOST_DAYS = 730
LONGEST_MIN = 7 * DAY_MIN
GRIDS_MIN = (1, 120)

Mask = NDArray[np.bool_]
Counts = NDArray[np.int64]


@dataclass(frozen=True)
class Begun:
    """Begun parts of a run, which never move [min after the beginning of the plan; may be before it].

    start is None while only its drain has begun; end is when it will be over, as far as is known.
    """

    drain_start: float
    start: float | None = None
    end: float | None = None


@dataclass(frozen=True)
class Task:
    """A run to be scheduled.

    minutes [min]; attended_min [min] : how much of it, from its beginning, needs somebody; drain_min, cool_min [min] of
    its phone before and after; said : what a person calls it, where its id says nothing; pack : which one it empties,
    if any, fill_min, rest_min [min] : to fill that before, once it is free, and to let it rest after.
    """

    id: str
    phone: str
    charger: str
    adapter: str
    minutes: float
    attended_min: float = 0.0
    drain_min: float = 0.0
    cool_min: float = 0.0
    begun: Begun | None = None
    said: str = ""
    pack: str = ""
    fill_min: float = 0.0
    rest_min: float = 0.0

    @property
    def running(self) -> bool:
        """Whether the run itself has begun."""
        return self.begun is not None and self.begun.start is not None


@dataclass(frozen=True)
class Problem:
    """A scheduling problem: tasks, resources and wishes.

    start : datetime with its zone; meters : how many; order : ids whose runs begin in this order; sequences : the same
    for the runs of each phone; end : when all runs must be over; at_once : runs that need somebody at the same time;
    copies : how many equal pieces of an adapter or a charger there are, one if not said; ready : when a phone is free
    [min]; grid_min [min].
    """

    start: dt.datetime
    attended: tuple[Window, ...]
    tasks: tuple[Task, ...]
    meters: int = 1
    grid_min: int = 15
    order: tuple[str, ...] = ()
    sequences: tuple[tuple[str, ...], ...] = ()
    end: dt.datetime | None = None
    at_once: int | None = None
    copies: Mapping[str, int] = field(default_factory=dict)
    ready: Mapping[str, float] = field(default_factory=dict)

    @cached_property
    def end_min(self) -> float | None:
        """When all must be over [min], or None."""
        return None if self.end is None else minutes_between(self.start, self.end)

    def cells(self, minutes: float) -> int:
        """Steps of the grid that hold so many minutes."""
        return math.ceil(minutes / self.grid_min - 1e-9)


@dataclass(frozen=True)
class Slot:
    """When a run happens [min after the beginning of the plan]."""

    id: str
    drain_start: float
    start: float
    end: float
    ready_again: float
    fill_start: float | None = None
    """When its pack is to be plugged in, to be full in time; None where it has none."""


@dataclass(frozen=True)
class Schedule:
    """Slots in order of their beginning; when the last run is over, the least that this can be [min], and whether it
    is proven to be the soonest; wait_min : minutes that phones lie drained before their runs."""

    slots: tuple[Slot, ...]
    makespan_min: float
    bound_min: float
    optimal: bool
    wait_min: float

    @property
    def gap(self) -> float:
        """Gap of the end above the soonest possible, as a share of the latter."""
        return self.makespan_min / self.bound_min - 1.0 if self.bound_min > 0 else 0.0


def check_problem(problem: Problem) -> None:
    """Refuse what cannot be scheduled because it is wrong, not because it does not fit.

    Raises
    ------
    CannotRead
    """
    tasks, ids = problem.tasks, [t.id for t in problem.tasks]
    low, high = GRIDS_MIN
    twice = next((i for i, n in Counter(ids).items() if n > 1), None)
    known = set(ids)
    wrong: list[tuple[bool, str, str, str]] = [
        (not tasks, "there are no runs", "give one run at least", "runs"),
        (
            len(tasks) > MOST_RUNS,
            f"{len(tasks):,} runs are more than anybody makes",
            f"at most {MOST_RUNS}; make several plans of it",
            "runs",
        ),
        (not problem.attended, "there are no attended hours", 'as [["08:00", "22:00"]]', "attended"),
        (not 1 <= problem.meters <= MOST_METERS, f"{problem.meters} meters", f"1 to {MOST_METERS}", "meters"),
        (not low <= problem.grid_min <= high, f"a grid of {problem.grid_min} min", f"{low} to {high} min", "grid_min"),
        (twice is not None, f"“{twice}” is the id of two runs", "give each its own", "runs"),
        (
            problem.end_min is not None and problem.end_min <= 0,
            "the end comes before the start",
            "give a later end, or an earlier start",
            "end",
        ),
        (problem.at_once is not None and problem.at_once < 1, "nobody may watch a run", "1 at least", "at_once"),
    ]
    for listed in (problem.order, *problem.sequences):
        strange = next((i for i in listed if i not in known), None)
        doubled = next((i for i, n in Counter(listed).items() if n > 1), None)
        wrong += [
            (strange is not None, f"“{strange}” is no run of the plan", "use the ids of the runs", "order"),
            (doubled is not None, f"“{doubled}” stands in it twice", "name each run once", "order"),
        ]
    for t in tasks:
        wrong += [
            (not 0 < t.minutes <= LONGEST_MIN, f"run “{t.id}” takes {t.minutes:g} min", "above 0, a week at most", ""),
            (
                min(t.drain_min, t.cool_min) < 0 or max(t.drain_min, t.cool_min) > LONGEST_MIN,
                f"drain or cool-down of “{t.phone}” cannot be",
                "0 min to a week",
                "phones",
            ),
            (
                min(t.fill_min, t.rest_min) < 0 or max(t.fill_min, t.rest_min) > LONGEST_MIN,
                f"filling or rest of “{t.pack}” cannot be",
                "0 min to a week",
                "packs",
            ),
        ]
    for bad, what, mend, where in wrong:
        if bad:
            raise CannotRead(what, mend, file=where or "runs")


class Grid:
    """The plan's time in steps: when somebody is there, and where each task may begin."""

    def __init__(self, problem: Problem, minutes: float) -> None:
        self.problem = problem
        self.size = min(problem.cells(minutes) + 1, MOST_DAYS * DAY_MIN // problem.grid_min)
        self.minutes = np.arange(self.size, dtype=float) * problem.grid_min
        self.spans = attended_spans(problem.attended, problem.start, float(self.size * problem.grid_min))
        self.manned = self._manned(0.0)
        self._manned_min = self.minutes[self.manned]
        self._starts: dict[float, Mask] = {}

    def manned_from(self, minutes: float) -> float | None:
        """The first moment, not before that, at which something may begin."""
        i = int(np.searchsorted(self._manned_min, minutes - 1e-9))
        return float(self._manned_min[i]) if i < len(self._manned_min) else None

    def manned_until(self, minutes: float) -> float:
        """The last moment, not after that, at which something may begin."""
        return float(self._manned_min[int(np.searchsorted(self._manned_min, minutes + 1e-9)) - 1])

    def _manned(self, minutes: float) -> Mask:
        """Where something may begin that needs somebody for so many minutes; its last moment is the window's."""
        manned = np.zeros(self.size, dtype=bool)
        for begins, ends in self.spans:
            last = ends - minutes
            manned |= (self.minutes >= begins - 1e-9) & (
                (self.minutes <= last + 1e-9) if minutes > 0 else (self.minutes < ends - 1e-9)
            )
        return manned

    def filled_by(self, task: Task, start: float) -> float | None:
        """The last moment at which the pack of a run that begins then can be plugged in; None where it has none."""
        return self.manned_until(start - task.fill_min) if task.pack else None

    def starts(self, task: Task) -> Mask:
        """Where the run of a task may begin."""
        if task.attended_min not in self._starts:
            self._starts[task.attended_min] = self.manned & self._manned(task.attended_min)
        return self._starts[task.attended_min]


def longest_span(problem: Problem) -> Span | None:
    """The longest stretch in which somebody is there."""
    spans = attended_spans(problem.attended, problem.start, 14.0 * DAY_MIN)
    return max(spans, key=lambda s: s[1] - s[0], default=None)


def slot_of(
    task: Task, drain_start: float, start: float, end: float | None = None, fill_start: float | None = None
) -> Slot:
    """The slot of a task that begins then."""
    ends = start + task.minutes if end is None else end
    return Slot(task.id, drain_start, start, ends, ends + task.cool_min, fill_start if task.pack else None)


def schedule_of(problem: Problem, slots: Sequence[Slot], bound_min: float = 0.0) -> Schedule:
    """The schedule that slots make."""
    drains = {t.id: t.drain_min for t in problem.tasks}
    makespan = max((s.end for s in slots), default=0.0)
    wait = sum(max(0.0, s.start - s.drain_start - drains[s.id]) for s in slots)
    bound = min(bound_min, makespan)
    ordered = tuple(sorted(slots, key=lambda s: (s.start, s.drain_start, s.id)))
    return Schedule(ordered, makespan, bound, makespan - bound < 1e-6, wait)


def without(problem: Problem, wish: str) -> Problem:
    """The problem with one wish dropped."""
    match wish:
        case "end":
            return replace(problem, end=None)
        case "order":
            return replace(problem, order=(), sequences=())
        case "at_once":
            return replace(problem, at_once=None)
        case "meters":
            return replace(problem, meters=len(problem.tasks))
        case "attended":
            return replace(problem, attended=(Window(0, DAY_MIN),))
    raise KeyError(wish)


def said_of_schedule(optimal: bool, gap: float | None, over: dt.datetime | None, end: dt.datetime | None) -> str:
    """Quality of a schedule in words, and whether it meets the end that is wished."""
    if over is None:
        return "Nothing is left to be scheduled."
    proof = "No shorter schedule exists" if optimal else "A first schedule"
    if not optimal and gap is not None:
        proof = f"At most {gap * 100:.0f} % longer than the shortest possible"
    late = f"; later than the end you asked for, {end:%a %d %b %H:%M}" if end is not None and over > end else ""
    return f"{proof}{late}."
