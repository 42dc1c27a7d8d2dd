"""Tables of the bench: lanes, their readings as they arrived, their log, and a count that every change raises."""

import datetime as dt
import uuid
from typing import Any

from sqlalchemy import BigInteger, DateTime, Float, ForeignKey, Index, Text, func, text
from sqlalchemy.dialects.postgresql import JSONB, UUID
from sqlalchemy.orm import Mapped, mapped_column

from ..documents.case import Case
from ..documents.expectation import Expectation
from .kept import Kept, KeptCard, KeptSteps
from .models import Base, Id, Moment, own_id


def of_lane(**more: Any) -> Any:
    return mapped_column(UUID(as_uuid=True), ForeignKey("lanes.id", ondelete="CASCADE"), **more)


class Bench(Base):
    """The one row that counts changes of the bench: whoever changes a lane holds it until the change is committed.

    So the counts are committed in their own order, and "all that came after n" misses nothing.
    """

    __tablename__ = "bench"

    id: Mapped[int] = mapped_column(primary_key=True)
    tick: Mapped[int] = mapped_column(BigInteger, default=0)


class Lane(Base):
    """A run while it is made: what it will state, its instruments, and how far it is.

    `state` is setting, running or closed. Times of a lane [s] count from `opened_at`, `speed` times as fast as the
    clock on the wall (1 but for stand-ins). `kind` (`core.bench.LaneKind`) and `pack` say what is tested, and which
    pack or phone gives. `chain` is what was expected of its chain; `setup` what a person said of the steps of setting
    it; `token` lets a phone in the hand, or what pushes readings, reach this lane alone.
    """

    __tablename__ = "lanes"
    __table_args__ = (
        Index("uq_lane_name", "name", unique=True, postgresql_where=text("state <> 'closed'")),
        Index("ix_lanes_tick", "tick"),
    )

    id: Id = own_id()
    name: Mapped[str] = mapped_column(Text)
    state: Mapped[str] = mapped_column(Text, default="setting")
    label: Mapped[str] = mapped_column(Text)
    factors: Mapped[dict[str, str]] = mapped_column(JSONB, default=dict)
    case_json: Mapped[dict[str, Any]] = mapped_column("case", JSONB, default=dict)
    card_json: Mapped[dict[str, Any]] = mapped_column("card", JSONB)
    chain_json: Mapped[dict[str, Any]] = mapped_column("chain", JSONB, default=dict)
    setup_json: Mapped[dict[str, Any]] = mapped_column("setup", JSONB, default=dict)
    meter: Mapped[str] = mapped_column(Text, default="")
    probe: Mapped[str] = mapped_column(Text, default="")
    meter_address: Mapped[str] = mapped_column(Text, default="")
    probe_address: Mapped[str] = mapped_column(Text, default="")
    socket: Mapped[str] = mapped_column(Text, default="", server_default="")
    socket_address: Mapped[str] = mapped_column(Text, default="", server_default="")
    room: Mapped[str] = mapped_column(Text, default="", server_default="")
    room_address: Mapped[str] = mapped_column(Text, default="", server_default="")
    speed: Mapped[float] = mapped_column(Float, default=1.0)
    simulated: Mapped[bool] = mapped_column(default=False)
    survey: Mapped[uuid.UUID | None] = mapped_column(UUID(as_uuid=True))
    kind: Mapped[str] = mapped_column(Text, default="charge")
    pack: Mapped[str] = mapped_column(Text, default="")
    pack_test_id: Mapped[uuid.UUID | None] = mapped_column(UUID(as_uuid=True))
    token: Mapped[str] = mapped_column(Text, unique=True)
    zone: Mapped[str] = mapped_column(Text, default="UTC")
    slot_id: Mapped[uuid.UUID | None] = mapped_column(UUID(as_uuid=True), ForeignKey("slots.id", ondelete="SET NULL"))
    run_id: Mapped[uuid.UUID | None] = mapped_column(UUID(as_uuid=True), ForeignKey("runs.id", ondelete="SET NULL"))
    opened_at: Moment = mapped_column(DateTime(timezone=True))
    placed_s: Mapped[float | None] = mapped_column(Float)
    closed_at: Mapped[dt.datetime | None] = mapped_column(DateTime(timezone=True))
    outcome: Mapped[str] = mapped_column(Text, default="")
    reason: Mapped[str] = mapped_column(Text, default="")
    created_by: Mapped[str] = mapped_column(Text, default="")
    tick: Mapped[int] = mapped_column(BigInteger, default=0)

    case = Kept("case_json", Case)
    card = KeptCard()
    chain = Kept("chain_json", Expectation)
    setup = KeptSteps()


class LaneSource(Base):
    """State of each start of a source of readings on a lane (`core.sequence.Source`)."""

    __tablename__ = "lane_sources"

    lane_id: Id = of_lane(primary_key=True)
    name: Mapped[str] = mapped_column(Text, primary_key=True)
    epoch: Mapped[int] = mapped_column(primary_key=True, default=0)
    boot: Mapped[str] = mapped_column(Text, default="")
    last: Mapped[int] = mapped_column(BigInteger, default=-1)
    newest_s: Mapped[float | None] = mapped_column(Float)
    offset_s: Mapped[float | None] = mapped_column(Float)


