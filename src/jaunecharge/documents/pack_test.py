"""A test of a pack as it is kept: what was typed and what was read off a display; a log lies beside it."""

from typing import Annotated, Literal, Self

from pydantic import BaseModel, Field, model_validator

from ..core.errors import CannotRead
from ..core.log import CheckIns, MeterSpec, make_check_ins
from ..core.packs import (
    MOST_HEAT,
    LevelSeen,
    LoadNotes,
    PackCharge,
    PackLevel,
    Rating,
    Restart,
    SeenByEye,
    check_charge,
    percent_level,
    rating,
    typed_level,
    typed_loads,
)
from ..core.units import DAY_S, MINUTE_S, battery_wh
from .case import Meter
from .document import Document

Kind = Literal["load", "charge", "recharge", "standby", "pass_through", "phone_to_phone"]
Level = Annotated[str, Field(max_length=40, description="a level as it was read: 75, 3 lamps, 2/5")]
Text = Annotated[str, Field(max_length=200)]
Amount = Annotated[float, Field(gt=0, le=1_000_000)]
Loads = Annotated[str, Field(max_length=4000, description="amps and volts, one pair a load: 0 A 5.12 V, 1 A 5.06 V")]


class ChargeRead(BaseModel):
    """A phone charged from a pack, as it was read."""

    phone: Text = ""
    phone_mah: float | None = Field(None, gt=0, le=100_000)
    phone_v: float | None = Field(None, gt=0, le=30)
    pack_before: Level
    pack_after: Level
    phone_before: float = Field(ge=0, le=100)
    phone_after: float = Field(ge=0, le=100)
    by_cord: bool = False
    minutes: float | None = Field(None, gt=0, le=100_000)
    run: str = Field("", max_length=40, description="the run that it was logged as, its id")

    @property
    def phone_wh(self) -> float | None:
        """Energy of the phone's battery [Wh], None where it is not known."""
        if self.phone_mah is None or self.phone_v is None:
            return None
        return battery_wh(self.phone_mah, self.phone_v)

    def charge(self, lamps: int | None = None) -> PackCharge:
        """The same for the core. lamps : on the pack.

        Raises
        ------
        CannotRead
            If it cannot be.
        """
        return check_charge(
            PackCharge(
                typed_level(self.pack_before, lamps), typed_level(self.pack_after, lamps),
                percent_level(self.phone_before), percent_level(self.phone_after), self.phone_wh, self.by_cord,
            )
        )  # fmt: skip


class LevelRead(BaseModel):
    """The level that the pack showed so many minutes after the load was on."""

    minute: float = Field(ge=0, le=100_000)
    level: Level


FIRST_HEAT_MIN, LAST_HEAT_MIN = -1000.0, 100_000.0


class HeatRead(BaseModel):
    """A temperature of the pack, so many minutes after the load was on."""

    minute: float = Field(ge=FIRST_HEAT_MIN, le=LAST_HEAT_MIN)
    celsius: float = Field(ge=-40, le=150)


class LoadNotesRead(BaseModel):
    """Observations beside a load test."""

    restart: Restart = ""
    low_current: bool | None = None
    modes: list[Annotated[str, Field(max_length=20)]] = Field(default_factory=list, max_length=12)
    levels: list[LevelRead] = Field(default_factory=list, max_length=500)
    certified: bool | None = Field(None, description="whether the load is certified")
    outlet: Text = ""
    heat: list[HeatRead] = Field(default_factory=list, max_length=MOST_HEAT)

    def notes(self, lamps: int | None = None) -> LoadNotes:
        """The same for the core.

        Raises
        ------
        CannotRead
            If a level is none.
        """
        levels = tuple(LevelSeen(x.minute * MINUTE_S, typed_level(x.level, lamps)) for x in self.levels)
        in_order = tuple(sorted(levels, key=lambda seen: seen.at_s))
        heat = tuple(sorted((x.minute * MINUTE_S, x.celsius) for x in self.heat))
        return LoadNotes(self.restart, self.low_current, tuple(self.modes), in_order, self.certified, self.outlet, heat)


class LoadSeen(BaseModel):
    """A load test off a display."""

    wh: Amount | None = None
    mah: Amount | None = None
    volts: float | None = Field(None, gt=0, le=60, description="of the output that gave the mAh")
    minutes: float | None = Field(None, gt=0, le=100_000)
    emptied: bool = Field(False, description="whether it went off by itself, empty")
    loads: Loads = ""
    held_a: float | None = Field(None, gt=0, le=30)
    let_go_a: float | None = Field(None, gt=0, le=30)
    accuracy_percent: float | None = Field(None, ge=0, le=20, description="of the display; null: nobody knows")

    def seen(self) -> SeenByEye:
        """The same for the core.

        Raises
        ------
        CannotRead
        """
        return SeenByEye(
            self.wh, self.mah, self.volts, self.minutes, self.emptied, typed_loads(self.loads), self.held_a,
            self.let_go_a,
        )  # fmt: skip

    def spec(self) -> MeterSpec:
        """Accuracy of the display."""
        return MeterSpec(gain_percent=self.accuracy_percent)


