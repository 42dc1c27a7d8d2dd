"""Places in a ranking of many: shared wherever no difference is shown."""

import numpy as np
from numpy.typing import NDArray

from ..arrays import Array, Mask
from ..noise import CONFIDENCE

Places = NDArray[np.intp]


def holm(p: Array, level: float = 1.0 - CONFIDENCE) -> Mask:
    """Which of many differences are shown when the whole ranking may be wrong once in twenty times.

    Parameters
    ----------
    p : (m,) float array
        Probability of so large a difference by chance alone, each by itself; NaN where there is none to judge.
    level : float
        How often the ranking as a whole may claim something wrongly.

    Returns
    -------
    (m,) bool array

    References
    ----------
    Holm, S. (1979), A simple sequentially rejective multiple test procedure, Scand. J. Statist. 6, 65–70 (from memory;
    held against statsmodels in the tests).
    """
    shown = np.zeros(len(p), dtype=bool)
    judged = np.flatnonzero(np.isfinite(p))
    order = judged[np.argsort(p[judged], kind="stable")]
    passed = p[order] <= level / (len(order) - np.arange(len(order)))
    first_failed = int(np.argmin(passed)) if not passed.all() else len(order)
    shown[order[:first_failed]] = True
    return shown


def ranks(count: int, slower: Places) -> Places:
    """Places: 1 + the number shown to be faster : (count,).

    Parameters
    ----------
    count : int
        How many are ranked.
    slower : (m,) int array
        Who was shown to be slower than somebody, once for each.
    """
    return 1 + np.bincount(slower, minlength=count)


def last_ranks(ranked: Mask, faster: Places) -> Places:
    """The last place that each may hold: how many are ranked, less those shown to be slower : (count,).

    Parameters
    ----------
    ranked : (count,) bool array
        Which of them have a time at all.
    faster : (m,) int array
        Who was shown to be faster than somebody, once for each.
    """
    return int(ranked.sum()) - np.bincount(faster, minlength=len(ranked))


def place_said(first: int, last: int, of: int) -> str:
    """A place as it is known: `1`, or `2 to 6 of 8` where the times do not tell; `–` for none."""
    if not first:
        return "–"
    return f"{first}" if first == last else f"{first} to {last} of {of}"
