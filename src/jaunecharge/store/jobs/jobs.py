"""Jobs in the database: waiting, begun, told, ended.

An engine (Procrastinate) hands each job to a worker, at least once; the record of it sees to it that its effect comes
once: a job ends in the transaction that has its effect, and only for the attempt that began last.
"""

import datetime as dt
import json
import uuid
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any, Literal

from sqlalchemy import delete, func, select, text, update
from sqlalchemy.orm import Session

from ...core.errors import CannotRead, Impossible
from ..errors import ChangedMeanwhile, NotThere
from .models import Job

Queue = Literal["awaited", "background"]
OPEN = ("waiting", "running")
KEPT = dt.timedelta(hours=24)
"""Time for which what came of a job can still be asked for."""

FAILED_KEPT = dt.timedelta(days=30)
AWAITED_NICENESS, BACKGROUND_NICENESS = 5, 10
"""On a busy machine a quarter of what a page gets, and a tenth: no less, for what it locks others may wait for."""

MOST_LOST = 3
"""Workers that may die over a job before it counts as failed."""

LOST_AFTER_S = 20.0
"""A worker that has told nothing for so long counts as dead; it tells every four seconds."""


@dataclass(frozen=True)
class Kind:
    """A kind of job: in words, its queue, its priority, how often it is tried where it fails unforeseen, and how far
    its work steps back behind everything else on the machine (niceness, 0 to 19)."""

    name: str
    said: str
    queue: Queue
    priority: int
    tries: int = 1
    niceness: int = AWAITED_NICENESS


KINDS = {
    k.name: k
    for k in (
        Kind("pdf", "PDF", "awaited", 30),
        Kind("package", "Data package", "awaited", 20),
        Kind("bring in", "Data package brought in", "awaited", 20),
        Kind("table", "Phones × chargers forecast", "awaited", 20),
        Kind("runs of a file", "Runs of a file stored", "awaited", 20),
        Kind("schedule", "Better schedule", "awaited", 10, niceness=BACKGROUND_NICENESS),
        Kind("runs again", "Runs read again", "background", 0, tries=4, niceness=BACKGROUND_NICENESS),
    )
}
"""Whoever waits for a page goes first; within it what is short before what is long."""


class Superseded(Exception):
    """Another worker has begun the job anew: this attempt has no effect."""


class Cancelled(Exception):
    """Somebody wants the job no more."""


def defer(session: Session, kind: str, args: dict[str, Any], about: str = "", by: str = "", key: str = "") -> uuid.UUID:
    """Have a job done once this transaction is committed; its id.

    Where an equal one, by its key, waits, runs or is done, it is that one's.
    """
    if key and (equal := _equal(session, key)) is not None:
        return equal
    job = Job(kind=kind, args=args, about=about[:300], by=by, key=key)
    session.add(job)
    session.flush()
    _queue(session, job)
    return job.id


def _equal(session: Session, key: str) -> uuid.UUID | None:
    query = select(Job.id).where(Job.key == key, Job.state.in_(("done", *OPEN)), Job.cancelled.is_(False))
    return session.scalar(query.order_by(Job.made_at.desc()).limit(1))


def _queue(session: Session, job: Job) -> None:
    kind = KINDS[job.kind]
    query = """
        SELECT procrastinate_defer_jobs_v1(ARRAY[
            ROW(:queue, :kind, :priority, NULL, NULL, CAST(:args AS jsonb), NULL)]::procrastinate_job_to_defer_v1[])
    """
    session.execute(
        text(query),
        {
            "queue": kind.queue,
            "kind": kind.name,
            "priority": kind.priority,
            "args": json.dumps({"job": str(job.id)}),
        },
    )


def get_job(session: Session, job_id: uuid.UUID) -> Job:
    """A job.

    Raises
    ------
    NotThere
    """
    job = session.get(Job, job_id)
    if job is None:
        raise NotThere("this job is no longer here")
    return job


