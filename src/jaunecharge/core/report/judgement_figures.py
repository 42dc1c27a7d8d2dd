"""Figures of the judgement with their working: throttling, the warm node, the output, and what standing by costs."""

import math
from collections.abc import Callable

from ..log.temperatures import HOT_C
from ..measured import Measured
from ..milestones import SLOWS_FROM
from ..reading.dips import DEEP_SHARE, LEAST_LOW_S, LEAST_PARTIAL_S
from ..reading.output import OutputEstimate
from ..reading.read_run import Reading
from ..reading.standby import LEAST_SEEN_S, Habits
from ..reading.thermal_node import LEAST_TAUS
from ..reading.throttling import ALIKE_SHARE
from ..safety import THRESHOLDS_C
from ..units import MINUTE_S, fahrenheit
from ..wording import counted, share, temperature, threshold
from .figure import Figure
from .judgement_sentences import onset_said
from .sentences import standby_of

Clock = Callable[[float], str]


def throttle_figures(reading: Reading, clock: Clock, in_fahrenheit: bool) -> list[Figure]:
    """First throttle, throttled minutes, energy short and minutes that heat cost."""
    throttle, judged = reading.throttle, reading.judged
    if throttle is None or judged is None or throttle.first is None:
        return []
    first = throttle.first
    dips = [d for d in judged.dips if d.throttle]
    listed = ", ".join(f"{clock(d.start_s)} for {d.minutes:.1f} min" for d in dips[:6]) + (
        " …" if len(dips) > 6 else ""
    )
    onset = "" if first.onset_c is None else f" at {onset_said(first, in_fahrenheit)}"
    after_min, unsure_min = (first.start_s - reading.placed_s) / MINUTE_S, judged.grid.unsure_s / MINUTE_S
    unsure_sum_min = unsure_min * math.sqrt(2.0 * throttle.cycles)
    return [
        Figure(
            key="first_throttle",
            label="first throttle after",
            unit="min",
            value=after_min,
            expanded=None,
            low=after_min - unsure_min if unsure_min else None,
            high=after_min + unsure_min if unsure_min else None,
            point="meter side",
            formula=f"the first dip whose cause is heat: under {share(DEEP_SHARE)} of what was expected for"
            f" {LEAST_PARTIAL_S:g} s, or at no-load for {LEAST_LOW_S:g} s, with"
            f" the evidence of temperature (hot is {threshold(HOT_C, in_fahrenheit)} or more)",
            numbers=f"{first.expected_w:.2f} to {first.floor_w:.2f} W at {clock(first.start_s)}{onset}: {first.why}",
            source="common practice; checked on many simulated runs (docs/reading.md)",
            budget=(),
            start_s=first.start_s,
            end_s=first.end_s,
        ),
        Figure(
            key="throttled",
            label=f"throttled below {SLOWS_FROM} %",
            unit="min",
            value=throttle.minutes,
            expanded=None,
            low=max(0.0, throttle.minutes - unsure_sum_min) if unsure_min else None,
            high=throttle.minutes + unsure_sum_min if unsure_min else None,
            point="meter side",
            formula=f"time in dips by heat, up to {SLOWS_FROM} % or the end of the log",
            numbers=f"{counted(throttle.cycles, 'dip')}: {listed}",
            source="common practice",
            budget=(),
            start_s=dips[0].start_s,
            end_s=dips[-1].end_s,
        ),
        Figure(
            key="heat_cost",
            label="heat cost",
            unit="min",
            value=throttle.cost_min.value,
            expanded=throttle.cost_min.expanded,
            point="meter side",
            formula=f"Σ (expected − power) ÷ (expected − no-load) × step over dips by heat below {SLOWS_FROM} %",
            numbers=f"{throttle.shortfall_wh:.2f} Wh short of {first.expected_w:.1f} W, no-load"
            f" {reading.no_load.watts if reading.no_load else 0.0:.2f} W;"
            f" the share that reaches the battery may differ by {share(ALIKE_SHARE)}",
            source="own working; rectangle after JCGM 100:2008, 4.3.7",
            budget=throttle.cost_min.parts,
            start_s=dips[0].start_s,
            end_s=throttle.until_s,
        ),
    ]


