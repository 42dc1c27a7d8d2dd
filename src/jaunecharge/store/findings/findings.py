"""Findings: drawn up, kept, edited, found out of date, laid aside and brought back."""

import datetime as dt
import uuid
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from ... import __version__
from ...core.errors import CannotRead
from ...core.findings import checked_words, draft, renewed
from ...core.labels import label
from ...core.reading import READER_VERSION
from ...documents.finding import DraftDocument, EditDocument, FindingDocument, SentenceDocument, SourceMark
from .. import models as m
from ..errors import ChangedMeanwhile, NotThere
from ..finding_models import Finding
from .material import gather, marks, packs_used


@dataclass(frozen=True)
class Changed:
    """A source that is not as it was when a finding was drawn up. run : its id where it is one."""

    said: str
    run: uuid.UUID | None = None


def software() -> str:
    """Versions that figures of a finding come from."""
    return f"Jaunecharge {__version__}, reader {READER_VERSION}"


def list_findings(session: Session, deleted: bool = False) -> list[Finding]:
    """All findings, the newest first."""
    wanted = Finding.deleted_at.is_not(None) if deleted else Finding.deleted_at.is_(None)
    return list(session.scalars(select(Finding).where(wanted).order_by(Finding.created_at.desc(), Finding.id)))


def get_finding(session: Session, finding_id: uuid.UUID, deleted: bool = False) -> Finding:
    """A finding by its id.

    Raises
    ------
    NotThere
    """
    found = session.get(Finding, finding_id)
    if found is None or (found.deleted_at is not None and not deleted):
        raise NotThere(f"there is no finding {finding_id}")
    return found


def for_change(session: Session, finding_id: uuid.UUID, revision: int | None = None) -> Finding:
    """A finding locked for change; with a revision only if nobody has changed it since.

    Raises
    ------
    NotThere, ChangedMeanwhile
    """
    query = select(Finding).where(Finding.id == finding_id, Finding.deleted_at.is_(None)).with_for_update()
    found = session.scalar(query)
    if found is None:
        raise NotThere(f"there is no finding {finding_id}")
    if revision is not None and found.revision != revision:
        raise ChangedMeanwhile("the finding was changed in another window since you opened it")
    return found


def add_finding(session: Session, document: FindingDocument, now: dt.datetime, by: str) -> Finding:
    """Draw a finding up and keep it.

    Raises
    ------
    CannotRead, NotThere
        If its question is no label, a run or its plan is not there, or runs are being read again.
    """
    document = _checked(session, document)
    document = document.model_copy(update={"packs": packs_used(session, document)})
    found = Finding(id=uuid.uuid4(), question=document.question, document=document, created_by=by, sources={})
    _draw(session, found, now, by)
    session.add(found)
    session.flush()
    return found


def _checked(session: Session, document: FindingDocument) -> FindingDocument:
    question = label_of_question(document.question)
    if document.plan is not None and session.get(m.Plan, document.plan) is None:
        raise NotThere(f"there is no plan {document.plan}")
    known = set(session.scalars(select(m.Run.id).where(m.Run.id.in_(document.runs))))
    if gone := [r for r in document.runs if r not in known]:
        raise NotThere(f"{len(gone)} of the runs are not there")
    return document.model_copy(update={"question": question})


MOST_QUESTION = 300


def label_of_question(text: str) -> str:
    """A question as it is kept: on one line.

    Raises
    ------
    CannotRead
        If it is empty, too long, or not fit for a table or a page.
    """
    text = " ".join(text.split())
    if not text:
        raise CannotRead("the question is empty", "write what you want to know", file="question")
    if len(text) > MOST_QUESTION:
        raise CannotRead(f"it is {len(text)} characters long", f"use at most {MOST_QUESTION}", file="question")
    for part in range(0, len(text), 100):
        label(("q" if part else "") + text[part : part + 100], "question")
    return text


def draw_again(session: Session, found: Finding, now: dt.datetime, by: str) -> Finding:
    """Draw a finding up from what its sources are now. Edited words stay beside it: they count where their sentence
    still says what it said, else somebody chooses.

    Raises
    ------
    CannotRead
    """
    _draw(session, found, now, by)
    found.revision += 1
    session.flush()
    return found


def _draw(session: Session, found: Finding, now: dt.datetime, by: str) -> None:
    gathered = gather(session, found.document)
    found.draft = DraftDocument.of(draft(gathered.material, gathered.drains))
    found.sources = {key: mark.model_dump() for key, mark in gathered.marks.items()}
    found.software, found.drawn_at, found.drawn_by = software(), now, by


def change_finding(
    session: Session, finding_id: uuid.UUID, document: FindingDocument, revision: int, now: dt.datetime, by: str
) -> Finding:
    """Change what a finding asks, and draw it up again.

    Raises
    ------
    NotThere, ChangedMeanwhile, CannotRead
    """
    found = for_change(session, finding_id, revision)
    document = _checked(session, document)
    document = document.model_copy(update={"packs": packs_used(session, document)})
    kept = found.document
    found.document = document.model_copy(
        update={
            "edits": kept.edits, "hidden": kept.hidden, "published_at": kept.published_at,
            "published_by": kept.published_by,
        }
    )  # fmt: skip
    found.question = document.question
    return draw_again(session, found, now, by)


