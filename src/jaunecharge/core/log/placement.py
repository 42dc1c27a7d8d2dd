"""The moment the phone goes on the charger: t = 0 of a run."""

from dataclasses import dataclass

import numpy as np

from ..arrays import Array, percentile
from ..errors import CannotRead
from ..wording import duration
from .check_ins import DEAD_PERCENT, CheckIns
from .clock import LONGEST_BEFORE_S, SLACK_S
from .no_load import JUMP_SHARE, LEAST_JUMP_W, MOST_NO_LOAD_W, clear_rise, idle_level
from .trace import PowerTrace

LASTING_S = 10.0
UNPOWERED_V = 3.0
UNPOWERED_W = 0.01
CHARGING_SHARE, CHARGED_SHARE = 0.5, 0.2
"""First values of our own, checked on simulated runs."""

WAKE_FROM_W, LEAST_WAKE_S = 1.5, 90.0
"""A dead phone may stand at some watts for minutes before it charges (common practice: 2 to 7 W for 4 to 6 min): as the
first level of a log that cannot be told from a high no-load."""

LIMITED_FROM_W, FAR_LESS, AGAIN, AGAIN_SHARE, LEAST_AGAIN_S = 1.0, 0.5, 2, 0.15, 60.0
"""A level of a watt and more that comes again twice for a minute, with half of it or less elsewhere (own choice)."""

GUARD_S = 5.0
GAINED_POINTS = 2.0
"""Points that show a phone to be charging: one may be the gauge's own rounding."""

RISE = "first rise above no-load that lasts 10 s"
GIVEN = "as given"
FIRST_CHECK_IN = "first check-in, as the log shows no rise from no-load"


@dataclass(frozen=True)
class Stretch:
    """Mean power [W] from `start_s` to `end_s` [s]."""

    watts: float
    start_s: float
    end_s: float


@dataclass(frozen=True)
class Placement:
    """When the phone was placed [s], how that is known, and what was drawn without it (None where not logged)."""

    at_s: float
    how: str
    no_load: Stretch | None = None


def find_placement(
    trace: PowerTrace, given_s: float | None, readings: CheckIns | None = None, start_percent: float | None = None
) -> Placement:
    """Placement: as given; else the first rise above no-load that lasts 10 s; else the first check-in.

    A rise counts only above a steady, low level; where the percentage has risen before it, the phone lay there already.
    A placing that is given may lie before the log begins.

    Parameters
    ----------
    trace : PowerTrace
    given_s : float or None [s], on the log's clock
    readings : CheckIns or None
        On the log's clock too.
    start_percent : float or None [%]
        Where the run begins, if that is known although the check-ins' clock is not; else taken from `readings`.

    Raises
    ------
    CannotRead
        If the given moment lies after the log, or more than a day before it.
    """
    if given_s is not None:
        if not trace.start_s - LONGEST_BEFORE_S <= given_s < trace.end_s:
            raise CannotRead(
                f"the phone is said to be placed at {given_s:g} s, but the log runs from {trace.start_s:g} to"
                f" {trace.end_s:g} s",
                "count the placing on the log's clock, or leave it out",
                file="placed_s",
            )
        return Placement(given_s, GIVEN, _before(trace, given_s, readings))
    rise = _rise(*_powered(trace.time_s, trace.power_w, trace.volts))
    if start_percent is None and readings is not None and len(readings):
        start_percent = float(readings.percent[0])
    doubted = rise is not None and (
        _charged_before(readings, rise.at_s) or _perhaps_waking(rise, start_percent) or _comes_again(trace, rise)
    )
    if rise is not None and not doubted:
        return rise
    # A first check-in after the log has ended says nothing of it.
    if readings is not None and len(readings) and readings.time_s[0] < trace.end_s:
        return Placement(float(readings.time_s[0]), FIRST_CHECK_IN)
    return Placement(trace.start_s, "start of the log, as it shows no rise from no-load")


def charging_from(trace: PowerTrace, placement: Placement) -> float:
    """From when on the log shows a charge [s]: the placing, or its first row where power flowed before that.

    Where nothing shows the placing, the first check-in stands for it, and the charge may have begun long before.
    """
    if placement.how != FIRST_CHECK_IN or placement.at_s <= trace.start_s or not trace.metered:
        return placement.at_s
    before = trace.power_w[trace.time_s < placement.at_s]
    usual = percentile(trace.power_w, 95)
    charging = len(before) > 1 and float(np.mean(before >= CHARGING_SHARE * usual)) >= CHARGED_SHARE
    return trace.start_s if charging else placement.at_s


def placed_said(placement: Placement, start_s: float, on_bench: bool = False) -> str:
    """When the phone was placed and how that is known: `placed 60 s after the meter's log begins, seen by the rise`.

    Parameters
    ----------
    placement : Placement
    start_s : float [s]
        Of the meter's log.
    on_bench : bool
        Whether it was logged on a lane: its clock counts from where that was opened.
    """
    zero, since = ("the lane was opened", 0.0) if on_bench else ("the meter's log begins", start_s)
    away = placement.at_s - since
    given = "as logged" if on_bench else "as typed"
    how = {GIVEN: given, RISE: "seen by the rise of the power"}.get(placement.how, f"taken from the {placement.how}")
    if abs(away) < 1.0:
        return f"placed as {zero}, {how}"
    return f"placed {duration(abs(away))} {'after' if away > 0 else 'before'} {zero}, {how}"


