"""The power of a run on an even grid: robust against single wild readings, with its holes marked."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..arrays import Array, Mask, median, running_sum
from ..log.trace import PowerTrace

GRID_S, BY_HAND_S = 5.0, 15.0
MOST_STEPS = 12_000
SMOOTH_S = 50.0
WILD_STEP_S = 20.0
"""Above this step between samples a single one may be all that is known of a dip, and is kept as it is."""


@dataclass(frozen=True)
class Series:
    """Even steps of a run, from the first sample to the last.

    step_s [s]; start_s [s]; watts : (n,) mean power of each step [W], where not metered a straight line across;
    seen : (n,) whether the step was metered; volts, amps : (n,) [V], [A], or None.
    """

    step_s: float
    start_s: float
    watts: Array
    seen: Mask
    volts: Array | None
    amps: Array | None
    by_hand_s: Array | None = None
    """When watts were read, where that was now and then: a step then holds the nearest reading [s] : (k,)."""

    def __len__(self) -> int:
        return len(self.watts)

    @cached_property
    def time_s(self) -> Array:
        """Middle of each step [s] : (n,)."""
        return np.asarray(self.start_s + self.step_s * (np.arange(len(self.watts)) + 0.5), dtype=np.float64)

    def index(self, at_s: float) -> int:
        """The step that a moment lies in."""
        return int(np.clip((at_s - self.start_s) // self.step_s, 0, len(self.watts) - 1))

    def edge_s(self, index: int) -> float:
        """When a step begins [s]."""
        return self.start_s + self.step_s * index

    def steps(self, seconds: float) -> int:
        """Number of steps in so many seconds, one at least."""
        return max(1, round(seconds / self.step_s))

    @cached_property
    def unsure_s(self) -> float:
        """By how much the moment of a change may be off [s]: half the usual time between watts read by hand, else 0."""
        return 0.0 if self.by_hand_s is None else median(np.diff(self.by_hand_s)) / 2.0

    def shown(self, first: int, end: int) -> int:
        """Number of readings that a stretch rests on: its steps, or the watts that were read by hand in it."""
        if self.by_hand_s is None:
            return end - first
        at = self.by_hand_s
        return int(np.count_nonzero((at >= self.edge_s(first)) & (at < self.edge_s(end))))

    @cached_property
    def smooth(self) -> Array:
        """Mean over 50 s around each step [W] : (n,)."""
        return running_mean(self.watts, self.steps(SMOOTH_S))

    @cached_property
    def noise_w(self) -> float:
        """Noise of one step about its neighbours [W], from the median of differences over one step and over a minute.

        The second sees slow wander, which the first does not.
        """
        near = np.abs(np.diff(self.watts)[self.seen[1:] & self.seen[:-1]])
        wide = self.steps(60.0)
        far = np.abs(self.watts[wide:] - self.watts[:-wide]) if len(self.watts) > 2 * wide else near
        return max(_of_differences(near), _of_differences(far))


def _of_differences(differences: Array) -> float:
    """Standard deviation of normal noise whose differences have this median size."""
    return 1.4826 * median(differences) / np.sqrt(2.0) if len(differences) else 0.0


def running_mean(values: Array, width: int) -> Array:
    """Mean over `width` steps around each, over fewer at the ends : (n,)."""
    width = min(width, len(values))
    if width <= 1:
        return np.asarray(values, dtype=np.float64)
    total = running_sum(values)
    first = np.clip(np.arange(len(values)) - width // 2, 0, len(values))
    last = np.clip(first + width, 0, len(values))
    first = np.maximum(last - width, 0)
    return np.asarray((total[last] - total[first]) / (last - first), dtype=np.float64)


def tame(values: Array) -> Array:
    """Each value replaced by the median of itself and its neighbours: a single wild reading goes."""
    if len(values) < 3:
        return values
    before, here, after = values[:-2], values[1:-1], values[2:]
    tamed = np.empty_like(values)
    tamed[0], tamed[-1] = values[0], values[-1]
    middle = tamed[1:-1]
    np.minimum(np.maximum(before, here, out=middle), after, out=middle)
    np.maximum(np.minimum(before, here), middle, out=middle)
    return tamed


def _by_hand(trace: PowerTrace, step_s: float) -> Series:
    """A run of watts that were read now and then: each step holds the nearest, since nobody saw what lay between."""
    count = max(2, round((trace.end_s - trace.start_s) / step_s))
    step_s = (trace.end_s - trace.start_s) / count
    middles = trace.start_s + step_s * (np.arange(count) + 0.5)
    nearest = np.searchsorted((trace.time_s[1:] + trace.time_s[:-1]) / 2.0, middles)
    seen = np.ones(count, dtype=bool)
    for begin, end in trace.holes:
        seen &= ~((middles > begin + trace.step_s / 2.0) & (middles < end - trace.step_s / 2.0))
    volts, amps = (None if c is None else c[nearest] for c in (trace.volts, trace.amps))
    return Series(step_s, trace.start_s, trace.power_w[nearest], seen, volts, amps, trace.time_s)


def series(trace: PowerTrace, step_s: float | None = None) -> Series:
    """A run on an even grid of five seconds, or of its own step where that is longer.

    A run of more steps than can be worked through at once gets longer ones; `step_s` [s] asks for others.
    """
    length = trace.end_s - trace.start_s
    if trace.sparse:
        return _by_hand(trace, max(BY_HAND_S, length / MOST_STEPS))
    wide = max(step_s or GRID_S, trace.step_s, length / MOST_STEPS)
    # A step or two more than needed would leave a thin one at the end.
    count = max(2, round(length / wide))
    wide = length / count
    dense = trace.step_s <= WILD_STEP_S
    after = trace.time_s - trace.start_s
    after /= wide
    place = after.astype(np.int64)
    # Times rise, and so do their places; those of the last moment lie a step too far.
    place[np.searchsorted(place, count) :] = count - 1
    filled = np.diff(np.searchsorted(place, np.arange(count + 1)))
    middles = trace.start_s + wide * (np.arange(count) + 0.5)

    def column(values: Array | None, wild: bool) -> Array | None:
        if values is None:
            return None
        clean = tame(values) if wild else values
        total = np.bincount(place, weights=clean, minlength=count)
        mean = total / np.maximum(filled, 1)
        empty = filled == 0
        if empty.any():
            mean[empty] = np.interp(middles[empty], trace.time_s, values)
        return mean

    watts = column(trace.power_w, dense)
    assert watts is not None
    seen = np.ones(count, dtype=bool)
    for begin, end in trace.holes:
        seen &= ~((middles > begin) & (middles < end)) | (filled > 0)
    return Series(wide, trace.start_s, watts, seen, column(trace.volts, False), column(trace.amps, False))
