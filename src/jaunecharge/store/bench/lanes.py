"""Lanes and what arrives for them: readings settled and stored once, entries, corrections, and what has changed since.

Whatever changes a lane raises the bench's count within its transaction (`raise_tick`) and tells it to who listens.
"""

import datetime as dt
import secrets
import uuid
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Any

from sqlalchemy import delete, func, select, text, update
from sqlalchemy.orm import Session

from ...core.bench import LaneKind, lane_name
from ...core.errors import CannotRead
from ...core.plan import Card
from ...documents.case import Case
from ...documents.expectation import Expectation
from .. import bench_models as b
from ..errors import LaneOver, NotThere

CHANNEL = "bench"
OPEN = ("setting", "running")
MOST_LANES = 200
TOKEN_BYTES = 18
ONCE_IN_S = 60.0
"""Jumps of a source's clock are logged no more often."""


def new_token() -> str:
    """A key of a lane that nobody can guess."""
    return secrets.token_urlsafe(TOKEN_BYTES)


@dataclass(frozen=True)
class NewLane:
    """A lane to be opened."""

    label: str
    factors: dict[str, str]
    card: Card
    case: Case = field(default_factory=Case)
    chain: Expectation = field(default_factory=Expectation)
    meter: str = ""
    probe: str = ""
    socket: str = ""
    room: str = ""
    meter_address: str = ""
    probe_address: str = ""
    socket_address: str = ""
    room_address: str = ""
    speed: float = 1.0
    simulated: bool = False
    survey: uuid.UUID | None = None
    slot_id: uuid.UUID | None = None
    zone: str = "UTC"
    by: str = ""
    name: str = ""
    kind: LaneKind = "charge"
    pack: str = ""


@dataclass(frozen=True)
class Changes:
    """Changes on the bench: lanes, log and readings, and the count up to which that is so."""

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
        case=new.case, card=new.card, chain=new.chain, setup={}, speed=new.speed, simulated=new.simulated,
        meter=new.meter, probe=new.probe, socket=new.socket, room=new.room, meter_address=new.meter_address,
        probe_address=new.probe_address, socket_address=new.socket_address, room_address=new.room_address,
        survey=new.survey, token=new_token(), zone=new.zone, slot_id=new.slot_id, opened_at=now,
        outcome="", reason="", created_by=new.by, tick=tick, kind=new.kind, pack=new.pack,
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


_Row = dict[str, Any]
FIGURES = ("volts", "amps", "watts", "celsius", "position", "percent", "point", "humidity", "charging")


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


@dataclass(frozen=True)
class NewEntry:
    """An entry for a lane's log; its id comes from who enters it: it is logged once, however often it is sent."""

    kind: str
    t_s: float
    value: float | None = None
    unit: str = ""
    text: str = ""
    by: str = ""
    advice: str = ""
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
            advice=e.advice, corrected_by="", undone_by="", tick=tick,
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
    """Changes after a count."""
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
    query = select(
        r.t_s, r.volts, r.amps, r.watts, r.celsius, r.position, r.percent, r.point, r.humidity, r.charging, r.source,
        r.tick,
    )  # fmt: skip
    return list(session.execute(query.where(r.lane_id == lane_id, r.t_s > after_s).order_by(r.t_s)))


def means_of(session: Session, lane_id: uuid.UUID) -> list[Any]:
    """Means of a lane's readings over each of its seconds, in order of time: enough to show it."""
    r = b.LaneReading
    second = func.floor(r.t_s)
    query = (
        select(
            func.max(r.t_s).label("t_s"), func.avg(r.volts).label("volts"), func.avg(r.amps).label("amps"),
            func.avg(r.watts).label("watts"), func.avg(r.celsius).label("celsius"), r.position,
            func.max(r.percent).label("percent"), r.point, func.avg(r.humidity).label("humidity"),
            func.bool_and(r.charging).label("charging"), func.max(r.tick).label("tick"),
        )
        .where(r.lane_id == lane_id)
        .group_by(second, r.position, r.point)
        .order_by(second)
    )  # fmt: skip
    return list(session.execute(query))


def first_metered_s(session: Session, lane_id: uuid.UUID) -> float | None:
    """When the meter of a lane was first read, on the lane's clock [s]; None where it never was."""
    r = b.LaneReading
    return session.scalar(select(func.min(r.t_s)).where(r.lane_id == lane_id, r.watts.is_not(None), r.point == ""))


def forget_readings(session: Session, lane_id: uuid.UUID) -> None:
    """Let the readings of a lane go, once its run holds them."""
    session.execute(delete(b.LaneReading).where(b.LaneReading.lane_id == lane_id))
