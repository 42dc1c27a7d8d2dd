"""A value with its uncertainty and the budget that it is made of (JCGM 100:2008, "GUM")."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

COVERAGE_FACTOR = 2.0
"""k of every expanded uncertainty that is reported (JCGM 100:2008, 6.2.1)."""


@dataclass(frozen=True)
class Part:
    """One line of an uncertainty budget: where it comes from, and its share in the unit of the result."""

    source: str
    standard: float


@dataclass(frozen=True)
class Measured:
    """A value and the independent parts of its standard uncertainty, all in one unit."""

    value: float
    parts: tuple[Part, ...] = ()

    @property
    def standard(self) -> float:
        """Combined standard uncertainty: the parts in quadrature (JCGM 100:2008, 5.1.2)."""
        return math.hypot(*(p.standard for p in self.parts)) if self.parts else 0.0

    @property
    def expanded(self) -> float:
        """Expanded uncertainty at k = 2."""
        return COVERAGE_FACTOR * self.standard

    @property
    def stated(self) -> float | None:
        """Expanded uncertainty at k = 2; None where nothing of it is known, which is not the same as none."""
        return self.expanded if self.parts else None

    def over(self, other: "Measured") -> "Measured":
        """The quotient of two independent values, with the parts of both carried into it."""
        value = self.value / other.value
        return Measured(
            value,
            tuple(Part(p.source, abs(p.standard / other.value)) for p in self.parts)
            + tuple(Part(p.source, abs(value * p.standard / other.value)) for p in other.parts),
        )

    def scaled(self, factor: float) -> "Measured":
        """The value times an exactly known factor."""
        return Measured(self.value * factor, tuple(Part(p.source, abs(factor) * p.standard) for p in self.parts))


def total(values: Sequence[Measured]) -> Measured:
    """The sum of values; parts of one source are common to all of them and add up (JCGM 100:2008, 5.2.2, note 1)."""
    parts: dict[str, float] = {}
    for part in (p for v in values for p in v.parts):
        parts[part.source] = parts.get(part.source, 0.0) + part.standard
    return Measured(sum(v.value for v in values), tuple(Part(source, u) for source, u in parts.items()))


def rectangle(half_width: float) -> float:
    """Standard uncertainty of a value known only to lie within ± `half_width` (JCGM 100:2008, 4.3.7)."""
    return half_width / math.sqrt(3.0)


def half_of_two_rectangles(a: float, b: float) -> float:
    """Half-width of the 95 % interval of the sum of two rectangles of half-widths `a` and `b`.

    Of one alone 0.95 of its half-width; of two what lies within that share of the trapezoid that they make, worked out
    here: k = 2 of their standard uncertainties would overstate both.
    """
    wide, narrow = max(a, b), min(a, b)
    if narrow <= 0.0 or wide - narrow >= 0.95 * wide:
        return 0.95 * wide
    return wide + narrow - math.sqrt(0.2 * wide * narrow)


def lopsided_rectangle(below: float, above: float) -> float:
    """Standard uncertainty about 0 of a rectangle from −`below` to +`above`, its shift left uncorrected.

    The root mean square distance from 0: variance plus squared shift (JCGM 100:2008, F.2.4.5, from memory).
    """
    return math.sqrt((above**3 + below**3) / (3.0 * (above + below)))
