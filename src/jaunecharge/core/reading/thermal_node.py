"""One warm node: the temperature that a constant power leads to, how fast, and when a threshold will be crossed."""

import math
from dataclasses import dataclass

import numpy as np

from ..arrays import Array
from ..log.temperatures import Surface
from ..measured import Measured, Part
from ..units import MINUTE_S
from .causes import Dip
from .judgement import Judged

LEAST_READINGS = 5
LEAST_TAUS = 1.5
LEAST_S = 5 * MINUTE_S
LEAST_TAU_S, MOST_TAU_S = 60.0, 3 * 3600.0
READING_K = 0.1
"""Least scatter of a temperature reading that is believed [K] (common practice: probes are read to a tenth)."""

MOST_EXPANDED_K = 8.0
SKIP_S = 60.0
MOST_CONDITION = 1e16
TRIED, ZOOMS = 41, 6
"""Of the normal equations, beyond which their inverse says nothing."""


@dataclass(frozen=True)
class Node:
    """T = Ts − (Ts − T0)·e^(−t/τ) over a stretch of constant power.

    steady_c : Ts [°C]; tau_s : τ [s], both with their uncertainty; first_c : T0 [°C]; watts : the power [W];
    start_s, end_s [s]; readings : how many it rests on.
    """

    position: str
    steady_c: Measured
    tau_s: Measured
    first_c: float
    watts: float
    start_s: float
    end_s: float
    readings: int
    covariance: Array

    def at(self, time_s: float) -> float:
        """The temperature that it foresees at a moment [°C]."""
        since = time_s - self.start_s
        return self.steady_c.value - (self.steady_c.value - self.first_c) * math.exp(-since / self.tau_s.value)

    def crossing(self, threshold_c: float) -> Measured | None:
        """Seconds after `start_s` until a threshold would be crossed; None where the steady temperature is below it."""
        steady, first, tau = self.steady_c.value, self.first_c, self.tau_s.value
        if not first < threshold_c < steady:
            return None
        share = (steady - threshold_c) / (steady - first)
        # Derivatives of t = −τ ln((Ts − T) / (Ts − T0)) after Ts, T0 and τ (JCGM 100:2008, 5.2.2).
        d = np.array([
            -tau * (1.0 / (steady - threshold_c) - 1.0 / (steady - first)),
            -tau / (steady - first),
            -math.log(share),
        ])  # fmt: skip
        spread = math.sqrt(max(0.0, float(d @ self.covariance @ d)))
        return Measured(-tau * math.log(share), (Part("fit of the node", spread),))


def node_course(seconds: Array, steady_c: float, first_c: float, tau_s: float) -> Array:
    """The node's temperatures [°C] at seconds after the power came on : (n,)."""
    return steady_c - (steady_c - first_c) * np.exp(-seconds / tau_s)


def fit_node(position: str, time_s: Array, celsius: Array, watts: float = math.nan) -> Node | None:
    """Fit the node to readings over a stretch of constant power; None where they do not carry it.

    Parameters
    ----------
    position : str
    time_s, celsius : (n,) float array [s], [°C]
    watts : float [W]

    Returns
    -------
    Node or None
        None for fewer than five readings, a stretch under 1.5 τ, or a steady temperature that stays unsure.

    References
    ----------
    Least squares with the covariance of its parameters, σ² inv(J'J); checked against the analytic exponential and
    `uncertainties` in tests/reference.
    """
    if len(time_s) < LEAST_READINGS or time_s[-1] - time_s[0] < LEAST_S:
        return None
    since = time_s - time_s[0]
    length = float(since[-1])
    tau = _best_tau(since, celsius)
    misfit, steady, first = _for_tau(since, celsius, tau)
    if length < LEAST_TAUS * tau or not math.isfinite(misfit):
        return None
    faded = np.exp(-since / tau)
    slopes = np.stack([1.0 - faded, faded, -(steady - first) * faded * since / tau**2], axis=1)
    normal = slopes.T @ slopes
    if np.linalg.cond(normal) > MOST_CONDITION:
        return None
    scatter = math.sqrt(misfit / max(1, len(since) - 3))
    covariance = np.linalg.inv(normal) * max(scatter, 1e-12) ** 2
    # A fit through readings without scatter would claim more than the probe can know.
    covariance = covariance * max(1.0, (READING_K / max(scatter, 1e-9)) ** 2)
    steady_u, tau_u = math.sqrt(covariance[0, 0]), math.sqrt(covariance[2, 2])
    if 2.0 * steady_u > MOST_EXPANDED_K:
        return None
    return Node(
        position,
        Measured(steady, (Part("fit of the node", steady_u),)),
        Measured(tau, (Part("fit of the node", tau_u),)),
        first,
        watts,
        float(time_s[0]),
        float(time_s[-1]),
        len(time_s),
        np.asarray(covariance),
    )