def edit_sentence(
    session: Session, finding_id: uuid.UUID, key: str, words: str | None, revision: int, now: dt.datetime, by: str
) -> Finding:
    """Put words in place of those of a sentence; None takes the first wording again.

    Raises
    ------
    NotThere, ChangedMeanwhile, CannotRead
    """
    found = for_change(session, finding_id, revision)
    sentence = _sentence(found, key)
    edits = {k: e for k, e in found.document.edits.items() if k != key}
    if words is not None:
        checked = checked_words(sentence.sentence(), words)
        if checked != sentence.words:
            edits[key] = EditDocument(words=checked, first=sentence.words, figures=sentence.figures, by=by, at=now)
    return _rewritten(session, found, {"edits": edits})


def hide_sentence(session: Session, finding_id: uuid.UUID, key: str, hidden: bool, revision: int) -> Finding:
    """Leave a sentence out, or take it in again.

    Raises
    ------
    NotThere, ChangedMeanwhile, CannotRead
        If it is a caution: these stay.
    """
    found = for_change(session, finding_id, revision)
    _sentence(found, key)
    if hidden and key in {s.key for s in found.draft.cautions}:
        raise CannotRead("cautions stay", "leave another sentence out", file="sentence")
    rest = [k for k in found.document.hidden if k != key]
    return _rewritten(session, found, {"hidden": [*rest, key] if hidden else rest})


def publish(session: Session, finding_id: uuid.UUID, revision: int, now: dt.datetime | None, by: str) -> Finding:
    """Mark a finding as published at a moment; with None as not published.

    Raises
    ------
    NotThere, ChangedMeanwhile
    """
    found = for_change(session, finding_id, revision)
    return _rewritten(session, found, {"published_at": now, "published_by": by if now is not None else ""})


def _rewritten(session: Session, found: Finding, facts: dict[str, object]) -> Finding:
    found.document = found.document.model_copy(update=facts)
    found.revision += 1
    session.flush()
    return found


def _sentence(found: Finding, key: str) -> SentenceDocument:
    sentence = found.draft.sentences().get(key)
    if sentence is None:
        raise NotThere("there is no such sentence in this finding")
    return sentence


@dataclass(frozen=True)
class Worded:
    """A sentence as it is to be read. words : those that count; edited : somebody's, and `first` what they stand for;
    waiting : somebody's words whose sentence says something else by now, with the figures of now put in: somebody has
    to choose."""

    words: str
    edit: EditDocument | None = None
    waiting: str = ""


def worded(found: Finding) -> dict[str, Worded]:
    """Every sentence of a finding as it is to be read."""
    edits, result = found.document.edits, {}
    for key, sentence in found.draft.sentences().items():
        edit = edits.get(key)
        if edit is None:
            result[key] = Worded(sentence.words)
        elif edit.first == sentence.words:
            result[key] = Worded(edit.words, edit)
        else:
            now = renewed(edit.words, [f.figure() for f in edit.figures], [f.figure() for f in sentence.figures])
            result[key] = Worded(sentence.words, edit, now)
    return result


def changes(session: Session, found: Finding) -> list[Changed]:
    """Changes of the sources since a finding was drawn up; empty where it is up to date."""
    before = {key: SourceMark.model_validate(raw) for key, raw in found.sources.items()}
    now = marks(session, found.document, before)
    changed = []
    for key, mark in before.items():
        run = _as_run(key)
        if key not in now:
            changed.append(Changed(f"{mark.label} was deleted", run))
        elif now[key].mark != mark.mark:
            changed.append(Changed(_said(session, found, mark.label, key, run), run))
    changed += [Changed(f"{mark.label} was made since", _as_run(k)) for k, mark in now.items() if k not in before]
    if not changed and found.software != software():
        changed.append(Changed(f"it was drawn up by {found.software}; this is {software()}"))
    return changed


def _said(session: Session, found: Finding, label: str, key: str, run: uuid.UUID | None) -> str:
    if run is not None:
        last = session.scalars(
            select(m.Correction)
            .where(m.Correction.run_id == run, m.Correction.at >= found.drawn_at)
            .order_by(m.Correction.at.desc())
            .limit(1)
        ).first()
        if last is not None:
            return f"{label} was corrected{f' by {last.by}' if last.by else ''}: {last.what}"
        return f"{label} changed"
    of_kind = {"habits": "tariff or habits of charging changed", "plan": "the plan went on"}
    return of_kind.get(key, f"{label} has new tests, or is described otherwise")


def _as_run(key: str) -> uuid.UUID | None:
    try:
        return uuid.UUID(key)
    except ValueError:
        return None


def delete_finding(session: Session, finding_id: uuid.UUID, at: dt.datetime | None, by: str = "") -> Finding:
    """Lay a finding aside; with None bring it back.

    Raises
    ------
    NotThere
    """
    found = get_finding(session, finding_id, deleted=True)
    found.deleted_at, found.deleted_by = at, by if at is not None else ""
    session.flush()
    return found
