"""A curve through points that never turns between two of them: the level of a battery between check-ins."""

from dataclasses import dataclass

import numpy as np

from ..arrays import Array


@dataclass(frozen=True)
class Monotone:
    """A piecewise cubic. x : (m,) increasing; c : (4, m − 1), coefficients of the third to the zeroth power of what x
    exceeds the beginning of its piece by."""

    x: Array
    c: Array

    def __call__(self, at: Array | float) -> Array:
        """The curve at some places, NaN outside its points."""
        where = np.asarray(at, dtype=float)
        piece = np.clip(np.searchsorted(self.x, where, side="right") - 1, 0, len(self.x) - 2)
        s = where - self.x[piece]
        c = self.c[:, piece]
        inside = (where >= self.x[0]) & (where <= self.x[-1])
        return np.where(inside, c[3] + c[2] * s + c[1] * (s * s) + c[0] * (s * s * s), np.nan)


def monotone(x: Array, y: Array) -> Monotone:
    """The monotone piecewise cubic Hermite curve (PCHIP) through points.

    Parameters
    ----------
    x, y : (m,) float arrays
        m at least 2, x increasing.

    References
    ----------
    F. N. Fritsch and J. Butland, SIAM J. Sci. Stat. Comput. 5 (1984), 300–304; slopes at the ends as C. Moler,
    Numerical Computing with MATLAB (2004), 3.6. Checked against scipy.interpolate.PchipInterpolator in tests/core/log:
    written out here, as loading that takes half a second of each command.
    """
    x, y = np.asarray(x, dtype=float), np.asarray(y, dtype=float)
    h, m = np.diff(x), np.diff(y) / np.diff(x)
    slope = np.empty(len(x))
    if len(x) == 2:
        slope[:] = m[0]
    else:
        before, after = 2.0 * h[1:] + h[:-1], h[1:] + 2.0 * h[:-1]
        level = np.sign(m[1:]) * np.sign(m[:-1]) <= 0.0
        with np.errstate(divide="ignore", invalid="ignore"):
            mean = (before / m[:-1] + after / m[1:]) / (before + after)
            slope[1:-1] = np.where(level, 0.0, 1.0 / mean)
        slope[0], slope[-1] = _at_end(h[0], h[1], m[0], m[1]), _at_end(h[-1], h[-2], m[-1], m[-2])
    bend = (slope[:-1] + slope[1:] - 2.0 * m) / h
    return Monotone(x, np.stack([bend / h, (m - slope[:-1]) / h - bend, slope[:-1], y[:-1]]))


def _at_end(h0: float, h1: float, m0: float, m1: float) -> float:
    """The slope at an end, of the two pieces next to it; none that would turn the curve."""
    slope = ((2.0 * h0 + h1) * m0 - h0 * m1) / (h0 + h1)
    if np.sign(slope) != np.sign(m0):
        return 0.0
    return float(3.0 * m0 if np.sign(m0) != np.sign(m1) and abs(slope) > 3.0 * abs(m0) else slope)
