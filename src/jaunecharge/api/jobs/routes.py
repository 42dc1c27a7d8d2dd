"""Jobs: listed, cancelled, tried again, taken off the list."""

import uuid
from collections.abc import Collection

from fastapi import Request, Response
from sqlalchemy.orm import Session

from ...store.jobs import jobs as store
from ...store.jobs.models import Job
from ...store.runs.uploads import still_kept
from ..context import about, context_of
from ..strict import make_router
from . import shapes

MOST = 50

router = make_router("jobs")


def _package(job: Job) -> uuid.UUID | None:
    written = (job.result or {}).get("package")
    return None if written is None else uuid.UUID(written)


def _shape(job: Job, there: Collection[uuid.UUID] = ()) -> shapes.JobShape:
    """`there` : packages that can be fetched."""
    why, package = job.why or {}, _package(job)
    return shapes.JobShape(
        id=job.id,
        kind=store.KINDS[job.kind].said,
        about=job.about,
        by=job.by,
        state=job.state,
        step=job.step,
        fraction=job.fraction,
        attempt=job.attempt,
        worker=job.worker,
        cancelled=job.cancelled,
        why=why.get("what", ""),
        mend=why.get("mend", ""),
        made_at=job.made_at,
        began_at=job.began_at,
        ended_at=job.ended_at,
        next_at=job.next_at,
        package=package if package in there else None,
    )


@router.get("/jobs")
def list_jobs(request: Request) -> shapes.JobsShape:
    """Jobs that run, wait, have failed or ended."""

    def some(session: Session, state: str) -> list[shapes.JobShape]:
        jobs = store.jobs_in(session, state, MOST)
        there = still_kept(session, [package for job in jobs if (package := _package(job))])
        return [_shape(job, there) for job in jobs]

    with context_of(request).database.session() as session:
        ended = [*some(session, "done"), *some(session, "cancelled")]
        return shapes.JobsShape(
            worker=store.any_worker(session),
            counts=store.count_jobs(session),
            running=some(session, "running"),
            waiting=some(session, "waiting"),
            failed=some(session, "failed"),
            ended=sorted(ended, key=lambda job: job.ended_at or job.made_at, reverse=True)[:MOST],
        )


@router.post("/jobs/{job_id}/cancelled")
def cancel_job(request: Request, job_id: uuid.UUID) -> shapes.JobShape:
    """Cancel a job: at once if it waits, else as soon as its worker can."""
    with context_of(request).database.session() as session:
        return _said(request, store.cancel(session, job_id))


@router.post("/jobs/{job_id}/again")
def try_job_again(request: Request, job_id: uuid.UUID) -> shapes.JobShape:
    """Try a job again that failed or was cancelled."""
    context = context_of(request)
    with context.database.session() as session:
        shown = _said(request, store.try_again(session, job_id))
    context.workforce.need()
    return shown


@router.delete("/jobs/{job_id}", status_code=204, response_class=Response)
def forget_job(request: Request, job_id: uuid.UUID) -> None:
    """Take a job that has ended off the list."""
    with context_of(request).database.session() as session:
        about(request, store.get_job(session, job_id).about)
        store.forget(session, job_id)


def _said(request: Request, job: Job) -> shapes.JobShape:
    about(request, job.about)
    return _shape(job)
