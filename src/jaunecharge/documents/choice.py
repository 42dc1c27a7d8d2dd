"""Choice of a plan and wishes for its schedule, as documents that are kept with it."""

import datetime as dt
import uuid
from typing import Annotated

from pydantic import Field, WithJsonSchema

from ..core.errors import CannotRead
from ..core.log import zone_named
from ..core.plan import Ordering, OrderRule
from ..core.schedule import MOST_METERS, Problem, Task, Window, window
from .document import Document

MOST_PICKED = 60
YEARS = (1990, 2200)
Text = Annotated[str, Field(max_length=300)]
LocalTime = Annotated[
    dt.datetime,
    WithJsonSchema(
        {
            "type": "string", "pattern": r"^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}(:\d{2})?(Z|[+-]\d{2}:\d{2})?$",
            "description": "date and time by the clock of the plan's zone, or with an offset",
        }
    ),
]  # fmt: skip


class PickedCharger(Document):
    """A charger, pack or phone that gives away, at one of its places."""

    id: uuid.UUID
    place: Text = ""


class PlanChoice(Document):
    """The matrix as it was picked: kit by id, levels of factors, cells left out and forced, order and repeats."""

    phones: list[uuid.UUID] = Field(default_factory=list, max_length=MOST_PICKED)
    chargers: list[PickedCharger] = Field(default_factory=list, max_length=MOST_PICKED)
    wired: bool = False
    adapter: uuid.UUID | None = Field(None, description="the one for all; without it each gets its best")
    cable: uuid.UUID | None = None
    levels: dict[Text, list[Text]] = Field(default_factory=dict)
    left_out: list[Annotated[str, Field(max_length=2000)]] = Field(default_factory=list, max_length=5000)
    forced: list[Annotated[str, Field(max_length=2000)]] = Field(default_factory=list, max_length=5000)
    order: OrderRule = "randomised"
    seed: int = Field(1, ge=0, le=2**31)
    repeats: int = Field(1, ge=1, le=10_000)
    close: bool = True

    def ordering(self) -> Ordering:
        """Order and repeats for the core."""
        return Ordering(self.order, self.seed, self.repeats, self.close)


class Hours(Document):
    """Hours in which somebody is there, on these weekdays."""

    begins: str = "08:00"
    ends: str = "22:00"
    days: list[str] = Field(default_factory=lambda: ["mon", "tue", "wed", "thu", "fri", "sat", "sun"])

    def window(self) -> Window:
        """The same for the core."""
        return window(self.begins, self.ends, self.days)


class PlanWishes(Document):
    """When a plan may happen: from when, by the clock of which zone, when somebody is there, with how many meters."""

    start: LocalTime
    zone: str = "UTC"
    attended: list[Hours] = Field(default_factory=lambda: [Hours()], max_length=20)
    meters: int = 1
    plugs: int = Field(1, ge=1, le=MOST_METERS, description="equal adapters at hand, where one is used for all")
    end: LocalTime | None = None
    at_once: int | None = None
    stop_when_answered: bool = Field(False, description="let the rest go by itself once the question is answered")

    def problem(self, tasks: tuple[Task, ...], sequences: tuple[tuple[str, ...], ...], common: str = "") -> Problem:
        """Scheduling problem of these wishes.

        Raises
        ------
        CannotRead
        """
        zone = zone_named(self.zone)
        return Problem(
            start=local_moment(self.start, zone),
            attended=tuple(h.window() for h in self.attended),
            tasks=tasks,
            meters=self.meters,
            sequences=sequences,
            end=None if self.end is None else local_moment(self.end, zone),
            at_once=self.at_once,
            copies={common: self.plugs} if common and self.plugs > 1 else {},
        )


def refuse_many(choice: PlanChoice) -> None:
    """Refuse repeats that nobody makes, before anything is worked out.

    Raises
    ------
    CannotRead
    """
    runs = choice.repeats * max(1, len(choice.phones)) * max(1, len(choice.chargers))
    if runs > 5000:
        raise CannotRead(f"{runs:,} runs are more than anybody makes", "fewer repeats", file="repeats")


def local_moment(moment: dt.datetime, zone: dt.tzinfo) -> dt.datetime:
    """A moment by the clock of a zone; a time of day that a clock change leaves out is the one after it.

    Raises
    ------
    CannotRead
    """
    if not YEARS[0] <= moment.year <= YEARS[1]:
        raise CannotRead(f"the year {moment.year} is no year for a plan", f"{YEARS[0]} to {YEARS[1]}", file="start")
    local = moment.replace(tzinfo=zone) if moment.tzinfo is None else moment
    return local.astimezone(dt.UTC).astimezone(zone)
