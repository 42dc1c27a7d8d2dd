"""The power trace of a run: cleaned samples on one clock, its holes and its coverage."""

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from ..arrays import Array, median, running_sum
from ..errors import CannotRead
from ..units import HOUR_S

HOLE_STEPS = 10.0
HOLE_FLOOR_S = 30.0
SPARSE_S = 90.0
"""Readings further apart than this are points: what happens between two of them nobody saw (own choice)."""


@dataclass(frozen=True)
class Cleaned:
    """Counts of the cleaning: rows that shared a time, rows out of order, time that was not metered [s]."""

    duplicates: int = 0
    reordered: int = 0
    missing_s: float = 0.0


@dataclass(frozen=True)
class PowerTrace:
    """Samples of the inline meter, times strictly increasing.

    time_s : (n,) [s] on the log's own clock; power_w : (n,) [W]; volts, amps : (n,) [V], [A], or None where the
    meter gave watts alone.
    """

    time_s: Array
    power_w: Array
    volts: Array | None
    amps: Array | None
    cleaned: Cleaned
    metered: bool = True
    """Whether any watts were logged; where not, the trace only says from when to when, and is all hole."""

    @property
    def start_s(self) -> float:
        return float(self.time_s[0])

    @property
    def end_s(self) -> float:
        return float(self.time_s[-1])

    @cached_property
    def steps_s(self) -> Array:
        """Steps between samples, (n − 1,) [s]."""
        return np.diff(self.time_s)

    @cached_property
    def step_s(self) -> float:
        """Median step between samples [s]."""
        return median(self.steps_s)

    @property
    def sparse(self) -> bool:
        """Whether it holds points read now and then, by eye say, and not the course of the power."""
        return self.metered and self.step_s > SPARSE_S

    @cached_property
    def hole_limit_s(self) -> float:
        """A step longer than this is not metered time [s]."""
        return hole_limit(self.step_s) if self.metered else 0.0

    @cached_property
    def holes(self) -> list[tuple[float, float]]:
        """Start and end [s] of every stretch that was not metered."""
        return holes_in(self.time_s, self.hole_limit_s, self.steps_s)

    @cached_property
    def running(self) -> tuple[Array, Array]:
        """Running energy [Wh] and running metered time [s] at each sample, holes adding nothing; both (n,)."""
        steps = self.steps_s
        counted_s = np.where(steps > self.hole_limit_s, 0.0, steps) if self.holes else steps
        energy = self.power_w[1:] + self.power_w[:-1]
        energy /= 2.0
        energy *= counted_s
        energy /= HOUR_S
        return running_sum(energy), running_sum(counted_s)

    @property
    def coverage(self) -> float:
        """Metered share of the time from the first to the last sample (0–1)."""
        return 1.0 - self.cleaned.missing_s / (self.end_s - self.start_s)


def hole_limit(step_s: float) -> float:
    """Step that is no longer metered time, by the median step [s]."""
    return max(HOLE_STEPS * step_s, HOLE_FLOOR_S)


def clean_trace(
    time_s: Array, power_w: Array, volts: Array | None, amps: Array | None, duplicates: int = 0, reordered: int = 0
) -> PowerTrace:
    """A trace of clean rows, the time that its holes miss counted; the other counts are of their cleaning."""
    trace = PowerTrace(time_s, power_w, volts, amps, Cleaned(duplicates, reordered))
    missing_s = sum(end - start - trace.step_s for start, end in trace.holes)
    return trace if missing_s == 0 else replace(trace, cleaned=replace(trace.cleaned, missing_s=missing_s))


def holes_in(time_s: Array, limit_s: float, steps_s: Array | None = None) -> list[tuple[float, float]]:
    """Start and end [s] of every step longer than the limit; `steps_s` : the steps, where they are known already."""
    at = np.flatnonzero((np.diff(time_s) if steps_s is None else steps_s) > limit_s)
    return [(float(time_s[i]), float(time_s[i + 1])) for i in at]


def power_trace(time_s: Array, power_w: Array, volts: Array | None = None, amps: Array | None = None) -> PowerTrace:
    """A clean trace from rows as the meter wrote them.

    Rows out of order are sorted, rows that share a time become their mean, and holes are measured; all are counted.
    A hole counts for its length less the one step that would have been there anyway.

    Parameters
    ----------
    time_s : (n,) float array [s]
    power_w : (n,) float array [W]
    volts, amps : (n,) float array [V], [A], or None

    Raises
    ------
    CannotRead
        If fewer than two times remain.
    """
    steps = np.diff(time_s)
    backwards = int(np.count_nonzero(steps < 0))
    reordered = int(np.count_nonzero(time_s < np.maximum.accumulate(time_s))) if backwards else 0
    columns = [power_w, volts, amps]
    if backwards:
        order = np.argsort(time_s, kind="stable")
        time_s = time_s[order]
        columns = [None if c is None else c[order] for c in columns]
    first = np.flatnonzero(np.concatenate(([True], np.diff(time_s) > 0)))
    duplicates = len(time_s) - len(first)
    if duplicates:
        rows = np.diff(np.append(first, len(time_s)))
        time_s = time_s[first]
        columns = [None if c is None else np.add.reduceat(c, first) / rows for c in columns]
    if len(time_s) < 2:
        raise CannotRead("there is only one moment in it", "a log needs at least two rows at different times")
    power_w, volts, amps = columns  # type: ignore[assignment]
    return clean_trace(time_s, power_w, volts, amps, duplicates, reordered)


def unmetered(start_s: float, end_s: float) -> PowerTrace:
    """The time of a run that no meter saw, from its first moment to its last [s].

    Raises
    ------
    CannotRead
        If it has no length.
    """
    if not end_s > start_s:
        raise CannotRead("there is only one moment in it", "log at least one percentage more, some minutes later")
    zero = np.zeros(2)
    span = Cleaned(missing_s=end_s - start_s)
    return PowerTrace(np.array([start_s, end_s]), zero, None, None, span, metered=False)
