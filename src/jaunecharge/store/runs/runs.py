"""Runs: stored from what was read, loaded to be read again, changed with their first values kept."""

import datetime as dt
import uuid
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
from sqlalchemy import insert, select
from sqlalchemy.orm import Session

from ...core.factors import NAMES
from ...core.kit import Phone
from ...core.labels import label
from ...core.log import (
    Besides,
    CheckIns,
    Cleaned,
    HeatLog,
    PowerTrace,
    Surface,
    make_check_ins,
    power_trace,
    unmetered,
)
from ...core.log import besides as told_besides
from ...core.plan import Card
from ...core.reading import RunLog
from ...documents.case import Case
from ...formats.read.source import READER
from .. import models as m
from ..errors import NotThere
from ..kit import shelf, used_kit
from ..plan.cards import card_named
from .files import keep_file
from .readings import keep_reading
from .samples import copy_in, copy_out

Progress = Callable[[float], None]


@dataclass(frozen=True)
class FileRead:
    """A file that a run was read from: where it lies, its name, its role, and how it was understood."""

    path: Path
    name: str
    role: str
    understood: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class NewRun:
    """A run to be stored."""

    label: str
    log: RunLog
    case: Case
    factors: dict[str, str] = field(default_factory=dict)
    files: tuple[FileRead, ...] = ()
    note: str = ""
    origin: str = "imported"
    started_at: dt.datetime | None = None
    zone: str = "UTC"
    by: str = ""
    remarks: tuple[str, ...] = ()
    rehearsal: dict[str, Any] | None = None
    card: Card | None = None


def add_run(session: Session, new: NewRun, progress: Progress = lambda fraction: None) -> m.Run:
    """Store a run and its reading; nothing of it is kept if any of it is refused.

    Raises
    ------
    CannotRead
    """
    new.case.conditions()
    trace = new.log.trace
    factors = {name: label(text, name) for name, text in new.factors.items() if name in NAMES and text.strip()}
    run = m.Run(
        id=uuid.uuid4(),
        label=label(new.label) or "Run without a label",
        factors=factors,
        kit=used_kit(session, factors),
        card=new.card or card_named(session, factors.get("method", "")),
        rehearsal=new.rehearsal,
        case=new.case,
        origin=new.origin,
        started_at=new.started_at,
        zone=new.zone,
        cleaned={"duplicates": trace.cleaned.duplicates, "reordered": trace.cleaned.reordered},
        remarks=list(new.remarks),
        samples=len(trace.time_s) if trace.metered else 0,
        decisions=(),
        created_by=new.by,
    )
    session.add(run)
    session.flush()
    keep_reading(session, run, new.log)
    if trace.metered:
        copy_in(
            session,
            "power_samples",
            ("t_s", "watts", "volts", "amps"),
            run.id,
            [trace.time_s, trace.power_w, trace.volts, trace.amps],
            progress,
        )
    _keep_readings(session, run.id, new.log.readings)
    _keep_heat(session, run.id, new.log.heat, new.case.ambient_c)
    _keep_besides(session, run.id, new.log.besides)
    _keep_socket(session, run.id, new.log.socket)
    for file in new.files:
        stored = keep_file(session, file.path, file.name)
        session.add(
            m.RunFile(run_id=run.id, role=file.role, file_id=stored.id, reader=READER, understood=file.understood)
        )
    if new.note.strip():
        session.add(m.Note(run_id=run.id, text=new.note.strip(), created_by=new.by))
    session.flush()
    return run


def _keep_readings(session: Session, run_id: uuid.UUID, readings: CheckIns | None) -> None:
    if readings is not None and len(readings):
        copy_in(session, "checkins", ("t_s", "percent"), run_id, [readings.time_s, readings.percent])


