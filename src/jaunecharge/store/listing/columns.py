"""The table of phones × chargers: each phone is made of its own runs, and kept until one of them changes."""

import hashlib
import json
import time
from collections.abc import Callable, Iterable
from dataclasses import dataclass

from sqlalchemy import Integer, cast, delete, func, select, text
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from ...core.versus import Contender, TableCell, phone_column
from ...documents.phone_column import MOST_NAMED, ChargerCell, PhoneColumn, RunInCell
from .models import TABLED, KeptColumn, Listed
from .unchanged import while_unchanged
from .usual import Usual, usual

MADE_BY = "3"
"""Raised when the table is made otherwise."""

RunsOf = Callable[[Session, str], list[Contender]]
"""Contenders of the runs of a phone, by its label in small letters, the newest first; copies left out."""


@dataclass(frozen=True)
class Table:
    """Columns of the table in the order of their phones, and the usual conditions; `left` : columns that are made of
    runs that have changed since."""

    columns: list[PhoneColumn]
    usual: Usual
    left: int


def table(session: Session, runs_of: RunsOf, seconds: float | None = None, most_runs: int | None = None) -> Table:
    """The table as it is now; columns whose runs have changed are made anew, for so many seconds at most, and only
    where they are made of no more than so many runs; the others are shown as they were, and counted as left."""
    return while_unchanged(session, "table", lambda: _table(session, runs_of, seconds, most_runs), lambda t: not t.left)


def _table(session: Session, runs_of: RunsOf, seconds: float | None, most_runs: int | None) -> Table:
    now, began = usual(session, *TABLED), time.monotonic()
    kept = {c.phone: c for c in session.scalars(select(KeptColumn))}
    states = {phone: (state, count) for phone, state, count in _states(session, now)}
    if gone := kept.keys() - states.keys():
        session.execute(delete(KeptColumn).where(KeptColumn.phone.in_(gone)))
    columns, left = {}, 0
    for phone, (state, count) in states.items():
        known = kept.get(phone)
        if known is not None and known.state == state:
            columns[phone] = PhoneColumn.read(known.document)
        elif (most_runs is not None and count > most_runs) or (
            seconds is not None and time.monotonic() - began > seconds
        ):
            left += 1
            if known is not None:
                columns[phone] = PhoneColumn.read(known.document)
        else:
            columns[phone] = _made(runs_of(session, phone), now)
            new = {"state": state, "document": columns[phone].model_dump(mode="json")}
            adding = insert(KeptColumn).values(phone=phone, **new)
            session.execute(adding.on_conflict_do_update(index_elements=["phone"], set_=new))
    return Table([c for _, c in sorted(columns.items()) if c.cells], now, left)


def last_line(session: Session) -> int:
    """Number of the last line that was written in lists: whatever was made before it may be old."""
    return session.scalar(text("SELECT last_value FROM listing_lines")) or 0


def _states(session: Session, now: Usual) -> Iterable[tuple[str, str, int]]:
    """Each phone with what its column rests on (how many runs, the last line written of them, what is usual), and how
    many runs that are."""
    rests = json.dumps([MADE_BY, dict(now.levels), now.room_c], sort_keys=True)
    written = select(Listed.phone, func.count().label("n"), func.max(Listed.line_no).label("last"))
    each = written.where(*TABLED).group_by(Listed.phone).subquery()
    phone = func.lower(each.c.phone)
    query = select(phone, cast(func.sum(each.c.n), Integer), func.max(each.c.last)).group_by(phone)
    for name, count, last in session.execute(query):
        yield name, hashlib.sha256(f"{count} {last} {rests}".encode()).hexdigest(), count


def _made(own: list[Contender], now: Usual) -> PhoneColumn:
    phone = own[0].factors["phone"] if own else ""
    column, cells = phone_column(phone, own, now.levels, now.room_c)
    return PhoneColumn(phone=phone, window=column.window, timed=column.timed, cells=[_cell(cell) for cell in cells])


def _cell(cell: TableCell) -> ChargerCell:
    return ChargerCell(
        charger=cell.charger,
        median=cell.median,
        spread=cell.spread,
        place=cell.place,
        count=len(cell.runs),
        runs=[RunInCell(id=r.key, label=r.label) for r in cell.runs[:MOST_NAMED]],
        others_count=len(cell.others),
        others=[RunInCell(id=r.key, label=r.label, apart=why) for r, why in cell.others[:MOST_NAMED]],
    )
