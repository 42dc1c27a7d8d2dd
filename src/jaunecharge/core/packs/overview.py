"""A pack among others: what was promised, what came, and what that costs."""

from collections.abc import Sequence
from dataclasses import dataclass

from ..measured import Measured
from ..wording import share
from .charges import Bounds, PackCharge, full_charges
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


def overview(
    rated: Rating,
    loads: Sequence[tuple[Measured, bool]],
    charged: Sequence[tuple[str, PackCharge]],
    price: float | None,
    has_coil: bool,
) -> Overview:
    """A pack by its tests.

    Parameters
    ----------
    rated : Rating
    loads : sequence of (delivered [Wh], whether it was at least so much)
        In order of time. The latest that went to the end stands for all; where none did, the latest.
    charged : sequence of (phone, charge)
    price : float or None
    has_coil : bool
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
    per_wh = None if price is None or delivered is None else price / delivered.value
    return Overview(delivered, at_least, charges, stages, per_wh, _verdict(rated, delivered, at_least, charges))


def _by_phone(charged: Sequence[tuple[str, PackCharge]]) -> tuple[PhoneCharges, ...]:
    """Charges of each phone by each way, those with the narrowest range standing for it."""
    by_key: dict[tuple[str, Way], list[PackCharge]] = {}
    for phone, charge in charged:
        by_key.setdefault((phone, "cord" if charge.by_cord else "coil"), []).append(charge)
    found = []
    for (phone, way), several in by_key.items():
        told = [(c, b) for c in several if (b := full_charges(c)) is not None]
        if told:
            best, bounds = min(told, key=lambda x: (x[1].high - x[1].low) / x[1].value)
            found.append(PhoneCharges(phone, way, bounds, best.phone_wh, len(told)))
    return tuple(found)


def _verdict(rated: Rating, delivered: Measured | None, at_least: bool, charges: Sequence[PhoneCharges]) -> str:
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
