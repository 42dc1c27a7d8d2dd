"""Each figure of a run with its uncertainty, and how it was worked out with the run's own numbers."""

from collections.abc import Callable

from ..log.energy import metered_idle, metered_power
from ..log.placement import Stretch
from ..measured import COVERAGE_FACTOR, Part, rectangle
from ..milestones import MILESTONES
from ..reading.read_run import Reading
from ..reading.standby import Habits
from ..units import MINUTE_S, fahrenheit
from ..wording import counted, duration, plus_minus, share, temperature, temperature_rise
from .figure import Figure
from .heat_sentences import over_said
from .judgement_figures import node_figures, output_figures, standby_figures, throttle_figures

Clock = Callable[[float], str]

CLEANED_NOTE = "rows that share a time are averaged, rows out of order sorted, and both are counted"


def figures(reading: Reading, in_fahrenheit: bool = False, habits: Habits = Habits()) -> list[Figure]:
    """All figures that this run allows, in the order of the work; temperatures in °F if asked for."""

    def clock(at_s: float) -> str:
        return duration(at_s - reading.placed_s)

    return [
        *_milestones(reading, clock),
        *throttle_figures(reading, clock, in_fahrenheit),
        *output_figures(reading),
        *_levels(reading, clock),
        *_energies(reading, clock),
        *_heat(reading, clock, in_fahrenheit),
        *node_figures(reading, clock, in_fahrenheit),
        *_standby(reading, clock),
        *standby_figures(reading, habits),
    ]


def _milestones(reading: Reading, clock: Clock) -> list[Figure]:
    found = []
    for percent in MILESTONES:
        m = reading.milestone(percent)
        if m is None:
            continue
        half = (m.latest_s - m.earliest_s) / 2.0 / MINUTE_S
        seen = percent == 100
        found.append(
            Figure(
                f"to_{percent}",
                f"{percent} % " + ("seen at" if seen else "reached after"),
                "min",
                (m.estimate_s - reading.placed_s) / MINUTE_S,
                None,
                "battery",
                "first sighting of 100 %"
                if seen
                else "after the last check-in below, at the latest at the first at or above; inside that, the first"
                " crossing of a monotone curve through the check-ins (PCHIP)",
                f"after {clock(m.earliest_s)}, at the latest {clock(m.latest_s)}; as a rectangle ± {half:.1f} min",
                "interval-censored time as a rectangle: JCGM 100:2008, 4.3.7",
                (Part("check-in interval", rectangle(half)),),
                m.earliest_s,
                m.latest_s,
                (m.earliest_s - reading.placed_s) / MINUTE_S,
                (m.latest_s - reading.placed_s) / MINUTE_S,
            )
        )
    return found


def _levels(reading: Reading, clock: Clock) -> list[Figure]:
    if not reading.log.trace.metered:
        return []
    peak = metered_power(reading.peak_w, reading.energy_in)
    found = [
        Figure(
            "peak",
            "highest reading" if reading.log.trace.sparse else "peak",
            "W",
            reading.peak_w,
            peak.stated,
            "meter side",
            "the highest sample after cleaning",
            f"{reading.peak_w:.2f} W among {len(reading.log.trace.time_s)} samples",
            "common practice",
            peak.parts,
        )
    ]
    for key, label, stretch, formula in (
        (
            "best_settled",
            "best settled",
            reading.best_settled,
            "the highest 60-s mean after the ramp, while the phone is under 38 °C",
        ),
        (
            "sustained",
            "sustained to 60 %",
            reading.sustained,
            "mean from the end of the ramp to 60 %, throttling included",
        ),
    ):
        if stretch is None:
            continue
        power = metered_power(stretch.watts, reading.energy_in)
        found.append(
            Figure(
                key,
                label,
                "W",
                stretch.watts,
                power.stated,
                "meter side",
                formula,
                f"from {clock(stretch.start_s)} to {clock(stretch.end_s)} after placing;"
                f" the ramp ends at {clock(reading.ramp_end_s)}",
                "common practice",
                power.parts,
                stretch.start_s,
                stretch.end_s,
            )
        )
    return found


