"""A spot check: the ramp and the settled watts of one to five minutes, and nothing that needs longer."""

from dataclasses import dataclass

import numpy as np

from .standards import CLASSES_W, REFERENCE_RATIO, REFERENCE_RATIO_U
from .trace import Array

LEAST_S = 45.0
RAMP_SHARE = 0.95
WINDOW_S = 10.0
SETTLED_SHARE = 1.0 / 3.0
STEADY_SHARE = 0.03
"""Settled: within 3 % between the halves of the last third (our own)."""


@dataclass(frozen=True)
class Spot:
    """What a spot check shows: seconds until 95 % of the settled watts, those watts at the meter [W], whether they had
    settled, and the classes that they fit [W]."""

    ramp_s: float | None
    settled_w: float
    steady: bool
    like_w: tuple[float, ...]


def spot(time_s: Array, watts: Array, placed_s: float) -> Spot | None:
    """The ramp and the settled watts; None where less than three quarters of a minute was metered.

    Parameters
    ----------
    time_s, watts : (n,) float array [s], [W]
        In order, at the meter.
    placed_s : float [s]
        When the phone was placed.
    """
    after = (time_s >= placed_s) & np.isfinite(watts)
    times, drawn = time_s[after], watts[after]
    if len(times) < 4 or times[-1] - placed_s < LEAST_S:
        return None
    length = float(times[-1] - placed_s)
    last = times > times[-1] - max(15.0, SETTLED_SHARE * length)
    settled = float(drawn[last].mean())
    half = times[last] > (times[last][0] + times[last][-1]) / 2.0
    change = (
        abs(float(drawn[last][half].mean()) - float(drawn[last][~half].mean())) if half.any() and (~half).any() else 0.0
    )
    ramp = next(
        (
            float(t - placed_s)
            for t in times
            if float(drawn[(times >= t) & (times <= t + WINDOW_S)].mean()) >= RAMP_SHARE * settled
        ),
        None,
    )
    return Spot(ramp, settled, change <= STEADY_SHARE * settled, classes(settled))


def classes(meter_w: float) -> tuple[float, ...]:
    """The classes that so many watts at the meter fit, by the reference ratio at k = 2 [W]; empty where none fits."""
    output = meter_w / REFERENCE_RATIO
    slack = 2.0 * REFERENCE_RATIO_U / REFERENCE_RATIO * output
    return tuple(w for w in CLASSES_W if abs(w - output) <= slack)


def seems(found: Spot) -> str:
    """A spot check in words: `like 15 W`, `like 10 or 12 W`, `fits no class`."""
    if not found.like_w:
        return "fits no class"
    return "like " + " or ".join(f"{w:g}" for w in found.like_w) + " W"


def again_asked(labels: list[str]) -> str:
    """What is still asked of a survey: the first chain again at the end, so that drift shows; empty where it was."""
    if len(labels) < 2 or labels[-1] == labels[0]:
        return ""
    return f"Repeat {labels[0]} at the end: each chain met a warmer, fuller phone than the one before."


def drift(labels: list[str], settled_w: list[float | None]) -> str:
    """What the first chain showed when it was repeated; empty where it was not."""
    if len(labels) < 2 or labels[-1] != labels[0] or settled_w[0] is None or settled_w[-1] is None:
        return ""
    change = settled_w[-1] - settled_w[0]
    share = 100.0 * change / settled_w[0] if settled_w[0] else 0.0
    return (
        f"{labels[0]} again: {change:+.1f} W ({share:+.0f} %) against the first time. Smaller differences say nothing."
    )


MINUTES = (1.0, 5.0)
MINUTES_USUAL = 3.0
