"""Sessions and failed sign-ins: the person behind a request, and how often wrong passphrases were tried."""

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
FREE_TRIES, MOST_DELAY_S, FORGOTTEN_S = 3, 300.0, 900.0
MOST_ADDRESSES = 10_000
SLOT_WITHIN_S = 5.0
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


class Tries:
    """Passphrases tried, by address: each counts before it is checked, and after some the next has to wait.

    One address that tries many keeps no other from signing in. One passphrase is checked at a time.
    """

    def __init__(self) -> None:
        self._tried: OrderedDict[str, tuple[int, float]] = OrderedDict()
        self._lock = threading.Lock()
        self.slot = threading.Semaphore(1)

    def begin(self, address: str) -> float:
        """Count a try; how long it has to wait first [s], 0 where it may be made now."""
        at = time.monotonic()
        with self._lock:
            tries, last = self._tried.get(address, (0, at))
            if at - last > FORGOTTEN_S:
                tries = 0
            delay = 0.0 if tries < FREE_TRIES else min(MOST_DELAY_S, 2.0 ** (tries - FREE_TRIES + 1))
            if (left := last + delay - at) > 0.0:
                return left
            self._tried[address] = tries + 1, at
            self._tried.move_to_end(address)
            while len(self._tried) > MOST_ADDRESSES:
                self._tried.popitem(last=False)
        return 0.0

    def right(self, address: str) -> None:
        """The try was right: the address begins anew."""
        with self._lock:
            self._tried.pop(address, None)


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
