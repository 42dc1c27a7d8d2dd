"""One job being done: what its work is given, and how it ends."""

import logging
import threading
import time
import uuid
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Any

from sqlalchemy.orm import Session

from ..store.database import Database
from ..store.failures import failure
from ..store.jobs import jobs as store
from ..store.jobs.jobs import Cancelled, Superseded
from ..store.runs.uploads import Uploads

log = logging.getLogger(__name__)
TOLD_EVERY_S = 0.25
AWAY_S = 5.0


@dataclass(frozen=True)
class Workshop:
    """All that any work is given."""

    database: Database
    uploads: Uploads
    worker: str
    closing: threading.Event = field(default_factory=threading.Event)
    """Set once this worker is to end: long work stops with what it has."""


class Again(Exception):
    """The job failed, and is tried again after so many seconds."""

    def __init__(self, after_s: float) -> None:
        super().__init__(f"again after {after_s:.0f} s")
        self.after_s = after_s


class Leaving(Exception):
    """This worker ends: another takes the job up at once."""


class Doing:
    """A job in one attempt: its arguments, how far it has come, and its end."""

    def __init__(self, workshop: Workshop, job: uuid.UUID, attempt: int, args: dict[str, Any], by: str) -> None:
        self.database, self.uploads, self.closing = workshop.database, workshop.uploads, workshop.closing
        self.id, self.attempt, self.args, self.by = job, attempt, args, by
        self.ended = False
        self._news = 0
        self._told = 0.0

    def tell(self, step: str, fraction: float, news: bool = False) -> None:
        """Say how far it has come; not oftener than anybody looks.

        Raises
        ------
        Superseded, Cancelled
        Leaving
            If the worker is to end: the job is left to another.
        """
        if self.closing.is_set():
            raise Leaving
        self._news += news
        if not news and time.monotonic() - self._told < TOLD_EVERY_S:
            return
        self._told = time.monotonic()
        with self.database.session() as session:
            store.tell(session, self.id, self.attempt, step, min(1.0, max(0.0, fraction)), self._news)

    @contextmanager
    def last_step(self) -> Iterator[tuple[Session, dict[str, Any]]]:
        """The transaction that has the effect, and what came of it: the job ends in it.

        Raises
        ------
        Superseded, Cancelled
        """
        with self.database.session() as session:
            result: dict[str, Any] = {}
            yield session, result
            self.finish(session, result)
        self.ended = True

    def finish(self, session: Session, result: dict[str, Any]) -> None:
        """End in a transaction that somebody else commits.

        Raises
        ------
        Superseded, Cancelled
        """
        store.finish(session, self.id, self.attempt, result)


Work = Callable[[Doing], dict[str, Any] | None]


def do(workshop: Workshop, job_id: uuid.UUID, works: dict[str, Work]) -> None:
    """Do a job; whatever comes of it stands in its record.

    Raises
    ------
    Again
    """
    with workshop.database.session() as session:
        job = store.begin(session, job_id, workshop.worker)
        if job is None:
            return
        doing = Doing(workshop, job.id, job.attempt, job.args, job.by)
        work, kind = works[job.kind], job.kind
    try:
        result = work(doing)
        if not doing.ended:
            with workshop.database.session() as session:
                doing.finish(session, result or {})
    except Superseded:
        log.warning("%s %s was taken over by another worker", kind, job_id)
    except Cancelled:
        with workshop.database.session() as session:
            store.end_cancelled(session, job_id, doing.attempt)
    except Leaving as error:
        with workshop.database.session() as session:
            store.put_back(session, job_id, doing.attempt)
        raise Again(0.0) from error
    except Exception as error:
        if failure(error) == "away":
            # Nothing can be written down now: it stays as it is, and is begun anew.
            raise Again(AWAY_S) from error
        if not isinstance(error, store.REFUSALS):
            log.exception("%s %s failed", kind, job_id)
        try:
            with workshop.database.session() as session:
                again_s = store.end_failed(session, job_id, doing.attempt, error)
        except Superseded:
            return
        if again_s is not None:
            raise Again(again_s) from error
