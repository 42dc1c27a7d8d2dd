"""Material of a finding from the store, and a mark of each source by which a finding knows that it is out of date."""

import hashlib
import json
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from types import MappingProxyType
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.errors import CannotRead
from ...core.findings import Material, OutputSeen, PackSeen, WantedRun, read_question
from ...core.kit import Charger, Phone, as_charger, transmits
from ...core.measured import Measured, Part
from ...core.packs import rating
from ...core.reading import READER_VERSION
from ...core.versus import previous_ends
from ...documents.finding import FindingDocument, SourceMark
from ...documents.numbers import MeasuredDocument
from ...documents.run_summary import RunSummary
from .. import models as m
from .. import settings
from ..pack_listing import listed, overview_of
from ..packs import packs
from ..runs.readings import kit_used
from ..versus import contender_of

DROPPED, VOID = "let go", "void"
USED = ("course", "output", "levels", "ribbon")
"""Parts of a summary that a finding uses."""


@dataclass(frozen=True)
class Gathered:
    """Material, marks of its sources by id or label, and minutes that draining and cooling take, by phone."""

    material: Material
    marks: Mapping[str, SourceMark]
    drains: Mapping[str, float]


def packs_used(session: Session, document: FindingDocument) -> list[str]:
    """Packs of a finding: those that were chosen, and those that its runs charged from."""
    own = {p.label.casefold(): p.label for p in packs(session)}
    used = [
        own[text.casefold()]
        for run in runs_of(session, run_ids(session, document))
        for factor in ("charger", "adapter")
        if (text := run.factors.get(factor, "")).casefold() in own
    ]
    claimed = [own[c.about.casefold()] for c in document.claims if c.about.casefold() in own]
    return list({label.casefold(): label for label in (*document.packs, *used, *claimed)}.values())


def run_ids(session: Session, document: FindingDocument) -> list[uuid.UUID]:
    """Runs of a finding: those that were chosen, and those that its plan has by now."""
    ids = list(document.runs)
    if document.plan is not None:
        slots = select(m.Slot.run_id).where(m.Slot.plan_id == document.plan, m.Slot.run_id.is_not(None))
        ids += [i for i in session.scalars(slots.order_by(m.Slot.position)) if i is not None]
    return list(dict.fromkeys(ids))


def runs_of(session: Session, ids: Sequence[uuid.UUID]) -> list[m.Run]:
    """Runs by their ids that are not deleted, in that order."""
    if not ids:
        return []
    found = {r.id: r for r in session.scalars(select(m.Run).where(m.Run.id.in_(ids), m.Run.deleted_at.is_(None)))}
    return [found[i] for i in ids if i in found]


def gather(session: Session, document: FindingDocument) -> Gathered:
    """All that a finding is drawn up from.

    Raises
    ------
    CannotRead
        If some of its runs are being read again.
    """
    runs = runs_of(session, run_ids(session, document))
    waiting = [r for r in runs if r.reader_version != READER_VERSION and r.summary.course is None]
    if waiting:
        raise CannotRead("some of its runs are being read again", "wait a moment, and draft it again", file="runs")
    contenders = [contender_of(r) for r in runs]
    ends = previous_ends(contenders)
    phones, chargers = _kit(runs)
    seen = {p.label.casefold(): p for p in pack_seen(session, document.packs)}
    habits, _ = settings.habits(session)
    material = Material(
        question=read_question(document.question),
        audience=document.audience,
        runs=[replace(c, after=ends.get(c.key)) for c in contenders],
        phones=phones,
        chargers=chargers,
        outputs={str(r.id): output_seen(r.summary) for r in runs},
        packs=list(seen.values()),
        wanted=_wanted(session, document.plan),
        claims=[c.claim() for c in document.claims],
        foreign=[f.foreign() for f in document.foreign],
        disclosed=[d.disclosed() for d in document.disclosed],
        habits=habits,
        fahrenheit=document.degrees == "F",
    )
    return Gathered(material, marks(session, document), _drains(session, document.plan))


def _kit(runs: Sequence[m.Run]) -> tuple[dict[str, Phone], dict[str, Charger]]:
    """Phones and chargers as they were when the runs were made, the latest of each."""
    phones: dict[str, Phone] = {}
    chargers: dict[str, Charger] = {}
    for run in sorted(runs, key=lambda r: r.created_at):
        try:
            phone, charger = kit_used(run, "phone"), kit_used(run, "charger")
        except CannotRead:
            continue  # One piece that cannot be read spoils no other.
        if isinstance(phone, Phone):
            phones[phone.label.casefold()] = phone
        if charger is not None and transmits(charger):
            chargers[charger.label.casefold()] = as_charger(charger)
    return phones, chargers


