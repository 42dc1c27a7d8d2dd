"""Runs as a comparison sees them, from what their summaries keep; and what there is to compare."""

import uuid
from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from typing import Any

from pydantic import ValidationError
from sqlalchemy import RowMapping, select
from sqlalchemy.orm import Session

from ..core.errors import CannotRead
from ..core.factors import with_own_supply
from ..core.kit import Kit, Phone
from ..core.log import Recording
from ..core.versus import (
    PRICED,
    Contender,
    Course,
    Window,
    most_w,
    previous_ends,
    span,
    without_copies,
    worthwhile_windows,
)
from ..documents.card import card_of
from ..documents.case import Case
from ..documents.kit import kit_of
from ..documents.ribbon import RibbonDocument
from ..documents.run_summary import UNREADABLE, CourseDocument, RunSummary
from . import models as m
from .kit import item_of, shelf
from .runs.readings import charger_pads, kit_used

NOT_READ = Course(None)
"""Of a run that is being read anew: nothing is known until then."""


_NEEDED = (
    m.Run.id, m.Run.label, m.Run.factors, m.Run.case_json, m.Run.kit, m.Run.card_json, m.Run.started_at, m.Run.zone,
    m.Run.outcome, m.Run.recording, m.Run.created_at,
)  # fmt: skip


def contender_of(run: m.Run) -> Contender:
    """A stored run as a side of a comparison."""
    summary = run.summary if run.summary_json else None
    course = None if summary is None or summary.course is None else summary.course.course(summary.ribbon)
    return _contender(run, course, None if summary is None else summary.ribbon.minutes)


def _contender(run: m.Run | RowMapping | Any, course: Course | None, length_min: float | None) -> Contender:
    """The same of a run, or of the columns of one that are needed; its course and its length apart."""
    case, card = Case.read(run.case_json), None if run.card_json is None else card_of(run.card_json)
    course = course or NOT_READ
    kit = _readable(run.kit)
    charger = kit.get("charger")
    factors = with_own_supply(run.factors, "" if charger is None else charger.kind)
    began = None if run.started_at is None else run.started_at.timestamp() / 60.0
    return Contender(
        key=str(run.id),
        label=run.label,
        factors=factors,
        course=course,
        ambient_c=course.room_c if course.room_c is not None else case.ambient_c,
        chamber=card is not None and card.spreads_little,
        interval_min=case.interval_min if card is None else card.interval_min,
        card=factors.get("method", "") if card is None else card.name,
        capacity_mah=case.capacity_mah,
        prices=_prices(kit),
        began_min=began,
        ended_min=None if began is None or length_min is None else began + length_min,
        zone=run.zone,
        simulated=case.simulated,
        outcome=run.outcome,
        spot=card is not None and card.is_spot,
        recording=Recording(**run.recording),
        made=run.created_at.timestamp(),
    )


def _readable(raw: Mapping[str, Any]) -> dict[str, Kit]:
    """The kit of a run, as far as it can be read: one piece that cannot be spoils no comparison of others."""
    fields = {}
    for factor, facts in raw.items():
        with suppress(CannotRead):
            fields[factor] = kit_of(facts)
    return fields


def _course(raw: Mapping[str, Any] | None) -> Course | None:
    """The course of a run; None where it was made by an older reader, or cannot be read."""
    with suppress(ValidationError):
        course = CourseDocument.read(raw)
        return None if course is None else course.course()
    return None


def _prices(kit: Mapping[str, Kit]) -> dict[str, tuple[float, str]]:
    prices = {}
    for factor in PRICED:
        price = getattr(kit.get(factor), "price", None)
        if price is not None:
            prices[factor] = (price.amount, price.currency)
    return prices


def contenders(session: Session) -> list[Contender]:
    """All runs that stand in the list, the newest first, each with how soon after another of its phone it began.

    Their power is left out: a thousand ribbons would be read for nothing.
    """
    column = m.Run.summary_json
    query = (
        select(*_NEEDED, column["course"].label("course"), column["ribbon"]["minutes"].label("minutes"))
        .where(m.Run.deleted_at.is_(None))
        .order_by(m.Run.created_at.desc(), m.Run.id)
    )
    runs = []
    for row in session.execute(query):
        runs.append(_contender(row, _course(row.course), row.minutes))
    ends = previous_ends(runs)
    return [replace(r, after=ends.get(r.key)) for r in runs]


