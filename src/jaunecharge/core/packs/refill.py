"""Filling a pack, keeping it, and passing power through it: time, energy, round trip, loss while nobody uses it."""

from dataclasses import dataclass

import numpy as np

from ..errors import CannotRead
from ..log.energy import Energy, MeterSpec, energy_between
from ..log.trace import PowerTrace
from ..measured import Measured
from ..units import DAY_S, MINUTE_S
from .charges import Bounds
from .levels import PackLevel

FULL_SHARE, FULL_LASTS_S = 0.06, 5 * MINUTE_S
"""A pack is full where it takes no more than this share of its best power, for five minutes (own choice)."""

LEAST_W = 0.3
LEAST_BEST_S = 60.0


@dataclass(frozen=True)
class Recharge:
    """A recharge, read: from and to [s]; taken [Wh]; best_w : its best minute [W]; at_v : volts then, None where not
    logged; full : whether the log shows that it was full."""

    start_s: float
    end_s: float
    taken_wh: Measured
    best_w: float
    at_v: float | None
    full: bool

    @property
    def seconds(self) -> float:
        return self.end_s - self.start_s


def read_recharge(trace: PowerTrace, meter: MeterSpec = MeterSpec()) -> Recharge:
    """Read a recharge from the log of a meter before the pack.

    Raises
    ------
    CannotRead
        If nothing was taken.
    """
    best_w, at = _best_minute(trace)
    if best_w < LEAST_W:
        raise CannotRead("the pack took nothing", "log the cord that it is charged by", file="recharge log")
    taking = trace.power_w > max(LEAST_W, FULL_SHARE * best_w)
    first = int(np.argmax(taking))
    last = int(np.flatnonzero(taking)[-1])
    start_s = float(trace.time_s[max(0, first - 1)])
    full = float(trace.end_s - trace.time_s[last]) >= FULL_LASTS_S
    end_s = float(trace.time_s[min(last + 1, len(trace.time_s) - 1)])
    energy = energy_between(trace, start_s, end_s, meter)
    taken = _whole(energy)
    near = np.abs(trace.time_s - at) <= LEAST_BEST_S / 2.0
    at_v = None if trace.volts is None else float(np.median(trace.volts[near]))
    return Recharge(start_s, end_s, taken, best_w, at_v, full)


def _whole(energy: Energy) -> Measured:
    return energy.metered if energy.complete else energy.bridged


def _best_minute(trace: PowerTrace) -> tuple[float, float]:
    """Best mean of a minute [W], and its middle [s]; of a coarse log its best sample."""
    count = max(1, round(LEAST_BEST_S / trace.step_s))
    if len(trace.power_w) <= count:
        return float(trace.power_w.mean()), float(trace.time_s.mean())
    total = np.concatenate(([0.0], np.cumsum(trace.power_w)))
    means = (total[count:] - total[:-count]) / count
    i = int(np.argmax(means))
    return float(means[i]), float(trace.time_s[min(i + count // 2, len(trace.time_s) - 1)])


def round_trip(delivered: Measured, taken: Measured) -> Measured:
    """Share of what was filled in that came out again (0–1)."""
    return delivered.over(taken)


@dataclass(frozen=True)
class PassThrough:
    """Power through a pack that is charged meanwhile: [Wh] in and out over the time that both meters saw, and the share
    that came out; kept [Wh] : what it took for itself, and lost."""

    in_wh: Measured
    out_wh: Measured
    share: Measured
    kept_wh: float
    seconds: float


def pass_through(before: PowerTrace, behind: PowerTrace, meter: MeterSpec = MeterSpec()) -> PassThrough:
    """Power in and out of a pack, both on one clock.

    Raises
    ------
    CannotRead
        If the two logs have no time in common, or nothing went in or out.
    """
    start_s, end_s = max(before.start_s, behind.start_s), min(before.end_s, behind.end_s)
    if end_s - start_s < MINUTE_S:
        raise CannotRead(
            "the two logs have no minute in common", "log both meters at once, on one clock", file="pass-through"
        )
    into, out = (_whole(energy_between(t, start_s, end_s, meter)) for t in (before, behind))
    if into.value <= 0 or out.value <= 0:
        raise CannotRead("nothing went through it", "log the cord in and the output", file="pass-through")
    return PassThrough(into, out, out.over(into), into.value - out.value, end_s - start_s)


def lost_a_day(first: PackLevel, last: PackLevel, seconds: float) -> Bounds:
    """Points that a pack loses a day by itself, from two readings of its level.

    Raises
    ------
    CannotRead
        If less than a day lies between, or the level rose.
    """
    if seconds < DAY_S:
        raise CannotRead("less than a day lies between the readings", "read it again after some days", file="standby")
    if last.low > first.high:
        raise CannotRead(
            f"the level rose from {first.said} to {last.said}", "a pack that was charged meanwhile says nothing",
            file="standby",
        )  # fmt: skip
    days = seconds / DAY_S
    return Bounds(
        max(0.0, first.low - last.high) / days, (first.middle - last.middle) / days, (first.high - last.low) / days
    )
