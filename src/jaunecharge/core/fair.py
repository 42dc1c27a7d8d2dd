"""The rule of a fair comparison: how large a difference must be before it is more than noise.

One rule, used backward on runs that were made and forward on runs that are planned. Noise of a difference is t times
the combined standard uncertainty, t the 97.5 % quantile at the Welch–Satterthwaite degrees of freedom (JCGM 100:2008,
G.4). Meter gain and capacity are common to both sides and cancel.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy.optimize import brentq
from scipy.special import chdtri, ndtr, stdtrit

from .trace import Array

ROOM_SPREAD, CHAMBER_SPREAD = 0.06, 0.03
"""Standard deviation of one run's time, as a share of it: in a room, and in a temperature-controlled chamber with a
continuous log (common practice: the same pair gave 74 and 88 min)."""

ASSUMED_DOF = 4.0
"""Degrees of freedom that an assumed spread counts as (our own)."""

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
        """How much of a run's interval still counts apart: a measured spread contains it already."""
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
        """What a difference must exceed to be one [min]."""
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
    standard, dof, factor = _noise(
        np.array([a.minutes]), np.array([b.minutes]), a, b, np.array([spread.share**2]), spread, comparisons
    )
    return Noise(float(standard[0]), float(dof[0]), float(factor[0]))


def _noise(
    a_min: Array, b_min: Array, a: Side, b: Side, share_squared: Array, spread: Spread, comparisons: int
) -> tuple[Array, Array, Array]:
    by_spread = share_squared * (a_min**2 / a.runs + b_min**2 / b.runs)
    by_interval = spread.interval_weight * (a.interval_var / a.runs + b.interval_var / b.runs)
    variance = by_spread + by_interval
    # The spread is one quantity, known with its own degrees of freedom; an interval is known exactly.
    dof = spread.dof * (variance / by_spread) ** 2
    factor = stdtrit(dof, 1.0 - (1.0 - CONFIDENCE) / 2.0 / comparisons)
    return np.sqrt(variance), dof, np.asarray(factor)


@dataclass(frozen=True)
class Verdict:
    """A difference against its noise: minutes that a saves, positive where a is faster."""

    minutes_saved: float
    noise: Noise

    @property
    def said(self) -> str:
        """`a faster`, `b faster` or `no difference shown`."""
        if abs(self.minutes_saved) <= self.noise.minutes:
            return "no difference shown"
        return "a faster" if self.minutes_saved > 0 else "b faster"


def compare(a: Side, b: Side, spread: Spread = Spread(), comparisons: int = 1) -> Verdict:
    """Whether the times of two sides differ by more than their noise."""
    return Verdict(b.minutes - a.minutes, noise(a, b, spread, comparisons))


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
    n_slow, n_fast = (runs, runs) if isinstance(runs, int) else runs
    of_repeats = float(n_slow + n_fast - 2) if measured_dof is None else measured_dof
    relative = assumed.assumed**2 + interval_var / minutes**2
    weights = replace(assumed, measured_dof=of_repeats)
    # What the repeats will show is not known yet: quantiles of it, all equally likely.
    shown = relative * chdtri(of_repeats, (np.arange(_DRAWS) + 0.5) / _DRAWS) if of_repeats else np.zeros(1)
    share_squared = (assumed.assumed_dof * assumed.assumed**2 + shown) / weights.dof

    def missing(difference: float) -> float:
        fast = minutes - difference
        slow_side, fast_side = Side(minutes, n_slow, interval_var), Side(fast, n_fast, interval_var)
        ones = np.ones_like(share_squared)
        standard, _, factor = _noise(
            minutes * ones, fast * ones, slow_side, fast_side, share_squared, weights, comparisons
        )
        true = math.sqrt(
            ((assumed.assumed * minutes) ** 2 + interval_var) / n_slow
            + ((assumed.assumed * fast) ** 2 + interval_var) / n_fast
        )
        return float(np.mean(ndtr((difference - factor * standard) / true))) - power

    most = minutes * (1.0 - _LEAST_SHARE)
    if missing(most) < 0.0:
        return None
    return float(brentq(missing, minutes * _LEAST_SHARE, most, xtol=1e-4))
