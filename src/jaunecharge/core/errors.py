"""The errors of the core: what is wrong, where, and what would mend it."""

from collections.abc import Sequence
from dataclasses import dataclass, replace


@dataclass
class CannotRead(Exception):
    """Input that cannot be used, said so that a person can mend it.

    Parameters
    ----------
    what : str
        What is wrong, with the offending value.
    mend : str
        What would put it right.
    file : str
        The file (or the field of a form) that it stands in; empty where the caller knows it better.
    row : int or None
        Row in that file, counted from 1 as a spreadsheet counts.
    """

    what: str
    mend: str
    file: str = ""
    row: int | None = None

    def within(self, file: str) -> "CannotRead":
        """The same error, naming `file` where none was named before."""
        return self if self.file else replace(self, file=file)

    def __str__(self) -> str:
        place = ", ".join(p for p in (self.file, f"row {self.row}" if self.row else "") if p)
        text = f"{self.what}; {self.mend}"
        return f"{place}: {text}" if place else text


class Impossible(Exception):
    """Why no schedule can be, and which wishes make it so."""

    def __init__(self, why: str, wishes: Sequence[str] = ()) -> None:
        super().__init__(" ".join([why, *wishes]))
        self.why, self.wishes = why, tuple(wishes)
