"""Shapes of the bench for the web API."""

import datetime as dt
import uuid
from typing import Any, Literal, Self

from pydantic import BaseModel, ConfigDict, Field, model_validator

from ...core.log import BOUNDS
from ...live.shown import LaneFull, LaneView
from ..numbers import Moment, Zone
from ..shapes import Factors

Figure = float | None


class LaneAside(BaseModel):
    """A lane that is open and cannot be shown or watched: it was set aside, so that the others go on."""

    id: uuid.UUID
    name: str
    since: dt.datetime
    why: str


class BenchShape(BaseModel):
    """The bench as it is now: the count up to which that is so, and every open lane."""

    tick: int
    at: dt.datetime
    lanes: list[LaneFull]
    away: bool = Field(description="whether the database does not answer")
    aside: list[LaneAside] = Field(description="lanes that are open and cannot be shown or watched")
    waiting: int = Field(description="readings that wait on disk for the database")
    secure: bool = Field(description="whether what is sent cannot be read on the network")
    reachable: bool = Field(description="whether others on the network can reach it")


class BenchEvent(BaseModel):
    """News of a change (event `bench` of the stream)."""

    tick: int
    at: dt.datetime
    figures: dict[str, list[Figure | list[tuple[int, float]]]] = Field(
        description="of each lane: newest s, watts, volts, hottest °C, reported %, changed steps of watts, of °C"
    )
    views: list[LaneView]
    over: list[str] = Field(description="lanes that have ended")
    away: bool
    waiting: int
    aside: list[LaneAside]


class GrammarLine(BaseModel):
    """A line of the help of the entry line."""

    example: str
    says: str


class Typed(BaseModel):
    """A line as it is typed."""

    line: str = Field(max_length=2000)
    fahrenheit: bool = False


class PlacingMoved(BaseModel):
    """When the phone was placed instead."""

    at: Moment


class Instead(BaseModel):
    """The line that was perhaps meant, and what it and the typed one are called on their buttons."""

    line: str
    said: str
    keep: str


class Echo(BaseModel):
    """Understanding of a line, before it is logged; or why it was not."""

    understood: bool
    lane: str = ""
    said: list[str] = []
    at: str = Field("", description="the moment that it is for, where it is not now")
    before: str = Field("", description="what stood there before")
    why: str = ""
    mend: str = ""
    doubts: list[str] = []
    instead: Instead | None = None


class NewLine(Typed):
    """A line to be logged; its id makes it be logged once, however often it is sent."""

    id: uuid.UUID
    sure: bool = Field(False, description="that what is odd about it is right")
    at: Moment | None = Field(None, description="when it was typed, if that was not now")


class Logged(BaseModel):
    """Outcome of a line."""

    logged: bool
    echo: Echo
    lane: uuid.UUID | None = None
    run: uuid.UUID | None = None
    pack_test: uuid.UUID | None = Field(None, description="the test of a pack that it closed into")
    tick: int = 0


class NewLaneShape(BaseModel):
    """A lane to be opened: from a slot of a plan, or on the spot."""

    slot: uuid.UUID | None = None
    kind: Literal["charge", "load", "recharge"] = Field(
        "charge", description="a phone on whatever charges it; a pack under load; a pack being filled"
    )
    pack: str = Field("", max_length=200, description="label of the pack, of a lane that is a pack's alone")
    method: str = Field("", max_length=200, description="method of a pack's test; the first where it is empty")
    factors: Factors = Field(default_factory=Factors)
    card: str = "From ten to full"
    ambient_c: float | None = Field(None, ge=-40, le=80)
    meter: str = Field("", max_length=200, description="label of the meter on the shelf; empty: by hand")
    probe: str = Field("", max_length=200)
    socket: str = Field("", max_length=200, description="label of the meter at the socket")
    room: str | None = Field(
        None, max_length=200, description="label of what measures the room; null: the one of the bench; empty: none"
    )
    practice: float | None = Field(None, ge=1, le=120, description="with stand-ins, so many times as fast")
    reports: bool = Field(True, description="whether the stand-in's phone reports its percentage")
    survey: uuid.UUID | None = None
    zone: Zone = "UTC"


