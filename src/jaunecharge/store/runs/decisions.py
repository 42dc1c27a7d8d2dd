"""A reader's decisions about a run: kept in order, undone rather than destroyed, and read with from then on."""

import datetime as dt
import uuid

from sqlalchemy.orm import Session

from ...core.reading import Decision, check_overruling
from ...documents.decision import DecisionDocument
from .. import models as m
from ..errors import NotThere
from .changes import for_change, read_anew
from .logs import load_log


def overrule(session: Session, run_id: uuid.UUID, revision: int, decision: Decision) -> m.Run:
    """Keep a decision; the run is read anew with it.

    Raises
    ------
    NotThere, ChangedMeanwhile, CannotRead
    """
    run = for_change(session, run_id, revision)
    check_overruling(decision, load_log(session, run).trace)
    run.decisions = (*run.decisions, DecisionDocument.of(decision, dt.datetime.now(dt.UTC)))
    return read_anew(session, run)


def set_aside(session: Session, run_id: uuid.UUID, revision: int, decision: uuid.UUID, aside: bool, by: str) -> m.Run:
    """Undo a decision, or let it count again.

    Raises
    ------
    NotThere, ChangedMeanwhile, CannotRead
    """
    run = for_change(session, run_id, revision)
    decisions = run.decisions
    if not any(one.id == decision for one in decisions):
        raise NotThere(f"there is no decision {decision} on this run")
    mark = {"undone_at": dt.datetime.now(dt.UTC) if aside else None, "undone_by": by if aside else ""}
    run.decisions = (one.model_copy(update=mark) if one.id == decision else one for one in decisions)
    return read_anew(session, run)
