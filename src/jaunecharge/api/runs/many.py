"""Files that hold many runs: shown run by run, stored in one step, all or none."""

import uuid
from typing import Annotated, Any

from fastapi import Query, Request

from ...core.log import zone_named
from ...core.units import MINUTE_S
from ...documents.ribbon import RibbonDocument
from ...documents.runs_of_file import RunOfFile, RunsOfFile
from ...formats.many.files import Shown, show
from ...formats.read.apart import apart
from ...formats.read.files import Asked
from ...formats.read.source import sha256
from ...store.runs.copies import read_before
from ...store.runs.files import runs_read_from
from ..context import about, context_of
from ..following import Wanted, as_it_goes, result_of
from ..ndjson import NDJSON
from ..numbers import Zone
from ..shapes import Factors
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


@router.post(
    "/runs/many",
    status_code=201,
    response_model=shapes.StoredRuns,
    responses={
        200: {
            "description": "with `Accept: application/x-ndjson`, progress line by line; the last line carries the runs",
            "content": {NDJSON: {"schema": {"$ref": "#/components/schemas/RunsProgress"}}},
        }
    },
)
def read_many_runs(request: Request, new: shapes.NewRunsShape) -> Any:
    """Store runs of one file in one step: all of them, or none if any is refused."""
    upload = context_of(request).uploads.find(new.upload)
    job = RunsOfFile(
        upload=new.upload,
        runs=[RunOfFile(ns=run.ns, label=run.label, factors=_stated(run.factors)) for run in new.runs],
        factors=_stated(new.factors),
        case=new.case,
        note=new.note,
        zone=new.zone,
    )
    wanted = Wanted("runs of a file", job.model_dump(mode="json"), upload.name)
    if NDJSON in request.headers.get("accept", ""):
        about(request, upload.name)
        return as_it_goes(request, wanted)
    stored = result_of(request, wanted)
    about(request, ", ".join(stored["labels"])[:200])
    return shapes.StoredRuns.model_validate(stored)


def _stated(factors: Factors) -> dict[str, str]:
    return {name: text for name, text in factors.model_dump().items() if text}
