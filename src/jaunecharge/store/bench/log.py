"""What happens to a lane: placed, logged to, corrected, undone, ended; and the run that it closes into."""

import datetime as dt
import logging
import math
import uuid
from collections.abc import Sequence
from typing import Any

from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from ...core.bench import (
    FIXABLE,
    ON_ALREADY,
    Entered,
    EntryItem,
    OnBench,
    Outcome,
    Recorded,
    Step,
    Told,
    Wanted,
    check_told,
    corrected_by,
    run_log,
    said,
    skipped,
    steps,
)
from ...core.errors import CannotRead
from ...core.factors import WIRED
from ...core.plan import Card
from ...core.reading import RunLog
from ...formats.card import card_of
from ...formats.case import Case
from .. import bench_models as b
from .. import models as m
from ..failures import failure
from ..plan.slots import begun_at, fill_slot, find_slot, tell
from ..plan.slots import undo as undo_slot
from ..runs.readings import keep_reading
from ..runs.runs import NewRun, add_run, load_log
from .lanes import (
    NewEntry,
    add_entries,
    entries_of,
    first_metered_s,
    forget_readings,
    readings_of,
)

logger = logging.getLogger(__name__)
ORIGIN = "bench"
SYSTEM = frozenset(
    {"alarm", "alarm over", "gap", "source", "step", "opened", "undo", "fix", "placed", "not placed", "end", "remark"}
)
"""Kinds of entries that are not a reading or a remark of a person: they are neither corrected nor undone."""


BY_METER = "the meter"
"""Who placed a phone that nobody said to be placed."""

MOVED = "moved"

STARTED_BEFORE = (
    "The phone lay on the charger before the log began: times count from the first reading, not from the placing."
)


def card_of_lane(lane: b.Lane) -> Card:
    """The method card of a lane."""
    return card_of(lane.card)


def item_of(entry: b.LaneEntry) -> EntryItem:
    """An entry as the item that it is."""
    return EntryItem(entry.kind, entry.value, entry.unit, entry.text)  # type: ignore[arg-type]


def lane_s(lane: b.Lane, at: dt.datetime) -> float:
    """A moment on a lane's clock [s]."""
    return (at - lane.opened_at).total_seconds() * lane.speed


def moment(lane: b.Lane, at_s: float) -> dt.datetime:
    """When a moment of a lane's clock is, by the clock on the wall."""
    return lane.opened_at + dt.timedelta(seconds=at_s / lane.speed)


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
    lane.setup = {k: v for k, v in lane.setup.items() if v.get("reason") != ON_ALREADY}
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
    told: Told | None,
    now: dt.datetime,
    by: str = "",
    found: Sequence[Step] = (),
) -> None:
    """Tick a step of setting the bench, skip it with a reason, or take that back (None).

    Parameters
    ----------
    found : sequence of Step
        How the steps stand: one that is done by a figure is not ticked without it.

    Raises
    ------
    CannotRead
    """
    said_as = next((s.said for s in found if s.key == key), key)
    words = f"open again: {said_as}"
    if told is not None:
        check_told(key, told, found)
        words = f"skipped: {said_as}, {told.reason.strip()}" if told.skipped else f"ticked: {said_as}"
    setup = {k: v for k, v in lane.setup.items() if k != key}
    if told is not None:
        setup[key] = {"skipped": told.skipped, "reason": told.reason.strip(), "by": by}
    lane.setup = setup
    add_entries(session, lane, [NewEntry("step", lane_s(lane, now), unit=key, text=words, by=by)], now)


def told_of(lane: b.Lane) -> dict[str, Told]:
    """What was said of a lane's steps."""
    return {key: Told(bool(v.get("skipped")), v.get("reason", "")) for key, v in lane.setup.items()}


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
            NewEntry(i.kind, at_s, i.value, i.unit, i.text, by, id if n == 0 else uuid.uuid5(id, str(n)))
            for n, i in enumerate(items)
        ]
        add_entries(session, lane, new, now)
    return None


def _persons(session: Session, lane: b.Lane) -> list[b.LaneEntry]:
    """What persons entered and still stands, a placing that they told included, the latest entered last."""
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


