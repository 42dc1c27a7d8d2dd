"""The time that a run takes over a window of percentages, and the window that runs share."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..arrays import Array
from ..errors import CannotRead
from ..log.check_ins import CheckIns, reached
from ..milestones import SLOWS_FROM
from ..noise import interval_variance
from ..units import MINUTE_S

NARROW_POINTS = 20.0
"""A window of fewer points is said to be narrow: a reading is off by half a point at either end (our own choice)."""


@dataclass(frozen=True)
class Crossing:
    """When a percentage was reached [min after placing]: after `earliest`, at the latest at `latest`."""

    earliest: float
    estimate: float
    latest: float

    @property
    def middle(self) -> float:
        return (self.earliest + self.latest) / 2.0

    @property
    def width(self) -> float:
        return self.latest - self.earliest

    @property
    def late(self) -> float:
        """Mean delay of its estimate [min]: half its interval where the estimate is the first sighting."""
        return self.latest - self.middle if self.estimate == self.latest else 0.0


@dataclass(frozen=True)
class Lap:
    """The minutes between two crossings of one run."""

    start: Crossing
    end: Crossing

    @property
    def earliest(self) -> float:
        """The least that it can have been [min]."""
        return max(0.0, self.end.earliest - self.start.latest)

    @property
    def estimate(self) -> float:
        """By the monotone curve [min]: what rows show, and what differences are made of."""
        return self.end.estimate - self.start.estimate

    @property
    def latest(self) -> float:
        """The most that it can have been [min]."""
        return self.end.latest - self.start.earliest

    @property
    def late(self) -> float:
        """Mean excess of its length, because its end and its start are told by first sighting [min]."""
        return self.end.late - self.start.late

    @property
    def variance(self) -> float:
        """Of the two intervals, rectangles [min²] (JCGM 100:2008, 4.3.7)."""
        return interval_variance(self.start.width, self.end.width)


def crossing(readings: CheckIns, percent: float) -> Crossing | None:
    """When a run came to a percentage; where it began with just that, the moment is known.

    Parameters
    ----------
    readings : CheckIns
        Seconds after placing.
    percent : float [%]

    Returns
    -------
    Crossing, or None where the run began above it, or never came to it.
    """
    if not len(readings) or readings.percent[0] > percent:
        return None
    if readings.percent[0] == percent:
        first = float(readings.time_s[0]) / MINUTE_S
        return Crossing(first, first, first)
    crossed = reached(readings, percent)
    return None if crossed is None else Crossing(*(t / MINUTE_S for t in crossed))


def lap(readings: CheckIns, start: float, end: float) -> Lap | None:
    """The time over a window [%]; None where the run does not cover it."""
    began, ended = crossing(readings, start), crossing(readings, end)
    return None if began is None or ended is None else Lap(began, ended)


Window = tuple[float, float]
"""From and to [%]."""


def span(readings: CheckIns | None) -> Window | None:
    """The percentages that a run covers: its first, and its highest; None for fewer than two check-ins."""
    if readings is None or len(readings) < 2:
        return None
    low, high = float(readings.percent[0]), float(readings.percent.max())
    return (low, high) if high > low else None


def shared_window(spans: Sequence[Window | None]) -> Window | None:
    """The widest window that all runs share; where not all share one, that of the most runs.

    Returns
    -------
    (from, to) [%], or None where no two runs share any.
    """
    known = np.array([s for s in spans if s is not None], dtype=float).reshape(-1, 2)
    if len(known) < min(2, len(spans)) or not len(known):
        return None
    whole = float(known[:, 0].max()), float(known[:, 1].min())
    if whole[0] < whole[1]:
        return whole
    best, most = None, (1, float("inf"))
    for low in np.unique(known[:, 0]):
        ends: Array = np.unique(known[:, 1][known[:, 1] > low])
        for high in ends:
            count = int(np.sum((known[:, 0] <= low) & (known[:, 1] >= high)))
            if (count, float(high - low)) > most:
                best, most = (float(low), float(high)), (count, float(high - low))
    return best


def worthwhile_windows(spans: Sequence[Window | None]) -> list[tuple[Window, int]]:
    """Windows worth comparing over, each with how many runs cover it: that which all share, and for each usual end that
    which most runs cover widest; the one that covers most points of most runs first."""
    known = [s for s in spans if s is not None]
    counts: dict[Window, int] = {}
    if (whole := shared_window(spans)) is not None:
        counts[whole] = _covering(known, whole)
    for top in (float(SLOWS_FROM), 100.0):
        windows = dict.fromkeys((low, top) for low, high in known if high >= top > low)
        best = max(windows, key=lambda w: (_covering(known, w) * (w[1] - w[0]), -w[0]), default=None)
        if best is not None and _covering(known, best) > 1:
            counts[best] = _covering(known, best)
    return sorted(counts.items(), key=lambda x: -x[1] * (x[0][1] - x[0][0]))


def _covering(known: Sequence[Window], window: Window) -> int:
    return sum(low <= window[0] and high >= window[1] for low, high in known)


def checked_window(start: float, end: float) -> Window:
    """A window that was asked for.

    Raises
    ------
    CannotRead
    """
    for name, value in (("from", start), ("to", end)):
        if not 0.0 <= value <= 100.0:
            raise CannotRead(f"{value:g} % cannot be", "a percentage is 0 to 100", file=name)
    if start >= end:
        raise CannotRead(f"from {start:g} to {end:g} % is empty", "“from” lies below “to”", file="window")
    return start, end
