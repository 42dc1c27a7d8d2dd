"""Charging phones from a pack: how many full charges it gives, and how much of its energy arrives."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from ..errors import CannotRead
from .levels import PackLevel
from .rating import Rating

MOST_BY_COIL, MOST_BY_CORD = 0.85, 0.97
"""More of a pack's energy arrives in no phone's battery (common practice by coil; by cord from memory): a gauge that
says so is not to be believed."""


@dataclass(frozen=True)
class Bounds:
    """A value that is known to lie between two others."""

    low: float
    value: float
    high: float


@dataclass(frozen=True)
class PackCharge:
    """One charge of a phone from a pack. pack_before, pack_after, phone_before, phone_after : levels; phone_wh [Wh] :
    of the phone's battery, None where unknown; by_cord : by wire, else by coil."""

    pack_before: PackLevel
    pack_after: PackLevel
    phone_before: PackLevel
    phone_after: PackLevel
    phone_wh: float | None = None
    by_cord: bool = False


def check_charge(charge: PackCharge) -> PackCharge:
    """A charge that can be.

    Raises
    ------
    CannotRead
        If the pack's level rose while it gave, or the phone's did not rise.
    """
    if charge.pack_after.low > charge.pack_before.high:
        raise CannotRead(
            f"the pack went up from {charge.pack_before.said} to {charge.pack_after.said} while it gave",
            "write the level before the charge first; a pack that was charged meanwhile is another test", file="pack",
        )  # fmt: skip
    if charge.phone_after.high <= charge.phone_before.low:
        raise CannotRead(
            f"the phone went from {charge.phone_before.said} to {charge.phone_after.said}",
            "write the level before the charge first", file="phone",
        )  # fmt: skip
    return charge


def _span(before: PackLevel, after: PackLevel) -> Bounds:
    """Points between two levels of one gauge, the larger first."""
    least = max(0.0, before.low - after.high)
    return Bounds(least, before.middle - after.middle, before.high - after.low)


def points_gained(charge: PackCharge) -> Bounds:
    """Points that the phone gained."""
    return _span(charge.phone_after, charge.phone_before)


def points_used(charge: PackCharge) -> Bounds:
    """Points that the pack lost."""
    return _span(charge.pack_before, charge.pack_after)


def full_charges(charge: PackCharge) -> Bounds | None:
    """Full charges of this phone that a full pack gives: points gained over points used; None where the pack's gauge
    did not move. The upper end is infinite where it may not have."""
    gained, used = points_gained(charge), points_used(charge)
    if used.value <= 0:
        return None
    return Bounds(
        gained.low / used.high, gained.value / used.value, gained.high / used.low if used.low > 0 else float("inf")
    )


def transfer_efficiency(charge: PackCharge, rated: Rating, usable: float = 1.0) -> Bounds | None:
    """Share of the pack's energy that arrived in the phone's battery; None where its battery is not known.

    usable : share of the rated energy that the pack's 100 points stand for; 1 where nobody measured it, so that what
    the pack loses within itself counts as lost on the way.
    """
    charges = full_charges(charge)
    if charges is None or charge.phone_wh is None:
        return None
    scale = charge.phone_wh / (rated.wh * usable)
    return Bounds(charges.low * scale, charges.value * scale, charges.high * scale)


def not_believed(charge: PackCharge, rated: Rating) -> str:
    """Why the pack's gauge is not to be believed; empty where it may be."""
    efficiency = transfer_efficiency(charge, rated)
    most = MOST_BY_CORD if charge.by_cord else MOST_BY_COIL
    if efficiency is None or efficiency.low <= most:
        return ""
    way = "by cord" if charge.by_cord else "by coil"
    return (
        f"The pack's gauge is not to be believed: {charge.pack_before.said} to {charge.pack_after.said} for what the"
        f" phone gained would be {efficiency.value:.0%} {way}."
    )


@dataclass(frozen=True)
class InTurn:
    """Several phones charged in turn from one full pack: full charges of them together, and where the last one stood as
    the pack was empty, None where it was not."""

    charges: Bounds
    used: Bounds
    ran_empty_at: PackLevel | None


def in_turn(charges: list[PackCharge], emptied: bool) -> InTurn:
    """Phones in turn until the pack is empty: what was begun counts for what it gained.

    Raises
    ------
    CannotRead
        If there is none, or the pack's level rises from one to the next.
    """
    if not charges:
        raise CannotRead("no charge is stated", "log one at least", file="charges")
    for charge in charges:
        check_charge(charge)
    for before, after in pairwise(charges):
        if after.pack_before.low > before.pack_after.high:
            raise CannotRead(
                f"the pack went up from {before.pack_after.said} to {after.pack_before.said} between two charges",
                "a pack that was charged in between begins another test", file="pack",
            )  # fmt: skip
    gained = [points_gained(c) for c in charges]
    used = _span(charges[0].pack_before, charges[-1].pack_after)
    total = Bounds(
        sum(g.low for g in gained) / 100.0, sum(g.value for g in gained) / 100.0, sum(g.high for g in gained) / 100.0
    )
    return InTurn(total, used, charges[-1].phone_after if emptied else None)


FULL = 99.0


def discharges(charges: Sequence[PackCharge]) -> list[list[int]]:
    """Charges, in order of time, by discharge: places in the list.

    A charge goes on from the one before where the pack's level is what that one left, within what both gauges leave
    open, and not full; else the pack was charged in between.
    """
    groups: list[list[int]] = []
    for n, charge in enumerate(charges):
        last = None if not groups else charges[groups[-1][-1]]
        begin, left = charge.pack_before, None if last is None else last.pack_after
        full = begin.middle >= FULL
        if left is not None and not full and begin.low <= left.high and begin.high >= left.low:
            groups[-1].append(n)
        else:
            groups.append([n])
    return groups
