"""Where a curve changes its course: the best description of it by straight pieces, each with a price.

A piecewise linear fit found by an exact dynamic programme. Constant pieces would make a staircase of a taper.
"""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..arrays import Array

PRICE = 30.0
LEAST_STEPS = 3
GROUPS = 3
"""Shortest pieces whose ends are looked at before beginnings are dropped."""


@dataclass(frozen=True)
class Piece:
    """A straight piece over the steps from `first` up to, not including, `end`; watts at both ends, and their mean."""

    first: int
    end: int
    start_w: float
    end_w: float
    mean_w: float

    @property
    def slope_w(self) -> float:
        """Change of a step [W]."""
        return (self.end_w - self.start_w) / max(1, self.end - self.first - 1)


def _best_cuts(sums: Array, penalty: float, least: int) -> list[int]:
    """Where each best last piece begins, for every end : (n + 1,). sums : (n + 1, 6) running sums of w, wx, wxx, wy,
    wxy, wyy.

    A beginning that by itself costs more than the best way to here can begin no better piece further on, once another
    may begin here: now and then such are dropped (pruning of Killick et al. 2012, from memory). The result is exact.
    """
    n = len(sums) - 1
    cost, begin = np.full(n + 1, np.inf), np.zeros(n + 1, dtype=np.int64)
    cost[0] = -penalty
    rows = np.ascontiguousarray(sums.T)
    starts, until, open_sums, m = np.zeros(n + 1, dtype=np.int64), np.full(n + 1, 2 * n), np.empty((6, n + 1)), 0
    for first in range(least, n + 1, GROUPS * least):
        last = min(first + GROUPS * least, n + 1) - 1
        # What may begin for the last of these ends lies there for all of them; the earlier ones look at fewer.
        new, open_to = np.arange(first - least, last - least + 1), m + last - first + 1
        starts[m:open_to], until[m:open_to], open_sums[:, m:open_to] = new, 2 * n, rows[:, new]
        alone = _misfits(rows[:, first : last + 1, None] - open_sums[:, None, :open_to])
        # Nothing that ends within a group begins in it, so its ends are told at once.
        for group in range(first, last + 1, least):
            ends = np.arange(group, min(group + least, last + 1))
            m += len(ends)
            misfits = alone[ends[0] - first : ends[-1] - first + 1, :m] + cost[starts[:m]]
            for back in range(1, len(ends)):
                misfits[-1 - back, m - back :] = np.inf
            best = misfits.argmin(axis=1)
            cost[ends], begin[ends] = misfits[np.arange(len(ends)), best] + penalty, starts[best]
        j, misfit = last, misfits[-1]
        late = misfit > cost[j]
        until[:m][late] = np.minimum(until[:m][late], j + least)
        alive = np.flatnonzero(until[:m] > j)
        if len(alive) < m:
            starts[: len(alive)], until[: len(alive)] = starts[alive], until[alive]
            open_sums[:, : len(alive)], m = open_sums[:, alive], len(alive)
    return begin.tolist()


def _misfits(sums: Array) -> Array:
    """Squared residuals of a straight line over stretches, by their sums w, wx, wxx, wy, wxy, wyy : (6, …)."""
    w, wx, wxx, wy, wxy, wyy = sums
    # A stretch without weight costs nothing; the smallest weight keeps it from dividing by nothing.
    np.maximum(w, 1e-12, out=w)
    mean_x = wx / w
    sxx = wxx - mean_x * wx
    np.maximum(sxx, 1e-9, out=sxx)
    sxy = wxy - mean_x * wy
    misfit = wyy - wy * wy / w - sxy * sxy / sxx
    return np.asarray(np.maximum(misfit, 0.0, out=misfit))


def pieces(values: Array, weight: Array, noise: float, least: int = LEAST_STEPS, price: float = PRICE) -> list[Piece]:
    """The straight pieces that a curve is made of.

    Parameters
    ----------
    values : (n,) float array [W]
    weight : (n,) float array
        0 where a value says nothing: such steps go with either side.
    noise : float [W]
        Standard deviation of a value about its course.
    least : int
        Steps of the shortest piece.
    price : float
        What a further piece must save, in units of 2 noise² ln n.

    References
    ----------
    Optimal partitioning (Jackson et al. 2005, from memory) with the residual of a straight line as cost; the price is
    our own, checked on simulated runs. Level changes are checked against `ruptures` in tests/reference.
    """
    n = len(values)
    if n < 2 * least:
        return [_piece(values, weight, 0, n)] if n else []
    x = np.arange(n, dtype=np.float64) - n / 2.0
    y = values - float(np.mean(values))
    columns = np.stack([weight, weight * x, weight * x * x, weight * y, weight * x * y, weight * y * y], axis=1)
    sums = np.concatenate((np.zeros((1, 6)), np.cumsum(columns, axis=0)))
    begin = _best_cuts(sums, 2.0 * price * noise * noise * np.log(n), least)
    edges = [n]
    while edges[-1] > 0:
        edges.append(begin[edges[-1]])
    edges.reverse()
    return [_piece(values, weight, a, b) for a, b in pairwise(edges)]


def _piece(values: Array, weight: Array, first: int, end: int) -> Piece:
    y, w = values[first:end], weight[first:end]
    if float(w.sum()) <= 0.0:
        w = np.ones(len(y))
    x = np.arange(len(y), dtype=np.float64)
    total = float(w.sum())
    mx, my = float((w * x).sum()) / total, float((w * y).sum()) / total
    sxx = float((w * (x - mx) ** 2).sum())
    slope = float((w * (x - mx) * (y - my)).sum()) / sxx if sxx > 0 else 0.0
    return Piece(first, end, my - slope * mx, my + slope * (len(y) - 1 - mx), my)
