"""Logs of runs: what is kept of one as series of columns, and loaded to be read again."""

import uuid
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.arrays import Array
from ...core.log import (
    Besides,
    CheckIns,
    HeatLog,
    Minutes,
    PowerTrace,
    Surface,
    by_minute,
    clean_trace,
    make_check_ins,
    power_trace,
    unmetered,
)
from ...core.log import besides as told_besides
from ...core.reading import RunLog
from .. import models as m
from . import rows
from .series import Columns, Progress, drop_series, in_order, keep_series, load_between, load_series

SAMPLES, MINUTES, SOCKET = "samples", "minutes", "socket_samples"
CHECKINS, AMBIENTS, TEMPERATURES = "checkins", "ambients", "temperatures"
PHONE_WATTS, HUMIDITIES, CHARGING, LIGHTS = "phone_watts", "humidities", "charging", "lights"
SHORT_DECIMALS = 4
"""Decimals of a minute's watts, as many as are ever shown: products of volts and amps fill all that a double has."""

LEAST_SHORTENED = 4
"""Samples a minute from which its minutes are kept beside a run: of fewer they would be no shorter (own choice)."""


def keep_log(session: Session, run: m.Run, log: RunLog, progress: Progress = lambda fraction: None) -> None:
    """Keep the log of a run that has none yet; its reading is another matter."""
    if log.trace.metered:
        keep_trace(session, run, log.trace, progress)
    if log.readings is not None:
        keep_checkins(session, run.id, log.readings)
    if log.heat is not None:
        keep_heat(session, run, log.heat)
    reports = log.besides
    for name, columns in {
        PHONE_WATTS: in_order(t_s=reports.time_s, watts=reports.watts),
        HUMIDITIES: in_order(t_s=reports.humidity_s, percent=reports.humidity),
        CHARGING: in_order(t_s=[t for t, _ in reports.charging], charges=[float(c) for _, c in reports.charging]),
        LIGHTS: in_order(t_s=[*dict(reports.lights)], lit=[float(lit) for lit in dict(reports.lights).values()]),
    }.items():
        keep_series(session, run.id, name, columns)
    if log.socket is not None:
        keep_series(session, run.id, SOCKET, trace_columns(log.socket))


def keep_trace(session: Session, run: m.Run, trace: PowerTrace, progress: Progress = lambda fraction: None) -> None:
    """Keep the samples of a run, and its minutes beside them."""
    keep_series(session, run.id, SAMPLES, trace_columns(trace), progress)
    run.step_s = trace.step_s
    minutes = by_minute(trace)
    if len(trace.time_s) >= LEAST_SHORTENED * len(minutes.start_s):
        columns = {name: np.round(c, SHORT_DECIMALS) if name.endswith("_w") else c for name, c in vars(minutes).items()}
        keep_series(session, run.id, MINUTES, {"t_s": minutes.start_s, **columns})


def trace_columns(trace: PowerTrace) -> Columns:
    """Columns of a meter's samples; watts that are its volts times its amps are not kept."""
    columns = {"t_s": trace.time_s}
    if trace.volts is not None and trace.amps is not None:
        columns |= {"volts": trace.volts, "amps": trace.amps}
        # To the last bit: of −0 A at 9 V the product is −0 W, which a meter writes as 0.
        if (trace.volts * trace.amps).tobytes() == np.ascontiguousarray(trace.power_w).tobytes():
            return columns
    return columns | {"watts": trace.power_w}


def watts_of(columns: Columns) -> Array:
    """Watts of a meter's samples."""
    return columns["watts"] if "watts" in columns else columns["volts"] * columns["amps"]


def keep_checkins(session: Session, run_id: uuid.UUID, readings: CheckIns) -> None:
    """Keep the check-ins of a run in the place of those that it has."""
    drop_series(session, run_id, CHECKINS)
    keep_series(session, run_id, CHECKINS, in_order(t_s=readings.time_s, percent=readings.percent))


def keep_heat(session: Session, run: m.Run, heat: HeatLog) -> None:
    """Keep the temperatures of a run in the place of those that it has; a room's that was only typed is none."""
    drop_series(session, run.id, TEMPERATURES, AMBIENTS)
    for surface in heat.surfaces:
        columns = in_order(t_s=surface.time_s, celsius=surface.celsius)
        keep_series(session, run.id, f"{TEMPERATURES}:{surface.position}", columns)
    typed = run.case.ambient_c
    if heat.ambient is not None and not (typed is not None and np.all(heat.ambient.celsius == typed)):
        columns = in_order(t_s=heat.ambient.time_s, celsius=heat.ambient.celsius)
        keep_series(session, run.id, AMBIENTS, columns)


def checkins_of(session: Session, run: m.Run) -> list[tuple[float, float]]:
    """Check-ins of a run: (time [s], %)."""
    columns = series_of(session, run, only=CHECKINS).get(CHECKINS)
    return [] if columns is None else list(zip(columns["t_s"].tolist(), columns["percent"].tolist(), strict=True))


def series_of(
    session: Session, run: m.Run, without: tuple[str, ...] = (), only: str | None = None
) -> dict[str, Columns]:
    """Series of a run by name, from wherever they are: one that is not packed yet may be so meanwhile."""
    if not _is_packed(session, run):
        found = rows.series_in_rows(session, run.id)
        # Each statement sees what others have committed before it: as long as it is not packed, all rows were there.
        if not _is_packed(session, run):
            return {
                name: columns
                for name, columns in found.items()
                if name not in without and only in (None, name.partition(":")[0])
            }
    return load_series(session, run.id, without, only)


