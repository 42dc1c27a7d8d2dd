"""Stored runs read anew where the method has changed, and packed where their logs are in rows; the old reading stays
until the new one is there."""

import logging
import uuid
from typing import Any

from sqlalchemy import func, select, text
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from ..core.reading import READER_VERSION
from ..store import models as m
from ..store.database import Database
from ..store.failures import failure
from ..store.jobs import jobs as store
from ..store.jobs.models import Job
from ..store.runs.logs import load_log, pack
from ..store.runs.readings import claim_stale, read_stale, stale_runs
from ..store.runs.rows import claim_unpacked, rows_of_runs
from .doing import Doing

KIND = "runs again"
AT_ONCE = 25
"""Runs of one job: a few seconds of work, after which whoever waits for a page goes first."""

MOST_WAITING = 40
LOCK = 8420

log = logging.getLogger(__name__)


def deal_out(session: Session) -> int:
    """Have runs that wait read anew or packed, a job for some of them at a time; how many runs there were."""
    if not session.scalar(text("SELECT pg_try_advisory_xact_lock(:lock)"), {"lock": LOCK}):
        return 0
    waiting = select(func.count()).where(Job.kind == KIND, Job.state == "waiting")
    room = MOST_WAITING - (session.scalar(waiting) or 0)
    if room <= 0:
        return 0
    busy = {
        uuid.UUID(run_id)
        for job in store.open_jobs(session, KIND)
        if job.state != "failed" or job.args["version"] == READER_VERSION
        for run_id in job.args["runs"]
    }
    most = room * AT_ONCE + len(busy)
    found = dict.fromkeys(run for run in (*stale_runs(session, most), *rows_of_runs(session, most)) if run not in busy)
    runs = list(found)[: room * AT_ONCE]
    for first in range(0, len(runs), AT_ONCE):
        _defer(session, runs[first : first + AT_ONCE])
    return len(runs)


def _defer(session: Session, runs: list[uuid.UUID]) -> None:
    about = f"{len(runs)} runs"
    if len(runs) == 1:
        about = session.scalar(select(m.Run.label).where(m.Run.id == runs[0])) or "a run"
    store.defer(session, KIND, {"runs": [str(run) for run in runs], "version": READER_VERSION}, about)


def read_again(doing: Doing) -> dict[str, Any]:
    """Read some runs anew, each in a transaction of its own; one that fails spoils no other, and is tried by itself."""
    runs = [uuid.UUID(run) for run in doing.args["runs"]]
    if len(runs) > 1 and doing.attempt > 1:
        # The worker before died over one of them.
        with doing.last_step() as (session, result):
            for run_id in runs:
                _defer(session, [run_id])
            result["runs"] = 0
        return {}
    done, spoilt = 0, []
    for n, run_id in enumerate(runs):
        doing.tell("reading", n / len(runs))
        try:
            done += again(doing.database, run_id)
        except Exception as error:
            if len(runs) == 1 or (isinstance(error, SQLAlchemyError) and failure(error) != "refused"):
                raise
            log.exception("run %s could not be read again or packed; the others are", run_id)
            spoilt.append(run_id)
    with doing.last_step() as (session, result):
        for run_id in spoilt:
            _defer(session, [run_id])
        result["runs"] = done
    with doing.database.session() as session:
        deal_out(session)
    return {}


def again(database: Database, run_id: uuid.UUID) -> bool:
    """Read a run anew and pack its log, whichever is to be done; whether either was, and nobody else does it."""
    with database.session() as session:
        run = claim_stale(session, run_id)
        if run is not None:
            _read(session, run)
            return True
        run = claim_unpacked(session, run_id)
        if run is not None:
            pack(session, run)
        return run is not None


def _read(session: Session, run: m.Run) -> None:
    pack(session, run)
    read_stale(session, run, load_log(session, run))
