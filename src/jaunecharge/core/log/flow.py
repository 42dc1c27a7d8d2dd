"""Flow of a charge between two check-ins, as the meter saw it: when a percentage was reached, and how exactly."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..arrays import Array, Mask, running_sum
from ..units import HOUR_S
from .trace import PowerTrace

POINTS_BETWEEN = 12
SIDES = 3
"""So many check-ins on each side of a crossing tell how much energy a point takes there (own choice)."""

LEAST_CHECK_INS = 3
LOSSES_SPREAD = 0.008
"""Change of the losses, as a share of the energy to a check-in (own choice: set on random runs of two generators and on
published charge curves, so that 95 to 98 % of the intervals hold the truth)."""

MOST_ROUGH = 0.8
"""Where check-ins miss their line by so many points, the percentage does not follow the energy, and the meter does not
tell when a level was reached (own choice): the phone was in use, or another was fed as well."""

VOLTAGE_RISE = 0.001
"""A point takes so much more energy for each point that the battery is fuller, as its voltage rises (common practice:
3.6 V at 10 % to 4.3 V at 90 %; a little less, as the current falls and loses less)."""

GIVE = 0.03
"""A gauge may step so many points beside where it should (own choice)."""

SLOPES, HEIGHTS = np.linspace(-3.0, 3.0, 25), np.linspace(-2.0, 2.0, 161)
OUTSIDE, COVERED = 0.025, 1.96


@dataclass(frozen=True)
class Flow:
    """Energy above no-load that ran through the meter. time_s, wh : (k,) running sum [Wh] at moments [s]; unseen :
    stretches [s] that were not metered."""

    time_s: Array
    wh: Array
    unseen: tuple[tuple[float, float], ...] = ()

    def shifted(self, seconds: float) -> "Flow":
        """The same on a clock that shows so much more [s]."""
        unseen = tuple((a + seconds, b + seconds) for a, b in self.unseen)
        return Flow(self.time_s + seconds, self.wh, unseen)

    def at(self, time_s: Array | float) -> Array:
        """Running energy [Wh] at moments [s]."""
        return np.asarray(np.interp(time_s, self.time_s, self.wh))

    def when(self, wh: float, after_s: float, by_s: float) -> float:
        """The first moment [s] between two at which so much had run."""
        inside = (self.time_s > after_s) & (self.time_s < by_s)
        time_s = np.concatenate(([after_s], self.time_s[inside], [by_s]))
        energy = self.at(time_s)
        if wh <= energy[0]:
            return after_s
        if wh >= energy[-1]:
            return float(time_s[int(np.argmax(energy >= energy[-1] - 1e-12))])
        at = int(np.argmax(energy >= wh))
        rise = float(energy[at] - energy[at - 1])
        share = (wh - float(energy[at - 1])) / rise if rise > 0 else 1.0
        return float(time_s[at - 1] + share * (time_s[at] - time_s[at - 1]))

    def sees(self, after_s: float, by_s: float) -> bool:
        """Whether all between two moments was metered [s]."""
        whole = self.time_s[0] <= after_s + 1.0 and by_s <= self.time_s[-1] + 1.0
        return bool(whole) and not any(a < by_s and after_s < b for a, b in self.unseen)


@dataclass(frozen=True)
class Crossed:
    """When a percentage was passed: earliest, estimate and latest [s]; the check-ins that it lies between [s]; whether
    the meter says so."""

    when_s: tuple[float, float, float]
    between_s: tuple[float, float]
    metered: bool


def flow_of(trace: PowerTrace, check_in_s: Sequence[float] | Array, no_load_w: float) -> Flow | None:
    """Flow of a charge, at the check-ins and at a dozen moments between two; None where no meter was, or only now and
    then.

    Parameters
    ----------
    check_in_s : (m,) float array [s]
    no_load_w : float [W]
        What is drawn without a phone; it charges nothing.
    """
    if not trace.metered or trace.sparse or len(check_in_s) < 2:
        return None
    moments = np.asarray(check_in_s, dtype=float)
    share = np.arange(POINTS_BETWEEN) / POINTS_BETWEEN
    at = np.append((moments[:-1, None] + np.diff(moments)[:, None] * share).ravel(), moments[-1])
    at = at[(at >= trace.start_s) & (at <= trace.end_s)]
    if len(at) < 2:
        return None
    steps = np.diff(trace.time_s)
    drawn = np.maximum(0.0, trace.power_w - no_load_w)
    wh = running_sum((drawn[1:] + drawn[:-1]) / 2.0 * steps / HOUR_S)
    return Flow(at, np.interp(at, trace.time_s, wh), tuple(trace.holes))


def crossing(
    flow: Flow, time_s: Array, percent: Array, believed: Mask, at: int, level: float
) -> tuple[float, float, float] | None:
    """When a gauge first showed a level, between check-ins `at` − 1 and `at`: earliest, estimate and latest [s], an
    interval of 95 %; None where the meter does not tell.

    A gauge that shows a whole number stands anywhere from there to the next: the check-ins about the crossing, half a
    point higher, lie about a line over the energy, which says how much a point takes; the level was reached where such
    a line meets it.

    Parameters
    ----------
    time_s, percent : (m,) float array [s], [%]
    believed : (m,) bool array
        False for a check-in that its neighbours deny.
    """
    first, last = float(time_s[at - 1]), float(time_s[at])
    near = _near(flow, time_s, percent, believed, at)
    if not flow.sees(first, last) or len(near) < LEAST_CHECK_INS:
        return None
    energy, shown = flow.at(time_s[near]), _evened(percent[near] + 0.5)
    middle = float(flow.at((first + last) / 2.0))
    reach = max(float(np.max(np.abs(energy - middle))) * 1.25, 1e-9)
    weight = (1.0 - np.minimum(1.0, np.abs(energy - middle) / reach) ** 3) ** 3
    x = energy - middle
    total = float(weight.sum())
    mean_x, mean_y = float(weight @ x) / total, float(weight @ shown) / total
    spread = float(weight @ (x - mean_x) ** 2)
    if spread <= 0:
        return None
    slope = float(weight @ ((x - mean_x) * (shown - mean_y))) / spread
    if slope <= 0:
        return None
    missed = shown - mean_y - slope * (x - mean_x)
    rough = float(weight @ missed**2) / total * len(near) / max(1, len(near) - 2)
    if rough > MOST_ROUGH**2:
        return None
    at_wh = mean_x + (float(_evened(level)) - mean_y) / slope
    rise = math.sqrt(max(1.0 / 12.0, rough) / spread)
    ends = _credible(x - mean_x, shown, at_wh - mean_x, slope, rise, float(_evened(level)), rough)
    low, estimate, high = (flow.when(middle + mean_x + wh, first, last) for wh in ends)
    return low, min(high, max(low, estimate)), high


def _credible(
    x: Array, shown: Array, near: float, slope: float, rise: float, level: float, rough: float
) -> tuple[float, float, float]:
    """Energy at which a level was reached: from, middle and to of 95 %.

    Every line that the gauge allows counts by how well: it must pass each check-in between its whole number and the
    next, give or take what the losses may have changed on the way.

    Parameters
    ----------
    x, shown : (k,) energy [Wh] and middle of what the gauge shows [%] at the check-ins
    near, slope, rise : float
        Of the line of least squares: where it meets the level [Wh], its slope [%/Wh] and that slope's uncertainty.
    rough : float [%²]
        How far the check-ins lie about it.
    """
    slopes = slope + rise * SLOPES
    slopes = slopes[slopes > 0.2 * slope]
    crossings = near + HEIGHTS / slope
    # By where a line crosses the level, not by where it starts: that is what is asked for.
    x, shown = x[:, None, None], shown[:, None, None]
    line = level + slopes[:, None] * (x - crossings)
    own = math.sqrt(max(0.0, rough - 1.0 / 12.0))
    give = np.hypot(max(GIVE, own), LOSSES_SPREAD * slope * np.abs(x - near))
    fits = _soft_step((shown + 0.5 - line) / give) - _soft_step((shown - 0.5 - line) / give)
    weight = np.prod(np.maximum(fits, 1e-12, out=fits), axis=0).sum(axis=0)
    share = np.cumsum(weight) / weight.sum()
    low, middle, high = np.interp([OUTSIDE, 0.5, 1.0 - OUTSIDE], share, crossings)
    return float(low), float(middle), float(high)


def _soft_step(z: Array) -> Array:
    """The normal distribution's running sum, near enough: the logistic curve of the same width. In place of `z`."""
    z *= -1.702
    # Far below it the exponential is infinite, and the sum nothing.
    with np.errstate(over="ignore"):
        np.exp(z, out=z)
    z += 1.0
    return np.asarray(np.divide(1.0, z, out=z))


def _evened(percent: Array | float) -> Array:
    """Levels [%] on a scale on which a point always takes as much energy, that of 50 %."""
    return np.asarray(percent + 0.5 * VOLTAGE_RISE * (np.asarray(percent) - 50.0) ** 2)


def _near(flow: Flow, time_s: Array, percent: Array, believed: Mask, at: int) -> NDArray[np.intp]:
    """The check-ins about a crossing that are seen through without a hole, the gauge not yet at its end."""
    first, end = at - 1, at + 1
    while first > 0 and at - first < SIDES and flow.sees(float(time_s[first - 1]), float(time_s[first])):
        first -= 1
    while end < len(time_s) and end - at < SIDES and flow.sees(float(time_s[end - 1]), float(time_s[end])):
        end += 1
    near = np.arange(first, end)
    near = near[(percent[near] < 100) & believed[near]]
    # Where nothing runs the gauge stands: such check-ins say nothing of what a point takes.
    moving = np.concatenate(([True], np.diff(flow.at(time_s[near])) > 0)) if len(near) else np.zeros(0, dtype=bool)
    return near[moving]
