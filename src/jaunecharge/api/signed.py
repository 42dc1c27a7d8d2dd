"""Who has signed in, and how often the wrong passphrase was tried."""

import threading
import time
from http.cookies import SimpleCookie

from starlette.types import Scope

from ..live.steady import now
from ..store import sign_ins as store
from ..store.database import Database

COOKIE = "jaunecharge"
REMEMBERED_S = 20.0
MOST_WRONG, WITHIN_S = 6, 60.0


class Tries:
    """Wrong passphrases of the last minute, from anybody: after some, everybody waits."""

    def __init__(self) -> None:
        self._wrong: list[float] = []
        self._lock = threading.Lock()

    def too_many(self) -> bool:
        """Whether nobody may try just now."""
        with self._lock:
            self._wrong = [t for t in self._wrong if t > time.monotonic() - WITHIN_S]
            return len(self._wrong) >= MOST_WRONG

    def wrong(self) -> None:
        """One more was wrong."""
        with self._lock:
            self._wrong.append(time.monotonic())


def token_of(scope: Scope) -> str:
    """What the browser of a request holds; empty where it holds nothing."""
    for name, value in scope.get("headers", []):
        if name == b"cookie":
            cookie: SimpleCookie = SimpleCookie()
            cookie.load(value.decode("latin-1"))
            if COOKIE in cookie:
                return cookie[COOKIE].value
    return ""


class Known:
    """Who has signed in, remembered for some seconds; what the store says goes before."""

    def __init__(self, database: Database) -> None:
        self._database = database
        self._good: dict[str, float] = {}

    def good(self, token: str) -> bool:
        """Whether a token is good."""
        if not token:
            return False
        if self._good.get(token, 0.0) > time.monotonic():
            return True
        with self._database.session() as session:
            found = store.signed_in(session, token, now())
        if found:
            self._good[token] = time.monotonic() + REMEMBERED_S
        return found

    def forget(self, token: str) -> None:
        """Ask the store again."""
        self._good.pop(token, None)
