"""The progress of a plan: what has begun, what is left to be planned anew, what was learned, which slot a run fills."""

import datetime as dt
import itertools
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

from ..errors import CannotRead
from ..factors import SAME_AMBIENT_K
from ..schedule.attended_hours import minutes_between
from ..schedule.problem import Begun, Problem, Task
from .expected import still_warm_k

SlotState = Literal["planned", "draining", "drained", "running", "done", "void", "let go"]
OPEN: frozenset[SlotState] = frozenset({"planned", "draining", "drained"})
OVER: frozenset[SlotState] = frozenset({"done", "void", "let go"})
LATE_MIN = 15.0
"""Grace of a run that should be over, and delay from which something is late (our own)."""

FILLS_WITHIN_H = 18.0
"""Distance from its slot at which a run may begin and still fill it (our own)."""

Moment = dt.datetime | None
REMINDER = "Put charge limits and optimised charging back on"


@dataclass(frozen=True)
class Happened:
    """State of a slot: each moment as it was told."""

    state: SlotState = "planned"
    drain_began: Moment = None
    drained: Moment = None
    began: Moment = None
    ended: Moment = None
    cool: Moment = None


@dataclass(frozen=True)
class Placed:
    """A slot of a plan: its task, the factors that its run will state, when it is planned, and what has happened."""

    task: Task
    factors: Mapping[str, str]
    happened: Happened = field(default_factory=Happened)
    start: Moment = None

    @property
    def phone(self) -> str:
        """Its phone."""
        return self.task.phone


