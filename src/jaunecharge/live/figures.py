"""Figures that an instrument tells by itself."""

from dataclasses import dataclass

from ..core.log import BOUNDS

QUANTITIES = frozenset(BOUNDS)


@dataclass(frozen=True)
class Figures:
    """Figures of one line or message, and when it came [s of the steady clock], None: just now; what it does not hold
    is None.

    mark : number under which a broker wants it acknowledged.
    """

    at_s: float | None
    volts: float | None = None
    amps: float | None = None
    watts: float | None = None
    celsius: float | None = None
    percent: float | None = None
    humidity: float | None = None
    mark: int | None = None


def within(quantity: str, value: float) -> bool:
    """Whether a figure is one that a charge can have; one that is not is left out, as a pushed reading is refused."""
    low, high = BOUNDS[quantity]
    return low <= value <= high
