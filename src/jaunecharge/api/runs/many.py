"""Files that hold many runs: shown run by run, stored in one step, all or none."""

import datetime as dt
import uuid
from typing import Annotated

from fastapi import Query, Request

from ...core.log import zone_named
from ...core.units import MINUTE_S
from ...documents.ribbon import RibbonDocument
from ...formats.many.files import Shown, Taken, show, take
from ...formats.read.apart import apart
from ...formats.read.files import Asked
from ...formats.read.source import sha256
from ...store.plan.slots import fill_slot
from ...store.runs import runs as store
from ...store.runs.copies import copies_listed, read_before
from ...store.runs.files import runs_read_from
from ..context import about, context_of, name_of
from ..numbers import Zone
from ..strict import make_router
from . import many_shapes as shapes
from .upload_shapes import RunRef

router = make_router("files of many runs")


@router.get("/uploads/{upload_id}/runs")
def show_runs_of_file(
    request: Request, upload_id: uuid.UUID, zone: Annotated[Zone, Query()] = "UTC"
) -> shapes.FileRunsShape:
    """Runs of a file that was sent, each with its ribbon; nothing is stored yet."""
    context = context_of(request)
    upload = context.uploads.find(upload_id)
    shown: Shown = apart(show, Asked(upload.path, upload.name), zone_named(zone), name=upload.name)
    digest = sha256(upload.path)
    with context.database.session() as session:
        before = [None if r is None else read_before(session, r) for r in shown.recordings]
        same_file = runs_read_from(session, digest)
    return shapes.FileRunsShape(
        name=upload.name,
        left_out=list(shown.contents.left_out),
        read_before=[RunRef(id=r.id, label=r.label, simulated=r.case.simulated) for r in same_file],
        runs=[
            shapes.RunInFileShape(
                n=run.n,
                label=run.label,
                kind=run.kind,
                minutes=round((run.end_s - run.start_s) / MINUTE_S, 2),
                start_min=round(run.start_s / MINUTE_S, 2),
                placed_min=None if run.placed_s is None else round(run.placed_s / MINUTE_S, 2),
                from_percent=run.checkins[0][1] if run.checkins else None,
                to_percent=run.checkins[-1][1] if run.checkins else None,
                readings=len(run.checkins),
                factors=run.factors,
                ribbon=None if band is None else RibbonDocument.of(band),
                sure=run.sure,
                read_before=None if known is None else RunRef(id=known[0], label=known[1], simulated=False),
            )
            for run, band, known in zip(shown.contents.runs, shown.ribbons, before, strict=True)
        ],
    )


@router.post("/runs/many", status_code=201)
def read_many_runs(request: Request, new: shapes.NewRunsShape) -> shapes.StoredRuns:
    """Store runs of one file in one step: all of them, or none if any is refused."""
    context, by = context_of(request), name_of(request)
    upload = context.uploads.find(new.upload)
    asked = Asked(upload.path, upload.name)
    taken: list[Taken] = apart(
        take, asked, [run.ns for run in new.runs], zone_named(new.zone), new.case.ambient_c, name=upload.name
    )
    now = dt.datetime.now(dt.UTC)
    common = {name: text for name, text in new.factors.model_dump().items() if text}
    with context.database.session() as session:
        stored = []
        for wanted, one in zip(new.runs, taken, strict=True):
            stated = {name: text for name, text in wanted.factors.model_dump().items() if text}
            factors = {**one.factors, **common, **stated}
            run = store.add_run(
                session,
                store.NewRun(
                    label=wanted.label or one.label,
                    log=one.log,
                    case=store.with_battery(session, new.case, factors.get("phone", "")),
                    factors=factors,
                    files=(store.FileRead(upload.path, upload.name, one.role, {"run": wanted.ns}),),
                    note=new.note,
                    started_at=one.started_at,
                    zone=new.zone,
                    by=by,
                    remarks=one.remarks,
                ),
            )
            stored.append(run)
        copied = copies_listed(session)
        for run in stored:
            if str(run.id) not in copied:
                fill_slot(session, run, now, None)
        keys = [run.id for run in stored]
        about(request, ", ".join(run.label for run in stored)[:200])
    context.uploads.drop(upload)
    return shapes.StoredRuns(runs=keys, at=now)
