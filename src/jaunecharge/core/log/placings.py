"""One log over several placings: where one phone was taken off and another put on."""

import math
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..arrays import Array, Mask, median, percentile
from ..units import HOUR_S, MINUTE_S
from .check_ins import CheckIns
from .no_load import MOST_NO_LOAD_W, SAME_LEVEL_SHARE, SAME_LEVEL_W, same_level_w
from .placement import UNPOWERED_W
from .trace import PowerTrace

STEP_S, LEVEL_STEPS = 5.0, 4
LOW_SHARE = 0.15
LEAST_OFF_S = 20.0
"""Shorter than this at no-load nobody has changed phones (own choice)."""

LEAST_RUN_S = 3 * MINUTE_S
"""A shorter stretch of charging is no run of its own (own choice)."""

FRESH_SHARE = 1.3
"""A phone that draws so many times what the last one drew as it was taken off is another one, or an emptier one."""

SAME_SHARE, SLOWER_SHARE, RECENT_S, LATER_S = 0.05, 0.75, 20 * MINUTE_S, 2 * HOUR_S
"""A phone that goes on after a stop draws what it drew not long before, or somewhat less as it slows (own choice)."""

CHANGED_S, WHOLE_RUN_S, WHOLE_RUN_WH = MINUTE_S, 25 * MINUTE_S, 6.0
"""At another level a stop of a minute is a change of phones where each side is a charge of its own (own choice)."""

DRAINED_S, AS_MUCH = 30 * MINUTE_S, 0.6
"""After a stop so long, as much again into the same phone is another charge: a charge limit leaves less to go."""

SLOWING_MIN, SLOWED_TO, HOLDS_MIN = 4, 0.93, 9
"""A phone that slows has fallen so far in so many minutes; one that holds a level after a stop does so for longer (own
choice)."""

TAPER_FELL, FULL_ABOVE_W = 0.85, 0.4
MOST_RUN_WH = 34.0
"""Few phones take more in one charge, by the meter (own choice: 5,000 mAh at 3.9 V, 57 % of it arriving)."""

FELL_POINTS = 10.0
"""A percentage that comes back so much lower is another phone's."""

BESIDE_S, SETTLES_S, LEAD_STEPS = 3 * MINUTE_S, MINUTE_S, 6


@dataclass(frozen=True)
class Placing:
    """One placing in a log: from and to [s], its no-load lead included; when the phone was placed, where that is seen;
    sure : whether it is plainly another phone, not the same one after a stop."""

    start_s: float
    end_s: float
    placed_s: float | None
    sure: bool = True


def placings(trace: PowerTrace, readings: CheckIns | None = None) -> tuple[Placing, ...]:
    """The placings of a log, in order; a single one where nothing says that there are more.

    A stop at no-load is a change of phones where the percentage comes back lower; where the power comes back clearly
    higher than it was, as the last phone was nearly full; where it comes back at another level, and each side is a
    charge of its own; where the stop was long and as much was charged again; or where it would be more than any phone
    takes.
    """
    whole = (Placing(trace.start_s, trace.end_s, None),)
    if not trace.metered or trace.sparse:
        return whole
    time_s, watts = _grid(trace)
    idle_w = _idle(watts[watts > UNPOWERED_W])
    if idle_w is None:
        return whole
    # A full phone may draw less than the charger alone, or more: both are low beside what it charges with.
    low = watts <= max(same_level_w(idle_w), LOW_SHARE * percentile(watts, 95))
    stretches = [(a, b) for a, b in _runs(~low) if (b - a) * STEP_S >= LEAST_OFF_S]
    stretches = _joined(stretches)
    stretches = [(a, b) for a, b in stretches if (b - a) * STEP_S >= LEAST_RUN_S] or stretches
    if not stretches:
        return whole
    parts: list[list[tuple[int, int]]] = [[stretches[0]]]
    sure = [True]
    for before, after in pairwise(stretches):
        verdict = _changed(time_s, watts - idle_w, parts[-1], before, after, readings)
        if verdict is None:
            parts[-1].append(after)
        else:
            parts.append([after])
            sure.append(verdict)
    parts, sure = _bounded(watts - idle_w, float(time_s[1] - time_s[0]), parts, sure)
    return _spans(trace, time_s, watts, [(p[0][0], p[-1][1]) for p in parts], sure)


