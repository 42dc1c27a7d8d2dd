"""The rule of a fair comparison: how large a difference must be before it is more than noise.

One rule, used backward on runs that were made and forward on runs that are planned. Noise of a difference is t times
the combined standard uncertainty, t the 97.5 % quantile at the Welch–Satterthwaite degrees of freedom (JCGM 100:2008,
G.4). Meter gain and capacity are common to both sides and cancel.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from .arrays import Array

ROOM_SPREAD, CHAMBER_SPREAD = 0.06, 0.03
"""Standard deviation of one run's time, as a share of it: in a room, and in a temperature-controlled chamber with a
continuous log (common practice: the same pair gave 74 and 88 min)."""

ASSUMED_DOF = 4.0
"""Degrees of freedom that an assumed spread counts as (our own)."""

NO_DIFFERENCE = "no difference shown"
"""Words for a difference that does not exceed its noise."""

CONFIDENCE = 0.95
POWER = 0.8
_DRAWS = 400
_LEAST_SHARE = 1e-6


@dataclass(frozen=True)
class Spread:
    """The run-to-run spread: assumed and measured parts, both as shares of a run's time.

    assumed : of the method; assumed_dof : what it counts as; measured : pooled over all cells of the same method,
    intervals included; measured_dof : runs beyond the first of each cell.
    """

    assumed: float = ROOM_SPREAD
    assumed_dof: float = ASSUMED_DOF
    measured: float = 0.0
    measured_dof: float = 0.0

    @property
    def dof(self) -> float:
        """Degrees of freedom of assumption and measurement together."""
        return self.assumed_dof + self.measured_dof

    @property
    def share(self) -> float:
        """Pooled standard deviation of a run's time, as a share of it; intervals only as far as they were measured."""
        squares = self.assumed_dof * self.assumed**2 + self.measured_dof * self.measured**2
        return math.sqrt(squares / self.dof)

    @property
    def interval_weight(self) -> float:
        """Weight of a run's interval that still counts apart: a measured spread contains it already."""
        return self.assumed_dof / self.dof


def measured_spread(assumed: Spread, cells: Sequence[Sequence[float]]) -> Spread:
    """The spread with what repeats showed pooled into it.

    Parameters
    ----------
    assumed : Spread
        What is assumed of the method.
    cells : sequence of sequences [min]
        Times of runs that differ in nothing, a sequence a cell; cells of one run tell nothing.
    """
    repeated = [np.asarray(c, dtype=float) for c in cells if len(c) > 1]
    dof = float(sum(len(c) - 1 for c in repeated))
    if not dof:
        return assumed
    squares = sum(float(np.sum((c - c.mean()) ** 2)) / float(c.mean()) ** 2 for c in repeated)
    return replace(assumed, measured=math.sqrt(squares / dof), measured_dof=dof)


@dataclass(frozen=True)
class Side:
    """One side of a comparison: the mean time of its runs [min], their number, and the variance of the interval in
    which one of those times is known to lie [min²]."""

    minutes: float
    runs: int = 1
    interval_var: float = 0.0


@dataclass(frozen=True)
class Noise:
    """The noise of a difference: combined standard uncertainty [min], degrees of freedom, t, and their product."""

    standard: float
    dof: float
    factor: float

    @property
    def minutes(self) -> float:
        """Threshold of a difference [min]."""
        return self.factor * self.standard


def interval_variance(*widths_min: float) -> float:
    """Variance of a time known to lie in intervals of these widths, rectangles [min²] (JCGM 100:2008, 4.3.7)."""
    return sum(w**2 for w in widths_min) / 12.0


def noise(a: Side, b: Side, spread: Spread = Spread(), comparisons: int = 1) -> Noise:
    """The noise of the difference of two sides.

    Parameters
    ----------
    a, b : Side
    spread : Spread
        One spread for both: it is a property of the method.
    comparisons : int
        How many comparisons a ranking makes; the strictest step of Holm's correction is taken.
    """
    single = noises(Sides.of([a]), Sides.of([b]), np.array([spread.share]), spread, comparisons)
    return Noise(float(single.standard[0]), float(single.dof[0]), float(single.factor[0]))


@dataclass(frozen=True)
class Sides:
    """Many sides at once: minutes : (m,) [min]; runs : (m,) or one number; interval_var : (m,) or one [min²]."""

    minutes: Array
    runs: Array
    interval_var: Array

    @classmethod
    def of(cls, sides: Sequence[Side]) -> "Sides":
        """Single sides, put together."""
        table = np.array([(s.minutes, s.runs, s.interval_var) for s in sides], dtype=float).reshape(-1, 3)
        return cls(table[:, 0], table[:, 1], table[:, 2])

    def taken(self, where: NDArray[np.intp]) -> "Sides":
        """Those at these places."""
        return Sides(self.minutes[where], self.runs[where], self.interval_var[where])


@dataclass(frozen=True)
class Noises:
    """The noise of many differences: combined standard uncertainty [min], degrees of freedom, t; each (m,)."""

    standard: Array
    dof: Array
    factor: Array

    @property
    def minutes(self) -> Array:
        """Threshold of each difference : (m,) [min]."""
        return self.factor * self.standard


