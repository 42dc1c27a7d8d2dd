"""Runs out in open formats: a table of all, or one run with everything."""

import uuid
from typing import Any

from fastapi import APIRouter, Request, Response

from ..core.factors import NAMES
from ..formats.folder import run_archive
from ..formats.tables_out import Cell, csv_text, xlsx_bytes
from ..store.files import file_bytes
from ..store.remarks import notes_of
from ..store.runs import case_of, files_of, get_run, list_runs
from .context import context_of
from .problems import RESPONSES

BINARY = {"type": "string", "format": "binary"}
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
HEADINGS = (
    "label", *NAMES, "to_80_min", "to_80_earliest_min", "to_80_latest_min", "hottest_c", "energy_in_wh",
    "efficiency", "best_settled_w", "coverage", "rise_k", "first_throttle_min", "first_throttle_c", "throttled_min",
    "heat_cost_min", "heat_cost_expanded_min", "reads_as", "simulated", "origin", "id",
)  # fmt: skip

router = APIRouter(prefix="/api/exports", tags=["exports"], responses=RESPONSES)


def _rows(request: Request) -> list[list[Cell]]:
    with context_of(request).database.session() as session:
        found = []
        for run in list_runs(session):
            s = run.summary
            eighty, heat = s["to_80"] or {}, s.get("throttle") or {}
            cost = heat.get("cost_min") or {}
            found.append(
                [
                    run.label,
                    *(run.factors.get(f, "") for f in NAMES),
                    *(eighty.get(k) for k in ("estimate", "earliest", "latest")),
                    *(s[k] for k in ("hottest_c", "energy_in_wh", "efficiency", "best_settled_w", "coverage")),
                    *(heat.get(k) for k in ("rise_k", "first_min", "first_c", "minutes")),
                    *(cost.get(k) for k in ("value", "expanded")),
                    s["headline"].replace("*", ""),
                    "simulated" if case_of(run).simulated else "",
                    run.origin,
                    str(run.id),
                ]
            )
        return found


def download(content: str | bytes, media_type: str, name: str) -> Response:
    return Response(content, media_type=media_type, headers={"Content-Disposition": f'attachment; filename="{name}"'})


def answers(media_type: str) -> dict[int | str, dict[str, Any]]:
    """What a file's address answers with, for the description of the API."""
    return {200: {"description": "the file", "content": {media_type: {"schema": BINARY}}}}


@router.get("/runs.csv", response_class=Response, responses=answers("text/csv"))
def runs_csv(request: Request) -> Response:
    """All runs as CSV."""
    return download(csv_text(HEADINGS, _rows(request)), "text/csv; charset=utf-8", "runs.csv")


@router.get("/runs.xlsx", response_class=Response, responses=answers(XLSX))
def runs_xlsx(request: Request) -> Response:
    """All runs as a workbook."""
    return download(xlsx_bytes(HEADINGS, _rows(request), "runs"), XLSX, "runs.xlsx")


@router.get("/runs/{run_id}.zip", response_class=Response, responses=answers("application/zip"))
def run_zip(request: Request, run_id: uuid.UUID) -> Response:
    """One run: its tables as the command line reads them, its reading, and the files as they came."""
    context = context_of(request)
    with context.database.session() as session:
        run = get_run(session, run_id)
        reading = context.reading(session, run)
        stated = {"id": str(run.id), "label": run.label, "factors": run.factors, **run.conditions}
        if run.card is not None:
            stated["method_card"] = run.card
        if run.overrulings:
            stated["decisions"] = run.overrulings
        originals = {f.name: b"".join(file_bytes(session, f.id)) for _, f in files_of(session, run_id)}
        notes = [n.text for n in notes_of(session, run_id)]
    return download(
        run_archive(reading, stated, notes, sorted(originals.items())), "application/zip", f"run-{str(run_id)[:8]}.zip"
    )
