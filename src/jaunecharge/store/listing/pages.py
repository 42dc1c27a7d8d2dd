"""Pages of a list of runs: each begins after the last row of the one before, however far down that is."""

import base64
import binascii
import datetime as dt
import json
import re
import uuid
from dataclasses import dataclass, field
from typing import Annotated, Any, Literal

from pydantic import Field, TypeAdapter
from sqlalchemy import ColumnElement, func, literal, select, tuple_, union_all
from sqlalchemy.orm import Session

from ...core.errors import CannotRead
from .models import Listed
from .unchanged import in_words, while_unchanged

Sort = Literal["when", "name", "length", "to80", "hottest", "reads", "rise", "first", "throttled", "lost", "conditions"]
COLUMNS: dict[Sort, Any] = {
    "when": Listed.at, "name": Listed.name, "length": Listed.minutes, "to80": Listed.to_80,
    "hottest": Listed.hottest_c, "reads": Listed.reads, "rise": Listed.rise_k, "first": Listed.first_min,
    "throttled": Listed.throttled_min, "lost": Listed.lost_min, "conditions": Listed.conditions,
}  # fmt: skip
UNKNOWN_LAST = frozenset({"length", "to80", "hottest", "rise", "first", "throttled", "lost"})
"""Figures that a run may lack: such runs stand last, whichever way the list is sorted."""

MOST_COUNTED = 10_000
"""Rows of a filtered list that are counted and scaled by; of more it is said that there are more."""

USUAL_SHARE = 0.7
MOST_WORDS = 20
WORDS = frozenset({"name", "reads", "conditions"})
TEXT = TypeAdapter(Annotated[str, Field(strict=True, max_length=1000, pattern=r"^[^\x00]*$")])
NUMBER = TypeAdapter(Annotated[float, Field(strict=True, allow_inf_nan=False)])


def _plain(word: str) -> str:
    """A word in a pattern, where its signs mean themselves."""
    return re.sub(r"([\\%_])", r"\\\1", word)


@dataclass(frozen=True)
class Wanted:
    """Rows that are wanted: words that all must stand in a row, measured or simulated ones or both, of one phone,
    those that are no spot checks or only these, and whether void ones count; `also` : further conditions."""

    words: str = ""
    simulated: bool | None = None
    phone: str = ""
    void: bool = True
    also: tuple[ColumnElement[bool], ...] = field(default=(), hash=False)

    def conditions(self) -> list[ColumnElement[bool]]:
        """Conditions of a row, but for whether it is measured."""
        found: list[ColumnElement[bool]] = [Listed.spot.is_(False), *self.also]
        if not self.void:
            found.append(Listed.void.is_(False))
        if self.phone:
            found.append(func.lower(Listed.phone) == self.phone.lower())
        found += [Listed.words.like(f"%{_plain(word)}%") for word in self.words.lower().split()[:MOST_WORDS]]
        return found

    @property
    def kinds(self) -> tuple[bool, ...]:
        """Measured (False), simulated (True), or both."""
        return (False, True) if self.simulated is None else (self.simulated,)

    def all(self) -> list[ColumnElement[bool]]:
        """Conditions of a row."""
        return [Listed.simulated.in_(self.kinds), *self.conditions()]

    @property
    def filtered(self) -> bool:
        """Whether anything but the kind of run is asked for."""
        return bool(self.words.split() or self.phone or self.also)


@dataclass(frozen=True)
class Page:
    """Rows of a page by id, in order, and where the next begins; None after the last."""

    runs: list[uuid.UUID]
    after: str | None


def page(session: Session, wanted: Wanted, sort: Sort, down: bool, after: str | None, most: int) -> Page:
    """One page of a list.

    Raises
    ------
    CannotRead
        If `after` is not what a page gave.
    """
    column, start = COLUMNS[sort], _cursor(after, sort)
    rows: list[tuple[Any, uuid.UUID]] = []
    if start is None or start.value is not None:
        rows = _rows(session, wanted, column, down, start, most + 1, column.is_not(None))
    if len(rows) <= most and sort in UNKNOWN_LAST:
        begun = start if start is not None and start.value is None else None
        rows += _rows(session, wanted, None, False, begun, most + 1 - len(rows), column.is_(None))
    shown = rows[:most]
    more = _written(shown[-1], sort) if len(rows) > most else None
    return Page([run_id for _, run_id in shown], more)


@dataclass(frozen=True)
class Cursor:
    """The last row of a page: its value in the column that sorts, None where that is not known, and its id."""

    value: Any
    run_id: uuid.UUID


