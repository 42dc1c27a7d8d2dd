"""Runs that were read twice from one recording: found among all that stand in the list."""

import uuid
from collections.abc import Iterable

from sqlalchemy import ColumnElement, func, or_, select
from sqlalchemy.orm import Session

from ...core.log import Recording
from ...core.versus import Contender, Course, copies
from .. import models as m
from ..listing.models import Listed

_TELLING = (m.Run.id, m.Run.label, m.Run.factors, m.Run.recording, m.Run.created_at)
MOST_ALIKE = 10_000


def copies_listed(session: Session) -> dict[str, Contender]:
    """The copies among all runs, by the id of their run, each with the run that it is a copy of."""
    shared = [
        select(column).where(column != "").group_by(column).having(func.count() > 1)
        for column in (Listed.meter_mark, Listed.levels_mark)
    ]
    alike = select(Listed.run_id).where(or_(Listed.meter_mark.in_(shared[0]), Listed.levels_mark.in_(shared[1])))
    return _copies(session, m.Run.id.in_(alike))


def _copies(session: Session, which: ColumnElement[bool]) -> dict[str, Contender]:
    rows = session.execute(select(*_TELLING).where(which))
    return copies(
        Contender(str(key), label, factors, Course(None), recording=Recording(**recording), made=created_at.timestamp())
        for key, label, factors, recording, created_at in rows
    )


def copies_among(session: Session, run_ids: Iterable[uuid.UUID]) -> dict[str, Contender]:
    """The copies among some runs, by the id of their run, each with the run that it is a copy of, which need not be one
    of them."""
    asked = set(run_ids)
    alike = _alike(session, asked)
    if len(alike) < 2:
        return {}
    copied = _copies(session, m.Run.id.in_(alike))
    return {key: of for key, of in copied.items() if uuid.UUID(key) in asked}


def _alike(session: Session, run_ids: set[uuid.UUID]) -> set[uuid.UUID]:
    """Runs that share a mark of their recording with one of these, or with one that does."""
    meters: set[str] = set()
    levels: set[str] = set()
    found, fresh = set[uuid.UUID](), set(run_ids)
    columns = Listed.run_id, Listed.meter_mark, Listed.levels_mark
    while fresh and len(found) < MOST_ALIKE:
        rows = session.execute(select(*columns).where(Listed.run_id.in_(fresh))).all()
        found |= fresh
        new_meters = {mark for _, mark, _ in rows if mark} - meters
        new_levels = {mark for _, _, mark in rows if mark} - levels
        meters, levels = meters | new_meters, levels | new_levels
        fresh = set()
        for column, marks in ((Listed.meter_mark, new_meters), (Listed.levels_mark, new_levels)):
            if marks:
                fresh |= set(session.scalars(select(Listed.run_id).where(column != "", column.in_(marks))))
        fresh -= found
    return found


def is_copy(session: Session, run_id: uuid.UUID) -> bool:
    """Whether a run was read from a recording that had been read before."""
    return bool(copies_among(session, [run_id]))


def read_before(session: Session, recording: Recording) -> tuple[uuid.UUID, str] | None:
    """The run that was read from a recording before: its id and label."""
    if not recording.telling:
        return None
    for column, mark in ((Listed.meter_mark, recording.meter), (Listed.levels_mark, recording.levels)):
        if mark:
            same = select(Listed.run_id, Listed.label).where(column != "", column == mark).order_by(Listed.created_at)
            if (row := session.execute(same.limit(1)).first()) is not None:
                return row[0], row[1]
    return None


def repeats_of(session: Session, run: m.Run) -> int:
    """Number of other runs made of the same factors; void, deleted and simulated ones and copies left out."""
    own = select(Listed.factors_key).where(Listed.run_id == run.id).scalar_subquery()
    query = select(Listed.run_id).where(
        Listed.factors_key == own, Listed.void.is_(False), Listed.simulated.is_(False), Listed.run_id != run.id
    )
    keys = list(session.scalars(query.order_by(Listed.created_at.desc()).limit(MOST_ALIKE)))
    others = {str(key) for key in keys}
    if not others:
        return 0
    copied = copies_among(session, [run.id, *keys])
    mine = copied.get(str(run.id))
    return len(others - copied.keys() - ({mine.key} if mine is not None else set()))
