"""Resources of every request: the database, the files sent, and a cache of logs that can be thrown away at any time."""

import datetime as dt
import threading
import urllib.parse
import uuid
from dataclasses import dataclass, field

from cachetools import LRUCache
from fastapi import Request
from sqlalchemy.orm import Session

from ..core.bench import around_lane
from ..core.errors import CannotRead
from ..core.reading import Reading, RunLog
from ..jobs.workforce import Workforce
from ..live.hub import Hub
from ..live.inbox import Inbox
from ..live.practice import Practice
from ..store import models as m
from ..store.bench.lanes import NewLane
from ..store.bench.opening import chain_of_labels
from ..store.database import Database
from ..store.packs import pack_of
from ..store.runs.logs import load_log
from ..store.runs.readings import Basis, basis_of, known_placing, read_on
from ..store.runs.uploads import Uploads
from .network import Network
from .signed import Known, who_of

MOST_SAMPLES_CACHED = 8_000_000


Key = tuple[uuid.UUID, int, dt.datetime]


def key_of(run: m.Run) -> Key:
    """A run in one state of it; the time tells states apart that a restored backup counts alike."""
    return run.id, run.revision, run.updated_at


@dataclass(frozen=True)
class Read:
    """A log, what its reading rests on besides, and the reading."""

    log: RunLog
    basis: Basis
    reading: Reading


class ReadingCache:
    """Readings of the runs looked at last, with their logs; a hit only saves time."""

    def __init__(self) -> None:
        # One whose log is larger than all that may be kept is kept alone.
        self._readings: LRUCache[Key, Read] = LRUCache(
            MOST_SAMPLES_CACHED, getsizeof=lambda kept: min(len(kept.log.trace.time_s), MOST_SAMPLES_CACHED)
        )
        self._lock = threading.Lock()

    def get(self, session: Session, run: m.Run) -> Reading:
        """The reading of a run, made anew if what it rests on has changed, or it is not at hand."""
        key, basis = key_of(run), basis_of(session, run)
        kept = self._kept(key)
        if kept is not None and kept.basis == basis:
            return kept.reading
        log = load_log(session, run) if kept is None else kept.log
        reading = read_on(basis, log)
        with self._lock:
            self._readings[key] = Read(log, basis, reading)
        return reading

    def log(self, run: m.Run) -> RunLog | None:
        """The log of a run, if it is at hand."""
        kept = self._kept(key_of(run))
        return None if kept is None else kept.log

    def _kept(self, key: Key) -> Read | None:
        with self._lock:
            return self._readings.get(key)


class Rereadings:
    """Counts out of how many runs so many are left to be read again."""

    def __init__(self) -> None:
        self._of = 0

    def of(self, left: int) -> int:
        """Out of how many so many are left."""
        self._of = 0 if left == 0 else max(self._of, left)
        return self._of


@dataclass(frozen=True)
class Context:
    """Shared by all requests of one process."""

    database: Database
    uploads: Uploads
    inbox: Inbox
    hub: Hub
    known: Known
    workforce: Workforce
    rereadings: Rereadings = field(default_factory=Rereadings)
    readings: ReadingCache = field(default_factory=ReadingCache)
    practice: Practice = field(default_factory=Practice)
    network: Network = field(default_factory=Network)
    checking: threading.Semaphore = field(default_factory=lambda: threading.Semaphore(1))
    """One passphrase is checked at a time: it takes much memory."""

    def reading(self, session: Session, run: m.Run) -> Reading:
        """A run, read."""
        return self.readings.get(session, run)

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
        known = known_placing(run)
        return self.reading(session, run).placed_s if known is None else known


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
