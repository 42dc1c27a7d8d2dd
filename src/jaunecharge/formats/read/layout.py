"""The rows of a CSV or of a sheet, and where its headings and its data begin."""

import csv
import datetime as dt
import io
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from itertools import islice
from typing import TYPE_CHECKING

from ...core.errors import CannotRead
from . import cells
from .limits import (
    LONGEST_CELL,
    LONGEST_LINE,
    MOST_SHEET_ROWS,
    MOST_SHEETS,
    refuse_long_cell,
    refuse_many_rows,
    refuse_wide,
)
from .source import Source, bounded

if TYPE_CHECKING:
    from openpyxl import Workbook

DELIMITERS = (";", "\t", ",", "|")
PEEK_ROWS = 200
MOST_PREAMBLE = 60
Row = list[str]
csv.field_size_limit(LONGEST_CELL)


@dataclass(frozen=True)
class Layout:
    """Layout of a table. Rows count from 1; `first_data_row` is where the figures begin.

    `delimiter` is empty for a sheet; `headings` is empty where there are none.
    """

    delimiter: str
    sheet: str | None
    sheets: tuple[str, ...]
    headings: tuple[str, ...]
    first_data_row: int
    columns: int


def layout(source: Source, sheet: str | None = None, delimiter: str | None = None) -> tuple[Layout, list[Row]]:
    """The layout of a table and its first rows of data.

    Raises
    ------
    CannotRead
        If there are headings without data, or nothing that looks like a table.
    """
    sheets: tuple[str, ...] = ()
    if source.is_workbook:
        sheets = sheet_names(source)
        sheet = sheet if sheet in sheets else sheets[0]
        delimiter = ""
    else:
        delimiter = delimiter or delimiter_of(source)
    head = list(islice(rows(source, delimiter, sheet), PEEK_ROWS + MOST_PREAMBLE))
    filled = [(n, r) for n, r in head if any(c.strip() for c in r)]
    if not filled:
        raise CannotRead("there is nothing in it", "export it from the meter again", file=source.name)
    data = [(n, r) for n, r in filled if _is_data(r)]
    if not data:
        raise CannotRead(
            "it has headings, but no rows of figures under them",
            "export the log with its data",
            file=source.name,
            row=filled[-1][0],
        )
    width = Counter(len(r) for _, r in data).most_common(1)[0][0]
    first = next(n for n, r in data if len(r) == width)
    above = [r for n, r in filled if n < first and len(r) == width and not _is_data(r)][-2:]
    headings = _headings(above, width)
    return Layout(delimiter, sheet, sheets, headings, first, width), [r for n, r in data if n >= first]


def rows(source: Source, delimiter: str, sheet: str | None) -> Iterator[tuple[int, Row]]:
    """Every row with its number, from 1; cells as text.

    Raises
    ------
    CannotRead
        If a row cannot be split into cells.
    """
    if source.is_workbook:
        yield from _sheet_rows(source, sheet)
        return
    with source.path.open("rb") as raw:
        text = io.TextIOWrapper(raw, encoding=source.encoding, newline="")
        reader = csv.reader(_lines(text, source.name), delimiter=delimiter)
        done = 0
        try:
            for row in reader:
                refuse_wide(len(row), source.name, reader.line_num)
                refuse_many_rows(reader.line_num, source.name)
                yield reader.line_num, row
                done = reader.line_num
        except csv.Error as error:
            long = "field limit" in str(error)
            raise CannotRead(
                "a cell has more than 32 767 letters" if long else f"the row cannot be split into cells ({error})",
                "check its quotes and separators",
                file=source.name,
                row=done + 1,
            ) from error


def _lines(text: io.TextIOWrapper, name: str) -> Iterator[str]:
    for number, line in enumerate(bounded(text.readline), start=1):
        if len(line) > LONGEST_LINE:
            raise CannotRead(
                "the row is longer than a million letters", "check its quotes and separators", file=name, row=number
            )
        yield line


def _sheet_rows(source: Source, sheet: str | None) -> Iterator[tuple[int, Row]]:
    with _workbook(source) as book:
        page = book[sheet] if sheet else book.worksheets[0]
        # Not by the size that the sheet states of itself: what lies beyond it would be passed over in silence.
        page.reset_dimensions()
        cells_of = page.iter_rows(values_only=True)
        number = 0
        while True:
            number += 1
            try:
                values = next(cells_of, None)
                row = None if values is None else _trimmed([_cell_text(v) for v in values])
            except MemoryError:
                raise
            except Exception as error:  # openpyxl raises whatever its parser met
                raise CannotRead(
                    "the sheet cannot be read on from here", "save it again as XLSX, or as CSV", source.name, number
                ) from error
            if row is None:
                return
            refuse_many_rows(number, source.name, MOST_SHEET_ROWS)
            refuse_wide(len(row), source.name, number)
            for cell in row:
                refuse_long_cell(cell, source.name, number)
            yield number, row


