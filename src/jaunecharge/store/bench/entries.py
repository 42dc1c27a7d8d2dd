"""The entries of a lane: kinds, clock, what they say; and the lane's card."""

import datetime as dt
from typing import Protocol

from ...core.bench import (
    EntryItem,
    Told,
    Wanted,
    said,
)
from ...core.factors import WIRED
from ...documents.bench_record import LineValue
from .. import bench_models as b

SYSTEM = frozenset(
    {"alarm", "alarm over", "gap", "source", "step", "opened", "undo", "fix", "placed", "not placed", "end", "remark"}
)
"""Kinds of entries that are not a reading or a remark of a person: they are neither corrected nor undone."""

STARTED_BEFORE = (
    "The phone lay on the charger before the log began: times count from the first reading, not from the placing."
)


def item_of(entry: "Line") -> EntryItem:
    """An entry as the item that it is."""
    return EntryItem(entry.kind, entry.value, entry.unit, entry.text)  # type: ignore[arg-type]


def lane_s(lane: b.Lane, at: dt.datetime) -> float:
    """A moment on a lane's clock [s]."""
    return (at - lane.opened_at).total_seconds() * lane.speed


def moment(lane: b.Lane, at_s: float) -> dt.datetime:
    """When a moment of a lane's clock is, by the clock on the wall."""
    return lane.opened_at + dt.timedelta(seconds=at_s / lane.speed)


def told_of(lane: b.Lane) -> dict[str, Told]:
    """Told steps of a lane."""
    return {key: Told(step.skipped, step.reason) for key, step in lane.setup.items()}


def wanted_of(lane: b.Lane) -> Wanted:
    """Promises of a lane, for the steps of setting it."""
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


class Line(Protocol):
    """A line of a log, as a lane holds it or as a run keeps it."""

    @property
    def kind(self) -> str: ...
    @property
    def value(self) -> float | None: ...
    @property
    def unit(self) -> str: ...
    @property
    def text(self) -> str: ...
    @property
    def advice(self) -> str: ...


def entry_said(line: Line) -> str:
    """A line in words: what a person entered, or what the tool noted."""
    if line.kind not in SYSTEM:
        return said(item_of(line))
    words = line.text
    because = f", {words}" if words else ""
    return {
        "alarm": f"alarm: {words}" + (f". {line.advice}" if line.advice else ""), "alarm over": f"over: {words}",
        "placed": f"placed: t = 0{because}", "not placed": "placing taken back",
        "undo": f"undone: {words}", "fix": f"corrected: {words}", "end": f"ended, {line.unit}. {words}".strip(". "),
        "step": words,
    }.get(line.kind, words)  # fmt: skip


def first_said(kind: str, first: LineValue | None) -> str:
    """The first value of a line that was corrected, in words; empty where it was not."""
    if first is None or kind in SYSTEM:
        return ""
    return said(EntryItem(kind, first.value, first.unit, first.text))  # type: ignore[arg-type]


def first_of(entry: b.LaneEntry) -> LineValue | None:
    """The first value of an entry of a lane that was corrected."""
    return None if entry.first is None else LineValue.model_validate(entry.first)
