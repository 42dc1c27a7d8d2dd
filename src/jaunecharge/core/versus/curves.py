"""Battery curves laid together, and the largest gap between two of them."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..arrays import Array, Mask
from ..log.check_ins import CheckIns
from ..units import MINUTE_S
from .ranking import Places
from .repeats import Repeats
from .window import Window, crossing

Align = Literal["placement", "common percent"]
GRID = 240
_PAIRS_AT_ONCE = 4000
_JUST_BEFORE = 1e-6


@dataclass(frozen=True)
class Gap:
    """The largest gap between two curves: points that a is ahead (negative where b is), and at which minute."""

    points: float
    minute: float


def shift(readings: CheckIns, window: Window, align: Align) -> float:
    """The minute after placing that counts as 0."""
    if align == "placement":
        return 0.0
    crossed = crossing(readings, window[0])
    return 0.0 if crossed is None else crossed.estimate


def curves(cells: Sequence[Repeats], window: Window, align: Align, minutes: Array) -> Array:
    """Battery level of each cell, the mean of its runs : (cells, minutes) [%]; NaN where check-ins do not reach.

    A phone that has shown 100 % stays there. Where the first repeats have ended, the mean goes on by the rise of those
    that are left.
    """
    values = np.full((len(cells), len(minutes)), np.nan)
    for n, cell in enumerate(cells):
        known = [
            (readings, shift(readings, window, align))
            for run in cell.runs
            if (readings := run.course.readings) is not None and readings.level is not None
        ]
        if len(known) == 1:
            values[n] = _level(*known[0], minutes)
        elif known:
            ends = [float(readings.time_s[-1]) / MINUTE_S - moved - _JUST_BEFORE for readings, moved in known]
            nodes = np.union1d(minutes, ends)
            values[n] = _mean(np.array([_level(*k, nodes) for k in known]))[np.searchsorted(nodes, minutes)]
    return values


def _level(readings: CheckIns, moved: float, minutes: Array) -> Array:
    """Battery level of one run at minutes that count from `moved` minutes after placing."""
    assert readings.level is not None
    at = (minutes + moved) * MINUTE_S
    level = np.asarray(readings.level(at), dtype=float)
    return np.where(at > readings.time_s[-1], 100.0, level) if readings.percent.max() >= 100.0 else level


def _mean(rows: Array) -> Array:
    """The mean of rows : (runs, nodes), from where all are known; nodes hold the end of each."""
    known = np.isfinite(rows)
    whole: Mask = np.logical_and.reduce(known)
    if not whole.any():
        return np.full(rows.shape[1], np.nan)
    both = known[:, 1:] & known[:, :-1]
    left = both.sum(axis=0)
    rise = np.where(both, np.diff(rows, axis=1), 0.0).sum(axis=0) / np.where(left, left, np.nan)
    last = np.flatnonzero(whole)[-1]
    mean: Array = np.where(whole, rows.mean(axis=0), np.nan)
    mean[last + 1 :] = np.minimum(100.0, mean[last] + np.cumsum(rise[last:]))
    return mean


def longest(cells: Sequence[Repeats]) -> float:
    """Minutes after placing at which the last check-in of the longest run stands."""
    ends = [float(r.course.readings.time_s[-1]) for c in cells for r in c.runs if r.course.readings is not None]
    return max(ends, default=0.0) / MINUTE_S


def gaps(cells: Sequence[Repeats], window: Window, align: Align, i: Places, j: Places) -> list[Gap | None]:
    """The largest gap of each pair of cells; None where their curves never stand side by side."""
    minutes = np.linspace(0.0, longest(cells), GRID)
    level = curves(cells, window, align, minutes)
    between: list[Gap | None] = []
    for first in range(0, len(i), _PAIRS_AT_ONCE):
        ahead = level[i[first : first + _PAIRS_AT_ONCE]] - level[j[first : first + _PAIRS_AT_ONCE]]
        size = np.nan_to_num(np.abs(ahead), nan=-1.0)
        at = size.argmax(axis=1)
        rows = np.arange(len(at))
        between += [
            Gap(points, minute) if known >= 0.0 else None
            for points, minute, known in zip(
                ahead[rows, at].tolist(), minutes[at].tolist(), size[rows, at].tolist(), strict=True
            )
        ]
    return between
