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
_NOON = re.compile(r"^(.*\d)\s*([ap])\.?\s?m\.?$", re.IGNORECASE)
_SLASHED = re.compile(r"^(\d{1,2})/(\d{1,2})/(\d{4})(?:[ ,T]+(\d.*))?$")
_BARE_DATE = re.compile(r"^(?:\d{4}-\d{2}-\d{2}|\d{1,2}\.\d{1,2}\.\d{4}|\d{1,2}/\d{1,2}/\d{4})$")
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
    """Whether a cell is a time of day or a time that has run: `14:05`, `2:05:33 pm`, `2 pm`."""
    text = text.strip()
    noon = _NOON.match(text)
    return bool(_CLOCK.match(noon[1] if noon else text)) or bool(noon and noon[1].isdigit())


def is_bare_date(text: str) -> bool:
    """Whether a cell is a day without a time."""
    return bool(_BARE_DATE.match(text.strip()))


def is_dated(text: str) -> bool:
    """Whether a cell is a day with or without a time, written so that it is clear which is the month."""
    text = text.strip()
    return bool(_DATED.match(text) or _DOTTED.match(text)) or _slashed(text) is not None


def _slashed(text: str) -> tuple[dt.date, str] | None:
    """The day of `2/29/2028 2:05 pm` or `29/02/2028 14:05`, and what stands behind it; None where either number may be
    the month: twelve hours are counted where the month comes first."""
    match = _SLASHED.match(text)
    if match is None:
        return None
    first, second, year, rest = int(match[1]), int(match[2]), int(match[3]), match[4] or ""
    month_first = _NOON.match(rest) is not None or second > 12
    if not month_first and first <= 12 and first != second:
        return None
    try:
        return (dt.date(year, first, second) if month_first else dt.date(year, second, first)), rest
    except ValueError:
        return None


def clock_seconds(text: str, minute_clock: bool = False) -> float:
    """Seconds since 0:00 of `h:mm:ss`, `h:mm`, `h:mm pm`, or `mm:ss` if asked for.

    Raises
    ------
    ValueError
    """
    noon = _NOON.match(text.strip())
    if noon is not None:
        seconds = int(noon[1]) * 3600.0 if noon[1].isdigit() else clock_seconds(noon[1])
        if not 3600 <= seconds < 13 * 3600:
            raise ValueError(text)
        return seconds % (12 * 3600) + (12 * 3600 if noon[2].lower() == "p" else 0)
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
    """A date with a time: in ISO 8601, as dd.mm.yyyy, or with slashes where it is clear which is the month; of twelve
    or of twenty-four hours.

    Raises
    ------
    ValueError
        If it is none, or of a year in which nobody has logged a charger.
    """
    text = text.strip()
    slashed, noon = _slashed(text), _NOON.match(text)
    dotted = _DOTTED.match(text)
    if slashed is not None:
        stamp = _at(slashed[0], slashed[1])
    elif noon is not None and (_DATED.match(text) or _DOTTED.match(noon[1])):
        stamp = _at(moment(noon[1]).date(), text.partition(" ")[2])
    elif dotted:
        day, month, year, hour, minute, second, fraction = dotted.groups()
        micro = int((fraction or "0")[:6].ljust(6, "0"))
        stamp = dt.datetime(int(year), int(month), int(day), int(hour), int(minute), int(second or 0), micro)
    else:
        stamp = dt.datetime.fromisoformat(text.replace(",", "."))
    if not FIRST_YEAR < stamp.year < LAST_YEAR:
        raise ValueError(text)
    return stamp


def _at(day: dt.date, clock: str) -> dt.datetime:
    """A day at a time of it; its beginning where none is given."""
    return dt.datetime.combine(day, dt.time()) + dt.timedelta(seconds=clock_seconds(clock) if clock else 0.0)


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
