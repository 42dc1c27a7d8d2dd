"""Pace of a charge as figures, where no meter was: points a minute, and the watts that they are in the battery."""

from collections.abc import Callable

from ..log.pace import Pace
from ..measured import Measured, Part
from ..reading.read_run import Reading
from ..units import HOUR_S, MINUTE_S
from ..wording import counted
from .figure import Figure

BATTERY_SOURCE = "battery account: points × capacity × voltage, common practice"


def into_battery_w(reading: Reading, piece: Pace) -> Measured | None:
    """Mean power into the battery over a piece [W]; None where its capacity and voltage are not known."""
    battery, rate = reading.conditions.battery, piece.points_per_min
    if battery is None:
        return None
    per_hour, each = HOUR_S / MINUTE_S, battery.point_wh
    return Measured(
        rate.value * each.value * per_hour,
        tuple(Part(p.source, p.standard * each.value * per_hour) for p in rate.parts)
        + tuple(Part(p.source, p.standard * abs(rate.value) * per_hour) for p in each.parts),
    )


def pace_figures(reading: Reading, clock: Callable[[float], str]) -> list[Figure]:
    """Every straight piece of the percentages of a run without a meter."""
    if reading.log.trace.metered or reading.log.readings is None:
        return []
    rows = []
    for n, piece in enumerate(reading.pace):
        rate = piece.points_per_min
        inside = (reading.log.readings.time_s >= piece.start_s) & (reading.log.readings.time_s <= piece.end_s)
        low, high = f"{piece.start_percent:.0f}", f"{piece.end_percent:.0f}"
        span = f"{low} to {high} %" if low != high else f"at {low} %"
        rows.append(
            Figure(
                key=f"pace_{n}",
                label=f"pace, {span}",
                unit="points/min",
                value=rate.value,
                expanded=rate.expanded,
                point="battery",
                formula="slope of a straight piece; a continuous line of as few pieces as the readings bear out, by"
                " least squares",
                numbers=f"from {clock(piece.start_s)} to {clock(piece.end_s)}, {counted(int(inside.sum()), 'reading')}",
                source="a whole-number percentage is a rectangle of ± half a point: JCGM 100:2008, 4.3.7",
                budget=rate.parts,
                start_s=piece.start_s,
                end_s=piece.end_s,
            )
        )
        watts, battery = into_battery_w(reading, piece), reading.conditions.battery
        if watts is not None and battery is not None:
            rows.append(
                Figure(
                    key=f"battery_w_{n}",
                    label=f"into the battery, {span}",
                    unit="W",
                    value=watts.value,
                    expanded=watts.expanded,
                    point="battery",
                    formula="points a minute × 60 × energy of one point",
                    numbers=f"{rate.value:.3f} points/min × 60 × {battery.point_wh.value:.4f} Wh",
                    source=BATTERY_SOURCE,
                    budget=watts.parts,
                    start_s=piece.start_s,
                    end_s=piece.end_s,
                )
            )
    return rows