def close_lane(
    session: Session,
    lane: b.Lane,
    outcome: Outcome,
    reason: str,
    now: dt.datetime,
    by: str = "",
    id: uuid.UUID | None = None,
) -> m.Run | None:
    """End a lane and keep what it recorded as a run; None where it is void and hardly anything was logged.

    Raises
    ------
    CannotRead
        If it is not void and nothing was logged at two moments, or the phone was never placed.
    """
    add_entries(
        session, lane,
        [NewEntry("end", lane_s(lane, now), unit=outcome, text=reason.strip(), by=by, id=id or uuid.uuid4())], now,
    )  # fmt: skip
    if outcome == "void":
        run, unread = _run_of_void(session, lane, reason, now, by)
    else:
        log, unread = _log_of(session, lane), False
        if lane.placed_s is None:
            raise CannotRead(
                f"the phone of lane {lane.name} was never placed", f"{lane.name.lower()} end void, with the reason",
                file="line",
            )  # fmt: skip
        if log is None and not card_of_lane(lane).is_spot:
            raise CannotRead(
                f"hardly anything was logged on lane {lane.name}",
                f"type at least two readings, as {lane.name.lower()} 47; or end it as void",
                file="line",
            )
        run = None if log is None else _run_of(session, lane, log, outcome, reason, now, by)
    lane.state, lane.outcome, lane.reason, lane.closed_at = "closed", outcome, reason.strip(), now
    lane.run_id = None if run is None else run.id
    if not unread:
        forget_readings(session, lane.id)
    if lane.slot_id is not None:
        if outcome == "void":
            tell(session, lane.slot_id, "void", now, now, by, reason, again=True)
        elif run is not None:
            fill_slot(session, run, now, lane.slot_id)
    session.flush()
    return run


def _log_of(session: Session, lane: b.Lane) -> RunLog | None:
    recorded, entered = recorded_of(session, lane.id), entered_of(session, lane.id)
    return run_log(recorded, entered, lane.placed_s, lane.case.get("ambient_c"))


def _run_of_void(session: Session, lane: b.Lane, reason: str, now: dt.datetime, by: str) -> tuple[m.Run | None, bool]:
    """The run of a void lane, None where there is none; and whether none can be made of what was logged.

    A lane can always be ended.
    """
    try:
        with session.begin_nested():
            log = _log_of(session, lane)
            return None if log is None else _run_of(session, lane, log, "void", reason, now, by), False
    except Exception as error:
        if failure(error) not in (None, "refused"):
            raise
        logger.warning("no run can be made of lane %s", lane.name, exc_info=True)
        words = f"what was logged could not be made a run, and stays with the lane: {error}".splitlines()[0][:300]
        add_entries(session, lane, [NewEntry("remark", lane_s(lane, now), text=words)], now)
        return None, True


def recorded_of(session: Session, lane_id: uuid.UUID) -> list[Recorded]:
    """What instruments recorded on a lane; nothing at a time that is none."""
    return [
        Recorded(r.t_s, r.volts, r.amps, r.watts, r.celsius, r.position, r.percent)
        for r in readings_of(session, lane_id)
        if math.isfinite(r.t_s)
    ]


def entered_of(session: Session, lane_id: uuid.UUID) -> list[Entered]:
    """What persons entered on a lane and still stands."""
    return [
        Entered(e.t_s, item_of(e)) for e in entries_of(session, lane_id) if e.kind not in SYSTEM and e.undone_at is None
    ]


def _run_of(session: Session, lane: b.Lane, log: RunLog, outcome: str, reason: str, now: dt.datetime, by: str) -> m.Run:
    card = card_of_lane(lane)
    case = Case.model_validate(lane.case).model_copy(
        update={
            "placed_s": lane.placed_s,
            "simulated": lane.simulated,
            "interval_min": card.interval_min or None,
            "shared_with": ", ".join(shared_with(session, lane)),
        }
    )
    entries = entries_of(session, lane.id)
    run = add_run(
        session,
        NewRun(
            label=lane.label,
            log=log,
            case=case,
            factors={**lane.factors, "method": card.name},
            origin=ORIGIN,
            started_at=lane.opened_at,
            zone=lane.zone,
            by=lane.created_by,
            remarks=remarks(lane, entries),
            card=lane.card,
        ),
    )
    run.outcome = outcome
    run.bench = {
        "lane": lane.name, "outcome": outcome, "reason": reason.strip(), "speed": lane.speed, "setup": lane.setup,
        "log": [_kept(e) for e in entries],
    }  # fmt: skip
    for e in entries:
        if e.kind == "note" and e.undone_at is None:
            session.add(m.Note(run_id=run.id, t_s=e.t_s, text=e.text, created_by=e.by))
    session.flush()
    # Its card, its kit and its notes are evidence too.
    keep_reading(session, run, load_log(session, run))
    return run


