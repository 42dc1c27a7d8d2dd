"""The entries of a lane: kinds, clock, what they say; and the lane's card."""

import datetime as dt

from ...core.bench import (
    EntryItem,
    Told,
    Wanted,
    said,
)
from ...core.factors import WIRED
from ...documents.bench_record import LineDocument
from .. import bench_models as b

SYSTEM = frozenset(
    {"alarm", "alarm over", "gap", "source", "step", "opened", "undo", "fix", "placed", "not placed", "end", "remark"}
)
"""Kinds of entries that are not a reading or a remark of a person: they are neither corrected nor undone."""

STARTED_BEFORE = (
    "The phone lay on the charger before the log began: times count from the first reading, not from the placing."
)


def item_of(entry: b.LaneEntry) -> EntryItem:
    """An entry as the item that it is."""
    return EntryItem(entry.kind, entry.value, entry.unit, entry.text)  # type: ignore[arg-type]


def lane_s(lane: b.Lane, at: dt.datetime) -> float:
    """A moment on a lane's clock [s]."""
    return (at - lane.opened_at).total_seconds() * lane.speed


def moment(lane: b.Lane, at_s: float) -> dt.datetime:
    """When a moment of a lane's clock is, by the clock on the wall."""
    return lane.opened_at + dt.timedelta(seconds=at_s / lane.speed)


def told_of(lane: b.Lane) -> dict[str, Told]:
    """What was said of a lane's steps."""
    return {key: Told(step.skipped, step.reason) for key, step in lane.setup.items()}


def wanted_of(lane: b.Lane) -> Wanted:
    """What a lane promises, for the steps of setting it."""
    card, factors, chain = lane.card, lane.factors, lane.chain
    return Wanted(
        start_percent=card.starts_at,
        limits=card.limits,
        case=factors.get("case", "none" if card.case == "off" else "case on"),
        airflow=factors.get("airflow", card.airflow),
        phone_state=factors.get("phone_state", card.phone_state),
        expected_v=chain.volts,
        by_wire=factors.get("charger", "") in {"", WIRED},
        own_source=chain.own_source,
        lane=lane.name.lower(),
    )


def kept_in_words(kept: LineDocument) -> tuple[str, str]:
    """A line as a run keeps it, in words, and its first value where it was corrected."""
    first = None if kept.first is None else kept.first.model_dump()
    entry = b.LaneEntry(kind=kept.kind, value=kept.value, unit=kept.unit, text=kept.text, first=first)
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