def begin(session: Session, job_id: uuid.UUID, worker: str) -> Job | None:
    """Begin a job, or take it up where another worker was lost; None where there is nothing more to be done."""
    job = session.get(Job, job_id, with_for_update=True)
    if job is None or job.state not in OPEN:
        return None
    if job.cancelled:
        _end(job, "cancelled")
        return None
    job.attempt += 1
    job.state, job.worker, job.step, job.fraction, job.next_at = "running", worker, "", 0.0, None
    job.began_at = _now()
    return job


def tell(session: Session, job_id: uuid.UUID, attempt: int, step: str, fraction: float, news: int) -> None:
    """Say how far a job has come.

    Raises
    ------
    Superseded, Cancelled
    """
    told = update(Job).where(Job.id == job_id, Job.attempt == attempt, Job.state == "running")
    told = told.values(step=step, fraction=fraction, news=news)
    cancelled = session.scalar(told.returning(Job.cancelled))
    if cancelled is None:
        raise Superseded
    if cancelled:
        raise Cancelled


def finish(session: Session, job_id: uuid.UUID, attempt: int, result: dict[str, Any]) -> None:
    """End a job in the transaction that has its effect: both are there, or neither.

    Raises
    ------
    Superseded, Cancelled
    """
    job = _of_attempt(session, job_id, attempt)
    if job.cancelled:
        raise Cancelled
    job.result, job.fraction, job.why = result, 1.0, None
    _end(job, "done")
    session.flush()


def end_cancelled(session: Session, job_id: uuid.UUID, attempt: int) -> None:
    """End a job that nobody wants any more.

    Raises
    ------
    Superseded
    """
    _end(_of_attempt(session, job_id, attempt), "cancelled")


def end_failed(session: Session, job_id: uuid.UUID, attempt: int, error: BaseException) -> float | None:
    """Note that a job failed; seconds after which it is tried again, None where it is not.

    What the core or the store refuses stays refused; what was not foreseen is tried as often as its kind says.

    Raises
    ------
    Superseded
    """
    job = _of_attempt(session, job_id, attempt)
    job.failures += 1
    job.why = document_of(error)
    if isinstance(error, REFUSALS) or job.failures >= KINDS[job.kind].tries or job.cancelled:
        _end(job, "failed")
        return None
    wait_s = 5.0 * 4.0 ** (job.failures - 1)
    job.state, job.next_at = "waiting", _now() + dt.timedelta(seconds=wait_s)
    return wait_s


def put_back(session: Session, job_id: uuid.UUID, attempt: int) -> None:
    """Leave a job to another worker.

    Raises
    ------
    Superseded
    """
    _of_attempt(session, job_id, attempt).state = "waiting"


def _of_attempt(session: Session, job_id: uuid.UUID, attempt: int) -> Job:
    query = select(Job).where(Job.id == job_id, Job.attempt == attempt, Job.state == "running").with_for_update()
    job = session.scalar(query.execution_options(populate_existing=True))
    if job is None:
        raise Superseded
    return job


def _end(job: Job, state: str) -> None:
    job.state, job.ended_at, job.next_at = state, _now(), None


def cancel(session: Session, job_id: uuid.UUID) -> Job:
    """Want a job no more: one that waits ends at once, one that runs when its worker next says how far it is.

    Raises
    ------
    NotThere
    """
    job = get_job(session, job_id)
    session.refresh(job, with_for_update=True)
    if job.state in OPEN:
        job.cancelled = True
        if job.state == "waiting":
            _end(job, "cancelled")
    return job


def try_again(session: Session, job_id: uuid.UUID) -> Job:
    """Have a failed or cancelled job done once more.

    Raises
    ------
    NotThere, CannotRead
    """
    job = get_job(session, job_id)
    session.refresh(job, with_for_update=True)
    if job.state not in ("failed", "cancelled"):
        raise CannotRead(f"this job is {job.state}", "one that failed or was cancelled can be tried again")
    job.state, job.cancelled, job.failures, job.lost = "waiting", False, 0, 0
    job.ended_at, job.fraction, job.step = None, 0.0, ""
    session.flush()
    _queue(session, job)
    return job


def forget(session: Session, job_id: uuid.UUID) -> None:
    """Take a job that has ended off the list.

    Raises
    ------
    NotThere, CannotRead
    """
    job = get_job(session, job_id)
    if job.state in OPEN:
        raise CannotRead(f"this job is {job.state}", "cancel it first")
    session.delete(job)


