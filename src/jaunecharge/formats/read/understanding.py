"""Understanding of a table, column by column, so that a person can see it and put it right."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from ...core.errors import CannotRead
from ...core.units import FACTORS, to_base
from . import cells, headings
from .cells import TimeForm
from .layout import Layout, Row, layout
from .source import Source

POWER = ("volts", "amps", "watts", "energy")
SHOWN_ROWS = 6
QUANTITIES = (
    "time",
    "volts",
    "amps",
    "watts",
    "phone_watts",
    "phone_volts",
    "phone_amps",
    "energy",
    "charge",
    "percent",
    "celsius",
    "position",
    "ignore",
)
LEAST_CHARGE = 5.0
"""Points by which a column without a heading must rise to be a percentage."""

BATTERY_VOLTS = (2.8, 4.55)
"""Volts of one cell, from empty to full; no USB supply that charges anything gives as little (common practice)."""

MILLI_VOLTS, MILLI_AMPS, MILLI_WATTS = (1000.0, 60000.0), 20.0, 400.0
"""Medians from which a column without a unit is taken for thousandths: no USB supply gives as much."""


@dataclass(frozen=True)
class Column:
    """A column: its heading, what it is taken for, in which unit, and why."""

    index: int
    heading: str
    quantity: str
    unit: str | None
    why: str
    place: str = ""


@dataclass(frozen=True)
class Understanding:
    """A table as it was understood. `problems` must be settled before it can be read; `remarks` need not."""

    layout: Layout
    comma: bool
    time_form: TimeForm | None
    columns: tuple[Column, ...]
    first_rows: tuple[tuple[str, ...], ...]
    problems: tuple[str, ...] = ()
    remarks: tuple[str, ...] = ()
    date_index: int | None = None
    """The column of days, where the time of day stands in another."""

    def of(self, quantity: str) -> list[Column]:
        """The columns taken for a quantity."""
        return [c for c in self.columns if c.quantity == quantity]

    @property
    def gives(self) -> tuple[str, ...]:
        """Roles that it can play in a run: `meter`, `checkins`, `heat`, `phone`."""
        parts = []
        if self.of("watts") or self.of("energy") or (self.of("volts") and (self.of("amps") or self.of("charge"))):
            parts.append("meter")
        if self.of("percent"):
            parts.append("checkins")
        if self.of("celsius"):
            parts.append("heat")
        if self.of("phone_watts") or (self.of("phone_volts") and self.of("phone_amps")):
            parts.append("phone")
        return tuple(parts)


@dataclass(frozen=True)
class Choice:
    """Corrections by a person: a column's quantity and unit by its index, the form of time, separators, the sheet."""

    columns: Mapping[int, tuple[str, str | None]] = field(default_factory=dict)
    time_form: TimeForm | None = None
    comma: bool | None = None
    delimiter: str | None = None
    sheet: str | None = None


def understand(source: Source, choice: Choice = Choice()) -> Understanding:
    """Layout and columns by which the table is to be read.

    Raises
    ------
    CannotRead
        If it is no table, or a choice names a quantity or unit that does not exist.
    """
    shape, head = layout(source, choice.sheet, choice.delimiter)
    comma = _decimal_comma(shape, head) if choice.comma is None else choice.comma
    drafts = [_column(i, shape, head, comma, choice) for i in range(shape.columns)]
    if not shape.headings:
        drafts = _by_values(drafts, head, comma, choice)
    drafts, date_index = _without_second_clock(drafts, head)
    time_column = next((c for c in drafts if c.quantity == "time"), None)
    form, why = (None, "") if time_column is None else _time_form(time_column, head, comma)
    if date_index is not None:
        form, why = TimeForm.DATED, "with the day beside it"
    if choice.time_form is not None:
        form, why = choice.time_form, "as chosen"
    if time_column is not None:
        chosen = time_column.why == "as chosen"
        drafts[time_column.index] = replace(time_column, unit=None, why=time_column.why if chosen else why)
    columns = tuple(_of_the_battery(drafts, head, comma))
    first_rows = tuple(tuple(_padded(r, shape.columns)) for r in head[:SHOWN_ROWS])
    if form is not TimeForm.DATED:
        date_index = None
    return Understanding(shape, comma, form, columns, first_rows, _problems(columns, shape), date_index=date_index)


