"""Events of a lane: placed, logged to, corrected, undone, ended; and the run that it closes into."""

import datetime as dt
import uuid
from collections.abc import Sequence

from sqlalchemy.orm import Session

from ...core.bench import (
    FIXABLE,
    ON_ALREADY,
    EntryItem,
    Outcome,
    Step,
    Told,
    check_told,
    corrected_by,
    said,
)
from ...core.errors import CannotRead
from ...documents.bench_record import StepDocument
from .. import bench_models as b
from .. import models as m
from ..plan.slots import begun_at, find_slot, tell
from ..plan.slots import undo as undo_slot
from .ending import close_lane
from .entries import SYSTEM, item_of, lane_s, moment
from .lanes import (
    NewEntry,
    add_entries,
    entries_of,
    first_metered_s,
)

BY_METER = "the meter"
"""The author of a placing that nobody typed."""

MOVED = "moved"


def place(
    session: Session,
    lane: b.Lane,
    at_s: float,
    now: dt.datetime,
    by: str = "",
    id: uuid.UUID | None = None,
    text: str = "",
) -> None:
    """The phone lies on the charger: t = 0 of the run; `text` : what else is to be kept of that.

    Raises
    ------
    CannotRead
        If it was placed before.
    """
    if lane.state != "setting":
        name = lane.name.lower()
        mend = f"{name} placed @14:05 moves the placing, {name} not placed takes it back"
        raise CannotRead(f"the phone of lane {lane.name} was placed before", mend, file="lane")
    add_entries(session, lane, [NewEntry("placed", at_s, text=text, by=by, id=id or uuid.uuid4())], now)
    lane.state, lane.placed_s = "running", at_s
    if lane.slot_id is not None and find_slot(session, lane.slot_id).state in {"planned", "draining", "drained"}:
        tell(session, lane.slot_id, "begin", min(moment(lane, at_s), now), now, by)


def move_placing(
    session: Session, lane: b.Lane, at_s: float, now: dt.datetime, by: str = "", id: uuid.UUID | None = None
) -> None:
    """The phone was placed at another moment: t = 0 of the run moves; nothing that was logged does.

    Raises
    ------
    CannotRead
        If the lane does not run.
    """
    if lane.state != "running":
        raise CannotRead(f"the phone of lane {lane.name} is not placed yet", "place it first", file="lane")
    before = _placings(session, lane)
    add_entries(session, lane, [NewEntry("placed", at_s, text=MOVED, by=by, id=id or uuid.uuid4())], now)
    _undone(before, lane, now, by)
    lane.placed_s = at_s
    if lane.slot_id is not None:
        begun_at(session, lane.slot_id, min(moment(lane, at_s), now))


def take_back_placing(
    session: Session, lane: b.Lane, now: dt.datetime, by: str = "", id: uuid.UUID | None = None
) -> None:
    """The phone is not placed after all: the lane is being set again. What the meter saw until now places it no more.

    Raises
    ------
    CannotRead
        If the lane does not run.
    """
    if lane.state != "running":
        raise CannotRead(f"the phone of lane {lane.name} is not placed", "there is nothing to take back", file="lane")
    add_entries(session, lane, [NewEntry("not placed", lane_s(lane, now), by=by, id=id or uuid.uuid4())], now)
    _undone(_placings(session, lane), lane, now, by)
    lane.state, lane.placed_s = "setting", None
    lane.setup = {k: v for k, v in lane.setup.items() if v.reason != ON_ALREADY}
    if lane.slot_id is not None and find_slot(session, lane.slot_id).state == "running":
        undo_slot(session, lane.slot_id, now, by)


def _placings(session: Session, lane: b.Lane) -> list[b.LaneEntry]:
    """The placings of a lane that still stand."""
    return [e for e in entries_of(session, lane.id) if e.kind == "placed" and e.undone_at is None]


def _undone(entries: Sequence[b.LaneEntry], lane: b.Lane, now: dt.datetime, by: str) -> None:
    for entry in entries:
        entry.undone_at, entry.undone_by, entry.tick = now, by, lane.tick


def place_already(session: Session, lane: b.Lane, now: dt.datetime, by: str = "") -> None:
    """Go on with a phone that lay on the charger before the lane was opened: t = 0 is the meter's first reading.

    Raises
    ------
    CannotRead
        If it was placed before.
    """
    for key in ("charger", "no_load"):
        tell_step(session, lane, key, Told(True, ON_ALREADY), now, by)
    first = first_metered_s(session, lane.id)
    place(session, lane, lane_s(lane, now) if first is None else max(0.0, first), now, by, text=ON_ALREADY)


def tell_step(
    session: Session,
    lane: b.Lane,
    key: str,
    answer: Told | None,
    now: dt.datetime,
    by: str = "",
    listed: Sequence[Step] = (),
) -> None:
    """Tick a step of setting the bench, skip it with a reason, or take that back (None).

    Parameters
    ----------
    listed : sequence of Step
        How the steps stand: one that is done by a figure is not ticked without it.

    Raises
    ------
    CannotRead
    """
    said_as = next((s.said for s in listed if s.key == key), key)
    words = f"open again: {said_as}"
    if answer is not None:
        check_told(key, answer, listed)
        words = f"skipped: {said_as}, {answer.reason.strip()}" if answer.skipped else f"ticked: {said_as}"
    setup = {k: v for k, v in lane.setup.items() if k != key}
    if answer is not None:
        setup[key] = StepDocument(skipped=answer.skipped, reason=answer.reason.strip(), by=by)
    lane.setup = setup
    add_entries(session, lane, [NewEntry("step", lane_s(lane, now), unit=key, text=words, by=by)], now)


