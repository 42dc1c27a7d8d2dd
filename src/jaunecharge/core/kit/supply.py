"""Supply profiles: what an adapter offers and what a charger asks for, in volts and amps."""

import re
from dataclasses import dataclass
from typing import Annotated

from annotated_types import Gt, Le

from ..errors import CannotRead

MOST_V, MOST_A, MOST_RATED_W = 60.0, 10.0, 400.0
Volts = Annotated[float, Gt(0), Le(MOST_V)]
Amps = Annotated[float, Gt(0), Le(MOST_A)]

_NUMBER = r"(\d+(?:[.,]\d+)?)"
_FIXED = re.compile(rf"^{_NUMBER}\s*V\s*(?:[x×/@=]?\s*{_NUMBER}\s*A)?$", re.IGNORECASE)
_RANGE = re.compile(rf"^(?:PPS\s*)?{_NUMBER}\s*V?\s*[-–]\s*{_NUMBER}\s*V\s*[x×/@=]?\s*{_NUMBER}\s*A$", re.IGNORECASE)
_RATED = re.compile(rf"^{_NUMBER}\s*W$", re.IGNORECASE)


@dataclass(frozen=True)
class SupplyProfile:
    """A fixed voltage [V] and the most amps [A] at it."""

    volts: Volts
    amps: Amps

    @property
    def watts(self) -> float:
        """Power at that voltage [W]."""
        return self.volts * self.amps

    def __str__(self) -> str:
        return f"{self.volts:g}V{self.amps:g}A"

    @property
    def said(self) -> str:
        """As a sentence has it."""
        return f"{self.volts:g} V {self.amps:g} A"


@dataclass(frozen=True)
class PpsRange:
    """A voltage that can be set within a range [V], and the most amps [A] in it."""

    low_v: Volts
    high_v: Volts
    amps: Amps

    def __str__(self) -> str:
        return f"PPS {self.low_v:g}-{self.high_v:g}V{self.amps:g}A"


@dataclass(frozen=True)
class Offers:
    """A supply as it was written: profiles, ranges, or a rating [W] alone."""

    profiles: tuple[SupplyProfile, ...] = ()
    pps: tuple[PpsRange, ...] = ()
    rated_w: float | None = None


HOW = "write volts and amps of each profile, as 5V3A,9V2.22A, or the rating alone, as 20W"


def supply_profile(text: str, field: str = "") -> SupplyProfile:
    """One fixed profile, written as `9V2.22A`.

    Raises
    ------
    CannotRead
        Naming what is missing: volts without amps say nothing of power.
    """
    match = _FIXED.match(text.strip())
    if match is None:
        raise CannotRead(f"“{text.strip()}” is not a supply profile", "write volts and amps, as 9V2.22A", file=field)
    if match[2] is None:
        mend = f"add them, as {match[1].replace(',', '.')}V2A: volts alone say nothing of power"
        raise CannotRead(f"“{text.strip()}” has no amps", mend, file=field)
    return SupplyProfile(
        _within(match[1], "V", MOST_V, text, field),
        _within(match[2], "A", MOST_A, text, field),
    )


def supply_profiles(text: str, field: str = "") -> tuple[SupplyProfile, ...]:
    """Fixed profiles, separated by commas.

    Raises
    ------
    CannotRead
    """
    return tuple(supply_profile(part, field) for part in parts(text))


def offers(text: str, field: str = "adapter") -> Offers:
    """Offer of an adapter: `5V3A,9V2.22A`, `PPS 3.3-11V3A` among them, or its rating alone, `20W`.

    Raises
    ------
    CannotRead
    """
    fixed: list[SupplyProfile] = []
    ranges: list[PpsRange] = []
    rated: float | None = None
    for part in parts(text):
        if match := _RATED.match(part):
            rated = _within(match[1], "W", MOST_RATED_W, part, field)
        elif match := _RANGE.match(part):
            low, high, amps = (
                _within(match[i], "V" if i < 3 else "A", MOST_V if i < 3 else MOST_A, part, field) for i in (1, 2, 3)
            )
            if low >= high:
                raise CannotRead(f"“{part}” runs from high to low", "write the lower voltage first", file=field)
            ranges.append(PpsRange(low, high, amps))
        elif part.lstrip().startswith(("-", "−")):
            raise CannotRead(f"“{part}” is negative", "a supply gives volts and amps above 0", file=field)
        else:
            fixed.append(supply_profile(part, field))
    if not (fixed or ranges or rated):
        raise CannotRead("no supply profile is given", HOW, file=field)
    return Offers(tuple(sorted(fixed, key=lambda p: p.volts)), tuple(ranges), rated)


def parts(text: str) -> list[str]:
    """The parts of a list that is separated by commas or semicolons; a comma after a digit is a decimal comma."""
    return [p.strip() for p in re.split(r"[;\n]|(?<!\d),|,(?=\s)", text) if p.strip()]


def _within(number: str, unit: str, most: float, text: str, field: str) -> float:
    value = float(number.replace(",", "."))
    if not 0 < value <= most:
        what = f"“{text.strip()}”: {value:g} {unit} cannot be"
        what = f"“{text.strip()}”: {value:g} {unit} cannot be"
        raise CannotRead(what, f"above 0 and at most {most:g} {unit}", file=field)
    return value
