"""The course of a run as a document that is kept with its summary, and read back."""

import math
from typing import Any

import numpy as np

from ..core.log import CheckIns
from ..core.measured import Measured, Part
from ..core.units import MINUTE_S
from ..core.versus import Course, Power, Warm
from .write.numbers import measured, number


def course_document(course: Course) -> dict[str, Any]:
    """What a summary keeps of a course; its power and its temperatures stand in the ribbon already."""
    readings = course.readings
    return {
        "checkins": []
        if readings is None
        else [
            [round(t / MINUTE_S, 4), round(p, 2)]
            for t, p in zip(readings.time_s.tolist(), readings.percent.tolist(), strict=True)
        ],
        "power_relative": None if course.power is None else round(course.power.relative, 6),
        "power_unsure": course.power is not None and course.power.unsure,
        "start_c": number(course.start_c, 2),
        "room_c": number(course.room_c, 2),
        "rise_k": None if course.warm is None else number(course.warm.rise_k, 2),
        "hottest_c": None if course.warm is None else number(course.warm.hottest_c, 2),
        "hottest_min": None if course.warm is None else number(course.warm.hottest_min, 2),
        "lost_min": measured(course.lost_min),
        "losses": [[round(x, 2) for x in loss] for loss in course.losses],
        "holds": [[round(x, 2) for x in h] for h in course.holds],
        "contacts": [[round(x, 2) for x in c] for c in course.contacts],
    }


def course_of_summary(summary: dict[str, Any]) -> Course | None:
    """The course that a summary keeps; None where an older reader made it.

    Without the ribbon's watts it has no power, without its temperatures its heat is known as a whole.
    """
    kept = summary.get("course")
    if kept is None or "losses" not in kept:
        return None
    table = np.array(kept["checkins"], dtype=float).reshape(-1, 2)
    lost = kept["lost_min"]
    return Course(
        CheckIns(table[:, 0] * MINUTE_S, table[:, 1]) if len(table) else None,
        _power(summary["ribbon"], kept["power_relative"], kept.get("power_unsure", False)),
        kept["start_c"],
        kept["room_c"],
        _warm(summary["ribbon"], kept),
        None if lost is None else Measured(lost["value"], (Part("heat", lost["expanded"] / 2.0),)),
        tuple((a, b, lost) for a, b, lost in kept["losses"]),
        tuple((a, b) for a, b in kept["holds"]),
        tuple((a, b) for a, b in kept["contacts"]),
    )


def _warm(band: dict[str, Any], kept: dict[str, Any]) -> Warm | None:
    if kept["hottest_c"] is None:
        return None
    celsius = band.get("celsius")
    steps = None if celsius is None else np.array([math.nan if c is None else c for c in celsius], dtype=float)
    return Warm(kept["hottest_c"], kept["rise_k"], kept["hottest_min"], band.get("step_min", 1.0), steps)


def _power(band: dict[str, Any], relative: float | None, unsure: bool) -> Power | None:
    if relative is None or "watts" not in band:
        return None
    watts = np.array([math.nan if w is None else w for w in band["watts"]], dtype=float)
    return Power(band["step_min"], watts, relative, unsure)
