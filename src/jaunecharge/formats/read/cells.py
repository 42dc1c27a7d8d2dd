"""One cell of a table: a number as people write it, or a moment in one of the forms of time."""

import datetime as dt
import math
import re
from enum import StrEnum
from zoneinfo import ZoneInfo

_NUMBER = re.compile(r"^[+-]?(?:\d[\d\u00a0\u202f' ]*)?(?:[.,]\d+|\d)(?:[.,]\d+)*(?:[eE][+-]?\d+)?(?=\s*[^\d\s.,]*$)")
_SUFFIX = re.compile(r"^(.*?\d)\s*([a-zA-Z%°µ]+)$")
_CLOCK = re.compile(r"^(?:(\d{1,3}):)?(\d{1,3}):(\d{1,2})(?:[.,](\d+))?$")
_DOTTED = re.compile(r"^(\d{1,2})\.(\d{1,2})\.(\d{4})[ T]+(\d{1,2}):(\d{2})(?::(\d{2})(?:[.,](\d+))?)?$")
_DATED = re.compile(r"^\d{4}-\d{2}-\d{2}([ T]|$)|^\d{8}T\d{4}")


FIRST_YEAR, LAST_YEAR = 1970, 2200


class TimeForm(StrEnum):
    """The forms of time that a file may be in."""

    SECONDS = "seconds"
    MINUTES = "minutes"
    HOURS = "hours"
    MILLISECONDS = "milliseconds"
    CLOCK = "h:mm:ss"
    MINUTE_CLOCK = "mm:ss"
    EPOCH_SECONDS = "epoch, s"
    EPOCH_MILLISECONDS = "epoch, ms"
    EPOCH_MICROSECONDS = "epoch, µs"
    DATED = "date and time"


NUMERIC_FORMS = {
    TimeForm.SECONDS: 1.0,
    TimeForm.MINUTES: 60.0,
    TimeForm.HOURS: 3600.0,
    TimeForm.MILLISECONDS: 1e-3,
    TimeForm.EPOCH_SECONDS: 1.0,
    TimeForm.EPOCH_MILLISECONDS: 1e-3,
    TimeForm.EPOCH_MICROSECONDS: 1e-6,
}
EPOCH_FORMS = (TimeForm.EPOCH_SECONDS, TimeForm.EPOCH_MILLISECONDS, TimeForm.EPOCH_MICROSECONDS)


def number(text: str, comma: bool) -> float:
    """The number in a cell, its unit if any left out; NaN for an empty cell.

    `comma` says that the decimal sign is a comma; the other sign then separates thousands.

    Raises
    ------
    ValueError
        If there is no number in it.
    """
    try:
        value = float(text.replace(",", ".") if comma else text)
    except ValueError:
        text = text.strip().replace("−", "-")
        if not text:
            return math.nan
        match = _NUMBER.match(text)
        if match is None:
            raise ValueError(text) from None
        digits = re.sub(r"[\u00a0\u202f' ]", "", match.group())
        decimal, thousands = (",", ".") if comma else (".", ",")
        if thousands in digits and not re.match(rf"^[+-]?\d{{1,3}}(\{thousands}\d{{3}})+(\{decimal}|$)", digits):
            raise ValueError(text) from None
        value = float(digits.replace(thousands, "").replace(decimal, "."))
    if math.isinf(value) or (math.isnan(value) and text.strip()):
        raise ValueError(text)
    return value


def is_grouped(text: str) -> bool:
    """Whether the commas of a number may stand between thousands."""
    return bool(re.match(r"^[+-]?\d{1,3}(,\d{3})+(\.\d*)?$", text.strip()))


def unit_suffix(text: str) -> str | None:
    """The unit written behind the number in a cell, if there is one."""
    match = _SUFFIX.match(text.strip())
    return match.group(2) if match else None


def is_clock(text: str) -> bool:
    return bool(_CLOCK.match(text.strip()))


def is_dated(text: str) -> bool:
    text = text.strip()
    return bool(_DATED.match(text) or _DOTTED.match(text))


def clock_seconds(text: str, minute_clock: bool = False) -> float:
    """Seconds since 0:00 of `h:mm:ss`, `h:mm`, or `mm:ss` if asked for.

    Raises
    ------
    ValueError
    """
    match = _CLOCK.match(text.strip())
    if match is None:
        raise ValueError(text)
    hours, middle, last, fraction = match.groups()
    if hours is None:
        seconds = int(middle) * 60 + int(last) if minute_clock else int(middle) * 3600 + int(last) * 60
    else:
        seconds = int(hours) * 3600 + int(middle) * 60 + int(last)
    if int(last) > 59 or (hours is not None and int(middle) > 59):
        raise ValueError(text)
    return seconds + (float(f"0.{fraction}") if fraction else 0.0)


def moment(text: str) -> dt.datetime:
    """A date with a time, in ISO 8601 or as dd.mm.yyyy.

    Raises
    ------
    ValueError
        If it is none, or of a year in which nobody has logged a charger.
    """
    text = text.strip()
    dotted = _DOTTED.match(text)
    if dotted:
        day, month, year, hour, minute, second, fraction = dotted.groups()
        micro = int((fraction or "0")[:6].ljust(6, "0"))
        stamp = dt.datetime(int(year), int(month), int(day), int(hour), int(minute), int(second or 0), micro)
    else:
        stamp = dt.datetime.fromisoformat(text.replace(",", "."))
    if not FIRST_YEAR < stamp.year < LAST_YEAR:
        raise ValueError(text)
    return stamp


def local_epoch(moments: list[dt.datetime], zone: ZoneInfo | None) -> tuple[list[float], float]:
    """Seconds since 1970-01-01 UTC, and the local time of day at the first [s].

    Moments without an offset are local to `zone`, the repeated hour of a clock change told apart by the order of the
    rows; without a zone they are taken as UTC.
    """
    seconds: list[float] = []
    previous: dt.datetime | None = None
    folded = False
    for each in moments:
        if each.tzinfo is None:
            if zone is not None and previous is not None and each < previous:
                folded = each.replace(tzinfo=zone, fold=1).utcoffset() != each.replace(tzinfo=zone).utcoffset()
            previous = each
            each = each.replace(tzinfo=zone or dt.UTC, fold=1 if folded else 0)
        seconds.append(each.timestamp())
    first = moments[0]
    day_start = first.hour * 3600.0 + first.minute * 60.0 + first.second + first.microsecond / 1e6
    return seconds, day_start
