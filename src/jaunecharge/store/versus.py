"""Runs as a comparison sees them, from what their summaries keep; and what there is to compare."""

import uuid
from collections.abc import Iterable, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from typing import Any

from pydantic import ValidationError
from sqlalchemy import ARRAY, ColumnElement, RowMapping, Text, func, literal, select, true, tuple_, union_all
from sqlalchemy.orm import Session, aliased

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
from .listing.models import MEASURED, TABLED, Listed
from .listing.unchanged import while_unchanged
from .runs.copies import copies_listed
from .runs.readings import charger_pads, kit_used

MOST_NEIGHBOURS = 1000
MOST_PHONES = 200
IDS_AT_ONCE = 10_000
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


def contenders(session: Session, *which: ColumnElement[bool]) -> list[Contender]:
    """Runs that stand in the list, the newest first, each with how soon after another of its phone it began; `which` :
    conditions on them.

    Their power is left out: a thousand ribbons would be read for nothing.
    """
    column = m.Run.summary_json
    query = (
        select(*_NEEDED, column["course"].label("course"), column["ribbon"]["minutes"].label("minutes"))
        .where(m.Run.deleted_at.is_(None), *which)
        .order_by(m.Run.created_at.desc(), m.Run.id)
    )
    runs = []
    for row in session.execute(query):
        runs.append(_contender(row, _course(row.course), row.minutes))
    ends = previous_ends([*runs, *_before(session, runs)])
    return [replace(r, after=ends.get(r.key)) for r in runs]


def named(session: Session, keys: Sequence[str]) -> list[Contender]:
    """The runs of these ids, as far as they stand in the list, in that order."""
    found = {r.key: r for r in contenders(session, m.Run.id.in_([uuid.UUID(k) for k in keys]))}
    return [found[k] for k in keys if k in found]


def neighbours(session: Session, chosen: Sequence[Contender]) -> list[Contender]:
    """Runs among which fair pairs are looked for: these, and the newest of the same phones and chargers."""
    keys: dict[uuid.UUID, None] = dict.fromkeys(uuid.UUID(r.key) for r in chosen)
    for column, factor in ((Listed.phone, "phone"), (Listed.charger, "charger")):
        names = {r.levels[factor] for r in chosen if r.levels.get(factor)}
        each = MOST_NEIGHBOURS // max(1, 2 * len(names))
        for name in sorted(names):
            same = select(Listed.run_id).where(func.lower(column) == name)
            keys |= dict.fromkeys(session.scalars(same.order_by(Listed.created_at.desc()).limit(each)))
    return contenders(session, m.Run.id.in_(list(keys)))


def of_phone(session: Session, phone: str) -> list[Contender]:
    """Measured runs of a phone, by its label in small letters, for the table; void ones, spot checks and copies left
    out."""
    own = select(Listed.run_id).where(func.lower(Listed.phone) == phone, *TABLED)
    single, _ = without_copies(contenders(session, m.Run.id.in_(own)))
    return [r for r in single if r.levels.get("phone") and r.levels.get("charger")]


def _before(session: Session, runs: Sequence[Contender]) -> list[Contender]:
    """Of each run the one of the same phone that began before it, known by no more than when it was."""
    mine, other = aliased(Listed), aliased(Listed)
    before = (
        select(other.run_id, other.phone, other.started_at, other.minutes)
        .where(
            func.lower(other.phone) == func.lower(mine.phone),
            other.started_at.is_not(None),
            tuple_(other.started_at, other.run_id) < tuple_(mine.started_at, mine.run_id),
            other.minutes.is_not(None),
        )
        .order_by(other.started_at.desc(), other.run_id.desc())
        .limit(1)
        .lateral()
    )
    known = {r.key for r in runs}
    ids = [uuid.UUID(r.key) for r in runs if r.began_min is not None]
    query = select(before).select_from(mine).join(before, true())
    found = {}
    for first in range(0, len(ids), IDS_AT_ONCE):
        some = query.where(mine.run_id.in_(ids[first : first + IDS_AT_ONCE]))
        for run_id, phone, started_at, minutes in session.execute(some):
            began = started_at.timestamp() / 60.0
            if str(run_id) not in known:
                found[run_id] = Contender(
                    str(run_id), "", {"phone": phone}, NOT_READ, began_min=began, ended_min=began + minutes
                )
    return list(found.values())


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


