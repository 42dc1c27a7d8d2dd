"""The question of a finding: to which percentage, and under which temperature a phone has to stay."""

import re
from dataclasses import dataclass

from ..milestones import MILESTONES, SLOWS_FROM
from ..units import from_fahrenheit

_TO = re.compile(r"\b(?:to|until|up to|reach(?:es)?|at)\s+(\d{1,3})\s*(?:%|per ?cent\b)", re.IGNORECASE)
_FULL = re.compile(r"\b(?:to|until|till)\s+(?:it is |they are )?full\b|\bfull charge\b|\bfully\b", re.IGNORECASE)
_UNDER = re.compile(
    r"\b(?:under|below|cooler than|less than|not over|at most|no more than|never over)\s+(\d{2,3}(?:[.,]\d)?)\s*°?\s*"
    r"([CF])\b",
    re.IGNORECASE,
)
LIMITS_C = (30.0, 60.0)
"""Temperatures between which a limit makes sense for a phone [°C] (own choice)."""


@dataclass(frozen=True)
class FindingQuestion:
    """A question as it was typed. to : percentage up to which chargers are compared; limit_c : temperature that the
    phone must not reach [°C], None where none is asked for."""

    text: str
    to: float = float(SLOWS_FROM)
    limit_c: float | None = None


def read_question(text: str) -> FindingQuestion:
    """A question, with the percentage and the temperature that it names."""
    to = _TO.search(text)
    percent = float(MILESTONES[-1]) if _FULL.search(text) else float(SLOWS_FROM)
    if to and 0 < float(to[1]) <= 100:
        percent = float(to[1])
    under = _UNDER.search(text)
    limit = None
    if under:
        degrees = float(under[1].replace(",", "."))
        celsius = from_fahrenheit(degrees) if under[2].upper() == "F" else degrees
        limit = celsius if LIMITS_C[0] <= celsius <= LIMITS_C[1] else None
    return FindingQuestion(text, percent, limit)
