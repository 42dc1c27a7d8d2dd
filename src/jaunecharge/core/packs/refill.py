"""Filling a pack, keeping it, and passing power through it: time, energy, round trip, loss while nobody uses it."""

from dataclasses import dataclass

import numpy as np

from ..arrays import median, running_sum
from ..errors import CannotRead
from ..log.energy import Energy, MeterSpec, energy_between
from ..log.trace import PowerTrace
from ..measured import Measured, Part, rectangle
from ..units import DAY_S, MINUTE_S
from .charges import Bounds
from .levels import PackLevel, points_between
from .rating import LAST_DIGIT_WH, check_delivered

FULL_SHARE, FULL_LASTS_S = 0.06, 5 * MINUTE_S
"""A pack is full where it takes no more than this share of its best power, for five minutes (own choice)."""

LEAST_W = 0.3
LEAST_BEST_S = 60.0


@dataclass(frozen=True)
class Recharge:
    """A recharge, read: from and to [s]; taken [Wh]; best_w : its best minute [W]; at_v : volts then, None where not
    logged; full : whether it was seen full; whole : whether it went from empty to full."""

    start_s: float
    end_s: float
    taken_wh: Measured | None
    best_w: float | None
    at_v: float | None
    full: bool
    whole: bool = False

    @property
    def seconds(self) -> float:
        return self.end_s - self.start_s


EMPTY = 2.0
"""A pack that shows 2 % and less is empty (own choice); with lamps, one that shows none."""


def recharge_by_eye(
    minutes: float | None,
    wh: float | None,
    watts: float | None,
    volts: float | None,
    full: bool,
    before: PackLevel | None,
    meter: MeterSpec = MeterSpec(),
) -> Recharge:
    """A recharge off a display and a clock.

    Raises
    ------
    CannotRead
        If nothing of it was read, or a figure cannot be.
    """  # fmt: skip
    if minutes is None and wh is None:
        raise CannotRead("nothing was read", "write the minutes, the Wh, or both", file="recharge")
    for name, value, most in (("minutes", minutes, 60.0 * 24 * 7), ("W", watts, 400.0), ("V", volts, 60.0)):
        if value is not None and not 0 < value <= most:
            raise CannotRead(f"{value:g} {name} is no recharge", f"write 0 to {most:g}", file="recharge")
    taken = None
    if wh is not None:
        taken = Measured(check_delivered(wh), display_parts(wh, meter))
    seconds = 0.0 if minutes is None else minutes * MINUTE_S
    return Recharge(0.0, seconds, taken, watts, volts, full, full and from_empty(before))


def from_empty(before: PackLevel | None) -> bool:
    """Whether a level is that of an empty pack; an unknown one is not."""
    return before is not None and before.high <= EMPTY


def read_recharge(trace: PowerTrace, meter: MeterSpec = MeterSpec(), before: PackLevel | None = None) -> Recharge:
    """Read a recharge from the log of a meter before the pack. before : its level as it began, where it was read.

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
    at_v = None if trace.volts is None else median(trace.volts[near])
    return Recharge(start_s, end_s, taken, best_w, at_v, full, full and from_empty(before))


def _whole(energy: Energy) -> Measured:
    return energy.metered if energy.complete else energy.bridged


def _best_minute(trace: PowerTrace) -> tuple[float, float]:
    """Best mean of a minute [W], and its middle [s]; of a coarse log its best sample."""
    count = max(1, round(LEAST_BEST_S / trace.step_s))
    if len(trace.power_w) <= count:
        return float(trace.power_w.mean()), float(trace.time_s.mean())
    total = running_sum(trace.power_w)
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


def passed_by_eye(
    in_wh: float | None, out_wh: float | None, minutes: float | None, meter: MeterSpec = MeterSpec()
) -> PassThrough:
    """Power through a pack off two displays.

    Raises
    ------
    CannotRead
        If one of both is missing, or more came out than went in.
    """
    if in_wh is None or out_wh is None:
        raise CannotRead("one of both energies is missing", "write the Wh in and the Wh out", file="pass-through")
    into, out = (Measured(check_delivered(wh), display_parts(wh, meter)) for wh in (in_wh, out_wh))
    if out.value > into.value:
        raise CannotRead(
            f"{out_wh:g} Wh out of {in_wh:g} Wh in: the pack gave of its own", "fill it first, then pass power through",
            file="pass-through",
        )  # fmt: skip
    return PassThrough(into, out, out.over(into), into.value - out.value, (minutes or 0.0) * MINUTE_S)


def display_parts(wh: float, meter: MeterSpec) -> tuple[Part, ...]:
    """Uncertainty of an energy off a display [Wh]: the meter's gain and the last digit."""
    if meter.gain_percent is None:
        return ()
    gain = rectangle(meter.gain_percent / 100.0) * wh
    return (
        Part("meter gain, volts", gain),
        Part("meter gain, amps", gain),
        Part("last digit of the display", rectangle(LAST_DIGIT_WH)),
    )


@dataclass(frozen=True)
class StandbyLoss:
    """Points that a pack loses a day by itself: between bounds that it cannot leave, and with the 95 % interval."""

    bounds: Bounds
    measured: Measured
    days: float


def lost_a_day(first: PackLevel, last: PackLevel, seconds: float) -> StandbyLoss:
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
    bounds = Bounds(
        max(0.0, first.low - last.high) / days, (first.middle - last.middle) / days, (first.high - last.low) / days
    )
    return StandbyLoss(bounds, points_between(first, last).scaled(1.0 / days), days)
