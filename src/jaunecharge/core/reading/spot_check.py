"""A spot check: the ramp and the settled watts of one to five minutes, and nothing that needs longer."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..arrays import Array, median
from ..kit.standards import CLASSES_W, REFERENCE_RATIO, REFERENCE_RATIO_U
from ..log.energy import MeterSpec
from ..log.no_load import same_level_w
from ..measured import Measured, Part, rectangle

LEAST_S = 45.0
"""Time after placing within which watts may still be ramping (our own)."""

RAMP_SHARE = 0.95
WINDOW_S = 10.0
SETTLED_SHARE, SETTLED_LEAST_S = 1.0 / 3.0, 15.0
STEADY_SHARE = 0.03
"""Settled: within 3 % between the halves of the last third (our own)."""

TYPED_S = 1.0
DENSE_S = 5.0
"""Readings further apart than these were read by eye: nothing is known in between (our own)."""

IDLE_W = 1.0
"""A phone that charges draws more than this through any charger (common practice: good ones idle under 0.5 W)."""


@dataclass(frozen=True)
class Spot:
    """Result of a spot check.

    settled : the watts at the meter [W]; steady : whether they had settled, None where one reading alone cannot tell;
    ramp_s : seconds until 95 % of them, between two readings where ramp_from_s says since when; sparse : from single
    readings far apart; like_w : the classes that they fit [W]; charging : whether a phone was charged at all.
    """

    settled: Measured
    steady: bool | None
    ramp_s: float | None
    ramp_from_s: float | None
    sparse: bool
    like_w: tuple[float, ...]
    charging: bool


def spot(
    time_s: Array, watts: Array, placed_s: float, meter: MeterSpec | None = None, no_load_w: float | None = None
) -> Spot | None:
    """The ramp and the settled watts; None where nothing was read three quarters of a minute after placing, or later.

    Parameters
    ----------
    time_s, watts : (n,) float array [s], [W]
        In order, at the meter.
    placed_s : float [s]
        When the phone was placed.
    meter : MeterSpec, optional
        Its accuracy, where that is known.
    no_load_w : float, optional [W]
        What was drawn before: as much again is no charge.
    """
    after = (time_s >= placed_s) & np.isfinite(watts)
    times, drawn = time_s[after], watts[after]
    if not len(times) or times[-1] - placed_s < LEAST_S:
        return None
    sparse = len(times) < 4 or median(np.diff(times)) > DENSE_S
    length = float(times[-1] - placed_s)
    last = times > times[-1] - max(SETTLED_LEAST_S, SETTLED_SHARE * length)
    if sparse:
        # What is typed is no sharper than a second: a reading in the very middle belongs to the second half.
        last = times >= placed_s + max(LEAST_S, length / 2.0 - TYPED_S)
    level = float(drawn[last].mean())
    ramp = _ramp_sparse(times, drawn, placed_s, level) if sparse else (_ramp(times, drawn, placed_s, level), None)
    idle = IDLE_W if no_load_w is None else max(IDLE_W, same_level_w(no_load_w))
    return Spot(
        Measured(level, _parts(drawn[last], level, meter)),
        _steady(times[last], drawn[last], level, sparse),
        *ramp,
        sparse,
        classes(level),
        level > idle,
    )


def _parts(drawn: Array, level: float, meter: MeterSpec | None) -> tuple[Part, ...]:
    parts = []
    if len(drawn) > 1:
        parts.append(Part("scatter of the readings", float(drawn.std(ddof=1)) / len(drawn) ** 0.5))
    if meter is not None and meter.gain_percent is not None:
        # Volts and amps are each off by as much, and independently (JCGM 100:2008, 5.1.6).
        parts.append(Part("meter gain", 2.0**0.5 * rectangle(meter.gain_percent / 100.0) * level))
    return tuple(parts)


def _steady(times: Array, drawn: Array, level: float, sparse: bool) -> bool | None:
    half = times > (times[0] + times[-1]) / 2.0
    if not half.any() or half.all():
        return None if sparse else True
    return abs(float(drawn[half].mean()) - float(drawn[~half].mean())) <= STEADY_SHARE * level


def _ramp(times: Array, drawn: Array, placed_s: float, level: float) -> float | None:
    """Seconds from placing until the mean of ten seconds is 95 % of the level."""
    for t in times:
        if float(drawn[(times >= t) & (times <= t + WINDOW_S)].mean()) >= RAMP_SHARE * level:
            return float(t - placed_s)
    return None


def _ramp_sparse(times: Array, drawn: Array, placed_s: float, level: float) -> tuple[float | None, float | None]:
    """The reading that was the first at the level, and the one before it; both after placing [s]."""
    there = np.flatnonzero(drawn >= RAMP_SHARE * level)
    if not len(there):
        return None, None
    first = int(there[0])
    return float(times[first] - placed_s), float(times[first - 1] - placed_s) if first else 0.0


def classes(meter_w: float) -> tuple[float, ...]:
    """The classes that so many watts at the meter fit, by the reference ratio at k = 2 [W]; empty where none fits."""
    output = meter_w / REFERENCE_RATIO
    slack = 2.0 * REFERENCE_RATIO_U / REFERENCE_RATIO * output
    return tuple(w for w in CLASSES_W if abs(w - output) <= slack)


def spot_seems(check: Spot) -> str:
    """A spot check in words: `like 15 W`, `like 10 or 12 W`, `not charging`, `between 15 and 20 W`."""
    if not check.charging:
        return "not charging"
    if check.like_w:
        return "like " + " or ".join(f"{w:g}" for w in check.like_w) + " W"
    output = check.settled.value / REFERENCE_RATIO
    below = [w for w in CLASSES_W if w < output]
    above = [w for w in CLASSES_W if w > output]
    if below and above:
        return f"between {below[-1]:g} and {above[0]:g} W"
    return f"under {above[0]:g} W" if above else f"over {below[-1]:g} W"


def again_asked(labels: Sequence[str]) -> str:
    """Checks still asked of one phone: the first chain again at the end, so that drift shows; empty
    where it was."""
    if len(labels) < 2 or labels[-1] == labels[0]:
        return ""
    return f"Repeat {labels[0]} at the end: each chain met a warmer, fuller phone than the one before."


def drift_said(labels: Sequence[str], settled_w: Sequence[float]) -> str:
    """Drift of the first chain of one phone when it was repeated; empty where it was not."""
    if len(labels) < 2 or labels[-1] != labels[0]:
        return ""
    change = settled_w[-1] - settled_w[0]
    share = 100.0 * change / settled_w[0] if settled_w[0] else 0.0
    return (
        f"{labels[0]} again: {change:+.1f} W ({share:+.0f} %) against the first time. Smaller differences say nothing."
    )


SPOT_MINUTES = (1.0, 5.0)
SPOT_MINUTES_USUAL = 3.0
MOVED_ABOUT = "moved about for the best"
"""The alignment of a check for which the phone was moved until the watts were highest."""
