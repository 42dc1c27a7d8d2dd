"""Events of the slots of a plan: begun, over, void, undone; and which slot a finished run fills."""

import datetime as dt
import uuid
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.errors import CannotRead
from ...core.plan import Happened, Happening, happens, run_said, slot_filled_by
from .. import models as m
from ..errors import NotThere
from .plans import for_change, open_slots, reschedule, slots_of
from .stopping import stop_if_answered
from .work import happened, placed

MOMENTS = ("drain_began_at", "drained_at", "began_at", "ended_at", "cool_at")
REMEMBERED = ("state", "void_reason", *MOMENTS)


def find_slot(session: Session, slot_id: uuid.UUID) -> m.Slot:
    """A slot by its id.

    Raises
    ------
    NotThere
    """
    slot = session.get(m.Slot, slot_id)
    if slot is None:
        raise NotThere(f"there is no slot {slot_id}")
    return slot


def get_slot(session: Session, slot_id: uuid.UUID) -> m.Slot:
    """A slot by its id, its plan locked for change.

    Raises
    ------
    NotThere
    """
    slot = find_slot(session, slot_id)
    for_change(session, slot.plan_id)
    session.refresh(slot)
    return slot


def tell(
    session: Session,
    slot_id: uuid.UUID,
    what: Happening,
    at: dt.datetime,
    now: dt.datetime,
    by: str = "",
    reason: str = "",
    again: bool = False,
    replan: bool = True,
) -> m.Slot:
    """Say what has happened to a slot; what is left of its plan is planned anew around it.

    Parameters
    ----------
    again : bool
        Whether a void run is to be made again: a slot for it is added behind the others of its phone.
    replan : bool
        Whether what is left is planned anew at once.

    Raises
    ------
    NotThere, CannotRead, Impossible
    """
    slot = get_slot(session, slot_id)
    plan = for_change(session, slot.plan_id)
    then = happens(happened(slot), what, at, now, reason)
    _remember(slot)
    _set(slot, then)
    if what == "drain":
        slot.drain_start = at
    if what == "begin":
        slot.card = plan.card
        slot.start_at = at
    if what == "end":
        slot.end_at = at
    why = ""
    if what == "void":
        slot.void_reason = reason.strip()
        why = f"{run_said(slot.phone, slot.said)} is void: {slot.void_reason}"
        if again:
            _add_again(session, slot)
    session.flush()
    if replan:
        reschedule(session, plan, now, why, by)
    return slot


def _remember(slot: m.Slot) -> None:
    state = {name: _plain(getattr(slot, name)) for name in REMEMBERED}
    slot.history = [*slot.history, state]


def _plain(value: Any) -> Any:
    return value.isoformat() if isinstance(value, dt.datetime) else value


def _set(slot: m.Slot, then: Happened) -> None:
    slot.state = then.state
    slot.drain_began_at, slot.drained_at, slot.began_at = then.drain_began, then.drained, then.began
    slot.ended_at, slot.cool_at = then.ended, then.cool


def _add_again(session: Session, slot: m.Slot) -> None:
    last = max(s.position for s in slots_of(session, slot.plan_id))
    session.add(
        m.Slot(
            id=uuid.uuid4(), plan_id=slot.plan_id, position=last + 1, key=slot.key, repeat=slot.repeat,
            closing=slot.closing, phone=slot.phone, said=slot.said, factors=slot.factors, expected=slot.expected,
            drain_min=slot.drain_min, cool_min=slot.cool_min, state="planned", void_reason="",
            history=[{"again": str(slot.id)}],
        )
    )  # fmt: skip
    session.flush()


def begun_at(session: Session, slot_id: uuid.UUID, at: dt.datetime) -> None:
    """A run that was begun began at another moment."""
    slot = get_slot(session, slot_id)
    if slot.state == "running":
        slot.began_at = slot.start_at = at
        session.flush()


def undo(session: Session, slot_id: uuid.UUID, now: dt.datetime, by: str = "") -> m.Slot:
    """Take back what was last said of a slot; a slot that was added because of it goes as well.

    Raises
    ------
    NotThere, CannotRead, Impossible
    """
    slot = get_slot(session, slot_id)
    earlier = [h for h in slot.history if "state" in h]
    if not earlier:
        raise CannotRead("nothing has happened to it", "there is nothing to undo", file="slot")
    before = earlier[-1]
    was_void = slot.state == "void"
    for name in REMEMBERED:
        value = before[name]
        setattr(slot, name, dt.datetime.fromisoformat(value) if name in MOMENTS and value else value)
    slot.history = slot.history[: slot.history.index(before)]
    if slot.state in {"planned", "draining", "drained"}:
        slot.card = None
    if slot.state not in {"done", "void"}:
        slot.run_id = None
    plan = for_change(session, slot.plan_id)
    if was_void:
        for s in slots_of(session, slot.plan_id):
            if s.state == "planned" and any(h.get("again") == str(slot.id) for h in s.history):
                session.delete(s)
    session.flush()
    reschedule(session, plan, now, "", by)
    return slot


def fill_slot(
    session: Session, run: m.Run, now: dt.datetime, slot_id: uuid.UUID | None = None, replan: bool = True
) -> m.Slot | None:
    """Let a run that was read fill its slot: the one named, else the one that it finds; the run keeps its card.

    Raises
    ------
    NotThere, CannotRead
    """
    if slot_id is not None:
        slot = get_slot(session, slot_id)
        if slot.state in {"void"} or (slot.run_id is not None and slot.run_id != run.id):
            raise CannotRead("that slot of the plan is filled, or void", "read the run without it", file="slot")
    else:
        slots = open_slots(session)
        index = slot_filled_by(run.factors, run.started_at, [placed(s) for s in slots])
        if index is None:
            return None
        slot = get_slot(session, slots[index].id)
    plan = for_change(session, slot.plan_id)
    if slot.state != "done":
        _remember(slot)
        minutes = run.summary.ribbon.minutes or slot.expected.minutes
        began = slot.began_at or run.started_at or now - dt.timedelta(minutes=minutes)
        slot.state = "done"
        slot.began_at, slot.start_at = began, began
        slot.ended_at = slot.end_at = began + dt.timedelta(minutes=minutes)
    slot.run_id = run.id
    run.card = slot.card or plan.card
    if run.card is not None and run.card.name != run.factors.get("method"):
        run.factors = {**run.factors, "method": run.card.name}
    session.flush()
    if replan:
        reschedule(session, plan, now)
        stop_if_answered(session, plan.id, now)
    return slot


def slot_of_run(session: Session, run_id: uuid.UUID) -> m.Slot | None:
    """The slot that a run fills."""
    return session.scalar(select(m.Slot).where(m.Slot.run_id == run_id))
