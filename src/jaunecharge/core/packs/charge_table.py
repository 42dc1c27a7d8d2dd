"""Full charges of every phone from every pack: measured where one was charged, else estimated and marked so."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from ..measured import Measured
from .charges import Bounds
from .overview import PhoneCharges
from .rating import USUAL_YIELD, Rating
from .walk import BY_COIL_BOUNDS, BY_CORD_BOUNDS, USUAL_BY_COIL, USUAL_BY_CORD, YIELD_BOUNDS, Way

Basis = Literal["measured", "another phone", "load test", "rating"]

OTHER_PHONE = 0.15
"""What a pack gave one phone holds for another of the same way within 15 % (from memory)."""


@dataclass(frozen=True)
class ChargeCell:
    """Full charges of one phone from one pack by one way, within bounds; basis : what they rest on."""

    phone: str
    way: Way
    charges: Bounds
    basis: Basis
    times: int = 0


def charge_cells(
    rated: Rating,
    delivered: Measured | None,
    measured: Sequence[PhoneCharges],
    phones: Sequence[tuple[str, float]],
    ways: Sequence[Way],
) -> list[ChargeCell]:
    """One row of the table.

    Parameters
    ----------
    rated : Rating
    delivered : Measured or None [Wh]
        By a load test to the end.
    measured : sequence of PhoneCharges
        Of this pack.
    phones : sequence of (label, energy of its battery [Wh])
    ways : sequence of {'coil', 'cord'}
        By which the pack gives.

    Notes
    -----
    An estimate rests on the strongest thing known: the energy that reached another phone by the same way, else the
    energy at its socket, else its rating; always wider than what was measured.
    """
    cells = []
    for label, wh in phones:
        for way in ways:
            own = next((c for c in measured if c.way == way and c.phone.casefold() == label.casefold()), None)
            cells.append(
                ChargeCell(own.phone, way, own.charges, "measured", own.times)
                if own is not None
                else _estimate(rated, delivered, measured, label, wh, way)
            )
    return cells


def _estimate(
    rated: Rating, delivered: Measured | None, measured: Sequence[PhoneCharges], label: str, wh: float, way: Way
) -> ChargeCell:
    other = next(
        (c for c in measured if c.way == way and c.phone_wh is not None and c.charges.high < float("inf")), None
    )
    if other is not None and other.phone_wh is not None:
        scale = other.phone_wh / wh
        low, high = other.charges.low * scale * (1 - OTHER_PHONE), other.charges.high * scale * (1 + OTHER_PHONE)
        return ChargeCell(label, way, Bounds(low, other.charges.value * scale, high), "another phone")
    usual, bounds = (USUAL_BY_COIL, BY_COIL_BOUNDS) if way == "coil" else (USUAL_BY_CORD, BY_CORD_BOUNDS)
    if delivered is not None:
        socket = (delivered.value - delivered.expanded, delivered.value, delivered.value + delivered.expanded)
        basis: Basis = "load test"
    else:
        socket = (YIELD_BOUNDS[0] * rated.wh, USUAL_YIELD * rated.wh, YIELD_BOUNDS[1] * rated.wh)
        basis = "rating"
    low, value, high = socket
    return ChargeCell(label, way, Bounds(low * bounds[0] / wh, value * usual / wh, high * bounds[1] / wh), basis)
