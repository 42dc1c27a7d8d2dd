"""Sentences of a run, strongest first."""

import numpy as np

from ..arrays import median
from ..log.check_ins import Milestone
from ..log.energy import metered_idle
from ..log.phone_reports import not_charging, not_charging_said, phone_watts_said
from ..log.placement import Stretch
from ..reading.read_run import Reading
from ..reading.standby import LEAST_SEEN_S, Habits, Standby, standby
from ..units import MINUTE_S
from ..wording import counted, duration, moment, plus_minus, share
from .chain_sentences import chain_sentences
from .heat_sentences import hottest_said, over_said, read_said
from .judgement_sentences import five_words, forecast_words, judged_words, output_words, stage_words
from .pace_sentences import pace_words, paced_words
from .sentence import Sentence

NOTABLE_AFTER_FULL_W = 1.0


def sentences(reading: Reading, fahrenheit: bool = False, habits: Habits = Habits()) -> list[Sentence]:
    """Sentences of this run, strongest first; temperatures in °F if asked for."""
    if reading.judged is not None and reading.judged.outcome:
        return [*judged_words(reading, fahrenheit), *_heat(reading, fahrenheit)]
    rest = _standby(reading, habits)
    notable = reading.after_full is not None and reading.after_full.watts >= NOTABLE_AFTER_FULL_W
    return [
        *_to_eighty(reading),
        *pace_words(reading),
        *judged_words(reading, fahrenheit),
        *output_words(reading),
        *(rest if notable else []),
        *_to_full(reading),
        *stage_words(reading, fahrenheit),
        *_power(reading),
        *_energy(reading),
        *chain_sentences(reading),
        *_heat(reading, fahrenheit),
        *forecast_words(reading, fahrenheit),
        *([] if notable else rest),
        *_besides(reading),
    ]


def _besides(reading: Reading) -> list[Sentence]:
    """Reports of phone and charger."""
    besides, placed_s = reading.log.besides, reading.placed_s
    lines = []
    if len(besides.watts):
        lines.append(
            Sentence("phone_watts", *phone_watts_said(besides), float(besides.time_s[0]), float(besides.time_s[-1]))
        )
    if times := [(max(a, placed_s), b) for a, b in not_charging(besides) if b >= placed_s]:
        lines.append(Sentence("not_charging", *not_charging_said(times), times[0][0], times[-1][1]))
    if besides.lights:
        seen = [f"{'on' if on else 'off'} at {moment(at - placed_s)}" for at, on in besides.lights]
        words = f"The charger's light: {', '.join(seen)}"
        lines.append(Sentence("light", words, "as it was logged", besides.lights[0][0], besides.lights[-1][0]))
    return lines


def standby_of(reading: Reading, habits: Habits = Habits()) -> Standby | None:
    """Standby of a run's charger, of levels that were seen for ten minutes.

    None of a charger that feeds itself: nobody leaves a pack on for a year.
    """
    if reading.conditions.own_source:
        return None
    trace, meter = reading.log.trace, reading.conditions.meter

    def seen(stretch: Stretch | None) -> Stretch | None:
        return stretch if stretch is not None and stretch.end_s - stretch.start_s >= LEAST_SEEN_S else None

    full, idle = seen(reading.after_full), seen(reading.no_load)
    return standby(
        None if full is None else metered_idle(full.watts, trace, meter),
        None if idle is None else metered_idle(idle.watts, trace, meter),
        habits,
    )


def check_in_every(reading: Reading) -> float | None:
    """Interval of check-ins as they were read [min], the usual step; None for fewer than two."""
    readings = reading.log.readings
    if readings is None or len(readings) < 2:
        return None
    return median(np.diff(readings.time_s)) / MINUTE_S


def _interval(reading: Reading) -> str:
    every = check_in_every(reading)
    return "" if every is None else f", read about every {duration(every * MINUTE_S)}"


def _to_eighty(reading: Reading) -> list[Sentence]:
    readings, placed_s = reading.log.readings, reading.placed_s
    if readings is None or not len(readings):
        return []
    first, last = f"{readings.percent[0]:g}", f"{readings.percent[-1]:g}"
    m = reading.milestone(80)
    if m is None:
        span = duration(readings.time_s[-1] - readings.time_s[0])
        return [
            Sentence(
                "level",
                f"From {first} to *{last} %* in *{span}*",
                "started above 80 %" if readings.percent[0] >= 80 else "did not reach 80 %",
                float(readings.time_s[0]),
                float(readings.time_s[-1]),
            )
        ]
    return [
        Sentence(
            "to_80",
            f"80 % after *{duration(m.estimate_s - placed_s)}*",
            f"from {first} %; {_within(m, placed_s)}{_interval(reading)}",
            placed_s,
            m.latest_s,
            "to_80",
        )
    ]


def _within(m: Milestone, placed_s: float) -> str:
    """Interval of a milestone in words."""
    if m.by_s is not None:
        return f"± {max(0.1, (m.latest_s - m.earliest_s) / 2.0 / MINUTE_S):.1f} min by the meter"
    return f"between {duration(m.earliest_s - placed_s)} and {duration(m.latest_s - placed_s)}"


