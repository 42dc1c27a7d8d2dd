"""Table of jobs: a record of each, beside the queue of the engine that hands them to workers."""

import datetime as dt
from typing import Any

from sqlalchemy import DateTime, Index, Text, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from ..models import Base, Id, Moment, made_at, own_id


class Job(Base):
    """Work that any worker does: its kind, what it is about, and how far it has come.

    `state` is one of waiting, running, done, failed, cancelled. `attempt` rises each time a worker begins it: only the
    latest attempt may end it. `failures` counts those that failed, `lost` those whose worker died. `news` counts what
    it has found so far that whoever waits may look at; `key` names everything that the result rests on, where an equal
    job need not be done twice; `why` is the error that it ended or was put off with.
    """

    __tablename__ = "jobs"
    __table_args__ = (
        Index("ix_jobs_state", "state", "made_at"),
        Index("ix_jobs_key", "key", postgresql_where=text("key <> ''")),
    )

    id: Id = own_id()
    kind: Mapped[str] = mapped_column(Text)
    about: Mapped[str] = mapped_column(Text, default="")
    by: Mapped[str] = mapped_column(Text, default="")
    args: Mapped[dict[str, Any]] = mapped_column(JSONB)
    key: Mapped[str] = mapped_column(Text, default="")
    state: Mapped[str] = mapped_column(Text, default="waiting")
    attempt: Mapped[int] = mapped_column(default=0)
    failures: Mapped[int] = mapped_column(default=0)
    lost: Mapped[int] = mapped_column(default=0)
    cancelled: Mapped[bool] = mapped_column(default=False)
    worker: Mapped[str] = mapped_column(Text, default="")
    step: Mapped[str] = mapped_column(Text, default="")
    fraction: Mapped[float] = mapped_column(default=0.0)
    news: Mapped[int] = mapped_column(default=0)
    result: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    why: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    made_at: Moment = made_at()
    began_at: Mapped[dt.datetime | None] = mapped_column(DateTime(timezone=True))
    ended_at: Mapped[dt.datetime | None] = mapped_column(DateTime(timezone=True))
    next_at: Mapped[dt.datetime | None] = mapped_column(DateTime(timezone=True))
