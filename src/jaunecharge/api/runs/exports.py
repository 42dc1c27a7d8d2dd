"""Runs out in open formats: a table of all, or one run with everything."""

import uuid

from fastapi import Request, Response

from ...core.reading import Reading
from ...core.units import MINUTE_S
from ...formats.write.csv_xlsx import Cell, csv_text, xlsx_bytes
from ...formats.write.folder import Beside, PictureOut, RemarkOut, run_archive
from ...formats.write.runs_table import COLUMNS, row_of
from ...store.runs.files import file_bytes
from ...store.runs.remarks import notes_of, photos_of
from ...store.runs.runs import files_of, get_run, list_runs
from ...store.runs.table import moment_out, rows_out
from ..context import context_of
from ..downloads import answers, download
from ..strict import make_router

XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
router = make_router("exports", "/api/exports")


def _rows(request: Request) -> list[list[Cell]]:
    with context_of(request).database.session() as session:
        return [row_of(run) for run in rows_out(session, list_runs(session))]


@router.get("/runs.csv", response_class=Response, responses=answers("text/csv"))
def runs_csv(request: Request) -> Response:
    """Export all runs as CSV."""
    return download(csv_text(tuple(COLUMNS), _rows(request)), "text/csv; charset=utf-8", "runs.csv")


@router.get("/runs.xlsx", response_class=Response, responses=answers(XLSX))
def runs_xlsx(request: Request) -> Response:
    """Export all runs as a workbook."""
    return download(xlsx_bytes(tuple(COLUMNS), _rows(request), "runs"), XLSX, "runs.xlsx")


@router.get("/runs/{run_id}.zip", response_class=Response, responses=answers("application/zip"))
def run_zip(request: Request, run_id: uuid.UUID) -> Response:
    """Export one run: tables as the command line reads them, reading, notes, pictures and the files as they came."""
    context = context_of(request)
    with context.database.session() as session:
        run = get_run(session, run_id)
        reading = context.reading(session, run)
        stated = {"id": str(run.id), "label": run.label, "factors": run.factors, **run.case_json}
        if run.card_json is not None:
            stated["method_card"] = run.card_json
        if run.decisions_json:
            stated["decisions"] = run.decisions_json
        beside = Beside(
            notes=[
                RemarkOut(_minute(n.t_s, reading), n.text, n.created_by, moment_out(n.created_at, run.zone))
                for n in notes_of(session, run_id)
            ],
            pictures=[
                PictureOut(
                    RemarkOut(_minute(p.t_s, reading), p.caption, p.created_by, moment_out(p.created_at, run.zone)),
                    p.file.name,
                    b"".join(file_bytes(session, p.file_id)),
                )
                for p in photos_of(session, run_id)
            ],
            originals=[(f.name, b"".join(file_bytes(session, f.id))) for _, f in files_of(session, run_id)],
        )
    return download(run_archive(reading, stated, beside), "application/zip", f"run-{str(run_id)[:8]}.zip")


def _minute(t_s: float | None, reading: Reading) -> float | None:
    return None if t_s is None else round((t_s - reading.placed_s) / MINUTE_S, 2)