class LoadKept(BaseModel):
    """The chief figures of a load test, for lists."""

    delivered_wh: float | None
    expanded_wh: float | None
    at_least: bool
    file: str = ""
    held_a: float | None = None
    held_v: float | None = None
    let_go_a: float | None = None
    tripped: bool = False
    slept_a: float | None = None
    awake_a: float | None = None


class RechargeRead(BaseModel):
    """A recharge: by eye, or beside its log."""

    before: Level = ""
    after: Level = ""
    minutes: float | None = Field(None, gt=0, le=10_080)
    wh: Amount | None = None
    watts: float | None = Field(None, gt=0, le=400)
    volts: float | None = Field(None, gt=0, le=60)
    full: bool = False
    accuracy_percent: float | None = Field(None, ge=0, le=20)
    file: str = Field("", max_length=400)

    def level_before(self, lamps: int | None = None) -> PackLevel | None:
        """Level as it began; None where it was not read.

        Raises
        ------
        CannotRead
        """
        return typed_level(self.before, lamps) if self.before.strip() else None


class StandbyRead(BaseModel):
    """Two readings of a pack that nobody used."""

    first: Level
    last: Level
    days: float = Field(gt=0, le=4000)

    @property
    def seconds(self) -> float:
        return self.days * DAY_S


class PassRead(BaseModel):
    """Power through a pack: by two displays, or by two logs."""

    in_wh: Amount | None = None
    out_wh: Amount | None = None
    minutes: float | None = Field(None, gt=0, le=100_000)
    accuracy_percent: float | None = Field(None, ge=0, le=20)
    in_file: str = Field("", max_length=400)
    out_file: str = Field("", max_length=400)


class GivenReading(BaseModel):
    """Both phones at one moment."""

    minute: float = Field(ge=0, le=100_000)
    giver: float = Field(ge=0, le=100)
    taker: float = Field(ge=0, le=100)


class GivenFacts(BaseModel):
    """A phone charged by a phone, but for its readings. usual_stop [%] : where the giver stops by itself."""

    taker: Text = ""
    by_cord: bool = False
    hottest_c: float | None = Field(None, ge=-40, le=150)
    giver_wh: float | None = Field(None, gt=0, le=10_000)
    taker_wh: float | None = Field(None, gt=0, le=10_000)
    usual_stop: float | None = Field(None, ge=0, le=100)


class GivenRead(GivenFacts):
    """A phone charged by a phone."""

    readings: list[GivenReading] = Field(min_length=2, max_length=2000)

    def check_ins(self) -> tuple[CheckIns, CheckIns]:
        """Levels of the giver and of the taker, on one clock.

        Raises
        ------
        CannotRead
        """
        import numpy as np

        rows = sorted(self.readings, key=lambda r: r.minute)
        seconds = np.array([r.minute * MINUTE_S for r in rows])
        if len(np.unique(seconds)) < len(seconds):
            raise CannotRead("two readings share a minute", "write one line for each moment", file="readings")
        return (
            make_check_ins(seconds, np.array([r.giver for r in rows])),
            make_check_ins(seconds, np.array([r.taker for r in rows])),
        )


class PackTestDocument(Document):
    """A test of a pack: its rating then, and what the test says by its kind. lamps : on its gauge."""

    kind: Kind
    rated_mah: float
    cell_v: float
    lamps: int | None = None
    meter: Meter = Field(default_factory=Meter)
    load: LoadKept | None = None
    seen: LoadSeen | None = None
    notes: LoadNotesRead = Field(default_factory=LoadNotesRead)
    second_file: str = ""
    remarks: list[str] = Field(default_factory=list, description="on its file, as it was read")
    charge: ChargeRead | None = None
    recharge: RechargeRead | None = None
    standby: StandbyRead | None = None
    passed: PassRead | None = None
    given: GivenRead | None = None

    @model_validator(mode="after")
    def _says_what_it_is(self) -> Self:
        """A test that says nothing of its kind is none; a load test may lie in its log alone."""
        blocks = {
            "charge": self.charge, "recharge": self.recharge, "standby": self.standby, "pass_through": self.passed,
            "phone_to_phone": self.given,
        }  # fmt: skip
        if self.kind in blocks and blocks[self.kind] is None:
            raise ValueError(f"nothing is said of the {self.kind.replace('_', ' ')}")
        return self

    def rating(self) -> Rating:
        """The rating for the core."""
        return rating(self.rated_mah, self.cell_v)
