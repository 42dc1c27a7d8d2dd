"""Documents of a judgement: phases, dips, decisions, output, heat across runs, settings."""

import datetime as dt
import uuid
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from ...core.reading import Cause
from ...documents.run_summary import ThrottleSummary
from ..numbers import Minute, Revision
from .list_shapes import ListScale

PhaseName = Literal["no_load", "wake", "ramp", "plateau", "taper", "trickle", "hold", "full"]


class PhaseShape(BaseModel):
    """A phase, in minutes after placing, with its mean power."""

    kind: PhaseName
    start: float
    end: float
    mean_w: float
    overruled: str = Field(description="what it was read as, where a reader decided otherwise")


class DipShape(BaseModel):
    """A dip with its cause and what that rests on; minutes after placing."""

    start: float
    end: float
    cause: Cause
    expected_w: float
    floor_w: float
    onset_c: float | None
    onset_percent: float | None
    lasting: bool = Field(description="whether it did not return")
    estimated: bool = Field(description="whether its temperature lies between readings")
    likely: bool = Field(description="whether one event alone speaks for its cause")
    why: str
    settle: str = Field(description="what would settle it")
    overruled: str


class DecisionShape(BaseModel):
    """A reader's decision, as it is kept."""

    id: uuid.UUID
    said: str
    by: str
    why: str
    at: dt.datetime
    undone: bool


class OutputEstimateShape(BaseModel):
    """Estimate of the output by one method."""

    method: str
    point: Literal["charger", "battery"]
    watts: float
    expanded: float
    assumes: str


class OutputShape(BaseModel):
    """The estimates side by side, and the class."""

    ratio: float
    ratio_expanded: float
    ratio_from: str
    estimates: list[OutputEstimateShape]
    group_w: float | None
    fits: bool
    also_possible: list[float]
    claimed_w: float | None
    claim_met: bool | None
    claim_kept: bool | None = Field(description="whether the claim is met on average to 60 %")
    undecided: str


class JudgedShape(BaseModel):
    """The judgement of a run."""

    outcome: str
    phases: list[PhaseShape]
    dips: list[DipShape]
    dismissed: list[DipShape]
    decisions: list[DecisionShape]
    output: OutputShape | None
    reference_here: bool = Field(description="whether this run is the reference")
    reference_revision: Revision


class NewDecision(BaseModel):
    """Another cause, other bounds, or no dip; minutes after placing."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    revision: Revision
    about: Literal["dip", "phase"]
    start: Minute
    end: Minute
    cause: Cause | Literal["no dip"] | None = None
    new_start: Minute | None = None
    new_end: Minute | None = None
    why: str = Field("", max_length=300)


class Aside(BaseModel):
    """Whether a decision counts no longer."""

    revision: Revision
    aside: bool


class NewReference(BaseModel):
    """A run on a chain that is known to deliver so many watts."""

    model_config = ConfigDict(allow_inf_nan=False)

    revision: Revision
    run: uuid.UUID
    delivered_w: Annotated[float, Field(gt=0, le=400)]


class HabitsShape(BaseModel):
    """Habits of charging here, and the tariff."""

    model_config = ConfigDict(allow_inf_nan=False)

    revision: Revision
    night_h: Annotated[float, Field(ge=0, le=24, description="hours a night that a phone lies on it")]
    full_h: Annotated[float, Field(ge=0, le=24, description="hours of them that it is full already")]
    tariff: Annotated[float, Field(ge=0, le=1000, description="price of a kWh")]
    currency: Annotated[str, Field(min_length=1, max_length=8)]
    unplugged: bool = Field(description="whether the charger is unplugged while no phone lies on it")
    charges_year: float = Field(365.0, description="how often a year it charges")
    adapter_share: float = Field(0.87, description="share of the socket's energy that gets behind the adapter, 0–1")
    hut_share: float = Field(0.78, description="share of a hut battery's energy that gets to the meter, 0–1")


class ReferenceShape(BaseModel):
    """The reference run, if one is named."""

    revision: Revision
    run: uuid.UUID | None
    label: str
    delivered_w: float | None
    k: float
    expanded: float


class SettingsShape(BaseModel):
    """Settings of the whole bench."""

    habits: HabitsShape
    reference: ReferenceShape


class Rereading(BaseModel):
    """Progress of the re-analysis."""

    left: int
    of: int
    version: int
    failed: int = Field(description="jobs of any kind that have failed")


class ThrottleRow(BaseModel):
    """A run in the table of heat."""

    id: uuid.UUID
    label: str
    at: dt.datetime = Field(description="when its log began, or when it was read where that is not known")
    zone: str
    phone: str
    charger: str
    conditions: str
    simulated: bool
    throttle: ThrottleSummary | None = Field(description="null where no temperature was logged")
    unlike: list[str] = Field(description="in what its conditions differ from those of most runs")


class ThrottleTable(BaseModel):
    """Heat over all runs."""

    rows: list[ThrottleRow]
    usual: str = Field(description="the conditions of most runs")
    after: str | None = Field(description="where the next page begins; null after the last")
    scale: ListScale | None = Field(description="with the first page")
