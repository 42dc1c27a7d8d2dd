"""Shapes of packs and their tests."""

import datetime as dt
import uuid
from typing import Literal

from pydantic import BaseModel, Field

from ...core.packs import Cabin, Stand
from ...documents.numbers import MeasuredDocument
from ...documents.pack_test import ChargeRead, PackTestDocument

__all__ = ["ChargeRead", "NewLoad", "PackRow", "PackTestShape", "TestRow"]


class StageShape(BaseModel):
    """A stage of the walk of energy."""

    key: str
    words: str
    wh: float | None
    low: float | None
    high: float | None
    stand: Stand
    at_least: bool


class ChargesShape(BaseModel):
    """Full charges of a phone, between `low` and `high` (null: no upper end)."""

    phone: str
    way: Literal["coil", "cord"]
    value: float
    low: float
    high: float | None
    times: int


class TestRow(BaseModel):
    """A test in a list, in a few words."""

    id: uuid.UUID
    kind: Literal["load", "charge"]
    at: dt.datetime
    by: str
    said: str


class PackRow(BaseModel):
    """A pack of the shelf: what was promised, what came."""

    label: str
    note: str
    rated_mah: float
    cell_v: float
    rated_wh: float
    price: float | None
    currency: str
    has_coil: bool
    delivered: MeasuredDocument | None
    at_least: bool
    share: float | None = Field(description="delivered, as a share of the rated energy")
    charges: list[ChargesShape]
    stages: list[StageShape]
    per_wh: float | None = Field(description="price of each watt-hour delivered")
    cabin: Cabin
    cabin_said: str
    verdict: str
    tests: list[TestRow]


class NewLoad(BaseModel):
    """A log that was sent, to be kept as a load test of a pack."""

    upload: uuid.UUID


class PackSentenceShape(BaseModel):
    """A sentence, and the figure that it rests on."""

    key: str
    text: str


class StepShape(BaseModel):
    """A load of a test: minutes, amps and volts."""

    start: float
    end: float
    amps: float
    volts: float


class PackTestShape(BaseModel):
    """A test of a pack, read. Times are minutes from the first load."""

    id: uuid.UUID
    pack: str
    kind: Literal["load", "charge"]
    at: dt.datetime
    by: str
    document: PackTestDocument
    sentences: list[PackSentenceShape]
    warnings: list[str]
    minute: list[float]
    volts: list[float]
    steps: list[StepShape]
    cut_off: float | None
    tripped: float | None = Field(description="when protection let go, minute")
    no_load_v: float | None
