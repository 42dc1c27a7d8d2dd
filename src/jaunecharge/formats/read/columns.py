"""A table's figures in the units of the core, read as it was understood: fast where it is clean, else with care."""

import datetime as dt
import sys
from array import array
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any
from zoneinfo import ZoneInfo

import numpy as np

from ...core.arrays import Array
from ...core.errors import CannotRead
from ...core.log import ClockKind, Timeline, refuse_backwards, unwrapped, without_clock_change, without_restarts
from ...core.units import FACTORS, to_base
from . import cells
from .cells import EPOCH_FORMS, FIRST_YEAR, LAST_YEAR, NUMERIC_FORMS, TimeForm
from .layout import rows
from .limits import LONGEST_PLACE, refuse_many_rows
from .source import Source
from .understanding import Column, Understanding

if TYPE_CHECKING:
    import pyarrow as pa

MOST_BAD_SHARE = 0.2
LONGEST_SHOWN = 80
TICK_ROWS = 50_000
LATEST_S = (LAST_YEAR - FIRST_YEAR) * 366 * 86_400.0
"""No time of a log is further from its zero, be that its own or that of the epoch [s]."""

FAST_BLOCK = 1 << 20
GROWN_BY = 1_000_000

Progress = Callable[[float], None]


def no_progress(fraction: float) -> None:
    """Tells nobody."""


@dataclass(frozen=True)
class Figures:
    """The figures of a table, in base units and in the order of its rows.

    clock : Timeline of n rows; columns : (n,) float arrays by column index, NaN where a cell is empty;
    places : the texts of the position column by row, or None; skipped : (row, cell) of rows that could not be read.
    """

    clock: Timeline
    columns: dict[int, Array]
    places: list[str] | None
    skipped: tuple[tuple[int, str], ...]
    remarks: tuple[str, ...]


def read_figures(
    source: Source, understood: Understanding, zone: ZoneInfo | None = None, progress: Progress = no_progress,
    counters: bool = False,
) -> Figures:  # fmt: skip
    """The figures of a table; counters : whether one of mAh is read though other columns say what was drawn.

    Raises
    ------
    CannotRead
        If something is left to settle, or more than a fifth of its rows cannot be read.
    """
    if understood.problems:
        raise CannotRead(
            understood.problems[0],
            "or head the columns with quantity and unit",
            file=source.name,
            row=(understood.layout.first_data_row - 1 or None),
        )
    # A counter of mAh is read only where nothing else says what was drawn.
    counted = understood.of("volts") and not (
        understood.of("amps") or understood.of("watts") or understood.of("energy")
    )
    passed = ("time", "ignore", "position", *(() if counted or counters else ("charge",)))
    wanted = [c for c in understood.columns if c.quantity not in passed]
    time_column = understood.of("time")[0]
    raw = _fast(source, understood, time_column, wanted, progress)
    if raw is None:
        raw = _careful(source, understood, time_column, wanted, progress)
    times, columns, places, numbers, skipped = raw
    if not len(numbers):
        raise CannotRead("no row of it can be read", "check separators and decimal sign", file=source.name)
    if len(skipped) > MOST_BAD_SHARE * (len(skipped) + len(numbers)):
        row, cell = skipped[0]
        raise CannotRead(
            f"“{cell[:40]}” is not a figure, and {len(skipped)} rows are like it",
            "say what the column is, or take those rows out",
            file=source.name,
            row=row,
        )
    clock, remark = _timeline(times, understood.time_form, zone)
    clock = replace(clock, file=source.name, rows=numbers)
    if places is None:
        refuse_backwards(clock)
    based = {}
    for column, values in zip(wanted, columns, strict=True):
        factor, offset = to_base(column.quantity, column.unit or "")
        based[column.index] = values if factor == 1.0 and not offset else values * factor + offset
    progress(1.0)
    return Figures(clock, based, places, tuple(skipped), (remark,) if remark else ())


Raw = tuple[Array | list[float] | list[dt.datetime], list[Array], list[str] | None, np.ndarray, list[tuple[int, str]]]


def _values(column: "pa.DoubleArray") -> Array:
    """The figures of an Arrow column, NaN where a cell is empty; its own `to_numpy` loads pandas, which takes long."""
    here = slice(column.offset, column.offset + len(column))
    valid, figures = column.buffers()
    values = np.frombuffer(figures, np.float64)[here]
    if not column.null_count:
        return values
    return np.where(np.unpackbits(np.frombuffer(valid, np.uint8), bitorder="little")[here], values, np.nan)


def _fast(
    source: Source, understood: Understanding, time_column: Column, wanted: list[Column], progress: Progress
) -> Raw | None:
    """The whole table at once through Arrow; None where a cell is not a plain figure, so that care is needed."""
    import pyarrow as pa
    import pyarrow.csv as pa_csv

    if source.encoding not in ("utf-8", "utf-8-sig") or understood.time_form not in NUMERIC_FORMS:
        return None
    if understood.of("position"):
        return None
    shape = understood.layout
    names = [f"c{i}" for i in range(shape.columns)]
    used = [f"c{c.index}" for c in (time_column, *wanted)]
    size = max(1, source.path.stat().st_size)
    columns = [np.empty(0) for _ in used]
    count = 0
    try:
        with pa_csv.open_csv(
            source.path,
            read_options=pa_csv.ReadOptions(
                column_names=names, skip_rows=shape.first_data_row - 1, block_size=FAST_BLOCK, use_threads=False
            ),
            parse_options=pa_csv.ParseOptions(delimiter=shape.delimiter, ignore_empty_lines=False),
            convert_options=pa_csv.ConvertOptions(
                include_columns=used,
                column_types={name: pa.float64() for name in used},
                decimal_point="," if understood.comma else ".",
                null_values=[""],
            ),
        ) as reader:
            seen = 0
            for batch in reader:
                seen += batch.nbytes
                below, count = count, count + batch.num_rows
                refuse_many_rows(count, source.name)
                for i, column in enumerate(columns):
                    # Grown in its place: no column is held twice.
                    if count > len(column):
                        column.resize(max(count, below + GROWN_BY), refcheck=False)
                    column[below:count] = _values(batch.column(i))
                progress(min(0.95, seen / (2.0 * size)))
    except (pa.ArrowInvalid, pa.ArrowKeyError):
        return None
    if not count:
        return None
    for column in columns:
        column.resize(count, refcheck=False)
    if any(np.isinf(c).any() for c in columns) or np.isnan(columns[0][:-1]).any():
        return None
    if np.isnan(columns[0][-1:]).any():
        columns = [c[:-1] for c in columns]
    numbers = np.arange(shape.first_data_row, shape.first_data_row + len(columns[0]))
    return columns[0], columns[1:], None, numbers, []


