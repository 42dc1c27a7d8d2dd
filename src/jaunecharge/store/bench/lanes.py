"""Lanes and what arrives for them: readings settled and stored once, entries, corrections, and what has changed since.

Whatever changes a lane raises the bench's count within its transaction (`raise_tick`) and tells it to who listens.
"""

import datetime as dt
import secrets
import uuid
from collections.abc import Iterable, Sequence
from dataclasses import astuple, dataclass, field
from typing import Any

from sqlalchemy import delete, func, select, text, update
from sqlalchemy.dialects import postgresql
from sqlalchemy.orm import Session

from ...core.bench import Figures, Pushed, Source, lane_name, settle, start_of
from ...core.errors import CannotRead
from .. import bench_models as b
from ..errors import LaneOver, NotThere

CHANNEL = "bench"
OPEN = ("setting", "running")
MOST_LANES = 200
MOST_SOURCES, MOST_STARTS = 100, 500
TOKEN_BYTES = 18
ONCE_IN_S = 60.0
"""Jumps of a source's clock are logged no more often."""


@dataclass(frozen=True)
class NewLane:
    """A lane to be opened."""

    label: str
    factors: dict[str, str]
    card: dict[str, Any]
    case: dict[str, Any] = field(default_factory=dict)
    chain: dict[str, Any] = field(default_factory=dict)
    meter: str = ""
    probe: str = ""
    meter_address: str = ""
    probe_address: str = ""
    speed: float = 1.0
    simulated: bool = False
    survey: uuid.UUID | None = None
    slot_id: uuid.UUID | None = None
    zone: str = "UTC"
    by: str = ""
    name: str = ""


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


@dataclass(frozen=True)
class Batch:
    """Readings of one source for one lane, and when they arrived on the lane's clock [s]."""

    lane: uuid.UUID
    source: str
    arrived_s: float
    rows: tuple[Row, ...]
    speed: float = 1.0
    boot: str = ""


@dataclass(frozen=True)
class Stored:
    """What became of a batch: how many were new, and the count of the change that holds them.

    refused : how many have a time that cannot be; over : the lane had ended, and nothing was stored.
    """

    new: int
    duplicates: int
    tick: int
    refused: int = 0
    over: bool = False


@dataclass(frozen=True)
class Changes:
    """What has changed on the bench: lanes, log and readings, and the count up to which that is so."""

    tick: int
    lanes: tuple[b.Lane, ...]
    entries: tuple[b.LaneEntry, ...]
    readings: tuple[b.LaneReading, ...]


def raise_tick(session: Session) -> int:
    """The next count of the bench, held until the transaction ends; who listens is told once it has."""
    tick = session.execute(update(b.Bench).values(tick=b.Bench.tick + 1).returning(b.Bench.tick)).scalar_one()
    session.execute(select(func.pg_notify(CHANNEL, str(tick))))
    return int(tick)


def present_tick(session: Session) -> int:
    """The count of the latest change."""
    return int(session.scalar(select(b.Bench.tick)) or 0)


def open_lane(session: Session, new: NewLane, now: dt.datetime) -> b.Lane:
    """Open a lane; it is given the first free name.

    Raises
    ------
    CannotRead
        If there are too many, or its name is taken.
    """
    tick = raise_tick(session)
    taken = frozenset(session.scalars(select(b.Lane.name).where(b.Lane.state.in_(OPEN))))
    if len(taken) >= MOST_LANES:
        raise CannotRead(f"{len(taken)} lanes are open", "end some of them first", file="lane")
    if new.name and new.name in taken:
        raise CannotRead(f"lane {new.name} is open already", "leave its name out", file="lane")
    lane = b.Lane(
        id=uuid.uuid4(), name=new.name or lane_name(taken), state="setting", label=new.label, factors=new.factors,
        case=new.case, card=new.card, chain=new.chain, setup={}, meter=new.meter, probe=new.probe,
        meter_address=new.meter_address, probe_address=new.probe_address, speed=new.speed, simulated=new.simulated,
        survey=new.survey, token=secrets.token_urlsafe(TOKEN_BYTES), zone=new.zone, slot_id=new.slot_id, opened_at=now,
        outcome="", reason="", created_by=new.by, tick=tick,
    )  # fmt: skip
    session.add(lane)
    session.flush()
    return lane


