"""Readings as they are typed, a line or a part between semicolons for each moment: minutes, then what was seen."""

import re

from ..errors import CannotRead
from ..units import HOUR_S, MINUTE_S

MOST_MOMENTS = 2000
_TIME = re.compile(r"(\d+):(\d\d)\s+|(\d+(?:[.,]\d+)?)\s*(h|min|m|')?\s+", re.IGNORECASE)
_FIGURE = re.compile(r"(\d{1,3}(?:[.,]\d+)?)\s*%?")


def _moments(text: str, example: str) -> list[tuple[float, str]]:
    """Minutes, and the rest of each part."""
    found = []
    for part in (p.strip() for p in re.split(r"[;\n]|,\s+", text)):
        if not part:
            continue
        match = _TIME.match(part)
        if match is None:
            raise CannotRead(f"“{part[:40]}” does not begin with minutes", f"write {example}", file="readings")
        if match[1] is not None:
            minute = float(match[1]) * HOUR_S / MINUTE_S + float(match[2])
        else:
            hours = (match[4] or "").lower() == "h"
            minute = float(match[3].replace(",", ".")) * (HOUR_S / MINUTE_S if hours else 1.0)
        found.append((minute, part[match.end() :].strip()))
    if len(found) > MOST_MOMENTS:
        raise CannotRead(f"{len(found)} readings are too many", f"type {MOST_MOMENTS} at most", file="readings")
    return found


def typed_gauge(text: str) -> list[tuple[float, str]]:
    """Levels of a pack as they are typed: `0 100; 60 75; 1:30 2 lamps`: minutes after the load was on, and the level
    as it was read.

    Raises
    ------
    CannotRead
    """
    return _moments(text, "0 100; 60 75; 1:30 2 lamps")


def typed_given(text: str) -> list[tuple[float, float, float]]:
    """Two phones as they are typed: `0 84 12; 30 71 23`: minutes, level of the one that gives, of the one that takes
    [%].

    Raises
    ------
    CannotRead
    """
    rows = []
    for minute, rest in _moments(text, "0 84 12; 30 71 23"):
        levels = _FIGURE.findall(rest)
        if len(levels) != 2 or _FIGURE.sub("", rest).strip(" ,/\t"):
            raise CannotRead(
                f"“{rest[:40]}” is not two levels", "write minutes, giver and taker: 30 71 23", file="readings"
            )
        giver, taker = (float(x.replace(",", ".")) for x in levels)
        if max(giver, taker) > 100:
            raise CannotRead(f"{max(giver, taker):g} % is no level", "write 0 to 100", file="readings")
        rows.append((minute, giver, taker))
    return rows