def take_up_lost(session: Session) -> int:
    """Put the jobs of dead workers back in the queue; how many there were."""
    query = """
        SELECT job.id, job.args ->> 'job' FROM procrastinate_jobs AS job
        LEFT JOIN procrastinate_workers AS worker ON worker.id = job.worker_id
        WHERE job.status = 'doing' AND
            (worker.id IS NULL OR worker.last_heartbeat < now() - make_interval(secs => :after))
        FOR UPDATE OF job SKIP LOCKED
    """
    lost = session.execute(text(query), {"after": LOST_AFTER_S}).all()
    for queued, job_id in lost:
        job = session.get(Job, uuid.UUID(job_id), with_for_update=True)
        if job is not None and job.state in OPEN:
            job.state, job.lost = "waiting", job.lost + 1
            if job.lost >= MOST_LOST:
                job.why = document_of(CannotRead(f"{job.lost} workers died over it", "see what their logs say"))
                _end(job, "failed")
        if job is None or job.state not in OPEN:
            session.execute(text("SELECT procrastinate_finish_job_v1(:id, 'failed', true)"), {"id": queued})
            continue
        session.execute(text("SELECT procrastinate_retry_job_v2(:id, now(), NULL, NULL, NULL)"), {"id": queued})
    return len(lost)


def tidy(session: Session) -> None:
    """Forget jobs that ended long ago."""
    for states, kept in ((("done", "cancelled"), KEPT), (("failed",), FAILED_KEPT)):
        session.execute(delete(Job).where(Job.state.in_(states), Job.ended_at < _now() - kept))


def any_worker(session: Session) -> bool:
    """Whether any worker lives."""
    fresh = "SELECT FROM procrastinate_workers WHERE last_heartbeat > now() - make_interval(secs => :after)"
    return bool(session.scalar(text(f"SELECT EXISTS ({fresh})"), {"after": LOST_AFTER_S}))


def jobs_in(session: Session, state: str, most: int) -> list[Job]:
    """Jobs in a state: those that wait in their order, others the latest first."""
    order = [Job.made_at] if state == "waiting" else [func.coalesce(Job.ended_at, Job.began_at).desc()]
    return list(session.scalars(select(Job).where(Job.state == state).order_by(*order).limit(most)))


def count_jobs(session: Session) -> dict[str, int]:
    """Number of jobs by state."""
    return {state: n for state, n in session.execute(select(Job.state, func.count()).group_by(Job.state))}


def open_jobs(session: Session, kind: str) -> Iterable[Job]:
    """Jobs of a kind that wait or run, or have failed."""
    return session.scalars(select(Job).where(Job.kind == kind, Job.state.in_((*OPEN, "failed"))))


REFUSALS = (CannotRead, NotThere, ChangedMeanwhile, Impossible)


def document_of(error: BaseException) -> dict[str, Any]:
    """An error as it is kept with its job."""
    match error:
        case CannotRead():
            return {"is": "CannotRead", "what": error.what, "mend": error.mend, "file": error.file, "row": error.row}
        case Impossible():
            return {"is": "Impossible", "what": error.why, "wishes": list(error.wishes)}
        case NotThere() | ChangedMeanwhile():
            return {"is": type(error).__name__, "what": str(error)}
    first = next(iter(str(error).splitlines()), "")[:300]
    return {"is": "", "what": f"{type(error).__name__}: {first}" if first else type(error).__name__}


def error_of(why: dict[str, Any]) -> Exception:
    """The error that a job ended with."""
    match why.get("is"):
        case "CannotRead":
            return CannotRead(why["what"], why["mend"], why["file"], why["row"])
        case "Impossible":
            return Impossible(why["what"], tuple(why["wishes"]))
        case "NotThere":
            return NotThere(why["what"])
        case "ChangedMeanwhile":
            return ChangedMeanwhile(why["what"])
    return RuntimeError(why["what"])


def _now() -> dt.datetime:
    return dt.datetime.now(dt.UTC)
