"""Contents of a file: every run that stands in it, and what was left out."""

from dataclasses import dataclass, field, replace
from itertools import islice
from typing import Literal

import numpy as np

from ...core.errors import CannotRead
from ...core.log import CheckIns, ClockKind, Timeline, make_check_ins, placings, power_trace
from ...core.units import MINUTE_S
from ...core.wording import counted
from ..read.layout import layout, rows, sheet_names
from ..read.logs import MeterLog, TimedReadings, meter_log, timed_readings
from ..read.source import Source
from ..read.understanding import Understanding, understand
from .table import NO_NAME, Found, TableRun, table_runs

Kind = Literal["table", "log"]
MOST_TABLE_ROWS = 5000
"""A table with more rows was written by a meter, not kept by hand."""


@dataclass(frozen=True)
class RunInFile:
    """One run of a file: its number from 1, where it lies [s] on the file's own clock, when it was placed where that is
    seen, its check-ins (minute on that clock, %), and what the file says of it."""

    n: int
    label: str
    kind: Kind
    start_s: float
    end_s: float
    placed_s: float | None
    checkins: tuple[tuple[float, float], ...]
    factors: dict[str, str] = field(default_factory=dict)
    began_s: float | None = None
    local: bool = False
    """Whether `began_s` is by a clock of no stated zone."""

    sure: bool = True
    """Of a placing in a log: whether it is plainly another phone, not the same one after a stop."""


@dataclass(frozen=True)
class Picked:
    """One run of a file: the meter's log where it has one, its percentages where it has some; on the file's clock."""

    run: RunInFile
    meter: MeterLog | None
    readings: TimedReadings | None


@dataclass(frozen=True)
class Contents:
    """Every run of a file, and what was left out of it, each with its row."""

    runs: tuple[RunInFile, ...]
    left_out: tuple[str, ...] = ()


def contents(source: Source) -> Contents:
    """Runs of a file, and what was left out.

    Raises
    ------
    CannotRead
        If there is no run in it.
    """
    found = _tables(source)
    if found is not None:
        return found
    understood = understand(source)
    if "meter" in understood.gives:
        return _placings(source, understood)
    readings = timed_readings(source, understood)
    if len(readings.percent) < 2:
        raise CannotRead("there is no run in it", "a run is two percentages at least, each with its time", source.name)
    zero = zero_of(readings.clock)
    run = TableRun(source.name, (readings.clock.seconds - zero).tolist(), readings.percent.tolist(), {}, zero or None)
    return Contents((_of_table(1, run),))


def _tables(source: Source) -> Contents | None:
    """The runs of tables that somebody kept; None where there are none."""
    sheets = sheet_names(source) if source.is_workbook else (None,)
    delimiter = "" if source.is_workbook else layout(source)[0].delimiter
    runs: list[TableRun] = []
    left_out: list[str] = []
    for sheet in sheets:
        grid = list(islice(rows(source, delimiter, sheet), MOST_TABLE_ROWS + 1))
        if len(grid) > MOST_TABLE_ROWS:
            return None
        found = table_runs(grid)
        if found is None:
            if len(sheets) > 1:
                left_out.append(f"sheet “{sheet}”: no run in it")
            continue
        many = len(sheets) > 1
        own = f"sheet “{sheet}”, " if many else ""
        left_out += [own + text for text in found.left_out]
        runs += _of_sheet(found, sheet if many else None)
    if not runs:
        return None
    if len(runs) == 1 and runs[0].label == NO_NAME:
        runs = [replace(runs[0], label=source.name)]
    return Contents(tuple(_of_table(n, run) for n, run in enumerate(runs, 1)), tuple(left_out))


def _of_sheet(found: Found, sheet: str | None) -> list[TableRun]:
    if sheet is None:
        return found.runs
    alone = len(found.runs) == 1
    return [replace(r, label=sheet if alone else f"{sheet}: {r.label}") for r in found.runs]


def _of_table(n: int, run: TableRun) -> RunInFile:
    checkins = tuple((s / MINUTE_S, p) for s, p in zip(run.seconds, run.percent, strict=True))
    return RunInFile(
        n, run.label, "table", run.seconds[0], run.seconds[-1], None, checkins, run.factors, run.began_s, run.local
    )


def _placings(source: Source, understood: Understanding) -> Contents:
    """The runs of a meter's log, one for each placing."""
    log = meter_log(source, understood)
    zero = zero_of(log.clock)
    trace = power_trace(log.clock.seconds - zero, log.watts, log.volts, log.amps)
    levels = None
    if understood.of("percent"):
        readings = timed_readings(source, understood)
        levels = make_check_ins(readings.clock.seconds - zero, readings.percent)
    spans = placings(trace, levels)
    many = len(spans) > 1
    runs = []
    for n, span in enumerate(spans, 1):
        label = f"{source.name}, placing {n}" if many else source.name
        inside = () if levels is None else _inside(levels, span.start_s, span.end_s)
        runs.append(
            RunInFile(
                n, label, "log", span.start_s, span.end_s, span.placed_s, inside, {}, zero or None, sure=span.sure
            )
        )
    return Contents(tuple(runs), tuple(log.remarks))


def zero_of(clock: Timeline) -> float:
    """Zero of a file's clock [s]: of dates the first row, else that of the figures themselves."""
    return float(clock.seconds.min()) if clock.kind is ClockKind.ABSOLUTE else 0.0


def _inside(levels: CheckIns, start_s: float, end_s: float) -> tuple[tuple[float, float], ...]:
    pairs = zip(levels.time_s.tolist(), levels.percent.tolist(), strict=True)
    return tuple((s / MINUTE_S, p) for s, p in pairs if start_s <= s <= end_s)


def read_one(source: Source, n: int) -> Picked:
    """One run of a file, by its number.

    Raises
    ------
    CannotRead
        If there is no run of that number.
    """
    inside = contents(source)
    chosen = next((r for r in inside.runs if r.n == n), None)
    if chosen is None:
        raise CannotRead(
            f"there is no run {n} in it",
            f"it holds {counted(len(inside.runs), 'run')}; see jaunecharge runs",
            source.name,
        )
    return picked(source, chosen)


def picked(source: Source, chosen: RunInFile) -> Picked:
    """The log of one run of a file, cut out of it."""
    minutes = np.array([m for m, _ in chosen.checkins])
    readings = None
    if len(minutes):
        clock = Timeline(ClockKind.ELAPSED, minutes * MINUTE_S, file=source.name)
        readings = TimedReadings(clock, np.array([p for _, p in chosen.checkins]))
    if chosen.kind == "table":
        return Picked(chosen, None, readings)
    log = meter_log(source, understand(source))
    seconds = log.clock.seconds - zero_of(log.clock)
    inside = (seconds >= chosen.start_s) & (seconds <= chosen.end_s)
    volts, amps = (None if v is None else v[inside] for v in (log.volts, log.amps))
    clock = replace(log.clock.only(inside), kind=ClockKind.ELAPSED, seconds=seconds[inside])
    return Picked(chosen, replace(log, clock=clock, watts=log.watts[inside], volts=volts, amps=amps), readings)
