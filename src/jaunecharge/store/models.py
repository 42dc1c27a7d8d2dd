"""Tables of the store: runs with their samples, check-ins, temperatures, notes, pictures, and the files they came
from.
"""

import datetime as dt
import uuid
from typing import Any

from sqlalchemy import BigInteger, DateTime, Float, ForeignKey, Index, LargeBinary, Text, func, text
from sqlalchemy.dialects.postgresql import JSONB, UUID
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship

from ..documents.bench_record import BenchRecord
from ..documents.case import Case
from ..documents.choice import PlanChoice, PlanWishes
from ..documents.decision import DecisionDocument
from ..documents.expected_run import ExpectedRun
from ..documents.run_summary import RunSummary
from .kept import Kept, KeptCard, KeptList, MaybeKept, MaybeKeptCard


class Base(DeclarativeBase):
    """All tables."""


Id = Mapped[uuid.UUID]
Moment = Mapped[dt.datetime]


def own_id() -> Any:
    return mapped_column(UUID(as_uuid=True), primary_key=True, default=uuid.uuid4)


def of_run(**more: Any) -> Any:
    return mapped_column(UUID(as_uuid=True), ForeignKey("runs.id", ondelete="CASCADE"), **more)


def made_at() -> Any:
    return mapped_column(DateTime(timezone=True), server_default=func.clock_timestamp())


class Kit(Base):
    """A piece on the shelf: one phone with its own serial and battery health, one charger, one cable.

    `facts` are those of its kind (`core.kit`); `fit` is what was fitted to a measured run of a phone; `revision` rises
    with every change. Retired kit stays, so that its label is never given twice.
    """

    __tablename__ = "kit"
    __table_args__ = (Index("uq_kit_label", func.lower(text("label")), unique=True),)

    id: Id = own_id()
    kind: Mapped[str] = mapped_column(Text, index=True)
    label: Mapped[str] = mapped_column(Text)
    facts: Mapped[dict[str, Any]] = mapped_column(JSONB)
    fit: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    revision: Mapped[int] = mapped_column(default=1)
    created_by: Mapped[str] = mapped_column(Text, default="")
    created_at: Moment = made_at()
    retired_at: Mapped[dt.datetime | None] = mapped_column(DateTime(timezone=True))
    retired_by: Mapped[str] = mapped_column(Text, default="")


class MethodCard(Base):
    """A method card of one's own (the ready ones stand in `core.method`); `facts` are those of `core.method.Card`."""

    __tablename__ = "cards"
    __table_args__ = (Index("uq_card_name", func.lower(text("name")), unique=True),)

    id: Id = own_id()
    name: Mapped[str] = mapped_column(Text)
    facts: Mapped[dict[str, Any]] = mapped_column(JSONB)
    revision: Mapped[int] = mapped_column(default=1)
    created_by: Mapped[str] = mapped_column(Text, default="")
    created_at: Moment = made_at()
    retired_at: Mapped[dt.datetime | None] = mapped_column(DateTime(timezone=True))
    retired_by: Mapped[str] = mapped_column(Text, default="")


class Plan(Base):
    """A question, a method, a matrix and wishes, with what they were found to show.

    `card` is the method as it was when it was chosen; `choice` and `wishes` are documents;
    `findings` is what the plan can show and what speaks against it; `schedule` says how good the present one is;
    `changes` lists when it was planned anew, by whom and why; `revision` rises with every change.
    """

    __tablename__ = "plans"

    id: Id = own_id()
    question: Mapped[str] = mapped_column(Text)
    card_json: Mapped[dict[str, Any]] = mapped_column("card", JSONB)
    choice_json: Mapped[dict[str, Any]] = mapped_column("choice", JSONB)
    wishes_json: Mapped[dict[str, Any]] = mapped_column("wishes", JSONB)
    findings: Mapped[dict[str, Any]] = mapped_column(JSONB, default=dict)
    schedule: Mapped[dict[str, Any]] = mapped_column(JSONB, default=dict)
    changes: Mapped[list[dict[str, Any]]] = mapped_column(JSONB, default=list)
    revision: Mapped[int] = mapped_column(default=1)
    created_by: Mapped[str] = mapped_column(Text, default="")
    created_at: Moment = made_at()
    deleted_at: Mapped[dt.datetime | None] = mapped_column(DateTime(timezone=True))
    deleted_by: Mapped[str] = mapped_column(Text, default="")

    card = KeptCard()
    choice = Kept("choice_json", PlanChoice)
    wishes = Kept("wishes_json", PlanWishes)


