"""Links that show one finding to whoever has them, until they are taken back."""

import datetime as dt
import secrets
import uuid

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..finding_models import Finding, FindingLink
from .findings import for_change

TOKEN_BYTES = 24


def link_of(session: Session, finding_id: uuid.UUID) -> FindingLink | None:
    """The link to a finding, where it has one."""
    return session.get(FindingLink, finding_id)


def share(session: Session, finding_id: uuid.UUID, now: dt.datetime, by: str) -> FindingLink:
    """A link to a finding: the one that it has, else a new one.

    Raises
    ------
    NotThere
    """
    for_change(session, finding_id)
    found = link_of(session, finding_id)
    if found is None:
        found = FindingLink(
            finding_id=finding_id, token=secrets.token_urlsafe(TOKEN_BYTES), made_at=now, made_by=by
        )  # fmt: skip
        session.add(found)
        session.flush()
    return found


def take_back(session: Session, finding_id: uuid.UUID) -> None:
    """Take the link to a finding back: from now on it shows nothing; a later one is another."""
    for_change(session, finding_id)
    found = link_of(session, finding_id)
    if found is not None:
        session.delete(found)
        session.flush()


def shared_by(session: Session, token: str) -> Finding | None:
    """The finding that a link shows; None where it shows none, or none any more."""
    return session.scalar(
        select(Finding)
        .join(FindingLink, FindingLink.finding_id == Finding.id)
        .where(FindingLink.token == token, Finding.deleted_at.is_(None))
    )
