"""What may stand in a label: something that stays harmless in a table, a page and a file name."""

import re

from .errors import CannotRead

LONGEST = 120
_TAG = re.compile(r"<[^>]*>|<\s*/?\s*[a-z!]", re.IGNORECASE)
_CONTROL = re.compile(r"[\x00-\x1f\x7f]")
FORMULA_STARTS = ("=", "+", "-", "@")


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
    if text.startswith(FORMULA_STARTS):
        raise CannotRead(
            f"“{text[:40]}” begins like a spreadsheet formula", "begin with a letter or a figure", file=field
        )
    if _TAG.search(text):
        raise CannotRead(f"“{text[:40]}” contains markup", "leave out the angle brackets", file=field)
    return text