class Slot(Base):
    """A run of a plan: its cell, when it is planned, and what has happened to it.

    `key` names the cell; `expected` is what was forecast for it; `card` is the method it was begun under; `history`
    holds what it was before each step, so that a step can be undone.
    """

    __tablename__ = "slots"

    id: Id = own_id()
    plan_id: Id = mapped_column(UUID(as_uuid=True), ForeignKey("plans.id", ondelete="CASCADE"), index=True)
    position: Mapped[int] = mapped_column()
    key: Mapped[str] = mapped_column(Text)
    repeat: Mapped[int] = mapped_column()
    closing: Mapped[bool] = mapped_column(default=False)
    phone: Mapped[str] = mapped_column(Text)
    said: Mapped[str] = mapped_column(Text)
    factors: Mapped[dict[str, str]] = mapped_column(JSONB)
    expected_json: Mapped[dict[str, Any]] = mapped_column("expected", JSONB)
    drain_min: Mapped[float] = mapped_column(Float)
    cool_min: Mapped[float] = mapped_column(Float)
    drain_start: Mapped[dt.datetime | None] = mapped_column(DateTime(timezone=True))
    start_at: Mapped[dt.datetime | None] = mapped_column(DateTime(timezone=True))
    end_at: Mapped[dt.datetime | None] = mapped_column(DateTime(timezone=True))
    fill_at: Mapped[dt.datetime | None] = mapped_column(DateTime(timezone=True))
    state: Mapped[str] = mapped_column(Text, default="planned")
    drain_began_at: Mapped[dt.datetime | None] = mapped_column(DateTime(timezone=True))
    drained_at: Mapped[dt.datetime | None] = mapped_column(DateTime(timezone=True))
    began_at: Mapped[dt.datetime | None] = mapped_column(DateTime(timezone=True))
    ended_at: Mapped[dt.datetime | None] = mapped_column(DateTime(timezone=True))
    cool_at: Mapped[dt.datetime | None] = mapped_column(DateTime(timezone=True))
    void_reason: Mapped[str] = mapped_column(Text, default="")
    card_json: Mapped[dict[str, Any] | None] = mapped_column("card", JSONB(none_as_null=True))
    run_id: Mapped[uuid.UUID | None] = mapped_column(
        UUID(as_uuid=True), ForeignKey("runs.id", ondelete="SET NULL"), index=True
    )
    history: Mapped[list[dict[str, Any]]] = mapped_column(JSONB, default=list)

    card = MaybeKeptCard()
    expected = Kept("expected_json", ExpectedRun)


