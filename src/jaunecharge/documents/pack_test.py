"""A test of a pack as it is kept."""

from typing import Literal

from pydantic import BaseModel, Field

from ..core.errors import CannotRead
from ..core.packs import LAMPS, PackCharge, PackLevel, Rating, check_charge, lamp_level, percent_level, rating
from ..core.units import battery_wh
from .case import Meter
from .document import Document


class LevelRead(BaseModel):
    """The level of a pack as it was read: a percentage, or so many lamps lit."""

    percent: float | None = Field(None, ge=0, le=100)
    lit: int | None = Field(None, ge=0, le=10)
    lamps: int = Field(LAMPS, ge=1, le=10)

    def level(self) -> PackLevel:
        """The same for the core.

        Raises
        ------
        CannotRead
        """
        if (self.percent is None) == (self.lit is None):
            raise CannotRead("a level is a percentage or lamps", "give one of both", file="level")
        return percent_level(self.percent) if self.percent is not None else lamp_level(self.lit or 0, self.lamps)


class ChargeRead(BaseModel):
    """A phone charged from a pack, as it was read."""

    phone: str = Field("", max_length=200)
    phone_mah: float | None = Field(None, gt=0, le=100_000)
    phone_v: float | None = Field(None, gt=0, le=30)
    pack_before: LevelRead
    pack_after: LevelRead
    phone_before: float = Field(ge=0, le=100)
    phone_after: float = Field(ge=0, le=100)
    by_cord: bool = False

    @property
    def phone_wh(self) -> float | None:
        """Energy of the phone's battery [Wh], None where it is not known."""
        if self.phone_mah is None or self.phone_v is None:
            return None
        return battery_wh(self.phone_mah, self.phone_v)

    def charge(self) -> PackCharge:
        """The same for the core.

        Raises
        ------
        CannotRead
            If it cannot be.
        """
        return check_charge(
            PackCharge(
                self.pack_before.level(), self.pack_after.level(), percent_level(self.phone_before),
                percent_level(self.phone_after), self.phone_wh, self.by_cord,
            )
        )  # fmt: skip


class LoadKept(BaseModel):
    """The chief figures of a load test, for lists."""

    delivered_wh: float
    expanded_wh: float | None
    at_least: bool
    file: str = ""


class PackTestDocument(Document):
    """A test of a pack: the rating it had then, and a load test or a charge."""

    kind: Literal["load", "charge"]
    rated_mah: float
    cell_v: float
    meter: Meter = Field(default_factory=Meter)
    load: LoadKept | None = None
    charge: ChargeRead | None = None

    def rating(self) -> Rating:
        """The rating for the core."""
        return rating(self.rated_mah, self.cell_v)
