"""Tables for spreadsheets, in which no text is ever run as a formula."""

import csv
import io
from collections.abc import Iterable, Sequence

from ...core.labels import harmless

Cell = str | float | int | None


def csv_text(headings: Sequence[str], rows: Iterable[Sequence[Cell]]) -> str:
    """A CSV with headings."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(headings)
    writer.writerows([harmless(c) if isinstance(c, str) else c for c in row] for row in rows)
    return out.getvalue()


def xlsx_bytes(headings: Sequence[str], rows: Iterable[Sequence[Cell]], sheet: str) -> bytes:
    """A workbook of one sheet; text is written as text."""
    import xlsxwriter

    out = io.BytesIO()
    book = xlsxwriter.Workbook(out, {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False})
    page = book.add_worksheet(sheet)
    bold = book.add_format({"bold": True})
    for column, heading in enumerate(headings):
        page.write_string(0, column, heading, bold)
    for line, row in enumerate(rows, start=1):
        for column, cell in enumerate(row):
            if isinstance(cell, str):
                page.write_string(line, column, cell)
            elif cell is not None:
                page.write_number(line, column, cell)
    page.freeze_panes(1, 0)
    book.close()
    return out.getvalue()
