"""The ribbon of a run: power, temperature and battery ticks along its time, in few enough steps to draw."""

from dataclasses import dataclass

import numpy as np

from ..arrays import Array, median
from ..log.energy import window_means
from ..units import MINUTE_S
from .read_run import Reading

STEPS = 300


@dataclass(frozen=True)
class Ribbon:
    """A band over the minutes after placing.

    step_min [min]; watts : (s,) mean power of each step, NaN where not metered; celsius : (s,) or None;
    ticks : (percent, minute) of every ten percent; minutes : its whole length; marks : (what, from, to) of every dip,
    by its cause, and of the time after full, minutes after placing.
    """

    step_min: float
    watts: Array
    celsius: Array | None
    ticks: tuple[tuple[int, float], ...]
    minutes: float
    marks: tuple[tuple[str, float, float], ...] = ()
    pace: tuple[tuple[float, float, float], ...] = ()
    """Where no meter was: from and to [min after placing] and points a minute of each straight piece."""


def ribbon(reading: Reading, steps: int = STEPS) -> Ribbon:
    """The ribbon of a reading, from placing to the end of the log."""
    trace = reading.log.trace
    step_s = max(1e-3, reading.duration_s) / steps
    starts: Array = reading.placed_s + step_s * np.arange(steps, dtype=np.float64)
    watts = window_means(trace, starts, step_s, least_covered=0.5)
    surface = reading.log.heat.phone() if reading.log.heat else None
    celsius = None
    if surface is not None:
        middles = starts + step_s / 2.0
        celsius = np.interp(middles, surface.time_s, surface.celsius)
        reach = max(step_s, 10.0 * median(np.diff(surface.time_s)) if len(surface.time_s) > 1 else 60.0)
        outside = (middles < surface.time_s[0] - reach) | (middles > surface.time_s[-1] + reach)
        celsius = np.where(outside, np.nan, celsius)
    ticks = tuple((m.percent, (m.estimate_s - reading.placed_s) / MINUTE_S) for m in reading.milestones)
    return Ribbon(
        step_s / MINUTE_S, watts, celsius, ticks, reading.duration_s / MINUTE_S, _marks(reading), _paces(reading)
    )


def _paces(reading: Reading) -> tuple[tuple[float, float, float], ...]:
    if reading.log.trace.metered:
        return ()
    placed_s = reading.placed_s
    return tuple(
        ((p.start_s - placed_s) / MINUTE_S, (p.end_s - placed_s) / MINUTE_S, p.points_per_min.value)
        for p in reading.pace
    )


def _marks(reading: Reading) -> tuple[tuple[str, float, float], ...]:
    judged = reading.judged
    if judged is None:
        return ()
    marks = [(str(d.cause), d.start_s, d.end_s) for d in judged.dips]
    if judged.full_s is not None:
        marks.append(("full", judged.full_s, reading.log.trace.end_s))
    return tuple((w, (a - reading.placed_s) / MINUTE_S, (b - reading.placed_s) / MINUTE_S) for w, a, b in marks)