def _of_the_battery(drafts: list[Column], head: list[Row], comma: bool) -> list[Column]:
    """Volts and amps beside percentages that can only be a battery's: a phone that logs itself tells them, no meter."""
    by_quantity = {q: [c for c in drafts if c.quantity == q] for q in ("percent", "volts", "amps", "watts", "energy")}
    volts, amps = by_quantity["volts"], by_quantity["amps"]
    if not by_quantity["percent"] or len(volts) != 1 or len(amps) != 1 or by_quantity["watts"] or by_quantity["energy"]:
        return drafts
    values = _numbers(_samples(head, volts[0].index), comma)
    if "as chosen" in {volts[0].why, amps[0].why} or not len(values):
        return drafts
    middle = float(np.median(values)) * to_base("volts", volts[0].unit or "V")[0]
    if not BATTERY_VOLTS[0] <= middle <= BATTERY_VOLTS[1]:
        return drafts
    why = f"{middle:.2f} V is a battery's: as the phone reports"
    own = {volts[0].index: "phone_volts", amps[0].index: "phone_amps"}
    return [replace(c, quantity=own[c.index], why=why) if c.index in own else c for c in drafts]


def _padded(row: Row, width: int) -> Row:
    return [*row, *[""] * (width - len(row))][:width]


def _samples(head: list[Row], index: int) -> list[str]:
    return [r[index].strip() for r in head if index < len(r) and r[index].strip()]


def _decimal_comma(shape: Layout, head: list[Row]) -> bool:
    if shape.delimiter == ",":
        quoted = [c for r in head for c in r if "," in c]
        if any(not cells.is_grouped(c) for c in quoted):
            return True
        return bool(quoted) and not any("." in c for r in head for c in r)
    commas = sum("," in c for r in head for c in r)
    dots = sum("." in c and "," not in c and not cells.is_dated(c) for r in head for c in r)
    return commas > dots


def _column(index: int, shape: Layout, head: list[Row], comma: bool, choice: Choice) -> Column:
    heading = shape.headings[index] if index < len(shape.headings) else ""
    if index in choice.columns:
        quantity, unit = choice.columns[index]
        if quantity not in QUANTITIES:
            raise CannotRead(f"“{quantity}” is no quantity", f"choose one of {', '.join(QUANTITIES)}")
        if unit and quantity != "ignore" and unit not in FACTORS[quantity]:
            raise CannotRead(f"“{unit}” is no unit of {quantity}", f"choose one of {', '.join(FACTORS[quantity])}")
        unit = unit or next(iter(FACTORS.get(quantity, {})), None)
        return Column(index, heading, quantity, unit, "as chosen", _place(quantity, heading))
    named, unit = headings.meaning(heading)
    samples = _samples(head, index)
    if named is None:
        if samples and all(cells.is_clock(s) or cells.is_dated(s) for s in samples):
            return Column(index, heading, "time", None, "its cells are times")
        return Column(index, heading, "ignore", None, "its heading names no quantity" if heading else "no heading")
    why = "by its heading"
    if unit is None and named in FACTORS and named not in ("time", "position"):
        unit, why = _unit_by_cells(named, samples, comma)
    return Column(index, heading, named, unit, why, _place(named, heading))


def _place(quantity: str, heading: str) -> str:
    return headings.place(heading) if quantity == "celsius" else ""


