"""Stages of a walk of energy: what is left of it at one point after another."""

from dataclasses import dataclass
from typing import Literal

Stand = Literal["printed", "measured", "estimated", "unknown"]


@dataclass(frozen=True)
class Stage:
    """One stage of energy on its way [Wh], between `low` and `high`; None where nobody can say. at_least : measured,
    but not to the end."""

    key: str
    words: str
    wh: float | None
    low: float | None
    high: float | None
    stand: Stand
    at_least: bool = False
