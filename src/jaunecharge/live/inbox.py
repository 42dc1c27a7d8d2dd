"""Where readings arrive: many at once are stored in one transaction, and acknowledged only when it is committed."""

import contextlib
import logging
import queue
import threading
from concurrent.futures import Future
from dataclasses import dataclass

from sqlalchemy.exc import DBAPIError

from ..store.bench import Batch, Stored, push
from ..store.database import Database
from ..store.errors import NotThere
from .spool import Spool, SpoolFull

log = logging.getLogger(__name__)
GATHER_S = 0.03
"""How long the first reading waits for others to be stored with it."""

MOST_BATCHES = 2000
RETRY_S = 0.5


@dataclass(frozen=True)
class Waits:
    """The database is away: the batch waits on disk, and is not acknowledged."""

    waiting: int


Outcome = Stored | Waits


def gone(error: BaseException) -> bool:
    """Whether an error says that the database is away, and not that it refuses."""
    if not isinstance(error, DBAPIError):
        return False
    state = getattr(error.orig, "sqlstate", None)
    # Class 57: shut down by an operator, or starting up; class 08: connection; none: the connection broke.
    return error.connection_invalidated or state is None or state[:2] in {"57", "08"}


class Inbox:
    """Stores what is put into it, in the background, in the order of arrival."""

    def __init__(self, database: Database, spool: Spool) -> None:
        self._database, self.spool = database, spool
        self._arrived: queue.SimpleQueue[tuple[Batch, Future[Outcome]] | None] = queue.SimpleQueue()
        self.away = False
        self._over = threading.Event()
        self._thread = threading.Thread(target=self._run, name="inbox", daemon=True)

    def start(self) -> None:
        """Begin to store."""
        self._thread.start()

    def stop(self) -> None:
        """Store what has arrived, and end."""
        self._over.set()
        self._arrived.put(None)
        self._thread.join(30)
        self.spool.close()

    def put(self, batch: Batch) -> Future[Outcome]:
        """Hand over a batch; the future holds what became of it once that is sure."""
        future: Future[Outcome] = Future()
        self._arrived.put((batch, future))
        return future

    def _run(self) -> None:
        while not (self._over.is_set() and self._arrived.empty()):
            taken = self._gathered()
            try:
                if taken:
                    self._store(taken)
                if not self._over.is_set():
                    self._drain()
            except Exception as error:
                log.exception("readings could not be stored or kept")
                for _, future in taken:
                    if not future.done():
                        future.set_exception(error)

    def _gathered(self) -> list[tuple[Batch, Future[Outcome]]]:
        taken: list[tuple[Batch, Future[Outcome]]] = []
        with contextlib.suppress(queue.Empty):
            first = self._arrived.get(timeout=RETRY_S)
            if first is not None:
                taken.append(first)
                self._over.wait(GATHER_S)
                while len(taken) < MOST_BATCHES:
                    more = self._arrived.get_nowait()
                    if more is not None:
                        taken.append(more)
        return taken

    def _store(self, taken: list[tuple[Batch, Future[Outcome]]]) -> None:
        batches = [batch for batch, _ in taken]
        try:
            with self._database.session() as session:
                stored = push(session, batches)
        except NotThere as error:
            self._one_by_one(taken, error)
            return
        except Exception as error:
            if gone(error):
                self._wait(taken)
            else:
                self._one_by_one(taken, error)
            return
        self.away = False
        for (_, future), outcome in zip(taken, stored, strict=True):
            future.set_result(outcome)

    def _one_by_one(self, taken: list[tuple[Batch, Future[Outcome]]], error: Exception) -> None:
        """What cannot be stored together is stored alone, so that one bad batch spoils no other."""
        if len(taken) == 1:
            taken[0][1].set_exception(error)
            return
        for one in taken:
            self._store([one])

    def _wait(self, taken: list[tuple[Batch, Future[Outcome]]]) -> None:
        self.away = True
        try:
            self.spool.put([batch for batch, _ in taken])
        except SpoolFull as error:
            for _, future in taken:
                future.set_exception(error)
            return
        waiting = self.spool.waiting()
        for _, future in taken:
            future.set_result(Waits(waiting))

    def _drain(self) -> None:
        """Store what waits on disk; nothing is let go before it is committed."""
        waiting = self.spool.first()
        if not waiting:
            return
        try:
            with self._database.session() as session:
                push(session, [batch for _, batch in waiting])
        except NotThere:
            self._drain_singly(waiting)
        except Exception as error:
            if not gone(error):
                self._drain_singly(waiting)
                return
            self.away = True
            return
        else:
            self.spool.drop([number for number, _ in waiting])
        self.away = False

    def _drain_singly(self, waiting: list[tuple[int, Batch]]) -> None:
        for number, batch in waiting:
            try:
                with self._database.session() as session:
                    push(session, [batch])
            except Exception as error:
                if gone(error):
                    return
            self.spool.drop([number])
