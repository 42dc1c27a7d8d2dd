"""Jobs asked for over the web: begun, followed line by line or waited for."""

import json
import time
import uuid
from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import dataclass
from typing import Any

from fastapi import Request
from fastapi.responses import StreamingResponse
from sqlalchemy.exc import SQLAlchemyError

from ..core.errors import CannotRead
from ..store.database import Database, written_for
from ..store.errors import NotThere
from ..store.failures import failure
from ..store.jobs import jobs as store
from ..store.jobs.models import Job
from .context import Context, context_of, name_of
from .ndjson import NDJSON, UNBUFFERED, refused

QUICK_S, SLOW_S = 0.04, 0.4
AWAY_FOR_S = 30.0
NOBODY_FOR_S = 20.0
"""Nobody waits longer where there is no worker; one that comes does it all the same."""

Finished = Callable[[dict[str, Any]], dict[str, Any]]


@dataclass(frozen=True)
class Wanted:
    """A job to be done: its kind, its arguments, what it is about, and the key of equal ones."""

    kind: str
    args: dict[str, Any]
    about: str = ""
    key: str = ""


def begin(request: Request, wanted: Wanted) -> uuid.UUID:
    """Have a job done; its id. A person who may only look may have something worked out."""
    context = context_of(request)
    with written_for(context.database) as session:
        job = store.defer(session, wanted.kind, wanted.args, wanted.about, name_of(request), wanted.key)
    context.workforce.need()
    return job


def as_it_goes(
    request: Request, wanted: Wanted, finished: Finished = lambda result: result, dropped: bool = False
) -> StreamingResponse:
    """A job, followed line by line; the last line carries what `finished` makes of its result.

    `dropped` : the job is cancelled once who asked listens no more; not for one that others may wait for as well.
    """
    context, job_id = context_of(request), begin(request, wanted)
    return StreamingResponse(_lines(context, job_id, finished, dropped), media_type=NDJSON, headers=UNBUFFERED)


def _lines(context: Context, job_id: uuid.UUID, finished: Finished, dropped: bool) -> Iterator[str]:
    over = False
    try:
        news = 0
        for job in _states(context.database, job_id):
            if job.news > news:
                news = job.news
                yield _line("better", job.fraction)
            if job.state in store.OPEN:
                yield _line(job.step or job.state, job.fraction)
                continue
            over = True
            yield _line("done", 1.0, finished(_result(job)))
    except Exception as error:
        over = over or not isinstance(error, SQLAlchemyError)
        yield json.dumps({"step": "refused", "fraction": 0.0, "problem": refused(error)}) + "\n"
    finally:
        if dropped and not over:
            # It ends by itself where that cannot be told.
            with suppress(SQLAlchemyError, NotThere), written_for(context.database) as session:
                store.cancel(session, job_id)


def _line(step: str, fraction: float, more: dict[str, Any] | None = None) -> str:
    return json.dumps({"step": step, "fraction": round(fraction, 3), **(more or {})}) + "\n"


def result_of(request: Request, wanted: Wanted) -> dict[str, Any]:
    """A job, done, and waited for; what came of it.

    Raises
    ------
    CannotRead, NotThere, ChangedMeanwhile, Impossible
        What the job ended with.
    """
    context, job_id = context_of(request), begin(request, wanted)
    for job in _states(context.database, job_id):
        if job.state not in store.OPEN:
            return _result(job)
    raise AssertionError("a job is followed until it ends")


def _result(job: Job) -> dict[str, Any]:
    if job.state == "failed":
        raise store.error_of(job.why or {"is": "", "what": "it failed"})
    if job.state == "cancelled":
        raise CannotRead("this was cancelled", "ask for it again")
    return job.result or {}


def _states(database: Database, job_id: uuid.UUID) -> Iterator[Job]:
    """A job each time that it has changed, until it has ended; through a short outage of the database."""
    before: tuple[Any, ...] = ()
    began, answered = time.monotonic(), time.monotonic()
    while True:
        try:
            with database.session() as session:
                job = store.get_job(session, job_id)
                if job.state == "waiting" and time.monotonic() - began > NOBODY_FOR_S and not store.any_worker(session):
                    raise CannotRead("no worker is there to do this", "start one: jaunecharge worker")
            answered = time.monotonic()
        except SQLAlchemyError as error:
            if failure(error) != "away" or time.monotonic() - answered > AWAY_FOR_S:
                raise
            time.sleep(SLOW_S)
            continue
        now = (job.state, job.step, job.fraction, job.news, job.attempt)
        if now != before:
            before = now
            yield job
        if job.state not in store.OPEN:
            return
        # What is quick is told at once; what is long need not be asked for as often.
        time.sleep(min(SLOW_S, max(QUICK_S, (time.monotonic() - began) / 10)))
