"""Shapes of jobs."""

import datetime as dt
import uuid
from typing import Literal

from pydantic import BaseModel, Field

State = Literal["waiting", "running", "done", "failed", "cancelled"]


class JobShape(BaseModel):
    """A job: what it is, how far it has come, and why it failed."""

    id: uuid.UUID
    kind: str = Field(description="in words")
    about: str
    by: str
    state: State
    step: str
    fraction: float
    attempt: int = Field(description="how often a worker has begun it")
    worker: str = Field(description="machine and process that has it, or had it last")
    cancelled: bool = Field(description="whether it is to end as soon as its worker can")
    why: str = Field(description="why it failed, or is tried again; empty where it did not")
    mend: str
    made_at: dt.datetime
    began_at: dt.datetime | None
    ended_at: dt.datetime | None
    next_at: dt.datetime | None = Field(description="when it is tried again")
    package: uuid.UUID | None = Field(description="of a data package that is still kept: where it is fetched")


class JobsShape(BaseModel):
    """Jobs by state, the first of each, with the number of all."""

    worker: bool = Field(description="whether any worker lives")
    counts: dict[State, int]
    running: list[JobShape]
    waiting: list[JobShape]
    failed: list[JobShape]
    ended: list[JobShape]
