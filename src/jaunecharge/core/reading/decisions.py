"""Decisions of a reader of a run: another cause, other bounds, no dip; what was read stays beside it."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final, Literal

from ..errors import CannotRead
from ..log.energy import mean_power
from ..log.trace import PowerTrace
from ..units import MINUTE_S
from .causes import Dip
from .judgement import Judged
from .phases import Phase
from .verdict import CAUSES, Cause

NO_DIP: Final = "no dip"
SAME_SHARE = 0.5
SAME_BOUND_S = 2 * MINUTE_S
LEAST_S = 10.0


@dataclass(frozen=True)
class Decision:
    """A decision about a dip or about where a phase begins.

    start_s, end_s [s] : the thing as it was read (of a phase: where it began, twice), or a stretch where nothing was
    read; cause : a dip's cause, or `no dip`; new_start_s, new_end_s [s] : other bounds, where they were changed.
    """

    about: Literal["dip", "phase"]
    start_s: float
    end_s: float
    cause: Cause | Literal["no dip"] | None = None
    new_start_s: float | None = None
    new_end_s: float | None = None
    by: str = ""
    why: str = ""


def check_overruling(given: Decision, trace: PowerTrace) -> None:
    """Refuse a decision that cannot be.

    Raises
    ------
    CannotRead
    """
    begin = given.new_start_s if given.new_start_s is not None else given.start_s
    end = given.new_end_s if given.new_end_s is not None else given.end_s
    if given.about == "dip" and end - begin < LEAST_S:
        raise CannotRead("a dip ends after it begins", "put its end later than its beginning", file="overruling")
    if not (trace.start_s - 1 <= begin <= trace.end_s + 1 and end <= trace.end_s + 1):
        raise CannotRead("that lies outside the log", "choose a moment within the run", file="overruling")
    if given.about == "phase" and given.new_start_s is None:
        raise CannotRead("where the phase begins is missing", "say the new moment", file="overruling")
    if given.cause is not None and given.cause not in (*CAUSES, NO_DIP):
        raise CannotRead(f"there is no cause {given.cause}", f"choose one of {', '.join(CAUSES)}", file="overruling")


def overruled(judged: Judged, trace: PowerTrace, given: Sequence[Decision]) -> Judged:
    """The judgement with a reader's decisions in it, in their order; each dip keeps what it was read as."""
    for one in given:
        judged = _phase(judged, trace, one) if one.about == "phase" else _dip(judged, one)
    return judged


def _dip(judged: Judged, one: Decision) -> Judged:
    dip = max(
        (*judged.dips, *judged.dismissed),
        key=lambda d: _common(d.start_s, d.end_s, one.start_s, one.end_s),
        default=None,
    )
    if dip is not None and _common(dip.start_s, dip.end_s, one.start_s, one.end_s) <= SAME_SHARE:
        dip = None
    start = one.new_start_s if one.new_start_s is not None else (dip.start_s if dip else one.start_s)
    end = one.new_end_s if one.new_end_s is not None else (dip.end_s if dip else one.end_s)
    others = tuple(d for d in judged.dips if d is not dip)
    aside = tuple(d for d in judged.dismissed if d is not dip)
    by = f" by {one.by}" if one.by else ""
    because = f": {one.why}" if one.why else ""
    if dip is None:
        if one.cause is None or one.cause == NO_DIP:
            return judged
        replaced = _made(judged, start, end, one.cause)
        replaced = replace(replaced, why=one.why or "added by hand", overruled=f"not read as a dip; added{by}{because}")
        return replace(judged, dips=_sorted((*others, replaced)), dismissed=aside)
    first = dip.overruled or f"read as {dip.cause}, {dip.minutes:.1f} min"
    reason = f"{first.split('; ')[0]}; changed{by}{because}"
    if one.cause == NO_DIP:
        return replace(judged, dips=others, dismissed=(*aside, replace(dip, overruled=reason)))
    cause = dip.cause if one.cause is None or one.cause == NO_DIP else one.cause
    changed = replace(
        dip, start_s=start, end_s=end, cause=cause, overruled=reason, settle="" if one.cause else dip.settle
    )
    return replace(judged, dips=_sorted((*others, changed)), dismissed=aside)


def _made(judged: Judged, start: float, end: float, cause: Cause) -> Dip:
    """A dip where none was read: against the power of the minute before it."""
    grid = judged.grid
    first, last = grid.index(start), max(grid.index(start) + 1, grid.index(end))
    before = grid.watts[max(0, first - grid.steps(MINUTE_S)) : max(1, first)]
    floor = float(grid.watts[first:last].min())
    onset = judged.warmth.at(first) if judged.warmth is not None else None
    return Dip(start, end, cause, float(before.mean()), floor, onset, None, floor <= judged.low_w, False, "")


def _common(a: float, b: float, c: float, d: float) -> float:
    """Overlap of two stretches, as a share of both together."""
    whole = max(b, d) - min(a, c)
    return max(0.0, min(b, d) - max(a, c)) / whole if whole > 0 else 0.0


def _sorted(dips: tuple[Dip, ...]) -> tuple[Dip, ...]:
    return tuple(sorted(dips, key=lambda d: d.start_s))


def _phase(judged: Judged, trace: PowerTrace, one: Decision) -> Judged:
    """Move the boundary at which a phase begins; the one before it ends there."""
    phases = list(judged.phases)
    near = [k for k in range(1, len(phases)) if abs(phases[k].start_s - one.start_s) <= SAME_BOUND_S]
    if not near or one.new_start_s is None:
        return judged
    k = min(near, key=lambda i: abs(phases[i].start_s - one.start_s))
    low, high = phases[k - 1].start_s + LEAST_S, phases[k].end_s - LEAST_S
    at = min(max(one.new_start_s, low), high)
    by = f" by {one.by}" if one.by else ""
    reason = f"read as beginning at {phases[k].start_s:.0f} s; changed{by}" + (f": {one.why}" if one.why else "")
    before, here = phases[k - 1], phases[k]
    phases[k - 1] = replace(before, end_s=at, mean_w=mean_power(trace, before.start_s, at))
    phases[k] = Phase(here.kind, at, here.end_s, mean_power(trace, at, here.end_s), here.overruled or reason)
    return replace(judged, phases=tuple(phases))
