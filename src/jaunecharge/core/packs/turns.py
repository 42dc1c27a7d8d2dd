"""Charges of a pack in turn: which of them belong to one discharge."""

from collections.abc import Sequence

from .charges import PackCharge

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