def get_lane(session: Session, lane_id: uuid.UUID) -> b.Lane:
    """A lane by its id.

    Raises
    ------
    NotThere
    """
    lane = session.get(b.Lane, lane_id)
    if lane is None:
        raise NotThere(f"there is no lane {lane_id}")
    return lane


def lane_for_change(session: Session, lane_id: uuid.UUID) -> b.Lane:
    """An open lane, locked for change.

    Raises
    ------
    NotThere, LaneOver
    """
    lane = session.scalar(select(b.Lane).where(b.Lane.id == lane_id).with_for_update())
    if lane is None:
        raise NotThere(f"there is no lane {lane_id}")
    if lane.state == "closed":
        raise LaneOver(f"lane {lane.name} has ended")
    return lane


def lane_of_token(session: Session, token: str) -> b.Lane | None:
    """The open lane that a token reaches; None where it reaches none (any more)."""
    return session.scalar(select(b.Lane).where(b.Lane.token == token, b.Lane.state.in_(OPEN)))


def open_lanes(session: Session) -> list[b.Lane]:
    """All open lanes, the longest open first."""
    return list(session.scalars(select(b.Lane).where(b.Lane.state.in_(OPEN)).order_by(b.Lane.opened_at, b.Lane.name)))


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
    kept: list[tuple[Batch, list[dict[str, Any]], int]] = []
    said: list[dict[str, Any]] = []
    changed: dict[tuple[uuid.UUID, str, int], Source] = {}
    for batch in batches:
        rows: list[dict[str, Any]] = []
        refused = 0
        if states[batch.lane] in OPEN and batch.rows:
            starts = known.setdefault((batch.lane, batch.source), [])
            sent = {r.n: figures for r in batch.rows if (figures := _figures(r))}
            start, began = _start(session, batch, starts, sent, [row for _, rows, _ in kept for row in rows])
            found = settle(start, [Pushed(r.n, r.clock_s) for r in batch.rows], batch.arrived_s, batch.speed)
            starts[:] = sorted([*(x for x in starts if x.epoch != start.epoch), found.source], key=lambda x: x.epoch)
            changed[batch.lane, batch.source, start.epoch] = found.source
            key = {"lane_id": batch.lane, "source": batch.source, "epoch": start.epoch, "tick": tick}
            rows = [
                key | {"n": row.n, "t_s": at} | sent[row.n]
                for row, at in zip(batch.rows, found.at_s, strict=True) if at is not None
            ]  # fmt: skip
            refused = len(batch.rows) - len(rows)
            said += _odd(batch, start.epoch, began, found.jumped_s, refused, tick)
        kept.append((batch, rows, refused))
    _keep_starts(session, changed)
    fresh = _insert(session, [row for _, rows, _ in kept for row in rows])
    if said:
        session.execute(postgresql.insert(b.LaneEntry).on_conflict_do_nothing(), said)
    stored = []
    for batch, rows, refused in kept:
        keys = {(r["lane_id"], r["source"], r["epoch"], r["n"]) for r in rows}
        new = len(keys & fresh)
        fresh -= keys
        over = states[batch.lane] not in OPEN
        stored.append(Stored(new, 0 if over else len(batch.rows) - new - refused, tick, refused, over))
    return stored


_Row = dict[str, Any]
FIGURES = ("volts", "amps", "watts", "celsius", "position", "percent")


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
    found = start_of(own, [Pushed(r.n, r.clock_s) for r in batch.rows], figures, stored)
    if found is not None:
        return found, False
    if len(starts) >= MOST_STARTS or (not starts and _sources(session, batch.lane) >= MOST_SOURCES):
        raise CannotRead(
            f"{batch.source} has started too often, or too many sources send to this lane",
            f"at most {MOST_SOURCES} sources, and {MOST_STARTS} starts of each", file="source",
        )  # fmt: skip
    return Source(batch.source, max((x.epoch for x in starts), default=-1) + 1, batch.boot), bool(starts)


def _sources(session: Session, lane: uuid.UUID) -> int:
    """How many sources send to a lane."""
    counted = select(func.count(b.LaneSource.name.distinct())).where(b.LaneSource.lane_id == lane)
    return session.scalar(counted) or 0


def _figures(row: Row) -> dict[str, Any]:
    watts = row.watts
    if watts is None and row.volts is not None and row.amps is not None:
        watts = row.volts * row.amps
    return {
        "volts": row.volts, "amps": row.amps, "watts": watts, "celsius": row.celsius, "position": row.position,
        "percent": row.percent,
    }  # fmt: skip