@contextmanager
def _workbook(source: Source) -> Iterator["Workbook"]:
    import openpyxl

    # By its bytes, as openpyxl goes by the ending of a path, and a file that was sent has none.
    with source.path.open("rb") as file:
        try:
            book = openpyxl.load_workbook(file, read_only=True, data_only=True)
        except MemoryError:
            raise
        except Exception as error:  # openpyxl raises whatever its parser met
            raise CannotRead(
                "the workbook cannot be opened", "save it again as XLSX, without a password", file=source.name
            ) from error
        try:
            yield book
        finally:
            book.close()


def sheet_names(source: Source) -> tuple[str, ...]:
    """Names of the sheets of a workbook."""
    with _workbook(source) as book:
        names = tuple(page.title for page in book.worksheets)
    if len(names) > MOST_SHEETS:
        raise CannotRead(f"the workbook has {len(names)} sheets", f"at most {MOST_SHEETS} are read", file=source.name)
    if not names:
        raise CannotRead("the workbook has no sheet with cells", "save the table as a sheet", file=source.name)
    return names


def _cell_text(value: object) -> str:
    match value:
        case None:
            return ""
        case bool():
            return str(value)
        case dt.datetime():
            if value.year <= 1900:
                return _elapsed(value - dt.datetime(1899, 12, 31 if value.year == 1900 else 30))
            return value.isoformat(sep=" ")
        case dt.time():
            return value.isoformat()
        case dt.timedelta():
            return _elapsed(value)
        case float():
            return repr(value)
        case _:
            return str(value)


def _elapsed(span: dt.timedelta) -> str:
    seconds = span.total_seconds()
    return f"{int(seconds // 3600)}:{int(seconds % 3600 // 60):02d}:{int(seconds % 60):02d}"


def _trimmed(row: Row) -> Row:
    while row and not row[-1]:
        row.pop()
    return row


def delimiter_of(source: Source) -> str:
    """The separator that splits most of the first lines into the same number of cells, two at least."""
    with source.path.open(encoding=source.encoding, newline="") as file:
        lines = [line for line in islice(bounded(file.readline), PEEK_ROWS) if line.strip()]
    if any(len(line) > LONGEST_LINE for line in lines):
        raise CannotRead("a row is longer than a million letters", "check its quotes and separators", file=source.name)
    best, best_score = "", (0.0, 0)
    for delimiter in DELIMITERS:
        widths = [w for line in lines if (w := _width(line, delimiter))]
        width, times = Counter(widths).most_common(1)[0] if widths else (0, 0)
        score = (times / max(1, len(widths)), width)
        if width >= 2 and score[0] > best_score[0] + 0.05:
            best, best_score = delimiter, score
    if not best:
        raise CannotRead(
            "it is not a table: no comma, semicolon or tab splits its lines alike",
            "save it as CSV, one row a reading",
            file=source.name,
        )
    return best


def _width(line: str, delimiter: str) -> int:
    """Cells of one line; 0 where it cannot be split."""
    try:
        return len(next(csv.reader([line], delimiter=delimiter), []))
    except csv.Error:
        return 0


def _is_data(row: Row) -> bool:
    """Whether a row holds figures: two at least, or all of its filled cells but one."""
    filled = [c for c in row if c.strip()]
    figures = sum(_is_figure(c) for c in filled)
    return figures >= 2 or (figures >= 1 and len(filled) <= 2 and _is_figure(filled[0]))


def _is_figure(cell: str) -> bool:
    if cells.is_clock(cell) or cells.is_dated(cell):
        return True
    for comma in (False, True):
        try:
            cells.number(cell, comma)
            return bool(cell.strip())
        except ValueError:
            continue
    return False


def _headings(above: list[Row], width: int) -> tuple[str, ...]:
    """The headings; a row of units under them is joined to them."""
    if not above:
        return ()
    if len(above) == 2 and any(c.strip() for c in above[0]):
        from .headings import UNIT_WORDS, plain

        under = [c.strip() for c in above[1] if c.strip()]
        if under and all(plain(c).strip("[]()") in UNIT_WORDS for c in under):
            return tuple(
                f"{a.strip()} [{b.strip(' []()')}]" if b.strip() else a.strip()
                for a, b in zip(above[0], above[1], strict=True)
            )
    return tuple(c.strip() for c in above[-1][:width])