def log_items(
    session: Session,
    lane: b.Lane,
    items: tuple[EntryItem, ...],
    at_s: float,
    now: dt.datetime,
    by: str,
    id: uuid.UUID,
    timed: bool = False,
) -> m.Run | None:
    """Log the items of one line; the run, where one of them ends the lane.

    Parameters
    ----------
    timed : bool
        Whether the line names its moment: a phone that was placed before is then placed at that one.
    id : UUID
        Of the line, from who entered it: sent twice it is logged once.

    Raises
    ------
    CannotRead, NotThere
    """
    if session.get(b.LaneEntry, id) is not None:
        return None
    only = items[0]
    if only.kind == "placed" and lane.state == "running" and timed:
        move_placing(session, lane, at_s, now, by, id)
    elif only.kind == "placed":
        place(session, lane, at_s, now, by, id)
    elif only.kind == "not placed":
        take_back_placing(session, lane, now, by, id)
    elif only.kind == "undo":
        undo_last(session, lane, now, by, id)
    elif only.kind == "fix":
        correct_last(session, lane, only, now, by, id)
    elif only.kind == "end":
        outcome: Outcome = only.unit  # type: ignore[assignment]
        return close_lane(session, lane, outcome, only.text, now, by, id)
    else:
        new = [
            NewEntry(i.kind, at_s, i.value, i.unit, i.text, by, id=id if n == 0 else uuid.uuid5(id, str(n)))
            for n, i in enumerate(items)
        ]
        add_entries(session, lane, new, now)
    return None


def _persons(session: Session, lane: b.Lane) -> list[b.LaneEntry]:
    """Entries of persons that still stand, a placing that they told included, the latest entered last."""
    entries = [
        e
        for e in entries_of(session, lane.id)
        if e.undone_at is None and (e.kind not in SYSTEM or (e.kind == "placed" and e.by != BY_METER))
    ]
    return sorted(entries, key=lambda e: (e.at, e.tick))


def undo_last(session: Session, lane: b.Lane, now: dt.datetime, by: str, id: uuid.UUID) -> None:
    """Undo the last line that was entered: all items of it.

    Raises
    ------
    CannotRead
    """
    entries = _persons(session, lane)
    if not entries:
        raise CannotRead(f"nothing was entered on lane {lane.name}", "there is nothing to undo", file="line")
    tick = entries[-1].tick
    if entries[-1].kind == "placed":
        take_back_placing(session, lane, now, by, id)
        return
    gone = [e for e in entries if e.tick == tick]
    words = ", ".join(said(item_of(e)) for e in gone)
    add_entries(session, lane, [NewEntry("undo", gone[0].t_s, text=words, by=by, id=id)], now)
    _undone(gone, lane, now, by)
    session.flush()


def correct_last(session: Session, lane: b.Lane, fix: EntryItem, now: dt.datetime, by: str, id: uuid.UUID) -> None:
    """Correct the last entry of a kind; its first value is kept, with who and when.

    Raises
    ------
    CannotRead
    """
    right = corrected_by(fix)
    entries = [e for e in _persons(session, lane) if e.kind not in SYSTEM and _same_kind(item_of(e), right)]
    if not entries:
        raise CannotRead(f"nothing of that kind was entered on lane {lane.name}", "log it as it is", file="line")
    correct(session, lane, entries[-1], right, now, by, id)


def correct(
    session: Session, lane: b.Lane, entry: b.LaneEntry, right: EntryItem, now: dt.datetime, by: str, id: uuid.UUID
) -> None:
    """Put another value in the place of an entry's; the first one is kept.

    Raises
    ------
    CannotRead
    """
    if entry.lane_id != lane.id or entry.kind not in FIXABLE or entry.undone_at is not None:
        raise CannotRead("that entry cannot be corrected", "only readings and notes that still stand", file="entry")
    if right.kind != entry.kind:
        raise CannotRead("that is of another kind", f"a value as {said(item_of(entry))} is", file="entry")
    words = f"{said(item_of(entry))} becomes {said(right)}"
    add_entries(session, lane, [NewEntry("fix", entry.t_s, text=words, by=by, id=id)], now)
    if entry.first is None:
        entry.first = {"value": entry.value, "unit": entry.unit, "text": entry.text}
    entry.value, entry.unit, entry.text = right.value, right.unit, right.text
    entry.corrected_by, entry.corrected_at, entry.tick = by, now, lane.tick
    session.flush()


def _same_kind(a: EntryItem, b_: EntryItem) -> bool:
    if a.kind != b_.kind:
        return False
    return a.unit == b_.unit if a.kind == "meter" else a.text == b_.text if a.kind == "celsius" else True
