"""Watch rules of the bench: what is odd about a lane just now, and what to do about it.

Each rule looks at what was seen and gives an alarm or none. Which are new and which are over, `changes` says; a rule
that is on needs a little more to go off again than it took to come on, so that nothing flickers.
"""

from collections.abc import Sequence

import numpy as np

from ..arrays import percentile
from ..kit.standards import TRANSFER_WATTS
from ..log.check_ins import DEAD_PERCENT
from ..log.no_load import same_level_w
from ..milestones import at_limit
from ..reading.cause_restart import RESTART_S, restart_below_w
from ..reading.dips import LEAST_LOW_S
from ..reading.phases import TAPER_FROM_PERCENT, WAKE_WITHIN_S
from ..safety import STOP_C, WARN_C
from ..units import MINUTE_S
from .seen import Alarm, Key, Rule, Seen, minutes
from .setup_steps import LOW_VOLTS_SHARE
from .silence import PROBE_SILENT_S, meter_silent, phone_silent, probe_silent, room_silent, socket_silent

BACK_K = 1.0
STEEP_K_MIN, STEEP_OVER_S, STEEP_FROM_C = 1.5, 3 * MINUTE_S, 33.0
"""A phone that warms faster than this, for this long, once it is warm, is odd (our own)."""

SETTLING_S = MINUTE_S
LOW_SHARE = 0.75
"""Under this share of what the chain should draw it behaves like the class below (our own; 15 W and 7.5 W: 0.5)."""

JUDGED_WITHIN_S = 12 * MINUTE_S
RESTARTS, RESTARTS_WITHIN_S = 3, 15 * MINUTE_S
STUCK_W = 2.5
"""A percentage that stands still while so much is drawn is odd (our own): gauges step about a minute."""

PROBE_FALL_K, PROBE_FALL_S = 4.0, 90.0


def watch(seen: Seen, on: frozenset[str] = frozenset()) -> list[Alarm]:
    """The alarms of a lane at this moment.

    Parameters
    ----------
    seen : Seen
    on : frozenset of str
        Keys of the alarms that are on: these take a little more to go off again.
    """
    return [alarm for key, rule in RULES.items() if (alarm := rule(seen, key in on)) is not None]


def changes(on: frozenset[str], now: Sequence[Alarm]) -> tuple[list[Alarm], list[str]]:
    """The alarms that are new, and the keys of those that are over."""
    keys = {a.key for a in now}
    return [a for a in now if a.key not in on], sorted(on - keys)


def _mean(seen: Seen, over_s: float, until_s: float | None = None) -> float | None:
    """Mean watts of the last seconds; None where nothing was metered in them."""
    end = seen.now_s if until_s is None else until_s
    inside = (seen.time_s > end - over_s) & (seen.time_s <= end)
    return float(seen.watts[inside].mean()) if inside.any() else None


def _charging(seen: Seen) -> bool:
    return seen.placed_s is not None and not seen.off


def lower_class(class_w: float) -> float:
    """The class below one [W]: what a chain falls back to that does not reach its own."""
    return max((w for w in {*TRANSFER_WATTS.values(), 10.0} if w < class_w - 0.1), default=class_w / 2)


def _low_class(seen: Seen, on: bool) -> Alarm | None:
    if not _charging(seen) or seen.expected_w is None or seen.placed_s is None:
        return None
    since = seen.now_s - seen.placed_s
    if since < (WAKE_WITHIN_S if seen.start_percent <= DEAD_PERCENT else SETTLING_S):
        return None
    # Later on heat, stages and the taper bring it down as well: the class is judged in the first minutes.
    percent = seen.percents[-1][1] if seen.percents else 0.0
    if percent >= TAPER_FROM_PERCENT or (not on and since > JUDGED_WITHIN_S):
        return None
    inside = (seen.time_s > seen.now_s - MINUTE_S) & (seen.time_s <= seen.now_s)
    drawn = percentile(seen.watts[inside], 80) if inside.any() else None
    if drawn is None or drawn > seen.expected_w * (LOW_SHARE + (0.05 if on else 0.0)) or _at_no_load(seen, drawn):
        return None
    like = f", like {lower_class(seen.class_w):g} W" if seen.class_w and seen.class_w > 5.1 else ""
    return Alarm(
        "low class", "warn",
        f"{drawn:.1f} W where {seen.expected_w:.1f} W was expected{like}",
        "Reseat the phone; flip the cable if the meter needs it; check that the adapter has the profile.",
    )  # fmt: skip


def _low_w(seen: Seen) -> float:
    """Up to how many watts it is at no-load [W], as the reading says; before it can, as the meter shows it."""
    if seen.known.low_w is not None:
        return seen.known.low_w
    return same_level_w(seen.no_load_w if seen.no_load_w is not None else 0.5)


