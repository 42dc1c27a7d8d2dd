"""Tests of packs put in time: how long each takes, when its pack is filled, and when somebody must be there."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass

from ..errors import CannotRead
from ..schedule import Problem, Task, Window, moment_at
from .methods import PackMethod, PackTestKind
from .rating import USUAL_YIELD, Rating

RATED_C = 0.2
"""Share of its energy an hour at which a pack is emptied: what capacities are rated at (IEC 61960-3, from memory)."""

FILL_W, FILLED_SHARE = 15.0, 1.3
SPARE = 1.2
STEPS_MIN, SMALL_MIN, CHARGE_MIN, PASS_MIN = 60.0, 120.0, 200.0, 90.0
"""Minutes that the other methods take (from memory)."""

EMPTIES = "Full to empty at one load"
GRID_MIN = 15
MOST_TESTS, SECONDS = 60, 4.0


@dataclass(frozen=True)
class WantedTest:
    """A test that is wanted: of which pack, by which method; known : whether that pack was ever tested."""

    pack: str
    rated: Rating
    method: PackMethod
    known: bool


@dataclass(frozen=True)
class TimedTest:
    """A test in time: fill_at : when its pack is plugged in to be full, None where it need not be; attended : whether
    somebody must stay, as its pack was never tested."""

    pack: str
    method: str
    kind: PackTestKind
    fill_at: dt.datetime | None
    start: dt.datetime
    end: dt.datetime
    attended: bool


def fill_minutes(rated: Rating) -> float:
    """Time to fill a pack [min], by usual watts and losses (from memory)."""
    return rated.wh * FILLED_SHARE / FILL_W * 60.0


def minutes_of(method: PackMethod, rated: Rating) -> float:
    """Time that a test takes [min].

    Raises
    ------
    CannotRead
        If it is none that can be put in time: a pack is left unused for weeks.
    """
    match method.kind, method.name:
        case "load", name if name == EMPTIES:
            return USUAL_YIELD / RATED_C * 60.0 * SPARE
        case "load", "Load in steps":
            return STEPS_MIN
        case "load", _:
            return SMALL_MIN
        case "recharge", _:
            return fill_minutes(rated) * SPARE
        case "pass_through", _:
            return PASS_MIN
        case "charge", _:
            return CHARGE_MIN
    raise CannotRead(
        f"“{method.name}” takes no hours of a day", "read it now, and again after some weeks", file="method"
    )


def problem_of_tests(
    wanted: Sequence[WantedTest], start: dt.datetime, attended: Sequence[Window], meters: int
) -> Problem:
    """The scheduling problem of some tests.

    Raises
    ------
    CannotRead
        If there are none, or too many, or one cannot be put in time.
    """
    if not 1 <= len(wanted) <= MOST_TESTS:
        raise CannotRead(f"{len(wanted)} tests", f"tick 1 to {MOST_TESTS}", file="tests")
    tasks = []
    for n, test in enumerate(wanted):
        minutes = minutes_of(test.method, test.rated)
        tasks.append(
            Task(
                f"t{n}", f"pack {test.pack}", "", "", minutes, attended_min=0.0 if test.known else minutes,
                pack=test.pack, fill_min=fill_minutes(test.rated) if test.method.from_full else 0.0,
                rest_min=test.method.rest_h * 60.0, said=f"{test.pack}: {test.method.name}",
            )
        )  # fmt: skip
    sequences = tuple(
        (f"t{a}", f"t{b}")
        for a, emptied in enumerate(wanted)
        for b, filled in enumerate(wanted)
        if emptied.pack == filled.pack and emptied.method.name == EMPTIES and filled.method.kind == "recharge"
    )
    return Problem(
        on_the_quarter(start), tuple(attended), tuple(tasks), meters=meters, grid_min=GRID_MIN, sequences=sequences
    )


def on_the_quarter(moment: dt.datetime) -> dt.datetime:
    """The next quarter of an hour from a moment on: nobody plugs a pack in at 08:12."""
    past = dt.timedelta(minutes=moment.minute % GRID_MIN, seconds=moment.second, microseconds=moment.microsecond)
    return moment - past + dt.timedelta(minutes=GRID_MIN) if past else moment


def timed_tests(wanted: Sequence[WantedTest], problem: Problem, seconds: float = SECONDS) -> list[TimedTest]:
    """The tests in time, the first one first.

    Raises
    ------
    CannotRead
        If the problem is wrong.
    Impossible
        If no schedule can be.
    """
    # Its library takes a second to load.
    from ..schedule import solve

    found = solve(problem, seconds)
    rows = []
    for slot in found.slots:
        test = wanted[int(slot.id[1:])]
        at = [None if m is None else moment_at(problem.start, m) for m in (slot.fill_start, slot.start, slot.end)]
        fill, begins, ends = at
        assert begins is not None and ends is not None
        full = fill if test.method.from_full else None
        rows.append(
            TimedTest(test.pack, test.method.name, test.method.kind, full, begins, ends, attended=not test.known)
        )
    return rows


def can_be_timed(method: PackMethod) -> bool:
    """Whether a method takes hours of a day, so that it can be put in time."""
    return method.kind in {"load", "recharge", "pass_through", "charge"}


def done_of(planned: Sequence[tuple[str, PackTestKind]], made: Sequence[tuple[str, PackTestKind]]) -> list[bool]:
    """Which planned tests, in order, were made since: each that was made answers for one.

    Parameters
    ----------
    planned, made : sequence of (label of the pack without capitals, kind)
    """
    left = list(made)
    done = []
    for test in planned:
        done.append(test in left)
        if test in left:
            left.remove(test)
    return done