class FromPlan(BaseModel):
    """A run of a plan that can be started now."""

    slot: uuid.UUID
    label: str
    question: str
    start: dt.datetime | None
    zone: str


class StepTold(BaseModel):
    """A tick or a skip of a step of setting the bench."""

    state: Literal["done", "skipped", "open"]
    reason: str = Field("", max_length=500)


class Ended(BaseModel):
    """End of a lane."""

    outcome: Literal["complete", "stopped early", "void"] = "complete"
    reason: str = Field("", max_length=500)
    id: uuid.UUID | None = None


class EntryFixed(BaseModel):
    """The right value of an entry, as it is typed: `46`, `41.2c pad`, `note WORDS`."""

    line: str = Field(max_length=1000)
    id: uuid.UUID


def _bounded(quantity: str, about: str | None = None) -> Any:
    low, high = BOUNDS[quantity]
    return Field(None, ge=low, le=high, description=about)


class ReadingIn(BaseModel):
    """A reading that is pushed; its number is counted by the source."""

    model_config = ConfigDict(allow_inf_nan=False)

    n: int = Field(ge=0, le=2**62)
    clock_s: float | None = Field(None, ge=-1e12, le=1e12, description="the source's own clock, s")
    volts: float | None = _bounded("volts")
    amps: float | None = _bounded("amps")
    watts: float | None = _bounded("watts")
    celsius: float | None = _bounded("celsius")
    position: str = Field("", max_length=40)
    percent: float | None = _bounded("percent")
    point: Literal["", "socket", "phone"] = Field(
        "", description="where power is metered: inline before the charger where it is empty"
    )
    humidity: float | None = _bounded("humidity", "of the room, %")


class ReadingsIn(BaseModel):
    """A batch of readings of one source."""

    source: str = Field(min_length=1, max_length=80)
    boot: str = Field(
        "", max_length=80, description="what the source calls its present start: another name each time it starts"
    )
    readings: list[ReadingIn] = Field(min_length=1, max_length=2000)

    @model_validator(mode="after")
    def each_number_once(self) -> Self:
        """Refuse two readings of one number that say different things: one of them would be lost."""
        seen: dict[int, ReadingIn] = {}
        for reading in self.readings:
            if seen.setdefault(reading.n, reading) != reading:
                raise ValueError(f"number {reading.n} is given twice, with different readings")
        return self


class Acknowledged(BaseModel):
    """Outcome of a batch. `committed`: it is stored, and need not be sent again."""

    committed: bool
    new: int = 0
    duplicates: int = 0
    refused: int = Field(0, description="readings with a time long before the lane was opened: not stored")
    tick: int = 0
    waiting: int = Field(0, description="readings that wait on disk for the database")


class BatchAside(BaseModel):
    """A batch that could not be stored: when, of what, how many readings, why, and the batch as it was."""

    id: int
    at: dt.datetime
    source: str
    readings: int
    why: str
    text: str


class PutAsideShape(BaseModel):
    """Number of batches that are set aside, and the last of them."""

    batches: int
    last: list[BatchAside]


class Reports(BaseModel):
    """The screen with which the phone on the charger reports its level itself; off: it does not, or no longer."""

    screen: Literal["dark page", "on", "off"]


class LaneLinkShape(BaseModel):
    """Link by which a phone in the hand reaches a lane."""

    url: str
    token: str
    reachable: bool
    note: str


class Instrument(BaseModel):
    """An instrument to be tried."""

    address: str = Field(max_length=200)


class Tried(BaseModel):
    """Answer of an instrument."""

    said: str
    volts: float | None = None
    amps: float | None = None
    watts: float | None = None
    celsius: float | None = None
    columns: list[str] = Field([], description="what each column of its lines is taken for")
    stand_in: bool = False
    problem: str = ""


TOLD = (BenchEvent, ReadingsIn)
"""Shapes that no route states by itself: events of the stream, and a body that is read by hand."""