def _at_no_load(seen: Seen, watts: float) -> bool:
    return watts <= _low_w(seen)


def _no_power_since(seen: Seen) -> float | None:
    """Since when the lane is at no-load level [s]; None where it is not."""
    if not len(seen.time_s) or seen.placed_s is None:
        return None
    above = np.flatnonzero(seen.watts > _low_w(seen))
    if len(above) and above[-1] == len(seen.time_s) - 1:
        return None
    first = float(seen.time_s[above[-1] + 1]) if len(above) else float(seen.time_s[0])
    return max(first, seen.placed_s)


def _no_power(seen: Seen, on: bool) -> Alarm | None:
    since = _no_power_since(seen) if _charging(seen) else None
    if since is None:
        return None
    last = float(seen.time_s[-1])
    lasts = last - since
    percent = seen.percents[-1][1] if seen.percents else None
    if lasts < LEAST_LOW_S or percent == 100.0 or seen.known.held_at is not None or seen.known.by_heat:
        return None
    if at_limit(percent) is not None:
        return Alarm(
            "no power", "warn", f"no power, and {percent:g} %",
            "A charge limit may still be on: look into its settings. Or it slipped: seat it until the watts rise.",
        )  # fmt: skip
    return Alarm(
        "no power", "warn", f"no power since {minutes(lasts)}" if lasts >= MINUTE_S else "no power",
        "Slipped? Seat the phone until the watts rise; the break is kept in the run.",
    )  # fmt: skip


def _held(seen: Seen, on: bool) -> Alarm | None:
    limit = seen.known.held_at
    if limit is None or _no_power_since(seen) is None or not _charging(seen):
        return None
    often = f", stopped {seen.known.stops} times" if seen.known.stops > 1 else ""
    return Alarm(
        "held", "warn", f"held at {limit:g} %{often}",
        "A charge limit is on: turn it off in the phone's settings, or end the lane here.",
    )  # fmt: skip


def _cooling(seen: Seen, on: bool) -> Alarm | None:
    dip = seen.known.dip
    if dip is None or not seen.known.by_heat or _no_power_since(seen) is None or not _charging(seen):
        return None
    at = "" if dip.onset_c is None else f" at {dip.onset_c:.1f} °C"
    return Alarm(
        "cooling", "note", f"{'perhaps ' if dip.likely else ''}stopped by heat{at}",
        "Wait: it starts again by itself once it has cooled. The break is kept in the run.",
    )  # fmt: skip


def _restarts(seen: Seen, on: bool) -> Alarm | None:
    if not _charging(seen) or len(seen.time_s) < 3 or seen.placed_s is None:
        return None
    recent = (seen.time_s > seen.now_s - RESTARTS_WITHIN_S) & (seen.time_s > seen.placed_s + 30.0)
    time_s, watts = seen.time_s[recent], seen.watts[recent]
    if len(watts) < 3:
        return None
    level = percentile(watts, 75)
    below = restart_below_w(level, _low_w(seen), seen.known.settled_w or 0.0)
    if level < 2 * below:
        return None
    low = watts <= below
    falls = np.flatnonzero(low[1:] & ~low[:-1]) + 1
    short = 0
    for start in falls:
        up = np.flatnonzero(~low[start:])
        if len(up) and time_s[start + up[0]] - time_s[start] <= RESTART_S:
            short += 1
    if short < RESTARTS - (1 if on else 0):
        return None
    return Alarm(
        "restarts", "warn", f"the power fell and came back {short} times in {RESTARTS_WITHIN_S / MINUTE_S:.0f} min",
        "Try another cable or adapter port; look for something metal between the coils; note what helps.",
    )  # fmt: skip


def _stuck(seen: Seen, on: bool) -> Alarm | None:
    if not _charging(seen) or not seen.known.paces or seen.percents[-1][1] >= 100:
        return None
    last = seen.known.paces[-1]
    drawn = _mean(seen, 5 * MINUTE_S)
    if not last.stands_still or (drawn is not None and drawn < STUCK_W):
        return None
    return Alarm(
        "stuck", "warn",
        f"{seen.percents[-1][1]:g} % for {minutes(last.end_s - last.start_s)}"
        + (f" while {drawn:.1f} W are drawn" if drawn else ""),
        "Wake the phone's screen and look again; see whether a charge limit is on. If it stays so, note it.",
    )  # fmt: skip


def hottest_c(seen: Seen) -> float | None:
    """The last temperature of the hottest place, if it is not old [°C]."""
    recent = seen.heat_s > seen.now_s - PROBE_SILENT_S
    return float(seen.celsius[recent][-1]) if recent.any() else None


def hot_c(seen: Seen, on: bool) -> float | None:
    """The temperature to warn of, below that to stop at [°C]; None where there is nothing to warn of."""
    celsius = hottest_c(seen)
    return celsius if celsius is not None and WARN_C - (BACK_K if on else 0.0) <= celsius < STOP_C else None


