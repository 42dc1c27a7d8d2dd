"""Typed entries: check-ins as `15 22` or `0:30 33`, temperatures as `10 98.4f back`, a line each."""

import re
from collections.abc import Iterator

from ..errors import CannotRead
from ..units import from_fahrenheit

GRAMMAR = "minutes or h:mm after placing, then the percentage, a line each: 15 22, or 0:30 33"

_TIME = r"(?:(?P<h>\d+)(?::|\s*h\s*)(?P<m>\d{1,2})(?::(?P<s>\d{1,2}))?|(?P<min>\d+(?:[.,]\d+)?)\s*(?:min|m)?)"
_HEAT_LINE = re.compile(
    rf"^\s*{_TIME}(?:\s*[;\t=,]\s*|\s+)(?P<value>-?\d+(?:[.,]\d+)?)\s*°?\s*(?P<unit>[cf])?(?:[;\t,\s]+(?P<place>\S.*?))?\s*$",
    re.IGNORECASE,
)
HEAT_GRAMMAR = "minutes or h:mm after placing, then the temperature, and where: 10 36.9c, or 0:30 98.4f front"
_LINE = re.compile(rf"^\s*{_TIME}(?:\s*[;\t=,]\s*|\s+)(?P<percent>-?\d+(?:[.,]\d+)?)\s*%?\s*$", re.IGNORECASE)


def typed_checkins(text: str) -> list[tuple[float, float]]:
    """Check-ins from typed lines: (minute after placing, percent). Empty lines are passed over.

    Raises
    ------
    CannotRead
        Naming the line that was not understood, or whose figures cannot be.
    """
    rows = []
    for row, line in _lines(text):
        match = _LINE.match(line)
        if match is None:
            raise CannotRead(f"“{line}” is not a check-in", f"write {GRAMMAR}", row=row)
        percent = _number(match["percent"])
        if not 0 <= percent <= 100:
            raise CannotRead(f"{percent:g} % is not a battery level", "a percentage lies between 0 and 100", row=row)
        rows.append((_minute(match, row), percent))
    return rows


def typed_temperatures(text: str, in_fahrenheit: bool = False) -> list[tuple[float, float, str]]:
    """Temperatures from typed lines: (minute after placing, °C, place). Empty lines are passed over.

    Parameters
    ----------
    text : str
        A place may stand behind the figure; without one it is the phone's back.
    in_fahrenheit : bool
        What a figure without a unit is in.

    Raises
    ------
    CannotRead
        Naming the line that was not understood, or whose figures cannot be.
    """
    rows = []
    for row, line in _lines(text):
        match = _HEAT_LINE.match(line)
        if match is None:
            raise CannotRead(f"“{line}” is not a temperature", f"write {HEAT_GRAMMAR}", row=row)
        typed, unit = _number(match["value"]), (match["unit"] or ("f" if in_fahrenheit else "c")).lower()
        celsius = from_fahrenheit(typed) if unit == "f" else typed
        if not COLDEST_C <= celsius <= HOTTEST_C:
            mend = f"{typed:g} °F would be {from_fahrenheit(typed):.1f} °C" if unit == "c" else "see the unit"
            raise CannotRead(f"{typed:g} °{unit.upper()} cannot be", mend, row=row)
        rows.append((_minute(match, row), celsius, (match["place"] or "back").strip().casefold()))
    return rows


COLDEST_C, HOTTEST_C = -40.0, 150.0


def _lines(text: str) -> Iterator[tuple[int, str]]:
    return ((row, line.strip()) for row, line in enumerate(text.splitlines(), start=1) if line.strip())


def _minute(match: re.Match[str], row: int) -> float:
    if match["h"] is None:
        return _number(match["min"])
    if int(match["m"]) > 59:
        raise CannotRead(
            f"“{match['h']}:{match['m']}” has more than 59 minutes", "write h:mm, or minutes alone", row=row
        )
    return int(match["h"]) * 60.0 + int(match["m"]) + int(match["s"] or 0) / 60.0


def _number(text: str) -> float:
    return float(text.replace(",", "."))
