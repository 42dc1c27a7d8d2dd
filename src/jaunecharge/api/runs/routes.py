"""Runs: read from files, listed, shown, corrected, laid aside."""

import datetime as dt
import uuid
from collections.abc import Mapping
from functools import partial
from typing import Annotated, Any, Literal

import numpy as np
from fastapi import Query, Request, Response
from fastapi.responses import StreamingResponse
from sqlalchemy.orm import Session

from ...core.log import CheckIns, ClockKind, level_points, placed_said, zone_named
from ...core.plan import in_words
from ...core.reading import Reading, chain_stages
from ...core.report import figures, sentences, warnings
from ...core.units import MINUTE_S
from ...core.versus import Contender
from ...documents.run_summary import MilestoneDocument
from ...formats.read.apart import apart
from ...formats.read.assemble import pasted_readings
from ...formats.read.files import run_of
from ...formats.read.logs import on_log_clock
from ...store import models as m
from ...store.bench.entries import entry_said, first_said
from ...store.plan.plans import get_plan
from ...store.plan.slots import fill_slot, slot_of_run
from ...store.runs import changes
from ...store.runs import runs as store
from ...store.runs.copies import copies_among, is_copy, repeats_of
from ...store.runs.remarks import notes_of, photos_of
from ...store.settings import habits as chosen_habits
from .. import shapes as common
from ..context import Context, about, context_of, name_of
from ..ndjson import NDJSON, UNBUFFERED, Progress, as_lines
from ..strict import make_router
from . import shapes, upload_shapes
from .judgement import judged_shape
from .uploads import asked_of, understanding_shape

Degrees = Literal["C", "F"]

router = make_router("runs")


def row_shape(run: m.Run, copied: Mapping[str, Contender] | None = None) -> shapes.RunRow:
    """A run as a row of a list; `copied` : the copies among those of the list."""
    return shapes.RunRow(
        id=run.id,
        label=run.label,
        factors=common.Factors(**run.factors),
        origin=run.origin,
        simulated=run.case.simulated,
        outcome=run.outcome,
        spot=store.is_spot(run),
        started_at=run.started_at,
        created_at=run.created_at,
        zone=run.zone,
        revision=run.revision,
        summary=shapes.SummaryShape.model_validate(run.summary, from_attributes=True),
        copy_of=_copy_shape((copied or {}).get(str(run.id))),
    )


def _copy_shape(of: Contender | None) -> shapes.CopyOf | None:
    return None if of is None else shapes.CopyOf(id=uuid.UUID(of.key), label=of.label)


@router.get("/phones")
def list_phones(request: Request) -> list[shapes.PhoneShape]:
    """Phones on the shelf, then others that were tested before."""
    with context_of(request).database.session() as session:
        return [
            shapes.PhoneShape(
                label=p.label, capacity_mah=p.capacity_mah, nominal_v=p.nominal_v, battery_health=p.battery_health
            )
            for p in store.known_phones(session)
        ]


@router.post(
    "/runs",
    status_code=201,
    response_model=shapes.RunRow,
    responses={
        200: {
            "description": "with `Accept: application/x-ndjson`, progress line by line; the last line ends it",
            "content": {NDJSON: {"schema": {"$ref": "#/components/schemas/Progress"}}},
        }
    },
)
def read_new_run(request: Request, new: upload_shapes.NewRunShape) -> Any:
    """Read a run from files or from what was typed, and store it; or nothing, if any of it is refused."""
    context, by = context_of(request), name_of(request)

    def stored(progress: Progress) -> m.Run:
        run = _store(context, new, by, progress)
        about(request, run.label)
        return run

    if NDJSON in request.headers.get("accept", ""):
        lines = as_lines(lambda progress: {"run": str(stored(progress).id)})
        return StreamingResponse(lines, media_type=NDJSON, headers=UNBUFFERED)
    return row_shape(stored(lambda step, fraction: None))