def shared_with(session: Session, lane: b.Lane) -> list[str]:
    """What other lanes that were open meanwhile had on the same meter."""
    if not lane.meter and not lane.meter_address:
        return []
    others = session.scalars(
        select(b.Lane).where(
            b.Lane.id != lane.id, b.Lane.meter == lane.meter, b.Lane.meter_address == lane.meter_address,
            or_(b.Lane.closed_at.is_(None), b.Lane.closed_at > lane.opened_at), b.Lane.placed_s.is_not(None),
        )
    )  # fmt: skip
    return sorted({other.factors.get("phone", other.label) for other in others})


def wanted_of(lane: b.Lane) -> Wanted:
    """What a lane promises, for the steps of setting it."""
    card, factors, chain = card_of_lane(lane), lane.factors, lane.chain
    return Wanted(
        start_percent=card.starts_at,
        limits=card.limits,
        case=factors.get("case", "none" if card.case == "off" else "case on"),
        airflow=factors.get("airflow", card.airflow),
        phone_state=factors.get("phone_state", card.phone_state),
        expected_v=chain.get("volts"),
        by_wire=factors.get("charger", "") in {"", WIRED},
        own_source=bool(chain.get("own_source")),
        lane=lane.name.lower(),
    )


def remarks(lane: b.Lane, entries: list[b.LaneEntry]) -> tuple[str, ...]:
    """What is to be careful about in a run that was made on the bench."""
    told = told_of(lane)
    found = [f"{s}." for s in skipped(steps(wanted_of(lane), OnBench(), told), told)]
    if any(e.kind == "placed" and e.text == ON_ALREADY and e.undone_at is None for e in entries):
        found.append(STARTED_BEFORE)
    found += [f"{e.text}." for e in entries if e.kind in {"gap", "source"}]
    return tuple(dict.fromkeys(found))


def kept_in_words(kept: dict[str, Any]) -> tuple[str, str]:
    """An entry as a run keeps it, in words, and its first value where it was corrected."""
    entry = b.LaneEntry(
        kind=kept["kind"], value=kept.get("value"), unit=kept.get("unit", ""), text=kept.get("text", ""),
        first=kept.get("first"),
    )  # fmt: skip
    return entry_said(entry), first_said(entry)


def entry_said(entry: b.LaneEntry) -> str:
    """An entry in words: what a person entered, or what the tool noted."""
    if entry.kind not in SYSTEM:
        return said(item_of(entry))
    words = entry.text.replace("\n", ". ")
    because = f", {words}" if words else ""
    return {
        "alarm": f"alarm: {words}", "alarm over": f"over: {words}", "placed": f"placed: t = 0{because}",
        "not placed": "placing taken back",
        "undo": f"undone: {words}", "fix": f"corrected: {words}", "end": f"ended, {entry.unit}. {words}".strip(". "),
        "step": words,
    }.get(entry.kind, words)  # fmt: skip


def first_said(entry: b.LaneEntry) -> str:
    """The first value of an entry that was corrected, in words; empty where it was not."""
    if entry.first is None or entry.kind in SYSTEM:
        return ""
    return said(EntryItem(entry.kind, entry.first["value"], entry.first["unit"], entry.first["text"]))  # type: ignore[arg-type]


def _kept(e: b.LaneEntry) -> dict[str, Any]:
    kept: dict[str, Any] = {"t_s": round(e.t_s, 3), "at": e.at.isoformat(), "kind": e.kind}
    for name in ("value", "unit", "text", "by", "first"):
        if getattr(e, name) not in (None, ""):
            kept[name] = getattr(e, name)
    if e.corrected_at is not None:
        kept |= {"corrected_by": e.corrected_by, "corrected_at": e.corrected_at.isoformat()}
    if e.undone_at is not None:
        kept |= {"undone_by": e.undone_by, "undone_at": e.undone_at.isoformat()}
    return kept
