"""A finding as its page wants it."""

import uuid

from sqlalchemy.orm import Session

from ...store import models as m
from ...store.finding_models import Finding
from ...store.findings import findings as store
from ...store.findings.material import run_ids, runs_of
from . import shapes


def row_of(session: Session, found: Finding) -> shapes.FindingListed:
    """A finding for the list."""
    return shapes.FindingListed(
        id=found.id, question=found.question, state=found.draft.state, drawn_at=found.drawn_at,
        published_at=found.document.published_at, stale=bool(store.changes(session, found)),
        plan=found.document.plan,
    )  # fmt: skip


def finding_shape(session: Session, found: Finding) -> shapes.FindingShape:
    """A finding as a whole."""
    document, draft = found.document, found.draft
    asked = document.model_dump(include=set(shapes.Asked.model_fields))
    plan = None if document.plan is None else session.get(m.Plan, document.plan)
    return shapes.FindingShape(
        id=found.id, revision=found.revision, asked=shapes.Asked.model_validate(asked),
        plan_question="" if plan is None else plan.question, draft=draft, worded=_worded(found),
        changed=[shapes.ChangedSource(said=c.said, run=c.run) for c in store.changes(session, found)],
        runs=_runs(session, found), drawn_at=found.drawn_at, drawn_by=found.drawn_by, software=found.software,
        published_at=document.published_at, published_by=document.published_by,
        tiers=list(dict.fromkeys(b.tier or b.phone for b in draft.blocks if b.rows)),
        currencies=sorted({r.currency for b in draft.blocks for r in b.rows if r.currency}),
    )  # fmt: skip


def _worded(found: Finding) -> list[shapes.WordedSentence]:
    hidden = set(found.document.hidden)
    return [
        shapes.WordedSentence(
            key=key, words=w.words, by="" if w.edit is None else w.edit.by or "somebody",
            first="" if w.edit is None else w.edit.first, waiting=w.waiting, left_out=key in hidden,
        )
        for key, w in store.worded(found).items()
        if w.edit is not None or key in hidden
    ]  # fmt: skip


def _runs(session: Session, found: Finding) -> list[shapes.FindingRun]:
    """The runs of a finding; the ribbons of those that stand for a row."""
    typical = {r.runs[0] for b in found.draft.blocks for r in b.rows if r.runs}
    rows = []
    for run in runs_of(session, run_ids(session, found.document)):
        ribbon = run.summary.ribbon if str(run.id) in typical else None
        rows.append(shapes.FindingRun(id=uuid.UUID(str(run.id)), label=run.label, ribbon=ribbon))
    return rows
