"""A trace in short: what each of its minutes held, its extremes at their own moments."""

from dataclasses import dataclass

import numpy as np

from ..arrays import Array
from ..units import MINUTE_S
from .trace import PowerTrace


@dataclass(frozen=True)
class Minutes:
    """Minutes of a trace, (n,) each, counted from its first sample; none reaches over a hole.

    start_s, end_s : first and last sample [s]; low_w, high_w [W] and when, low_s, high_s [s]; mean_w : of its samples
    [W]; samples : their number.
    """

    start_s: Array
    end_s: Array
    low_s: Array
    low_w: Array
    high_s: Array
    high_w: Array
    mean_w: Array
    samples: Array

    @property
    def curve(self) -> tuple[Array, Array]:
        """Lowest and highest of every minute in the order of time: times [s] and watts [W], each (2 n,)."""
        time_s, watts = np.concatenate((self.low_s, self.high_s)), np.concatenate((self.low_w, self.high_w))
        order = np.argsort(time_s, kind="stable")
        return time_s[order], watts[order]

    def holes(self, limit_s: float) -> list[tuple[float, float]]:
        """Start and end [s] of every stretch longer than the limit that was not metered."""
        at = np.flatnonzero(self.start_s[1:] - self.end_s[:-1] > limit_s)
        return [(float(self.end_s[i]), float(self.start_s[i + 1])) for i in at]


def by_minute(trace: PowerTrace) -> Minutes:
    """The minutes of a trace."""
    time_s, power_w = trace.time_s, trace.power_w
    minute = np.floor((time_s - time_s[0]) / MINUTE_S)
    after_hole = np.diff(time_s) > trace.hole_limit_s
    first = np.flatnonzero(np.concatenate(([True], (np.diff(minute) != 0) | after_hole)))
    counts = np.diff(np.append(first, len(time_s)))
    low, high = np.minimum.reduceat(power_w, first), np.maximum.reduceat(power_w, first)
    group = np.repeat(np.arange(len(first)), counts)

    def moments(extremes: Array) -> Array:
        at = np.flatnonzero(power_w == extremes[group])
        return time_s[at[np.unique(group[at], return_index=True)[1]]]

    return Minutes(
        time_s[first], time_s[first + counts - 1], moments(low), low, moments(high), high,
        np.add.reduceat(power_w, first) / counts, counts.astype(float),
    )  # fmt: skip
