"""The reading of a lane before its run is over, by the rules of the finished one: what the fall that it is in comes
from, what counts as no-load, how fast the percentage goes.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..arrays import Array
from ..log.check_ins import CheckIns, make_check_ins
from ..log.pace import Pace, pace, slows
from ..log.temperatures import heat_log
from ..log.trace import power_trace
from ..milestones import at_limit
from ..reading.causes import Dip
from ..reading.evidence import Limits
from ..reading.judgement import Judged, judge
from ..reading.power_levels import best_settled, cool_until, end_of_ramp
from ..wording import duration

LASTS_STEPS = 2
"""A fall that ends within so many steps of the last one lasts until now."""

LEAST_SAMPLES = 12


@dataclass(frozen=True)
class SoFar:
    """A lane as far as it is known by now.

    dip : the fall that lasts, or the cut that has not returned; None where power is as it was, or nobody can tell;
    stops : how often it has stopped for the same cause; low_w [W] : up to where power counts as no-load, None where no
    power was metered; settled_w [W] : its best minute; paces : straight pieces of the percentages.
    """

    dip: Dip | None = None
    stops: int = 0
    low_w: float | None = None
    settled_w: float | None = None
    paces: tuple[Pace, ...] = ()

    @property
    def held_at(self) -> float | None:
        """The charge limit that it is held at [%]; None where it is not."""
        if self.dip is None or self.dip.cause != "hold":
            return None
        return at_limit(self.dip.onset_percent)

    @property
    def by_heat(self) -> bool:
        """Whether it has stopped to cool."""
        return self.dip is not None and self.dip.cause == "heat_cutout"


def so_far(
    time_s: Array,
    watts: Array,
    volts: Array | None,
    placed_s: float,
    no_load_w: float | None,
    percents: Sequence[tuple[float, float]],
    heat_s: Array,
    celsius: Array,
    limits: Limits = "",
) -> SoFar:
    """Read a lane as it stands.

    Parameters
    ----------
    time_s, watts : (n,) float array [s], [W]
        In order, on the lane's clock; n = 0 where nothing is metered.
    volts : (n,) float array [V], or None
    placed_s : float [s]
    no_load_w : float or None [W]
    percents : sequence of (at [s], %)
        Since the placing, in order.
    heat_s, celsius : (k,) float array [s], [°C]
        Of the phone's hottest place.
    limits : Limits
    """
    readings = make_check_ins(*np.array(percents, dtype=float).T) if percents else None
    paces = pace(readings) if readings is not None else ()
    judged, settled_w = _judged(time_s, watts, volts, placed_s, no_load_w, readings, heat_s, celsius, limits)
    if judged is None:
        return SoFar(paces=paces)
    last = judged.grid.edge_s(len(judged.grid) - LASTS_STEPS)
    open_ = [d for d in judged.dips if d.end_s >= last]
    dip = open_[-1] if open_ else None
    alike = [d for d in judged.dips if dip is not None and d.cause == dip.cause]
    return SoFar(dip, len(alike), judged.low_w, settled_w, paces)


def _judged(
    time_s: Array,
    watts: Array,
    volts: Array | None,
    placed_s: float,
    no_load_w: float | None,
    readings: CheckIns | None,
    heat_s: Array,
    celsius: Array,
    limits: Limits,
) -> tuple[Judged | None, float | None]:
    if len(time_s) < LEAST_SAMPLES or placed_s >= time_s[-1]:
        return None, None
    trace = power_trace(time_s, watts, volts, None if volts is None else watts / np.maximum(volts, 1e-3))
    heat = heat_log(["back"] * len(heat_s), heat_s, celsius) if len(heat_s) else None
    ramp_end_s = end_of_ramp(trace, placed_s)
    settled = best_settled(trace, ramp_end_s, cool_until(trace, heat, placed_s))
    judged = judge(trace, placed_s, ramp_end_s, settled, no_load_w, None, readings, None, heat, limits=limits)
    return judged, None if settled is None else settled.watts


def paced_now(known: SoFar) -> str:
    """The pace of a lane without a meter in a few words; empty where there are too few check-ins."""
    if not known.paces:
        return ""
    last = known.paces[-1]
    if last.stands_still:
        return f"{last.end_percent:.0f} % for {duration(last.end_s - last.start_s)}"
    rate = last.points_per_min
    words = f"{max(0.0, rate.value):.2f} points/min"
    if len(known.paces) > 1 and slows(known.paces[-2], last):
        words += f", slowed at {last.start_percent:.0f} %"
    return words


def stop_said(known: SoFar, now_s: float) -> str:
    """The cause that a lane draws nothing, in a few words; empty where only that is known."""
    dip = known.dip
    if dip is None:
        return ""
    lasts = duration(now_s - dip.start_s)
    if known.held_at is not None:
        often = f", stopped {known.stops} times" if known.stops > 1 else f" for {lasts}"
        return f"held at {known.held_at:g} %{often}"
    if known.by_heat:
        return f"{'perhaps ' if dip.likely else ''}stopped by heat, {lasts}"
    return ""


def lower_said(known: SoFar) -> str:
    """The cause that part of the power is gone and has not come back, in a few words; empty where nothing says so."""
    dip = known.dip
    if dip is None or dip.low or not dip.lasting:
        return ""
    if dip.throttle:
        return "perhaps by heat" if dip.likely else "by heat"
    return "the supply gives less" if dip.cause == "supply" else ""
