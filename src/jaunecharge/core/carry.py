"""A measured curve carried over to a phone of another capacity: an estimate, never a measurement."""

from dataclasses import dataclass

import numpy as np

from .errors import CannotRead
from .trace import Array

CARRY_UNCERTAINTY = 0.15
"""Half-width of the range of carried-over minutes, as a share (common practice: measured phones of equal capacity
differ by 10 % and more)."""


@dataclass(frozen=True)
class Carried:
    """Estimated check-ins of the other phone: minutes : (n,) [min], their low and high ends, percent : (n,) [%]."""

    minutes: Array
    low_min: Array
    high_min: Array
    percent: Array
    ratio: float


def carry_over(minutes: Array, percent: Array, from_mah: float, to_mah: float) -> Carried:
    """A battery curve at another capacity: minutes scaled at equal percentages.

    Parameters
    ----------
    minutes : (n,) float array [min]
        After placing, in order.
    percent : (n,) float array [%]
    from_mah, to_mah : float [mAh]
        Capacity of the measured phone and of the other one, of the same acceptance tier and cell voltage.

    Returns
    -------
    Carried

    Raises
    ------
    CannotRead
        If a capacity is not above 0, or there is no check-in.

    References
    ----------
    Common practice. Scaling the percentages instead never reaches 100.
    """
    for name, value in (("measured phone", from_mah), ("other phone", to_mah)):
        if not (np.isfinite(value) and value > 0):
            raise CannotRead(f"the capacity of the {name}, {value:g} mAh, cannot be", "a capacity is above 0 mAh")
    if len(minutes) == 0:
        raise CannotRead("it holds no check-ins", "a list of [minute, percent]")
    ratio = to_mah / from_mah
    scaled = np.asarray(minutes, dtype=float) * ratio
    low, high = scaled * (1.0 - CARRY_UNCERTAINTY), scaled * (1.0 + CARRY_UNCERTAINTY)
    return Carried(scaled, low, high, np.asarray(percent, dtype=float), ratio)