def _is_packed(session: Session, run: m.Run) -> bool:
    return run.packed or bool(session.scalar(select(m.Run.packed).where(m.Run.id == run.id)))


@dataclass(frozen=True)
class Beside:
    """A log without the meter's samples."""

    readings: CheckIns | None
    heat: HeatLog | None
    besides: Besides
    socket: PowerTrace | None


def load_beside(session: Session, run: m.Run) -> Beside:
    """Log of a run without the meter's samples."""
    return _beside(run, series_of(session, run, without=(SAMPLES, MINUTES)))


def _beside(run: m.Run, series: Mapping[str, Columns]) -> Beside:
    socket = series.get(SOCKET)
    trace = None
    if socket is not None:
        trace = power_trace(socket["t_s"], watts_of(socket), socket.get("volts"), socket.get("amps"))
    return Beside(_readings(series), _heat(run, series), _besides(series), trace)


def load_log(session: Session, run: m.Run) -> RunLog:
    """Log of a run."""
    series = series_of(session, run, without=(MINUTES,))
    beside = _beside(run, series)
    if run.samples == 0:
        moments = [t for columns in _looked_at(series) for t in (columns["t_s"][0], columns["t_s"][-1])]
        trace = unmetered(float(min(moments)), float(max(moments)))
    else:
        trace = _trace(run, series[SAMPLES])
    return RunLog(trace, beside.readings, beside.heat, besides=beside.besides, socket=beside.socket)


def _looked_at(series: Mapping[str, Columns]) -> list[Columns]:
    return [c for name, c in series.items() if name == CHECKINS or name.startswith(f"{TEMPERATURES}:")]


def _trace(run: m.Run, columns: Columns) -> PowerTrace:
    parts = columns["t_s"], watts_of(columns), columns.get("volts"), columns.get("amps")
    return clean_trace(*parts, run.cleaned.get("duplicates", 0), run.cleaned.get("reordered", 0))


def _readings(series: Mapping[str, Columns]) -> CheckIns | None:
    columns = series.get(CHECKINS)
    return None if columns is None else make_check_ins(columns["t_s"], columns["percent"])


def _besides(series: Mapping[str, Columns]) -> Besides:
    def pairs(name: str, figure: str) -> list[tuple[float, float]]:
        columns = series.get(name)
        return [] if columns is None else list(zip(columns["t_s"].tolist(), columns[figure].tolist(), strict=True))

    return told_besides(
        pairs(PHONE_WATTS, "watts"),
        ((t, bool(lit)) for t, lit in pairs(LIGHTS, "lit")),
        ((t, bool(charges)) for t, charges in pairs(CHARGING, "charges")),
        pairs(HUMIDITIES, "percent"),
    )


def _heat(run: m.Run, series: Mapping[str, Columns]) -> HeatLog | None:
    surfaces = [
        Surface(name.split(":", 1)[1], series[name]["t_s"], series[name]["celsius"])
        for name in sorted(series)
        if name.startswith(f"{TEMPERATURES}:")
    ]
    if not surfaces:
        return None
    room = series.get(AMBIENTS)
    ambient = None if room is None else Surface("ambient", room["t_s"], room["celsius"])
    typed = run.case.ambient_c
    if ambient is None and typed is not None:
        ambient = Surface("ambient", surfaces[0].time_s[:1], np.array([typed]))
    return HeatLog(tuple(surfaces), ambient)


def minutes_of(session: Session, run: m.Run) -> Minutes | None:
    """Minutes of a run's samples; None where none are kept."""
    columns = load_between(session, run.id, MINUTES, -np.inf, np.inf) if run.packed else None
    return None if columns is None else Minutes(**{name: v for name, v in columns.items() if name != "t_s"})


def samples_between(session: Session, run: m.Run, from_s: float, to_s: float) -> Columns | None:
    """Samples of a stretch of a run [s], and those of the chunks that it begins and ends in."""
    return load_between(session, run.id, SAMPLES, from_s, to_s) if run.packed else None


def pack(session: Session, run: m.Run) -> None:
    """Pack the log of a run, unless it is: the rows go once what was packed is the same to the last bit.

    Raises
    ------
    AssertionError
        If it is not: nothing is changed then.
    """
    if run.packed:
        return
    session.refresh(run, with_for_update=True)
    if run.packed:
        return
    kept_at, found = run.updated_at, rows.series_in_rows(session, run.id)
    for name, columns in found.items():
        if name == SAMPLES:
            keep_trace(session, run, _trace(run, columns))
        else:
            keep_series(session, run.id, name, columns)
    again = load_series(session, run.id, without=(MINUTES,))
    if not same(found, again):
        raise AssertionError(f"the log of run {run.id} does not come back as it was")
    rows.drop_rows(session, run.id)
    run.packed = True
    # Nobody changed it: a window that shows it need not ask anew, and no later save is refused.
    run.updated_at = kept_at
    session.flush()


def same(found: Mapping[str, Columns], again: Mapping[str, Columns]) -> bool:
    """Whether series are the same to the last bit, watts that are not kept among them."""
    if found.keys() != again.keys():
        return False
    for name, columns in found.items():
        mine = dict(again[name])
        if "watts" in columns and "watts" not in mine:
            mine["watts"] = watts_of(mine)
        if mine.keys() != columns.keys():
            return False
        if any(mine[c].tobytes() != np.ascontiguousarray(v).tobytes() for c, v in columns.items()):
            return False
    return True