def _rows(
    session: Session, wanted: Wanted, column: Any, down: bool, start: Cursor | None, most: int,
    kind: ColumnElement[bool],
) -> list[tuple[Any, uuid.UUID]]:  # fmt: skip
    """Rows after another, from an index in its order: measured and simulated ones each from their part of it."""
    value = literal(None).label("value") if column is None else column.label("value")
    parts = []
    for simulated in wanted.kinds:
        query = select(value, Listed.run_id).where(Listed.simulated.is_(simulated), kind, *wanted.conditions())
        if start is not None:
            query = query.where(_after(column, down, start))
        ordered = [column, Listed.run_id] if column is not None else [Listed.run_id]
        parts.append(query.order_by(*(c.desc() if down else c for c in ordered)).limit(most))
    if len(parts) == 1:
        return [(row[0], row[1]) for row in session.execute(parts[0])]
    both = union_all(*(select(p.subquery()) for p in parts)).subquery()
    ordered = [both.c.value, both.c.run_id] if column is not None else [both.c.run_id]
    query = select(both).order_by(*(c.desc() if down else c for c in ordered)).limit(most)
    return [(row[0], row[1]) for row in session.execute(query)]


def _after(column: Any, down: bool, start: Cursor) -> ColumnElement[bool]:
    if column is None:
        return Listed.run_id > start.run_id
    here, there = tuple_(column, Listed.run_id), tuple_(literal(start.value, column.type), literal(start.run_id))
    return here < there if down else here > there


def _written(row: tuple[Any, uuid.UUID], sort: Sort) -> str:
    value = row[0].isoformat() if isinstance(row[0], dt.datetime) else row[0]
    return base64.urlsafe_b64encode(json.dumps([sort, value, str(row[1])]).encode()).decode()


def _cursor(after: str | None, sort: Sort) -> Cursor | None:
    if not after:
        return None
    try:
        [by, value, run_id] = json.loads(base64.urlsafe_b64decode(after.encode()))
        if by != sort:
            raise ValueError("another order")
        if sort == "when":
            value = dt.datetime.fromisoformat(value)
        elif value is not None:
            value = TEXT.validate_python(value) if sort in WORDS else NUMBER.validate_python(value)
        return Cursor(value, uuid.UUID(run_id))
    except (ValueError, TypeError, AttributeError, binascii.Error, RecursionError) as error:
        raise CannotRead("this page is none of the list", "begin at its first page", file="after") from error


@dataclass(frozen=True)
class Scale:
    """Size of a list and what it is drawn by: how many rows fit, whether there are more, how many there are without
    the filter; the longest and a usual length [min], the most power [W]."""

    count: int
    more: bool
    of: int
    any: bool
    longest_min: float | None
    usual_min: float | None
    most_w: float | None


def scale(session: Session, wanted: Wanted) -> Scale:
    """Size and scale of a list; of more rows than are counted, those that began last."""
    return while_unchanged(session, ("scale", in_words(wanted.all())), lambda: _scaled(session, wanted))


def _scaled(session: Session, wanted: Wanted) -> Scale:
    newest = [
        select(Listed.at, Listed.minutes, Listed.peak_w)
        .where(Listed.simulated.is_(simulated), *wanted.conditions())
        .order_by(Listed.at.desc())
        .limit(MOST_COUNTED + 1)
        for simulated in wanted.kinds
    ]
    both = union_all(*(select(part.subquery()) for part in newest)).subquery()
    some = select(both).order_by(both.c.at.desc()).limit(MOST_COUNTED + 1).subquery()
    usual = func.percentile_disc(USUAL_SHARE).within_group(some.c.minutes)
    row = session.execute(
        select(func.count(), func.max(some.c.minutes), usual, func.max(some.c.peak_w)).select_from(some)
    )
    count, longest, typical, most_w = row.one()
    whole = Wanted(simulated=wanted.simulated, void=wanted.void)
    of = _count(session, whole) if wanted.filtered or count > MOST_COUNTED else count
    there = of > 0 or session.scalar(select(Listed.run_id).limit(1)) is not None
    if not wanted.filtered:
        return Scale(of, False, of, there, longest, typical, most_w)
    return Scale(min(count, MOST_COUNTED), count > MOST_COUNTED, of, there, longest, typical, most_w)


def _count(session: Session, wanted: Wanted) -> int:
    query = select(func.count()).select_from(Listed).where(*wanted.all())
    return while_unchanged(session, ("count", in_words(wanted.all())), lambda: session.scalar(query) or 0)
