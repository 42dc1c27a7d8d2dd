"""Arrays of figures and of truths, as all of the core gives and takes them."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]


def running_sum(values: Array | Mask) -> Array:
    """Sum of (n,) before each of them, and of all : (n + 1,)."""
    total = np.zeros(len(values) + 1)
    np.cumsum(values, out=total[1:])
    return total


def percentile(values: Array | Sequence[float], percent: float) -> float:
    """A percentile of (n,), between two of them where it lies between; NaN where one of them is: `np.percentile` to the
    last bit, in a fraction of its time."""
    last = len(values) - 1
    if last < 0:
        return float("nan")
    at = last * (percent / 100.0)
    below = int(at)
    above = min(below + 1, last)
    ordered = np.partition(values, (below, above, last))
    if np.isnan(ordered[-1]):
        return float("nan")
    low, high, share = float(ordered[below]), float(ordered[above]), at - below
    return high - (high - low) * (1.0 - share) if share >= 0.5 else low + (high - low) * share


def median(values: Array | Sequence[float]) -> float:
    """Median of (n,), NaN where one of them is: `np.median` to the last bit, in a fraction of its time where they are
    few."""
    count = len(values)
    if not count:
        return float("nan")
    half = count // 2
    ordered = np.partition(values, (half - 1 if count % 2 == 0 else half, half, count - 1))
    if np.isnan(ordered[-1]):
        return float("nan")
    return float(ordered[half]) if count % 2 else float(ordered[half - 1] + ordered[half]) / 2.0
