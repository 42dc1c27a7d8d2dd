"""Each figure of a run with its uncertainty, and how it was worked out with the run's own numbers."""

from collections.abc import Callable

from ..log.check_ins import CAPACITY_SHARE, UNKNOWN_HEALTH_BELOW, Milestone
from ..log.energy import BRIDGE_SHARE, metered_idle, metered_power
from ..log.flow import COVERED
from ..log.placement import Stretch
from ..log.temperatures import HOT_C
from ..log.trace import HOLE_FLOOR_S, HOLE_STEPS
from ..measured import COVERAGE_FACTOR, Part, rectangle
from ..milestones import MILESTONES
from ..reading.power_levels import AFTER_FULL_S, SETTLED_WINDOW_S, SUSTAINED_TO
from ..reading.read_run import Reading
from ..reading.standby import Habits
from ..units import MINUTE_S, fahrenheit
from ..wording import counted, duration, moment, plus_minus, share, temperature, temperature_rise, threshold
from .chain_figures import chain_figures
from .figure import Figure
from .heat_sentences import over_said
from .judgement_figures import node_figures, output_figures, standby_figures, throttle_figures
from .pace_figures import pace_figures

Clock = Callable[[float], str]

CLEANED_NOTE = "rows that share a time are averaged, rows out of order sorted, and both are counted"


def figures(reading: Reading, in_fahrenheit: bool = False, habits: Habits = Habits()) -> list[Figure]:
    """All figures that this run allows, in the order of the work; temperatures in °F if asked for."""

    def clock(at_s: float) -> str:
        return moment(at_s - reading.placed_s)

    return [
        *_milestones(reading, clock),
        *pace_figures(reading, clock),
        *throttle_figures(reading, clock, in_fahrenheit),
        *output_figures(reading),
        *_levels(reading, clock, in_fahrenheit),
        *_energies(reading, clock),
        *chain_figures(reading, clock),
        *_heat(reading, clock, in_fahrenheit),
        *_humidity(reading, clock),
        *node_figures(reading, clock, in_fahrenheit),
        *_standby(reading, clock),
        *standby_figures(reading, habits),
    ]


def _milestones(reading: Reading, clock: Clock) -> list[Figure]:
    rows = []
    for percent in MILESTONES:
        m = reading.milestone(percent)
        if m is None:
            continue
        half = (m.latest_s - m.earliest_s) / 2.0 / MINUTE_S
        seen = percent == 100
        formula, numbers, budget = _reached_how(m, clock, half)
        rows.append(
            Figure(
                key=f"to_{percent}",
                label=f"{percent} % " + ("seen at" if seen else "reached after"),
                unit="min",
                value=(m.estimate_s - reading.placed_s) / MINUTE_S,
                expanded=None,
                point="battery",
                formula="first sighting of 100 %" if seen else formula,
                numbers=numbers,
                source="interval-censored time as a rectangle: JCGM 100:2008, 4.3.7",
                budget=(budget,),
                start_s=m.earliest_s,
                end_s=m.latest_s,
                low=(m.earliest_s - reading.placed_s) / MINUTE_S,
                high=(m.latest_s - reading.placed_s) / MINUTE_S,
            )
        )
    return rows


def _reached_how(m: Milestone, clock: Clock, half_min: float) -> tuple[str, str, Part]:
    """Rule of a milestone, its numbers, and its uncertainty: by the meter, or by the check-ins alone."""
    if m.after_s is not None and m.by_s is not None:
        return (
            "the check-ins about it, half a point up as a gauge stands between two whole numbers, lie on a line over"
            " the energy above no-load; it was reached where that line meets the level (95 %)",
            f"between {clock(m.after_s)} and {clock(m.by_s)} by the check-ins; by the energy {clock(m.estimate_s)},"
            f" ± {half_min:.1f} min",
            Part("check-ins about a line over the energy", half_min / COVERED),
        )
    return (
        "after the last check-in below, at the latest at the first at or above; inside that, the first crossing of a"
        " monotone curve through the check-ins (PCHIP)",
        f"after {clock(m.earliest_s)}, at the latest {clock(m.latest_s)}; as a rectangle ± {half_min:.1f} min",
        Part("check-in interval", rectangle(half_min)),
    )


