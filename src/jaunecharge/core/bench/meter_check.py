"""Checking a meter: against another one in line, or against a load of known watts; its deviation, with uncertainty."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..errors import CannotRead
from ..measured import COVERAGE_FACTOR, Measured, Part, rectangle

LEAST_PAIRS = 3
LEAST_W = 2.0
"""Under this a count of the meter weighs too much for its gain to be told (our own)."""


@dataclass(frozen=True)
class Against:
    """Reference of a meter check: its gain error in per cent of the reading, as half the width of a rectangle."""

    said: str
    gain_percent: float


def deviation(mine_w: Sequence[float], other_w: Sequence[float], against: Against) -> Measured:
    """By how much a meter reads high [% of the reading].

    Parameters
    ----------
    mine_w, other_w : (n,) sequence of float [W]
        The meter that is checked, and what it is held against, at the same moments.
    against : Against

    Returns
    -------
    Measured
        The mean of the deviations, its scatter and the other's own error (JCGM 100:2008, 4.2 and 4.3.7).

    Raises
    ------
    CannotRead
        If there are too few pairs, or too little power in them.
    """
    if len(mine_w) != len(other_w) or len(mine_w) < LEAST_PAIRS:
        raise CannotRead(
            f"{min(len(mine_w), len(other_w))} pairs are too few", f"read both at least {LEAST_PAIRS} times"
        )
    if min(*other_w, *mine_w) < LEAST_W:
        raise CannotRead(
            f"{min(*other_w, *mine_w):g} W is too little to tell a gain", f"draw at least {LEAST_W:g} W", file="pairs"
        )
    each = 100.0 * (np.array(mine_w, dtype=float) / np.array(other_w, dtype=float) - 1.0)
    scatter = float(each.std(ddof=1)) / math.sqrt(len(each))
    return Measured(
        float(each.mean()),
        (Part("scatter of the pairs", scatter), Part(f"gain of {against.said}", rectangle(against.gain_percent))),
    )


def gain_after(deviation_percent: float, expanded_percent: float) -> float:
    """The gain error that a checked meter is taken to have [% of the reading, half the width of a rectangle].

    Readings are left as they are: what the meter is off, and how well that is known, go into their uncertainty.
    """
    standard = math.hypot(deviation_percent / math.sqrt(3.0), expanded_percent / COVERAGE_FACTOR)
    return standard * math.sqrt(3.0)


def check_said(deviation_percent: float, expanded_percent: float) -> str:
    """A check in words: `reads 0.8 ± 0.4 % high`."""
    way = "high" if deviation_percent >= 0 else "low"
    if abs(deviation_percent) <= expanded_percent:
        return f"no deviation shown: {deviation_percent:+.2f} ± {expanded_percent:.2f} %"
    return f"reads {abs(deviation_percent):.2f} ± {expanded_percent:.2f} % {way}"
