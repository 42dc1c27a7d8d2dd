"""Material of a report of a finding, from the store."""

import datetime as dt
from collections import Counter
from collections.abc import Sequence
from zoneinfo import ZoneInfo

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ...formats.report.content import ReportIn, UsedRun, Wording
from ...formats.report.tables import TableRow, figures_of, headings, written
from .. import models as m
from ..finding_models import Finding
from .findings import changes, worded
from .material import run_ids, runs_of
from .pictures import subject_of


def report_of(session: Session, found: Finding) -> tuple[ReportIn, list[TableRow]]:
    """All that a report of a finding is made from, and the rows of its table."""
    runs = runs_of(session, run_ids(session, found.document))
    rows = _rows(found, runs)
    plan = None if found.document.plan is None else session.get(m.Plan, found.document.plan)
    seeds = [] if plan is None else [f"order of the plan: {plan.choice.order}, seed {plan.choice.seed}"]
    wordings = {
        key: Wording(w.words, w.edit.by or "somebody", w.edit.first)
        for key, w in worded(found).items()
        if w.edit is not None and not w.waiting
    }
    made = ReportIn(
        found.document, found.draft, wordings, subject_of(session, found), found.drawn_at.astimezone(dt.UTC),
        found.drawn_by, found.software, [c.said for c in changes(session, found)], headings(rows),
        [written(r) for r in rows], _used(session, runs), seeds,
    )  # fmt: skip
    return made, rows


def _rows(found: Finding, runs: Sequence[m.Run]) -> list[TableRow]:
    by_id = {str(r.id): r for r in runs}
    in_fahrenheit = found.document.degrees == "F"
    return [
        TableRow(block.phone, row.label, len(row.runs), figures_of(by_id[row.runs[0]].summary, in_fahrenheit))
        for block in found.draft.blocks
        for row in block.rows
        if row.runs and row.runs[0] in by_id
    ]


def _used(session: Session, runs: Sequence[m.Run]) -> list[UsedRun]:
    ids = [r.id for r in runs]
    files: dict[object, list[tuple[str, str]]] = {}
    query = (
        select(m.RunFile.run_id, m.File.name, m.File.sha256)
        .join(m.File, m.File.id == m.RunFile.file_id)
        .where(m.RunFile.run_id.in_(ids))
        .order_by(m.RunFile.run_id, m.RunFile.role)
    )
    for run_id, name, sha256 in session.execute(query):
        files.setdefault(run_id, []).append((name, sha256))
    counted = (
        select(m.Correction.run_id, func.count()).where(m.Correction.run_id.in_(ids)).group_by(m.Correction.run_id)
    )
    corrections = Counter({run: n for run, n in session.execute(counted)})
    return [
        UsedRun(
            str(r.id), r.label, _began(r), "" if r.card is None else r.card.name, tuple(files.get(r.id, ())),
            r.reader_version, corrections[r.id],
            "" if r.rehearsal is None else f"simulated with seed {r.rehearsal.get('seed', '?')}",
        )
        for r in runs
    ]  # fmt: skip


def _began(run: m.Run) -> str:
    if run.started_at is None:
        return "not stated"
    return run.started_at.astimezone(ZoneInfo(run.zone)).strftime("%Y-%m-%d %H:%M")
