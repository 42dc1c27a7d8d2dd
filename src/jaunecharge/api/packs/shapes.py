"""Shapes of packs and their tests."""

import datetime as dt
import uuid
from typing import Literal

from pydantic import BaseModel, Field

from ...core.packs import Basis, Cabin, Stage, Way
from ...documents.numbers import MeasuredDocument
from ...documents.pack_test import (
    ChargeRead,
    GivenFacts,
    GivenRead,
    GivenReading,
    Kind,
    LevelRead,
    LoadNotesRead,
    LoadSeen,
    PackTestDocument,
    PassRead,
    RechargeRead,
    StandbyRead,
)
from ..shapes import FigureShape

__all__ = [
    "ChargeRead",
    "GivenFacts",
    "GivenRead",
    "GivenReading",
    "LevelRead",
    "LoadNotesRead",
    "LoadSeen",
    "PassRead",
    "RechargeRead",
    "StandbyRead",
]


class ChargesShape(BaseModel):
    """Full charges of a phone, between `low` and `high` (null: no upper end)."""

    phone: str
    way: Way
    value: float
    low: float
    high: float | None
    times: int
    basis: Basis = "measured"


class TestRow(BaseModel):
    """A test in a list, in a few words."""

    id: uuid.UUID
    kind: Kind
    at: dt.datetime
    by: str
    said: str
    run: str = Field("", description="the run that it was logged as, its id")


class PackRow(BaseModel):
    """A pack of the shelf: what was promised, what came."""

    label: str
    note: str
    rated_mah: float
    cell_v: float
    rated_wh: float
    price: float | None
    currency: str
    grams: float | None
    lamps: int | None
    claimed_w: float | None
    has_coil: bool
    has_cord: bool
    delivered: MeasuredDocument | None
    at_least: bool
    share: float | None = Field(description="delivered, as a share of the rated energy")
    charges: list[ChargesShape]
    stages: list[Stage]
    per_wh: float | None = Field(description="price of each watt-hour delivered")
    grams_per_wh: float | None
    cabin: Cabin
    cabin_said: str
    cabin_source: str = Field(description="where its limits come from, and of when they are")
    verdict: str
    counts: dict[Kind, int] = Field(description="its tests by kind")


class GiverRow(BaseModel):
    """A phone that gives."""

    label: str
    battery_wh: float
    gives_w: float | None
    stop_percent: float | None
    verdict: str
    tests: list[TestRow]


class Shelf(BaseModel):
    """All packs of the shelf, and the phones that give."""

    packs: list[PackRow]
    givers: list[GiverRow]


class PackSentenceShape(BaseModel):
    """A sentence, and the key of the figure that it rests on."""

    key: str
    text: str


class PackShape(PackRow):
    """A pack as a whole, with what its tests say together."""

    sentences: list[PackSentenceShape]
    cautions: list[str]
    figures: list[FigureShape]
    tests: list[TestRow] = Field(description="the latest first, no more than a hundred")
    first_shown: uuid.UUID | None = Field(description="the test that its verdict rests on")
    fair_pair: list[str] = Field(
        description="runs of one phone by coil and by cord, for Versus; empty where there are none"
    )


class HoursShape(BaseModel):
    """Hours that a full pack feeds a load, and what that rests on."""

    watts: float
    hours: float
    said: str
    basis: Literal["stated", "measured", "usual"]


class ChargeTableRow(BaseModel):
    """Charges of every phone from one pack."""

    pack: str
    rated_wh: float
    cells: list[ChargesShape]


class ChargeTable(BaseModel):
    """Full charges, packs × phones."""

    phones: list[str]
    rows: list[ChargeTableRow]


class NewGiven(GivenFacts):
    """A phone charged by a phone: its readings as a list, or as they are typed."""

    readings: list[GivenReading] = Field(default_factory=list, max_length=2000)
    typed: str = Field("", max_length=50_000, description="minutes, giver, taker: 0 84 12; 30 71 23")


class NewTest(BaseModel):
    """A test to keep: its kind, what was typed of it, and the logs that were sent."""

    kind: Kind
    upload: uuid.UUID | None = Field(None, description="its log; of a pass-through what goes in")
    second_upload: uuid.UUID | None = Field(
        None, description="of another output at once; of a pass-through what comes out"
    )
    at: dt.datetime | None = Field(None, description="when it was made; now where it is not said")
    seen: LoadSeen | None = None
    notes: LoadNotesRead = Field(default_factory=LoadNotesRead)
    charge: ChargeRead | None = None
    recharge: RechargeRead | None = None
    standby: StandbyRead | None = None
    passed: PassRead | None = None
    given: NewGiven | None = None
    gauge_typed: str = Field("", max_length=20_000, description="levels in a load test: 0 100; 60 75; 1:30 2 lamps")


class PackMethodShape(BaseModel):
    """A method of a pack's test."""

    name: str
    kind: Kind
    good_for: str
    steps: list[str]
    timed: bool = Field(description="whether it takes hours of a day, and can be planned")


class StepShape(BaseModel):
    """A load of a test: minutes, amps and volts; no minutes where it was read off a display."""

    start: float
    end: float
    amps: float
    volts: float


class TraceShape(BaseModel):
    """A log as it is drawn: minutes, volts where logged, watts."""

    name: str
    minute: list[float]
    volts: list[float] | None
    watts: list[float]


class AtLoadShape(BaseModel):
    """Efficiency of the converter at one load."""

    in_w: float
    out_w: float
    share: float
    expanded: float | None


class PackTestShape(BaseModel):
    """A test of a pack, read. Times are minutes from the first load."""

    id: uuid.UUID
    pack: str
    kind: Kind
    at: dt.datetime
    by: str
    said: str
    document: PackTestDocument
    sentences: list[PackSentenceShape]
    warnings: list[str]
    figures: list[FigureShape]
    traces: list[TraceShape]
    steps: list[StepShape]
    by_load: list[AtLoadShape]
    by_eye: bool
    cut_off: float | None
    tripped: float | None = Field(description="when protection let go, minute")
    no_load_v: float | None


class FileKept(BaseModel):
    """Tests of a file: what it was, those that are new, how many were here already, what was left out and why."""

    holds: Literal["load test", "charges", "tests"]
    tests: list[uuid.UUID]
    here: int
    left_out: list[str]