def _levels(reading: Reading, clock: Clock, in_fahrenheit: bool) -> list[Figure]:
    if not reading.log.trace.metered:
        return []
    peak = metered_power(reading.peak_w, reading.energy_in)
    rows = [
        Figure(
            key="peak",
            label="highest reading" if reading.log.trace.sparse else "peak",
            unit="W",
            value=reading.peak_w,
            expanded=peak.stated,
            point="meter side",
            formula="the highest sample after cleaning",
            numbers=f"{reading.peak_w:.2f} W among {len(reading.log.trace.time_s)} samples",
            source="common practice",
            budget=peak.parts,
        )
    ]
    for key, label, stretch, formula in (
        (
            "best_settled",
            "best settled",
            reading.best_settled,
            f"the highest mean over {SETTLED_WINDOW_S:g} s after the ramp, while the phone is under"
            f" {threshold(HOT_C, in_fahrenheit)}",
        ),
        (
            "sustained",
            f"sustained to {SUSTAINED_TO} %",
            reading.sustained,
            f"mean from the end of the ramp to {SUSTAINED_TO} %, throttling included",
        ),
    ):
        if stretch is None:
            continue
        power = metered_power(stretch.watts, reading.energy_in)
        rows.append(
            Figure(
                key=key,
                label=label,
                unit="W",
                value=stretch.watts,
                expanded=power.stated,
                point="meter side",
                formula=formula,
                numbers=f"from {clock(stretch.start_s)} to {_placed(clock(stretch.end_s))};"
                f" the ramp ends at {clock(reading.ramp_end_s)}",
                source="common practice",
                budget=power.parts,
                start_s=stretch.start_s,
                end_s=stretch.end_s,
            )
        )
    return rows


def _energies(reading: Reading, clock: Clock) -> list[Figure]:
    trace, energy = reading.log.trace, reading.energy_in
    if not trace.metered:
        return []
    meter = reading.conditions.meter
    spec = "the meter's accuracy is not known and not part of the ±"
    if meter.gain_percent is not None:
        spec = f"meter ±({meter.gain_percent:g} % + {meter.counts_v:g} V, {meter.counts_a:g} A)"
    rows = [
        Figure(
            key="energy_in",
            label="energy in, metered",
            unit="Wh",
            value=energy.metered.value,
            expanded=energy.metered.stated,
            point="meter side",
            formula="E = Σ ½ (power + next power) × step, over metered time; a step over"
            f" max({HOLE_STEPS:g} × median step, {HOLE_FLOOR_S:g} s) is a hole",
            numbers=f"{len(trace.time_s)} samples, median step {trace.step_s:g} s,"
            f" {duration(energy.covered_s)} metered of {duration(energy.span_s)} ({share(trace.coverage, 1)});"
            f" {spec}; {CLEANED_NOTE}",
            source="trapezoid rule; uncertainty: JCGM 100:2008, 5.1.2 and 5.2.2",
            budget=energy.metered.parts,
            start_s=trace.start_s,
            end_s=trace.end_s,
        )
    ]
    if not energy.complete:
        rows.append(
            Figure(
                key="energy_bridged",
                label="energy in, holes bridged",
                unit="Wh",
                value=energy.bridged.value,
                expanded=energy.bridged.stated,
                point="meter side",
                formula="the same with a straight line over each hole",
                numbers=f"{counted(len(trace.holes), 'hole')}, {duration(trace.cleaned.missing_s)} in all:"
                f" {energy.bridged.value - energy.metered.value:.2f} Wh added",
                source="own choice: within a hole the power may be off by half the step across it,"
                f" or by {share(BRIDGE_SHARE)}",
                budget=energy.bridged.parts,
                start_s=trace.start_s,
                end_s=trace.end_s,
            )
        )
    battery = reading.conditions.battery
    if battery and reading.energy_battery and reading.points_gained and reading.log.readings:
        health = "health not known" if battery.health is None else f"health {share(battery.health)}"
        rated = f"{battery.capacity_mah:g} mAh × {battery.nominal_v:g} V, {health}"
        low, high = reading.log.readings.percent[0], reading.log.readings.percent.max()
        rows.append(
            Figure(
                key="energy_battery",
                label="energy into the battery",
                unit="Wh",
                value=reading.energy_battery.value,
                expanded=reading.energy_battery.expanded,
                point="battery side",
                formula="E = points gained ÷ 100 × capacity × voltage",
                numbers=f"({high:g} − {low:g}) ÷ 100 × {rated}",
                source=f"capacity ±{share(CAPACITY_SHARE)} of rated × health, or −{share(UNKNOWN_HEALTH_BELOW)} to"
                f" +{share(CAPACITY_SHARE)}"
                " (common practice); JCGM 100:2008, 4.3.7",
                budget=reading.energy_battery.parts,
                start_s=float(reading.log.readings.time_s[0]),
                end_s=float(reading.log.readings.time_s[-1]),
            )
        )
        if reading.efficiency and reading.account and reading.account_energy and reading.account_battery:
            account = reading.account
            rows.append(
                Figure(
                    key="efficiency",
                    label="efficiency, meter to battery",
                    unit="%",
                    value=reading.efficiency.value * 100.0,
                    expanded=reading.efficiency.expanded * 100.0,
                    point="meter side to battery side",
                    formula="η = energy into the battery ÷ energy through the meter, over one window of check-ins",
                    numbers=f"{account.from_percent:g} to {account.to_percent:g} %,"
                    f" {clock(account.start_s)} to {clock(account.end_s)}:"
                    f" {plus_minus(reading.account_battery, 'Wh')} ÷"
                    f" {plus_minus(reading.account_energy.bridged, 'Wh')}",
                    source="battery account, common practice; JCGM 100:2008, 5.1.2",
                    budget=reading.efficiency.scaled(100.0).parts,
                    start_s=account.start_s,
                    end_s=account.end_s,
                )
            )
    return rows