class LaneReading(Base):
    """One reading as it arrived; its source and number make it unique, however often it is sent.

    `point` says where power was metered (`core.log.POINTS`; empty: by the inline meter). No foreign key, as with the
    samples of runs. Once the lane is closed they stand in its run, and go from here.
    """

    __tablename__ = "lane_readings"
    __table_args__ = (Index("ix_lane_readings_tick", "tick"), Index("ix_lane_readings_time", "lane_id", "t_s"))

    lane_id: Id = mapped_column(UUID(as_uuid=True), primary_key=True)
    source: Mapped[str] = mapped_column(Text, primary_key=True)
    epoch: Mapped[int] = mapped_column(primary_key=True)
    n: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    t_s: Mapped[float] = mapped_column(Float)
    volts: Mapped[float | None] = mapped_column(Float)
    amps: Mapped[float | None] = mapped_column(Float)
    watts: Mapped[float | None] = mapped_column(Float)
    celsius: Mapped[float | None] = mapped_column(Float)
    position: Mapped[str] = mapped_column(Text, default="")
    percent: Mapped[float | None] = mapped_column(Float)
    point: Mapped[str] = mapped_column(Text, default="", server_default="")
    humidity: Mapped[float | None] = mapped_column(Float)
    charging: Mapped[bool | None]
    tick: Mapped[int] = mapped_column(BigInteger)


class LaneEntry(Base):
    """One line of a lane's log: what a person entered, or what the tool saw or did.

    `kind` and `value`, `unit`, `text` are those of `core.bench.EntryItem`, or alarm, alarm over, gap, step, told;
    `advice` is what to do at an alarm; `first` is the value before the first correction; what was undone stays.
    """

    __tablename__ = "lane_entries"
    __table_args__ = (Index("ix_lane_entries_tick", "tick"), Index("ix_lane_entries_lane", "lane_id", "t_s"))

    id: Id = own_id()
    lane_id: Id = of_lane()
    t_s: Mapped[float] = mapped_column(Float)
    at: Moment = mapped_column(DateTime(timezone=True))
    kind: Mapped[str] = mapped_column(Text)
    value: Mapped[float | None] = mapped_column(Float)
    unit: Mapped[str] = mapped_column(Text, default="")
    text: Mapped[str] = mapped_column(Text, default="")
    advice: Mapped[str] = mapped_column(Text, default="", server_default="")
    by: Mapped[str] = mapped_column(Text, default="")
    first: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    corrected_by: Mapped[str] = mapped_column(Text, default="")
    corrected_at: Mapped[dt.datetime | None] = mapped_column(DateTime(timezone=True))
    undone_by: Mapped[str] = mapped_column(Text, default="")
    undone_at: Mapped[dt.datetime | None] = mapped_column(DateTime(timezone=True))
    tick: Mapped[int] = mapped_column(BigInteger)


class MeterCheck(Base):
    """A check of a meter: against which, by how much it deviates, with what uncertainty (k = 2), and when."""

    __tablename__ = "meter_checks"

    id: Id = own_id()
    meter: Mapped[str] = mapped_column(Text, index=True)
    way: Mapped[str] = mapped_column(Text)
    against: Mapped[str] = mapped_column(Text)
    deviation_percent: Mapped[float] = mapped_column(Float)
    expanded_percent: Mapped[float] = mapped_column(Float)
    readings: Mapped[list[Any]] = mapped_column(JSONB, default=list)
    by: Mapped[str] = mapped_column(Text, default="")
    at: Moment = mapped_column(DateTime(timezone=True))
    deleted_at: Mapped[dt.datetime | None] = mapped_column(DateTime(timezone=True))


class Person(Base):
    """Somebody who may sign in over the network: may change things (`role` change), or look (look)."""

    __tablename__ = "people"
    __table_args__ = (Index("uq_people_name", text("lower(name)"), unique=True),)

    id: Id = own_id()
    name: Mapped[str] = mapped_column(Text)
    role: Mapped[str] = mapped_column(Text)
    digest: Mapped[str] = mapped_column(Text)
    created_at: Moment = mapped_column(DateTime(timezone=True), server_default=func.now())


class SignIn(Base):
    """A session: a digest of what the browser holds, whose it is, since when, until when, and from where."""

    __tablename__ = "sign_ins"

    digest: Mapped[str] = mapped_column(Text, primary_key=True)
    id: Id = mapped_column(UUID(as_uuid=True), unique=True)
    person_id: Id = mapped_column(UUID(as_uuid=True), ForeignKey("people.id", ondelete="CASCADE"))
    at: Moment = mapped_column(DateTime(timezone=True))
    until: Moment = mapped_column(DateTime(timezone=True))
    address: Mapped[str] = mapped_column(Text)
    agent: Mapped[str] = mapped_column(Text)


class Tried(Base):
    """Passphrases that were tried from an address, and when the last was."""

    __tablename__ = "tries"

    address: Mapped[str] = mapped_column(Text, primary_key=True)
    count: Mapped[int]
    last_at: Moment = mapped_column(DateTime(timezone=True))


class AuditLine(Base):
    """Line of the audit log: who did what to what, when, and from which address; `route` is the method and address of
    the API.
    """

    __tablename__ = "audit"

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=True)
    at: Moment = mapped_column(DateTime(timezone=True))
    who: Mapped[str] = mapped_column(Text)
    address: Mapped[str] = mapped_column(Text)
    what: Mapped[str] = mapped_column(Text)
    about: Mapped[str] = mapped_column(Text)
    route: Mapped[str] = mapped_column(Text)