def noises(a: Sides, b: Sides, share: Array, spread: Spread, comparisons: int = 1) -> Noises:
    """The rule itself, for many differences.

    Parameters
    ----------
    a, b : Sides
    share : (m,) float array
        Spread of one run as a share of its time.
    spread : Spread
        Its degrees of freedom, and how much of an interval counts apart.
    comparisons : int
        As in `noise`.
    """
    from scipy.special import stdtrit

    by_spread = share**2 * (a.minutes**2 / a.runs + b.minutes**2 / b.runs)
    by_interval = spread.interval_weight * (a.interval_var / a.runs + b.interval_var / b.runs)
    variance = by_spread + by_interval
    # The spread is one quantity, known with its own degrees of freedom; an interval is known exactly.
    dof = spread.dof * (variance / np.maximum(by_spread, 1e-12)) ** 2
    factor = stdtrit(dof, 1.0 - (1.0 - CONFIDENCE) / 2.0 / comparisons)
    return Noises(np.sqrt(variance), dof, np.asarray(factor))


@dataclass(frozen=True)
class DifferenceVerdict:
    """A difference against its noise: minutes that a saves, positive where a is faster."""

    minutes_saved: float
    noise: Noise

    @property
    def shown(self) -> bool:
        """Whether the difference exceeds its noise."""
        return abs(self.minutes_saved) > self.noise.minutes

    @property
    def said(self) -> str:
        """`a faster`, `b faster` or `no difference shown`."""
        if not self.shown:
            return NO_DIFFERENCE
        return "a faster" if self.minutes_saved > 0 else "b faster"


def compare(a: Side, b: Side, spread: Spread = Spread(), comparisons: int = 1) -> DifferenceVerdict:
    """Whether the times of two sides differ by more than their noise."""
    return DifferenceVerdict(b.minutes - a.minutes, noise(a, b, spread, comparisons))


@dataclass(frozen=True)
class Forward:
    """The same rule before the runs are made: how often a difference of some size would be shown.

    minutes : what the slower side takes [min]; runs : of the slower and the faster side; interval_var : variance of the
    interval in which one time will be known to lie [min²]; assumed : what is assumed of the method; measured_dof :
    degrees of freedom that all repeats will give; comparisons : as in `noise`.
    """

    minutes: float
    runs: tuple[int, int]
    interval_var: float
    assumed: Spread
    measured_dof: float
    comparisons: int = 1

    @cached_property
    def _weights(self) -> Spread:
        return replace(self.assumed, measured_dof=self.measured_dof)

    @cached_property
    def _share(self) -> Array:
        """Spreads that the repeats may show, all equally likely: they are not known yet."""
        from scipy.special import chdtri

        relative = self.assumed.assumed**2 + self.interval_var / self.minutes**2
        dof = self.measured_dof
        shown = relative * chdtri(dof, (np.arange(_DRAWS) + 0.5) / _DRAWS) if dof else np.zeros(1)
        shares: Array = np.sqrt((self.assumed.assumed_dof * self.assumed.assumed**2 + shown) / self._weights.dof)
        return shares

    def power(self, difference: float) -> float:
        """Probability that a difference of so many minutes would be detected."""
        from scipy.special import ndtr

        (n_slow, n_fast), fast = self.runs, self.minutes - difference
        slow_side, fast_side = (
            Sides.of([Side(minutes, n, self.interval_var)]) for minutes, n in ((self.minutes, n_slow), (fast, n_fast))
        )
        drawn = noises(slow_side, fast_side, self._share, self._weights, self.comparisons)
        true = math.sqrt(
            ((self.assumed.assumed * self.minutes) ** 2 + self.interval_var) / n_slow
            + ((self.assumed.assumed * fast) ** 2 + self.interval_var) / n_fast
        )
        return float(np.mean(ndtr((difference - drawn.minutes) / true)))


def resolvable(
    minutes: float,
    runs: int | tuple[int, int] = 1,
    interval_var: float = 0.0,
    assumed: Spread = Spread(),
    measured_dof: float | None = None,
    comparisons: int = 1,
    power: float = POWER,
) -> float | None:
    """The smallest difference that planned runs would show, if the spread is what it is assumed to be.

    Parameters
    ----------
    minutes : float [min]
        What the slower side takes.
    runs : int or (int, int)
        Runs of each side; of both the same if one number.
    interval_var : float [min²]
        Variance of the interval in which one time will be known to lie.
    assumed : Spread
        What is assumed of the method.
    measured_dof : float, optional
        Degrees of freedom that all repeats of the plan will give; those of the two sides alone if not given.
    comparisons : int
        As in `noise`.
    power : float
        How often a difference of that size shall be shown.

    Returns
    -------
    float [min], or None where not even a time of nothing would be shown to be faster.
    """
    from scipy.optimize import brentq

    both = (runs, runs) if isinstance(runs, int) else runs
    of_repeats = float(sum(both) - 2) if measured_dof is None else measured_dof
    forward = Forward(minutes, both, interval_var, assumed, of_repeats, comparisons)
    most = minutes * (1.0 - _LEAST_SHARE)
    if forward.power(most) < power:
        return None
    return float(brentq(lambda d: forward.power(d) - power, minutes * _LEAST_SHARE, most, xtol=1e-4))
