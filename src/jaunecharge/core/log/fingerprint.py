"""Fingerprints of recordings, by which one that is read twice is known for a copy."""

import hashlib
from dataclasses import dataclass

import numpy as np

from ..arrays import Array
from ..units import MINUTE_S
from .check_ins import CheckIns
from .trace import PowerTrace

TELLING_ROWS = 8
"""A series of fewer rows may agree with another by chance (own choice)."""


@dataclass(frozen=True)
class Recording:
    """Fingerprint of a recording. meter : of the meter's log; levels : of the check-ins; each empty where there is
    none, or too little to tell it by; placed_min : the placing, after the log's first row [min]."""

    meter: str = ""
    levels: str = ""
    placed_min: float = 0.0

    @property
    def telling(self) -> bool:
        return bool(self.meter or self.levels)


def recording_of(trace: PowerTrace, readings: CheckIns | None, placed_s: float) -> Recording:
    """Fingerprint of the recording of a run; placed_s [s] on the log's clock."""
    start_s = float(trace.time_s[0])
    return Recording(
        _mark(trace.time_s, trace.power_w) if trace.metered else "",
        levels_mark(readings),
        round((placed_s - start_s) / MINUTE_S, 2),
    )


def levels_mark(readings: CheckIns | None) -> str:
    """Fingerprint of check-ins; empty for few."""
    return "" if readings is None else _mark(readings.time_s, readings.percent)


def _mark(time_s: Array, values: Array) -> str:
    """Of a series, counted from its first row, to 10 ms and 1 mW: the same whatever file it stood in."""
    if len(time_s) < TELLING_ROWS:
        return ""
    table = np.round(np.column_stack([(time_s - time_s[0]) * 100.0, np.nan_to_num(values, nan=-1.0) * 1000.0]))
    return hashlib.sha256(table.astype("<i8").tobytes()).hexdigest()