def _unit_by_cells(quantity: str, samples: list[str], comma: bool) -> tuple[str | None, str]:
    suffixes = {cells.unit_suffix(s) for s in samples} - {None}
    if len(suffixes) == 1:
        written = headings.UNIT_WORDS.get(headings.plain(suffixes.pop() or ""))
        if written and written[0] == quantity:
            return written[1], "by the unit in its cells"
    base = next(iter(FACTORS[quantity]))
    middle = float(np.nanmedian(np.abs(values))) if len(values := _numbers(samples, comma)) else 0.0
    if quantity == "volts" and MILLI_VOLTS[0] < middle < MILLI_VOLTS[1]:
        return "mV", f"its heading names no unit; {middle:g} V cannot be"
    if quantity == "amps" and middle > MILLI_AMPS:
        return "mA", f"its heading names no unit; {middle:g} A cannot be"
    if quantity == "watts" and middle > MILLI_WATTS:
        return "mW", f"its heading names no unit; {middle:g} W cannot be"
    return base, f"its heading names no unit; taken as {base}"


def _numbers(samples: list[str], comma: bool) -> np.ndarray:
    numeric = []
    for sample in samples:
        try:
            numeric.append(cells.number(sample, comma))
        except ValueError:
            continue
    return np.array(numeric)


def _by_values(drafts: list[Column], head: list[Row], comma: bool, choice: Choice) -> list[Column]:
    """Columns without headings: the first that rises is time, the rest by the size of their figures."""
    columns = list(drafts)
    if not any(c.quantity == "time" for c in columns):
        for c in columns:
            values = _numbers(_samples(head, c.index), comma)
            if c.index not in choice.columns and len(values) > 1 and np.all(np.diff(values) > 0):
                columns[c.index] = Column(c.index, "", "time", None, "no headings; its figures rise from row to row")
                break
    open_columns = [c for c in columns if c.quantity == "ignore" and c.index not in choice.columns]
    levels = [c for c in open_columns if len(open_columns) > 1 and _rises_as_a_charge(_samples(head, c.index), comma)]
    if len(levels) == 1:
        # Beside percentages nobody can tell watts from degrees by their size: the person says which they are.
        columns[levels[0].index] = Column(levels[0].index, "", "percent", "%", "no headings; it rises as a charge does")
        return columns
    medians = {c.index: float(np.median(v)) for c in open_columns if len(v := _numbers(_samples(head, c.index), comma))}
    like_volts = [i for i, m in medians.items() if 3.0 <= m <= 60.0]
    if len(medians) == 1 and not _all_whole_percent(head, next(iter(medians)), comma):
        guesses = {next(iter(medians)): "watts"}
    elif len(medians) == 1:
        guesses = {next(iter(medians)): "percent"}
    elif len(like_volts) > 2:
        guesses = {i: "volts" for i in like_volts}
    else:
        order = sorted(medians)
        guesses = dict(zip(order, ("volts", "amps", "watts"), strict=False))
    for index, quantity in guesses.items():
        unit, _ = _unit_by_cells(quantity, _samples(head, index), comma)
        columns[index] = Column(index, "", quantity, unit, "no headings; by the size of its figures")
    return columns


def _rises_as_a_charge(samples: list[str], comma: bool) -> bool:
    """Whether cells are whole numbers of percent that rise."""
    values = _numbers(samples, comma)
    if not 2 < len(values) < 200 or not np.all((values >= 0) & (values <= 100) & (values == np.round(values))):
        return False
    return bool(values[-1] - values[0] >= LEAST_CHARGE and np.mean(np.diff(values) >= 0) >= 0.8)


def _all_whole_percent(head: list[Row], index: int, comma: bool) -> bool:
    values = _numbers(_samples(head, index), comma)
    return bool(np.all((values >= 0) & (values <= 100) & (values == np.round(values)))) and len(head) < 200


