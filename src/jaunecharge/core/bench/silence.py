"""Silence of meters, probes and phones that report by themselves: from when on it is odd, and what to do."""

from collections.abc import Sequence
from itertools import pairwise
from typing import Literal

from ..arrays import median
from ..units import MINUTE_S
from .seen import Alarm, Seen, minutes

SILENT_STEPS, SILENT_S, PROBE_SILENT_S = 10.0, 30.0, 10 * MINUTE_S
WALL_SILENT_S = 4.0
REPORT_STEPS, REPORT_SILENT_S = 3.0, 3 * MINUTE_S
"""A phone that reports steadily is silent after so many of its steps, and no sooner than this (our own)."""

STEADY_REPORTS = 3
"""So many reports of an unchanged level say that a phone reports steadily, and not only changes (our own)."""


def silent_limit_s(spacing_s: float, speed: float = 1.0) -> float:
    """Silence after which the instruments of a lane are odd [s of the lane].

    spacing_s : between readings so far [s]; speed : how much faster than the clock on the wall the lane runs, as what
    is late on the way is late by that clock.
    """
    return max(SILENT_STEPS * spacing_s, SILENT_S, WALL_SILENT_S * speed)


def report_every_s(reports: Sequence[tuple[float, float]]) -> float | None:
    """Step at which a phone reports its level whether or not it has changed [s]; None where it reports changes alone.

    Parameters
    ----------
    reports : sequence of (at [s], %)
        The latest, in order. Only where the level stood still between two of them can the step be told.
    """
    steps = [b[0] - a[0] for a, b in pairwise(reports) if a[1] == b[1]]
    return median(steps) if len(steps) >= STEADY_REPORTS else None


def report_gaps(reports: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
    """Gaps in what a phone reported steadily: (from, to) [s]; none where it reports changes alone.

    Parameters
    ----------
    reports : sequence of (at [s], %)
        In order.
    """
    every_s = report_every_s(reports)
    if every_s is None:
        return []
    return [(a, b) for (a, _), (b, _) in pairwise(reports) if b - a > _silent_after_s(every_s)]


def gap_said(gap: tuple[float, float], placed_s: float) -> str:
    """A gap in a phone's reports in one sentence."""
    since, until = ((at - placed_s) / MINUTE_S for at in gap)
    return f"The phone did not report from minute {since:.0f} to {until:.0f}: its level in between is not known."


def _silent_after_s(every_s: float) -> float:
    return max(REPORT_STEPS * every_s, REPORT_SILENT_S)


def meter_silent(seen: Seen, on: bool) -> Alarm | None:
    """Nothing has come from the meter for too long."""
    if not seen.metered:
        return None
    last = float(seen.time_s[-1]) if len(seen.time_s) else None
    lasts = seen.now_s - last if last is not None else seen.now_s
    if lasts <= seen.silent_s:
        return None
    return Alarm(
        "meter silent", "warn", f"nothing from the meter for {minutes(lasts)}",
        "See whether it is on and reachable; the lane keeps running, and the gap stays in the run.",
    )  # fmt: skip


def probe_silent(seen: Seen, on: bool) -> Alarm | None:
    """Nothing has come from the probe for too long."""
    if not seen.probed:
        return None
    lasts = seen.now_s - float(seen.heat_s[-1]) if len(seen.heat_s) else seen.now_s
    if lasts <= max(seen.silent_s, 2 * MINUTE_S):
        return None
    return Alarm(
        "probe silent", "warn", f"nothing from the probe for {minutes(lasts)}",
        "See whether it is on and plugged in; without it heat cannot be judged.",
    )  # fmt: skip


def socket_silent(seen: Seen, on: bool) -> Alarm | None:
    """Nothing has come from the meter at the socket for too long."""
    lasts = _beside_silent_s(seen, "socket")
    if lasts is None:
        return None
    return Alarm(
        "socket silent", "note", f"nothing from the meter at the socket for {minutes(lasts)}",
        "See whether it is on the network; without it what the adapter loses is not known.",
    )  # fmt: skip


def room_silent(seen: Seen, on: bool) -> Alarm | None:
    """Nothing has come from what measures the room for too long."""
    lasts = _beside_silent_s(seen, "room")
    if lasts is None:
        return None
    return Alarm(
        "room silent", "note", f"nothing from the room's sensor for {minutes(lasts)}",
        "See whether it is on; the room as it was measured last counts until then.",
    )  # fmt: skip


def _beside_silent_s(seen: Seen, which: Literal["socket", "room"]) -> float | None:
    """Silence of an instrument beside meter and probe [s]; None where that is not odd yet."""
    if which not in seen.beside:
        return None
    lasts = seen.now_s - (seen.beside[which] or 0.0)
    # Sensors of a house report every few minutes.
    return None if lasts <= max(seen.silent_s, PROBE_SILENT_S) else lasts


def phone_silent(seen: Seen, on: bool) -> Alarm | None:
    """A phone that has reported its level steadily does so no more: what it would have said is not known."""
    if seen.reported_s is None or seen.report_every_s is None:
        return None
    lasts = seen.now_s - seen.reported_s
    if lasts <= _silent_after_s(seen.report_every_s):
        return None
    return Alarm(
        "phone silent", "warn", f"the phone has not reported for {minutes(lasts)}",
        "Its browser has gone to sleep, or it cannot reach the bench: wake its page, or type the level. "
        "What it could not send comes later; what it did not see is a gap, not a flat line.",
    )  # fmt: skip
