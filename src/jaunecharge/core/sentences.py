"""What a run says, in plain sentences, strongest first; and what to be careful about."""

from dataclasses import dataclass

from .battery import doubts, falls
from .placement import RISE
from .reading import Reading
from .units import MINUTE_S
from .words import counted, duration, plus_minus, share, temperature, temperature_rise, threshold

NOTABLE_AFTER_FULL_W = 1.0
MOST_EFFICIENCY = 0.9
"""More than any chain passes from meter to battery; 55 to 65 % is usual without a wire (common practice)."""
WARM_WARNING_C, STOP_C = 45.0, 50.0


@dataclass(frozen=True)
class Sentence:
    """One thing the run says: plain and strong words in turn, its basis, and its stretch of the log [s]."""

    key: str
    words: tuple[tuple[str, bool], ...]
    basis: str
    start_s: float
    end_s: float

    @property
    def plain(self) -> str:
        return "".join(text for text, _ in self.words)


def _say(key: str, text: str, basis: str, start_s: float, end_s: float) -> Sentence:
    """A sentence from text whose strong words stand between asterisks."""
    words = tuple((part, bool(i % 2)) for i, part in enumerate(text.split("*")) if part)
    return Sentence(key, words, basis, start_s, end_s)


def sentences(reading: Reading, fahrenheit: bool = False) -> list[Sentence]:
    """What this run says, strongest first; temperatures in °F if asked for."""
    said = [*_to_eighty(reading), *_to_full(reading)]
    standby = _standby(reading)
    power = [*_power(reading), *_energy(reading), *_heat(reading, fahrenheit)]
    notable = reading.after_full is not None and reading.after_full.watts >= NOTABLE_AFTER_FULL_W
    return [*said, *standby, *power] if notable else [*said, *power, *standby]


def _interval(reading: Reading) -> str:
    minutes = reading.conditions.interval_min
    return f", read every {minutes:g} min" if minutes else ""


def _to_eighty(reading: Reading) -> list[Sentence]:
    readings, placed_s = reading.log.readings, reading.placed_s
    if readings is None or not len(readings):
        return []
    first, last = f"{readings.percent[0]:g}", f"{readings.percent[-1]:g}"
    m = reading.milestone(80)
    if m is None:
        span = duration(readings.time_s[-1] - readings.time_s[0])
        return [
            _say(
                "level",
                f"From {first} to *{last} %* in *{span}*",
                "80 % is not among the check-ins' crossings",
                float(readings.time_s[0]),
                float(readings.time_s[-1]),
            )
        ]
    return [
        _say(
            "to_80",
            f"80 % after *{duration(m.estimate_s - placed_s)}*",
            f"from {first} %; between {duration(m.earliest_s - placed_s)} and {duration(m.latest_s - placed_s)}"
            f"{_interval(reading)}",
            placed_s,
            m.latest_s,
        )
    ]


def _to_full(reading: Reading) -> list[Sentence]:
    m, eighty = reading.milestone(100), reading.milestone(80)
    if m is None:
        return []
    last_fifth = f"; the last fifth took {duration(m.latest_s - eighty.estimate_s)}" if eighty else ""
    return [
        _say(
            "to_100",
            f"100 % seen at *{duration(m.latest_s - reading.placed_s)}*",
            f"after {duration(m.earliest_s - reading.placed_s)}{last_fifth}",
            eighty.estimate_s if eighty else m.earliest_s,
            m.latest_s,
        )
    ]


def _power(reading: Reading) -> list[Sentence]:
    settled, sustained = reading.best_settled, reading.sustained
    if settled is None:
        return []
    text = f"Draws *{settled.watts:.1f} W* in its best minute"
    if sustained is not None:
        text += f", *{sustained.watts:.1f} W* sustained to 60 %"
    stretch = sustained or settled
    return [
        _say(
            "power",
            text,
            f"at the meter; peak {reading.peak_w:.1f} W; settled after"
            f" {duration(reading.ramp_end_s - reading.placed_s)}",
            stretch.start_s,
            stretch.end_s,
        )
    ]


