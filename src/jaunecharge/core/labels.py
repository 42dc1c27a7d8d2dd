"""Rule of labels: something that stays harmless in a table, a page and a file name."""

import re

from .errors import CannotRead

LONGEST = 120
_TAG = re.compile(r"<[^>]*>|<\s*/?\s*[a-z!]", re.IGNORECASE)
_CONTROL = re.compile(r"[\x00-\x1f\x7f]")
_INVISIBLE = r"[\s\ufeff\u200b-\u200f\u2060]*"
_SIGN = "[=+\\-@\uff1d\uff0b\uff0d\uff20\ufe66\ufe62\ufe63\ufe6b]"
"""Characters that a formula begins with, full-width and small forms as well."""

_BEGINS = re.compile(_INVISIBLE + _SIGN)
_RUN = re.compile(rf"(\A{_INVISIBLE}|[;,|\t\r\n\v\f]{_INVISIBLE})('*)(?={_SIGN})")
"""Where a spreadsheet may begin a formula: at the beginning of a cell, or behind what another one splits cells at."""


_LEADS = re.compile(r"\A('*[\t\r])")
"""Some programs pass a tab or a line's end over, and read on behind it."""


def harmless(text: str) -> str:
    """Text that no spreadsheet runs as a formula, wherever it splits cells: an apostrophe stands before each sign."""
    return _RUN.sub(r"\1'\2", _LEADS.sub(r"'\1", text))


def as_typed(text: str) -> str:
    """The text that `harmless` was made of."""
    spaced = re.sub(_RUN.pattern.replace("('*)", "'('*)"), r"\1\2", text)
    return spaced[1:] if spaced.startswith("'") and _LEADS.match(spaced[1:]) else spaced


def label(text: str, field: str = "label") -> str:
    """The label without spaces around it.

    Raises
    ------
    CannotRead
        If it is too long, or would be run by a spreadsheet or a browser that it is carried into.
    """
    text = text.strip()
    if len(text) > LONGEST:
        raise CannotRead(f"it is {len(text)} characters long", f"use at most {LONGEST}", file=field)
    if _CONTROL.search(text):
        raise CannotRead("it contains a control character", "type it again without it", file=field)
    if _BEGINS.match(text):
        raise CannotRead(
            f"“{text[:40]}” begins like a spreadsheet formula", "begin with a letter or a figure", file=field
        )
    if _TAG.search(text):
        raise CannotRead(f"“{text[:40]}” contains markup", "leave out the angle brackets", file=field)
    return text
