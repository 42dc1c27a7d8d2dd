"""Documents of the comparison."""

import datetime as dt
import uuid

from pydantic import BaseModel, ConfigDict, Field

from ...core.kit import Capacity
from ...core.versus import Align, Checked
from ...documents.numbers import MeasuredDocument
from ...documents.ribbon import RibbonDocument
from ...documents.run_summary import Interval
from ..numbers import Percent
from ..shapes import CurveShape


class WindowShape(BaseModel):
    """From and to, %."""

    start: float
    end: float


class WindowChoice(WindowShape):
    """A window worth comparing over, and how many of the runs cover it."""

    runs: int


class OfferedShape(BaseModel):
    """Runs that make sense together, and the window that most of them cover widest."""

    title: str
    kind: str = Field(description="plan, phone or all")
    runs: list[uuid.UUID]
    chargers: int
    window: WindowShape | None


class ComparedRun(BaseModel):
    """A run in a row; `offset` is the minute after placing that counts as 0."""

    id: uuid.UUID
    label: str
    started_at: dt.datetime | None
    zone: str
    simulated: bool
    offset: float
    minutes: float | None
    ribbon: RibbonDocument | None


class MilestoneRow(BaseModel):
    """The minutes from the window's beginning to a percentage, the mean of the repeats."""

    percent: float
    minutes: Interval


class PercentAt(BaseModel):
    """Battery level at a minute."""

    minute: float
    percent: float


class ChargeShape(BaseModel):
    """Energy of one charge over the window and what it costs."""

    meter_wh: MeasuredDocument
    wall_wh: MeasuredDocument
    wall_measured: bool = Field(description="by a meter at the socket, and not by an assumed share")
    hut_wh: MeasuredDocument
    cost: float
    year_cost: float
    currency: str
    year_kwh: float
    more_percent: float | None = Field(description="more than the least of those that fill the same battery, %")


class VersusRow(BaseModel):
    """Runs that differ in nothing, as one row; rank 0 where it has no time over the window."""

    label: str
    around: str
    runs: list[ComparedRun]
    minutes: Interval | None
    between: list[float] = Field(description="least and most of the repeats, min; empty for one run")
    noise_min: float | None = Field(description="within which the time would lie again, 19 times in 20, min")
    rank: int
    place: str = Field(description="as far as it is known: 1, or 2 to 6 of 8; – for none")
    typical: int = Field(description="which of its runs stands for the row: of repeats the one nearest their mean")
    milestones: list[MilestoneRow]
    percent_at: list[PercentAt]
    curve: CurveShape
    hottest_c: float | None
    rise_k: float | None
    lost_min: MeasuredDocument | None
    charge: ChargeShape | None
    price: float | None
    currency: str
    unfit: str


class OfferShape(BaseModel):
    """A fair pair to compare instead."""

    runs: list[uuid.UUID]
    label: str
    said: str


class PairShape(BaseModel):
    """A pair of rows, by their places, in words; strong ones stand between asterisks."""

    a: int
    b: int
    verdict: str
    minutes_saved: float | None
    noise_min: float | None
    said: str
    rates: str
    fair: str
    fair_said: str
    notes: list[str]
    settle: str
    basis: str
    gap: str
    welch: list[float] | None
    besides: str = Field(description="the same to the other milestones; for a tie what would settle it")
    offers: list[OfferShape]
    missing: str


class ContrastShape(BaseModel):
    """One fair pair as an effect."""

    where: str
    a: int
    b: int
    minutes: float
    noise_min: float
    shown: bool


class EffectShape(BaseModel):
    """Effect on the time of going from one level of a factor to another."""

    factor: str
    said: str
    from_level: str
    to_level: str
    less_time_percent: float
    low_percent: float
    high_percent: float
    verdict: str
    alike: bool | None
    contrasts: list[ContrastShape]


class BargainShape(BaseModel):
    """A price against minutes."""

    dearer: int
    cheaper: int
    said: str
    buys: bool = Field(description="whether the dearer is shown to be sooner")


class CopyShape(BaseModel):
    """A run that is left out because another of those compared is the same recording."""

    id: uuid.UUID
    label: str
    said: str


class VersusShape(BaseModel):
    """Runs against each other over one window."""

    window: WindowShape
    windows: list[WindowChoice]
    align: Align
    shared: str
    noise: str
    tops: list[float]
    rows: list[VersusRow]
    pairs: list[PairShape]
    more_pairs: int
    sentences: list[str]
    warnings: list[str]
    effects: list[EffectShape]
    bargains: list[BargainShape]
    currencies: list[str]
    copies: list[CopyShape]
    reading: list[str] = Field(description="labels of runs that are being read again and are left out until then")


class Compared(BaseModel):
    """Which runs, over which window."""

    model_config = ConfigDict(allow_inf_nan=False)

    runs: list[uuid.UUID] = Field(max_length=400)
    start: Percent | None = None
    end: Percent | None = None
    align: Align = "placement"


class ClaimAsked(Compared):
    """A claim about a row, against another where it names a difference."""

    text: str = Field(max_length=300)
    a: int = Field(0, ge=0, le=400)
    b: int = Field(1, ge=0, le=400)


class ClaimShape(BaseModel):
    """Understanding of a claim, and the verdict of the times on it."""

    said: str
    pair: bool
    about: str
    verdict: str
    checks: list[Checked]


class CarryAsked(Compared):
    """Another phone: from the shelf, or by its capacity, mAh."""

    phone: str = Field("", max_length=200)
    capacity_mah: Capacity | None = None


class CarriedRow(BaseModel):
    """An estimate for another phone; never a measurement."""

    label: str
    estimate: float | None
    low: float | None
    high: float | None
    ratio: float | None
    same_tier: bool | None
    said: str


class CarryShape(BaseModel):
    """Estimates for another phone."""

    phone: str
    capacity_mah: float
    range_percent: float
    rows: list[CarriedRow]


class FieldRun(BaseModel):
    """A run of a field of the table, and what sets it apart."""

    id: uuid.UUID
    label: str
    apart: str


class FieldShape(BaseModel):
    """A phone on a charger."""

    phone: str
    charger: str
    median: float | None
    spread: list[float] | None
    place: str = Field(description="on the phone, as far as it is known; empty where it has none")
    runs: list[FieldRun] = Field(description="the newest of them")
    count: int = 0
    others: list[FieldRun]
    others_count: int = 0
    pointless: str = Field("", description="why a run of it would tell nothing")


class PhoneColumnShape(BaseModel):
    """A phone of the table and its window."""

    phone: str
    window: WindowShape | None
    timed: int


class PhoneTableShape(BaseModel):
    """Chargers × phones; `usual` are the conditions that all times were made under."""

    chargers: list[str]
    columns: list[PhoneColumnShape]
    fields: list[FieldShape]
    usual: str
    left: int = Field(0, description="phones whose runs have changed, and that are still being worked out")
    unsaid: int = Field(0, description="fields of which it is not known yet whether a run would tell anything")


class WantedField(BaseModel):
    """A phone on a charger that nobody ran yet."""

    phone: str = Field(max_length=200)
    charger: str = Field(max_length=400)


class PlanDraft(BaseModel):
    """A question and a matrix for a new plan."""

    question: str
    choice: dict[str, object]


class WantedFields(BaseModel):
    """Fields that a plan shall fill."""

    fields: list[WantedField] = Field(min_length=1, max_length=400)
