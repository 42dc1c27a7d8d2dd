"""Conditions of a run as the tester typed them, as a JSON document."""

from typing import Any

from pydantic import BaseModel, Field

from ..core.errors import CannotRead
from ..core.kit import Capacity
from ..core.log import Battery, MeterSpec
from ..core.reading import Conditions
from .document import VERSION, Document


class Meter(BaseModel):
    """Accuracy of the meter: ±(gain % of reading + counts)."""

    gain_percent: float | None = Field(0.5, ge=0, le=20, description="gain error, % of reading; null: not known")
    counts_v: float = Field(0.01, ge=0, le=5, description="counts of the volts, V")
    counts_a: float = Field(0.01, ge=0, le=5, description="counts of the amps, A")

    def spec(self) -> MeterSpec:
        """The same for the core."""
        return MeterSpec(self.gain_percent, self.counts_v, self.counts_a)


class Case(Document):
    """The conditions of a run; everything is optional, and what is not known here is ignored."""

    capacity_mah: Capacity | None = Field(None, description="rated capacity of the battery, mAh")
    nominal_v: float | None = Field(None, gt=0, le=30, description="nominal voltage of the battery, V")
    battery_health: float | None = Field(None, gt=0, le=1, description="health of the battery, 0–1")
    ambient_c: float | None = Field(None, ge=-40, le=80, description="the room, °C")
    claimed_w: float | None = Field(None, gt=0, le=400, description="what the charger claims to deliver, W")
    placed_s: float | None = Field(
        None, ge=-1e10, le=1e10, description="when the phone was placed, s on the log's clock"
    )
    interval_min: float | None = Field(None, gt=0, le=1440, description="minutes between check-ins")
    meter: Meter = Field(default_factory=Meter)
    socket_meter: Meter | None = Field(None, description="the meter at the socket, where one stood there")
    socket_shared: bool = Field(False, description="whether that fed other chains as well")
    shared_with: str = Field("", description="what else the meter fed: its watts are then credited to nobody")
    simulated: bool = Field(False, description="whether it comes from the simulator")

    def kept(self) -> dict[str, Any]:
        # What nobody stated is left out; a meter whose accuracy is known to be unknown is something stated.
        dump = self.model_dump(mode="json", exclude=None if "meter" in self.model_fields_set else {"meter"})
        return {VERSION: self.VERSION, **{name: value for name, value in dump.items() if value is not None}}

    def conditions(self) -> Conditions:
        """The same for the core.

        Raises
        ------
        CannotRead
            If only one of capacity and voltage is given: mAh say nothing without their voltage.
        """
        if (self.capacity_mah is None) != (self.nominal_v is None):
            raise CannotRead(
                "of the battery's capacity and voltage one is missing", "give both, mAh and V", file="battery"
            )
        battery = None
        if self.capacity_mah is not None and self.nominal_v is not None:
            battery = Battery(self.capacity_mah, self.nominal_v, self.battery_health)
        return Conditions(
            battery,
            self.placed_s,
            self.claimed_w,
            self.interval_min,
            self.ambient_c,
            self.meter.spec(),
            self.simulated,
            self.shared_with,
            socket_meter=MeterSpec(None) if self.socket_meter is None else self.socket_meter.spec(),
            socket_shared=self.socket_shared,
        )
