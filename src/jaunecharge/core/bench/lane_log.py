"""Log of a run from a lane: instruments, entries and the phone's own reports on one clock."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..log.check_ins import CheckIns, make_check_ins
from ..log.phone_reports import besides
from ..log.points import METER, PHONE, SOCKET
from ..log.temperatures import HeatLog, heat_log
from ..log.trace import PowerTrace, power_trace, unmetered
from ..reading.read_run import RunLog
from ..units import MINUTE_S
from .entry_items import EntryItem

BEFORE_S = 10 * MINUTE_S
"""Time before placing that a run keeps, for its no-load draw (our own)."""

SAME_LINE_S = 1e-6


@dataclass(frozen=True)
class Recorded:
    """One reading of a lane, at `t_s` [s] on its clock; what it does not hold is None; point : where its power was
    metered (`core.log.POINTS`)."""

    t_s: float
    volts: float | None = None
    amps: float | None = None
    watts: float | None = None
    celsius: float | None = None
    position: str = ""
    percent: float | None = None
    point: str = METER
    humidity: float | None = None
    charging: bool | None = None


@dataclass(frozen=True)
class Entered:
    """One entry of a lane's log at `t_s` [s]: corrected where it was, and never one that was undone."""

    t_s: float
    item: EntryItem


def run_log(
    recorded: Sequence[Recorded], entered: Sequence[Entered], placed_s: float | None, ambient_c: float | None = None
) -> RunLog | None:
    """The log of a run; None where nothing was recorded at two moments at least.

    Parameters
    ----------
    recorded : sequence of Recorded
        In any order.
    entered : sequence of Entered
    placed_s : float or None [s]
        When the phone was placed. A level entered before is the one at placing; what was metered long before goes.
    ambient_c : float or None [°C]
        The room as stated, where nobody measured it.
    """
    since = -np.inf if placed_s is None else placed_s - BEFORE_S
    recent = [e for e in entered if e.t_s >= since]
    kept = [r for r in recorded if r.t_s >= since]
    trace = _trace([r for r in kept if r.point == METER], recent)
    readings, heat = levels(recorded, entered, placed_s), _heat(recorded, entered, since, ambient_c)
    log = RunLog(trace, readings, heat) if trace is not None else _without_meter(readings, heat)
    told, at_socket = (
        [(e.t_s, e.item.value) for e in recent if e.item.kind == kind and e.item.value is not None]
        for kind in ("phone watts", "socket watts")
    )
    more = besides(
        [*told, *((r.t_s, r.watts) for r in kept if r.point == PHONE and r.watts is not None)],
        ((e.t_s, e.item.text == "on") for e in recent if e.item.kind == "light"),
        ((r.t_s, r.charging) for r in kept if r.charging is not None),
        ((r.t_s, r.humidity) for r in kept if r.humidity is not None),
    )
    typed = [Recorded(at, watts=watts) for at, watts in at_socket]
    socket = _trace([*(r for r in kept if r.point == SOCKET), *typed], [])
    return None if log is None else replace(log, besides=more, socket=socket)


def _trace(recorded: Sequence[Recorded], entered: Sequence[Entered]) -> PowerTrace | None:
    rows = [(r.t_s, r.watts, r.volts, r.amps) for r in recorded if r.watts is not None]
    rows += by_hand(entered)
    if len({t for t, *_ in rows}) < 2:
        return None
    rows.sort(key=lambda row: row[0])
    time_s, watts = np.array([r[0] for r in rows]), np.array([r[1] for r in rows], dtype=float)
    volts, amps = (_whole([r[i] for r in rows]) for i in (2, 3))
    return power_trace(time_s, watts, volts, amps)


def _without_meter(readings: CheckIns | None, heat: HeatLog | None) -> RunLog | None:
    """The log of a run that no meter saw: from its first percentage or temperature to its last."""
    moments = [] if readings is None else readings.time_s.tolist()
    moments += [t for s in (heat.surfaces if heat else ()) for t in s.time_s.tolist()]
    if len(set(moments)) < 2:
        return None
    return RunLog(unmetered(min(moments), max(moments)), readings, heat)


def _whole(values: list[float | None]) -> np.ndarray | None:
    """A column, or None where any of it is missing."""
    return None if any(v is None for v in values) else np.array(values, dtype=float)


def by_hand(entered: Sequence[Entered]) -> list[tuple[float, float, float | None, float | None]]:
    """Meter readings that were typed: (at [s], watts, volts, amps); volts and amps of one line belong together."""
    rows = []
    lines: dict[float, dict[str, float]] = {}
    for e in entered:
        if e.item.kind == "meter" and e.item.value is not None:
            lines.setdefault(round(e.t_s / SAME_LINE_S) * SAME_LINE_S, {})[e.item.unit] = e.item.value
    for at, figures in lines.items():
        volts, amps = figures.get("v"), figures.get("a")
        watts = figures.get("w", volts * amps if volts is not None and amps is not None else None)
        if watts is not None:
            rows.append((at, watts, volts, amps))
    return rows


def levels(recorded: Sequence[Recorded], entered: Sequence[Entered], placed_s: float | None) -> CheckIns | None:
    """The check-ins of a lane; of a continuous report each change, and what stood before it."""
    reported = sorted((r.t_s, r.percent) for r in recorded if r.percent is not None)
    points = [
        (t, p)
        for i, (t, p) in enumerate(reported)
        if i in (0, len(reported) - 1) or p != reported[i - 1][1] or p != reported[i + 1][1]
    ]
    typed = [(e.t_s, e.item.value) for e in entered if e.item.kind == "percent" and e.item.value is not None]
    both = sorted({*points, *typed})
    if placed_s is not None:
        before = [p for t, p in both if t < placed_s]
        both = [(t, p) for t, p in both if t >= placed_s]
        if before and (not both or both[0][0] > placed_s):
            both.insert(0, (placed_s, before[-1]))
    if not both:
        return None
    return make_check_ins(np.array([t for t, _ in both]), np.array([p for _, p in both]))


def _heat(
    recorded: Sequence[Recorded], entered: Sequence[Entered], since: float, ambient_c: float | None
) -> HeatLog | None:
    rows = [(r.t_s, r.position or "back", r.celsius) for r in recorded if r.celsius is not None]
    rows += [(e.t_s, e.item.text or "back", c) for e in entered if (c := e.item.celsius) is not None]
    rows = sorted(row for row in rows if row[0] >= since)
    if not rows:
        return None
    time_s, celsius = np.array([t for t, _, _ in rows]), np.array([c for *_, c in rows], dtype=float)
    return heat_log([position for _, position, _ in rows], time_s, celsius, ambient_c)
