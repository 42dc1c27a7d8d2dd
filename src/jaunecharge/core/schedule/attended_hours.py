"""Attended hours: when somebody is there, by the clock of a zone, as minutes from the beginning of a plan."""

import datetime as dt
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from ..errors import CannotRead
from ..units import MINUTE_S

DAYS = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")
DAY_MIN = 24 * 60
_CLOCK = re.compile(r"^(\d{1,2}):(\d{2})$")
ATTENDED = "attended"

Span = tuple[float, float]
"""A stretch of time: from, to [min after the beginning of the plan]."""


@dataclass(frozen=True)
class Window:
    """Hours of the day in which somebody is there [min after midnight], on these weekdays (0 is Monday).

    An end that is not after the beginning lies on the next day.
    """

    begins: int
    ends: int
    days: frozenset[int] = frozenset(range(7))

    @property
    def said(self) -> str:
        """As it is typed."""
        hours = f"{clock_text(self.begins)} to {clock_text(self.ends)}"
        if len(self.days) == len(DAYS):
            return hours
        return f"{hours} on {', '.join(DAYS[d].capitalize() for d in sorted(self.days))}"


def clock_text(minute: int) -> str:
    """A time of day: `08:00`, `24:00`."""
    return f"{minute // 60:02d}:{minute % 60:02d}"


def minute_of_day(text: str) -> int:
    """Minutes after midnight of a time of day.

    Raises
    ------
    CannotRead
    """
    match = _CLOCK.match(text.strip())
    minute = int(match[1]) * 60 + int(match[2]) if match else -1
    if not match or int(match[2]) > 59 or not 0 <= minute <= DAY_MIN:
        raise CannotRead(f"“{text}” is no time of day", "as 08:00, at most 24:00", file=ATTENDED)
    return minute


def window(begins: str, ends: str, days: Iterable[str] = DAYS) -> Window:
    """A window as it is typed.

    Raises
    ------
    CannotRead
        If a time cannot be, or the window is empty.
    """
    first, last = minute_of_day(begins), minute_of_day(ends)
    if first == last:
        raise CannotRead(
            f"attended hours from {begins} to {ends} are of length zero", "give an end after the beginning", ATTENDED
        )
    names = [d.strip().lower()[:3] for d in days]
    for name in names:
        if name not in DAYS:
            raise CannotRead(f"“{name}” is no day of the week", f"one of {', '.join(DAYS)}", file=ATTENDED)
    if not names:
        raise CannotRead("attended hours on no day", "name at least one day", file=ATTENDED)
    return Window(first, last, frozenset(DAYS.index(n) for n in names))


def minutes_between(start: dt.datetime, moment: dt.datetime) -> float:
    """Minutes that pass between two moments, clock changes included."""
    return (moment.astimezone(dt.UTC) - start.astimezone(dt.UTC)).total_seconds() / MINUTE_S


def moment_at(start: dt.datetime, minutes: float) -> dt.datetime:
    """The moment so many minutes after a start, by the clock of the start's zone."""
    return (start.astimezone(dt.UTC) + dt.timedelta(minutes=minutes)).astimezone(start.tzinfo)


def attended_spans(windows: Sequence[Window], start: dt.datetime, minutes: float) -> list[Span]:
    """When somebody is there, from a day before the start to so many minutes after it; merged, in order.

    Parameters
    ----------
    windows : sequence of Window
    start : datetime
        With its zone.
    minutes : float [min]
    """
    spans: list[Span] = []
    zone = start.tzinfo
    for offset in range(-1, int(minutes // DAY_MIN) + 3):
        day = start.date() + dt.timedelta(days=offset)
        for w in windows:
            if day.weekday() in w.days:
                last = w.ends if w.ends > w.begins else w.ends + DAY_MIN
                begins, ends = (minutes_between(start, _on(day, m, zone)) for m in (w.begins, last))
                if ends > begins:
                    spans.append((begins, ends))
    merged: list[Span] = []
    for begins, ends in sorted(spans):
        if merged and begins <= merged[-1][1]:
            merged[-1] = (merged[-1][0], max(merged[-1][1], ends))
        else:
            merged.append((begins, ends))
    return [s for s in merged if s[0] <= minutes]


def _on(day: dt.date, minute: int, zone: dt.tzinfo | None) -> dt.datetime:
    days, rest = divmod(minute, DAY_MIN)
    return dt.datetime.combine(day + dt.timedelta(days=days), dt.time(rest // 60, rest % 60), zone)
