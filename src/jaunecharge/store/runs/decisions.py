"""A reader's decisions about a run: kept in order, undone rather than destroyed, and read with from then on."""

import datetime as dt
import uuid
from dataclasses import asdict
from typing import Any

from sqlalchemy.orm import Session

from ...core.reading import Decision, check_overruling
from .. import models as m
from ..errors import NotThere
from .changes import for_change, read_anew
from .runs import load_log


def overrule(session: Session, run_id: uuid.UUID, revision: int, decision: Decision) -> m.Run:
    """Keep a decision; the run is read anew with it.

    Raises
    ------
    NotThere, ChangedMeanwhile, CannotRead
    """
    run = for_change(session, run_id, revision)
    check_overruling(decision, load_log(session, run).trace)
    kept = {k: v for k, v in asdict(decision).items() if v is not None}
    now = dt.datetime.now(dt.UTC).isoformat()
    run.overrulings = [*run.overrulings, {"id": str(uuid.uuid4()), "at": now, **kept}]
    return read_anew(session, run)


def set_aside(session: Session, run_id: uuid.UUID, revision: int, decision: uuid.UUID, aside: bool, by: str) -> m.Run:
    """Undo a decision, or let it count again.

    Raises
    ------
    NotThere, ChangedMeanwhile, CannotRead
    """
    run = for_change(session, run_id, revision)
    if not any(kept["id"] == str(decision) for kept in run.overrulings):
        raise NotThere(f"there is no decision {decision} on this run")
    run.overrulings = [_marked(kept, aside, by) if kept["id"] == str(decision) else kept for kept in run.overrulings]
    return read_anew(session, run)


def _marked(kept: dict[str, Any], aside: bool, by: str) -> dict[str, Any]:
    without = {k: v for k, v in kept.items() if k not in {"undone_at", "undone_by"}}
    return {**without, "undone_at": dt.datetime.now(dt.UTC).isoformat(), "undone_by": by} if aside else without
