"""Classes of database failures: that it is away, that it has no room, that it is busy, or that it refuses."""

import errno
import sqlite3
from typing import Literal

import psycopg
from sqlalchemy import exc

Failure = Literal["away", "no room", "busy", "refused"]

_AWAY = ("08", "57P01", "57P02", "57P03", "57P05", "53300", "53200")
_NO_ROOM = ("53100", "58030")
_BUSY = ("40", "55", "57014")
"""Beginnings of SQLSTATE (PostgreSQL 15, appendix A): 08 connection, 57P0x shut down or starting up, 53 resources,
40 rolled back against others, 55 locked, 57014 cancelled."""


def failure(error: BaseException) -> Failure | None:
    """Class of the database failure behind an error; None where it is none.

    An error without a SQLSTATE comes from the driver: it is told by its class whether the connection broke, or whether
    a value cannot be sent at all, such as text with a NUL.
    """
    if isinstance(error, exc.TimeoutError):
        return "away"  # All connections of the pool are taken, for longer than anybody waits.
    cause: BaseException | None = error
    if isinstance(error, exc.DBAPIError):
        if error.connection_invalidated:
            return "away"
        cause = error.orig
    if isinstance(cause, UnicodeEncodeError):
        return "refused"  # The driver cannot send text with half a surrogate pair.
    if not isinstance(cause, psycopg.Error):
        return None
    state = cause.sqlstate
    if state is None:
        return "away" if isinstance(cause, psycopg.OperationalError | psycopg.InterfaceError) else "refused"
    if state.startswith(_AWAY):
        return "away"
    if state.startswith(_NO_ROOM):
        return "no room"
    return "busy" if state.startswith(_BUSY) else "refused"


def looked_only(error: BaseException) -> bool:
    """Whether something was to be written by who may only look (SQLSTATE 25006)."""
    return getattr(getattr(error, "orig", error), "sqlstate", None) == "25006"


def no_room(error: BaseException) -> bool:
    """Whether an error says that the disk is full: the database's, a file's, or the spool's."""
    if isinstance(error, OSError):
        return error.errno in (errno.ENOSPC, errno.EDQUOT)
    if isinstance(error, sqlite3.OperationalError):
        return getattr(error, "sqlite_errorcode", None) == sqlite3.SQLITE_FULL
    return failure(error) == "no room"
