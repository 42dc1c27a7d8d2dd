"""The level of a pack as people see it: a percentage, lamps, a display; each an interval."""

import re
from dataclasses import dataclass

from ..errors import CannotRead
from ..measured import COVERAGE_FACTOR, Measured, Part, half_of_two_rectangles

LAMPS = 4
MOST_LAMPS = 10
HALF_POINT = 0.5
"""A percentage is shown in whole numbers."""


@dataclass(frozen=True)
class PackLevel:
    """A level [%]: somewhere between `low` and `high`; said : as it was read."""

    low: float
    high: float
    said: str

    @property
    def middle(self) -> float:
        return (self.low + self.high) / 2.0


def percent_level(percent: float) -> PackLevel:
    """A level from a whole-number percentage. 100 is full, 0 is empty: neither end is beyond.

    Raises
    ------
    CannotRead
        If it is none.
    """
    if not 0 <= percent <= 100:
        raise CannotRead(f"{percent:g} % is no level", "write 0 to 100", file="level")
    # What is full was charged until it was, and what is empty has given all: these two are no roundings.
    low = percent if percent in (0.0, 100.0) else percent - HALF_POINT
    high = percent if percent in (0.0, 100.0) else percent + HALF_POINT
    return PackLevel(low, high, f"{percent:g} %")


def lamp_level(lit: int, lamps: int = LAMPS) -> PackLevel:
    """A level from lamps: so many lit say that it lies in the step that the last of them stands for.

    Raises
    ------
    CannotRead
        If more are lit than there are.
    """
    if not 1 <= lamps <= MOST_LAMPS:
        raise CannotRead(f"{lamps} lamps are on no pack", f"write 1 to {MOST_LAMPS}", file="lamps")
    if not 0 <= lit <= lamps:
        raise CannotRead(f"{lit} lamps of {lamps} cannot be lit", f"write 0 to {lamps}", file="lamps")
    step = 100.0 / lamps
    low = max(0.0, (lit - 1) * step)
    return PackLevel(low, lit * step, f"{lit} of {lamps} lamps")


def points_between(first: PackLevel, last: PackLevel) -> Measured:
    """Points from the first level down to the last, with what both gauges leave open: the 95 % interval of two
    rectangles, which k = 2 of their standard uncertainties would overstate."""
    half = half_of_two_rectangles((first.high - first.low) / 2.0, (last.high - last.low) / 2.0)
    return Measured(first.middle - last.middle, (Part("both readings of the gauge", half / COVERAGE_FACTOR),))


TYPED_LAMPS = re.compile(r"(\d{1,3})\s*(?:lamps?)?\s*(?:(?:/|of)\s*(\d{1,3})\s*(?:lamps?)?)?", re.IGNORECASE)
TYPED_PERCENT = re.compile(r"(\d{1,3}(?:[.,]\d{1,2})?)\s*%?")


def typed_level(text: str, lamps: int | None = None) -> PackLevel:
    """A level as it is typed: `75`, `75 %`, `3 lamps`, `2/5`, `2 of 5 lamps`. lamps : on the pack, None where nobody
    says: four then, unless the text says how many.

    Raises
    ------
    CannotRead
        If it is none, or tells of more lamps than the pack has.
    """
    words = text.strip()
    if percent := TYPED_PERCENT.fullmatch(words):
        return percent_level(float(percent[1].replace(",", ".")))
    if typed := TYPED_LAMPS.fullmatch(words):
        of = int(typed[2]) if typed[2] else lamps or LAMPS
        if lamps is not None and of != lamps:
            raise CannotRead(
                f"“{words}” speaks of {of} lamps, and this pack has {lamps}", f"write 0 to {lamps} lamps", file="level"
            )
        return lamp_level(int(typed[1]), of)
    raise CannotRead(f"“{words[:40]}” is no level", "write 75, or 3 lamps, or 2/5", file="level")