def _standby(reading: Reading, clock: Clock) -> list[Figure]:
    rows = []
    for key, label, stretch, formula in (
        ("no_load", "no-load", reading.no_load, "mean draw at a steady level with no phone on it"),
        (
            "after_full",
            "after full",
            reading.after_full,
            f"mean draw in the last {duration(AFTER_FULL_S)} after full, once at rest",
        ),
    ):
        if stretch is None:
            continue
        draw = metered_idle(stretch.watts, reading.log.trace, reading.conditions.meter)
        rows.append(
            Figure(
                key=key,
                label=label,
                unit="W",
                value=stretch.watts,
                expanded=draw.stated,
                point="meter side",
                formula=formula,
                numbers=_seen_for(stretch, clock),
                source="common practice; at such a small draw the meter's counts weigh most",
                budget=draw.parts,
                start_s=stretch.start_s,
                end_s=stretch.end_s,
            )
        )
    return rows


def _seen_for(stretch: Stretch, clock: Clock) -> str:
    lasts = stretch.end_s - stretch.start_s
    how = f"over {duration(lasts)}, ending" if lasts > 0 else "one reading,"
    return f"{how} {_placed(clock(stretch.end_s))}"


def _placed(at: str) -> str:
    return at if at.endswith("t = 0") else f"{at} after placing"


def _heat(reading: Reading, clock: Clock, in_fahrenheit: bool) -> list[Figure]:
    rows = []
    for heat in reading.heat:
        rise = "" if heat.rise_k is None else f"; at most {temperature_rise(heat.rise_k, in_fahrenheit)} over the room"
        rows.append(
            Figure(
                key=f"hottest_{heat.position}",
                label=f"hottest, {heat.position}",
                unit="°F" if in_fahrenheit else "°C",
                value=fahrenheit(heat.max_c) if in_fahrenheit else heat.max_c,
                expanded=None,
                point=heat.position,
                formula="the highest reading at this place",
                numbers=f"{temperature(heat.max_c, in_fahrenheit)} at {clock(heat.max_at_s)}{rise};"
                f" {over_said(heat, in_fahrenheit)}",
                source="the probe's own uncertainty is not stated",
                budget=(),
                start_s=heat.max_at_s,
                end_s=heat.max_at_s,
            )
        )
    return rows


def _humidity(reading: Reading, clock: Clock) -> list[Figure]:
    """The room's humidity, where something measured it."""
    told = reading.log.besides
    since = told.humidity_s >= reading.placed_s
    if not since.any():
        return []
    percent, times = told.humidity[since], told.humidity_s[since]
    return [
        Figure(
            key="humidity",
            label="room humidity",
            unit="%",
            value=float(percent.mean()),
            expanded=None,
            point="room",
            formula="mean of the readings after placing",
            numbers=f"{counted(len(percent), 'reading')} from {percent.min():.0f} to {percent.max():.0f} %,"
            f" {clock(float(times[0]))} to {clock(float(times[-1]))}",
            source="the sensor's own uncertainty is not stated",
            start_s=float(times[0]),
            end_s=float(times[-1]),
        )
    ]


EXPANDED_NOTE = f"± is the expanded uncertainty, k = {COVERAGE_FACTOR:g}"
