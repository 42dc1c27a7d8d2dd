"""Pages of a list of runs: each begins after the last row of the one before, however far down that is."""

import base64
import binascii
import datetime as dt
import json
import uuid
from dataclasses import dataclass, field
from typing import Annotated, Any, Literal

from pydantic import Field, TypeAdapter
from sqlalchemy import ColumnElement, FromClause, Select, func, literal, not_, select, tuple_, union_all
from sqlalchemy.orm import Session

from ...core.errors import CannotRead
from .models import Listed
from .unchanged import in_words, while_unchanged
from .words import Sought, each_of, sought

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
WALKED = 3000
"""Lines that are looked through in order for common words, before all lines that hold them are."""

WORDS = frozenset({"name", "reads", "conditions"})
TEXT = TypeAdapter(Annotated[str, Field(strict=True, max_length=1000, pattern=r"^[^\x00]*$")])
NUMBER = TypeAdapter(Annotated[float, Field(strict=True, allow_inf_nan=False)])


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
        """Conditions of a row, but for its words and whether it is measured."""
        found: list[ColumnElement[bool]] = [Listed.spot.is_(False), *self.also]
        if not self.void:
            found.append(Listed.void.is_(False))
        if self.phone:
            found.append(func.lower(Listed.phone) == self.phone.lower())
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
        return bool(each_of(self.words) or self.phone or self.also)


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
    column, start, words = COLUMNS[sort], _cursor(after, sort), sought(session, wanted.words)
    rows: list[tuple[Any, uuid.UUID]] = []
    if start is None or start.value is not None:
        rows = _Part(wanted, words, column, down, start, column.is_not(None)).rows(session, most + 1)
    if len(rows) <= most and sort in UNKNOWN_LAST:
        begun = start if start is not None and start.value is None else None
        unknown = _Part(wanted, words, None, False, begun, column.is_(None))
        rows += unknown.rows(session, most + 1 - len(rows))
    shown = rows[:most]
    more = _written(shown[-1], sort) if len(rows) > most else None
    return Page([run_id for _, run_id in shown], more)


@dataclass(frozen=True)
class Cursor:
    """The last row of a page: its value in the column that sorts, None where that is not known, and its id."""

    value: Any
    run_id: uuid.UUID


@dataclass(frozen=True)
class _Part:
    """Rows of a list after another of them: those whose figure in the column that sorts is known, or, without that
    column, the others, by id."""

    wanted: Wanted
    words: Sought
    column: Any
    down: bool
    start: Cursor | None
    kind: ColumnElement[bool]

    def rows(self, session: Session, most: int) -> list[tuple[Any, uuid.UUID]]:
        """The first of them, so many."""
        if self.words.found_at_once:
            return self._of_all(session, most)
        ends = {s: self._end(session, s) for s in self.wanted.kinds} if self.words.words else {}
        found = self._in_order(session, most, ends)
        for simulated, end in ends.items():
            # Behind where its part was looked through to, more of its rows may lie before those of the other part.
            if end is not None and sum(row.simulated is simulated for row in found) < most:
                return self._of_all(session, most)
        return [(row.value, row.run_id) for row in found[:most]]

    def _of_all(self, session: Session, most: int) -> list[tuple[Any, uuid.UUID]]:
        """From all rows with these words, put in order."""
        query = self._lines(Listed.simulated.in_(self.wanted.kinds)).where(*self.words.conditions(True))
        hits = query.cte("hits").prefix_with("MATERIALIZED")
        found = session.execute(select(hits).order_by(*self._order(hits.c.value, hits.c.run_id)).limit(most))
        return [(row.value, row.run_id) for row in found]

    def _in_order(self, session: Session, most: int, ends: dict[bool, Cursor | None]) -> list[Any]:
        """From an index in this order: so many measured and simulated ones each from their part of it, each up to its
        end."""
        parts = []
        for simulated in self.wanted.kinds:
            query = self._lines(Listed.simulated.is_(simulated)).where(*self.words.conditions(False))
            if (end := ends.get(simulated)) is not None:
                query = query.where(not_(self._after(end)))
            parts.append(query.order_by(*self._order(self.column, Listed.run_id)).limit(most))
        if len(parts) == 1:
            return list(session.execute(parts[0]))
        both = union_all(*(select(p.subquery()) for p in parts)).subquery()
        return list(session.execute(select(both).order_by(*self._order(both.c.value, both.c.run_id))))

    def _end(self, session: Session, simulated: bool) -> Cursor | None:
        """The row up to which a part is looked through for words; None where it has no more."""
        query = self._lines(Listed.simulated.is_(simulated)).order_by(*self._order(self.column, Listed.run_id))
        row = session.execute(query.offset(WALKED).limit(1)).first()
        return None if row is None else Cursor(row.value, row.run_id)

    def _lines(self, kind: ColumnElement[bool]) -> Select[Any]:
        value = (literal(None) if self.column is None else self.column).label("value")
        query = select(value, Listed.run_id, Listed.simulated).where(kind, self.kind, *self.wanted.conditions())
        return query if self.start is None else query.where(self._after(self.start))

    def _order(self, value: Any, run_id: Any) -> list[Any]:
        by = [run_id] if self.column is None else [value, run_id]
        return [c.desc() if self.down else c for c in by]

    def _after(self, row: Cursor) -> ColumnElement[bool]:
        if self.column is None:
            return Listed.run_id > row.run_id
        here = tuple_(self.column, Listed.run_id)
        there = tuple_(literal(row.value, self.column.type), literal(row.run_id))
        return here < there if self.down else here > there


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
    about = "scale", in_words(wanted.all()), each_of(wanted.words)
    return while_unchanged(session, about, lambda: _scaled(session, wanted))


def _scaled(session: Session, wanted: Wanted) -> Scale:
    words = sought(session, wanted.words)
    of_all = words.taken_from_all(MOST_COUNTED)
    shown = select(Listed.at, Listed.minutes, Listed.peak_w).where(*wanted.conditions(), *words.conditions(of_all))
    both: FromClause
    if of_all:
        both = shown.where(Listed.simulated.in_(wanted.kinds)).cte("hits").prefix_with("MATERIALIZED")
    else:
        parts = [shown.where(Listed.simulated.is_(simulated)) for simulated in wanted.kinds]
        newest = [part.order_by(Listed.at.desc()).limit(MOST_COUNTED + 1) for part in parts]
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
