"""Readings as they arrive: each stored once, under the start of its source, whatever order they come in."""

import datetime as dt
import uuid
from collections.abc import Sequence
from dataclasses import astuple, dataclass
from typing import Any

from sqlalchemy import func, select, text
from sqlalchemy.dialects import postgresql
from sqlalchemy.orm import Session

from ...core.bench import Figures, Pushed, Source, settle, start_of
from ...core.errors import CannotRead
from .. import bench_models as b
from ..errors import NotThere
from .lanes import _KEPT_STARTS, _LOCKED_STARTS, _STORED_FIGURES, FIGURES, ONCE_IN_S, OPEN, _Row, raise_tick

MOST_SOURCES, MOST_STARTS = 100, 500


@dataclass(frozen=True)
class Row:
    """A reading as it was sent: its number, its source's clock [s], and its figures; what is missing is None."""

    n: int
    clock_s: float | None = None
    volts: float | None = None
    amps: float | None = None
    watts: float | None = None
    celsius: float | None = None
    position: str = ""
    percent: float | None = None
    point: str = ""
    humidity: float | None = None
    charging: bool | None = None


@dataclass(frozen=True)
class Batch:
    """Readings of one source for one lane, and when they arrived on the lane's clock [s].

    timed : the readings' times are the lane's already, and their numbers stand for what was sent, in no order.
    """

    lane: uuid.UUID
    source: str
    arrived_s: float
    rows: tuple[Row, ...]
    speed: float = 1.0
    boot: str = ""
    timed: bool = False


@dataclass(frozen=True)
class Stored:
    """Outcome of a batch: how many were new, and the count of the change that holds them.

    refused : how many have a time that cannot be; over : the lane had ended, and nothing was stored.
    """

    new: int
    duplicates: int
    tick: int
    refused: int = 0
    over: bool = False


def push(session: Session, batches: Sequence[Batch]) -> list[Stored]:
    """Store readings; those that are there already stay as they are.

    Of a lane that has ended none is stored, and that is said.

    Raises
    ------
    NotThere
        If a lane was never there.
    CannotRead
        If a lane has too many sources, or a source too many starts.
    """
    wanted = {batch.lane for batch in batches}
    states = {
        lane: state for lane, state in session.execute(select(b.Lane.id, b.Lane.state).where(b.Lane.id.in_(wanted)))
    }
    if missing := wanted - states.keys():
        raise NotThere(f"there is no lane {next(iter(missing))}")
    known = _starts(session, batches)
    tick = raise_tick(session)
    taken: list[tuple[Batch, list[dict[str, Any]], int]] = []
    written: list[dict[str, Any]] = []
    changed: dict[tuple[uuid.UUID, str, int], Source] = {}
    for batch in batches:
        rows: list[dict[str, Any]] = []
        refused = 0
        if states[batch.lane] in OPEN and batch.timed:
            key = {"lane_id": batch.lane, "source": batch.source, "epoch": 0, "tick": tick}
            rows = [key | {"n": r.n, "t_s": r.clock_s} | _figures(r) for r in batch.rows]
        elif states[batch.lane] in OPEN and batch.rows:
            starts = known.setdefault((batch.lane, batch.source), [])
            sent = {r.n: figures for r in batch.rows if (figures := _figures(r))}
            start, began = _start(session, batch, starts, sent, [row for _, rows, _ in taken for row in rows])
            settled = settle(start, [Pushed(r.n, r.clock_s) for r in batch.rows], batch.arrived_s, batch.speed)
            starts[:] = sorted([*(x for x in starts if x.epoch != start.epoch), settled.source], key=lambda x: x.epoch)
            changed[batch.lane, batch.source, start.epoch] = settled.source
            key = {"lane_id": batch.lane, "source": batch.source, "epoch": start.epoch, "tick": tick}
            rows = [
                key | {"n": row.n, "t_s": at} | sent[row.n]
                for row, at in zip(batch.rows, settled.at_s, strict=True) if at is not None
            ]  # fmt: skip
            refused = len(batch.rows) - len(rows)
            written += _odd(batch, start.epoch, began, settled.jumped_s, refused, tick)
        taken.append((batch, rows, refused))
    _keep_starts(session, changed)
    fresh = _insert(session, [row for _, rows, _ in taken for row in rows])
    if written:
        session.execute(postgresql.insert(b.LaneEntry).on_conflict_do_nothing(), written)
    stored = []
    for batch, rows, refused in taken:
        keys = {(r["lane_id"], r["source"], r["epoch"], r["n"]) for r in rows}
        new = len(keys & fresh)
        fresh -= keys
        over = states[batch.lane] not in OPEN
        stored.append(Stored(new, 0 if over else len(batch.rows) - new - refused, tick, refused, over))
    return stored


