"""A finding as a workbook: live formulas where a reader would check (times, differences, per cent, energy), and beside
each the frozen value as it was published."""

import io
from collections.abc import Sequence
from typing import Any

from ...core.units import HOUR_S, MINUTE_S
from ..drawings.subject import DrawnPhone, Subject
from ..drawings.svg import clean
from .content import ReportIn
from .tables import TableRow, headings
from .texts import long_text

MOST_STEPS = 2000
MOST_CELL = 32_000
ABOUT = (
    "Cells on yellow are formulas over the numbers beside them; the column to their right is the value as published.",
    "Energy here is the sum of the means of equal steps, from placing to the end of the run.",
)


def workbook(made: ReportIn, rows: Sequence[TableRow]) -> bytes:
    """The workbook: the same bytes for the same finding."""
    import xlsxwriter

    out = io.BytesIO()
    book = xlsxwriter.Workbook(out, {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False})
    book.set_properties({"title": clean(made.document.question), "created": made.drawn_at.replace(tzinfo=None)})
    formats = {
        "bold": book.add_format({"bold": True}),
        "live": book.add_format({"bg_color": "#FFF3B8", "num_format": "0.00"}),
        "number": book.add_format({"num_format": "0.00"}),
        "wrap": book.add_format({"text_wrap": True, "valign": "top"}),
    }  # fmt: skip
    _answer(book, formats, made)
    _table(book, formats, rows)
    _differences(book, formats, made.subject.phones)
    _energy(book, formats, made.subject)
    _check_ins(book, formats, made.subject.phones)
    book.close()
    return out.getvalue()


def _text(sheet: Any, row: int, column: int, text: str, form: Any = None) -> None:
    sheet.write_string(row, column, clean(text)[:MOST_CELL], form)


def _answer(book: Any, formats: dict[str, Any], made: ReportIn) -> None:
    sheet = book.add_worksheet("Finding")
    sheet.set_column(0, 0, 120)
    for n, line in enumerate([*long_text(made).splitlines(), "", *ABOUT]):
        _text(sheet, n, 0, line, formats["wrap"])


def _table(book: Any, formats: dict[str, Any], rows: Sequence[TableRow]) -> None:
    sheet = book.add_worksheet("Table")
    sheet.freeze_panes(1, 2)
    for k, name in enumerate(headings(rows)):
        _text(sheet, 0, k, name, formats["bold"])
    for n, row in enumerate(rows, 1):
        _text(sheet, n, 0, row.phone)
        _text(sheet, n, 1, row.charger)
        sheet.write_number(n, 2, row.runs)
        for k, value in enumerate(row.figures.values(), 3):
            if value is not None:
                sheet.write_number(n, k, value)


def _differences(book: Any, formats: dict[str, Any], phones: Sequence[DrawnPhone]) -> None:
    """Minutes of every pair, what the faster saves, less time and higher rate: by formula and as published."""
    sheet = book.add_worksheet("Differences")
    sheet.freeze_panes(1, 0)
    names = (
        "phone", "from %", "to %", "slower", "minutes", "faster", "minutes", "saved, min", "as published",
        "less time, %", "as published", "higher rate, %", "as published",
    )  # fmt: skip
    for k, name in enumerate(names):
        _text(sheet, 0, k, name, formats["bold"])
    n = 0
    for phone in phones:
        for i, fast in enumerate(phone.rows):
            for slow in phone.rows[i + 1 :]:
                n += 1
                line = n + 1
                _text(sheet, n, 0, phone.phone)
                sheet.write_number(n, 1, phone.window[0])
                sheet.write_number(n, 2, phone.window[1])
                _text(sheet, n, 3, slow.label)
                sheet.write_number(n, 4, slow.minutes, formats["number"])
                _text(sheet, n, 5, fast.label)
                sheet.write_number(n, 6, fast.minutes, formats["number"])
                saved = slow.minutes - fast.minutes
                shares = 100.0 * (1.0 - fast.minutes / slow.minutes), 100.0 * (slow.minutes / fast.minutes - 1.0)
                for k, (formula, value) in enumerate(
                    (
                        (f"=E{line}-G{line}", saved), (f"=100*(1-G{line}/E{line})", shares[0]),
                        (f"=100*(E{line}/G{line}-1)", shares[1]),
                    )
                ):  # fmt: skip
                    sheet.write_formula(n, 7 + 2 * k, formula, formats["live"], value)
                    sheet.write_number(n, 8 + 2 * k, value, formats["number"])


def _energy(book: Any, formats: dict[str, Any], subject: Subject) -> None:
    """Watts of each metered row in equal steps, their energy by formula and as published."""
    sheet = book.add_worksheet("Energy")
    sheet.freeze_panes(5, 1)
    for n, name in enumerate(("phone", "charger", "minutes a step", "energy, Wh", "as published")):
        _text(sheet, n, 0, name, formats["bold"])
    column = 0
    for phone in subject.phones:
        for row in phone.rows:
            watts = row.ribbon.watts[:MOST_STEPS]
            if not any(w is not None for w in watts):
                continue
            column += 1
            _text(sheet, 0, column, phone.phone)
            _text(sheet, 1, column, row.label)
            sheet.write_number(2, column, row.ribbon.step_min)
            energy = sum(w for w in watts if w is not None) * row.ribbon.step_min * MINUTE_S / HOUR_S
            letter = _letter(column)
            formula = f"=SUM({letter}6:{letter}{5 + len(watts)})*{letter}3/60"
            sheet.write_formula(3, column, formula, formats["live"], energy)
            sheet.write_number(4, column, energy, formats["number"])
            for n, value in enumerate(watts):
                if value is not None:
                    sheet.write_number(5 + n, column, value)


def _letter(column: int) -> str:
    """Letters of a column, counted from 0."""
    text = ""
    column += 1
    while column:
        column, rest = divmod(column - 1, 26)
        text = chr(65 + rest) + text
    return text


def _check_ins(book: Any, formats: dict[str, Any], phones: Sequence[DrawnPhone]) -> None:
    sheet = book.add_worksheet("Check-ins")
    sheet.freeze_panes(1, 0)
    for k, name in enumerate(("phone", "charger", "minute", "%")):
        _text(sheet, 0, k, name, formats["bold"])
    n = 0
    for phone in phones:
        for row in phone.rows:
            for minute, percent in row.checkins:
                n += 1
                _text(sheet, n, 0, phone.phone)
                _text(sheet, n, 1, row.label)
                sheet.write_number(n, 2, minute, formats["number"])
                sheet.write_number(n, 3, percent)
