"""Cautions before a run is quoted."""

import numpy as np

from ..arrays import median, percentile
from ..factors import SAME_AMBIENT_K
from ..log.check_ins import doubts, falls
from ..log.placement import GIVEN, RISE, charging_from
from ..log.temperatures import is_phone
from ..milestones import at_limit
from ..noise import ROOM_SPREAD
from ..reading.dips import LEAST_BY_HAND
from ..reading.read_run import Reading
from ..safety import STOP_C, TOUCH_C, WARN_C
from ..units import MINUTE_S
from ..wording import counted, duration, moment, share, temperature, temperature_rise, threshold

MOST_EFFICIENCY = 0.9
"""More than any chain passes from meter to battery; 55 to 65 % is usual without a wire (common practice)."""
CELL_V = (3.0, 4.6)
"""Volts between which a meter seems to sit at the battery: no adapter gives so little (USB: 4.75 V at least)."""
COARSE_S = 60.0

SIMULATED = "Simulated: no phone was charged. It is a forecast, not a measurement."


def warnings(reading: Reading, fahrenheit: bool = False, repeats: int = 0) -> list[str]:
    """Cautions before quoting this run; `repeats` : how many runs like it there are besides."""
    return [
        *([SIMULATED] if reading.conditions.simulated else []),
        *_about_sharing(reading),
        *_about_log(reading),
        *_about_start(reading),
        *_about_checkins(reading),
        *_about_battery(reading),
        *_about_method(reading),
        *_about_room(reading, fahrenheit),
        *_about_meter_side(reading),
        *_about_overrulings(reading),
        *([] if reading.conditions.simulated else _about_repeats(repeats)),
        *_about_safety(reading, fahrenheit),
    ]


def _about_sharing(reading: Reading) -> list[str]:
    shared = reading.conditions.shared_with
    if not shared:
        return []
    return [
        f"The meter fed {shared} as well: its watts are of both together, and neither phone is credited with them."
        " Put a meter before each, or run them one after the other, to know what this one takes."
    ]


def _about_log(reading: Reading) -> list[str]:
    trace, cleaned = reading.log.trace, reading.log.trace.cleaned
    lines = []
    if not trace.metered:
        return [
            "No watts were logged: times, pace and temperatures only. A meter would add power, energy, efficiency and"
            " what a drop comes from."
        ]
    if reading.conditions.meter.gain_percent is None:
        lines.append("The meter's accuracy is not known and is not part of any ±.")
    if trace.sparse:
        lines.append(
            f"Watts were read every {duration(trace.step_s)}: no phase or best minute can be told from that, a drop"
            f" only where {LEAST_BY_HAND} readings in a row show it, to the nearest reading, and the energy is as"
            " uncertain as what happened in between."
        )
    elif trace.step_s > COARSE_S:
        lines.append(
            f"The meter was read every {duration(trace.step_s)}: drops shorter than twice that cannot be seen, and"
            " longer ones are only that exact."
        )
    if trace.holes:
        lines.append(
            f"{duration(cleaned.missing_s)} of the log are missing, in {counted(len(trace.holes), 'hole')}:"
            " energy over the whole run is a bridged estimate."
        )
    if cleaned.duplicates:
        lines.append(f"{counted(cleaned.duplicates, 'row')} shared a time with another and were averaged.")
    if cleaned.reordered:
        lines.append(f"{counted(cleaned.reordered, 'row')} out of order: sorted by time.")
    if trace.volts is None:
        lines.append("Only watts were logged: meter resolution and voltage sag cannot be checked.")
    return lines


def _about_start(reading: Reading) -> list[str]:
    trace, how = reading.log.trace, reading.placement.how
    lines = []
    if trace.metered and how not in (GIVEN, RISE):
        lines.append(f"The placing is taken from the {how}.")
    before_s = reading.placed_s - charging_from(trace, reading.placement)
    if before_s > MINUTE_S:
        lines.append(f"It was charging when the log began, {duration(before_s)} before that: it was placed earlier.")
    late_s = trace.start_s - reading.placed_s
    if trace.metered and late_s > MINUTE_S:
        lines.append(
            f"The meter's log begins {duration(late_s)} after the placing: what was drawn before that is not known."
        )
    return lines


def _about_checkins(reading: Reading) -> list[str]:
    readings, placed_s = reading.log.readings, reading.placed_s
    if readings is None or not len(readings):
        return ["No percentages were logged: nothing can be said about the battery."]
    lines = [
        f"{doubt.percent:g} % at {moment(doubt.time_s - placed_s)} does not fit its neighbours, which suggest about"
        f" {doubt.expected:.0f} %: was it read right?"
        for doubt in doubts(readings)
    ]
    lines += [
        f"The percentage fell from {high:g} to {low:g} % at {moment(at - placed_s)}: was the phone moved or in use?"
        for at, high, low in falls(readings, stood_still(reading))
    ]
    if reading.log.trace.metered and readings.time_s[-1] > reading.log.trace.end_s + MINUTE_S:
        lines.append("Percentages go on after the meter's log ends.")
    return lines


