"""Sessions: who has signed in over the network, from where, and until when."""

import datetime as dt
import hashlib
import secrets
import uuid
from dataclasses import dataclass

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from . import bench_models as b
from .people import Role

LASTS = dt.timedelta(days=30)
"""A session lasts no longer, however often it is used."""

MOST_EACH = 50
LONGEST_AGENT = 200


@dataclass(frozen=True)
class Signed:
    """A session: its id, and who has signed in."""

    id: uuid.UUID
    person_id: uuid.UUID
    name: str
    role: Role


def sign_in(session: Session, person: b.Person, now: dt.datetime, address: str = "", agent: str = "") -> str:
    """Session token for a browser, for somebody whose passphrase was right."""
    token = secrets.token_urlsafe(32)
    session.execute(delete(b.SignIn).where(b.SignIn.until < now))
    older = select(b.SignIn.digest).where(b.SignIn.person_id == person.id).order_by(b.SignIn.at.desc())
    session.execute(delete(b.SignIn).where(b.SignIn.digest.in_(older.offset(MOST_EACH - 1))))
    session.add(
        b.SignIn(
            digest=digest_of(token), id=uuid.uuid4(), person_id=person.id, at=now, until=now + LASTS,
            address=address[:80], agent=agent[:LONGEST_AGENT],
        )
    )  # fmt: skip
    return token


def signed_in(session: Session, token: str, now: dt.datetime) -> Signed | None:
    """The person of a session token; None where that is not good (any more)."""
    row = session.execute(
        select(b.SignIn.id, b.Person.id, b.Person.name, b.Person.role)
        .join(b.Person, b.Person.id == b.SignIn.person_id)
        .where(b.SignIn.digest == digest_of(token), b.SignIn.until > now)
    ).one_or_none()
    return None if row is None else Signed(row[0], row[1], row[2], "look" if row[3] == "look" else "change")


def sessions(session: Session, now: dt.datetime) -> list[tuple[b.SignIn, str]]:
    """Every session that is good, the newest first, with the name of who has signed in."""
    query = (
        select(b.SignIn, b.Person.name)
        .join(b.Person, b.Person.id == b.SignIn.person_id)
        .where(b.SignIn.until > now)
        .order_by(b.SignIn.at.desc())
    )
    return [(row, name) for row, name in session.execute(query)]


def sign_out(session: Session, token: str) -> None:
    """Make what a browser holds worthless."""
    session.execute(delete(b.SignIn).where(b.SignIn.digest == digest_of(token)))


def end_session(session: Session, session_id: uuid.UUID) -> None:
    """End one session."""
    session.execute(delete(b.SignIn).where(b.SignIn.id == session_id))


def sign_out_everywhere(session: Session, person_id: uuid.UUID) -> None:
    """End every session of a person."""
    session.execute(delete(b.SignIn).where(b.SignIn.person_id == person_id))


def digest_of(token: str) -> str:
    """The digest of a token; tokens are long and random, so a plain one is enough."""
    return hashlib.sha256(token.encode()).hexdigest()