def what_is_left(problem: Problem, slots: Sequence[Placed], now: dt.datetime) -> Problem | None:
    """The problem of what is left: what is over is gone, what has begun is held, nothing begins before now.

    Now is the step of the grid that has just begun: what is due in it can still be begun.

    Parameters
    ----------
    problem : Problem
        With the plan's own start; its tasks are not looked at.
    slots : sequence of Placed
    now : datetime

    Returns
    -------
    Problem, or None where nothing is left. The ids stay.
    """
    passed = max(0.0, minutes_between(problem.start, now))
    start = problem.start.astimezone(dt.UTC) + dt.timedelta(minutes=passed // problem.grid_min * problem.grid_min)
    start = start.astimezone(problem.start.tzinfo)
    tasks: list[Task] = []
    ready: dict[str, float] = {}
    for s in slots:
        h = s.happened
        if h.state in OVER:
            if h.ended is not None:
                free = h.cool or h.ended + dt.timedelta(minutes=s.task.cool_min)
                ready[s.phone] = max(ready.get(s.phone, 0.0), minutes_between(start, free))
        else:
            tasks.append(_held(s, start))
    if all(t.running for t in tasks):
        return None
    left = {t.id for t in tasks if t.begun is None}
    sequences = tuple(x for own in problem.sequences if (x := tuple(i for i in own if i in left)))
    order = tuple(i for i in problem.order if i in left)
    return replace(problem, start=start, tasks=tuple(tasks), sequences=sequences, order=order, ready=ready)


def _held(slot: Placed, start: dt.datetime) -> Task:
    h, task = slot.happened, slot.task
    if h.began is not None and h.state == "running":
        began = minutes_between(start, h.began)
        drain = minutes_between(start, h.drain_began) if h.drain_began else began
        return replace(task, begun=Begun(drain, began, max(began + task.minutes, LATE_MIN)))
    if h.drain_began is not None and h.state in {"draining", "drained"}:
        drain = minutes_between(start, h.drain_began)
        if h.drained is not None:
            task = replace(task, drain_min=max(0.0, minutes_between(h.drain_began, h.drained)))
        return replace(task, begun=Begun(drain))
    return task


@dataclass(frozen=True)
class Learned:
    """Minutes that drains and cool-downs of each phone really took, as told."""

    drains: dict[str, list[float]]
    cools: dict[str, list[float]]


def seen_times(slots: Iterable[Placed]) -> Learned:
    """Measured drains and cool-downs of each phone."""
    times = Learned({}, {})
    for s in slots:
        h = s.happened
        if h.drain_began is not None and h.drained is not None and h.drained > h.drain_began:
            times.drains.setdefault(s.phone, []).append(minutes_between(h.drain_began, h.drained))
        if h.ended is not None and h.cool is not None and h.cool > h.ended:
            times.cools.setdefault(s.phone, []).append(minutes_between(h.ended, h.cool))
    return times


TOLD_APART = ("phone", "charger", "place", "adapter", "cable", "case", "airflow", "phone_state")
"""The factors by which a finished run finds its slot."""


def slot_filled_by(factors: Mapping[str, str], started: Moment, slots: Sequence[Placed]) -> int | None:
    """The slot that a finished run fills: the one that runs, else the next planned; None where none fits.

    Parameters
    ----------
    factors : mapping
        As the run states them; what it does not state is not held against it, phone and charger excepted.
    started : datetime or None
        When it began, if known: far from a slot it is another run.
    """
    fitting = [i for i, s in enumerate(slots) if s.happened.state not in OVER and _agree(factors, s.factors)]
    near = [i for i in fitting if _near(started, slots[i])]
    running = [i for i in near if slots[i].happened.state == "running"]
    if running:
        return running[0]
    if started is None:
        return None
    return min(near, key=lambda i: _far(started, slots[i]), default=None)


def _agree(stated: Mapping[str, str], planned: Mapping[str, str]) -> bool:
    for name in TOLD_APART:
        ours, theirs = planned.get(name, ""), stated.get(name, "")
        if name in {"phone", "charger"} and not theirs:
            return False
        if ours and theirs and ours.strip().lower() != theirs.strip().lower():
            return False
    return True


def _far(started: dt.datetime, slot: Placed) -> float:
    expected = slot.happened.began or slot.start
    return abs(minutes_between(started, expected)) if expected is not None else 0.0


def _near(started: Moment, slot: Placed) -> bool:
    return started is None or _far(started, slot) <= FILLS_WITHIN_H * 60.0


@dataclass(frozen=True)
class WarmCharger:
    """A charger that is still warm from the run before when the next begins [K above its room]."""

    charger: str
    before: str
    after: str
    warm_k: float


def carried_over(
    begins_min: Mapping[str, tuple[float, float]],
    chargers: Mapping[str, str],
    ends_above_k: Mapping[str, float],
    tau_min: Mapping[str, float],
    above_k: float = SAME_AMBIENT_K,
) -> list[WarmCharger]:
    """Neighbouring runs on one charger of which the second begins while it is still warm.

    Parameters
    ----------
    begins_min : mapping of run to (start, end) [min]
    chargers : mapping of run to charger
        Runs without one carry nothing over.
    ends_above_k : mapping of run to how far above its room the charger ends [K]
    tau_min : mapping of run to the charger's time constant [min]
    above_k : float [K]
        From which it is told.
    """
    carried = []
    for charger in dict.fromkeys(c for c in chargers.values() if c):
        own = sorted((i for i in begins_min if chargers.get(i) == charger), key=lambda i: begins_min[i][0])
        for before, after in itertools.pairwise(own):
            gap = begins_min[after][0] - begins_min[before][1]
            warm = still_warm_k(ends_above_k[before], tau_min[before], gap)
            if warm > above_k:
                carried.append(WarmCharger(charger, before, after, warm))
    return carried


Happening = Literal["drain", "drained", "begin", "end", "cool", "void"]
_MAY: dict[Happening, tuple[frozenset[SlotState], SlotState, str]] = {
    "drain": (frozenset({"planned"}), "draining", "drain_began"),
    "drained": (frozenset({"planned", "draining"}), "drained", "drained"),
    "begin": (OPEN, "running", "began"),
    "end": (frozenset({"running"}), "done", "ended"),
}
_SAID: dict[Happening, str] = {
    "drain": "its drain begins", "drained": "it is drained", "begin": "it begins", "end": "it is over",
    "cool": "its phone is cool", "void": "it is void",
}  # fmt: skip
EARLY_MIN = 2.0
"""Time that a moment may lie ahead of the clock: clocks differ (our own)."""


def happens(h: Happened, what: Happening, at: dt.datetime, now: dt.datetime, reason: str = "") -> Happened:
    """State of a slot after one more event.

    Parameters
    ----------
    h : Happened
    what : Happening
    at : datetime
        When; not ahead of `now`, nor before what happened last.
    reason : str
        Why a slot is void; it needs one.

    Raises
    ------
    CannotRead
        If that cannot happen to it now.
    """
    if minutes_between(now, at) > EARLY_MIN:
        raise CannotRead("that moment is still to come", "give one that is past", file="at")
    earlier = [m for m in (h.drain_began, h.drained, h.began, h.ended) if m is not None]
    if earlier and at < max(earlier):
        raise CannotRead("that is before what happened to it last", "give a later moment, or undo that", file="at")
    if what == "void":
        if h.state == "void":
            raise CannotRead("it is void already", "undo that first", file="slot")
        if not reason.strip():
            raise CannotRead("no reason is given", "say why it is void", file="reason")
        return replace(h, state="void", ended=h.ended or (at if h.began else None))
    if what == "cool":
        if h.ended is None or h.cool is not None:
            raise CannotRead("this phone is not cooling down yet", "end the run first", file="slot")
        return replace(h, cool=at)
    may, then, moment = _MAY[what]
    if h.state not in may:
        raise CannotRead(f"it is {h.state}: it cannot be that {_SAID[what]}", "undo what is wrong first", file="slot")
    current = replace(h, state=then)
    if moment == "drain_began":
        return replace(current, drain_began=at)
    if moment == "drained":
        return replace(current, drained=at)
    return replace(current, began=at) if moment == "began" else replace(current, ended=at)


def may(h: Happened) -> list[Happening]:
    """Events that can come next for a slot, the usual thing first."""
    allowed: list[Happening] = [what for what, (states, _, _) in _MAY.items() if h.state in states]
    if h.state == "draining":
        allowed.remove("drained")
        allowed.insert(0, "drained")
    if h.ended is not None and h.cool is None and h.state in OVER:
        allowed.insert(0, "cool")
    if h.state not in {"void", "let go"}:
        allowed.append("void")
    return allowed


def overdue_min(h: Happened, drain_start: Moment, start: Moment, end: Moment, drains: bool, now: dt.datetime) -> float:
    """By how much the next thing that was planned for a slot is late [min]; 0 where it is not, or hardly."""
    due = {
        "planned": drain_start if drains else start, "draining": start, "drained": start, "running": end,
    }.get(h.state)  # fmt: skip
    late = 0.0 if due is None else minutes_between(due, now)
    return late if late >= LATE_MIN else 0.0


def warm_said(warmth: WarmCharger, names: Mapping[str, str]) -> str:
    """A charger that is still warm, in words; names : the phone of each run."""
    return (
        f"{warmth.charger} is still {warmth.warm_k:.0f} K warm from {names[warmth.before]} when {names[warmth.after]} "
        "begins on it: let it cool, or note it."
    )
