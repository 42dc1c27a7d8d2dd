"""Sessions: who has signed in over the network, from where, and until when."""

import datetime as dt
import hashlib
import secrets
import uuid
from dataclasses import dataclass

from sqlalchemy import delete, select, text
from sqlalchemy.orm import Session

from . import bench_models as b
from .people import Role, tell_signed_out

LASTS = dt.timedelta(days=30)
"""A session lasts no longer, however often it is used."""

MOST_EACH = 50
LONGEST_AGENT = 200
FREE_TRIES, MOST_DELAY_S, FORGOTTEN_S = 3, 300.0, 900.0
MOST_ADDRESSES = 10_000
TRIES_LOCK = 8421


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
    tell_signed_out(session)


def end_session(session: Session, session_id: uuid.UUID) -> None:
    """End one session."""
    session.execute(delete(b.SignIn).where(b.SignIn.id == session_id))
    tell_signed_out(session)


def sign_out_everywhere(session: Session, person_id: uuid.UUID) -> None:
    """End every session of a person."""
    session.execute(delete(b.SignIn).where(b.SignIn.person_id == person_id))
    tell_signed_out(session)


def digest_of(token: str) -> str:
    """The digest of a token; tokens are long and random, so a plain one is enough."""
    return hashlib.sha256(token.encode()).hexdigest()


def count_try(session: Session, address: str, now: dt.datetime) -> float:
    """Count a passphrase that is tried from an address, before it is checked; how long that has to wait first [s], 0
    where it may be made now.

    After some tries each next one waits longer, whichever server is asked; one address keeps no other from signing in.
    """
    # One at a time: two at once must not both count as the same.
    session.execute(text("SELECT pg_advisory_xact_lock(:lock)"), {"lock": TRIES_LOCK})
    tried = session.get(b.Tried, address)
    if tried is None:
        tried = b.Tried(address=address, count=0, last_at=now)
        session.add(tried)
    since_s = (now - tried.last_at).total_seconds()
    if since_s > FORGOTTEN_S:
        tried.count = 0
    delay = 0.0 if tried.count < FREE_TRIES else min(MOST_DELAY_S, 2.0 ** (tried.count - FREE_TRIES + 1))
    if (left := delay - since_s) > 0.0:
        return left
    tried.count, tried.last_at = tried.count + 1, now
    session.flush()
    oldest = select(b.Tried.address).order_by(b.Tried.last_at.desc()).offset(MOST_ADDRESSES)
    session.execute(delete(b.Tried).where(b.Tried.address.in_(oldest)))
    return 0.0


def forget_tries(session: Session, address: str) -> None:
    """Let an address begin anew: its passphrase was right."""
    session.execute(delete(b.Tried).where(b.Tried.address == address))
