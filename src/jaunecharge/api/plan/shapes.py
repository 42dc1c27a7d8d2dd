"""The shapes of the plan: method cards, matrices, what they show, slots and what happens to them."""

import datetime as dt
import uuid
from typing import Any, Literal

from pydantic import BaseModel, Field

from ...core.plan import Card, Happening, Question, Resolution, SlotState, Trade
from ...documents.choice import PlanChoice, PlanWishes
from ...documents.ribbon import RibbonDocument
from ..numbers import Moment, Revision


class CardShape(BaseModel):
    """A method card; ready ones have no id and cannot be changed."""

    id: uuid.UUID | None
    card: Card
    said: str
    deep: bool = Field(description="whether every run of it drains its phone to dead")
    revision: Revision
    retired_by: str = ""


class CardChange(BaseModel):
    """A card as it is wanted, and the revision that it was typed over."""

    card: dict[str, Any]
    revision: Revision = 0


class FactorShape(BaseModel):
    """A factor that can be named."""

    name: str
    said: str
    example: str
    common: bool
    choices: list[str] = Field(description="its levels, where only some can be")
    chosen_elsewhere: bool = Field(description="whether kit or card decide it")


class OrderShape(BaseModel):
    """A way to put runs in order, and why."""

    rule: str
    why: str


class MethodShape(BaseModel):
    """Parts of a plan: cards, schools, factors and orders."""

    cards: list[CardShape]
    retired: list[CardShape]
    schools: list[Question]
    factors: list[FactorShape]
    orders: list[OrderShape]


class NewPlanShape(BaseModel):
    """A plan as a person makes it; `revision` is that of the plan that is changed."""

    question: str = Field("", max_length=300)
    card: dict[str, Any]
    choice: PlanChoice
    wishes: PlanWishes
    revision: Revision = 0


class CellShape(BaseModel):
    """A cell of the matrix: what speaks against it, whether it is run, and what is expected of it."""

    key: str
    phone: str
    row: str
    conditions: list[str]
    adapter: str
    pointless: str
    wanted: bool
    minutes: float | None
    to_80: float | None
    hottest_c: float | None


class FindingsShape(BaseModel):
    """Resolution of a plan, what it mixes up, and what it costs."""

    said: str
    shows: str
    one_more: str | None
    warnings: list[str]
    cost: str
    why_order: str
    resolutions: list[Resolution]
    trades: list[Trade]
    drains: dict[str, float] = Field(description="how long each phone drains before a run [min]")
    cools: dict[str, float] = Field(description="how long each phone cools after a run [min]")
    learned: dict[str, int] = Field(description="drains that really happened and were learned from, of each phone")


class PreviewShape(BaseModel):
    """A plan worked out, not kept: its matrix, what it shows, and when it would be over."""

    cells: list[CellShape]
    findings: FindingsShape | None
    runs: int
    over_at: dt.datetime | None
    warm: list[str] = Field(description="where a charger would still be warm from the run before")
    refused: str = Field(description="why it cannot be kept as it is; empty where it can")


class PlanRow(BaseModel):
    """A plan in a list."""

    id: uuid.UUID
    question: str
    card: str
    counts: dict[str, int]
    over_at: dt.datetime | None
    created_at: dt.datetime
    deleted_by: str


class SlotShape(BaseModel):
    """A run of a plan: when it is planned, what has happened, and its expected ribbon."""

    id: uuid.UUID
    phone: str
    said: str = Field(description="what it is run on")
    label: str = Field(description="phone and what it is run on, in words")
    repeat: int
    closing: bool
    state: SlotState
    drain_start: dt.datetime | None
    drain_end: dt.datetime | None
    pack: str = Field(description="the pack that feeds it, empty where there is none")
    fill_start: dt.datetime | None = Field(description="when that is plugged in, to be full")
    start: dt.datetime | None
    end: dt.datetime | None
    cool_end: dt.datetime | None
    minutes: float
    to_80: float | None
    hottest_c: float
    attended_min: float
    began_at: dt.datetime | None
    ended_at: dt.datetime | None
    void_reason: str
    run: uuid.UUID | None
    run_label: str
    can_undo: bool
    may: list[Happening] = Field(description="what can happen to it next")
    late_min: float = Field(description="by how much its beginning is overdue [min]")
    factors: dict[str, str]
    ribbon: RibbonDocument


class EventShape(BaseModel):
    """Something to do next."""

    kind: str
    slot: uuid.UUID
    said: str
    at: dt.datetime


class ScheduleShape(BaseModel):
    """Quality of the schedule."""

    over_at: dt.datetime | None
    optimal: bool
    said: str
    pace: str
    searched: bool = Field(description="whether a better one has been looked for since it was last planned")


class ChangeShape(BaseModel):
    """When a plan was planned anew, by whom and why."""

    at: dt.datetime
    by: str
    why: str


class SpanShape(BaseModel):
    """Hours in which somebody is there."""

    begins: dt.datetime
    ends: dt.datetime


class StoppingShape(BaseModel):
    """Whether the question is answered by the runs made so far, in words, and what the rest would take."""

    said: str
    answered: bool
    made: int
    planned: int
    minutes_left: float
    let_go: int = Field(description="runs that were let go, and can be taken up again")


class RestOfPlan(BaseModel):
    """Whether the rest of a plan's runs is let go, or taken up again."""

    let_go: bool


class PlanShape(BaseModel):
    """A plan with its slots, and what to do now."""

    id: uuid.UUID
    question: str
    card: Card
    card_said: str
    choice: PlanChoice
    wishes: PlanWishes
    findings: FindingsShape
    schedule: ScheduleShape
    slots: list[SlotShape]
    attended: list[SpanShape]
    days: list[dt.datetime] = Field(description="midnights by the clock of the plan's zone")
    now: dt.datetime
    next: EventShape | None
    tonight: list[EventShape]
    after_tonight: str
    carried_over: list[str]
    reminder: str = Field(description="what is to be put back once all is over; empty before")
    counts: dict[str, int]
    changes: list[ChangeShape]
    revision: Revision
    stopping: StoppingShape | None = Field(description="null while no two runs are made")


class PlanProgress(BaseModel):
    """Progress of the search for a better schedule, a line each; the last carries the plan."""

    step: Literal["waiting", "running", "searching", "better", "done", "refused"]
    fraction: float
    over_at: dt.datetime | None = None
    plan: PlanShape | None = None


class SlotRef(BaseModel):
    """Conditions that a run which fills a slot will state."""

    id: uuid.UUID
    plan: uuid.UUID
    question: str
    label: str
    factors: dict[str, str]
    interval_min: float | None
    ambient_c: float | None
    began_at: dt.datetime | None


class Told(BaseModel):
    """State of a slot; now if no moment is given."""

    what: Happening
    at: Moment | None = None
    reason: str = Field("", max_length=300)
    again: bool = True
