"""Limits of reading, each with its sentence: beyond it is refused before it fills the machine."""

import os

from ...core.errors import CannotRead

os.environ.setdefault("ARROW_DEFAULT_MEMORY_POOL", "system")
"""Arrow's own pool claims a gigabyte at once, which would count against what a file may take."""

MOST_BYTES = 200_000_000
MOST_ROWS = 20_000_000
MOST_SHEET_ROWS = 1_048_576
"""Rows that a sheet of a workbook can have (ECMA-376, as spreadsheets hold to it; from memory)."""

MOST_COLUMNS = 1000
LONGEST_CELL = 32_767
"""Letters that a cell of a workbook can have (from memory); the same is taken for CSV."""

LONGEST_LINE = 1_000_000
LONGEST_PLACE = 120
MOST_SHEETS = 200
MOST_PARTS = 1000
"""Files that a workbook is made of."""

MOST_MEMORY = 900_000_000
"""Memory that a process which reads files may take beyond its programs [bytes]: a CSV of 200 MB with four columns
fits.
"""

MOST_S = 120.0


def refuse_too_large(size: int, name: str) -> None:
    """Refuse more than 200 MB, as sent or unpacked.

    Raises
    ------
    CannotRead
    """
    if size > MOST_BYTES:
        raise CannotRead(
            f"it is {size:,} bytes".replace(",", " "),
            "at most 200 MB are read: split it, or log at a longer step",
            file=name,
        )


def refuse_wide(width: int, name: str, row: int) -> None:
    """Refuse a row of too many cells.

    Raises
    ------
    CannotRead
    """
    if width > MOST_COLUMNS:
        raise CannotRead(
            f"the row has {width:,} cells".replace(",", " "),
            f"at most {MOST_COLUMNS:,} columns are read".replace(",", " "), file=name, row=row,
        )  # fmt: skip


def refuse_long_cell(cell: str, name: str, row: int) -> None:
    """Refuse a cell of too many letters.

    Raises
    ------
    CannotRead
    """
    if len(cell) > LONGEST_CELL:
        raise CannotRead(
            f"a cell has {len(cell):,} letters".replace(",", " "),
            "at most 32 767 are read: check its quotes and separators", file=name, row=row,
        )  # fmt: skip


def refuse_many_rows(row: int, name: str, most: int = MOST_ROWS) -> None:
    """Refuse too many rows.

    Raises
    ------
    CannotRead
    """
    if row > most:
        raise CannotRead(
            f"it has more than {most:,} rows".replace(",", " "), "split it, or log at a longer step", file=name, row=row
        )


def too_much_memory(name: str) -> CannotRead:
    """Refusal of a file for which the memory does not suffice."""
    return CannotRead("it takes more memory to read than a file is given", "split it, or save it as CSV", file=name)


def too_slow(name: str) -> CannotRead:
    """Refusal of a file that takes too long."""
    return CannotRead(
        f"it takes longer to read than {MOST_S / 60:.0f} minutes", "split it, or save it as CSV", file=name
    )


def broken_off(name: str) -> CannotRead:
    """Refusal of a file on which its reader breaks down."""
    return CannotRead(
        "its reader broke down, perhaps for want of memory",
        "try once more; else split it, or save it as CSV",
        file=name,
    )