class Run(Base):
    """One phone, one chain, one set of conditions, one log.

    `factors`, the `case` as it was typed, the `kit` that was used and the method `card` are kept as they were then;
    `rehearsal` says what a simulated run was made from; `outcome` how it ended on the bench (complete, stopped early,
    void), and `bench` what its log was there; `decisions` is what readers decided otherwise, in order; `summary` is
    what a list shows of the reading, made by `reader_version`, `placed_s` when its phone was placed by it, and
    `recording` what tells it again when read twice; `step_s` is the median step of its samples; one that is not
    `packed` has its log in rows, as all had once;
    `revision` rises with every change; `deleted_at` is a tombstone. What ends in `_json` is what is kept of a document.
    """

    __tablename__ = "runs"
    __table_args__ = (Index("ix_runs_unpacked", "created_at", postgresql_where=text("NOT packed")),)

    id: Id = own_id()
    label: Mapped[str] = mapped_column(Text)
    factors: Mapped[dict[str, str]] = mapped_column(JSONB, default=dict)
    case_json: Mapped[dict[str, Any]] = mapped_column("conditions", JSONB, default=dict)
    kit: Mapped[dict[str, Any]] = mapped_column(JSONB, default=dict, server_default="{}")
    card_json: Mapped[dict[str, Any] | None] = mapped_column("card", JSONB(none_as_null=True))
    rehearsal: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    outcome: Mapped[str] = mapped_column(Text, default="", server_default="")
    bench_json: Mapped[dict[str, Any] | None] = mapped_column("bench", JSONB(none_as_null=True))
    decisions_json: Mapped[list[dict[str, Any]]] = mapped_column(
        "overrulings", JSONB, default=list, server_default="[]"
    )
    origin: Mapped[str] = mapped_column(Text, default="imported")
    started_at: Mapped[dt.datetime | None] = mapped_column(DateTime(timezone=True))
    zone: Mapped[str] = mapped_column(Text, default="UTC")
    cleaned: Mapped[dict[str, Any]] = mapped_column(JSONB, default=dict)
    remarks: Mapped[list[str]] = mapped_column(JSONB, default=list)
    samples: Mapped[int] = mapped_column(BigInteger, default=0)
    step_s: Mapped[float | None] = mapped_column(Float)
    placed_s: Mapped[float | None] = mapped_column(Float)
    packed: Mapped[bool] = mapped_column(default=True, server_default="true")
    summary_json: Mapped[dict[str, Any]] = mapped_column("summary", JSONB, default=dict)
    recording: Mapped[dict[str, Any]] = mapped_column(JSONB, default=dict, server_default="{}")
    reader_version: Mapped[int] = mapped_column(default=0, index=True)
    revision: Mapped[int] = mapped_column(default=1)
    created_by: Mapped[str] = mapped_column(Text, default="")
    created_at: Moment = made_at()
    updated_at: Moment = mapped_column(DateTime(timezone=True), server_default=func.now(), onupdate=func.now())
    deleted_at: Mapped[dt.datetime | None] = mapped_column(DateTime(timezone=True))
    deleted_by: Mapped[str] = mapped_column(Text, default="", server_default="")

    case = Kept("case_json", Case)
    card = MaybeKeptCard()
    bench = MaybeKept("bench_json", BenchRecord)
    decisions = KeptList("decisions_json", DecisionDocument)
    summary = Kept("summary_json", RunSummary)


class Setting(Base):
    """Something chosen once for the whole bench: habits and tariff, the reference run."""

    __tablename__ = "settings"

    key: Mapped[str] = mapped_column(Text, primary_key=True)
    value: Mapped[dict[str, Any]] = mapped_column(JSONB)
    revision: Mapped[int] = mapped_column(default=1)
    by: Mapped[str] = mapped_column(Text, default="")
    at: Moment = made_at()


class SeriesChunk(Base):
    """A stretch of one series of a run's log: columns as bytes (`formats.columns`), from `first_s` to `last_s`.

    Keyed by run first and spread by hash of it. The key stands on each partition, and there is no foreign key: some of
    them may lie on another machine. Runs are laid aside, never destroyed, so none is left behind.
    """

    __tablename__ = "series"
    __table_args__ = ({"postgresql_partition_by": "HASH (run_id)"},)

    run_id: Id = mapped_column(UUID(as_uuid=True), primary_key=True)
    name: Mapped[str] = mapped_column(Text, primary_key=True)
    n: Mapped[int] = mapped_column(primary_key=True)
    rows: Mapped[int] = mapped_column()
    first_s: Mapped[float] = mapped_column(Float)
    last_s: Mapped[float] = mapped_column(Float)
    bytes: Mapped[bytes] = mapped_column(LargeBinary)