def _energies(reading: Reading, clock: Clock) -> list[Figure]:
    trace, energy = reading.log.trace, reading.energy_in
    if not trace.metered:
        return []
    meter = reading.conditions.meter
    spec = "the meter's accuracy is not known and not part of the ±"
    if meter.gain_percent is not None:
        spec = f"meter ±({meter.gain_percent:g} % + {meter.counts_v:g} V, {meter.counts_a:g} A)"
    found = [
        Figure(
            "energy_in",
            "energy in, metered",
            "Wh",
            energy.metered.value,
            energy.metered.stated,
            "meter side",
            "E = Σ ½ (power + next power) × step, over metered time; a step over max(10 × median step, 30 s) is a hole",
            f"{len(trace.time_s)} samples, median step {trace.step_s:g} s, {duration(energy.covered_s)} metered of"
            f" {duration(energy.span_s)} ({share(trace.coverage, 1)}); {spec}; {CLEANED_NOTE}",
            "trapezoid rule; uncertainty: JCGM 100:2008, 5.1.2 and 5.2.2",
            energy.metered.parts,
            trace.start_s,
            trace.end_s,
        )
    ]
    if not energy.complete:
        found.append(
            Figure(
                "energy_bridged",
                "energy in, holes bridged",
                "Wh",
                energy.bridged.value,
                energy.bridged.stated,
                "meter side",
                "the same with a straight line over each hole",
                f"{counted(len(trace.holes), 'hole')}, {duration(trace.cleaned.missing_s)} in all:"
                f" {energy.bridged.value - energy.metered.value:.2f} Wh added",
                "own choice: within a hole the power may be off by half the step across it, or by 10 %",
                energy.bridged.parts,
                trace.start_s,
                trace.end_s,
            )
        )
    battery = reading.conditions.battery
    if battery and reading.energy_battery and reading.points_gained and reading.log.readings:
        health = "health not known" if battery.health is None else f"health {share(battery.health)}"
        rated = f"{battery.capacity_mah:g} mAh × {battery.nominal_v:g} V, {health}"
        low, high = reading.log.readings.percent[0], reading.log.readings.percent.max()
        found.append(
            Figure(
                "energy_battery",
                "energy into the battery",
                "Wh",
                reading.energy_battery.value,
                reading.energy_battery.expanded,
                "battery side",
                "E = points gained ÷ 100 × capacity × voltage",
                f"({high:g} − {low:g}) ÷ 100 × {rated}",
                "capacity ±3 % of rated × health, or −10 to +3 % (common practice); JCGM 100:2008, 4.3.7",
                reading.energy_battery.parts,
                float(reading.log.readings.time_s[0]),
                float(reading.log.readings.time_s[-1]),
            )
        )
        if reading.efficiency and reading.account and reading.account_energy and reading.account_battery:
            account = reading.account
            found.append(
                Figure(
                    "efficiency",
                    "efficiency, meter to battery",
                    "%",
                    reading.efficiency.value * 100.0,
                    reading.efficiency.expanded * 100.0,
                    "meter side to battery side",
                    "η = energy into the battery ÷ energy through the meter, over one window of check-ins",
                    f"{account.from_percent:g} to {account.to_percent:g} %,"
                    f" {clock(account.start_s)} to {clock(account.end_s)}:"
                    f" {plus_minus(reading.account_battery, 'Wh')} ÷"
                    f" {plus_minus(reading.account_energy.bridged, 'Wh')}",
                    "battery account, common practice; JCGM 100:2008, 5.1.2",
                    reading.efficiency.scaled(100.0).parts,
                    account.start_s,
                    account.end_s,
                )
            )
    return found


def _standby(reading: Reading, clock: Clock) -> list[Figure]:
    found = []
    for key, label, stretch, formula in (
        ("no_load", "no-load", reading.no_load, "mean draw at a steady level with no phone on it"),
        (
            "after_full",
            "after full",
            reading.after_full,
            "mean draw in the last hour after full, once at rest",
        ),
    ):
        if stretch is None:
            continue
        draw = metered_idle(stretch.watts, reading.log.trace, reading.conditions.meter)
        found.append(
            Figure(
                key,
                label,
                "W",
                stretch.watts,
                draw.stated,
                "meter side",
                formula,
                _seen_for(stretch, clock),
                "common practice; at such a small draw the meter's counts weigh most",
                draw.parts,
                stretch.start_s,
                stretch.end_s,
            )
        )
    return found


def _seen_for(stretch: Stretch, clock: Clock) -> str:
    lasts = stretch.end_s - stretch.start_s
    how = f"over {duration(lasts)}, ending" if lasts > 0 else "one reading,"
    return f"{how} {clock(stretch.end_s)} after placing"


def _heat(reading: Reading, clock: Clock, in_fahrenheit: bool) -> list[Figure]:
    found = []
    for heat in reading.heat:
        rise = "" if heat.rise_k is None else f"; at most {temperature_rise(heat.rise_k, in_fahrenheit)} over the room"
        found.append(
            Figure(
                f"hottest_{heat.position}",
                f"hottest, {heat.position}",
                "°F" if in_fahrenheit else "°C",
                fahrenheit(heat.max_c) if in_fahrenheit else heat.max_c,
                None,
                heat.position,
                "the highest reading at this place",
                f"{temperature(heat.max_c, in_fahrenheit)} at {clock(heat.max_at_s)}{rise};"
                f" {over_said(heat, in_fahrenheit)}",
                "the probe's own uncertainty is not stated",
                (),
                heat.max_at_s,
                heat.max_at_s,
            )
        )
    return found


EXPANDED_NOTE = f"± is the expanded uncertainty, k = {COVERAGE_FACTOR:g}"