def _insert(session: Session, rows: list[dict[str, Any]]) -> set[tuple[uuid.UUID, str, int, int]]:
    """Insert readings, those that are there already left out; the keys of the new ones."""
    if not rows:
        return set()
    names = (
        "lane_id", "source", "epoch", "n", "t_s", "volts", "amps", "watts", "celsius", "position", "percent", "tick",
    )  # fmt: skip
    types = ("uuid", "text", "int", "bigint", *("float8",) * 5, "text", "float8", "bigint")
    columns = ", ".join(f"CAST(:{n} AS {t}[])" for n, t in zip(names, types, strict=True))
    statement = text(
        f"INSERT INTO lane_readings ({', '.join(names)}) SELECT * FROM unnest({columns})"
        " ON CONFLICT DO NOTHING RETURNING lane_id, source, epoch, n"
    )
    found = session.execute(statement, {name: [row[name] for row in rows] for name in names})
    return {(r.lane_id, r.source, r.epoch, r.n) for r in found}


def _starts(session: Session, batches: Sequence[Batch]) -> dict[tuple[uuid.UUID, str], list[Source]]:
    """What is known of every start of the sources, the oldest first; locked."""
    wanted = {(batch.lane, batch.source) for batch in batches}
    found: dict[tuple[uuid.UUID, str], list[Source]] = {}
    asked = {"lanes": list({lane for lane, _ in wanted}), "names": list({name for _, name in wanted})}
    for r in session.execute(_LOCKED_STARTS, asked):
        if (r.lane_id, r.name) in wanted:
            kept = Source(r.name, r.epoch, r.boot, r.last, r.newest_s, r.offset_s)
            found.setdefault((r.lane_id, r.name), []).append(kept)
    return found


def _keep_starts(session: Session, changed: dict[tuple[uuid.UUID, str, int], Source]) -> None:
    rows = [(lane, *astuple(source)) for (lane, *_), source in sorted(changed.items(), key=lambda k: str(k[0]))]
    if rows:
        columns = ("lane_id", "name", "epoch", "boot", "last", "newest_s", "offset_s")
        session.execute(_KEPT_STARTS, dict(zip(columns, map(list, zip(*rows, strict=True)), strict=True)))


# Asked many times a second: plain statements, as an ORM would take longer to write them than the database to do them.
_LOCKED_STARTS = text(
    "SELECT lane_id, name, epoch, boot, last, newest_s, offset_s FROM lane_sources"
    " WHERE lane_id = ANY(CAST(:lanes AS uuid[])) AND name = ANY(CAST(:names AS text[]))"
    " ORDER BY lane_id, name, epoch FOR UPDATE"
)
_KEPT_STARTS = text(
    "INSERT INTO lane_sources (lane_id, name, epoch, boot, last, newest_s, offset_s) SELECT * FROM unnest("
    "CAST(:lane_id AS uuid[]), CAST(:name AS text[]), CAST(:epoch AS int[]), CAST(:boot AS text[]),"
    " CAST(:last AS bigint[]), CAST(:newest_s AS float8[]), CAST(:offset_s AS float8[]))"
    " ON CONFLICT (lane_id, name, epoch) DO UPDATE SET last = excluded.last, newest_s = excluded.newest_s,"
    " offset_s = excluded.offset_s"
)
_STORED_FIGURES = text(
    f"SELECT epoch, n, {', '.join(FIGURES)} FROM lane_readings"
    " WHERE lane_id = :lane AND source = :source AND n = ANY(CAST(:n AS bigint[]))"
)


def _odd(batch: Batch, start: int, began: bool, jumped_s: float, refused: int, tick: int) -> list[dict[str, Any]]:
    """Entries of the log for what was odd about a source: of a kind at most one a minute."""
    said = []
    if began:
        said.append(("start", f"{batch.source} started over: its numbers count from the start again"))
    if refused:
        said.append(("time", f"{batch.source} sends readings from a day or more before the lane opened: refused"))
    if jumped_s:
        jump = f"{'back' if jumped_s > 0 else 'ahead'} by {abs(jumped_s):.0f} s"
        words = f"the clock of {batch.source} jumped {jump}: its readings are put in time again"
        said.append((f"jump {batch.arrived_s // ONCE_IN_S:.0f}", words))
    now = dt.datetime.now(dt.UTC)
    return [
        {"id": uuid.uuid5(batch.lane, f"{batch.source}\n{start}\n{what}"), "lane_id": batch.lane,
         "t_s": batch.arrived_s, "at": now, "kind": "source", "text": words, "tick": tick, "unit": "", "by": "",
         "corrected_by": "", "undone_by": ""}
        for what, words in said
    ]  # fmt: skip


