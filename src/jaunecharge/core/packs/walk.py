"""The walk of energy: from what is printed on a pack to what lies in a phone's battery, stage by stage."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

from ..measured import Measured
from ..stages import Stage
from .charges import Bounds
from .rating import USUAL_YIELD, Rating

Way = Literal["coil", "cord"]

YIELD_BOUNDS = (0.6, 0.9)
"""Between these the yield of a pack mostly lies (from memory)."""

USUAL_BY_COIL, BY_COIL_BOUNDS = 0.5, (0.35, 0.65)
USUAL_BY_CORD, BY_CORD_BOUNDS = 0.85, (0.75, 0.93)
"""Shares of the energy at the pack's socket that reach a phone's battery by coil and by cord (from memory)."""

USUAL_RECEIVED, RECEIVED_BOUNDS = 0.72, (0.6, 0.85)
"""Share of what leaves the pack's coil that reaches the phone's battery (from memory)."""

WORDS = {"rated": "rated", "socket": "out by cord", "coil": "at the coil", "phone": "in the phone"}


@dataclass(frozen=True)
class Loss:
    """Energy lost between two stages [Wh], as a share of the rated; measured where both are."""

    from_key: str
    to_key: str
    wh: float
    share: float
    measured: bool


def walk(
    rated: Rating,
    delivered: Measured | None = None,
    at_least: bool = False,
    way: Way = "coil",
    charges: Bounds | None = None,
    phone_wh: float | None = None,
) -> tuple[Stage, ...]:
    """The stages of a full pack.

    Parameters
    ----------
    rated : Rating
    delivered : Measured or None [Wh]
        By a load test at its socket.
    at_least : bool
        Whether that ended before the pack was empty.
    way : {'coil', 'cord'}
        How phones are charged from it; by cord there is no coil among the stages.
    charges : Bounds or None
        Full charges of a phone by that way, as `full_charges` gives them.
    phone_wh : float or None [Wh]
        Of that phone's battery.

    References
    ----------
    Estimates are from memory and marked so; they never stand where something was measured.
    """
    socket = _socket(rated, delivered, at_least)
    assert socket.wh is not None and socket.low is not None and socket.high is not None
    phone = _phone(socket, way, charges, phone_wh)
    stages = [Stage("rated", WORDS["rated"], rated.wh, rated.wh, rated.wh, "printed"), socket]
    if way == "coil":
        stages.append(_coil(socket, phone))
    return (*stages, phone)


def _socket(rated: Rating, delivered: Measured | None, at_least: bool) -> Stage:
    if delivered is None:
        low, high = (share * rated.wh for share in YIELD_BOUNDS)
        return Stage("socket", WORDS["socket"], USUAL_YIELD * rated.wh, low, high, "estimated")
    off = delivered.expanded
    high = max(delivered.value + off, rated.wh) if at_least else delivered.value + off
    return Stage("socket", WORDS["socket"], delivered.value, delivered.value - off, high, "measured", at_least)


def _phone(socket: Stage, way: Way, charges: Bounds | None, phone_wh: float | None) -> Stage:
    if charges is not None and phone_wh is not None:
        low, value, high = (c * phone_wh for c in (charges.low, charges.value, charges.high))
        return Stage("phone", WORDS["phone"], value, low, high, "measured")
    usual, bounds = (USUAL_BY_COIL, BY_COIL_BOUNDS) if way == "coil" else (USUAL_BY_CORD, BY_CORD_BOUNDS)
    assert socket.wh is not None and socket.low is not None and socket.high is not None
    return Stage(
        "phone", WORDS["phone"], usual * socket.wh, bounds[0] * socket.low, bounds[1] * socket.high, "estimated"
    )


def _coil(socket: Stage, phone: Stage) -> Stage:
    """Nobody meters what leaves the coil: it is estimated from what arrives, between that and what the pack gives."""
    assert phone.wh is not None and phone.low is not None and phone.high is not None and socket.wh is not None
    if phone.wh >= socket.wh:
        return Stage("coil", WORDS["coil"], None, None, None, "unknown")
    value = min(phone.wh / USUAL_RECEIVED, socket.wh)
    low, high = phone.low / RECEIVED_BOUNDS[1], min(phone.high / RECEIVED_BOUNDS[0], socket.wh)
    return Stage("coil", WORDS["coil"], value, min(low, value), max(high, value), "estimated")


def losses(stages: Sequence[Stage]) -> tuple[Loss, ...]:
    """The losses from stage to stage, those that nobody knows passed over; with the last stage they add up to the
    rated energy. A gain is no loss: it is negative, and says that one of two figures cannot be."""
    known = [(s, s.wh) for s in stages if s.wh is not None]
    total = known[0][1]
    return tuple(
        Loss(a.key, b.key, wh - left, (wh - left) / total, "estimated" not in {a.stand, b.stand})
        for (a, wh), (b, left) in pairwise(known)
    )
