"""Whether the question of a plan is answered, and the rest of its runs: let go, or taken up again."""

import datetime as dt
import uuid
from dataclasses import dataclass

from sqlalchemy.orm import Session

from ...core.findings import PlannedRuns, Stopping, planned_times, read_question, stopping, stopping_said
from ...core.noise import CHAMBER_SPREAD, ROOM_SPREAD, Spread
from ...core.plan import OPEN
from .. import models as m
from ..versus import contender_of
from .plans import for_change, reschedule, slots_of

LET_GO = "let go"


@dataclass(frozen=True)
class Answered:
    """State of the question of a plan, in words too; minutes_left : that the runs to come would take, with their
    drains [min]."""

    state: Stopping
    minutes_left: float
    said: str


def answered(session: Session, plan: m.Plan) -> Answered:
    """Whether the question of a plan is answered by the runs made so far."""
    slots = [s for s in slots_of(session, plan.id) if s.state != "void"]
    ids = [s.run_id for s in slots if s.run_id is not None]
    runs = {i: run for i in ids if (run := session.get(m.Run, i)) is not None and run.deleted_at is None}
    filled = [s for s in slots if s.run_id in runs]
    filled.sort(key=lambda s: (s.ended_at or s.began_at or dt.datetime.max.replace(tzinfo=dt.UTC), s.position))
    turns = {s.id: n for n, s in enumerate(filled)}
    cells: dict[tuple[str, str], list[m.Slot]] = {}
    for slot in slots:
        cells.setdefault((slot.phone, slot.said), []).append(slot)
    planned = [
        PlannedRuns(
            phone, said, len(own),
            tuple((turns[s.id], contender_of(runs[s.run_id])) for s in own if s.id in turns and s.run_id is not None),
        )
        for (phone, said), own in cells.items()
    ]  # fmt: skip
    assumed = Spread(CHAMBER_SPREAD if plan.card.spreads_little else ROOM_SPREAD)
    state = stopping(planned_times(planned, read_question(plan.question).to), assumed)
    to_come = [s for s in slots if s.state in OPEN]
    left = sum(s.expected.minutes + s.drain_min for s in to_come)
    return Answered(state, left, stopping_said(state, len(to_come), left))


def let_rest_go(session: Session, plan_id: uuid.UUID, now: dt.datetime, by: str, why: str = "") -> int:
    """Let the runs of a plan go that have not begun; how many."""
    plan = for_change(session, plan_id)
    own = [s for s in slots_of(session, plan_id) if s.state == "planned"]
    for slot in own:
        slot.state = LET_GO
    session.flush()
    if own:
        reschedule(session, plan, now, why or f"{len(own)} runs were let go", by)
    return len(own)


def take_up_again(session: Session, plan_id: uuid.UUID, now: dt.datetime, by: str) -> int:
    """Take up the runs again that were let go; how many."""
    plan = for_change(session, plan_id)
    own = [s for s in slots_of(session, plan_id) if s.state == LET_GO]
    for slot in own:
        slot.state = "planned"
    session.flush()
    if own:
        reschedule(session, plan, now, f"{len(own)} runs were taken up again", by)
    return len(own)


def stop_if_answered(session: Session, plan_id: uuid.UUID, now: dt.datetime) -> bool:
    """Let the rest of a plan go that is set to stop by itself, once its question is answered; whether it did."""
    plan = session.get(m.Plan, plan_id)
    if plan is None or not plan.wishes.stop_when_answered:
        return False
    found = answered(session, plan)
    if not found.state.answered:
        return False
    return let_rest_go(session, plan_id, now, "", "the question is answered: the rest was let go") > 0
