"""Runs out in open formats: a table of all, or one run with everything."""

import datetime as dt
import uuid

from fastapi import Request, Response

from ...core.errors import CannotRead
from ...core.factors import NAMES
from ...core.log import zone_named
from ...core.milestones import TENS
from ...core.reading import Reading
from ...core.units import MINUTE_S
from ...formats.write.csv_xlsx import Cell, csv_text, xlsx_bytes
from ...formats.write.folder import Beside, PictureOut, RemarkOut, run_archive
from ...store.runs.copies import copies_listed
from ...store.runs.files import file_bytes
from ...store.runs.remarks import notes_of, photos_of
from ...store.runs.runs import case_of, files_of, get_run, is_spot, list_runs
from ..context import context_of
from ..downloads import answers, download
from ..strict import make_router

XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
ENDS = ("estimate", "earliest", "latest")
HEADINGS = (
    "label", "began_at", "zone", "read_at", *NAMES, "start_percent",
    *(f"to_{p}_min" if end == "estimate" else f"to_{p}_{end}_min" for p in TENS for end in ENDS),
    "hottest_c", "energy_in_wh",
    "efficiency", "best_settled_w", "coverage", "rise_k", "first_throttle_min", "first_throttle_c", "throttled_min",
    "heat_cost_min", "heat_cost_expanded_min", "reads_as", "outcome", "spot_check", "simulated", "copy_of",
    "origin", "id",
)  # fmt: skip
"""Minutes count from the placing; moments are ISO 8601 on the clock of the zone."""

router = make_router("exports", "/api/exports")


def _rows(request: Request) -> list[list[Cell]]:
    with context_of(request).database.session() as session:
        found = []
        copied = copies_listed(session)
        for run in list_runs(session):
            s = run.summary
            reached = {x["percent"]: x for x in s.get("milestones", ())}
            heat = s.get("throttle") or {}
            cost = heat.get("cost_min") or {}
            found.append(
                [
                    run.label,
                    _moment(run.started_at, run.zone),
                    run.zone,
                    _moment(run.created_at, run.zone),
                    *(run.factors.get(f, "") for f in NAMES),
                    s.get("start_percent"),
                    *(reached.get(p, {}).get(end) for p in TENS for end in ENDS),
                    *(s[k] for k in ("hottest_c", "energy_in_wh", "efficiency", "best_settled_w", "coverage")),
                    *(heat.get(k) for k in ("rise_k", "first_min", "first_c", "minutes")),
                    *(cost.get(k) for k in ("value", "expanded")),
                    s["headline"].replace("*", ""),
                    run.outcome,
                    "spot check" if is_spot(run) else "",
                    "simulated" if case_of(run).simulated else "",
                    copied[str(run.id)].key if str(run.id) in copied else "",
                    run.origin,
                    str(run.id),
                ]
            )
        return found


def _moment(at: dt.datetime | None, zone: str) -> str:
    if at is None:
        return ""
    try:
        here: dt.tzinfo = zone_named(zone)
    except CannotRead:  # One run must not keep all others from being exported.
        here = dt.UTC
    return at.astimezone(here).isoformat(timespec="seconds")


@router.get("/runs.csv", response_class=Response, responses=answers("text/csv"))
def runs_csv(request: Request) -> Response:
    """Export all runs as CSV."""
    return download(csv_text(HEADINGS, _rows(request)), "text/csv; charset=utf-8", "runs.csv")


@router.get("/runs.xlsx", response_class=Response, responses=answers(XLSX))
def runs_xlsx(request: Request) -> Response:
    """Export all runs as a workbook."""
    return download(xlsx_bytes(HEADINGS, _rows(request), "runs"), XLSX, "runs.xlsx")


@router.get("/runs/{run_id}.zip", response_class=Response, responses=answers("application/zip"))
def run_zip(request: Request, run_id: uuid.UUID) -> Response:
    """Export one run: tables as the command line reads them, reading, notes, pictures and the files as they came."""
    context = context_of(request)
    with context.database.session() as session:
        run = get_run(session, run_id)
        reading = context.reading(session, run)
        stated = {"id": str(run.id), "label": run.label, "factors": run.factors, **run.conditions}
        if run.card is not None:
            stated["method_card"] = run.card
        if run.overrulings:
            stated["decisions"] = run.overrulings
        beside = Beside(
            notes=[
                RemarkOut(_minute(n.t_s, reading), n.text, n.created_by, _moment(n.created_at, run.zone))
                for n in notes_of(session, run_id)
            ],
            pictures=[
                PictureOut(
                    RemarkOut(_minute(p.t_s, reading), p.caption, p.created_by, _moment(p.created_at, run.zone)),
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