def with_power(session: Session, runs: Sequence[Contender]) -> tuple[list[Contender], dict[str, RibbonDocument]]:
    """The same runs with their power, and the ribbon of each by its key."""
    query = select(m.Run.id, m.Run.summary_json).where(m.Run.id.in_([uuid.UUID(r.key) for r in runs]))
    read = {str(run_id): RunSummary.read(row) for run_id, row in session.execute(query)}
    summaries = {key: summary for key, summary in read.items() if summary.kept_old != UNREADABLE}
    whole = []
    for r in runs:
        summary = summaries.get(r.key)
        known = summary is not None and summary.course is not None
        whole.append(replace(r, course=summary.course.course(summary.ribbon)) if known else r)  # type: ignore[union-attr]
    return whole, {key: summary.ribbon for key, summary in summaries.items()}


@dataclass(frozen=True)
class Offered:
    """Runs that make sense together, by a plan or on one phone, and the window that most of them cover widest."""

    title: str
    kind: str
    runs: tuple[str, ...]
    chargers: int
    window: Window | None


def plan_runs(session: Session) -> list[tuple[str, tuple[str, ...]]]:
    """The question of every plan, the newest first, with the runs that were made for it."""
    slots: dict[uuid.UUID, list[str]] = {}
    query = select(m.Slot.plan_id, m.Slot.run_id).where(m.Slot.run_id.is_not(None)).order_by(m.Slot.position)
    for plan_id, run_id in session.execute(query):
        slots.setdefault(plan_id, []).append(str(run_id))
    plans = select(m.Plan).where(m.Plan.deleted_at.is_(None)).order_by(m.Plan.created_at.desc())
    return [(plan.question, tuple(slots.get(plan.id, ()))) for plan in session.scalars(plans)]


def offered(plans: Sequence[tuple[str, tuple[str, ...]]], runs: Sequence[Contender]) -> list[Offered]:
    """Offers of what to compare: every plan with two runs or more, every phone with two, and everything; copies are
    left out."""
    single, _ = without_copies(runs)
    by_key = {r.key: r for r in single if r.outcome != "void" and not r.simulated and not r.spot}
    by_phone: dict[str, list[str]] = {}
    for key, run in by_key.items():
        if run.levels.get("phone"):
            by_phone.setdefault(run.factors["phone"], []).append(key)
    phones = sorted(by_phone.items(), key=lambda x: (-len(x[1]), x[0]))
    groups = [
        *((title, "plan", [k for k in own if k in by_key]) for title, own in plans),
        *((phone, "phone", own) for phone, own in phones),
        ("everything", "all", list(by_key)),
    ]
    return [
        Offered(title, kind, tuple(own), len({by_key[k].levels.get("charger", "") for k in own}), _window(by_key, own))
        for title, kind, own in groups
        if len(own) > 1
    ]


def _window(by_key: dict[str, Contender], keys: Sequence[str]) -> Window | None:
    windows = worthwhile_windows([span(by_key[k].course.readings) for k in keys])
    return windows[0][0] if windows else None


def limits(run: m.Run | None, other: Phone | None, by_wire: bool) -> tuple[float | None, float | None]:
    """Most that the measured and another phone take from the charger of a run, or by wire [W], as far as all of them
    were on the shelf."""
    if run is None:
        return None, None
    gives, measured = charger_pads(run), kit_used(run, "phone")
    phone = measured if isinstance(measured, Phone) else None
    return most_w(phone, gives, by_wire), most_w(other, gives, by_wire)


def phone_on_shelf(session: Session, label: str) -> Phone | None:
    """A phone that lies on the shelf, by its label."""
    wanted = label.strip().casefold()
    for piece in shelf(session):
        if piece.kind == "phone" and piece.label.casefold() == wanted:
            item = item_of(piece)
            return item if isinstance(item, Phone) else None
    return None
