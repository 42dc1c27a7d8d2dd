"""A measured curve carried over to a phone of another capacity: an estimate, never a measurement."""

from dataclasses import dataclass

import numpy as np

from ..arrays import Array
from ..errors import CannotRead
from ..kit.items import Phone
from ..kit.transfer import Transfer, agree

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


@dataclass(frozen=True)
class CarriedLap:
    """Estimated minutes over a window on another phone, and their range [min]."""

    low: float
    estimate: float
    high: float


def carried_lap(minutes: float, from_mah: float, to_mah: float) -> CarriedLap:
    """The minutes over a window of percentages, on a phone of another capacity.

    Parameters
    ----------
    minutes : float [min]
        Measured over the same window.
    from_mah, to_mah : float [mAh]
        As in `carry_over`.

    Raises
    ------
    CannotRead
    """
    carried = carry_over(np.array([minutes]), np.zeros(1), from_mah, to_mah)
    return CarriedLap(float(carried.low_min[0]), float(carried.minutes[0]), float(carried.high_min[0]))


SAME_TIER_SHARE = 0.1
"""Limits of two phones within a tenth are one acceptance tier (own choice)."""


def most_w(phone: Phone | None, gives: tuple[Transfer, ...] | None, by_wire: bool = False) -> float | None:
    """Most that a phone takes from a charger that gives these profiles, or by wire [W]; None where nobody knows."""
    if phone is None:
        return None
    if by_wire:
        return phone.wired_w
    return agree(gives, phone.accepts).watts if gives is not None and phone.accepts else None


def tier_said(from_w: float | None, to_w: float | None, by_wire: bool = False) -> tuple[bool | None, str]:
    """Whether two phones take as much from a charger, or by wire, so that minutes carry over, and why.

    Parameters
    ----------
    from_w, to_w : float or None [W]
        What the measured and the other phone take at most from this charger; None where nobody knows.

    Returns
    -------
    (True, False or None where it is not known; in words)
    """
    through = "by wire" if by_wire else "from this charger"
    if from_w is None or to_w is None:
        return None, f"whether both phones take as much {through} is not known"
    if abs(from_w - to_w) <= SAME_TIER_SHARE * max(from_w, to_w):
        return True, f"both phones take up to {to_w:g} W {through}"
    return False, (
        f"{through} the measured phone takes up to {from_w:g} W, the other {to_w:g} W: minutes do not carry over"
    )


@dataclass(frozen=True)
class CarriedOver:
    """Expectation of another phone from a charger: the minutes where they carry over, the ratio of capacities, whether
    both phones are of one acceptance tier, and why, in words."""

    lap: CarriedLap | None
    ratio: float | None
    same_tier: bool | None
    said: str


def estimate(
    minutes: float | None,
    from_mah: float | None,
    to_mah: float,
    from_w: float | None = None,
    to_w: float | None = None,
    same_phone: bool = False,
    by_wire: bool = False,
) -> CarriedOver:
    """Minutes over a window on another phone, or why there are none.

    Parameters
    ----------
    minutes : float or None [min]
        Measured over the window; None where the run has no time over it.
    from_mah, to_mah : float [mAh]
        Capacity of the measured phone, None where nobody stated it, and of the other.
    from_w, to_w : float or None [W], by_wire : bool
        As in `tier_said`.
    same_phone : bool
        Whether the other phone is the measured one: then its own time counts.

    Raises
    ------
    CannotRead
    """
    same_tier, text = tier_said(from_w, to_w, by_wire)
    ratio = None if from_mah is None else to_mah / from_mah
    if same_phone:
        return CarriedOver(None, ratio, same_tier, "measured on this very phone: its own time stands above")
    if from_mah is None:
        return CarriedOver(None, ratio, same_tier, "the capacity of the measured phone is not known")
    if minutes is None:
        return CarriedOver(None, ratio, same_tier, "the measured phone has no time over this window")
    lap = None if same_tier is False else carried_lap(minutes, from_mah, to_mah)
    return CarriedOver(lap, ratio, same_tier, text)
