"""Jobs: listed, cancelled, tried again, taken off the list."""

import uuid

from fastapi import Request, Response
from sqlalchemy.orm import Session

from ...store.jobs import jobs as store
from ...store.jobs.models import Job
from ..context import about, context_of
from ..strict import make_router
from . import shapes

MOST = 50

router = make_router("jobs")


def _shape(job: Job) -> shapes.JobShape:
    why, result = job.why or {}, job.result or {}
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
        package=result.get("package"),
    )


@router.get("/jobs")
def list_jobs(request: Request) -> shapes.JobsShape:
    """Jobs that run, wait, have failed or ended."""

    def some(session: Session, state: str) -> list[shapes.JobShape]:
        return [_shape(job) for job in store.jobs_in(session, state, MOST)]

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
