"""Where readings arrive: many at once are stored in one transaction, and acknowledged only when it is committed."""

import contextlib
import logging
import queue
from concurrent.futures import Future
from dataclasses import dataclass

from ..core.errors import CannotRead
from ..store.bench.arriving import Batch, Stored, push
from ..store.database import Database
from ..store.errors import NotThere
from ..store.failures import failure, no_room
from .spool import Spool, SpoolFull
from .worker import Turn, Worker

log = logging.getLogger(__name__)
GATHER_S = 0.01
"""Time that the first reading waits for others to be stored with it."""

MOST_BATCHES = 2000
MOST_TRIES = 5
MOST_ARRIVED = 5000
RETRY_S = 0.5
WAITS = ("away", "no room", "busy")
"""Failures of the database after which readings wait on disk: it has not refused them."""


@dataclass(frozen=True)
class Waits:
    """The database does not answer, or has no room: the batch waits on disk, and is not acknowledged."""

    waiting: int
    no_room: bool = False


Outcome = Stored | Waits


class Refused(Exception):
    """The database refuses a batch; it was set aside. The message says why."""


class Inbox:
    """Stores what is put into it, in the background, in the order of arrival."""

    def __init__(self, database: Database, spool: Spool) -> None:
        self._database, self.spool = database, spool
        self._arrived: queue.SimpleQueue[tuple[Batch, Future[Outcome]] | None] = queue.SimpleQueue()
        self.away = False
        self.fault = ""
        self.worker = Worker("inbox", "readings that arrive are not stored", self._run)

    def start(self) -> None:
        """Begin to store."""
        self.worker.start()

    def stop(self) -> None:
        """Store what has arrived, and end."""
        self.worker.stopped.set()
        self._arrived.put(None)
        self.worker.stop()
        self.spool.close()

    def put(self, batch: Batch) -> Future[Outcome]:
        """Hand over a batch; the future holds what became of it once that is sure.

        Raises
        ------
        SpoolFull
            If too many arrive for them to be stored.
        """
        if self._arrived.qsize() > MOST_ARRIVED:
            raise SpoolFull(f"{MOST_ARRIVED:,} batches have arrived and are not stored yet")
        future: Future[Outcome] = Future()
        self._arrived.put((batch, future))
        return future

    def _run(self, turn: Turn) -> None:
        while not turn.replaced and not (turn.over and self._arrived.empty()):
            taken = self._gathered(turn)
            try:
                if taken:
                    self._store(taken)
                if not turn.over:
                    self._drain()
                self.fault = ""
            except Exception as error:
                log.exception("readings could not be stored or kept")
                self.fault = "the disk is full" if no_room(error) else f"{type(error).__name__}: {error}"[:200]
                for _, future in taken:
                    if not future.done():
                        future.set_exception(error)
            turn.beat()

    def _gathered(self, turn: Turn) -> list[tuple[Batch, Future[Outcome]]]:
        taken: list[tuple[Batch, Future[Outcome]]] = []
        with contextlib.suppress(queue.Empty):
            first = self._arrived.get(timeout=RETRY_S)
            if first is not None:
                taken.append(first)
                turn.wait(GATHER_S)
                while len(taken) < MOST_BATCHES:
                    more = self._arrived.get_nowait()
                    if more is not None:
                        taken.append(more)
        return taken

    def _store(self, taken: list[tuple[Batch, Future[Outcome]]]) -> None:
        """Store batches together; those that cannot be wait on disk, or are stored one by one."""
        try:
            stored = self._pushed([batch for batch, _ in taken])
        except Exception as error:
            if failure(error) in WAITS:
                self._wait(taken, error)
            elif len(taken) > 1:
                # What cannot be stored together is stored alone, so that one bad batch spoils no other.
                for one in taken:
                    self._store([one])
            else:
                self._refuse(*taken[0], error)
            return
        self.away = False
        for (_, future), outcome in zip(taken, stored, strict=True):
            future.set_result(outcome)

    def _pushed(self, batches: list[Batch]) -> list[Stored]:
        """Store batches; one that others were in the way of is tried again."""
        for tries in range(MOST_TRIES):
            try:
                with self._database.session() as session:
                    return push(session, batches)
            except Exception as error:
                if failure(error) != "busy" or tries == MOST_TRIES - 1:
                    raise
        raise AssertionError("the last try returns or raises")

    def _refuse(self, batch: Batch, future: Future[Outcome], error: Exception) -> None:
        if isinstance(error, NotThere | CannotRead):
            future.set_exception(error)
            return
        why = reason(error)
        self.spool.put_aside(batch, why)
        future.set_exception(Refused(why))

    def _wait(self, taken: list[tuple[Batch, Future[Outcome]]], error: Exception) -> None:
        self.away = True
        try:
            self.spool.put([batch for batch, _ in taken])
        except SpoolFull as full:
            for _, future in taken:
                future.set_exception(full)
            return
        waiting = self.spool.waiting()
        for _, future in taken:
            future.set_result(Waits(waiting, failure(error) == "no room"))

    def _drain(self) -> None:
        """Store what waits on disk; nothing is let go before it is committed."""
        waiting = self.spool.first()
        if not waiting:
            return
        try:
            stored = self._pushed([batch for _, batch in waiting])
        except Exception as error:
            if failure(error) in WAITS:
                self.away = True
            else:
                self._drain_singly(waiting)
            return
        self._settle(waiting, stored)
        self.away = False

    def _drain_singly(self, waiting: list[tuple[int, Batch]]) -> None:
        """Store what waits one by one: what is refused is set aside, and keeps nothing behind it."""
        for number, batch in waiting:
            try:
                stored = self._pushed([batch])
            except Exception as error:
                if failure(error) in WAITS:
                    return
                self.spool.drop([number], reason(error))
            else:
                self._settle([(number, batch)], stored)
        self.away = False

    def _settle(self, waiting: list[tuple[int, Batch]], settled: list[Stored]) -> None:
        over = [number for (number, _), one in zip(waiting, settled, strict=True) if one.over]
        stored = [number for (number, _), one in zip(waiting, settled, strict=True) if not one.over]
        if stored:
            self.spool.drop(stored)
        if over:
            self.spool.drop(over, "its lane had ended before the database was back")


def reason(error: Exception) -> str:
    """Why a batch is refused, in one line."""
    text = str(getattr(error, "orig", None) or error).strip() or type(error).__name__
    return text.splitlines()[0].replace("\x00", "\ufffd")[:300]
