"""Where power falls clearly under what the chain was giving: found here, explained in `causes`."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..arrays import Array, Mask
from .grid import SMOOTH_S, Series

DEEP_SHARE = 0.85
LEAST_PARTIAL_S, LEAST_LOW_S = 60.0, 20.0
BRIDGED_S = 20.0
LEAST_STEPS = 2
"""One reading alone shows no duration, however far apart readings are."""

LEAST_DEPTH_SHARE, LEAST_DEPTH_NOISES = 0.04, 3.0
"""Shallower than this, against best settled and the noise, nothing is a dip: a trickle is noisy for its size."""

LOW_W, LOW_SHARE, LOW_OF_SETTLED = 0.3, 0.08, 0.05
"""At no-load: within 0.3 W or 8 % of it, but never more than 5 % of best settled above it (a small charger's restart
would else count as no-load; checked on simulated runs)."""

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


def low_level(grid: Series, settled_w: float, no_load_w: float | None, after_full_w: float | None) -> float:
    """Up to how many watts power counts as at no-load level [W].

    Where no no-load was logged, the draw after full stands in; else the lowest lasting level, if it is low enough.
    """
    base = no_load_w if no_load_w is not None else after_full_w
    if base is None:
        lowest = float(grid.smooth.min())
        base = lowest if lowest < LOWEST_AS_LOW_SHARE * settled_w else None
    if base is None:
        return UNKNOWN_LOW_SHARE * settled_w
    return base + max(min(LOW_W, LOW_OF_SETTLED * settled_w), LOW_SHARE * base)


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
    total = np.concatenate(([0.0], np.cumsum(values)))
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
    low = watts <= low_w
    depth = max(LEAST_DEPTH_SHARE * settled_w, LEAST_DEPTH_NOISES * grid.noise_w)
    below = (watts < DEEP_SHARE * hoped) & (hoped - watts > depth)
    bridged = closed(below, int(BRIDGED_S / grid.step_s))
    dips: list[RawDip] = []
    for a, b in runs(bridged):
        if not grid.seen[first + a : first + b].any():
            continue
        dips += _parts(grid, hoped, watts, low, first, a, b)
    return dips


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
        if y - x >= least_low and float(np.median(watts[a + x : a + y])) < DEEP_SHARE * hoped[a + x]
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
    before = float(np.median(grid.watts[back:begin]))
    if before - low_w < LEAST_DEPTH_SHARE * settled_w:
        return None
    return RawDip(begin, len(grid), before, float(np.median(grid.watts[begin:])), True, trailing=True)
