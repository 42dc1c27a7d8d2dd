"""A phone of the table of phones × chargers, as it is kept until one of its runs changes."""

import uuid

from .document import Document

MOST_NAMED = 12
"""Runs of a cell that are named, the newest; all of them are counted."""


class RunInCell(Document):
    """A run of a cell, and what sets it apart from the usual; empty where nothing does."""

    id: uuid.UUID
    label: str
    apart: str = ""


class ChargerCell(Document):
    """A charger with this phone: median and spread [min] of its runs, its place among the chargers, in words."""

    charger: str
    median: float | None
    spread: tuple[float, float] | None
    place: str
    count: int
    runs: list[RunInCell]
    others_count: int
    others: list[RunInCell]


class PhoneColumn(Document):
    """A phone: its window [%], how many chargers have a time on it, and each of its chargers."""

    phone: str
    window: tuple[float, float] | None
    timed: int
    cells: list[ChargerCell]