def _keep_heat(session: Session, run_id: uuid.UUID, heat: HeatLog | None, typed_ambient_c: float | None) -> None:
    if heat is None:
        return
    rows = [
        {"run_id": run_id, "position": s.position, "t_s": t, "celsius": c}
        for s in heat.surfaces
        for t, c in zip(s.time_s.tolist(), s.celsius.tolist(), strict=True)
    ]
    session.execute(insert(m.Temperature), rows)
    if heat.ambient is not None and not (
        typed_ambient_c is not None and np.all(heat.ambient.celsius == typed_ambient_c)
    ):
        copy_in(session, "ambients", ("t_s", "celsius"), run_id, [heat.ambient.time_s, heat.ambient.celsius])


def _keep_besides(session: Session, run_id: uuid.UUID, reports: Besides) -> None:
    if len(reports.time_s):
        copy_in(session, "phone_watts", ("t_s", "watts"), run_id, [reports.time_s, reports.watts])
    for t_s, lit in dict(reports.lights).items():
        session.add(m.Light(run_id=run_id, t_s=t_s, lit=lit))
    for t_s, charges in reports.charging:
        session.add(m.Charging(run_id=run_id, t_s=t_s, charges=charges))
    if len(reports.humidity_s):
        copy_in(session, "humidities", ("t_s", "percent"), run_id, [reports.humidity_s, reports.humidity])


def _keep_socket(session: Session, run_id: uuid.UUID, trace: PowerTrace | None) -> None:
    if trace is not None:
        columns = [trace.time_s, trace.power_w, trace.volts, trace.amps]
        copy_in(session, "socket_samples", ("t_s", "watts", "volts", "amps"), run_id, columns)


def _load_besides(session: Session, run_id: uuid.UUID) -> Besides:
    time_s, watts = copy_out(session, "phone_watts", ("t_s", "watts"), run_id)
    lights = session.execute(select(m.Light.t_s, m.Light.lit).where(m.Light.run_id == run_id)).all()
    charging = session.execute(select(m.Charging.t_s, m.Charging.charges).where(m.Charging.run_id == run_id)).all()
    room_s, humidity = copy_out(session, "humidities", ("t_s", "percent"), run_id)
    return told_besides(
        zip(time_s.tolist(), watts.tolist(), strict=True),
        ((t_s, lit) for t_s, lit in lights),
        ((t_s, charges) for t_s, charges in charging),
        zip(room_s.tolist(), humidity.tolist(), strict=True),
    )


def _load_socket(session: Session, run_id: uuid.UUID) -> PowerTrace | None:
    time_s, watts, volts, amps = copy_out(session, "socket_samples", ("t_s", "watts", "volts", "amps"), run_id)
    if not len(time_s):
        return None
    absent = bool(np.isnan(volts).any() or np.isnan(amps).any())
    return power_trace(time_s, watts, None if absent else volts, None if absent else amps)


def get_run(session: Session, run_id: uuid.UUID, deleted: bool = False) -> m.Run:
    """A run by its id.

    Raises
    ------
    NotThere
    """
    run = session.get(m.Run, run_id)
    if run is None or (run.deleted_at is not None and not deleted):
        raise NotThere(f"there is no run {run_id}")
    return run


def list_runs(session: Session, deleted: bool = False) -> list[m.Run]:
    """All runs, the newest first; or those that were deleted, the latest deleted first."""
    query = select(m.Run)
    if deleted:
        query = query.where(m.Run.deleted_at.is_not(None)).order_by(m.Run.deleted_at.desc())
    else:
        query = query.where(m.Run.deleted_at.is_(None)).order_by(m.Run.created_at.desc(), m.Run.id)
    return list(session.scalars(query))


def load_log(session: Session, run: m.Run) -> RunLog:
    """Log of a run."""
    if run.samples == 0:
        return _load_unmetered(session, run)
    time_s, watts, volts, amps = copy_out(session, "power_samples", ("t_s", "watts", "volts", "amps"), run.id)
    absent = bool(np.isnan(volts).all())
    trace = PowerTrace(time_s, watts, None if absent else volts, None if absent else amps, Cleaned())
    missing = sum(end - start - trace.step_s for start, end in trace.holes)
    cleaned = Cleaned(run.cleaned.get("duplicates", 0), run.cleaned.get("reordered", 0), missing)
    trace = PowerTrace(trace.time_s, trace.power_w, trace.volts, trace.amps, cleaned)
    seconds, percent = copy_out(session, "checkins", ("t_s", "percent"), run.id)
    readings = make_check_ins(seconds, percent) if len(seconds) else None
    besides, socket = _load_besides(session, run.id), _load_socket(session, run.id)
    return RunLog(trace, readings, _load_heat(session, run), besides=besides, socket=socket)


