"""A cause of a dip, and what it rests on."""

from dataclasses import dataclass
from typing import Literal

from .dips import RawDip

Cause = Literal["supply", "hold", "heat_cutout", "restart", "contact", "heat", "unexplained"]
CAUSES: tuple[Cause, ...] = ("supply", "hold", "heat_cutout", "restart", "contact", "heat", "unexplained")


@dataclass(frozen=True)
class CauseVerdict:
    """A cause, what it rests on, and what would settle it where it is not settled; likely : whether one event alone
    speaks for it, so that it is probable and not shown."""

    cause: Cause
    why: str
    settle: str = ""
    likely: bool = False


def core_of(dip: RawDip) -> slice:
    """The middle of a dip: its edges mix it with what surrounds it."""
    margin = (dip.end - dip.first) // 5
    return slice(dip.first + margin, max(dip.first + margin + 1, dip.end - margin))
