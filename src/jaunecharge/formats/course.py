"""The course of a run as a document that is kept with its summary, and read back."""

import math
from typing import Any

import numpy as np

from ..core.battery import CheckIns
from ..core.course import Course, Power
from ..core.measured import Measured, Part
from ..core.units import MINUTE_S
from .numbers import measured, number


def course_document(course: Course) -> dict[str, Any]:
    """What a summary keeps of a course; its power stands in the ribbon already."""
    readings = course.readings
    return {
        "checkins": []
        if readings is None
        else [
            [round(t / MINUTE_S, 4), round(p, 2)]
            for t, p in zip(readings.time_s.tolist(), readings.percent.tolist(), strict=True)
        ],
        "power_relative": None if course.power is None else round(course.power.relative, 6),
        "start_c": number(course.start_c, 2),
        "room_c": number(course.room_c, 2),
        "rise_k": number(course.rise_k, 2),
        "hottest_c": number(course.hottest_c, 2),
        "lost_min": measured(course.lost_min),
        "holds": [[round(x, 2) for x in h] for h in course.holds],
        "contacts": [[round(x, 2) for x in c] for c in course.contacts],
    }


def course_of_summary(summary: dict[str, Any]) -> Course | None:
    """The course that a summary keeps; None where an older reader made it.

    Without the ribbon's watts it has no power.
    """
    kept = summary.get("course")
    if kept is None:
        return None
    table = np.array(kept["checkins"], dtype=float).reshape(-1, 2)
    lost = kept["lost_min"]
    return Course(
        CheckIns(table[:, 0] * MINUTE_S, table[:, 1]) if len(table) else None,
        _power(summary["ribbon"], kept["power_relative"]),
        kept["start_c"],
        kept["room_c"],
        kept["hottest_c"],
        kept["rise_k"],
        None if lost is None else Measured(lost["value"], (Part("heat", lost["expanded"] / 2.0),)),
        tuple((a, b) for a, b in kept["holds"]),
        tuple((a, b) for a, b in kept["contacts"]),
    )


def _power(band: dict[str, Any], relative: float | None) -> Power | None:
    if relative is None or "watts" not in band:
        return None
    watts = np.array([math.nan if w is None else w for w in band["watts"]], dtype=float)
    return Power(band["step_min"], watts, relative)