def _grid(trace: PowerTrace) -> tuple[Array, Array]:
    """Means of five seconds, or of the log's own step; what was not metered is as low as anything."""
    step = max(STEP_S, trace.step_s)
    count = max(1, int((trace.end_s - trace.start_s) // step) + 1)
    at = np.minimum(((trace.time_s - trace.start_s) / step).astype(int), count - 1)
    total, rows = np.bincount(at, trace.power_w, count), np.bincount(at, minlength=count)
    time_s: Array = trace.start_s + step * (np.arange(count, dtype=np.float64) + 0.5)
    filled = rows > 0
    watts: Array = np.interp(time_s, time_s[filled], total[filled] / rows[filled])
    return time_s, watts


def _idle(watts: Array) -> float | None:
    """The lowest level that holds for twenty seconds, if it is one of a charger alone [W]."""
    if len(watts) < LEVEL_STEPS:
        return None
    windows = np.lib.stride_tricks.sliding_window_view(watts, LEVEL_STEPS)
    mean = windows.mean(axis=1)
    level = (windows.max(axis=1) - windows.min(axis=1) <= np.maximum(SAME_LEVEL_W, SAME_LEVEL_SHARE * mean)) & (
        mean <= MOST_NO_LOAD_W
    )
    return float(mean[level].min()) if level.any() else None


def _runs(mask: Mask) -> list[tuple[int, int]]:
    edges = np.flatnonzero(np.diff(np.concatenate(([False], mask, [False])).astype(np.int8)))
    return list(zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True))


def _joined(stretches: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """Stretches of charging with the stops between them that are too short for a change."""
    joined: list[tuple[int, int]] = []
    for a, b in stretches:
        if joined and (a - joined[-1][1]) * STEP_S < LEAST_OFF_S:
            joined[-1] = (joined[-1][0], b)
        else:
            joined.append((a, b))
    return joined


def _changed(
    time_s: Array,
    above_w: Array,
    part: list[tuple[int, int]],
    before: tuple[int, int],
    after: tuple[int, int],
    readings: CheckIns | None,
) -> bool | None:
    """Whether another phone was put on between two stretches: True, or False where that is only likely; None: not."""
    step = float(time_s[1] - time_s[0])
    off_s = (after[0] - before[1]) * step
    if readings is not None:
        earlier = readings.percent[readings.time_s <= time_s[before[1] - 1]]
        later = readings.percent[readings.time_s >= time_s[after[0]]]
        if len(earlier) and len(later):
            fell = float(earlier[-1] - later[0])
            return True if fell >= FELL_POINTS else None
    if _fell_off(above_w[before[1] : after[0]], step):
        return True
    per = max(1, round(MINUTE_S / step))
    level_before, level_after = _levels(above_w, before, after, step)
    recent = above_w[max(part[0][0], before[1] - round(RECENT_S / step)) : before[1]]
    minutes = np.array([np.median(recent[k : k + per]) for k in range(0, len(recent), per)])
    goes_on = bool(np.any(np.abs(minutes / max(level_after, 1e-9) - 1.0) <= SAME_SHARE))
    lasted_s = float(time_s[before[1] - 1] - time_s[part[0][0]])
    if level_after >= FRESH_SHARE * level_before and lasted_s >= WHOLE_RUN_S and (not goes_on or _tapered(minutes)):
        return True
    earlier_wh, own_wh = _energy(above_w, part[0][0], before[1], step), _energy(above_w, *after, step)
    if lasted_s < WHOLE_RUN_S or earlier_wh < WHOLE_RUN_WH:
        return None
    as_much = own_wh >= AS_MUCH * earlier_wh
    if off_s >= DRAINED_S and as_much:
        return False
    soon = _energy(above_w, after[0], min(len(above_w), after[0] + round(LATER_S / step)), step)
    # A little less may be the same phone that slows.
    other = level_after > (1.0 + SAME_SHARE) * level_before or level_after < SLOWER_SHARE * level_before or as_much
    if goes_on and _slowed(minutes) and _holds(above_w[after[0] : after[1]], float(minutes[-1]), per):
        # It drew as much on its way down; but one that had begun to slow does not hold a level again.
        other, goes_on = True, False
    return False if off_s >= CHANGED_S and other and not goes_on and soon >= WHOLE_RUN_WH else None


def _levels(above_w: Array, before: tuple[int, int], after: tuple[int, int], step: float) -> tuple[float, float]:
    """Power over no-load before a stop, and after it once it has settled [W]."""
    beside, settles = round(BESIDE_S / step), round(SETTLES_S / step)
    earlier = above_w[max(before[0], before[1] - beside) : before[1]]
    later = above_w[min(after[0] + settles, after[1] - 1) : min(after[0] + settles + beside, after[1])]
    return median(earlier), median(later)


def _apart(above_w: Array, before: tuple[int, int], after: tuple[int, int], step: float) -> float:
    """Distance of the levels before and after a stop, as a share; 0 where the stop is too short for a change."""
    if (after[0] - before[1]) * step < CHANGED_S:
        return 0.0
    earlier, later = _levels(above_w, before, after, step)
    return abs(math.log(max(later, 1e-3) / max(earlier, 1e-3))) + 1e-6 * (after[0] - before[1])


def _fell_off(off_w: Array, step: float) -> bool:
    """Whether a stop begins at a level of its own, of a phone that is full, and ends at a lower one, without it."""
    minute = max(1, round(MINUTE_S / step))
    if len(off_w) < 2 * minute:
        return False
    base_w = median(off_w[-LEAD_STEPS:])
    return median(off_w[:minute]) - base_w > FULL_ABOVE_W and float(np.min(off_w[:minute])) > base_w


def _energy(above_w: Array, first: int, end: int, step: float) -> float:
    """Energy above no-load [Wh]."""
    return float(above_w[first:end].sum()) * step / HOUR_S


def _slowed(minutes: Array) -> bool:
    """Whether power was falling smoothly, minute by minute, as the stop began."""
    last = minutes[-SLOWING_MIN - 1 :]
    return len(last) > SLOWING_MIN and bool(np.all(np.diff(last) < 0)) and last[-1] <= SLOWED_TO * last[0]


def _holds(above_w: Array, at_stop_w: float, per: int) -> bool:
    """Whether power holds one level for minutes after a stop, no lower than it was when that began. per : steps a
    minute."""
    held = above_w[2 * per : HOLDS_MIN * per]
    if len(held) < (HOLDS_MIN - 2) * per:
        return False
    minutes = np.median(held[: len(held) // per * per].reshape(-1, per), axis=1)
    return float(np.ptp(minutes)) <= SAME_SHARE * median(minutes) and float(minutes.min()) >= at_stop_w


def _tapered(minutes: Array) -> bool:
    """Whether power fell smoothly, minute by minute, as it does before a phone is full."""
    steps = np.diff(minutes)
    return len(steps) > 3 and float(np.mean(steps <= 0)) >= 0.75 and minutes[-1] <= TAPER_FELL * minutes[0]


def _bounded(
    above_w: Array, step: float, parts: list[list[tuple[int, int]]], sure: list[bool]
) -> tuple[list[list[tuple[int, int]]], list[bool]]:
    """Parts that take more than any phone does, divided at the stop where the level changed the most."""
    bounded: list[list[tuple[int, int]]] = []
    known: list[bool] = []
    for part, plain in zip(parts, sure, strict=True):
        waiting = [(part, plain)]
        while waiting:
            own, own_sure = waiting.pop(0)
            stops = [_apart(above_w, a, b, step) for a, b in pairwise(own)]
            at = int(np.argmax(stops)) if stops else 0
            if stops and stops[at] > 0.0 and _energy(above_w, own[0][0], own[-1][1], step) > MOST_RUN_WH:
                waiting[:0] = [(own[: at + 1], own_sure), (own[at + 1 :], False)]
            else:
                bounded.append(own)
                known.append(own_sure)
    return bounded, known


def _spans(
    trace: PowerTrace, time_s: Array, watts: Array, parts: list[tuple[int, int]], sure: list[bool]
) -> tuple[Placing, ...]:
    """Parts from where the level before each placing began to where that of the next begins."""
    half = float(time_s[1] - time_s[0]) / 2.0
    starts = [trace.start_s]
    for (_, end), (begin, _) in pairwise(parts):
        base_w = median(watts[max(end, begin - LEAD_STEPS) : begin])
        at = begin
        while at > end and abs(watts[at - 1] - base_w) <= same_level_w(base_w) - base_w:
            at -= 1
        starts.append(float(time_s[min(at, begin - 1)]) - half)
    ends = [*starts[1:], trace.end_s]
    placed = [float(time_s[a]) - half if a > 0 else None for a, _ in parts]
    return tuple(Placing(*span) for span in zip(starts, ends, placed, sure, strict=True))