def _to_full(reading: Reading) -> list[Sentence]:
    m, eighty = reading.milestone(100), reading.milestone(80)
    if m is None:
        return []
    last_fifth = f"; the last fifth took {duration(m.latest_s - eighty.estimate_s)}" if eighty else ""
    return [
        Sentence(
            "to_100",
            f"100 % seen at *{duration(m.latest_s - reading.placed_s)}*",
            f"after {duration(m.earliest_s - reading.placed_s)}{last_fifth}",
            eighty.estimate_s if eighty else m.earliest_s,
            m.latest_s,
            "to_100",
        )
    ]


def _power(reading: Reading) -> list[Sentence]:
    settled, sustained, trace = reading.best_settled, reading.sustained, reading.log.trace
    if trace.sparse:
        return _points(reading)
    if settled is None:
        return []
    text = f"Draws *{settled.watts:.1f} W* in its best minute"
    if sustained is not None:
        text += f", *{sustained.watts:.1f} W* on average to 60 %"
    stretch = sustained or settled
    settles = reading.ramp_end_s - reading.placed_s
    late = trace.start_s > reading.placed_s or settles < 0
    after = "" if late else f"; settled after {duration(settles)}"
    return [
        Sentence(
            "power",
            text,
            f"at the meter; peak {reading.peak_w:.1f} W{after}",
            stretch.start_s,
            stretch.end_s,
            "sustained" if sustained is not None else "best_settled",
        )
    ]


def _points(reading: Reading) -> list[Sentence]:
    """Watts that were read now and then: the readings, and nothing of what happened between them."""
    trace = reading.log.trace
    since = trace.time_s >= reading.placed_s
    if not since.any():
        return []
    watts = trace.power_w[since]
    return [
        Sentence(
            "power",
            f"Read *{watts[0]:.1f} W* at first, *{watts.max():.1f} W* at most, *{watts[-1]:.1f} W* at the end",
            f"{counted(len(watts), 'reading')}, one every {duration(trace.step_s)}; what happened between is unknown",
            float(trace.time_s[since][0]),
            trace.end_s,
            "peak",
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
            Sentence(
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
    whole = reading.log.readings is not None and reading.log.readings.time_s[0] >= trace.start_s - MINUTE_S
    gained = reading.energy_battery if whole else None
    reached = "" if gained is None else f", *{gained.value:.1f} Wh* reached the battery"
    return [
        Sentence(
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
    basis = "; ".join(x for x in (heat.position, over_said(heat, fahrenheit), read_said(heat)) if x)
    return [
        Sentence(
            "heat",
            hottest_said(heat, fahrenheit),
            basis,
            heat.max_at_s - 5 * MINUTE_S,
            heat.max_at_s + 5 * MINUTE_S,
            f"hottest_{heat.position}",
        )
    ]


def _standby(reading: Reading, habits: Habits) -> list[Sentence]:
    """Sentences on its draw after full, or with no phone on it; a year of it only where it was seen for long."""
    stretch = reading.after_full or reading.no_load
    if stretch is None or reading.conditions.own_source:
        return []
    idle, after = standby_of(reading, habits), reading.after_full is not None
    text = (
        f"Keeps drawing *{stretch.watts:.1f} W* after full" if after else f"Draws *{stretch.watts:.1f} W* with no phone"
    )
    if idle is not None and idle.night_wh is not None:
        text += f", *{idle.night_wh.value:.0f} Wh* a night"
    lasts = stretch.end_s - stretch.start_s
    basis = [f"mean over {duration(lasts)}" if lasts > 0 else "one reading", *([] if after else ["before placing"])]
    if after and reading.no_load is not None:
        basis.append(f"{reading.no_load.watts:.1f} W with no phone on it")
    if idle is not None and idle.year_kwh is not None and idle.year_cost is not None:
        basis.append(
            f"{idle.year_kwh.value:.1f} kWh and {idle.year_cost.value:.2f} {habits.currency} a year at"
            f" {habits.tariff:g} {habits.currency}/kWh"
        )
    return [
        Sentence(
            "after_full" if after else "no_load",
            text,
            "; ".join(basis),
            stretch.start_s,
            stretch.end_s,
            "after_full" if after else "no_load",
        )
    ]


def headline(reading: Reading, fahrenheit: bool = False) -> str:
    """Headline of a run, in five words or so."""
    judged = five_words(reading, fahrenheit)
    if judged:
        return judged
    trace, readings = reading.log.trace, reading.log.readings
    if not trace.metered:
        return f"no meter: {paced_words(reading)}"
    if reading.after_full is not None and reading.after_full.watts >= NOTABLE_AFTER_FULL_W:
        return f"draws *{reading.after_full.watts:.1f} W* when full"
    if readings is not None and len(readings) and reading.milestone(80) is None and readings.percent[-1] < 80:
        return f"ends at *{readings.percent[-1]:g} %*"
    if trace.coverage < 0.995:
        return f"*{share(1 - trace.coverage)}* of the log missing"
    if reading.efficiency is not None:
        return f"*{share(reading.efficiency.value)}* reaches the battery"
    if reading.best_settled is not None:
        return f"settles at *{reading.best_settled.watts:.1f} W*"
    return "no percentages logged" if readings is None else "watts read now and then"
