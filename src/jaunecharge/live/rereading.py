"""Work on stored runs in the background: read anew, where the old reading stays until the new one is there, and
packed."""

import logging
import threading
import uuid
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field

from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from ..store import models as m
from ..store.database import Database
from ..store.failures import failure
from ..store.runs.logs import load_log, pack
from ..store.runs.readings import claim_stale, read_stale, stale, stale_runs
from ..store.runs.rows import claim_unpacked, rows_of_runs
from .niceness import step_back

PAUSE_S = 5.0
IDLE_S = 600.0

log = logging.getLogger(__name__)

AT_ONCE = 200
"""Runs that are looked up at a time: each look goes through all that wait."""


@dataclass
class Waiting:
    """Runs that wait for one kind of work: how they are looked up, how one is claimed, what is done with it."""

    found: Callable[[Session, int], list[uuid.UUID]]
    claim: Callable[[Session, uuid.UUID], m.Run | None]
    work: Callable[[Session, m.Run], None]
    next: deque[uuid.UUID] = field(default_factory=deque)


class Rereader:
    """Reads and packs one run after another, each in a transaction of its own; several processes share the work."""

    def __init__(self, database: Database) -> None:
        self._database = database
        self._wanted = threading.Event()
        self._over = threading.Event()
        self._of = 0
        self._spoilt: set[uuid.UUID] = set()
        self._stale = Waiting(stale_runs, claim_stale, _read)
        self._in_rows = Waiting(rows_of_runs, claim_unpacked, pack)
        self._thread = threading.Thread(target=self._work, name="reading again", daemon=True)

    def start(self) -> None:
        """Begin; whatever is stale is read."""
        self._wanted.set()
        self._thread.start()

    def stop(self) -> None:
        """End after the run that is being read."""
        self._over.set()
        self._wanted.set()
        self._thread.join(timeout=60)

    def wake(self) -> None:
        """Look for stale runs now."""
        self._wanted.set()

    def of(self, left: int) -> int:
        """Out of how many so many are left."""
        self._of = 0 if left == 0 else max(self._of, left)
        return self._of

    def _work(self) -> None:
        step_back()
        while not self._over.is_set():
            self._wanted.wait(IDLE_S)
            self._wanted.clear()
            self._spoilt.clear()
            try:
                with self._database.session() as session:
                    self.of(stale(session))
                while not self._over.is_set() and (self.read_one() or self.pack_one()):
                    pass
            except SQLAlchemyError as error:
                # The database does not answer: what is stale stays so, and is read when it is back.
                log.warning("reading again was interrupted: %s", str(error).splitlines()[0])
                if not self._over.wait(PAUSE_S):
                    self._wanted.set()
            except Exception:
                log.exception("reading again stopped; it is tried again later")

    def read_one(self) -> bool:
        """Read one stale run anew; whether there was one."""
        return self._next(self._stale)

    def pack_one(self) -> bool:
        """Pack the log of one run that is stored in rows; whether there was one."""
        return self._next(self._in_rows)

    def _next(self, waiting: Waiting) -> bool:
        """Work on one run; whether there was one that nobody else has."""
        for _ in ("those looked up before", "those that wait now"):
            if not waiting.next:
                with self._database.session() as session:
                    found = waiting.found(session, AT_ONCE + len(self._spoilt))
                waiting.next.extend(run_id for run_id in found if run_id not in self._spoilt)
            while waiting.next:
                if self._worked(waiting, waiting.next.popleft()):
                    return True
        return False

    def _worked(self, waiting: Waiting, run_id: uuid.UUID) -> bool:
        """Whether a run could be claimed; one with which the work fails waits until it is all begun again, and spoils
        no other."""
        try:
            with self._database.session() as session:
                run = waiting.claim(session, run_id)
                if run is not None:
                    waiting.work(session, run)
            return run is not None
        except Exception as error:
            if isinstance(error, SQLAlchemyError) and failure(error) != "refused":
                raise
            log.exception("run %s could not be read again or packed; the others are", run_id)
            self._spoilt.add(run_id)
            return True


def _read(session: Session, run: m.Run) -> None:
    pack(session, run)
    kept_at = run.updated_at
    read_stale(session, run, load_log(session, run))
    # Nobody changed it: a window that shows it need not ask anew, and no later save is refused.
    run.updated_at = kept_at
