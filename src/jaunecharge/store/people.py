"""People who may use the bench over the network: names, what they may do, and digests of their passphrases."""

import uuid
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from ..core.errors import CannotRead
from ..core.labels import label
from . import bench_models as b
from .bench.lanes import CHANNEL
from .errors import NotThere

Role = Literal["change", "look"]
SIGNED_OUT = "signed out"
"""Notification to every server, on the channel of the bench: a session is over."""

FIRST = "bench"
"""The name that stands for none: the person of a bench that has one passphrase."""

LEAST_LETTERS = 10
MOST_LETTERS = 200
MOST_PEOPLE = 200
_hasher = PasswordHasher()


@lru_cache(1)
def _nobody() -> str:
    """Digest that a passphrase is checked against where there is no such person: it takes as long, and is never
    right.
    """
    return _hasher.hash(uuid.uuid4().hex)


@dataclass(frozen=True)
class KnownPerson:
    """Somebody who may sign in."""

    id: uuid.UUID
    name: str
    role: Role


def people(session: Session) -> list[b.Person]:
    """Everybody who may sign in, by name."""
    return list(session.scalars(select(b.Person).order_by(func.lower(b.Person.name))))


def somebody_may_change(session: Session) -> bool:
    """Whether there is anybody who may sign in and change things."""
    return session.scalar(select(func.count()).where(b.Person.role == "change")) != 0


def by_name(session: Session, name: str) -> b.Person | None:
    """The person of a name, however it is spelt."""
    return session.scalar(select(b.Person).where(func.lower(b.Person.name) == (name.strip() or FIRST).lower()))


def get_person(session: Session, person_id: uuid.UUID) -> b.Person:
    """A person by their id.

    Raises
    ------
    NotThere
    """
    person = session.get(b.Person, person_id)
    if person is None:
        raise NotThere("there is no such person")
    return person


def add_person(session: Session, name: str, role: Role, passphrase: str) -> b.Person:
    """Let somebody sign in.

    Raises
    ------
    CannotRead
        If the name is taken or none, or the passphrase too short.
    """
    name = label(name, "name")
    if not name:
        raise CannotRead("there is no name", "give the person a name", file="name")
    if by_name(session, name) is not None:
        raise CannotRead(f"“{name}” may sign in already", "choose another name", file="name")
    if len(people(session)) >= MOST_PEOPLE:
        raise CannotRead(f"{MOST_PEOPLE} people may sign in already", "remove somebody first", file="name")
    person = b.Person(id=uuid.uuid4(), name=name, role=role, digest=hashed(passphrase))
    session.add(person)
    session.flush()
    return person


def remove_person(session: Session, person: b.Person) -> None:
    """Let somebody sign in no more; their sessions end. What they did stays in the log.

    Raises
    ------
    CannotRead
        If nobody would be left who may change things.
    """
    if person.role == "change" and sum(p.role == "change" for p in people(session)) == 1:
        raise CannotRead(f"{person.name} is the last who may change things", "add somebody else first", file="name")
    session.delete(person)
    session.flush()
    tell_signed_out(session)


def set_passphrase(session: Session, person: b.Person, passphrase: str) -> None:
    """Give somebody another passphrase; wherever they are signed in, that ends.

    Raises
    ------
    CannotRead
        If it is too short.
    """
    person.digest = hashed(passphrase)
    session.execute(delete(b.SignIn).where(b.SignIn.person_id == person.id))
    session.flush()
    tell_signed_out(session)


def hashed(passphrase: str) -> str:
    """The digest of a passphrase (argon2id, the package's own settings).

    Raises
    ------
    CannotRead
        If it is too short, or longer than a passphrase can be.
    """
    text = passphrase.strip()
    if len(text) < LEAST_LETTERS:
        raise CannotRead(
            f"a passphrase of {len(text)} letters is too short",
            f"at least {LEAST_LETTERS}: some words of your own", file="passphrase",
        )  # fmt: skip
    if len(text) > MOST_LETTERS:
        raise CannotRead("the passphrase is too long", f"at most {MOST_LETTERS} letters", file="passphrase")
    return _hasher.hash(text)


def is_right(digest: str | None, passphrase: str) -> bool:
    """Whether a passphrase is that of a digest. It takes some tenths of a second, with a person or without."""
    try:
        return _hasher.verify(digest or _nobody(), passphrase.strip()[:MOST_LETTERS]) and digest is not None
    except (VerificationError, InvalidHashError):
        return False


def tell_signed_out(session: Session) -> None:
    """Have every server ask anew who has signed in."""
    session.execute(select(func.pg_notify(CHANNEL, SIGNED_OUT)))
