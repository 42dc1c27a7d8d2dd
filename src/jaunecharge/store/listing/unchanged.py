"""Results of work on all lines of the list, remembered by this process as long as no line has changed."""

import threading
import time
from collections.abc import Callable, Hashable, Iterable
from typing import Any, TypeVar

from cachetools import LRUCache
from sqlalchemy import ColumnElement, text
from sqlalchemy.orm import Session

T = TypeVar("T")
ON_A_COPY_S = 5.0
"""A copy to read from does not tell each change of the list: what was worked out on it is believed for so long."""

LINE = text("SELECT last_value, pg_is_in_recovery() FROM listing_lines")
"""The last line that was written or taken away, and whether this is a copy to read from."""

WRITING = text(
    "SELECT EXISTS (SELECT FROM pg_locks JOIN pg_database AS own ON own.oid = pg_locks.database"
    " WHERE own.datname = current_database() AND relation = 'listing'::regclass AND mode <> 'AccessShareLock')"
)
"""Whether anybody is writing lines; if not, whatever was written before is seen from here on."""

_remembered: LRUCache[Hashable, tuple[int, float, Any]] = LRUCache(500)
_lock = threading.Lock()


def while_unchanged(
    session: Session, about: Hashable, work: Callable[[], T], whole: Callable[[T], bool] = lambda _: True
) -> T:
    """The result of a work on the list, or that of before if the list is the same; `about` : tells this work from
    others; `whole` : whether a result is to be remembered."""
    key = session.get_bind().engine.url, about
    line, copy = session.execute(LINE).one()
    with _lock:
        known = _remembered.get(key)
    if known is not None and known[0] == line and time.monotonic() < known[1]:
        value: T = known[2]
        return value
    writing = not copy and session.scalar(WRITING)
    value = work()
    if not writing and whole(value):
        with _lock:
            _remembered[key] = line, time.monotonic() + ON_A_COPY_S if copy else float("inf"), value
    return value


def in_words(conditions: Iterable[ColumnElement[bool]]) -> tuple[str, ...]:
    """Conditions with their values, to tell them apart."""
    return tuple(str(c.compile(compile_kwargs={"literal_binds": True})) for c in conditions)
