"""When a running lane will be done: the forecast of its chain, corrected by the pace that the lane really keeps."""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..arrays import Array
from ..noise import ROOM_SPREAD

LEAST_POINTS = 3.0
"""Points gained before the pace of a lane says anything: each end is known to half a point (our own)."""

TRUST_POINTS = 15.0
"""Points after which the lane's own pace counts as much as the forecast (our own)."""

PACE_LIMITS = (0.4, 2.5)
PACE_SPREAD = 0.25
"""Error that the pace of a lane may have before it is trusted, a share of what is left (our own)."""


@dataclass(frozen=True)
class Curve:
    """A forecast: minutes : (n,) [min] after placing; least, likely, most : (n,) [%]."""

    minutes: Array
    least: Array
    likely: Array
    most: Array


@dataclass(frozen=True)
class Finish:
    """When a percentage is reached, minutes after placing: soonest, likely, latest (None: never), and the pace.

    pace : how many times as long as forecast the lane takes.
    """

    low_min: float | None
    likely_min: float | None
    high_min: float | None
    pace: float


def finish(curve: Curve, percents: Sequence[tuple[float, float]], to_percent: float) -> Finish:
    """When a lane will reach a percentage.

    Parameters
    ----------
    curve : Curve
    percents : sequence of (minute after placing, %)
        The check-ins so far, in order; may be empty.
    to_percent : float [%]
    """
    low, likely, high = (minutes_at(curve, which, to_percent) for which in ("most", "likely", "least"))
    if not percents:
        return Finish(low, likely, high, 1.0)
    at, last = percents[-1]
    if last >= to_percent:
        reached = next(t for t, p in percents if p >= to_percent)
        return Finish(reached, reached, reached, 1.0)
    pace, trust = _pace(curve, percents)
    there = minutes_at(curve, "likely", last)
    if likely is None or there is None:
        return Finish(None, None, None, pace)
    left = max(0.0, likely - there) * pace
    spread = ROOM_SPREAD + PACE_SPREAD * (1.0 - trust)
    # The range that the forecast had shrinks with what has been seen; the spread of one run remains.
    up = _ratio(high, likely, there) ** (1.0 - trust)
    down = _ratio(low, likely, there) ** (1.0 - trust)
    return Finish(
        at + left * min(down, 1.0 - spread),
        at + left,
        None if high is None and trust < 0.5 else at + left * max(up, 1.0 + spread),
        pace,
    )


def _pace(curve: Curve, percents: Sequence[tuple[float, float]]) -> tuple[float, float]:
    """Factor: how many times as long as forecast the lane takes, and how far that is trusted (0–1)."""
    (begun, first), (at, last) = percents[0], percents[-1]
    gained = last - first
    from_min, to_min = minutes_at(curve, "likely", first), minutes_at(curve, "likely", last)
    if gained < LEAST_POINTS or from_min is None or to_min is None or to_min <= from_min or at <= begun:
        return 1.0, 0.0
    trust = gained / (gained + TRUST_POINTS)
    seen = float(np.clip((at - begun) / (to_min - from_min), *PACE_LIMITS))
    return float(seen**trust), trust


def _ratio(end: float | None, likely: float, there: float) -> float:
    if end is None:
        return 1.0 + ROOM_SPREAD
    return max(1e-3, end - there) / max(1e-3, likely - there)


def minutes_at(curve: Curve, which: str, percent: float) -> float | None:
    """When a curve first shows a percentage [min]; None where it never does."""
    values: Array = getattr(curve, which)
    # A phone shows a percentage from half a point before it on.
    first = int(np.argmax(values >= percent - 0.5))
    if values[first] < percent - 0.5:
        return None
    if first == 0:
        return float(curve.minutes[0])
    low, high = values[first - 1], values[first]
    share = (percent - 0.5 - low) / max(1e-9, high - low)
    return float(curve.minutes[first - 1] + share * (curve.minutes[first] - curve.minutes[first - 1]))


def tens_reached(percents: Sequence[tuple[float, float]]) -> list[tuple[int, float]]:
    """When each ten percent was first reached, on straight lines between readings: (%, moment) in order.

    Parameters
    ----------
    percents : sequence of (moment, %)
        In order of time, on any clock; the moments come back on the same.
    """
    reached: list[tuple[int, float]] = []
    if not percents:
        return reached
    highest = percents[0][1]
    for (t0, p0), (t1, p1) in itertools.pairwise(percents):
        if p1 <= highest:
            continue
        for ten in range(int(highest // 10) * 10 + 10, int(p1 // 10) * 10 + 1, 10):
            share = (ten - min(p0, p1 - 1e-9)) / (p1 - min(p0, p1 - 1e-9))
            reached.append((ten, t0 + max(0.0, share) * (t1 - t0)))
        highest = p1
    return reached
