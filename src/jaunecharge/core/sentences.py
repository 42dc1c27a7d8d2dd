"""What a run says, in plain sentences, strongest first."""

from .energy import metered_idle
from .judged_words import five_words, forecast_words, judged_words, output_words, stage_words
from .reading import Reading
from .sentence import Sentence, say
from .standby import REGULATION, Habits, Standby, standby
from .units import MINUTE_S
from .words import duration, plus_minus, share, temperature, temperature_rise, threshold

NOTABLE_AFTER_FULL_W = 1.0


def sentences(reading: Reading, fahrenheit: bool = False, habits: Habits = Habits()) -> list[Sentence]:
    """What this run says, strongest first; temperatures in °F if asked for."""
    if reading.judged is not None and reading.judged.outcome:
        return [*judged_words(reading, fahrenheit), *_heat(reading, fahrenheit)]
    rest = _standby(reading, habits)
    notable = reading.after_full is not None and reading.after_full.watts >= NOTABLE_AFTER_FULL_W
    return [
        *_to_eighty(reading),
        *judged_words(reading, fahrenheit),
        *output_words(reading),
        *(rest if notable else []),
        *_to_full(reading),
        *stage_words(reading, fahrenheit),
        *_power(reading),
        *_energy(reading),
        *_heat(reading, fahrenheit),
        *forecast_words(reading, fahrenheit),
        *([] if notable else rest),
    ]


def standby_of(reading: Reading, habits: Habits = Habits()) -> Standby | None:
    """What the charger of a run takes while it charges nothing."""
    trace, meter = reading.log.trace, reading.conditions.meter
    full = None if reading.after_full is None else metered_idle(reading.after_full.watts, trace, meter)
    idle = None if reading.no_load is None else metered_idle(reading.no_load.watts, trace, meter)
    return standby(full, idle, habits)


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
            say(
                "level",
                f"From {first} to *{last} %* in *{span}*",
                "80 % is not among the check-ins' crossings",
                float(readings.time_s[0]),
                float(readings.time_s[-1]),
            )
        ]
    return [
        say(
            "to_80",
            f"80 % after *{duration(m.estimate_s - placed_s)}*",
            f"from {first} %; between {duration(m.earliest_s - placed_s)} and {duration(m.latest_s - placed_s)}"
            f"{_interval(reading)}",
            placed_s,
            m.latest_s,
            "to_80",
        )
    ]


def _to_full(reading: Reading) -> list[Sentence]:
    m, eighty = reading.milestone(100), reading.milestone(80)
    if m is None:
        return []
    last_fifth = f"; the last fifth took {duration(m.latest_s - eighty.estimate_s)}" if eighty else ""
    return [
        say(
            "to_100",
            f"100 % seen at *{duration(m.latest_s - reading.placed_s)}*",
            f"after {duration(m.earliest_s - reading.placed_s)}{last_fifth}",
            eighty.estimate_s if eighty else m.earliest_s,
            m.latest_s,
            "to_100",
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
        say(
            "power",
            text,
            f"at the meter; peak {reading.peak_w:.1f} W; settled after"
            f" {duration(reading.ramp_end_s - reading.placed_s)}",
            stretch.start_s,
            stretch.end_s,
            "sustained" if sustained is not None else "best_settled",
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
            say(
                "energy",
                f"{_who(reading)} *{plus_minus(taken, 'Wh')}*",
                f"whole log{how}",
                trace.start_s,
                trace.end_s,
                "energy_in" if energy.complete else "energy_bridged",
            )
        ]
    account = reading.account
    watts = reading.account_battery.value * 3600.0 / (account.end_s - account.start_s)
    reached = f", *{reading.energy_battery.value:.1f} Wh* reached the battery" if reading.energy_battery else ""
    return [
        say(
            "efficiency",
            f"Of {taken.value:.1f} Wh in{reached}: *{plus_minus(reading.efficiency, '%', 100.0)}*",
            f"battery account from {account.from_percent:g} to {account.to_percent:g} %:"
            f" {watts:.1f} W on average at the battery{how}",
            account.start_s,
            account.end_s,
            "efficiency",
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
        say(
            "heat",
            f"Hottest *{temperature(heat.max_c, fahrenheit)}*{rise}",
            f"{heat.position}; {', '.join(over) if over else 'never at ' + threshold(40.0, fahrenheit)}",
            heat.max_at_s - 5 * MINUTE_S,
            heat.max_at_s + 5 * MINUTE_S,
            f"hottest_{heat.position}",
        )
    ]


def _standby(reading: Reading, habits: Habits) -> list[Sentence]:
    found = standby_of(reading, habits)
    if found is None:
        return []
    stretch = reading.after_full or reading.no_load
    assert stretch is not None
    after = reading.after_full is not None
    text = (
        f"Keeps drawing *{stretch.watts:.1f} W* after full" if after else f"Draws *{stretch.watts:.1f} W* with no phone"
    )
    if found.night_wh is not None:
        text += f", *{found.night_wh.value:.0f} Wh* a night"
    basis = [f"mean over {duration(stretch.end_s - stretch.start_s)}" + ("" if after else " before placing")]
    if after and reading.no_load is not None:
        basis.append(f"{reading.no_load.watts:.1f} W with no phone placed")
    if found.year_kwh is not None and found.year_cost is not None:
        basis.append(
            f"{found.year_kwh.value:.1f} kWh and {found.year_cost.value:.2f} {habits.currency} a year at"
            f" {habits.tariff:g} {habits.currency}/kWh"
        )
    if found.above:
        limit = found.above[0]
        basis.append(f"more than the {limit.watts:.2f} W that {REGULATION} allows an adapter alone")
    return [
        say(
            "after_full" if after else "no_load",
            text,
            "; ".join(basis),
            stretch.start_s,
            stretch.end_s,
            "after_full" if after else "no_load",
        )
    ]


def headline(reading: Reading, fahrenheit: bool = False) -> str:
    """What the run reads as, in five words or so."""
    judged = five_words(reading, fahrenheit)
    if judged:
        return judged
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