def _load_unmetered(session: Session, run: m.Run) -> RunLog:
    """Log of a run that no meter saw."""
    seconds, percent = copy_out(session, "checkins", ("t_s", "percent"), run.id)
    heat = _load_heat(session, run)
    moments = [*seconds.tolist(), *(t for s in (heat.surfaces if heat else ()) for t in s.time_s.tolist())]
    readings = make_check_ins(seconds, percent) if len(seconds) else None
    besides, socket = _load_besides(session, run.id), _load_socket(session, run.id)
    return RunLog(unmetered(min(moments), max(moments)), readings, heat, besides=besides, socket=socket)


def _load_heat(session: Session, run: m.Run) -> HeatLog | None:
    rows = session.execute(
        select(m.Temperature.position, m.Temperature.t_s, m.Temperature.celsius)
        .where(m.Temperature.run_id == run.id)
        .order_by(m.Temperature.position, m.Temperature.t_s)
    ).all()
    if not rows:
        return None
    surfaces = []
    for position in dict.fromkeys(r.position for r in rows):
        at = [(r.t_s, r.celsius) for r in rows if r.position == position]
        surfaces.append(Surface(position, np.array([t for t, _ in at]), np.array([c for _, c in at])))
    seconds, celsius = copy_out(session, "ambients", ("t_s", "celsius"), run.id)
    ambient = Surface("ambient", seconds, celsius) if len(seconds) else None
    typed = run.case.ambient_c
    if ambient is None and typed is not None:
        ambient = Surface("ambient", np.array([rows[0].t_s]), np.array([typed]))
    return HeatLog(tuple(surfaces), ambient)


def is_spot(run: m.Run) -> bool:
    """Whether a run is a spot check."""
    return run.card is not None and run.card.is_spot


def files_of(session: Session, run_id: uuid.UUID) -> list[tuple[m.RunFile, m.File]]:
    """The files that a run was read from."""
    rows = session.execute(
        select(m.RunFile, m.File).join(m.File, m.File.id == m.RunFile.file_id).where(m.RunFile.run_id == run_id)
    )
    return [(run_file, file) for run_file, file in rows]


@dataclass(frozen=True)
class KnownPhone:
    """A phone that stands on the shelf, or was tested before: its label and battery."""

    label: str
    capacity_mah: float | None
    nominal_v: float | None
    battery_health: float | None


def known_phones(session: Session) -> list[KnownPhone]:
    """Phones on the shelf, then others that were tested before, the latest first."""
    phones = {
        piece.label.lower(): KnownPhone(
            piece.label,
            piece.facts.get("capacity_mah"),
            piece.facts.get("nominal_v", Phone.nominal_v),
            piece.facts.get("battery_health"),
        )
        for piece in shelf(session)
        if piece.kind == "phone"
    }
    for run in list_runs(session):
        label, case = run.factors.get("phone"), run.case
        if label and label.lower() not in phones:
            phones[label.lower()] = KnownPhone(label, case.capacity_mah, case.nominal_v, case.battery_health)
    return list(phones.values())


def with_battery(session: Session, case: Case, phone: str) -> Case:
    """Conditions with the battery of a phone that is known, where they state none."""
    if case.capacity_mah is not None or case.nominal_v is not None:
        return case
    known = next((p for p in known_phones(session) if p.label.lower() == phone.strip().lower()), None)
    if known is None or known.capacity_mah is None or known.nominal_v is None:
        return case
    battery = {"capacity_mah": known.capacity_mah, "nominal_v": known.nominal_v, "battery_health": known.battery_health}
    return case.model_copy(update=battery)
