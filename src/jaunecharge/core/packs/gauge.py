"""The gauge of a pack, and the counters of a meter, against the energy that was logged: where they cannot be true."""

from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from ..arrays import Array
from ..log.trace import PowerTrace
from ..units import HOUR_S
from ..wording import duration, share
from .load_notes import LevelSeen

LEAST_POINTS, LEAST_SHARE = 10.0, 0.02
MUCH_TOO_FAST = 3.0
"""A gauge that runs three times as fast or as slow as the energy over a stretch is not to be believed (own choice:
cells that sag and a converter of changing efficiency explain a factor of about 1.5, from memory)."""


def gauge_doubts(levels: Sequence[LevelSeen], trace: PowerTrace, start_s: float, end_s: float) -> list[str]:
    """Reasons not to believe a gauge, from what it showed in a discharge.

    Parameters
    ----------
    levels : sequence of LevelSeen
        In order of time, from the load on.
    trace : PowerTrace
        Of the load.
    start_s, end_s : float [s]
        From the first load to the cut-off, or to where the log ends.

    Notes
    -----
    Where the log ended before the pack was empty its whole energy is not known: then only a level that rises is told.
    """
    doubts = []
    for before, after in pairwise(levels):
        if after.level.low > before.level.high:
            doubts.append(
                f"The gauge is not to be believed: it went up from {before.level.said} to {after.level.said} while the"
                " pack gave."
            )
    energy = trace.running[0]
    return doubts + _too_fast(levels, trace.time_s, energy, start_s, end_s)


def _too_fast(levels: Sequence[LevelSeen], time_s: Array, energy: Array, start_s: float, end_s: float) -> list[str]:
    def given(at_s: float) -> float:
        return float(np.interp(at_s, time_s, energy))

    whole = given(end_s) - given(start_s)
    if whole <= 0:
        return []
    for before, after in pairwise(levels):
        least = before.level.low - after.level.high
        part = (given(start_s + after.at_s) - given(start_s + before.at_s)) / whole
        if least >= LEAST_POINTS and part >= 0 and least / 100.0 > MUCH_TOO_FAST * max(part, LEAST_SHARE):
            return [
                f"The gauge is not to be believed: from {before.level.said} to {after.level.said} in"
                f" {duration(after.at_s - before.at_s)}, with {share(part)} of the energy that it gave in all."
            ]
        most = before.level.high - after.level.low
        if part >= LEAST_POINTS / 100.0 and part > MUCH_TOO_FAST * max(most / 100.0, LEAST_SHARE):
            return [
                f"The gauge is not to be believed: from {before.level.said} to {after.level.said} in"
                f" {duration(after.at_s - before.at_s)}, with {share(part)} of the energy that it gave in all."
            ]
    return []


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
