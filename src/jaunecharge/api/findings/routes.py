"""Findings: made from runs, plans and packs, drawn up again, edited, published, laid aside."""

import uuid
from typing import Annotated, Literal

from fastapi import Query, Request, Response

from ...core.findings import Asker, advice, blocks_of
from ...documents.finding import FindingDocument, SentenceDocument
from ...live.steady import now
from ...store.findings import findings as store
from ...store.findings.material import gather
from ..context import about, context_of, name_of
from ..strict import make_router
from . import shapes
from .view import finding_shape, row_of

router = make_router("findings")


@router.get("/findings")
def list_findings(request: Request, deleted: bool = False) -> list[shapes.FindingListed]:
    """All findings, the newest first."""
    with context_of(request).database.session() as session:
        return [row_of(session, f) for f in store.list_findings(session, deleted)]


@router.post("/findings", status_code=201)
def add_finding(request: Request, asked: shapes.Asked) -> shapes.FindingShape:
    """Draw a finding up from runs, a plan and packs."""
    with context_of(request).database.session() as session:
        found = store.add_finding(session, _document(asked), now(), name_of(request))
        about(request, found.question)
        return finding_shape(session, found)


def _document(asked: shapes.Asked) -> FindingDocument:
    return FindingDocument.model_validate(asked.model_dump(exclude={"revision"}))


@router.get("/findings/{finding_id}")
def show_finding(request: Request, finding_id: uuid.UUID) -> shapes.FindingShape:
    """A finding, with what has changed since it was drawn up."""
    with context_of(request).database.session() as session:
        return finding_shape(session, store.get_finding(session, finding_id))


@router.put("/findings/{finding_id}")
def change_finding(request: Request, finding_id: uuid.UUID, asked: shapes.AskedAnew) -> shapes.FindingShape:
    """Change what a finding asks, and draw it up again."""
    with context_of(request).database.session() as session:
        found = store.change_finding(
            session, finding_id, _document(asked), asked.revision, now(), name_of(request)
        )  # fmt: skip
        return finding_shape(session, found)


@router.post("/findings/{finding_id}/draft")
def draft_again(request: Request, finding_id: uuid.UUID, seen: shapes.Seen) -> shapes.FindingShape:
    """Draw a finding up again from its sources as they are now; edited words stay beside it."""
    with context_of(request).database.session() as session:
        found = store.for_change(session, finding_id, seen.revision)
        return finding_shape(session, store.draw_again(session, found, now(), name_of(request)))


@router.put("/findings/{finding_id}/words")
def edit_sentence(request: Request, finding_id: uuid.UUID, new: shapes.NewWords) -> shapes.FindingShape:
    """Put words in place of those of a sentence; its figures stay."""
    with context_of(request).database.session() as session:
        by = name_of(request)
        found = store.edit_sentence(session, finding_id, new.key, new.words, new.revision, now(), by)
        return finding_shape(session, found)


@router.put("/findings/{finding_id}/left-out")
def leave_sentence_out(request: Request, finding_id: uuid.UUID, told: shapes.LeftOutSentence) -> shapes.FindingShape:
    """Leave a sentence out, or take it in again; cautions stay."""
    with context_of(request).database.session() as session:
        found = store.hide_sentence(session, finding_id, told.key, told.left_out, told.revision)
        return finding_shape(session, found)


@router.put("/findings/{finding_id}/published")
def publish_finding(request: Request, finding_id: uuid.UUID, told: shapes.Published) -> shapes.FindingShape:
    """Mark a finding as published, or as not published."""
    with context_of(request).database.session() as session:
        at = now() if told.published else None
        return finding_shape(session, store.publish(session, finding_id, told.revision, at, name_of(request)))


@router.delete("/findings/{finding_id}", status_code=204, response_class=Response)
def delete_finding(request: Request, finding_id: uuid.UUID) -> None:
    """Lay a finding aside; `POST …/restored` brings it back."""
    with context_of(request).database.session() as session:
        about(request, store.delete_finding(session, finding_id, now(), name_of(request)).question)


@router.post("/findings/{finding_id}/restored")
def restore_finding(request: Request, finding_id: uuid.UUID) -> shapes.FindingShape:
    """Bring a finding back."""
    with context_of(request).database.session() as session:
        return finding_shape(session, store.delete_finding(session, finding_id, None))


@router.get("/findings/{finding_id}/advice")
def advise(
    request: Request,
    finding_id: uuid.UUID,
    tier: Annotated[str, Query(max_length=200)] = "",
    budget: Annotated[float | None, Query(ge=0, le=1e6, allow_inf_nan=False)] = None,
    currency: Annotated[str, Query(max_length=3)] = "",
    where: Literal["at home", "on the way"] = "at home",
    quiet: bool = False,
) -> shapes.AdviceShape:
    """Advice by who asks: their phone, budget, at home or on the way, whether a fan disturbs."""
    with context_of(request).database.session() as session:
        material = gather(session, store.get_finding(session, finding_id).document).material
    asker = Asker(tier, budget, currency.upper(), where, quiet)
    return shapes.AdviceShape(
        lines=[SentenceDocument.of(s) for s in advice(blocks_of(material).blocks, material, asker)]
    )
