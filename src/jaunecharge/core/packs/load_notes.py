"""Notes on a load test: what a person saw and a log does not show."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from ..arrays import Array
from ..errors import CannotRead
from .levels import PackLevel

Restart = Literal["", "by itself", "by its button", "when the load was taken off", "not at all"]
"""Ways in which an output that went off came back; empty where nobody saw it."""

MODES = ("5 V", "9 V", "12 V", "15 V", "20 V", "28 V", "PPS", "a maker's own")
"""Modes that an output can show: the fixed supplies of USB PD 3.1, its programmable ones, others."""

MOST_HEAT, NEAR_S = 1000, 600.0
"""A temperature holds for ten minutes about its reading (own choice)."""

FIXED_V = (5.0, 9.0, 12.0, 15.0, 20.0, 28.0)
ABOVE, BELOW = 1.06, 0.91
"""Volts at a socket lie 5 % about what was agreed (USB PD 3.1), and lower behind a cord and a meter (own choice)."""


@dataclass(frozen=True)
class LevelSeen:
    """The level that the pack showed, so many seconds after the load was switched on [s]."""

    at_s: float
    level: PackLevel


@dataclass(frozen=True)
class LoadNotes:
    """Observations beside the log. restart : how it came back; low_current : whether its mode for small loads was on;
    modes : those that were ticked; levels : what its gauge showed, in order of time; certified : whether the load is,
    None where nobody says; outlet : which of its outputs; heat : (at [s], [°C]) at its hottest place, in order of time.
    """

    restart: Restart = ""
    low_current: bool | None = None
    modes: tuple[str, ...] = ()
    levels: tuple[LevelSeen, ...] = ()
    certified: bool | None = None
    outlet: str = ""
    heat: tuple[tuple[float, float], ...] = ()

    @property
    def hottest(self) -> tuple[float, float] | None:
        """When it was hottest [s after the load was on], and how hot [°C]; None where nobody read it."""
        return max(self.heat, key=lambda read: read[1], default=None)

    def warmth_at(self, at_s: float) -> tuple[float, float] | None:
        """Its temperature then, and how much warmer than at first it was [°C], [K]; None where it was not read then."""
        near = [read for read in self.heat if abs(read[0] - at_s) <= NEAR_S]
        if not near:
            return None
        celsius = min(near, key=lambda read: abs(read[0] - at_s))[1]
        return celsius, celsius - min(self.heat)[1]


def thinned_heat(time_s: Array, celsius: Array, most: int = MOST_HEAT) -> list[tuple[float, float]]:
    """Temperatures in no more than so many readings, the hottest of each stretch: (at [s], [°C])."""
    import numpy as np

    known = np.isfinite(celsius)
    t, c = time_s[known], celsius[known]
    if len(t) <= most:
        return list(zip(t.tolist(), c.tolist(), strict=True))
    parts = np.array_split(np.arange(len(t)), most)
    picked = [int(part[np.argmax(c[part])]) for part in parts]
    return [(float(t[i]), float(c[i])) for i in picked]


def mode_of(volts: float) -> str:
    """The fixed supply that a level of volts is [V], as it is said; empty where it is none of them."""
    for fixed in FIXED_V:
        if BELOW * fixed <= volts <= ABOVE * fixed:
            return f"{fixed:g} V"
    return ""


def modes_seen(volts: Sequence[float]) -> tuple[str, ...]:
    """The fixed supplies among levels of volts [V], lowest first."""
    seen = {mode for v in volts if (mode := mode_of(v))}
    return tuple(m for m in MODES if m in seen)


_PAIR = re.compile(r"(-?\d+(?:[.,]\d+)?)\s*A?\s*(?:[:@ ])\s*(-?\d+(?:[.,]\d+)?)\s*V?", re.IGNORECASE)
MOST_V, MOST_A, MOST_PAIRS = 60.0, 30.0, 200


def typed_loads(text: str) -> tuple[tuple[float, float], ...]:
    """Amps and volts as they are typed, one load each: `0 A 5.12 V, 1 A 5.06 V`, or `0 5.12; 1 5.06`.

    Raises
    ------
    CannotRead
    """
    pairs = []
    for part in (p for p in re.split(r"[;\n]|,\s+", text) if p.strip()):
        match = _PAIR.fullmatch(part.strip())
        if match is None:
            raise CannotRead(f"“{part.strip()[:40]}” is not a load", "write amps and volts: 1 A 5.06 V", file="loads")
        amps, volts = (float(x.replace(",", ".")) for x in match.groups())
        if not (0 <= amps <= MOST_A and 0 <= volts <= MOST_V):
            raise CannotRead(
                f"{amps:g} A at {volts:g} V is no load", f"0 to {MOST_A:g} A, 0 to {MOST_V:g} V", file="loads"
            )
        pairs.append((amps, volts))
    if len(pairs) > MOST_PAIRS:
        raise CannotRead(
            f"{len(pairs)} loads are too many", f"type {MOST_PAIRS} at most, or send the log", file="loads"
        )
    return tuple(pairs)
