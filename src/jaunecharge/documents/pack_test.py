"""A test of a pack as it is kept."""

from typing import Literal

from pydantic import BaseModel, Field

from ..core.packs import PackCharge, Rating, check_charge, percent_level, rating, typed_level
from ..core.units import battery_wh
from .case import Meter
from .document import Document


class ChargeRead(BaseModel):
    """A phone charged from a pack, as it was read."""

    phone: str = Field("", max_length=200)
    phone_mah: float | None = Field(None, gt=0, le=100_000)
    phone_v: float | None = Field(None, gt=0, le=30)
    pack_before: str = Field(max_length=40, description="its level as it was read: 75, 3 lamps, 2/5")
    pack_after: str = Field(max_length=40)
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
                typed_level(self.pack_before), typed_level(self.pack_after), percent_level(self.phone_before),
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