def _store(context: Context, new: upload_shapes.NewRunShape, by: str, progress: Progress) -> m.Run:
    uploads = {use.upload: context.uploads.find(use.upload) for use in new.files}
    asked = [asked_of(uploads[use.upload], use) for use in new.files]
    reference = ClockKind(new.checkins_reference) if new.checkins_reference == "after placing" else None
    if new.checkins_reference == "log":
        reference = ClockKind.ELAPSED
    read = apart(
        run_of, asked, new.checkins, reference, new.case, zone_named(new.zone), new.heat, new.fahrenheit,
        name="files", progress=lambda fraction: progress("reading", fraction),
    )  # fmt: skip
    assembled = read.assembled
    files = tuple(
        store.FileRead(
            file.path,
            file.name,
            role,
            understanding_shape(understood).model_dump(mode="json", exclude={"first_rows"}),
        )
        for file, understood in zip(asked, read.understood, strict=True)
        for role in file.roles
    )
    # Minutes after placing say themselves when that was.
    case = new.case if assembled.placed_s is None else new.case.model_copy(update={"placed_s": assembled.placed_s})
    with context.database.session() as session:
        run = store.add_run(
            session,
            store.NewRun(
                label=new.label or _label(new.factors, asked[0].name if asked else "Run without a meter"),
                log=assembled.log,
                case=case,
                factors=new.factors.model_dump(),
                files=files,
                note=new.note,
                started_at=assembled.started_at,
                zone=new.zone,
                by=by,
                remarks=assembled.remarks,
            ),
            lambda fraction: progress("storing", fraction),
        )
        if new.slot is not None or not is_copy(session, run.id):
            fill_slot(session, run, dt.datetime.now(dt.UTC), new.slot)
        session.refresh(run)
    for upload in uploads.values():
        context.uploads.drop(upload)
    return run


def _label(factors: common.Factors, file_name: str) -> str:
    return f"{factors.phone} on {factors.charger}" if factors.phone and factors.charger else file_name


def minutes(reading: Reading, at_s: float) -> float:
    """Minutes after placing."""
    return round((at_s - reading.placed_s) / MINUTE_S, 4)


def run_shape(session: Session, context: Context, run: m.Run, degrees: Degrees = "C") -> shapes.RunShape:
    """A run, read, with all that hangs on it."""
    reading = context.reading(session, run)
    fahrenheit = degrees == "F"
    habits, _ = chosen_habits(session)
    readings = reading.log.readings
    return shapes.RunShape(
        id=run.id,
        label=run.label,
        factors=common.Factors(**run.factors),
        case=run.case,
        origin=run.origin,
        simulated=run.case.simulated,
        outcome=run.outcome,
        reason="" if run.bench is None else run.bench.reason,
        bench=_bench_log(run, reading.placed_s),
        started_at=run.started_at,
        zone=run.zone,
        revision=run.revision,
        samples=run.samples,
        placed_s=reading.placed_s,
        placed_said=placed_said(reading.placement, reading.log.trace.start_s, run.bench_json is not None),
        minutes=reading.duration_s / MINUTE_S,
        summary=shapes.SummaryShape.model_validate(run.summary, from_attributes=True),
        copy_of=_copy_shape(copies_among(session, [run.id]).get(str(run.id))),
        sentences=[
            shapes.SentenceShape(
                key=s.key,
                text=s.text,
                basis=s.basis,
                start=minutes(reading, s.start_s),
                end=minutes(reading, s.end_s),
                places=[shapes.Place(start=minutes(reading, a), end=minutes(reading, b)) for a, b in s.places],
                figure=s.figure,
            )
            for s in sentences(reading, fahrenheit, habits)
        ],
        warnings=[*warnings(reading, fahrenheit, repeats_of(session, run)), *run.remarks],
        figures=[common.figure_shape(f, partial(minutes, reading)) for f in figures(reading, fahrenheit, habits)],
        stages=list(chain_stages(reading.along)),
        judged=judged_shape(session, run, reading),
        milestones=[
            MilestoneDocument(
                percent=s.percent,
                earliest=minutes(reading, s.earliest_s),
                estimate=minutes(reading, s.estimate_s),
                latest=minutes(reading, s.latest_s),
            )
            for s in reading.milestones
        ],
        percent_at=[upload_shapes.CheckInRow(minute=t, percent=p) for t, p in reading.percent_at],
        checkins=[]
        if readings is None
        else [
            upload_shapes.CheckInRow(minute=minutes(reading, t), percent=p)
            for t, p in zip(readings.time_s.tolist(), readings.percent.tolist(), strict=True)
        ],
        level=_level(readings, reading),
        notes=[note_shape(n, reading.placed_s) for n in notes_of(session, run.id)],
        photos=[photo_shape(p) for p in photos_of(session, run.id)],
        corrections=[
            shapes.CorrectionShape(what=c.what, first=_said(c.first), now=_said(c.now), by=c.by, at=c.at)
            for c in changes.corrections(session, run.id)
        ],
        method=_method(session, run),
        rehearsal=None if run.rehearsal is None else shapes.RehearsalShape.model_validate(run.rehearsal),
        files=[
            shapes.FileShape(role=rf.role, name=f.name, size=f.size, sha256=f.sha256, reader=rf.reader)
            for rf, f in store.files_of(session, run.id)
        ],
    )


