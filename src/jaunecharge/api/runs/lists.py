"""Lists of runs: the newest, a page of all of them, those that were deleted."""

import uuid
from typing import Annotated

from fastapi import Query, Request
from sqlalchemy.orm import Session

from ...store import models as m
from ...store.listing import pages
from ...store.runs import runs as store
from ...store.runs.copies import copies_among
from ..context import context_of
from ..strict import make_router
from . import list_shapes, shapes, upload_shapes
from .routes import row_shape

MOST_ROWS = 1000

router = make_router("runs")


@router.get("/runs")
def list_runs(
    request: Request,
    limit: Annotated[int, Query(ge=1, le=MOST_ROWS)] = MOST_ROWS,
    run: Annotated[list[uuid.UUID], Query(max_length=MOST_ROWS)] = [],  # noqa: B006
) -> list[shapes.RunRow]:
    """Runs, the newest first, or those that are named; `/runs/listed` goes on from page to page."""
    with context_of(request).database.session() as session:
        named = store.runs_by_id(session, run) if run else store.newest_runs(session, limit)
        return _rows(session, [r for r in named if r.deleted_at is None])


def _rows(session: Session, runs: list[m.Run]) -> list[shapes.RunRow]:
    copied = copies_among(session, [run.id for run in runs])
    return [row_shape(run, copied) for run in runs]


@router.get("/runs/listed")
def list_page(request: Request, asked: Annotated[list_shapes.AskedRuns, Query()]) -> shapes.RunList:
    """A page of the list of runs, filtered and sorted; the first says how many there are, and their scale."""
    wanted = pages.Wanted(asked.words, simulated_in(asked.kind), asked.phone)
    with context_of(request).database.session() as session:
        found = pages.page(session, wanted, asked.sort, asked.down, asked.after, asked.limit)
        rows = _rows(session, store.runs_by_id(session, found.runs))
        sized = None if asked.after else pages.scale(session, wanted)
        return shapes.RunList(
            rows=rows, after=found.after, scale=None if sized is None else list_shapes.ListScale(**vars(sized))
        )


def simulated_in(kind: list_shapes.RunKind) -> bool | None:
    """Which runs a list holds: None for both."""
    return None if kind == "all" else kind == "simulated"


@router.get("/deleted-runs")
def list_deleted_runs(request: Request) -> list[upload_shapes.DeletedRun]:
    """Runs that were deleted and can be brought back, the latest first."""
    with context_of(request).database.session() as session:
        return [
            upload_shapes.DeletedRun(
                id=run.id,
                label=run.label,
                simulated=run.case.simulated,
                at=run.deleted_at,
                by=run.deleted_by,
            )
            for run in store.list_runs(session, deleted=True)
            if run.deleted_at is not None
        ]
