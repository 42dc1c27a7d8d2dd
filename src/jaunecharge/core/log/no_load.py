"""No-load: what a charger draws with no phone on it, told only from a steady, low level."""

from dataclasses import dataclass

import numpy as np

from ..arrays import Array, median

SAME_LEVEL_W, SAME_LEVEL_SHARE = 0.3, 0.08
MOST_NO_LOAD_W = 3.5
"""No charger draws more with nothing on it (own choice: dual pads keep up to 3 W, common practice)."""

LEAST_LEVEL_S, LEAST_SAMPLES = 10.0, 2
DENSE_S = 10.0
"""Samples further apart than this are a coarse log: two of them at one level are all that can be asked for."""

BIN_S, LEAST_BINNED = 5.0, 3
LEAST_JUMP_W, JUMP_SHARE, JUMP_WITHIN_S, DRIFTS = 0.4, 0.15, 30.0, 4.0
"""A clear rise within half a minute: so many watts, or such a share of the level, and so many times what the level had
drifted by itself (first values of our own, checked on simulated runs)."""


def same_level_w(base_w: float) -> float:
    """Up to how many watts power counts as at a level [W]: within the larger of 0.3 W and 8 % (common practice)."""
    return base_w + max(SAME_LEVEL_W, SAME_LEVEL_SHARE * base_w)


@dataclass(frozen=True)
class Idle:
    """A steady low level [W], over the samples from `first` up to `end`, and how fast it drifts [W/s]."""

    watts: float
    first: int
    end: int
    drift: float = 0.0


def idle_level(time_s: Array, power_w: Array) -> Idle | None:
    """The lowest steady level of a stretch, if it is one that a charger may draw with nothing on it.

    Parameters
    ----------
    time_s, power_w : (n,) float array [s], [W]
        In order, the supply on throughout.

    Returns
    -------
    Idle or None
        None where nothing stays level for ten seconds (in a coarse log: for two samples), or only above 3.5 W.
    """
    if len(time_s) < LEAST_SAMPLES:
        return None
    step = median(np.diff(time_s))
    # One low sample of a noisy meter is no level.
    width = min(len(power_w), max(LEAST_BINNED if step <= DENSE_S else 1, round(BIN_S / max(1e-6, step))))
    middles = _running_median(power_w, width)
    base_w = float(middles.min())
    if base_w > MOST_NO_LOAD_W:
        return None
    level = middles <= same_level_w(base_w)
    at = int(np.argmin(middles))
    first, end = at, at + 1
    while first > 0 and level[first - 1]:
        first -= 1
    while end < len(level) and level[end]:
        end += 1
    end = min(len(power_w), end + width - 1)
    held = power_w[first:end]
    while end > first + 1 and power_w[end - 1] > same_level_w(base_w):
        end -= 1
    held = power_w[first:end]
    lasts = float(time_s[end - 1] - time_s[first])
    if len(held) < LEAST_SAMPLES or (step <= DENSE_S and lasts < LEAST_LEVEL_S - 0.5 * step):
        return None
    near = held[held <= same_level_w(base_w)]
    return Idle(float(near.mean()), first, end, _drift(time_s[first:end], held))


def idle_now(time_s: Array, power_w: Array) -> float | None:
    """No-load draw of a charger just now [W]; None where it does not stand at a low level as it ends.

    Parameters
    ----------
    time_s, power_w : (n,) float array [s], [W]
        The last minute or so, in order.
    """
    idle = idle_level(time_s, power_w)
    return idle.watts if idle is not None and idle.end == len(power_w) else None


def clear_rise(idle: Idle, time_s: Array, power_w: Array, at: int) -> bool:
    """Whether power leaves a steady level at a sample so fast that the level itself does not explain it."""
    soon = (time_s >= time_s[at]) & (time_s <= time_s[at] + JUMP_WITHIN_S)
    soon[at : at + 2] = True
    jump = float(power_w[soon].max()) - idle.watts
    needed = max(LEAST_JUMP_W, JUMP_SHARE * idle.watts)
    return jump >= needed + DRIFTS * max(0.0, idle.drift) * JUMP_WITHIN_S


def _drift(time_s: Array, power_w: Array) -> float:
    """Slope of a level [W/s], from the medians of its halves."""
    half = len(power_w) // 2
    if half < 2:
        return 0.0
    apart = float(time_s[half:].mean() - time_s[:half].mean())
    return (median(power_w[half:]) - median(power_w[:half])) / max(1e-6, apart)


def _running_median(values: Array, width: int) -> Array:
    """Median of each window of so many values; a mean where there are too many to sort : (n − width + 1,)."""
    windows = np.lib.stride_tricks.sliding_window_view(values, width)
    return np.asarray(np.median(windows, axis=1) if len(windows) * width < 5_000_000 else windows.mean(axis=1))
