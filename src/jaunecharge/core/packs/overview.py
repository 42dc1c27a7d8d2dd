"""A pack among others: what was promised, what came, and what that costs."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from ..measured import Measured
from ..wording import share
from .charges import Bounds, PackCharge, full_charges
from .load_test import LoadTest
from .rating import Rating, is_good
from .walk import Stage, Way, walk


@dataclass(frozen=True)
class PhoneCharges:
    """Full charges of one phone by one way, over its charges so far; phone_wh [Wh] of its battery."""

    phone: str
    way: Way
    charges: Bounds
    phone_wh: float | None
    times: int

    @property
    def width(self) -> float:
        """Width of the range against its value: the narrowest of several stands for them."""
        return (self.charges.high - self.charges.low) / self.charges.value if self.charges.value > 0 else float("inf")


@dataclass(frozen=True)
class HeldPower:
    """Power held before protection let go: [A] at [V], [W]; claimed_w [W] : what its maker claims, None where
    nothing."""

    held_a: float
    volts: float
    claimed_w: float | None

    @property
    def held_w(self) -> float:
        return self.held_a * self.volts

    @property
    def falls_short(self) -> bool:
        """Whether it holds less than is claimed; without a claim a trip is what protection is for."""
        return self.claimed_w is not None and self.held_w < CLAIM_SHARE * self.claimed_w


def held_power(test: LoadTest, claimed_w: float | None) -> HeldPower | None:
    """Power that a load test shows to be held before protection let go; None where it did not let go, or the volts
    then are not known."""
    if test.trip is None or test.trip.held_a <= 0:
        return None
    near = [s for s in test.steps if s.amps <= NEAR * test.trip.held_a]
    return HeldPower(test.trip.held_a, max(near, key=lambda s: s.amps).volts, claimed_w) if near else None


NEAR = 1.05
CLAIM_SHARE = 0.97
"""Within 3 % of a claim it is met: more than meters differ by (own choice)."""


@dataclass(frozen=True)
class Overview:
    """A pack as a whole. delivered [Wh] by its best load test; charges : by phone and way; stages : the walk of its
    energy by the way that phones are charged from it; per_wh : its price for each watt-hour delivered; verdict : the
    strongest thing to say of it."""

    delivered: Measured | None
    at_least: bool
    charges: tuple[PhoneCharges, ...]
    stages: tuple[Stage, ...]
    per_wh: float | None
    verdict: str
    grams_per_wh: float | None = None
    power: HeldPower | None = None
    shown_by: str = ""
    """The phone whose charges stand for the walk's last stage, in words; empty where none does."""


def overview(
    rated: Rating,
    loads: Sequence[tuple[Measured, bool]],
    charged: Sequence[PhoneCharges],
    price: float | None,
    has_coil: bool,
    grams: float | None = None,
    power: HeldPower | None = None,
) -> Overview:
    """A pack by its tests.

    Parameters
    ----------
    rated : Rating
    loads : sequence of (delivered [Wh], whether it was at least so much)
        In order of time. The latest that went to the end stands for all; where none did, the latest.
    charged : sequence of PhoneCharges
        One for each charge, in order of time.
    price : float or None
    has_coil : bool
    grams : float or None
    power : HeldPower or None
        Where protection let go in its load tests, and what its maker claims.
    """
    whole = [x for x in loads if not x[1]]
    delivered, at_least = (whole or list(loads))[-1] if loads else (None, False)
    charges = _by_phone(charged)
    way: Way = "coil" if has_coil else "cord"
    shown = next((c for c in charges if c.way == way and c.phone_wh is not None), None)
    stages = walk(
        rated, delivered, at_least, way, None if shown is None else shown.charges,
        None if shown is None else shown.phone_wh,
    )  # fmt: skip
    wh = None if delivered is None else delivered.value
    per_wh = None if price is None or wh is None else price / wh
    per_g = None if grams is None or wh is None else grams / wh
    told = _verdict(rated, delivered, at_least, charges, power)
    by = "" if shown is None else f" ({shown.phone or 'a phone'} by {way})"
    return Overview(delivered, at_least, charges, stages, per_wh, told, per_g, power, by)


def charges_seen(phone: str, charge: PackCharge) -> PhoneCharges | None:
    """Full charges by one charge; None where the pack's gauge did not move."""
    bounds = full_charges(charge)
    way: Way = "cord" if charge.by_cord else "coil"
    return None if bounds is None else PhoneCharges(phone, way, bounds, charge.phone_wh, 1)


def _by_phone(charged: Sequence[PhoneCharges]) -> tuple[PhoneCharges, ...]:
    """Charges of each phone by each way, those with the narrowest range standing for it."""
    by_key: dict[tuple[str, Way], list[PhoneCharges]] = {}
    for one in charged:
        by_key.setdefault((one.phone, one.way), []).append(one)
    return tuple(
        replace(min(several, key=lambda one: one.width), times=sum(one.times for one in several))
        for several in by_key.values()
    )


def _verdict(
    rated: Rating, delivered: Measured | None, at_least: bool, charges: Sequence[PhoneCharges], power: HeldPower | None
) -> str:
    if power is not None and power.falls_short:
        volts = f" at {power.volts:.0f} V" if power.volts else ""
        held = f"lets go above *{power.held_a:.1f} A*{volts}"
        return f"{held}: {power.held_w:.0f} W of the {power.claimed_w:g} claimed" if power.claimed_w else held
    if delivered is not None and not at_least and not is_good(delivered.value, rated):
        return f"promises more than comes: *{share(delivered.value / rated.wh)}* of its rated energy"
    by_way = {c.way: c for c in charges}
    if {"coil", "cord"} <= by_way.keys() and by_way["coil"].phone == by_way["cord"].phone:
        coil, cord = by_way["coil"], by_way["cord"]
        return f"*{cord.charges.value:.1f}* charges of {coil.phone} by cord, *{coil.charges.value:.1f}* by coil"
    if charges:
        return f"*{charges[0].charges.value:.1f}* charges of {charges[0].phone or 'a phone'}"
    if delivered is not None:
        least = "at least " if at_least else ""
        return f"gives {least}*{share(delivered.value / rated.wh)}* of its rated energy"
    return "not tested yet"
