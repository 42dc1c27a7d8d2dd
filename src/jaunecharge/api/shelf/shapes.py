"""The shapes of the shelf: kit, chains, coverage, rehearsals and fits."""

import datetime as dt
import uuid
from typing import Annotated, Literal

from pydantic import BaseModel, Field

from ...core.chain import Link, Range
from ...core.forecast import ThrottleForecast
from ...core.simulator import Airflow, Given, PhoneState
from ...documents.coverage import BetweenDocument, CoverageDocument
from ..numbers import Revision, Zone

KitKind = Literal["phone", "charger", "adapter", "cable", "pack", "meter", "probe", "case"]
LinkName = Literal["adapter", "cable", "charger", "coupling", "phone", "battery"]
Outcome = Literal["full", "reduced", "missing", "starved", "none needed"]
Texts = dict[str, Annotated[str, Field(max_length=2000)]]


class KitField(BaseModel):
    """A field of a form: what it is called, its unit, a hint, its choices, and what an empty text means."""

    name: str
    said: str
    unit: str
    hint: str
    choices: list[str]
    required: bool
    default: str
    by_coil: Literal["", "profiles", "pads"] = Field(
        description="whether it names transfer profiles, of one coil or of several places"
    )


class StandardShape(BaseModel):
    """A standard of wireless charging: its short name in lists, how it is called, its watts, who may state it."""

    name: str
    said: str
    watts: float
    phone: bool = Field(description="whether a phone takes it")


class KitKindShape(BaseModel):
    """A kind of kit and its fields, in order."""

    kind: KitKind
    fields: list[KitField]


class FitShape(BaseModel):
    """Fit of a phone: from which run, and how well."""

    run: str
    run_id: uuid.UUID | None
    rms_w: float
    rms_points: float
    rms_k: float | None
    heat_fitted: bool
    said: str
    figures: list[Given]


class KitShape(BaseModel):
    """A piece of kit; `fields` holds each fact as it would be typed."""

    id: uuid.UUID
    kind: KitKind
    label: str
    said: str = Field(description="what matters of it, in one line")
    fields: dict[str, str]
    places: list[str] = Field(description="places of a charger's pads; one empty text where there is one pad")
    wireless: bool = Field(description="whether it can stand in the charger's place")
    revision: Revision
    retired_at: dt.datetime | None
    retired_by: str
    fit: FitShape | None
    checked: str = Field("", description="what the latest check of a meter showed, with its date")


class NewKit(BaseModel):
    """Kit as typed in a form."""

    kind: str
    fields: Texts


class KitChange(BaseModel):
    """Other facts for a piece, and the revision that they were typed over."""

    revision: Revision
    fields: Texts


class KitLine(BaseModel):
    """Kit in one typed line; kept only if `keep`."""

    line: str = Field(max_length=2000)
    keep: bool = False


class UnderstoodKit(BaseModel):
    """Understanding of a typed line; `flaws` empty where it can be kept."""

    kind: KitKind | None
    label: str
    said: str
    fields: dict[str, str]
    problem: str
    kept: KitShape | None


class ImportedKit(BaseModel):
    """Outcome of an import: what was added, and labels that were on the shelf already and were left alone."""

    added: list[KitShape]
    left: list[str]


class Around(BaseModel):
    """Circumstances of a run."""

    start_percent: float = Field(10.0, ge=0, le=99)
    ambient_c: float = Field(25.0, ge=-10, le=50)
    airflow: Airflow = "still air"
    phone_state: PhoneState = "idle"
    offset_mm: float = Field(0.0, ge=0, le=30)
    hold_percent: float | None = Field(None, ge=1, le=100)
    interval_min: float = Field(10.0, ge=0.5, le=240)


class ChainChoice(BaseModel):
    """A chain from the shelf; without a charger it is wired."""

    phone: uuid.UUID
    charger: uuid.UUID | None = None
    place: str = ""
    adapter: uuid.UUID | None = None
    best_adapter: bool = Field(False, description="take the adapter of the shelf that lets the most arrive")
    cable: uuid.UUID | None = None
    case: uuid.UUID | None = None
    phones_on_charger: int = Field(1, ge=1, le=10)
    chargers_on_adapter: int = Field(1, ge=1, le=10)
    around: Around = Field(default_factory=Around)


class MilestoneEstimate(BetweenDocument):
    """Minutes to a percentage."""

    percent: int


class ForecastShape(BaseModel):
    """% against minutes with its range, milestones [min], hottest [°C], where heat takes power away, Wh drawn."""

    minutes: list[float]
    least: list[float]
    likely: list[float]
    most: list[float]
    likely_w: float
    to: list[MilestoneEstimate]
    hottest_c: BetweenDocument
    throttle: ThrottleForecast | None
    drawn_wh: float
    origins: list[Given]


class SwapShape(BaseModel):
    """Swaps from the shelf that would lift a chain: which link, which piece, what then arrives [W]."""

    link: Literal["adapter", "cable", "charger", "case"]
    piece: uuid.UUID
    place: str
    delivered_w: float
    said: str


class ChainShape(BaseModel):
    """Forecast of a chain."""

    adapter: uuid.UUID | None = Field(description="the adapter in it")
    links: list[Link]
    narrowest: LinkName
    negotiated: str
    outcome: Outcome
    inferred: bool
    meter_w: Range
    delivered_w: Range
    claimed_w: float | None
    reaches_claim: bool | None
    charges: bool
    headline: str
    because: str
    swaps: list[SwapShape]
    advice: list[str]
    forecast: ForecastShape


class CoverageChoice(BaseModel):
    """Conditions under which the whole shelf is forecast; without an adapter each pair gets its best one."""

    adapter: uuid.UUID | None = None
    cable: uuid.UUID | None = None
    case: uuid.UUID | None = None
    around: Around = Field(default_factory=Around)


class CoverageProgress(BaseModel):
    """Progress of the table, a line each; the last carries the table."""

    step: Literal["waiting", "running", "forecasting", "done", "refused"]
    fraction: float
    coverage: CoverageDocument | None = None


class NewRehearsalShape(ChainChoice):
    """A run to be rehearsed."""

    seed: int = Field(1, ge=0, le=2**31)
    label: str = Field("", max_length=120)
    zone: Zone = "UTC"


class FitRequest(BaseModel):
    """The run to fit a phone to; kept only if `keep`."""

    run: uuid.UUID
    keep: bool = False