def node_figures(reading: Reading, clock: Clock, in_fahrenheit: bool) -> list[Figure]:
    """Steady temperature, time constant and crossings of the one-node fit."""
    node = reading.node
    if node is None:
        return []
    k = 1.8 if in_fahrenheit else 1.0
    fit = (
        f"{counted(node.readings, 'reading')} at {node.position} from {clock(node.start_s)} to {clock(node.end_s)} at"
        f" {node.watts:.1f} W, from {temperature(node.first_c, in_fahrenheit)}"
    )
    formula = (
        f"T = Ts − (Ts − T0)·e^(−t/τ), least squares over the stretch of constant power, at least {LEAST_TAUS:g} τ long"
    )
    rows = [
        Figure(
            key="steady",
            label="steady temperature",
            unit="°F" if in_fahrenheit else "°C",
            value=fahrenheit(node.steady_c.value) if in_fahrenheit else node.steady_c.value,
            expanded=node.steady_c.expanded * k,
            point=node.position,
            formula=formula,
            numbers=fit,
            source="one-node model; covariance of the fit",
            budget=node.steady_c.scaled(k).parts,
            start_s=node.start_s,
            end_s=node.end_s,
        ),
        Figure(
            key="tau",
            label="time constant τ",
            unit="min",
            value=node.tau_s.value / MINUTE_S,
            expanded=node.tau_s.expanded / MINUTE_S,
            point=node.position,
            formula=formula,
            numbers=fit,
            source="one-node model; covariance of the fit",
            budget=node.tau_s.scaled(1.0 / MINUTE_S).parts,
            start_s=node.start_s,
            end_s=node.end_s,
        ),
    ]
    for limit in map(float, THRESHOLDS_C):
        at = node.crossing(limit)
        if at is None:
            continue
        rows.append(
            Figure(
                key=f"crosses_{limit:g}",
                label=f"crosses {threshold(limit, in_fahrenheit)} after",
                unit="min",
                value=(node.start_s - reading.placed_s + at.value) / MINUTE_S,
                expanded=at.expanded / MINUTE_S,
                point=node.position,
                formula="t = −τ ln((Ts − T) ÷ (Ts − T0)), if the power stays",
                numbers=f"τ {node.tau_s.value / MINUTE_S:.1f} min,"
                f" Ts {temperature(node.steady_c.value, in_fahrenheit)}",
                source="one-node model; propagated after JCGM 100:2008, 5.2.2",
                budget=at.scaled(1.0 / MINUTE_S).parts,
                start_s=node.start_s,
                end_s=node.end_s,
            )
        )
    return rows


def output_figures(reading: Reading) -> list[Figure]:
    """The estimates of the output side by side, each with what it assumes."""
    output = reading.output
    if output is None:
        return []
    settled = reading.best_settled
    keys = {
        "reference ratio": "output_ratio",
        "idle subtraction, no-load": "output_no_load",
        "idle subtraction, after full": "output_after_full",
        "battery account": "output_account",
    }
    return [_estimate(e, keys[e.method], settled.start_s if settled else None, settled.end_s if settled else None)
            for e in output.estimates]  # fmt: skip


def _estimate(e: OutputEstimate, key: str, start_s: float | None, end_s: float | None) -> Figure:
    battery = e.point == "battery"
    return Figure(
        key=key,
        label=f"output by {e.method}",
        unit="W",
        value=e.watts.value,
        expanded=e.watts.expanded,
        point="battery side" if battery else "at the charger",
        formula=e.formula,
        numbers=f"{e.numbers}; assumes that {e.assumes}",
        source="common practice; JCGM 100:2008, 5.1.2",
        budget=e.watts.parts,
        start_s=None if battery else start_s,
        end_s=None if battery else end_s,
    )


def standby_figures(reading: Reading, habits: Habits) -> list[Figure]:
    """Standby a night and a year, and its cost."""
    standby = standby_of(reading, habits)
    if standby is None:
        return []
    rows: list[tuple[str, str, str, Measured | None, str, str]] = []
    if standby.after_full is not None:
        rows.append((
            "night", "after full, a night", "Wh", standby.night_wh, "Wh = after-full draw × hours a night after full",
            f"{standby.after_full.value:.2f} W × {habits.full_h:g} h",
        ))  # fmt: skip
    idle = "" if standby.no_load is None else f"{standby.no_load.value:.2f} W × {24 - habits.night_h:g} h with no phone"
    numbers = " + ".join(x for x in (
        "" if standby.after_full is None else f"{standby.after_full.value:.2f} W × {habits.full_h:g} h after full",
        "" if habits.unplugged else idle,
    ) if x)  # fmt: skip
    rows.append((
        "year", "standby, a year", "kWh", standby.year_kwh, "kWh = (after full + no phone) × 365 ÷ 1000",
        f"{numbers}, 365 days; of levels seen for {LEAST_SEEN_S / MINUTE_S:.0f} min or more",
    ))  # fmt: skip
    rows.append((
        "year_cost", "standby, a year", habits.currency, standby.year_cost, "cost = kWh × tariff",
        f"{habits.tariff:g} {habits.currency}/kWh",
    ))  # fmt: skip
    return [
        Figure(
            key=key,
            label=label,
            unit=unit,
            value=v.value,
            expanded=v.stated,
            point="meter side",
            formula=formula,
            numbers=row,
            source="common practice; habits as set",
            budget=v.parts,
        )
        for key, label, unit, v, formula, row in rows
        if v is not None
    ]
