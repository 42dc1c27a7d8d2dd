"""Runs that were read twice from one recording: found among all that stand in the list."""

import uuid

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.log import Recording
from ...core.versus import Contender, Course, copies
from .. import models as m

_TELLING = (m.Run.id, m.Run.label, m.Run.factors, m.Run.recording, m.Run.created_at)


def copies_listed(session: Session) -> dict[str, Contender]:
    """The copies, by the id of their run, each with the run that it is a copy of."""
    rows = session.execute(select(*_TELLING).where(m.Run.deleted_at.is_(None)))
    return copies(
        Contender(str(key), label, factors, Course(None), recording=Recording(**recording), made=created_at.timestamp())
        for key, label, factors, recording, created_at in rows
    )


def read_before(session: Session, recording: Recording) -> tuple[uuid.UUID, str] | None:
    """The run that was read from a recording before: its id and label."""
    if not recording.telling:
        return None
    rows = session.execute(select(m.Run.id, m.Run.label, m.Run.recording).where(m.Run.deleted_at.is_(None)))
    for key, label, fields in rows:
        other = Recording(**fields)
        if (recording.meter and recording.meter == other.meter) or (
            recording.levels and recording.levels == other.levels
        ):
            return key, label
    return None


def repeats_of(session: Session, run: m.Run) -> int:
    """Number of other runs made of the same factors; void, deleted and simulated ones and copies left out."""
    query = select(m.Run.id).where(
        m.Run.factors == run.factors,
        m.Run.deleted_at.is_(None),
        m.Run.outcome != "void",
        m.Run.case_json["simulated"].as_boolean().is_not(True),
    )
    others = {str(key) for key in session.scalars(query)} - {str(run.id)}
    if not others:
        return 0
    copied = copies_listed(session)
    mine = copied.get(str(run.id))
    return len(others - copied.keys() - ({mine.key} if mine is not None else set()))