def stood_still(reading: Reading) -> tuple[tuple[float, float], ...]:
    """Stretches [s] in which the charge stood still by itself, at a charge limit or full: a percentage may fall by a
    point there with nobody touching the phone."""
    judged = reading.judged
    if judged is None:
        return ()
    stops = [
        (d.start_s, d.end_s + MINUTE_S)
        for d in judged.dips
        if d.low and (d.cause == "hold" or at_limit(d.onset_percent) is not None)
    ]
    full = [] if judged.full_s is None else [(judged.full_s, reading.log.trace.end_s)]
    return (*stops, *full)


def _about_battery(reading: Reading) -> list[str]:
    battery = reading.conditions.battery
    if battery is None:
        return ["Battery capacity and voltage are not stated: no energy into the battery, no efficiency."]
    if reading.efficiency is not None and reading.efficiency.value > MOST_EFFICIENCY:
        return [
            f"{share(reading.efficiency.value)} of the energy in cannot have reached the battery: check its mAh and V,"
            " the percentages, which columns are volts and amps, and that the meter sits before the charger."
        ]
    if battery.health is None:
        return ["The battery's health is not known: its capacity may be 10 % below the rated to 3 % above."]
    return []


def _about_safety(reading: Reading, fahrenheit: bool) -> list[str]:
    """The limits of a phone's battery are held against the phone alone; what a hand may touch, against the rest."""
    phone = reading.phone_heat
    lines: list[str] = []
    hottest = 0.0 if phone is None or not (is_phone(phone.position) or len(reading.heat) == 1) else phone.max_c
    if hottest >= STOP_C:
        lines.append(
            f"The phone reached {temperature(hottest, fahrenheit)}: stop and separate phone and charger at"
            f" {threshold(STOP_C, fahrenheit)}."
        )
    elif hottest >= WARN_C:
        lines.append(
            f"The phone reached {temperature(hottest, fahrenheit)}: charging guidance ends full-rate charging at"
            f" {threshold(WARN_C, fahrenheit)} (JEITA)."
        )
    others = [h for h in reading.heat if h is not phone and not is_phone(h.position)]
    touched = max(others, key=lambda h: h.max_c, default=None)
    if touched is not None and touched.max_c >= TOUCH_C:
        lines.append(
            f"{touched.position} reached {temperature(touched.max_c, fahrenheit)}: held surfaces may have"
            f" {threshold(TOUCH_C, fahrenheit)} (IEC 62368-1)."
        )
    return lines


def _about_method(reading: Reading) -> list[str]:
    wanted, readings = reading.conditions.method_start, reading.log.readings
    if wanted is None or readings is None or not len(readings):
        return []
    low, high = wanted
    start = float(readings.percent[0])
    if low <= start <= high:
        return []
    return [
        f"It starts at {start:g} %, outside its method ({low:g} to {high:g} %): compare it over a window that both"
        " share, not from its start."
    ]


def _about_room(reading: Reading, fahrenheit: bool) -> list[str]:
    room = reading.log.heat.ambient if reading.log.heat else None
    if room is None or len(room.celsius) < 2:
        return []
    drift = percentile(room.celsius, 98) - percentile(room.celsius, 2)
    if drift <= SAME_AMBIENT_K:
        return []
    return [
        f"The room drifted by {temperature_rise(drift, fahrenheit)} during the run: its rise over ambient is blurred."
    ]


def _about_meter_side(reading: Reading) -> list[str]:
    trace, settled = reading.log.trace, reading.best_settled
    if trace.volts is None or settled is None:
        return []
    first, end = (
        np.searchsorted(trace.time_s, settled.start_s, "left"),
        np.searchsorted(trace.time_s, settled.end_s, "right"),
    )
    volts = median(trace.volts[first:end]) if end > first else 5.0
    if not CELL_V[0] <= volts <= CELL_V[1]:
        return []
    return [
        f"The meter shows {volts:.2f} V under load, a battery's voltage and no adapter's: it seems to sit on the"
        " phone's side. The figures here take it for the charger's input."
    ]


def _about_overrulings(reading: Reading) -> list[str]:
    judged = reading.judged
    if judged is None:
        return []
    lines = [d.overruled for d in (*judged.dips, *judged.dismissed)] + [p.overruled for p in judged.phases]
    number = sum(bool(x) for x in lines)
    return [f"{counted(number, 'change')} made by hand: each shows what was read."] if number else []


def _about_repeats(repeats: int) -> list[str]:
    if repeats:
        return []
    return [f"One run only: its run-to-run spread is assumed, {share(ROOM_SPREAD)} in a room. A repeat would show it."]