def _time_form(column: Column, head: list[Row], comma: bool) -> tuple[TimeForm | None, str]:
    samples = _samples(head, column.index)
    if samples and all(cells.is_dated(s) for s in samples):
        return TimeForm.DATED, "its cells are dates with times"
    if samples and all(cells.is_clock(s) for s in samples):
        return TimeForm.CLOCK, "its cells are h:mm:ss"
    values = _numbers(samples, comma)
    if not len(values):
        return None, ""
    _, unit = headings.meaning(column.heading)
    size = float(np.median(np.abs(values)))
    for form, low, high in (
        (TimeForm.EPOCH_SECONDS, 5e8, 1e10),
        (TimeForm.EPOCH_MILLISECONDS, 5e11, 1e13),
        (TimeForm.EPOCH_MICROSECONDS, 5e14, 1e16),
    ):
        if low <= size < high:
            return form, "figures of this size are an epoch: time since 1970"
    named = {"s": TimeForm.SECONDS, "min": TimeForm.MINUTES, "h": TimeForm.HOURS, "ms": TimeForm.MILLISECONDS}
    if unit in named:
        return named[unit], "by its heading"
    step = float(np.median(np.diff(values))) if len(values) > 1 else 1.0
    if step >= 100.0 and np.all(values == np.round(values)) and len(values) > 20:
        return TimeForm.MILLISECONDS, f"its heading names no unit; it rises by {step:g} a row"
    parts = step * 60.0
    if 0 < step < 0.2 and abs(parts - round(parts)) < 0.02 and abs(step * 100 - round(step * 100)) > 0.01:
        return (
            TimeForm.MINUTES,
            f"its heading names no unit; it rises by {step:.4g} a row, whole seconds in minutes",
        )
    return TimeForm.SECONDS, "its heading names no unit; taken as seconds"


def _without_second_clock(drafts: list[Column], head: list[Row]) -> tuple[list[Column], int | None]:
    """One clock a table: a day beside a time of day is read with it, else the first clock is kept; and the column of
    days."""
    times = [c for c in drafts if c.quantity == "time"]
    if len(times) < 2 or any(c.why == "as chosen" for c in times):
        return drafts, None

    def all_are(column: Column, test: Callable[[str], bool]) -> bool:
        samples = _samples(head, column.index)
        return bool(samples) and all(test(s) for s in samples)

    bare = [c for c in times if all_are(c, cells.is_bare_date)]
    clock = next((c for c in times if c not in bare), times[0])
    days = bare[0] if len(bare) == 1 and all_are(clock, cells.is_clock) and clock not in bare else None
    columns = [
        Column(
            c.index,
            c.heading,
            "ignore",
            None,
            "the day of the time beside it" if c is days else "another clock is read",
        )
        if c in times and c is not clock
        else c
        for c in drafts
    ]
    return columns, None if days is None else days.index


def _problems(columns: tuple[Column, ...], shape: Layout) -> tuple[str, ...]:
    def named(quantity: str) -> list[Column]:
        return [c for c in columns if c.quantity == quantity]

    def listed(columns: list[Column]) -> str:
        names = [f"{c.index + 1} ({c.heading})" if c.heading else str(c.index + 1) for c in columns]
        return ", ".join(names[:-1]) + f" and {names[-1]}" if len(names) > 1 else names[0]

    problems = []
    for quantity in ("time", "volts", "amps", "watts", "phone_watts", "phone_volts", "phone_amps", "energy", "percent"):
        if len(alike := named(quantity)) > 1:
            like = {
                "time": "times",
                "phone_watts": "watts as the phone reports",
                "phone_volts": "volts of the phone's battery",
                "phone_amps": "amps into it",
            }.get(quantity, quantity)
            problems.append(
                f"columns {listed(alike)} all look like {like}: say which one to read, and leave out the others"
            )
    if not named("time"):
        problems.append("no column looks like a time: say which one it is")
    power = named("watts") or named("energy") or (named("volts") and (named("amps") or named("charge")))
    if not power and not named("percent") and not named("celsius") and not named("phone_watts"):
        missing = {"volts": "amps", "amps": "volts"}
        half = next((q for q in missing if named(q)), None)
        problems.append(
            f"there are {half} but no {missing[half]}, and no watts: say which column they are"
            if half
            else "no column looks like volts, amps, watts, a percentage or a temperature: say which is which"
        )
    return tuple(problems)