def _level(readings: CheckIns | None, reading: Reading) -> common.CurveShape:
    """The battery's level as the core sees it, over minutes after placing."""
    if readings is None or not len(readings):
        return common.CurveShape(minute=[], percent=[])
    time_s, percent = level_points(readings)
    return common.CurveShape(
        minute=[minutes(reading, t) for t in time_s.tolist()], percent=np.round(percent, 3).tolist()
    )


def _bench_log(run: m.Run, placed_s: float) -> list[shapes.BenchEntry]:
    """The log that a run had on the bench."""
    lines = []
    for line in () if run.bench is None else run.bench.log:
        minute = round((line.t_s - placed_s) / MINUTE_S, 2)
        lines.append(
            shapes.BenchEntry(
                minute=minute,
                said=entry_said(line),
                by=line.by,
                first=first_said(line.kind, line.first),
                undone=line.undone_at is not None,
            )
        )
    return lines


def _method(session: Session, run: m.Run) -> shapes.RunMethod | None:
    """The card that a run was made under, as it was then, and the plan that asked for it."""
    if run.card is None:
        return None
    card, slot = run.card, slot_of_run(session, run.id)
    plan = None if slot is None else get_plan(session, slot.plan_id, deleted=True)
    return shapes.RunMethod(
        card=card.name,
        said=in_words(card),
        plan=None if plan is None else plan.id,
        question="" if plan is None else plan.question,
    )


def _said(value: Any) -> str:
    if isinstance(value, list):
        return f"{len(value)} readings"
    return "not stated" if value is None else str(value)


def note_shape(note: m.Note, placed_s: float) -> shapes.NoteShape:
    """A note for the front end."""
    return shapes.NoteShape(
        id=note.id,
        text=note.text,
        minute=None if note.t_s is None else round((note.t_s - placed_s) / MINUTE_S, 2),
        by=note.created_by,
        created_at=note.created_at,
    )


def photo_shape(photo: m.Photo) -> shapes.PhotoShape:
    """A picture for the front end."""
    return shapes.PhotoShape(
        id=photo.id, caption=photo.caption, name=photo.file.name, by=photo.created_by, created_at=photo.created_at
    )


@router.get("/runs/{run_id}")
def show_run(request: Request, run_id: uuid.UUID, degrees: Annotated[Degrees, Query()] = "C") -> shapes.RunShape:
    """A run, read: what it says, its figures and their working."""
    context = context_of(request)
    with context.database.session() as session:
        return run_shape(session, context, store.get_run(session, run_id), degrees)


@router.patch("/runs/{run_id}")
def correct_run(request: Request, run_id: uuid.UUID, change: shapes.RunChange) -> shapes.RunRow:
    """Correct what was stated about a run; it is read anew."""
    with context_of(request).database.session() as session:
        factors = None if change.factors is None else change.factors.model_dump()
        run = changes.change_run(session, run_id, change.revision, name_of(request), change.label, factors, change.case)
        return row_shape(run)


@router.put("/runs/{run_id}/checkins")
def correct_checkins(request: Request, run_id: uuid.UUID, change: shapes.CheckInsChange) -> shapes.RunRow:
    """Put other check-ins in the place of the present ones."""
    context = context_of(request)
    with context.database.session() as session:
        run = store.get_run(session, run_id)
        placed_s = context.placed_s(session, run)
        reference = ClockKind(change.reference) if change.reference == "after placing" else None
        pasted = pasted_readings(change.text, reference)
        readings = on_log_clock(pasted, placed_s)
        return row_shape(changes.change_checkins(session, run_id, change.revision, readings, name_of(request)))


@router.post("/runs/{run_id}/shifted")
def shift_run(request: Request, run_id: uuid.UUID, shift: shapes.Shifted) -> shapes.RunRow:
    """Put check-ins, temperatures or both earlier or later: they were on another clock."""
    context = context_of(request)
    with context.database.session() as session:
        placed_s = context.placed_s(session, store.get_run(session, run_id))
        seconds = shift.minutes * MINUTE_S
        run = changes.shift_run(session, run_id, shift.revision, shift.what, seconds, placed_s, name_of(request))
        return row_shape(run)


@router.delete("/runs/{run_id}", status_code=204, response_class=Response)
def delete_run(request: Request, run_id: uuid.UUID) -> None:
    """Lay a run aside; `POST …/restored` brings it back."""
    with context_of(request).database.session() as session:
        changes.delete_run(session, run_id, name_of(request))


@router.post("/runs/{run_id}/restored")
def bring_back_run(request: Request, run_id: uuid.UUID) -> shapes.RunRow:
    """Undo the deletion of a run."""
    with context_of(request).database.session() as session:
        return row_shape(changes.bring_back_run(session, run_id))
