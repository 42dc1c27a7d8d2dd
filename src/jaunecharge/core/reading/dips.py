"""Where power falls clearly under what the chain was giving: found here, explained in `causes`."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..arrays import Array, Mask, median, running_sum
from ..log.no_load import MOST_NO_LOAD_W
from ..log.placement import UNPOWERED_V
from .grid import SMOOTH_S, Series

DEEP_SHARE = 0.85
LEAST_PARTIAL_S, LEAST_LOW_S = 60.0, 20.0
BRIDGED_S = 20.0
LEAST_STEPS, LEAST_BY_HAND, BY_HAND_STEPS = 2, 3, 2.5
"""One reading alone shows no duration, however far apart readings are; of watts read by hand three show a drop."""

LEAST_DEPTH_SHARE, LEAST_DEPTH_NOISES = 0.04, 3.0
"""Shallower than this, against best settled and the noise, nothing is a dip: a trickle is noisy for its size."""

SPREAD_OVER_S = 1800.0
LOW_W, LOW_SHARE, LOW_OF_SETTLED, LOW_SPREADS = 0.3, 0.08, 0.05, 3.0
"""At no-load: within 0.3 W or 8 % of it, but never more than 5 % of best settled above it (a small charger's restart
would else count as no-load; checked on simulated runs)."""

STOP_SHARE, FELL_SHARE, FELL_WITHIN_S = 0.35, 0.6, 60.0
STEADY_SHARE, STEADY_W, LEFT_W, LEFT_SHARE = 0.05, 0.1, 0.5, 1.3
"""Where no no-load was logged, a stop shows it: power that falls within a minute to six tenths and less of what it was,
to a steady level that a charger alone may draw (checked on random runs of two generators)."""

UNKNOWN_LOW_SHARE = 0.06
LOWEST_AS_LOW_SHARE = 0.12
OWN_PART_S = 120.0
"""Beside a stretch at no-load, a part of the same fall that lasts longer than a ramp is a dip of its own."""


@dataclass(frozen=True)
class RawDip:
    """A fall below what was expected, over the steps from `first` up to `end`.

    expected_w, floor_w [W]; low : at no-load level; trailing : nothing after it in the log shows that it returned.
    """

    first: int
    end: int
    expected_w: float
    floor_w: float
    low: bool
    trailing: bool = False


@dataclass(frozen=True)
class Low:
    """The level of no-load [W], None where nothing shows it, and up to where power counts as at it."""

    base_w: float | None
    limit_w: float


def low_level(grid: Series, settled_w: float, no_load_w: float | None, after_full_w: float | None) -> Low:
    """The level of no-load, and up to how many watts power counts as at it [W].

    Where no no-load was logged, the draw after full stands in, or the lowest level that power fell to at once; else the
    lowest lasting one, if it is low enough.
    """
    base, spread = no_load_w, 0.0
    if base is None:
        known = [] if after_full_w is None else [(after_full_w, 0.0)]
        base, spread = min([*known, *_stop_levels(grid, settled_w)], default=(None, 0.0))
    if base is None:
        lowest = float(grid.smooth[_powered(grid)].min(initial=np.inf))
        base = lowest if lowest < LOWEST_AS_LOW_SHARE * settled_w else None
    if base is None:
        return Low(None, UNKNOWN_LOW_SHARE * settled_w)
    margin = max(min(LOW_W, LOW_OF_SETTLED * settled_w), LOW_SHARE * base, LOW_SPREADS * spread)
    return Low(base, base + margin)


def _powered(grid: Series) -> Mask:
    """Steps at which the supply was on : (n,)."""
    return grid.seen if grid.volts is None else grid.seen & (grid.volts > UNPOWERED_V)


def _stop_levels(grid: Series, settled_w: float) -> list[tuple[float, float]]:
    """The steady powers that the log fell to at once from well above them, and how far they scatter [W].

    A taper's end is as low, and flat, but power comes there by and by.
    """
    most = min(MOST_NO_LOAD_W, STOP_SHARE * settled_w)
    least = max(grid.steps(LEAST_LOW_S), LEAST_STEPS)
    back = max(grid.steps(max(FELL_WITHIN_S, BY_HAND_STEPS * 2.0 * grid.unsure_s)), LEAST_STEPS + 1)
    padded = np.concatenate((np.full(back, -np.inf), grid.watts))
    before = np.lib.stride_tricks.sliding_window_view(padded, back).max(axis=1)[: len(grid)]
    lows: list[tuple[float, float]] = []
    for first, end in runs(_powered(grid) & (grid.watts <= most) & (grid.watts < FELL_SHARE * before)):
        if end - first < least or grid.shown(first, end) < LEAST_STEPS:
            continue
        # The step in which it fell is a mean of both.
        begin = first + (end - first > least)
        level = median(grid.watts[begin:end])
        # A few readings show the level, not how far they scatter: that is seen until power comes back.
        back_up = np.flatnonzero(grid.watts[end:] > max(level + LEFT_W, LEFT_SHARE * level))
        over = end + int(back_up[0]) if len(back_up) else len(grid)
        inside = grid.watts[begin : min(begin + grid.steps(SPREAD_OVER_S), over)]
        level = median(inside)
        spread = 1.4826 * median(np.abs(inside - level))
        if spread <= STEADY_SHARE * level + STEADY_W:
            lows.append((level, spread))
    return lows


def expected(grid: Series, first: int, end: int) -> Array:
    """Expected power at each step [W] : (end − first,): the smaller of the highest before and after.

    On means of 50 s that end or begin at the step, so that a single high reading is not taken for a level, and a step
    down does not reach over itself. Stages and a taper that never return are their own expectation, so that they are no
    dips; a fall inside them that returns is.
    """
    watts = grid.watts[first:end]
    width = min(grid.steps(SMOOTH_S), len(watts))
    before = np.maximum.accumulate(_trailing_mean(watts, width))
    after = np.maximum.accumulate(_trailing_mean(watts[::-1], width))[::-1]
    return np.minimum(before, after)


def _trailing_mean(values: Array, width: int) -> Array:
    """Mean of each value and those before it, `width` in all, fewer at the beginning : (n,)."""
    total = running_sum(values)
    last = np.arange(1, len(values) + 1)
    begin = np.maximum(last - width, 0)
    return np.asarray((total[last] - total[begin]) / (last - begin), dtype=np.float64)


def runs(mask: Mask) -> list[tuple[int, int]]:
    """Stretches of True: (first, end)."""
    padded = np.concatenate(([False], mask, [False]))
    edges = np.flatnonzero(padded[1:] != padded[:-1])
    return list(zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True))


def closed(mask: Mask, width: int) -> Mask:
    """The mask with gaps of up to `width` steps between two of its stretches filled."""
    filled = mask.copy()
    for (_, end), (begin, _) in pairwise(runs(mask)):
        if begin - end <= width:
            filled[end:begin] = True
    return filled


def find_dips(grid: Series, first: int, end: int, settled_w: float, low_w: float) -> list[RawDip]:
    """Every fall that returns, between the end of the ramp and full, in order.

    Parameters
    ----------
    grid : Series
    first, end : int
        Steps to look at.
    settled_w, low_w : float [W]
        Best settled power, and up to where power counts as at no-load.
    """
    if end - first < 3:
        return []
    hoped = expected(grid, first, end)
    watts = grid.watts[first:end]
    low = _at_no_load(grid, watts, low_w)
    depth = max(LEAST_DEPTH_SHARE * settled_w, LEAST_DEPTH_NOISES * grid.noise_w)
    below = (watts < DEEP_SHARE * hoped) & (hoped - watts > depth)
    bridged = closed(below, int(BRIDGED_S / grid.step_s))
    dips: list[RawDip] = []
    for a, b in runs(bridged):
        if not grid.seen[first + a : first + b].any():
            continue
        dips += _parts(grid, hoped, watts, low, first, a, b)
    return dips if grid.by_hand_s is None else [d for d in dips if grid.shown(d.first, d.end) >= _least_shown(d.low)]


def _at_no_load(grid: Series, watts: Array, low_w: float) -> Mask:
    """Steps at no-load : (n,). One that began there stays there until power is clearly above: a level that lies on the
    border is not cut into pieces by its noise."""
    low = watts <= low_w
    least = grid.steps(LEAST_LOW_S)
    for first, end in runs(watts <= low_w + max(LOW_SHARE * low_w, grid.noise_w)):
        if np.count_nonzero(low[first:end]) >= max(least, (end - first) // 4):
            low[first:end] = True
    return low


def _least_shown(low: bool) -> int:
    """Watts read by hand that a drop needs: at no-load fewer, since nothing else looks like it."""
    return LEAST_STEPS if low else LEAST_BY_HAND


def _parts(grid: Series, hoped: Array, watts: Array, low: Mask, first: int, a: int, b: int) -> list[RawDip]:
    """One fall, taken apart where a stretch at no-load stands beside a longer one above it."""
    least_low, least_partial = (max(grid.steps(s), LEAST_STEPS) for s in (LEAST_LOW_S, LEAST_PARTIAL_S))
    own = grid.steps(OWN_PART_S)

    def dip(begin: int, end: int, is_low: bool) -> RawDip:
        part = np.sort(watts[begin:end])
        # The floor of a dip that ramps up again is its lower third, not its mean.
        floor = float(part[: max(1, len(part) // 3)].mean())
        return RawDip(first + begin, first + end, float(hoped[begin:end].max()), floor, is_low)

    stretches = [
        (x + a, y + a)
        for x, y in runs(closed(low[a:b], int(BRIDGED_S / grid.step_s)))
        if y - x >= least_low and median(watts[a + x : a + y]) < DEEP_SHARE * hoped[a + x]
    ]
    if not stretches:
        return [dip(a, b, False)] if b - a >= least_partial else []
    parts, at = [], a
    for x, y in stretches:
        if x - at >= own:
            parts.append(dip(at, x, False))
            parts.append(dip(x, y, True))
        else:
            parts.append(dip(at if at == a else x, y, True))
        at = y
    if b - at >= own:
        parts.append(dip(at, b, False))
    return parts


def trailing_low(grid: Series, first: int, low_w: float, settled_w: float) -> RawDip | None:
    """Power at no-load from some moment to the end of the log; None where it was not, came there smoothly, or only for
    some seconds."""
    above = np.flatnonzero(grid.watts[first:] > low_w)
    if not len(above):
        return None
    begin = first + int(above[-1]) + 1
    if (len(grid) - begin) < grid.steps(LEAST_LOW_S):
        return None
    back = max(first, begin - grid.steps(120.0))
    before = median(grid.watts[back:begin])
    if before - low_w < LEAST_DEPTH_SHARE * settled_w:
        return None
    return RawDip(begin, len(grid), before, median(grid.watts[begin:]), True, trailing=True)
