"""When the next check-in of a lane is due, and whether it is quiet, due or late."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from ..units import MINUTE_S

State = Literal["quiet", "due", "late", "none"]
EARLY_SHARE = 0.35
"""A check-in that comes earlier by no more than this share of the interval counts for the one that is due (our own)."""

LATE_AFTER_S = 60.0
"""A check-in is late once its moment is passed by this (our own)."""

CALLED_BEFORE_S = 20.0
"""Lead at which a check-in is called for (our own)."""


@dataclass(frozen=True)
class Due:
    """The next check-in: its state, its moment [s] on the lane's clock, and how long until then [s]."""

    state: State
    at_s: float | None = None
    in_s: float = 0.0


def next_due(placed_s: float | None, interval_min: float, percents: Sequence[float], now_s: float) -> Due:
    """The next check-in of a lane.

    Parameters
    ----------
    placed_s : float or None [s]
        When the phone was placed; None: nothing is due yet.
    interval_min : float [min]
        Between check-ins; 0 for a continuous log, which calls for nobody.
    percents : sequence of float [s]
        When a percentage was logged, in order.
    now_s : float [s]
    """
    if placed_s is None or interval_min <= 0:
        return Due("none")
    step = interval_min * MINUTE_S
    last = max((t for t in percents if t <= now_s), default=None)
    done = -1 if last is None else int((last - placed_s) / step + EARLY_SHARE)
    at = placed_s + max(0, done + 1) * step
    away = at - now_s
    state: State = "late" if away < -LATE_AFTER_S else "due" if away <= CALLED_BEFORE_S else "quiet"
    return Due(state, at, away)


def moments(placed_s: float, interval_min: float, until_s: float, most: int = 400) -> list[float]:
    """The moments of all check-ins from the placing on, up to a time [s]."""
    if interval_min <= 0:
        return []
    step = interval_min * MINUTE_S
    count = min(most, int(max(0.0, until_s - placed_s) / step) + 1)
    return [placed_s + i * step for i in range(count)]
