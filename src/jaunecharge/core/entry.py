"""What a person types: check-ins as `15 22` or `0:30 33`, a line each."""

import re

from .errors import CannotRead

GRAMMAR = "minutes or h:mm after placing, then the percentage, a line each: 15 22, or 0:30 33"

_TIME = r"(?:(?P<h>\d+)(?::|\s*h\s*)(?P<m>\d{1,2})(?::(?P<s>\d{1,2}))?|(?P<min>\d+(?:[.,]\d+)?)\s*(?:min|m)?)"
_LINE = re.compile(rf"^\s*{_TIME}(?:\s*[;\t=,]\s*|\s+)(?P<percent>-?\d+(?:[.,]\d+)?)\s*%?\s*$", re.IGNORECASE)


def typed_checkins(text: str) -> list[tuple[float, float]]:
    """Check-ins from typed lines: (minute after placing, percent). Empty lines are passed over.

    Raises
    ------
    CannotRead
        Naming the line that was not understood, or whose figures cannot be.
    """
    found = []
    for row, line in enumerate(text.splitlines(), start=1):
        if not line.strip():
            continue
        match = _LINE.match(line)
        if match is None:
            raise CannotRead(f"“{line.strip()}” is not a check-in", f"write {GRAMMAR}", row=row)
        percent = _number(match["percent"])
        if not 0 <= percent <= 100:
            raise CannotRead(f"{percent:g} % is not a battery level", "a percentage lies between 0 and 100", row=row)
        if match["h"] is not None:
            if int(match["m"]) > 59:
                raise CannotRead(
                    f"“{match['h']}:{match['m']}” has more than 59 minutes",
                    "write h:mm, or minutes alone",
                    row=row,
                )
            minute = int(match["h"]) * 60.0 + int(match["m"]) + int(match["s"] or 0) / 60.0
        else:
            minute = _number(match["min"])
        found.append((minute, percent))
    return found


def _number(text: str) -> float:
    return float(text.replace(",", "."))
