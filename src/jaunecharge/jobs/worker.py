"""A worker: takes jobs from the queue of the database, one that anybody waits for before those that nobody does."""

import asyncio
import logging
import os
import socket
import threading
import uuid
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import procrastinate
from procrastinate.jobs import Job
from procrastinate.retry import BaseRetryStrategy, RetryDecision
from sqlalchemy.engine import make_url
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from ..store.database import Database
from ..store.jobs import jobs as store
from ..store.jobs.jobs import BACKGROUND_NICENESS, KINDS
from ..store.listing.columns import last_line, table
from ..store.runs.uploads import Uploads
from ..store.versus import of_phone
from .doing import Again, Workshop, do
from .niceness import set_back
from .rereading import deal_out
from .works import WORKS

log = logging.getLogger(__name__)
BEATS_EVERY_S = 4.0
LOOKS_EVERY_S = 5.0
POLLS_EVERY_S = 2.0
AGAIN_AFTER_S = 2.0
ENDS_WITHIN_S = 20.0
TABLE_FOR_S = 2.0
AWAITED_AT_ONCE = 2
"""Jobs that somebody waits for, beside the one of any queue."""


class _ByOurCount(BaseRetryStrategy):
    """Tries again when the job's own record says so."""

    def get_retry_decision(self, *, exception: BaseException, job: Job) -> RetryDecision | None:
        return RetryDecision(retry_in={"seconds": int(exception.after_s)}) if isinstance(exception, Again) else None


def engine_of(database: Database) -> procrastinate.App:
    """The engine on a database, with every kind of job."""
    address = make_url(database.url).set(drivername="postgresql").render_as_string(hide_password=False)
    connector = procrastinate.PsycopgConnector(conninfo=address, min_size=1, max_size=6, timeout=10.0)
    engine = procrastinate.App(connector=connector)
    for kind in KINDS.values():
        engine.task(name=kind.name, queue=kind.queue, pass_context=True, retry=_ByOurCount())(_do)
    return engine


def _do(context: procrastinate.JobContext, job: str) -> None:
    workshop = context.additional_context["workshop"]
    set_back(KINDS[context.job.task_name].niceness, lambda: do(workshop, uuid.UUID(job), WORKS))


def own_name() -> str:
    """Name of this process as a worker: its machine and its number there."""
    return f"{socket.gethostname()}:{os.getpid()}"


class Worker:
    """A worker in a thread of its own: until it is stopped, through outages of the database."""

    def __init__(self, database: Database, uploads: Uploads) -> None:
        self._database = database
        self._workshop = Workshop(database, uploads, own_name())
        self._thread: threading.Thread | None = None
        self._loop: asyncio.AbstractEventLoop | None = None
        self._running: asyncio.Task[None] | None = None
        self._starting = threading.Lock()
        self._table_at = 0

    def start(self) -> None:
        """Begin, unless it has begun."""
        with self._starting:
            if self._thread is None:
                self._thread = threading.Thread(target=self._live, name="jobs", daemon=True)
                self._thread.start()

    def stop(self) -> None:
        """End; long work is stopped, what it has is kept."""
        with self._starting:
            self._workshop.closing.set()
            thread, loop, running = self._thread, self._loop, self._running
        if loop is not None and running is not None and loop.is_running():
            loop.call_soon_threadsafe(running.cancel)
        if thread is not None:
            thread.join(ENDS_WITHIN_S + 10.0)

    @property
    def alive(self) -> bool:
        """Whether it works."""
        return self._thread is not None and self._thread.is_alive()

    def _live(self) -> None:
        # A loop of its own kind: the database's driver waits in the standard one.
        with asyncio.Runner(loop_factory=asyncio.SelectorEventLoop) as runner:
            self._loop = runner.get_loop()
            while not self._workshop.closing.is_set():
                try:
                    runner.run(self._work())
                except asyncio.CancelledError:
                    break
                except Exception as error:
                    log.warning("the worker stopped: %s; it begins again", str(error).splitlines()[:1])
                self._workshop.closing.wait(AGAIN_AFTER_S)

    async def _work(self) -> None:
        self._running = asyncio.current_task()
        if self._workshop.closing.is_set():
            return
        loop = asyncio.get_running_loop()
        threads = ThreadPoolExecutor(2 + AWAITED_AT_ONCE, "job")
        loop.set_default_executor(threads)
        engine = engine_of(self._database)
        async with engine.open_async():
            both = [
                asyncio.create_task(self._take(engine, ["awaited"], AWAITED_AT_ONCE)),
                asyncio.create_task(self._take(engine, ["awaited", "background"], 1)),
            ]
            looking = asyncio.create_task(self._look(loop))
            try:
                # One of them ends by itself only where the database is away: both begin anew then.
                await asyncio.wait([*both, looking], return_when=asyncio.FIRST_COMPLETED)
            finally:
                looking.cancel()
                for task in both:
                    task.cancel()
                await asyncio.gather(*both, looking, return_exceptions=True)

    async def _take(self, engine: procrastinate.App, queues: list[str], at_once: int) -> None:
        context: dict[str, Any] = {"workshop": self._workshop}
        await engine.run_worker_async(
            queues=queues, name=self._workshop.worker, concurrency=at_once, additional_context=context,
            delete_jobs="always", install_signal_handlers=False, fetch_job_polling_interval=POLLS_EVERY_S,
            update_heartbeat_interval=BEATS_EVERY_S, stalled_worker_timeout=store.LOST_AFTER_S,
            shutdown_graceful_timeout=ENDS_WITHIN_S,
        )  # fmt: skip

    async def _look(self, loop: asyncio.AbstractEventLoop) -> None:
        while True:
            await loop.run_in_executor(None, set_back, BACKGROUND_NICENESS, self._see_to)
            await asyncio.sleep(LOOKS_EVERY_S)

    def _keep_table(self, session: Session) -> None:
        last = last_line(session)
        if last != self._table_at and table(session, of_phone, TABLE_FOR_S).left == 0:
            self._table_at = last

    def _see_to(self) -> None:
        """Take up what dead workers left, forget what is old, see whether runs wait to be read again, and have the
        table of phones × chargers ready for whoever opens it."""
        try:
            with self._database.session() as session:
                store.take_up_lost(session)
                store.tidy(session)
            with self._database.session() as session:
                deal_out(session)
            with self._database.session() as session:
                self._keep_table(session)
        except SQLAlchemyError as error:
            log.warning("jobs could not be looked through: %s", str(error).splitlines()[0])
