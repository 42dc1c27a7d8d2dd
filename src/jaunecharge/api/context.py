"""Resources of every request: the database, the files sent, and a cache of logs that can be thrown away at any time."""

import datetime as dt
import threading
import urllib.parse
import uuid
from collections.abc import Callable
from dataclasses import dataclass, field

from cachetools import LRUCache
from fastapi import Request
from sqlalchemy.orm import Session

from ..core.bench import around_lane
from ..core.errors import CannotRead
from ..core.reading import Reading, RunLog
from ..live.hub import Hub
from ..live.inbox import Inbox
from ..live.practice import Practice
from ..live.rereading import Rereader
from ..store import models as m
from ..store.bench.lanes import NewLane
from ..store.bench.opening import chain_of_labels
from ..store.database import Database
from ..store.packs import pack_of
from ..store.runs.readings import reading_of
from ..store.runs.runs import load_log
from ..store.runs.uploads import Uploads
from .network import Network
from .searches import Searches
from .signed import Known, Tries, who_of

MOST_SAMPLES_CACHED = 8_000_000
MOST_PLACINGS_CACHED = 1000


Key = tuple[uuid.UUID, int, dt.datetime]


def key_of(run: m.Run) -> Key:
    """A run in one state of it; the time tells states apart that a restored backup counts alike."""
    return run.id, run.revision, run.updated_at


class LogCache:
    """Logs of the runs looked at last, by their state; a hit only saves time."""

    def __init__(self) -> None:
        # One that is larger than all that may be kept is kept alone.
        self._logs: LRUCache[Key, RunLog] = LRUCache(
            MOST_SAMPLES_CACHED, getsizeof=lambda log: min(len(log.trace.time_s), MOST_SAMPLES_CACHED)
        )
        self._placed: LRUCache[Key, float] = LRUCache(MOST_PLACINGS_CACHED)
        self._lock = threading.Lock()

    def get(self, session: Session, run: m.Run) -> RunLog:
        """The log of a run, loaded if it is not at hand."""
        key = key_of(run)
        with self._lock:
            log = self._logs.get(key)
        if log is None:
            log = load_log(session, run)
            with self._lock:
                self._logs[key] = log
        return log

    def placed_s(self, run: m.Run, read: Callable[[], float]) -> float:
        """When the phone of a run was placed, read if it is not at hand."""
        key = key_of(run)
        with self._lock:
            placed = self._placed.get(key)
        if placed is None:
            placed = read()
            with self._lock:
                self._placed[key] = placed
        return placed


@dataclass(frozen=True)
class Context:
    """Shared by all requests of one process."""

    database: Database
    uploads: Uploads
    inbox: Inbox
    hub: Hub
    known: Known
    rereader: Rereader
    logs: LogCache = field(default_factory=LogCache)
    searches: Searches = field(default_factory=Searches)
    practice: Practice = field(default_factory=Practice)
    network: Network = field(default_factory=Network)
    tries: Tries = field(default_factory=Tries)

    def reading(self, session: Session, run: m.Run) -> Reading:
        """A run, read."""
        return reading_of(session, run, self.logs.get(session, run))

    def practise(self, session: Session, opening: NewLane, speed: float) -> str:
        """Stand-ins that play a lane's chain; their address.

        Raises
        ------
        CannotRead
            If its phone or charger is not on the shelf, or nothing plays such a lane.
        """
        if opening.kind == "load":
            pack = pack_of(session, opening.pack)
            return self.practice.stand_pack(pack, "step" in opening.card.name.lower(), speed)
        if opening.kind == "recharge":
            raise CannotRead("no stand-in plays a recharge", "log a real one, or type it under Packs", file="practice")
        chain = chain_of_labels(session, opening.factors)
        if chain is None:
            raise CannotRead(
                "a stand-in plays kit of the shelf", "choose phone and charger from there", file="practice"
            )
        factors, ambient = opening.factors, opening.case.ambient_c
        around = around_lane(opening.card, factors.get("airflow", ""), factors.get("phone_state", ""), ambient)
        return self.practice.stand(chain, around, speed)

    def placed_s(self, session: Session, run: m.Run) -> float:
        """When the phone of a run was placed [s]."""
        return self.logs.placed_s(run, lambda: self.reading(session, run).placed_s)


def context_of(request: Request) -> Context:
    """The context of the application that serves a request."""
    context: Context = request.app.state.context
    return context


def about(request: Request, what: str | None) -> None:
    """Say for the log what a request is about, where its path does not; None where it changed nothing after all."""
    request.state.about = what


def name_of(request: Request) -> str:
    """Name of the person behind a request: as they have signed in; else the name that they gave, for corrections and
    notes.
    """
    who = who_of(request.scope)
    if who is not None and who.session is not None:
        return who.name
    return urllib.parse.unquote(request.headers.get("jaunecharge-by", ""))[:80]
