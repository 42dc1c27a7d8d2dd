"""Runs of one file that are to be stored, as a job is told of them."""

import uuid

from pydantic import Field

from .case import Case
from .document import Document


class RunOfFile(Document):
    """A run: its numbers in the file, and what is stated of it alone."""

    ns: list[int]
    label: str = ""
    factors: dict[str, str] = Field(default_factory=dict)


class RunsOfFile(Document):
    """The file that was sent, its runs, and what holds for all of them."""

    upload: uuid.UUID
    runs: list[RunOfFile]
    factors: dict[str, str] = Field(default_factory=dict)
    case: Case = Field(default_factory=Case)
    note: str = ""
    zone: str = "UTC"
