"""Pace of a charge from the percentages alone: as few straight pieces as the readings bear out."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..arrays import Array
from ..measured import Measured, Part
from ..units import MINUTE_S
from .check_ins import CheckIns, doubts

READING_VARIANCE = 1.0 / 12.0
"""Of a whole-number percentage, a rectangle of ± half a point (JCGM 100:2008, 4.3.7)."""

WHOLE_MINUTE_VARIANCE = MINUTE_S**2 / 12.0
"""Of a time that was written down in whole minutes."""

LEAST_GAIN = 12.0
"""A bend is borne out where it lowers the sum of squares by so many variances (own choice): of 360 straight random runs
none had a bend by chance."""

MOST_PIECES = 8
PLACES_BETWEEN, MOST_PLACES = 4, 160
"""A bend is looked for at every check-in and at quarters between two, as long as that makes no more places."""

MOST_READINGS = 120
"""Readings beyond this are thinned evenly: a log of every minute needs no more to show its bends."""

SLOWER_SHARE, STILL_RATE, STILL_S = 0.8, 0.1, 15 * MINUTE_S
"""From where a slower piece is told as slowing, and a flat one as standing still (own choice)."""

BEND_GAIN = 4.0
"""A bend may lie wherever the fit is worse by no more than so many variances: 95 % (one parameter)."""


@dataclass(frozen=True)
class Pace:
    """A straight piece of the percentages: from and to [s], points a minute.

    bend_s : between which moments [s] it may have begun; of the first piece its start alone.
    """

    start_s: float
    end_s: float
    start_percent: float
    end_percent: float
    points_per_min: Measured
    bend_s: tuple[float, float]

    @property
    def stands_still(self) -> bool:
        """Whether nothing says that the percentage moved, over a quarter of an hour at least."""
        rate = self.points_per_min
        return (
            self.end_s - self.start_s >= STILL_S and rate.value - rate.expanded <= 0.0 and abs(rate.value) < STILL_RATE
        )


def slows(before: Pace, after: Pace) -> bool:
    """Whether a piece is slower than the one before it by a fifth at least, and by more than their uncertainty."""
    a, b = before.points_per_min, after.points_per_min
    beyond = a.value - b.value > 2.0 * math.hypot(a.standard, b.standard)
    return beyond and b.value <= SLOWER_SHARE * a.value


def pace(readings: CheckIns) -> tuple[Pace, ...]:
    """Straight pieces of the percentages, as few as the readings bear out; none for fewer than two readings.

    A continuous line of straight pieces is fitted by least squares; a bend is added where it helps most, as long as it
    helps more than whole-number readings do by chance, and taken away again where it is no longer needed. A piece holds
    two readings at least. Readings that their neighbours deny are passed over, and those of 100 %: they say that it was
    reached before, not when.
    """
    used = _thinned(_undoubted(_until_full(readings)))
    if len(used) < 2:
        return ()
    fit = _Fit(used.time_s / MINUTE_S, used.percent)
    knots: list[float] = []
    while len(knots) < MOST_PIECES - 1:
        best = fit.best_added(knots)
        if best is None or fit.cost(knots) - fit.cost(best) < LEAST_GAIN:
            better = fit.best_pair(knots)
            if better is None or fit.cost(knots) - fit.cost(better) < 2 * LEAST_GAIN:
                break
            best = better
        knots = fit.refined(best)
    while knots:
        fewer = min(([k for k in knots if k != gone] for gone in knots), key=fit.cost)
        if fit.cost(fewer) - fit.cost(knots) >= LEAST_GAIN:
            break
        knots = fit.refined(fewer)
    return fit.pieces(knots)


def _until_full(readings: CheckIns) -> CheckIns:
    full = np.flatnonzero(readings.percent >= 100.0)
    end = int(full[0]) if len(full) else len(readings)
    return CheckIns(readings.time_s[:end], readings.percent[:end])


def _undoubted(readings: CheckIns) -> CheckIns:
    doubted = [d.time_s for d in doubts(readings)]
    believed = ~np.isin(readings.time_s, doubted)
    return CheckIns(readings.time_s[believed], readings.percent[believed])


def _thinned(readings: CheckIns) -> CheckIns:
    if len(readings) <= MOST_READINGS:
        return readings
    at = np.unique(np.linspace(0, len(readings) - 1, MOST_READINGS).round().astype(int))
    return CheckIns(readings.time_s[at], readings.percent[at])


class _Fit:
    """Least squares of a line with bends. minutes, percent : (n,)."""

    def __init__(self, minutes: Array, percent: Array) -> None:
        self.minutes, self.percent = minutes, percent
        span = max(float(minutes[-1] - minutes[0]), 1e-9)
        whole = bool(np.allclose(minutes - minutes[0], np.round(minutes - minutes[0]), atol=1e-6))
        self.time_variance = WHOLE_MINUTE_VARIANCE / MINUTE_S**2 if whole else 0.0
        rate = (float(percent[-1]) - float(percent[0])) / span
        self.variance: Array = np.full(len(minutes), READING_VARIANCE + rate**2 * self.time_variance)
        self._weight: Array = 1.0 / np.sqrt(self.variance)
        self._weighted: Array = percent * self._weight
        between = max(1, min(PLACES_BETWEEN, MOST_PLACES // len(minutes)))
        share = np.arange(between) / between
        places = (minutes[:-1, None] + np.diff(minutes)[:, None] * share).ravel()
        self.places: Array = places[(places > minutes[0]) & (places < minutes[-1])]
        self._tiny = 1e-12 * max(1.0, float(self._weight @ self._weight)) * max(1.0, span**2)
        self._costs: dict[tuple[float, ...], float] = {}
        self._each: dict[tuple[float, ...], tuple[Array, float]] = {}

    def _design(self, knots: Sequence[float]) -> Array:
        design = np.empty((len(self.minutes), 2 + len(knots)))
        design[:, 0], design[:, 1] = 1.0, self.minutes - self.minutes[0]
        for n, knot in enumerate(sorted(knots), 2):
            np.maximum(0.0, self.minutes - knot, out=design[:, n])
        return design

    def _allowed(self, knots: Sequence[float]) -> bool:
        """Whether each piece holds two readings at least, its ends included."""
        edges = sorted(knots)
        below = [0, *np.searchsorted(self.minutes, edges, "left").tolist()]
        upto = [*np.searchsorted(self.minutes, edges, "right").tolist(), len(self.minutes)]
        return all(u - b >= 2 for b, u in zip(below, upto, strict=True))

    def cost(self, knots: Sequence[float]) -> float:
        """Sum of squares in variances; infinite where a piece holds too few readings."""
        key = tuple(sorted(knots))
        if key not in self._costs:
            self._costs[key] = self._cost(key) if self._allowed(key) else np.inf
        return self._costs[key]

    def _cost(self, knots: Sequence[float]) -> float:
        design = self._design(knots)
        solution = self._solved(design)
        return float(np.sum((self.percent - design @ solution) ** 2 / self.variance))

    def _solved(self, design: Array) -> Array:
        solution, *_ = np.linalg.lstsq(design * self._weight[:, None], self._weighted, rcond=None)
        return np.asarray(solution)

    def _about_each(self, knots: Sequence[float]) -> tuple[Array, float]:
        """Costs of these bends with one more at each place, and by how much they may be off."""
        key = tuple(sorted(knots))
        if key not in self._each:
            self._each[key] = self._about(key, self.places[:, None])
        return self._each[key]

    def _about(self, knots: Sequence[float], more: Array) -> tuple[Array, float]:
        """Costs of these bends with one or two more, (m, 1 or 2), all at once; and by how much they may be off.

        What the line with these bends leaves of the readings is held against what it leaves of each further hinge.
        """
        weight = self._weight[:, None]
        base, _ = np.linalg.qr(self._design(knots) * weight)

        def left(columns: Array) -> Array:
            once = columns - base @ (base.T @ columns)
            return np.asarray(once - base @ (base.T @ once))

        rest = left(self._weighted)
        hinges = [left(np.maximum(0.0, self.minutes[:, None] - column) * weight) for column in more.T]
        squares, shares = [np.einsum("ij,ij->j", h, h) for h in hinges], [rest @ h for h in hinges]
        gain = np.zeros(len(more))
        if len(hinges) == 1:
            np.divide(shares[0] ** 2, squares[0], out=gain, where=squares[0] > self._tiny)
        else:
            both = np.einsum("ij,ij->j", *hinges)
            whole = squares[0] * squares[1] - both**2
            of_both = squares[1] * shares[0] ** 2 + squares[0] * shares[1] ** 2 - 2.0 * both * shares[0] * shares[1]
            # Where two hinges are nearly one, only their own fit tells.
            gain[:] = np.inf
            np.divide(of_both, whole, out=gain, where=whole > self._tiny**2)
        total = float(rest @ rest)
        keys = np.empty((len(more), len(knots) + more.shape[1]))
        keys[:, : len(knots)], keys[:, len(knots) :] = knots, more
        keys.sort(axis=1)
        room = np.empty((len(more), keys.shape[1] + 1), dtype=np.int64)
        room[:, :-1], room[:, -1] = self.minutes.searchsorted(keys, "right"), len(self.minutes)
        room[:, 1:] -= self.minutes.searchsorted(keys, "left")
        return np.where((room >= 2).all(axis=1), total - gain, np.inf), 1e-6 * (1.0 + total)

    def _best(self, knots: Sequence[float], more: Array, about: Array, slack: float) -> list[float] | None:
        """The one or two bends more, of (m, 1 or 2) of about these costs, that help most, the first of equals; None
        where none fits in."""
        if not len(more):
            return None
        least = float(about.min())
        if least == np.inf:
            return None
        # Sums in another order round otherwise: among those that are as good, the fit itself decides.
        finite = about[np.isfinite(about)]
        limit = (float(finite.min()) if len(finite) else least) + 2.0 * slack
        chosen = min((list(map(float, row)) for row in more[about <= limit]), key=lambda row: self.cost([*knots, *row]))
        return chosen if np.isfinite(self.cost([*knots, *chosen])) else None

    def best_added(self, knots: list[float]) -> list[float] | None:
        """The bends with the one more that helps most; None where none fits in."""
        about, slack = self._about_each(knots)
        new = ~np.isin(self.places, knots)
        best = self._best(knots, self.places[new, None], about[new], slack)
        return None if best is None else [*knots, *best]

    def best_pair(self, knots: list[float]) -> list[float] | None:
        """The bends with two more about a piece in the middle, which one alone may not show: a stop that ends again."""
        if len(knots) + 2 >= MOST_PIECES:
            return None
        coarse = self.minutes[1:-1]
        coarse = coarse[:: max(1, len(coarse) // 24)]
        first, second = np.triu_indices(len(coarse), 1)
        pairs = np.column_stack([coarse[first], coarse[second]])
        best = self._best(knots, pairs, *self._about(knots, pairs))
        return None if best is None else [*knots, *best]

    def refined(self, knots: list[float]) -> list[float]:
        """The bends, each moved to where it serves best."""
        for _ in range(3):
            before = list(knots)
            for i in range(len(knots)):
                others = [*knots[:i], *knots[i + 1 :]]
                best = self._best(others, self.places[:, None], *self._about_each(others))
                if best is not None and self.cost(moved := [*others, *best]) < self.cost(knots):
                    knots = [*moved[:i], moved[-1], *moved[i:-1]]
            if knots == before:
                break
        return sorted(knots)

    def pieces(self, knots: list[float]) -> tuple[Pace, ...]:
        """The pieces between bends, each with its slope and that slope's uncertainty."""
        design = self._design(knots)
        solution = self._solved(design)
        slopes = np.cumsum(solution[1:])
        at = np.searchsorted(np.array(sorted(knots)), self.minutes, "right")
        variance = READING_VARIANCE + slopes[at] ** 2 * self.time_variance
        misfit = float(np.sum((self.percent - design @ solution) ** 2 / variance))
        free = len(self.minutes) - 2 - 2 * len(knots)
        # A gauge may be rougher than its whole numbers: what the readings miss the pieces by counts then.
        variance = variance * max(1.0, misfit / free) if free > 0 else variance
        # Where a bend lies is not known either: it shifts the line by the change of slope.
        moved = [np.where(self.minutes > k, -solution[2 + i], 0.0) for i, k in enumerate(sorted(knots))]
        full = np.column_stack([design, *moved]) if moved else design
        covariance = np.linalg.pinv(full.T @ (full / variance[:, None]))[: len(solution), : len(solution)]
        edges = [float(self.minutes[0]), *sorted(knots), float(self.minutes[-1])]
        pieces = []
        for n, (a, b) in enumerate(pairwise(edges)):
            weights = np.array([0.0, 1.0, *(1.0 if i < n else 0.0 for i in range(len(knots)))])
            slope = Measured(
                float(weights @ solution),
                (Part("whole-number readings", float(np.sqrt(weights @ covariance @ weights))),),
            )
            ends = self._at(solution, knots, np.array([a, b]))
            bend = (a * MINUTE_S, a * MINUTE_S) if n == 0 else self._bend(knots, n - 1)
            pieces.append(Pace(a * MINUTE_S, b * MINUTE_S, float(ends[0]), float(ends[1]), slope, bend))
        return tuple(pieces)

    def _at(self, solution: Array, knots: Sequence[float], at: Array) -> Array:
        t = at - self.minutes[0]
        hinges = [np.maximum(0.0, at - k) for k in sorted(knots)]
        return np.asarray(np.stack([np.ones_like(t), t, *hinges], axis=1) @ solution)

    def _bend(self, knots: list[float], i: int) -> tuple[float, float]:
        """Between which moments [s] a bend may lie: where it fits nearly as well, up to the places beside."""
        limit = self.cost(knots) + BEND_GAIN
        others = [*knots[:i], *knots[i + 1 :]]
        about, slack = self._about_each(others)
        near = [
            float(p)
            for p, cost in zip(self.places.tolist(), about.tolist(), strict=True)
            if cost <= limit - slack or (cost <= limit + slack and self.cost([*others, p]) <= limit)
        ]
        near.append(knots[i])
        at = np.sort(np.concatenate((self.minutes[[0, -1]], self.places)))
        low = at[max(0, int(np.searchsorted(at, min(near), "left")) - 1)]
        high = at[min(len(at) - 1, int(np.searchsorted(at, max(near), "right")))]
        return float(low) * MINUTE_S, float(high) * MINUTE_S