def _careful(
    source: Source, understood: Understanding, time_column: Column, wanted: list[Column], progress: Progress
) -> Raw:
    """Row by row; a row with a cell that cannot be read is left out and named."""
    shape, comma, form = understood.layout, understood.comma, understood.time_form
    place_column = next(iter(understood.of("position")), None)
    at = _time_reader(form, comma)
    times: Any = [] if form is TimeForm.DATED else array("d")
    columns = [array("d") for _ in wanted]
    places: list[str] | None = [] if place_column else None
    numbers = array("q")
    skipped: list[tuple[int, str]] = []
    size, started = max(1, source.path.stat().st_size), 0
    for number, row in rows(source, shape.delimiter, shape.sheet):
        if number < shape.first_data_row or not any(c.strip() for c in row):
            continue
        started += sum(map(len, row)) + len(row)
        cell = row[time_column.index] if time_column.index < len(row) else ""
        if understood.date_index is not None and understood.date_index < len(row):
            cell = f"{row[understood.date_index].strip()} {cell.strip()}"
        try:
            moment = at(cell)
            figures = []
            for column in wanted:
                cell = row[column.index] if column.index < len(row) else ""
                figures.append(cells.number(cell, comma) * _own_unit(cell, column))
        except (ValueError, OverflowError):
            skipped.append((number, cell.strip()[:LONGEST_SHOWN]))
            continue
        times.append(moment)
        numbers.append(number)
        for values, value in zip(columns, figures, strict=True):
            values.append(value)
        if places is not None and place_column is not None:
            place = row[place_column.index].strip() if place_column.index < len(row) else ""
            if len(place) > LONGEST_PLACE:
                raise CannotRead(
                    f"the name of a place has {len(place)} letters", f"use at most {LONGEST_PLACE}", source.name, number
                )
            places.append(sys.intern(place))
        if not len(numbers) % TICK_ROWS:
            progress(min(0.95, started / size))
    at_s = times if form is TimeForm.DATED else np.array(times)
    return at_s, [np.array(c) for c in columns], places, np.array(numbers, dtype=int), skipped


def _own_unit(cell: str, column: Column) -> float:
    """Factor from the unit written in a cell to that of its column: a meter may go from mA to A on the way."""
    if not cell or not cell.rstrip()[-1:].isalpha():
        return 1.0
    units, unit = FACTORS[column.quantity], cells.unit_suffix(cell)
    if unit is None or column.unit is None or unit not in units or column.unit not in units:
        return 1.0
    return units[unit] / units[column.unit]


def _time_reader(form: TimeForm | None, comma: bool) -> Callable[[str], float | dt.datetime]:
    if form is TimeForm.DATED:
        return cells.moment
    if form in (TimeForm.CLOCK, TimeForm.MINUTE_CLOCK):
        minute_clock = form is TimeForm.MINUTE_CLOCK
        return lambda cell: cells.clock_seconds(cell, minute_clock)

    def elapsed(cell: str) -> float:
        value = cells.number(cell, comma)
        if value != value:
            raise ValueError(cell)
        return value

    return elapsed


def _timeline(times: Array | list, form: TimeForm | None, zone: ZoneInfo | None) -> tuple[Timeline, str | None]:
    if form is TimeForm.DATED:
        local = any(m.tzinfo is None for m in times)
        if local and any(m.tzinfo is not None for m in times):
            raise CannotRead("some times carry an offset from UTC and some do not", "write all of them alike")
        seconds, day_start = cells.local_epoch(list(times), zone)
        values = np.array(seconds)
        remark = None
        if local and zone is None:
            values, remark = without_clock_change(values)
        return Timeline(ClockKind.ABSOLUTE, values, day_start), remark
    if form is TimeForm.CLOCK:
        values, remark = unwrapped(np.array(times, dtype=float))
        return Timeline(ClockKind.TIME_OF_DAY, values), remark
    if form is TimeForm.MINUTE_CLOCK:
        return Timeline(ClockKind.ELAPSED, np.array(times, dtype=float)), None
    assert form is not None
    values = np.asarray(times, dtype=float) * NUMERIC_FORMS[form]
    if len(values) and float(np.abs(values).max()) > LATEST_S:
        raise CannotRead("its times lie beyond the year 2200", "say in which unit they are, or put them right")
    if form in EPOCH_FORMS:
        day = None
        if zone is not None:
            first = dt.datetime.fromtimestamp(float(values[0]), zone)
            day = first.hour * 3600.0 + first.minute * 60.0 + first.second
        return Timeline(ClockKind.ABSOLUTE, values, day), None
    values, remark = without_restarts(values)
    return Timeline(ClockKind.ELAPSED, values), remark
