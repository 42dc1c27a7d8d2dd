"""Audit log: a line for each thing that was changed, handed out or tried."""

import datetime as dt
import uuid
from collections.abc import Mapping
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from . import bench_models as b
from . import models as m
from .finding_models import Finding

LONGEST = 200
MOST_SHOWN = 200
_NAMES: Mapping[str, Any] = {
    "run_id": m.Run.label, "lane_id": b.Lane.label, "piece_id": m.Kit.label, "plan_id": m.Plan.question,
    "person_id": b.Person.name, "finding_id": Finding.question,
}  # fmt: skip


def add_line(
    session: Session, at: dt.datetime, who: str, address: str, what: str, about: str = "", route: str = ""
) -> None:
    """Write a line."""
    session.add(
        b.AuditLine(
            at=at, who=who[:LONGEST], address=address[:LONGEST], what=what[:LONGEST], about=about[:LONGEST], route=route
        )
    )


def name_of(session: Session, kind: str, text: str) -> str:
    """Name of the thing of an id: a run's label, a plan's question; empty where that cannot be told."""
    column = _NAMES.get(kind)
    try:
        wanted = uuid.UUID(text)
    except ValueError:
        return ""
    return "" if column is None else session.scalar(select(column).where(column.class_.id == wanted)) or ""


def lines(session: Session, before: int | None = None, most: int = MOST_SHOWN) -> list[b.AuditLine]:
    """Lines of the log, the last first; those before one where that is given."""
    query = select(b.AuditLine).order_by(b.AuditLine.id.desc()).limit(most)
    return list(session.scalars(query if before is None else query.where(b.AuditLine.id < before)))


def count(session: Session) -> int:
    """Number of lines."""
    return session.scalar(select(func.count()).select_from(b.AuditLine)) or 0
