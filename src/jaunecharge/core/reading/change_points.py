"""Where a curve changes its course: the best description of it by straight pieces, each with a price.

A piecewise linear fit found by an exact dynamic programme. Constant pieces would make a staircase of a taper.
"""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..arrays import Array

PRICE = 30.0
LEAST_STEPS = 3
GROUPS = 10
"""So many shortest pieces' ends are looked at together."""

ROUNDING = 1e-9
"""Share of the sum of squares by which misfits may be off."""


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

    A piece fits the worse the longer it gets: what a beginning came to when it was last looked at is the least that it
    may come to now, and it is passed over while another is better than that. One that by itself costs more than the
    best way to here can begin no better piece further on, once another may begin here: now and then such are dropped
    (pruning of Killick et al. 2012, from memory). The result is exact.
    """
    n = len(sums) - 1
    penalty, slack = float(penalty), ROUNDING * (1.0 + float(sums[-1, 5]))
    begin, cost = [0] * (n + 1), np.full(n + 1, np.inf)
    cost[0] = -penalty
    rows = np.concatenate((sums.T, [np.arange(n + 1), cost, cost, np.zeros(n + 1)]))
    # Beginnings still looked at, in their order: sums, place, cost of all before, least they may come to, lateness.
    open_, m, added = np.empty((10, n + 1)), 0, 0
    for first in range(least, n + 1, GROUPS * least):
        count = min(GROUPS * least, n + 1 - first)
        open_[:, m : m + first - added] = rows[:, added:first]
        m, added = m + first - added, first
        # One that any of these ends may begin at tells what the best comes to at most.
        usual = open_[:, open_[8, : m - least + 1].argmin()]
        misfits = (_misfits(rows[:6, first : first + count] - usual[:6, None]) + usual[7])[:, None]
        near = np.flatnonzero(open_[8, :m] <= float(misfits.max()) + slack)
        places = open_[6, near]
        if len(near) > 1:
            misfits = _misfits(rows[:6, first : first + count, None] - open_[:6, None, near]) + open_[7, near]
        for k in range(min(least - 1, count)):
            misfits[k, places > first + k - least] = np.inf
        at = misfits.argmin(axis=1)
        best, begins = misfits[np.arange(count), at].tolist(), places[at].tolist()
        # The others begin at one of these ends: those are told one after another.
        if count > least and min(best[:-least]) + penalty <= max(best[least:]):
            within = _misfits(rows[:6, first : first + count, None] - rows[:6, None, first : first + count - least])
            for k, alone in enumerate(within[least:].tolist(), least):
                for new in range(k - least + 1):
                    if alone[new] + (best[new] + penalty) < best[k]:
                        best[k], begins[k] = alone[new] + (best[new] + penalty), first + new
        begin[first : first + count] = begins
        rows[7:9, first : first + count] = np.array(best) + penalty
        open_[8, near] = misfits[-1]
        alive = np.flatnonzero(open_[9, :m] == 0.0)
        open_[9, :m] = open_[8, :m] > best[-1] + penalty
        open_[:, : len(alive)], m = open_[:, alive], len(alive)
    return [int(place) for place in begin]


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
