"""Facts of heat: the hottest, the rise over the room, minutes at or above the usual thresholds, each place apart."""

import re
from dataclasses import dataclass, replace

import numpy as np

from ..arrays import Array, median
from ..errors import CannotRead
from ..safety import THRESHOLDS_C
from ..units import MINUTE_S

HOT_C = 38.0
MOST_PLACES = 200
HOLE_STEPS, HOLE_FLOOR_S = 10.0, 300.0
DENSE_S = 45.0
"""Readings no further apart than this show the temperature throughout; between others it is estimated."""

_PHONE_WORDS = frozenset(
    {"back", "front", "contact", "phone", "screen", "display", "camera", "thermal", "infrared", "ir", "battery"}
)
_CHARGER_WORDS = frozenset({"pad", "charger", "puck", "stand", "dock", "underside", "adapter", "pack", "coil"})
_ROOM_WORDS = frozenset({"ambient", "room", "air"})


def _words(place: str) -> set[str]:
    return set(re.findall(r"[^\W\d_]+", place.casefold()))


def is_room(place: str) -> bool:
    """Whether a place that was measured is the room."""
    words = _words(place)
    return bool(words & _ROOM_WORDS) and not words & (_PHONE_WORDS | _CHARGER_WORDS)


def is_phone(place: str) -> bool:
    """Whether a place that was measured is on the phone: `back`, `Back top`, `front (screen)`, `thermal camera max`."""
    words = _words(place)
    return bool(words & _PHONE_WORDS) and not words & _CHARGER_WORDS


@dataclass(frozen=True)
class Surface:
    """Temperatures at one place. time_s : (k,) [s] increasing; celsius : (k,) [°C]."""

    position: str
    time_s: Array
    celsius: Array


@dataclass(frozen=True)
class HeatLog:
    """Every place that was measured, and the room where it was."""

    surfaces: tuple[Surface, ...]
    ambient: Surface | None = None

    def shifted(self, seconds: float) -> "HeatLog":
        """The same so many seconds later."""
        moved = tuple(replace(s, time_s=s.time_s + seconds) for s in self.surfaces)
        room = self.ambient
        return HeatLog(moved, None if room is None else replace(room, time_s=room.time_s + seconds))

    def phone(self) -> Surface | None:
        """The phone's hottest measured place, or the hottest of all where none is named as the phone's."""
        named = [s for s in self.surfaces if is_phone(s.position)]
        return max(named or self.surfaces, key=lambda s: float(s.celsius.max()), default=None)


@dataclass(frozen=True)
class HeatFacts:
    """Hottest reading [°C] and when [s], rise over the room [K] or None, minutes at or above each threshold; every_s :
    usual step between readings [s], None for a single one."""

    position: str
    max_c: float
    max_at_s: float
    rise_k: float | None
    minutes_over: dict[int, float]
    every_s: float | None = None

    @property
    def dense(self) -> bool:
        """Whether readings show the temperature throughout."""
        return self.every_s is not None and self.every_s <= DENSE_S


def heat_log(position: list[str], time_s: Array, celsius: Array, ambient_c: float | None = None) -> HeatLog | None:
    """Readings sorted into places; places named as the room become the ambient series.

    Parameters
    ----------
    position : list of str, length n
    time_s, celsius : (n,) float array [s], [°C]
    ambient_c : float or None [°C]
        The room as typed in, used where no room was measured.

    Raises
    ------
    CannotRead
        If too many places are named.
    """
    written = dict.fromkeys(position)
    spelt = {p.strip().casefold(): p.strip() for p in reversed(list(written)) if p.strip()}
    names = list(dict.fromkeys(p.strip().casefold() or "back" for p in written))
    if len(names) > MOST_PLACES:
        raise CannotRead(f"{len(names)} places are named", f"use at most {MOST_PLACES}", file="temperatures")
    number = {p: names.index(p.strip().casefold() or "back") for p in written}
    places = np.fromiter((number[p] for p in position), dtype=np.int16, count=len(position))
    surfaces, ambient = [], None
    for n, name in enumerate(names):
        at = places == n
        times, first = np.unique(time_s[at], return_index=True)
        surface = Surface(spelt.get(name, name), times, celsius[at][first])
        if is_room(name):
            ambient = surface
        else:
            surfaces.append(surface)
    if ambient is None and ambient_c is not None and len(time_s):
        span = np.array([time_s.min(), time_s.max()])
        ambient = Surface("ambient", span, np.full(2, ambient_c))
    return HeatLog(tuple(surfaces), ambient) if surfaces else None


def facts(surface: Surface, ambient: Surface | None) -> HeatFacts:
    """Facts of one place, against the room at the same moments."""
    at = int(np.argmax(surface.celsius))
    rise = None
    if ambient is not None:
        rise = float(np.max(surface.celsius - np.interp(surface.time_s, ambient.time_s, ambient.celsius)))
    return HeatFacts(
        surface.position,
        float(surface.celsius[at]),
        float(surface.time_s[at]),
        rise,
        {c: minutes_at_or_above(surface, float(c)) for c in THRESHOLDS_C},
        median(np.diff(surface.time_s)) if len(surface.time_s) > 1 else None,
    )


def minutes_at_or_above(surface: Surface, threshold_c: float) -> float:
    """Minutes at or above a threshold, straight lines between readings, long gaps left out."""
    steps = np.diff(surface.time_s)
    if not len(steps):
        return 0.0
    low = np.minimum(surface.celsius[:-1], surface.celsius[1:])
    high = np.maximum(surface.celsius[:-1], surface.celsius[1:])
    with np.errstate(invalid="ignore", divide="ignore"):
        share = np.clip((high - threshold_c) / (high - low), 0.0, 1.0)
    share = np.where(high == low, high >= threshold_c, share)
    whole = steps <= max(HOLE_STEPS * median(steps), HOLE_FLOOR_S)
    return float(np.sum(steps[whole] * share[whole])) / MINUTE_S
