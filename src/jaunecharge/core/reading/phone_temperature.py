"""The temperature of a phone along its run, between its readings too: it follows the power as one warm node would."""

from dataclasses import dataclass, field
from functools import lru_cache

import numpy as np

from ..arrays import Array, median
from ..log.temperatures import DENSE_S, Surface
from ..units import MINUTE_S
from .grid import Series, running_mean

TAUS_S = tuple(float(t) for t in np.geomspace(3.0 * MINUTE_S, 75.0 * MINUTE_S, 14))
BLOCK = 128
LAGS_S = (0.0, 60.0, 150.0, 300.0)
"""Lags of the place that is measured behind the one that is warmed; told only from sparse readings' misfit."""

LEAST_READINGS = 6
SPARSE_S = 120.0
OWN_NOISE_K, SPARSE_NOISE_K = 0.1, 0.25
"""Least that is left unsure of one value; between sparse readings the course drifts (checked on simulated runs)."""

MOST_REACH_S = 20.0 * MINUTE_S
"""Further than this from any reading nothing is said of the temperature."""


@dataclass(frozen=True)
class Warmth:
    """Temperature at each step of a series : celsius (n,) [°C], NaN where no reading is near.

    unsure_k : standard uncertainty of one value [K]; every_s : usual step between readings [s]; modelled : whether
    the power was used to draw it between readings; reading_s : (k,) when it was read [s].
    """

    position: str
    celsius: Array
    unsure_k: float
    every_s: float
    modelled: bool
    reading_s: Array = field(default_factory=lambda: np.zeros(0))

    def estimated(self, at_s: float) -> bool:
        """Whether a value at a moment [s] is an estimate, because no reading is near."""
        return len(self.reading_s) == 0 or float(np.abs(self.reading_s - at_s).min()) > DENSE_S

    @property
    def sparse(self) -> bool:
        """Whether readings are further apart than a short dip is long."""
        return self.every_s > SPARSE_S

    def at(self, index: int, width: int = 1) -> float | None:
        """Mean over `width` steps that end at this one [°C]; None where nothing is known."""
        part = self.celsius[max(0, index - width + 1) : index + 1]
        known = part[np.isfinite(part)]
        return float(known.mean()) if len(known) else None


def warmth(surface: Surface, grid: Series) -> Warmth:
    """The temperature at one place, on the steps of a power series.

    Between readings a straight line would cut off every peak that falls between two of them. The node
    dT/dt = (T0 + R·P − T)/τ, driven by the metered power and fitted to the readings, gives the course; what is left at
    the readings is carried over linearly, so that at a reading the reading stands.

    Parameters
    ----------
    surface : Surface
    grid : Series

    References
    ----------
    One-node response to a known input: the exact step of a linear first-order system; fitted by least squares for each
    of a few time constants. Checked against the analytic exponential in tests/core/reading/test_judgement.py.
    """
    time_s, celsius = _thinned(surface.time_s, surface.celsius)
    every_s = median(np.diff(time_s)) if len(time_s) > 1 else MOST_REACH_S
    straight = np.interp(grid.time_s, time_s, celsius)
    course, left = straight, None
    if len(time_s) >= LEAST_READINGS:
        fitted = _fit(time_s, celsius, grid)
        if fitted is not None:
            left = celsius - np.interp(time_s, grid.time_s, fitted)
            if every_s <= DENSE_S:
                left = running_mean(left, 3)
            course = fitted + np.interp(grid.time_s, time_s, left)
    near = np.min(np.abs(time_s[_nearest(time_s, grid.time_s)] - grid.time_s[:, None]), axis=1)
    reach = max(MOST_REACH_S, 2.0 * every_s)
    course = np.where(near <= reach, course, np.nan)
    unsure = OWN_NOISE_K
    if left is not None:
        # Dense readings are averaged; sparse ones are as unsure as the course between them, half a misfit of it.
        misfit = 1.4826 * median(np.abs(np.diff(left))) / np.sqrt(2.0)
        unsure = max(OWN_NOISE_K, misfit if every_s > DENSE_S else misfit / np.sqrt(3.0))
        if every_s > SPARSE_S:
            unsure = max(unsure, SPARSE_NOISE_K)
    elif every_s > DENSE_S and len(celsius) > 1:
        unsure = max(OWN_NOISE_K, median(np.abs(np.diff(celsius))) / 2.0)
    return Warmth(surface.position, course, unsure, every_s, left is not None, surface.time_s)


def _thinned(time_s: Array, celsius: Array) -> tuple[Array, Array]:
    """Readings closer together than ten seconds become means of ten seconds."""
    if len(time_s) < 3 or median(np.diff(time_s)) >= 10.0:
        return time_s, celsius
    place = ((time_s - time_s[0]) // 10.0).astype(np.int64)
    _, first = np.unique(place, return_index=True)
    rows = np.diff(np.append(first, len(time_s)))
    return np.add.reduceat(time_s, first) / rows, np.add.reduceat(celsius, first) / rows


def _nearest(time_s: Array, at_s: Array) -> np.ndarray:
    """Indices of the readings before and after each moment : (n, 2)."""
    after = np.clip(np.searchsorted(time_s, at_s), 0, len(time_s) - 1)
    return np.stack([np.maximum(after - 1, 0), after], axis=1)


def _fit(time_s: Array, celsius: Array, grid: Series) -> Array | None:
    """The node's course on the steps of the grid, for the time constant that fits best; None where none does."""
    best, course = np.inf, None
    basis, at = np.ones((len(grid.watts), 3)), np.ones((len(time_s), 3))
    dense = median(np.diff(time_s)) <= DENSE_S
    fades = [np.exp(-(grid.time_s - grid.time_s[0]) / tau) for tau in TAUS_S]
    read = [np.interp(time_s, grid.time_s, fade) for fade in fades]
    for lag in LAGS_S[:1] if dense else LAGS_S:
        late = _follow(grid.watts, grid.step_s, lag)
        for tau, fade, fade_read in zip(TAUS_S, fades, read, strict=True):
            driven = _follow(late, grid.step_s, tau)
            basis[:, 1], basis[:, 2] = driven, fade
            at[:, 1], at[:, 2] = np.interp(time_s, grid.time_s, driven), fade_read
            solution, *_ = np.linalg.lstsq(at, celsius, rcond=None)
            misfit = float(np.sum((at @ solution - celsius) ** 2))
            if misfit < best and solution[1] > 0:
                best, course = misfit, basis @ solution
    return course


def _follow(values: Array, step_s: float, tau_s: float) -> Array:
    """The response of one node to values [..] : (n,), from rest at the first of them."""
    if tau_s <= 0:
        return values
    decay, passed = _kept(float(np.exp(-step_s / tau_s)))
    blocks = np.full((-(-len(values) // BLOCK), BLOCK), values[-1])
    blocks.reshape(-1)[: len(values)] = values
    driven = blocks @ passed.T
    lasts, whole = [float(values[0])], float(decay[-1])
    for end in driven[:-1, -1].tolist():
        lasts.append(end + whole * lasts[-1])
    driven += np.array(lasts)[:, None] * decay
    return driven.reshape(-1)[: len(values)]


@lru_cache(64)
def _kept(keep: float) -> tuple[Array, Array]:
    """Share that each step of a block keeps of what was before it, and that it takes of each of its values: a step is
    what is kept of the one before and the rest of the new value."""
    steps = np.arange(BLOCK)
    passed = np.tril(np.power(keep, np.maximum(steps[:, None] - steps, 0))) * (1.0 - keep)
    return np.asarray(keep ** (steps + 1.0)), np.asarray(passed)