@dataclass(frozen=True)
class NewEntry:
    """An entry for a lane's log; its id comes from who enters it: it is logged once, however often it is sent."""

    kind: str
    t_s: float
    value: float | None = None
    unit: str = ""
    text: str = ""
    by: str = ""
    id: uuid.UUID = field(default_factory=uuid.uuid4)


def add_entries(session: Session, lane: b.Lane, new: Iterable[NewEntry], now: dt.datetime) -> list[b.LaneEntry]:
    """Log entries to a lane; those that are logged already are left out."""
    tick = raise_tick(session)
    lane.tick = tick
    wanted = list(new)
    there = set(session.scalars(select(b.LaneEntry.id).where(b.LaneEntry.id.in_([e.id for e in wanted]))))
    added = [
        b.LaneEntry(
            id=e.id, lane_id=lane.id, t_s=e.t_s, at=now, kind=e.kind, value=e.value, unit=e.unit, text=e.text, by=e.by,
            corrected_by="", undone_by="", tick=tick,
        )
        for e in wanted if e.id not in there
    ]  # fmt: skip
    session.add_all(added)
    session.flush()
    return added


def entries_of(session: Session, lane_id: uuid.UUID) -> list[b.LaneEntry]:
    """The log of a lane, in order of time."""
    query = select(b.LaneEntry).where(b.LaneEntry.lane_id == lane_id).order_by(b.LaneEntry.t_s, b.LaneEntry.tick)
    return list(session.scalars(query))


def changes_since(session: Session, tick: int) -> Changes:
    """What has changed after a count."""
    now = present_tick(session)
    between = lambda column: (column > tick) & (column <= now)  # noqa: E731
    return Changes(
        now,
        tuple(session.scalars(select(b.Lane).where(between(b.Lane.tick)))),
        tuple(session.scalars(select(b.LaneEntry).where(between(b.LaneEntry.tick)).order_by(b.LaneEntry.tick))),
        tuple(
            session.execute(
                select(*b.LaneReading.__table__.columns).where(between(b.LaneReading.tick)).order_by(b.LaneReading.t_s)
            )  # type: ignore[arg-type]
        ),
    )


def readings_of(session: Session, lane_id: uuid.UUID, after_s: float = float("-inf")) -> list[Any]:
    """Readings of a lane in order of time, from a moment on."""
    r = b.LaneReading
    query = select(r.t_s, r.volts, r.amps, r.watts, r.celsius, r.position, r.percent, r.source, r.tick)
    return list(session.execute(query.where(r.lane_id == lane_id, r.t_s > after_s).order_by(r.t_s)))


def means_of(session: Session, lane_id: uuid.UUID) -> list[Any]:
    """Means of a lane's readings over each of its seconds, in order of time: enough to show it."""
    r = b.LaneReading
    second = func.floor(r.t_s)
    query = (
        select(
            func.max(r.t_s).label("t_s"), func.avg(r.volts).label("volts"), func.avg(r.amps).label("amps"),
            func.avg(r.watts).label("watts"), func.avg(r.celsius).label("celsius"), r.position,
            func.max(r.percent).label("percent"), func.max(r.tick).label("tick"),
        )
        .where(r.lane_id == lane_id)
        .group_by(second, r.position)
        .order_by(second)
    )  # fmt: skip
    return list(session.execute(query))


def first_metered_s(session: Session, lane_id: uuid.UUID) -> float | None:
    """When the meter of a lane was first read, on the lane's clock [s]; None where it never was."""
    r = b.LaneReading
    return session.scalar(select(func.min(r.t_s)).where(r.lane_id == lane_id, r.watts.is_not(None)))


def forget_readings(session: Session, lane_id: uuid.UUID) -> None:
    """Let the readings of a lane go, once its run holds them."""
    session.execute(delete(b.LaneReading).where(b.LaneReading.lane_id == lane_id))