def output_seen(summary: RunSummary) -> OutputSeen:
    """Output of a run as its summary keeps it."""
    output, levels = summary.output, summary.levels
    after = None if levels is None else levels.after_full_w
    return OutputSeen(
        None if output is None else _measured(output.watts),
        None if output is None else output.claimed_w,
        None if output is None else output.claim_met,
        "" if output is None else output.undecided,
        _measured(after),
    )


def _measured(document: MeasuredDocument | None) -> Measured | None:
    if document is None:
        return None
    parts = () if document.expanded is None else (Part("as read", document.expanded / 2.0),)
    return Measured(document.value, parts)


def pack_seen(session: Session, labels: Sequence[str]) -> list[PackSeen]:
    """Packs by their labels, with their tests."""
    wanted = [x.casefold() for x in labels]
    if not wanted:
        return []
    tests = listed(session)
    own = {p.label.casefold(): p for p in packs(session)}
    return [
        PackSeen(
            own[x].label, rating(own[x].rated_mah, own[x].cell_v), overview_of(own[x], tests[x]),
            None if (price := own[x].price) is None else (price.amount, price.currency), own[x].claimed_w,
        )
        for x in dict.fromkeys(wanted)
        if x in own
    ]  # fmt: skip


def _wanted(session: Session, plan: uuid.UUID | None) -> list[WantedRun]:
    """Runs of a plan that were not made."""
    if plan is None:
        return []
    slots = session.scalars(select(m.Slot).where(m.Slot.plan_id == plan).order_by(m.Slot.position)).all()
    return [
        WantedRun(s.phone, s.said, s.state != DROPPED, s.expected.minutes + s.drain_min)
        for s in slots
        if s.run_id is None and s.state != VOID
    ]


def _drains(session: Session, plan: uuid.UUID | None) -> dict[str, float]:
    if plan is None:
        return {}
    slots = session.scalars(select(m.Slot).where(m.Slot.plan_id == plan).order_by(m.Slot.position))
    return {s.phone.casefold(): s.drain_min + s.cool_min for s in slots}


def marks(
    session: Session, document: FindingDocument, before: Mapping[str, SourceMark] = MappingProxyType({})
) -> dict[str, SourceMark]:
    """Marks of everything that a finding uses: runs, packs, and the habits of charging.

    Parameters
    ----------
    before : marks that were taken earlier; a run that was not touched since is not looked into again
    """
    found = _run_marks(session, run_ids(session, document), before)
    tests = listed(session) if document.packs else {}
    shelf = {p.label.casefold(): p for p in packs(session)} if document.packs else {}
    for label in document.packs:
        own = shelf.get(label.casefold())
        if own is not None:
            mark = _hash([repr(own), repr(tests[label.casefold()])])
            found[f"pack {own.label}"] = SourceMark(label=own.label, mark=mark)
    habits, _ = settings.habits(session)
    found["habits"] = SourceMark(label="tariff and habits of charging", mark=_hash(vars(habits)))
    if document.plan is not None:
        open_runs = sorted(f"{w.phone}|{w.said}|{w.to_come}" for w in _wanted(session, document.plan))
        found["plan"] = SourceMark(label="the plan", mark=_hash(open_runs))
    return found


def _run_marks(session: Session, ids: Sequence[uuid.UUID], before: Mapping[str, SourceMark]) -> dict[str, SourceMark]:
    found: dict[str, SourceMark] = {}
    touched = []
    light = select(m.Run.id, m.Run.revision, m.Run.reader_version).where(m.Run.id.in_(ids), m.Run.deleted_at.is_(None))
    for run_id, revision, reader in session.execute(light):
        known = before.get(str(run_id))
        if known is not None and (known.revision, known.reader) == (revision, reader):
            found[str(run_id)] = known
        else:
            touched.append(run_id)
    for run in runs_of(session, touched):
        found[str(run.id)] = SourceMark(
            label=run.label, mark=_run_mark(run), revision=run.revision, reader=run.reader_version
        )  # fmt: skip
    return {str(i): found[str(i)] for i in ids if str(i) in found}


def _run_mark(run: m.Run) -> str:
    summary: dict[str, Any] = run.summary_json or {}
    return _hash(
        [
            run.factors, run.case_json, run.kit, run.card_json, run.outcome,
            None if run.started_at is None else run.started_at.timestamp(), [summary.get(part) for part in USED],
        ]
    )  # fmt: skip


def _hash(what: Any) -> str:
    text = json.dumps(what, sort_keys=True, ensure_ascii=False, default=str)
    return hashlib.sha256(text.encode("utf-8", "replace")).hexdigest()
