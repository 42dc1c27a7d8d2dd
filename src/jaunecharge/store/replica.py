"""A copy of the database that follows it (a streaming replica), for pages that only read.

It may lag: whoever has just written something reads from it only once it knows that. Where it is away, or behind, the
database itself answers.
"""

import json
import re
import time
from contextvars import ContextVar
from typing import Any

from pydantic_core import from_json
from sqlalchemy import Connection, Engine, create_engine, text
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session, sessionmaker

READS: ContextVar[str | None] = ContextVar("reads", default=None)
"""The last write that a reading page has to know: a position in the database's log, empty where there is none; None
where the database itself is to answer."""

AGAIN_AFTER_S = 5.0
POSITION = re.compile(r"[0-9A-F]{1,8}/[0-9A-F]{1,8}")


def read_json(text: str | bytes) -> Any:
    """JSON of the database, read by the reader of the documents in half the time of Python's own; what that refuses,
    nested more than 200 deep say, by Python's, so that a strange row spoils no list of others."""
    try:
        return from_json(text)
    except ValueError:
        return json.loads(text)


def engine_on(url: str, **more: Any) -> Engine:
    """An engine on a database or a copy of it."""
    return create_engine(url, pool_pre_ping=True, pool_size=8, json_deserializer=read_json, **more)


def position(connection: Connection) -> str:
    """Where the database's log has come to: all that is committed lies before it."""
    return str(connection.scalar(text("SELECT pg_current_wal_insert_lsn()")))


class Replica:
    """The copy."""

    def __init__(self, url: str) -> None:
        self._engine = engine_on(url, connect_args={"connect_timeout": 2})
        self._sessions = sessionmaker(self._engine, expire_on_commit=False)
        self._away_until = 0.0

    def session(self, after: str) -> Session | None:
        """A session that only reads; None where the copy is away, or does not know that write yet."""
        if time.monotonic() < self._away_until:
            return None
        session = self._sessions()
        try:
            session.execute(text("SET TRANSACTION READ ONLY"))
            if after and POSITION.fullmatch(after):
                known = "SELECT coalesce(pg_last_wal_replay_lsn() >= CAST(:after AS pg_lsn), true)"
                if not session.scalar(text(known), {"after": after}):
                    session.close()
                    return None
            return session
        except SQLAlchemyError:
            self._away_until = time.monotonic() + AGAIN_AFTER_S
            session.close()
            return None

    def close(self) -> None:
        """Let its connections go."""
        self._engine.dispose()