def offered(session: Session, most_runs: int) -> list[Offered]:
    """Offers of what to compare: every plan with two runs or more, every phone with two, and everything, each with its
    newest runs; copies are left out."""
    single, of_list = while_unchanged(session, ("offered", most_runs), lambda: _of_the_list(session, most_runs))
    offers = []
    plans = plan_runs(session)
    made_for = {uuid.UUID(k) for _, own in plans for k in own}
    lines = {str(x.run_id): x for x in _lines(session, *single, Listed.run_id.in_(made_for))} if made_for else {}
    for title, own in plans:
        offers.append(_offer(title, "plan", [lines[k] for k in own if k in lines][:most_runs], None))
    return [offer for offer in (*offers, *of_list) if len(offer.runs) > 1]


def _of_the_list(session: Session, most_runs: int) -> tuple[tuple[ColumnElement[bool], ...], list[Offered]]:
    """Conditions of runs that are no copies; offers of each phone and of everything."""
    copied = {uuid.UUID(key) for key in copies_listed(session)}
    single = *MEASURED, Listed.run_id.not_in(list(copied)) if copied else true()
    counts, chargers = _counts(session, copied)
    phones = sorted((name for name in counts if name), key=lambda name: (-sum(counts[name].values()), name))
    offers = [
        _offer(lines[0].phone, "phone", lines, len(counts[name]))
        for name, lines in _newest(session, phones[:MOST_PHONES], single, most_runs).items()
        if lines  # None are left where somebody has just deleted them.
    ]
    everything = list(_lines(session, *single, most=most_runs))
    offers.append(_offer("everything", "all", everything, len(chargers)))
    return single, offers


def _counts(session: Session, copied: set[uuid.UUID]) -> tuple[dict[str, dict[str, int]], set[str]]:
    """Numbers of runs of each phone on each charger, both in small letters, copies left out; all chargers."""
    each = Listed.phone, Listed.charger
    counted = select(*each, func.count().label("n")).where(*MEASURED).group_by(*each)
    less = select(*each, -func.count()).where(*MEASURED, Listed.run_id.in_(copied)).group_by(*each)
    all_lines = union_all(counted, less).subquery() if copied else counted.subquery()
    pair = func.lower(all_lines.c.phone), func.lower(all_lines.c.charger)
    total = func.sum(all_lines.c.n)
    found: dict[str, dict[str, int]] = {}
    for phone, charger, n in session.execute(select(*pair, total).group_by(*pair).having(total > 0)):
        found.setdefault(phone, {})[charger] = int(n)
    return found, {charger for of_phone in found.values() for charger in of_phone}


_LINE = Listed.run_id, Listed.phone, Listed.charger, Listed.from_percent, Listed.to_percent
_NEWEST_FIRST = Listed.created_at.desc(), Listed.run_id


def _newest(
    session: Session, phones: Sequence[str], single: tuple[ColumnElement[bool], ...], most: int
) -> dict[str, list[Any]]:
    """Newest lines of each phone, in the order of the phones."""
    names = select(func.unnest(literal(list(phones), ARRAY(Text))).label("phone")).subquery()
    own = select(*_LINE, Listed.created_at).where(func.lower(Listed.phone) == names.c.phone, *single)
    newest = own.order_by(*_NEWEST_FIRST).limit(most).lateral()
    query = select(names.c.phone.label("of"), newest).join(newest, true())
    found: dict[str, list[Any]] = {name: [] for name in phones}
    for line in session.execute(query.order_by(newest.c.created_at.desc(), newest.c.run_id)):
        found[line.of].append(line)
    return found


def _lines(session: Session, *which: ColumnElement[bool], most: int | None = None) -> Iterable[Any]:
    return session.execute(select(*_LINE).where(*which).order_by(*_NEWEST_FIRST).limit(most))


def _offer(title: str, kind: str, lines: Sequence[Any], chargers: int | None) -> Offered:
    spans = [
        (x.from_percent, x.to_percent) if x.from_percent is not None and x.to_percent > x.from_percent else None
        for x in lines
    ]
    windows = worthwhile_windows(spans)
    kinds = len({x.charger.lower() for x in lines}) if chargers is None else chargers
    return Offered(title, kind, tuple(str(x.run_id) for x in lines), kinds, windows[0][0] if windows else None)


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
