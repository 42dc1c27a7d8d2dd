"""One warm node: the temperature that a constant power leads to, how fast, and when a threshold will be crossed."""

import math
from dataclasses import dataclass

import numpy as np
from scipy.optimize import curve_fit

from .causes import Dip
from .heat import Surface
from .judged import Judged
from .measured import Measured, Part
from .trace import Array
from .units import MINUTE_S

LEAST_READINGS = 5
LEAST_TAUS = 1.5
LEAST_S = 5 * MINUTE_S
LEAST_TAU_S, MOST_TAU_S = 60.0, 3 * 3600.0
READING_K = 0.1
"""Least scatter of a temperature reading that is believed [K] (common practice: probes are read to a tenth)."""

MOST_EXPANDED_K = 8.0
SKIP_S = 60.0


@dataclass(frozen=True)
class Node:
    """T = T∞ − (T∞ − T₀)·e^(−t/τ) over a stretch of constant power.

    steady_c : T∞ [°C]; tau_s : τ [s], both with their uncertainty; first_c : T₀ [°C]; watts : the power [W];
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
        # Derivatives of t = −τ ln((T∞ − T) / (T∞ − T₀)) after T∞, T₀ and τ (JCGM 100:2008, 5.2.2).
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
    Least squares with the covariance of its parameters (SciPy); checked against the analytic exponential and against
    `uncertainties` in tests/reference.
    """
    if len(time_s) < LEAST_READINGS or time_s[-1] - time_s[0] < LEAST_S:
        return None
    since = time_s - time_s[0]
    length = float(since[-1])
    last = float(celsius[-1])
    guess = (last + 0.3 * (last - float(celsius[0])), float(celsius[0]), length / 2.5)
    try:
        found, covariance = curve_fit(
            node_course,
            since,
            celsius,
            p0=guess,
            bounds=((-40.0, -40.0, LEAST_TAU_S), (150.0, 120.0, MOST_TAU_S)),
            x_scale=(10.0, 10.0, 1000.0),
        )
    except (RuntimeError, ValueError):
        return None
    steady, first, tau = (float(x) for x in found)
    if length < LEAST_TAUS * tau or not np.isfinite(covariance).all():
        return None
    scatter = float(np.sqrt(np.sum((node_course(since, *found) - celsius) ** 2) / max(1, len(since) - 3)))
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


def steady_stretches(judged: Judged) -> list[tuple[float, float, float]]:
    """Stretches of constant power: (start [s], end [s], mean [W]), dips cut out, cuts that last their own stretches."""
    if judged.course is None:
        return []
    grid = judged.grid
    cut = sorted(judged.dips, key=lambda d: d.start_s)
    found: list[tuple[float, float, float]] = []
    for level in judged.course.levels:
        begin, end = grid.edge_s(level.first), grid.edge_s(level.end)
        at = begin
        for dip in (d for d in cut if d.start_s < end and d.end_s > begin and not _covers(d, begin, end)):
            if dip.start_s > at:
                found.append((at, dip.start_s, level.watts))
            at = max(at, dip.end_s)
        if end > at:
            found.append((at, end, level.watts))
    return [f for f in found if f[1] - f[0] >= LEAST_S]


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