def _best_tau(since: Array, celsius: Array) -> float:
    """The τ that leaves least [s]: for a given one the rest is linear, so all of the range is looked over, then what
    lies around the best, until 1e-7 of it is left. An optimiser's library would take a third of a second to load."""
    low, high = math.log(LEAST_TAU_S), math.log(MOST_TAU_S)
    for _ in range(ZOOMS):
        tried = np.linspace(low, high, TRIED)
        best = int(np.argmin(_misfits(since, celsius, np.exp(tried))))
        low, high = float(tried[max(best - 1, 0)]), float(tried[min(best + 1, TRIED - 1)])
    return math.exp((low + high) / 2.0)


def _misfits(since: Array, celsius: Array, taus_s: Array) -> Array:
    """Squared residual of the readings for each τ : (m,)."""
    faded = np.exp(-since / taus_s[:, None])
    means = faded.mean(axis=1)
    spread = faded - means[:, None]
    size = np.vecdot(spread, spread)
    slope = np.divide(np.vecdot(spread, celsius), size, out=np.zeros(len(size)), where=size > 0.0)
    left = celsius - (celsius.mean() - slope * means)[:, None] - slope[:, None] * faded
    return np.where(size > 0.0, np.vecdot(left, left), np.inf)


def _for_tau(since: Array, celsius: Array, tau_s: float) -> tuple[float, float, float]:
    """Squared residual of the readings, for one τ; and its Ts and T0 [°C]."""
    faded = np.exp(-since / tau_s)
    spread = faded - faded.mean()
    size = float(spread @ spread)
    if size <= 0.0:
        return math.inf, math.nan, math.nan
    slope = float(spread @ celsius) / size
    steady = float(celsius.mean()) - slope * float(faded.mean())
    left = celsius - steady - slope * faded
    return float(left @ left), steady, steady + slope


def steady_stretches(judged: Judged) -> list[tuple[float, float, float]]:
    """Stretches of constant power: (start [s], end [s], mean [W]), dips cut out, cuts that last their own stretches."""
    if judged.course is None:
        return []
    grid = judged.grid
    cut = sorted(judged.dips, key=lambda d: d.start_s)
    stretches: list[tuple[float, float, float]] = []
    for level in judged.course.levels:
        begin, end = grid.edge_s(level.first), grid.edge_s(level.end)
        at = begin
        for dip in (d for d in cut if d.start_s < end and d.end_s > begin and not _covers(d, begin, end)):
            if dip.start_s > at:
                stretches.append((at, dip.start_s, level.watts))
            at = max(at, dip.end_s)
        if end > at:
            stretches.append((at, end, level.watts))
    return [f for f in stretches if f[1] - f[0] >= LEAST_S]


def _covers(dip: Dip, begin: float, end: float) -> bool:
    return dip.start_s <= begin + SKIP_S and dip.end_s >= end - SKIP_S


def node_of(judged: Judged, surface: Surface) -> Node | None:
    """The node of the stretch at the highest power that carries a fit."""
    for begin, end, watts in sorted(steady_stretches(judged), key=lambda s: (-round(s[2], 1), s[0])):
        inside = (surface.time_s >= begin) & (surface.time_s <= end)
        fitted = fit_node(surface.position, surface.time_s[inside], surface.celsius[inside], watts)
        if fitted is not None and fitted.steady_c.value > fitted.first_c:
            return fitted
    return None
