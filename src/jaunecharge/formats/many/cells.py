"""Cells of tables that people keep by hand: times as they write them, percentages with signs, words or as fractions."""

import datetime as dt
import re
from dataclasses import dataclass
from typing import Literal

from ...core.errors import CannotRead
from ...core.units import HOUR_S, MINUTE_S
from ..read import cells

TimeKind = Literal["number", "unit", "clock", "dated"]

_SPAN = re.compile(
    r"^(?:(\d+)\s*h(?:ours?|rs?)?\.?)?\s*(?:(\d+(?:[.,]\d+)?)\s*(?:m|min|mins|minutes|')?\.?)?$", re.IGNORECASE
)
_SECONDS = re.compile(r"^(\d+(?:[.,]\d+)?)\s*(?:s|sec|secs|seconds)$", re.IGNORECASE)
_PERCENT = re.compile(r"^([+-]?\d+(?:[.,]\d+)?)\s*%?$")
FULL_WORDS = frozenset({"full", "voll", "plein", "pieno", "lleno", "vol", "charged", "100%"})
EMPTY_WORDS = frozenset({"", "-", "–", "—", "/", ".", "?", "n/a", "na", "nan", "none", "null", "x", "off"})
"""Cells that say that nothing was read."""


@dataclass(frozen=True)
class When:
    """A cell that is a time: seconds of it, and how it was written; local : a date without an offset from UTC."""

    kind: TimeKind
    seconds: float
    local: bool = False


def when(text: str) -> When | None:
    """The time in a cell: a bare number (its unit is the table's), `20 min`, `1 h 20`, `0:20`, `2:05 pm`, or a date.

    None where it is no time, or a day or an hour that there is not.
    """
    text = text.strip()
    if not text:
        return None
    try:
        if cells.is_clock(text):
            return When("clock", cells.clock_seconds(text))
        if cells.is_dated(text):
            moment = cells.moment(text)
            local = moment.tzinfo is None
            return When("dated", (moment.replace(tzinfo=dt.UTC) if local else moment).timestamp(), local)
        if seconds := _SECONDS.match(text):
            return When("unit", float(seconds[1].replace(",", ".")))
        span = _SPAN.match(text)
        if span and (span[1] or not text[-1].isdigit()) and (span[1] or span[2]):
            minutes = float(span[2].replace(",", ".")) if span[2] else 0.0
            return When("unit", int(span[1] or 0) * HOUR_S + minutes * MINUTE_S)
        return When("number", float(text.replace(",", ".")))
    except (ValueError, OverflowError):
        return None


def is_empty(text: str) -> bool:
    """Whether a cell says that nothing was read."""
    return text.strip().casefold() in EMPTY_WORDS


def is_full(text: str) -> bool:
    """Whether a cell says in a word that the phone was full."""
    return text.strip().casefold() in FULL_WORDS


def percentage(text: str) -> float:
    """The number in a cell of percentages, its sign left out; `full` is 100.

    Raises
    ------
    CannotRead
        If it is none, or beyond 0 to 100.
    """
    plain = text.strip().casefold()
    if is_full(plain):
        return 100.0
    match = _PERCENT.match(plain)
    if match is None:
        raise CannotRead(f"“{text.strip()[:40]}” is no percentage", "write a number from 0 to 100")
    value = float(match[1].replace(",", "."))
    if not 0.0 <= value <= 100.0:
        raise CannotRead(f"{value:g} % is no battery level", "write a number from 0 to 100")
    return value
