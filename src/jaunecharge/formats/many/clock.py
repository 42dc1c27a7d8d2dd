"""The clock of a table: the unit of bare times, the zero of dates and of times of day."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ...core.log import unwrapped
from ...core.units import HOUR_S, MINUTE_S
from .cells import When
from .headings import time_unit_s

FIRST_OF_DAY_S = 3 * HOUR_S
"""A clock that begins later than this shows the time of day, not the time that has run (own choice)."""


@dataclass(frozen=True)
class TableClock:
    """Clock of a table: seconds of the unit of bare times, and the zero of its dates or hours."""

    unit_s: float
    zero_s: float | None = None
    kind: str = "number"
    local: bool = False


def clock_of(times: Sequence[When], heading: str) -> TableClock:
    """The clock of times in their order."""
    kind = max({t.kind for t in times}, key=lambda k: sum(t.kind == k for t in times))
    own = [t.seconds for t in times if t.kind == kind]
    if kind == "dated":
        return TableClock(1.0, own[0], kind, any(t.local for t in times))
    if kind == "clock":
        return TableClock(1.0, own[0] if own[0] >= FIRST_OF_DAY_S else 0.0, kind)
    unit = time_unit_s(heading)
    if unit is None:
        steps = np.diff(sorted(set(own)))
        step = float(np.median(steps)) if len(steps) else 1.0
        top = max(own)
        unit = HOUR_S if step < 1.0 and top <= 24 else (1.0 if step >= 30 and top > 1500 else MINUTE_S)
    return TableClock(unit, 0.0, kind)


def seconds_of(times: Sequence[When], clock: TableClock) -> list[float]:
    """Times on the table's clock [s], hours of the day made to run on over midnight."""
    at = np.array([t.seconds * clock.unit_s if t.kind == "number" else t.seconds for t in times], dtype=float)
    own = np.array([t.kind == clock.kind for t in times], dtype=bool)
    if clock.kind == "clock" and own.any():
        at[own], _ = unwrapped(at[own])
    if clock.zero_s is not None:
        at[own] -= clock.zero_s
    return [float(s) for s in at]