def stop_c(seen: Seen, on: bool) -> float | None:
    """The temperature to stop at [°C]; None where it is not reached."""
    celsius = hottest_c(seen)
    return celsius if celsius is not None and celsius >= STOP_C - (BACK_K if on else 0.0) else None


def _hot(seen: Seen, on: bool) -> Alarm | None:
    if (celsius := hot_c(seen, on)) is None:
        return None
    return Alarm(
        "hot", "warn", f"{celsius:.1f} °C at the phone",
        f"From {WARN_C:g} °C a battery is not charged at full rate. Stay by it; take it off at {STOP_C:g} °C.",
    )  # fmt: skip


def _stop(seen: Seen, on: bool) -> Alarm | None:
    if (celsius := stop_c(seen, on)) is None:
        return None
    return Alarm(
        "stop", "stop", f"{celsius:.1f} °C at the phone",
        "Take the phone off; let it cool on something that does not burn. Swelling, smell, smoke, hiss: keep away.",
    )  # fmt: skip


def _steep(seen: Seen, on: bool) -> Alarm | None:
    recent = (seen.heat_s > seen.now_s - STEEP_OVER_S - 30.0) & (seen.heat_s <= seen.now_s)
    times, celsius = seen.heat_s[recent], seen.celsius[recent]
    if len(times) < 3 or times[-1] - times[0] < 0.6 * STEEP_OVER_S or celsius[-1] < STEEP_FROM_C:
        return None
    slope = float(np.polyfit(times - times[0], celsius, 1)[0]) * MINUTE_S
    if slope < STEEP_K_MIN * (0.7 if on else 1.0):
        return None
    return Alarm(
        "steep", "warn", f"{celsius[-1]:.1f} °C, and {slope:.1f} °C more each minute",
        "Look for metal between the coils and feel the pad; take the phone off if it goes on.",
    )  # fmt: skip


def _probe_off(seen: Seen, on: bool) -> Alarm | None:
    recent = (seen.heat_s > seen.now_s - PROBE_FALL_S) & (seen.heat_s <= seen.now_s)
    celsius = seen.celsius[recent]
    drawn = _mean(seen, 30.0)
    if not _charging(seen) or (drawn is not None and _at_no_load(seen, drawn)):
        return None
    before = seen.celsius[(seen.heat_s > seen.now_s - 20 * MINUTE_S) & ~recent & (seen.heat_s <= seen.now_s)]
    if on and len(celsius) and len(before):
        return _off_alarm(celsius[-1]) if celsius[-1] < float(before.max()) - PROBE_FALL_K / 2 else None
    if len(celsius) < 2 or float(celsius.max()) - float(celsius[-1]) < PROBE_FALL_K:
        return None
    return _off_alarm(celsius[-1])


def _off_alarm(celsius: float) -> Alarm:
    return Alarm(
        "probe off", "warn", f"the temperature fell to {celsius:.1f} °C while power flows",
        "The probe has come off, or the fan went on: fix it and note it.",
    )  # fmt: skip


def _full(seen: Seen, on: bool) -> Alarm | None:
    if seen.placed_s is None or not seen.percents or seen.ends_at is None:
        return None
    at, percent = seen.percents[-1]
    if percent < seen.ends_at:
        return None
    if seen.soak:
        do = "Leave it on for the draw after full, as the method says; end the lane after that."
    elif seen.ends_at < 100:
        do = "The method ends here: take the phone off and end the lane."
    else:
        do = "End the lane, or leave it on to see what it draws after full."
    return Alarm("full", "note", f"{percent:g} % at {minutes(at - seen.placed_s)}", do)


def _low_volts(seen: Seen, on: bool) -> Alarm | None:
    if seen.volts is None or seen.expected_v is None or seen.volts < 3.0:
        return None
    if seen.placed_s is not None and seen.now_s - seen.placed_s > 3 * MINUTE_S and not on:
        return None
    if seen.volts > LOW_VOLTS_SHARE * seen.expected_v:
        return None
    return Alarm(
        "low volts", "warn", f"{seen.volts:.1f} V where {seen.expected_v:g} V was expected",
        "The adapter did not give the profile: replug it, flip the cable if the meter needs it, try another adapter.",
    )  # fmt: skip


RULES: dict[Key, Rule] = {
    "stop": _stop, "hot": _hot, "steep": _steep, "no power": _no_power, "held": _held, "cooling": _cooling,
    "low volts": _low_volts, "low class": _low_class, "restarts": _restarts, "stuck": _stuck,
    "meter silent": meter_silent, "probe silent": probe_silent, "phone silent": phone_silent,
    "socket silent": socket_silent, "room silent": room_silent, "probe off": _probe_off, "full": _full,
}  # fmt: skip