def _who(reading: Reading) -> str:
    shared = reading.conditions.shared_with
    return f"Together with {shared} it took in" if shared else "Took in"


def _energy(reading: Reading) -> list[Sentence]:
    energy, trace = reading.energy_in, reading.log.trace
    if not trace.metered:
        return []
    taken = energy.metered if energy.complete else energy.bridged
    how = "" if energy.complete else f"; {share(trace.coverage, 1)} of it metered, the holes bridged"
    if reading.efficiency is None or reading.account is None or reading.account_battery is None:
        return [
            _say(
                "energy",
                f"{_who(reading)} *{plus_minus(taken, 'Wh')}*",
                f"whole log{how}",
                trace.start_s,
                trace.end_s,
            )
        ]
    account = reading.account
    watts = reading.account_battery.value * 3600.0 / (account.end_s - account.start_s)
    reached = f", *{reading.energy_battery.value:.1f} Wh* reached the battery" if reading.energy_battery else ""
    return [
        _say(
            "efficiency",
            f"Of {taken.value:.1f} Wh in{reached}: *{plus_minus(reading.efficiency, '%', 100.0)}*",
            f"battery account from {account.from_percent:g} to {account.to_percent:g} %:"
            f" {watts:.1f} W on average at the battery{how}",
            account.start_s,
            account.end_s,
        )
    ]


def _heat(reading: Reading, fahrenheit: bool) -> list[Sentence]:
    heat = reading.phone_heat
    if heat is None:
        return []
    rise = "" if heat.rise_k is None else f", {temperature_rise(heat.rise_k, fahrenheit)} over the room"
    over = [
        f"{minutes:.0f} min at or above {threshold(c, fahrenheit)}"
        for c, minutes in heat.minutes_over.items()
        if minutes >= 0.5
    ]
    return [
        _say(
            "heat",
            f"Hottest *{temperature(heat.max_c, fahrenheit)}*{rise}",
            f"{heat.position}; {', '.join(over) if over else 'never at ' + threshold(40.0, fahrenheit)}",
            heat.max_at_s - 5 * MINUTE_S,
            heat.max_at_s + 5 * MINUTE_S,
        )
    ]


def _standby(reading: Reading) -> list[Sentence]:
    said = []
    if reading.after_full is not None:
        beside = f"; {reading.no_load.watts:.1f} W with no phone placed" if reading.no_load else ""
        stretch = reading.after_full
        said.append(
            _say(
                "after_full",
                f"Keeps drawing *{stretch.watts:.1f} W* after full",
                f"mean over {duration(stretch.end_s - stretch.start_s)}{beside}",
                stretch.start_s,
                stretch.end_s,
            )
        )
    elif reading.no_load is not None:
        stretch = reading.no_load
        said.append(
            _say(
                "no_load",
                f"Draws *{stretch.watts:.1f} W* with no phone placed",
                f"mean over {duration(stretch.end_s - stretch.start_s)} before placing",
                stretch.start_s,
                stretch.end_s,
            )
        )
    return said


def headline(reading: Reading, fahrenheit: bool = False) -> str:
    """What the run reads as, in five words or so."""
    if reading.after_full is not None and reading.after_full.watts >= NOTABLE_AFTER_FULL_W:
        return f"draws *{reading.after_full.watts:.1f} W* when full"
    readings = reading.log.readings
    if readings is not None and len(readings) and reading.milestone(80) is None and readings.percent[-1] < 80:
        return f"ends at *{readings.percent[-1]:g} %*"
    if reading.log.trace.coverage < 0.995:
        return f"*{share(1 - reading.log.trace.coverage)}* of the log missing"
    if reading.efficiency is not None:
        return f"*{share(reading.efficiency.value)}* reaches the battery"
    if reading.best_settled is not None:
        return f"settles at *{reading.best_settled.watts:.1f} W*"
    return "read, no figures yet"


