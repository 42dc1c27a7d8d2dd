"""Runs: stored from what was read, loaded to be read again, changed with their first values kept."""

import datetime as dt
import uuid
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ...core.factors import NAMES
from ...core.kit import Phone
from ...core.labels import label
from ...core.plan import Card
from ...core.reading import RunLog
from ...documents.case import Case
from ...formats.read.source import READER
from .. import models as m
from ..errors import NotThere
from ..kit import shelf, used_kit
from ..listing.models import Listed
from ..plan.cards import card_named
from .files import keep_file
from .logs import keep_log
from .readings import keep_reading

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
    keep_log(session, run, new.log, progress)
    for file in new.files:
        stored = keep_file(session, file.path, file.name)
        session.add(
            m.RunFile(run_id=run.id, role=file.role, file_id=stored.id, reader=READER, understood=file.understood)
        )
    if new.note.strip():
        session.add(m.Note(run_id=run.id, text=new.note.strip(), created_by=new.by))
    session.flush()
    return run


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


def newest_runs(session: Session, most: int) -> list[m.Run]:
    """The newest runs."""
    query = select(m.Run).where(m.Run.deleted_at.is_(None)).order_by(m.Run.created_at.desc(), m.Run.id)
    return list(session.scalars(query.limit(most)))


def runs_by_id(session: Session, run_ids: Sequence[uuid.UUID]) -> list[m.Run]:
    """Runs in the order of their ids; one that is no longer there is left out."""
    found = {run.id: run for run in session.scalars(select(m.Run).where(m.Run.id.in_(run_ids)))}
    return [found[run_id] for run_id in run_ids if run_id in found]


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
    lower = func.lower(Listed.phone)
    latest = select(Listed.run_id, Listed.created_at).where(Listed.phone != "")
    latest = latest.distinct(lower).order_by(lower, Listed.created_at.desc(), Listed.run_id)
    of_each = latest.subquery()
    query = select(m.Run.factors, m.Run.case_json).join(of_each, of_each.c.run_id == m.Run.id)
    for factors, raw in session.execute(query.order_by(of_each.c.created_at.desc(), m.Run.id)):
        label, case = factors["phone"], Case.read(raw)
        if label.lower() not in phones:
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