def _start(
    session: Session, batch: Batch, starts: list[Source], sent: dict[int, _Row], unwritten: list[_Row]
) -> tuple[Source, bool]:
    """The start of a source that a batch belongs to, and whether it is a new one after others."""
    own = [x for x in starts if x.boot == batch.boot]
    stored: dict[int, dict[int, Figures]] = {x.epoch: {} for x in own}
    if own and min(sent) <= own[-1].last:
        there = [
            *session.execute(_STORED_FIGURES, {"lane": batch.lane, "source": batch.source, "n": list(sent)}).mappings(),
            *(r for r in unwritten if (r["lane_id"], r["source"]) == (batch.lane, batch.source) and r["n"] in sent),
        ]
        for row in there:
            if row["epoch"] in stored:
                stored[row["epoch"]].setdefault(row["n"], tuple(row[name] for name in FIGURES))
    figures = {n: tuple(f[name] for name in FIGURES) for n, f in sent.items()}
    source = start_of(own, [Pushed(r.n, r.clock_s) for r in batch.rows], figures, stored)
    if source is not None:
        return source, False
    if len(starts) >= MOST_STARTS or (not starts and _sources(session, batch.lane) >= MOST_SOURCES):
        raise CannotRead(
            f"{batch.source} has started too often, or too many sources send to this lane",
            f"at most {MOST_SOURCES} sources, and {MOST_STARTS} starts of each", file="source",
        )  # fmt: skip
    return Source(batch.source, max((x.epoch for x in starts), default=-1) + 1, batch.boot), bool(starts)


def _sources(session: Session, lane: uuid.UUID) -> int:
    """Number of sources that send to a lane."""
    counted = select(func.count(b.LaneSource.name.distinct())).where(b.LaneSource.lane_id == lane)
    return session.scalar(counted) or 0


def _figures(row: Row) -> dict[str, Any]:
    watts = row.watts
    if watts is None and row.volts is not None and row.amps is not None:
        watts = row.volts * row.amps
    return {
        "volts": row.volts, "amps": row.amps, "watts": watts, "celsius": row.celsius, "position": row.position,
        "percent": row.percent, "point": row.point, "humidity": row.humidity, "charging": row.charging,
    }  # fmt: skip


def _insert(session: Session, rows: list[dict[str, Any]]) -> set[tuple[uuid.UUID, str, int, int]]:
    """Insert readings, those that are there already left out; the keys of the new ones."""
    if not rows:
        return set()
    names = (
        "lane_id", "source", "epoch", "n", "t_s", "volts", "amps", "watts", "celsius", "position", "percent", "point",
        "humidity", "charging", "tick",
    )  # fmt: skip
    types = (
        "uuid", "text", "int", "bigint", *("float8",) * 5, "text", "float8", "text", "float8", "bool", "bigint",
    )  # fmt: skip
    columns = ", ".join(f"CAST(:{n} AS {t}[])" for n, t in zip(names, types, strict=True))
    statement = text(
        f"INSERT INTO lane_readings ({', '.join(names)}) SELECT * FROM unnest({columns})"
        " ON CONFLICT DO NOTHING RETURNING lane_id, source, epoch, n"
    )
    result = session.execute(statement, {name: [row[name] for row in rows] for name in names})
    return {(r.lane_id, r.source, r.epoch, r.n) for r in result}


def _starts(session: Session, batches: Sequence[Batch]) -> dict[tuple[uuid.UUID, str], list[Source]]:
    """State of every start of the sources, the oldest first; locked."""
    wanted = {(batch.lane, batch.source) for batch in batches}
    starts: dict[tuple[uuid.UUID, str], list[Source]] = {}
    asked = {"lanes": list({lane for lane, _ in wanted}), "names": list({name for _, name in wanted})}
    for r in session.execute(_LOCKED_STARTS, asked):
        if (r.lane_id, r.name) in wanted:
            source = Source(r.name, r.epoch, r.boot, r.last, r.newest_s, r.offset_s)
            starts.setdefault((r.lane_id, r.name), []).append(source)
    return starts


def _keep_starts(session: Session, changed: dict[tuple[uuid.UUID, str, int], Source]) -> None:
    rows = [(lane, *astuple(source)) for (lane, *_), source in sorted(changed.items(), key=lambda k: str(k[0]))]
    if rows:
        columns = ("lane_id", "name", "epoch", "boot", "last", "newest_s", "offset_s")
        session.execute(_KEPT_STARTS, dict(zip(columns, map(list, zip(*rows, strict=True)), strict=True)))


def _odd(batch: Batch, start: int, began: bool, jumped_s: float, refused: int, tick: int) -> list[dict[str, Any]]:
    """Entries of the log for what was odd about a source: of a kind at most one a minute."""
    remarks = []
    if began:
        remarks.append(("start", f"{batch.source} started over: its numbers count from the start again"))
    if refused:
        remarks.append(("time", f"{batch.source} sends readings from a day or more before the lane opened: refused"))
    if jumped_s:
        jump = f"{'back' if jumped_s > 0 else 'ahead'} by {abs(jumped_s):.0f} s"
        words = f"the clock of {batch.source} jumped {jump}: its readings are put in time again"
        remarks.append((f"jump {batch.arrived_s // ONCE_IN_S:.0f}", words))
    now = dt.datetime.now(dt.UTC)
    return [
        {"id": uuid.uuid5(batch.lane, f"{batch.source}\n{start}\n{what}"), "lane_id": batch.lane,
         "t_s": batch.arrived_s, "at": now, "kind": "source", "text": words, "tick": tick, "unit": "", "by": "",
         "corrected_by": "", "undone_by": ""}
        for what, words in remarks
    ]  # fmt: skip