SIMULATED = "Simulated: no phone was charged. It is a forecast, not a measurement."


def warnings(reading: Reading, fahrenheit: bool = False) -> list[str]:
    """What to be careful about before quoting this run."""
    return [
        *([SIMULATED] if reading.conditions.simulated else []),
        *_about_sharing(reading),
        *_about_log(reading),
        *_about_checkins(reading),
        *_about_battery(reading),
        *_about_safety(reading, fahrenheit),
    ]


def _about_sharing(reading: Reading) -> list[str]:
    shared = reading.conditions.shared_with
    if not shared:
        return []
    return [
        f"The meter fed {shared} as well: its watts are of both together, and none of them is credited to this phone."
        " Put a meter before each, or run them one after the other, to know what this one takes."
    ]


def _about_log(reading: Reading) -> list[str]:
    trace, cleaned = reading.log.trace, reading.log.trace.cleaned
    said = []
    if not trace.metered:
        return ["No watts were logged: times, percentages and temperatures only, nothing about power or energy."]
    if trace.holes:
        said.append(
            f"{duration(cleaned.missing_s)} of the log are missing, in {counted(len(trace.holes), 'hole')}:"
            " energy over the whole run is a bridged estimate."
        )
    if cleaned.duplicates:
        said.append(f"{counted(cleaned.duplicates, 'row')} shared a time with another and went into a mean.")
    if cleaned.reordered:
        said.append(f"{counted(cleaned.reordered, 'row')} out of order: sorted by time.")
    if reading.placement.how not in ("as given", RISE):
        said.append(f"Placing is taken from the {reading.placement.how}.")
    if trace.volts is None:
        said.append("Watts alone: the meter's counts cannot be taken into account, nor a fall of the volts be seen.")
    return said


def _about_checkins(reading: Reading) -> list[str]:
    readings, placed_s = reading.log.readings, reading.placed_s
    if readings is None or not len(readings):
        return ["No check-ins: nothing can be said about the battery."]
    said = [
        f"{doubt.percent:g} % at {duration(doubt.time_s - placed_s)} does not fit its neighbours, which expect about"
        f" {doubt.expected:.0f} %: was it read right?"
        for doubt in doubts(readings)
    ]
    said += [
        f"The percentage fell from {high:g} to {low:g} % at {duration(at - placed_s)}: was the phone moved or in use?"
        for at, high, low in falls(readings)
    ]
    if readings.time_s[-1] > reading.log.trace.end_s + MINUTE_S:
        said.append("Check-ins go on after the meter's log ends.")
    return said


def _about_battery(reading: Reading) -> list[str]:
    battery = reading.conditions.battery
    if battery is None:
        return ["Battery capacity and voltage are not stated: no energy into the battery, no efficiency."]
    if reading.efficiency is not None and reading.efficiency.value > MOST_EFFICIENCY:
        return [
            f"{share(reading.efficiency.value)} of the energy in cannot have reached the battery: check its mAh and V,"
            " the percentages, and which columns are volts and amps."
        ]
    if battery.health is None:
        return ["The battery's health is not known: its capacity may lie 10 % below the rated to 3 % above."]
    return []


def _about_safety(reading: Reading, fahrenheit: bool) -> list[str]:
    hottest = max((h.max_c for h in reading.heat), default=0.0)
    if hottest >= STOP_C:
        return [
            f"{temperature(hottest, fahrenheit)} was reached: stop and separate phone and charger at"
            f" {threshold(STOP_C, fahrenheit)}."
        ]
    if hottest >= WARM_WARNING_C:
        return [
            f"{temperature(hottest, fahrenheit)} was reached: charging guidance ends full-rate charging at"
            f" {threshold(WARM_WARNING_C, fahrenheit)} (JEITA)."
        ]
    return []