class File(Base):
    """A file that was read: its name, size and SHA-256; the bytes stand in chunks."""

    __tablename__ = "files"

    id: Id = own_id()
    sha256: Mapped[str] = mapped_column(Text, unique=True)
    name: Mapped[str] = mapped_column(Text)
    size: Mapped[int] = mapped_column(BigInteger)
    media_type: Mapped[str] = mapped_column(Text, default="")
    received_at: Moment = made_at()


class FileChunk(Base):
    """A piece of a file's bytes; compressed with zstd where its `size` before that is stated."""

    __tablename__ = "file_chunks"

    file_id: Id = mapped_column(UUID(as_uuid=True), ForeignKey("files.id", ondelete="CASCADE"), primary_key=True)
    n: Mapped[int] = mapped_column(primary_key=True)
    bytes: Mapped[bytes] = mapped_column(LargeBinary)
    size: Mapped[int | None]


class SentFile(Base):
    """A file that was sent, or written to be fetched; gone after a day."""

    __tablename__ = "uploads"

    id: Id = own_id()
    name: Mapped[str] = mapped_column(Text)
    size: Mapped[int] = mapped_column(BigInteger)
    sent_at: Moment = mapped_column(DateTime(timezone=True), server_default=func.clock_timestamp(), index=True)


class SentChunk(Base):
    """A piece of the bytes of a file that was sent."""

    __tablename__ = "upload_chunks"

    upload_id: Id = mapped_column(UUID(as_uuid=True), ForeignKey("uploads.id", ondelete="CASCADE"), primary_key=True)
    n: Mapped[int] = mapped_column(primary_key=True)
    bytes: Mapped[bytes] = mapped_column(LargeBinary)


class RunFile(Base):
    """Which file a run was read from, as what, by which reader, and how its columns were understood."""

    __tablename__ = "run_files"

    run_id: Id = of_run(primary_key=True)
    role: Mapped[str] = mapped_column(Text, primary_key=True)
    file_id: Id = mapped_column(UUID(as_uuid=True), ForeignKey("files.id"), index=True)
    reader: Mapped[str] = mapped_column(Text)
    understood: Mapped[dict[str, Any]] = mapped_column(JSONB, default=dict)


class Note(Base):
    """A remark on a run, at a moment of it or on the whole."""

    __tablename__ = "notes"

    id: Id = own_id()
    run_id: Id = of_run(index=True)
    t_s: Mapped[float | None] = mapped_column(Float)
    text: Mapped[str] = mapped_column(Text)
    created_by: Mapped[str] = mapped_column(Text, default="")
    created_at: Moment = made_at()
    deleted_at: Mapped[dt.datetime | None] = mapped_column(DateTime(timezone=True))
    deleted_by: Mapped[str] = mapped_column(Text, default="", server_default="")


class Photo(Base):
    """A picture that belongs to a run, a thermal one perhaps."""

    __tablename__ = "photos"

    id: Id = own_id()
    run_id: Id = of_run(index=True)
    file_id: Id = mapped_column(UUID(as_uuid=True), ForeignKey("files.id"))
    t_s: Mapped[float | None] = mapped_column(Float)
    caption: Mapped[str] = mapped_column(Text, default="")
    created_by: Mapped[str] = mapped_column(Text, default="")
    created_at: Moment = made_at()
    deleted_at: Mapped[dt.datetime | None] = mapped_column(DateTime(timezone=True))
    deleted_by: Mapped[str] = mapped_column(Text, default="", server_default="")
    file: Mapped[File] = relationship()


class Correction(Base):
    """A change of what was stated or read: who, when, the first value and the new one."""

    __tablename__ = "corrections"
    __table_args__ = (Index("ix_corrections_run_id_at", "run_id", "at"),)

    id: Id = own_id()
    run_id: Id = of_run()
    what: Mapped[str] = mapped_column(Text)
    first: Mapped[Any] = mapped_column(JSONB)
    now: Mapped[Any] = mapped_column(JSONB)
    by: Mapped[str] = mapped_column(Text, default="")
    at: Moment = made_at()