def latest_rise(trace: PowerTrace) -> float | None:
    """When a phone was placed last, as the meter saw it [s]; None where it did not.

    What came before the low level that it rose from does not count: a phone may have lain there and been taken off.
    """
    low = trace.power_w <= MOST_NO_LOAD_W
    edges = np.flatnonzero(np.diff(np.concatenate(([False], low))).astype(bool) & low)
    for begin in edges[::-1].tolist():
        volts = None if trace.volts is None else trace.volts[begin:]
        rise = _rise(*_powered(trace.time_s[begin:], trace.power_w[begin:], volts))
        if rise is not None:
            return rise.at_s
    return None


def _charged_before(readings: CheckIns | None, at_s: float) -> bool:
    """Whether the percentage had risen by some points before a moment."""
    if readings is None:
        return False
    before = readings.percent[readings.time_s < at_s - SLACK_S]
    return len(before) > 1 and float(before.max() - before[0]) >= GAINED_POINTS


def _perhaps_waking(rise: Placement, start_percent: float | None) -> bool:
    """Whether the low level before a rise may be a dead phone that wakes, and not a charger alone."""
    idle = rise.no_load
    dead = start_percent is not None and start_percent <= DEAD_PERCENT
    return dead and idle is not None and idle.watts >= WAKE_FROM_W and idle.end_s - idle.start_s >= LEAST_WAKE_S


def _comes_again(trace: PowerTrace, rise: Placement) -> bool:
    """Whether the low level before a rise is one that the charge goes down to again and again, while the charger alone
    draws far less: then the log began while the phone was limited."""
    idle = rise.no_load
    if idle is None or idle.watts < LIMITED_FROM_W or trace.sparse:
        return False
    after = trace.time_s >= rise.at_s
    time_s, power_w = trace.time_s[after], trace.power_w[after]
    on = power_w > UNPOWERED_W if trace.volts is None else trace.volts[after] > UNPOWERED_V
    less = float(np.sum(np.diff(time_s)[(on & (power_w < FAR_LESS * idle.watts))[:-1]]))
    near = np.abs(power_w - idle.watts) <= AGAIN_SHARE * idle.watts
    edges = np.flatnonzero(np.diff(np.concatenate(([False], near, [False])).astype(np.int8)))
    lasting = [time_s[b - 1] - time_s[a] >= LEAST_AGAIN_S for a, b in zip(edges[::2], edges[1::2], strict=True)]
    return less >= LEAST_AGAIN_S and sum(lasting) >= AGAIN


def _rise(time_s: Array, power_w: Array) -> Placement | None:
    """The first rise of a log above its lowest steady level, if that is low and the rise is clear and lasts."""
    if len(time_s) < 3:
        return None
    charging_w = CHARGING_SHARE * percentile(power_w, 95)
    before = _before_charging(time_s, power_w, charging_w)
    if before < 1:
        return None
    idle = idle_level(time_s[: before + 1], power_w[: before + 1])
    if idle is None or idle.watts > charging_w:
        return None
    above = power_w > idle.watts + max(LEAST_JUMP_W, JUMP_SHARE * idle.watts)
    for start in np.flatnonzero(above[idle.first + 1 :] & ~above[idle.first : -1]) + idle.first + 1:
        lasts = max(LASTING_S, time_s[start] - time_s[start - 1])
        # The next sample counts in any case: of a coarse log none may fall into those seconds.
        end = max(int(np.searchsorted(time_s, time_s[start] + lasts, "right")), int(start) + 2)
        if end <= len(time_s) and above[start:end].all() and clear_rise(idle, time_s, power_w, int(start)):
            coarse = time_s[start] - time_s[start - 1] > LASTING_S
            at_s = float((time_s[start] + time_s[start - 1]) / 2.0 if coarse else time_s[start])
            end_s = float(time_s[min(idle.end, int(start)) - 1])
            return Placement(at_s, RISE, Stretch(idle.watts, float(time_s[idle.first]), end_s))
    return None


def _before(trace: PowerTrace, given_s: float, readings: CheckIns | None) -> Stretch | None:
    """No-load before a placing that is given; None where nothing steady and low was.

    Where the same goes on after it and the phone gains points, it lay there already.
    """
    before = trace.time_s < given_s - GUARD_S
    volts = trace.volts[before] if trace.volts is not None else None
    time_s, power_w = _powered(trace.time_s[before], trace.power_w[before], volts)
    idle = idle_level(time_s, power_w)
    if idle is None:
        return None
    after = trace.power_w[trace.time_s >= given_s]
    rises = len(after) > 0 and percentile(after, 95) > idle.watts + max(LEAST_JUMP_W, idle.watts)
    gained = readings is not None and len(readings) and float(readings.percent.max() - readings.percent[0])
    if not rises and gained and gained >= GAINED_POINTS:
        return None
    return Stretch(idle.watts, float(time_s[idle.first]), float(time_s[idle.end - 1]))


def _powered(time_s: Array, power_w: Array, volts: Array | None) -> tuple[Array, Array]:
    """The log from the first moment that its supply is on."""
    on = volts > UNPOWERED_V if volts is not None else power_w > UNPOWERED_W
    first = int(np.argmax(on)) if on.any() else len(time_s)
    return time_s[first:], power_w[first:]


def _before_charging(time_s: Array, power_w: Array, charging_w: float) -> int:
    """Index of the first sample that begins a lasting stretch at half the usual charging power or more."""
    high = power_w >= charging_w
    for start in np.flatnonzero(high & ~np.concatenate(([False], high[:-1]))):
        end = int(np.searchsorted(time_s, time_s[start] + LASTING_S, "right"))
        if high[start:end].all():
            return int(start)
    return len(time_s) - 1
