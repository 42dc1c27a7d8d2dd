"""Sessions: the person behind a request."""

import threading
import time
from collections import OrderedDict
from dataclasses import dataclass

from starlette.requests import HTTPConnection
from starlette.types import Scope

from ..live.steady import now
from ..store import sign_ins as store
from ..store.database import Database
from ..store.people import Role
from ..store.sign_ins import Signed

COOKIE = "jaunecharge"
REMEMBERED_S = 5.0
MOST_REMEMBERED = 1000
WHO = "jaunecharge.who"


@dataclass(frozen=True)
class Who:
    """The person behind a request: name, role, address of their machine; session : empty without a sign-in."""

    name: str
    role: Role
    address: str
    session: Signed | None = None


def address_of(scope: Scope) -> str:
    """The address of the machine that a request comes from."""
    client = scope.get("client")
    return str(client[0]) if client else ""


def who_of(scope: Scope) -> Who | None:
    """The person behind a request, as the door has found; None where nobody is known to."""
    person: Who | None = scope.get(WHO)
    return person


def cookie_name(secure: bool) -> str:
    """Name of the cookie: under TLS so that no other host, path or plain page can set it."""
    return f"__Host-{COOKIE}" if secure else COOKIE


def token_of(scope: Scope) -> str:
    """The session token in a request; empty where there is none."""
    return HTTPConnection(scope).cookies.get(cookie_name(scope.get("scheme") == "https"), "")


class Known:
    """Cache of sessions for some seconds; what the store says goes before."""

    def __init__(self, database: Database) -> None:
        self._database = database
        self._good: OrderedDict[str, tuple[Signed, float]] = OrderedDict()
        self._lock = threading.Lock()

    def who(self, token: str) -> Signed | None:
        """The holder of a token; None where it is not good."""
        if not token:
            return None
        with self._lock:
            cached = self._good.get(token)
        if cached is not None and cached[1] > time.monotonic():
            return cached[0]
        with self._database.session() as session:
            signed = store.signed_in(session, token, now())
        with self._lock:
            if signed is None:
                self._good.pop(token, None)
            else:
                self._good[token] = signed, time.monotonic() + REMEMBERED_S
                while len(self._good) > MOST_REMEMBERED:
                    self._good.popitem(last=False)
        return signed

    def forget(self) -> None:
        """Ask the store again, for everybody."""
        with self._lock:
            self._good.clear()
