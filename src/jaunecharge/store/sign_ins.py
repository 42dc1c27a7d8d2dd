"""Signing in over the network: one passphrase for the bench, kept as its argon2 digest, and who has given it."""

import datetime as dt
import hashlib
import secrets

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from ..core.errors import CannotRead
from . import bench_models as b

LEAST_LETTERS = 10
LASTS = dt.timedelta(days=30)
_PURPOSE = "passphrase"
_hasher = PasswordHasher()


def passphrase_is_set(session: Session) -> bool:
    """Whether a passphrase was chosen."""
    return session.get(b.Secret, _PURPOSE) is not None


def set_passphrase(session: Session, text: str) -> None:
    """Choose the passphrase; whoever was signed in must sign in again.

    Raises
    ------
    CannotRead
        If it is too short.
    """
    if len(text.strip()) < LEAST_LETTERS:
        raise CannotRead(
            f"a passphrase of {len(text.strip())} letters is too short",
            f"at least {LEAST_LETTERS}: some words of your own", file="passphrase",
        )  # fmt: skip
    session.merge(b.Secret(purpose=_PURPOSE, digest=_hasher.hash(text.strip())))
    session.execute(delete(b.SignIn))


def sign_in(session: Session, text: str, now: dt.datetime) -> str | None:
    """What a browser holds from now on, for the right passphrase; None for a wrong one."""
    kept = session.get(b.Secret, _PURPOSE)
    if kept is None:
        return None
    try:
        _hasher.verify(kept.digest, text.strip())
    except (VerificationError, InvalidHashError):
        return None
    if _hasher.check_needs_rehash(kept.digest):
        kept.digest = _hasher.hash(text.strip())
    token = secrets.token_urlsafe(32)
    session.execute(delete(b.SignIn).where(b.SignIn.until < now))
    session.add(b.SignIn(digest=digest_of(token), until=now + LASTS))
    return token


def signed_in(session: Session, token: str, now: dt.datetime) -> bool:
    """Whether what a browser holds is still good."""
    return (
        session.scalar(select(b.SignIn.until).where(b.SignIn.digest == digest_of(token), b.SignIn.until > now))
        is not None
    )


def sign_out(session: Session, token: str) -> None:
    """Make what a browser holds worthless."""
    session.execute(delete(b.SignIn).where(b.SignIn.digest == digest_of(token)))


def digest_of(token: str) -> str:
    """The digest of a token; tokens are long and random, so a plain one is enough."""
    return hashlib.sha256(token.encode()).hexdigest()
