"""Reports of phone and charger: watts as the phone reports them, the charger's light. Never mixed with a
meter's readings."""

from collections.abc import Iterable
from dataclasses import dataclass, field

import numpy as np

from ..arrays import Array
from ..wording import counted


def _none() -> Array:
    return np.zeros(0)


@dataclass(frozen=True)
class Besides:
    """time_s, watts : (k,) as the phone reported them [s], [W]; lights : when the charger's light was seen on or off
    [s]; both in order of time."""

    time_s: Array = field(default_factory=_none)
    watts: Array = field(default_factory=_none)
    lights: tuple[tuple[float, bool], ...] = ()

    def __bool__(self) -> bool:
        return bool(len(self.time_s) or self.lights)


def besides(watts: Iterable[tuple[float, float]] = (), lights: Iterable[tuple[float, bool]] = ()) -> Besides:
    """Reports in any order: (at [s], W), and (at [s], whether the light was on)."""
    table = np.array(sorted(watts), dtype=float).reshape(-1, 2)
    return Besides(table[:, 0], table[:, 1], tuple(sorted(lights)))


def phone_watts_said(reports: Besides) -> tuple[str, str]:
    """The watts that the phone reported, and what that rests on; the figures between asterisks."""
    readings = counted(len(reports.watts), "reading")
    spread = f", *{float(reports.watts.mean()):.1f} W* on average" if len(reports.watts) > 1 else ""
    return (
        f"The phone itself reports *{float(reports.watts.max()):.1f} W* at most{spread}",
        f"{readings}; its own figure, behind the charger's losses and never mixed with the meter's",
    )
