"""The meter's own counters against the integral of its rows."""

import numpy as np

from ..arrays import Array
from ..units import HOUR_S
from ..wording import share

OFF_SHARE, LEAST_RISE = 0.03, 0.2
"""A counter that differs by 3 % from the integral of what was logged is told (own choice); under 0.2 Wh or Ah its last
digit is all that differs."""


def counter_doubts(time_s: Array, watts: Array, amps: Array | None, wh: Array | None, ah: Array | None) -> list[str]:
    """Remarks on counters that do not agree with the rows beside them, or go back.

    Parameters
    ----------
    time_s : (n,) float array [s]
    watts, amps : (n,) float array [W], [A], amps or None
    wh, ah : (n,) float array or None [Wh], [Ah]
        As the meter counted.
    """
    doubts = []
    for counter, rate, unit in ((wh, watts, "Wh"), (ah, amps, "Ah")):
        if counter is None or rate is None:
            continue
        here = np.isfinite(counter) & np.isfinite(rate)
        if here.sum() < 2:
            continue
        told, t, r = counter[here], time_s[here], rate[here]
        if np.any(np.diff(told) < -LEAST_RISE):
            doubts.append(
                f"The counter of {unit} goes back in this log: it was set to 0, or two tests are in one file."
            )
            continue
        rise, total = float(told[-1] - told[0]), float(np.trapezoid(r, t)) / HOUR_S
        if rise > LEAST_RISE and abs(total - rise) > OFF_SHARE * rise:
            doubts.append(
                f"The counter rose by {rise:.2f} {unit}, the rows add up to {total:.2f} {unit}"
                f" ({share(total / rise - 1.0, 1)}): the rows are used."
            )
    return doubts
