"""Stops of a pack's output in a load test: cut off, protection, asleep, or nobody knows."""

from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from ..arrays import Array, Mask, percentile
from ..units import HOUR_S
from .load_steps import LOADED_A, STEP_A, STEP_SHARE, LoadStep
from .rating import Rating

NEW_RISE_S, NEW_SHARE = 20.0, 1.03
"""Protection let go where the output went within so many seconds of a load that it had not held before (own choice)."""

AGAIN_WITHIN_S = 60.0
SLEEP_A = 0.15
"""A pack that goes off under so small a load went to sleep (common practice: 50 to 120 mA)."""

AWAKE_S = 1800.0
"""A pack that stays awake under a small load for so long has no sleep: then it was empty (own choice)."""

RISING, FAR_FROM_EMPTY = 2, 0.3
"""Raised so many times in a row, and so little of the rated energy given (own choice)."""

REST_SHARE = 0.03
"""What a pack that was cut off still gives in short spells is no more than this (own choice)."""


@dataclass(frozen=True)
class Trip:
    """Protection: the largest current that it held, and the one at which it let go [A], None where the log missed it;
    back_s : when the output was there again, None where the log does not show it; again : how often it tried again soon
    after and let go once more, last_s : when it last did."""

    at_s: float
    held_a: float
    tripped_at_a: float | None
    back_s: float | None
    again: int = 0
    last_s: float = 0.0


@dataclass(frozen=True)
class Sleep:
    """It went off under a small load [A]; after_s : how long that had lasted; back_s : when it was there again."""

    at_s: float
    amps: float
    after_s: float
    back_s: float | None


@dataclass(frozen=True)
class Stops:
    """The stops of a test. cut_off_s [s] : None where there was none; others : from and to [s], of those that nothing
    explains."""

    cut_off_s: float | None
    trip: Trip | None
    sleeps: tuple[Sleep, ...]
    others: tuple[tuple[float, float | None], ...]


def stops_of(
    time_s: Array, volts: Array, amps: Array, on: Mask, first: int, steps: list[LoadStep], rated: Rating
) -> Stops:
    """The stops of a load test. on : (n,) whether the output was there; first : sample of the first load."""
    return _sorted(time_s, amps, volts, _goes(time_s, volts, amps, on, first), steps, rated)


@dataclass(frozen=True)
class _Gone:
    """The output went at `at` and was there again at `back` (index), or not; last_a : drawn just before."""

    at: int
    back: int | None
    last_a: float
    held_a: float
    held_s: float


def _goes(time_s: Array, volts: Array, amps: Array, on: Mask, first: int) -> list[_Gone]:
    """Every time that the output went while or after a load was on it."""
    goes = []
    for at in (np.flatnonzero(on[:-1] & ~on[1:]) + 1).tolist():
        if at <= first:
            continue
        later = np.flatnonzero(on[at:])
        back = at + int(later[0]) if len(later) else None
        held_a, held_s, last_a = _held(time_s, amps, on, at)
        goes.append(_Gone(at, back, last_a, held_a, held_s))
    return goes


def _held(time_s: Array, amps: Array, on: Mask, at: int) -> tuple[float, float, float]:
    """The largest current held before a moment [A], how long the last one had been on [s], and that one [A]."""
    begin = at - 1
    while begin > 0 and on[begin - 1]:
        begin -= 1
    # A load that trips a pack is drawn for a sample or two only, and may be in the sample in which it went.
    recent = amps[max(begin, at - 3) : at + 1]
    last_a = float(recent.max())
    window = max(1, int(np.searchsorted(time_s, time_s[at - 1] - NEW_RISE_S)))
    settled = amps[: max(window, 1)][on[: max(window, 1)]]
    held_a = percentile(settled, 99.5) if len(settled) else 0.0
    near = np.abs(amps[begin:at] - last_a) <= max(STEP_A, STEP_SHARE * last_a)
    off = np.flatnonzero(~near)
    since = begin + (int(off[-1]) + 1 if len(off) else 0)
    return held_a, float(time_s[at - 1] - time_s[min(since, at - 1)]), last_a


def _sorted(time_s: Array, amps: Array, volts: Array, goes: list[_Gone], steps: list[LoadStep], rated: Rating) -> Stops:
    """The stops by what they were: cut-off, protection, sleep, unknown."""
    cut_off: float | None = None
    trip: Trip | None = None
    sleeps: list[Sleep] = []
    others: list[tuple[float, float | None]] = []
    power = amps * volts
    whole_wh = float(np.trapezoid(power, time_s)) / HOUR_S
    for gone in goes:
        at_s = float(time_s[gone.at])
        back_s = None if gone.back is None else float(time_s[gone.back])
        rest_wh = float(np.trapezoid(power[gone.at :], time_s[gone.at :])) / HOUR_S
        if gone.last_a <= SLEEP_A and (gone.back is not None or gone.held_s < AWAKE_S):
            sleeps.append(Sleep(at_s, gone.last_a, gone.held_s, back_s))
        elif gone.held_s < NEW_RISE_S and gone.last_a > NEW_SHARE * gone.held_a:
            if trip is not None and at_s - max(trip.at_s, trip.last_s) <= AGAIN_WITHIN_S:
                trip = replace(trip, again=trip.again + 1, last_s=at_s)
            elif trip is None or trip.tripped_at_a is None or gone.last_a < trip.tripped_at_a:
                trip = Trip(at_s, gone.held_a, gone.last_a, back_s)
        elif _next_step_tripped([s for s in steps if s.end_s <= at_s], whole_wh - rest_wh, rated):
            trip = trip or Trip(at_s, gone.last_a, None, back_s)
        elif gone.back is None or rest_wh <= REST_SHARE * whole_wh:
            cut_off = at_s
            break
        else:
            others.append((at_s, back_s))
    return Stops(cut_off, trip, tuple(sleeps), tuple(others))


def _next_step_tripped(steps: list[LoadStep], given_wh: float, rated: Rating) -> bool:
    """Whether a load that was raised step by step went off with the pack far from empty, as the next step was due: the
    log missed the current that it let go at."""
    loads = [s for s in steps if s.amps >= LOADED_A]
    rising = len(loads) > RISING and all(b.amps > a.amps for a, b in pairwise(loads[-RISING - 1 :]))
    return rising and given_wh < FAR_FROM_EMPTY * rated.wh
