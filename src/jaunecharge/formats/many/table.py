"""Runs in one table that somebody kept by hand: time down and a column a run, a row a run and minutes across, times and
percentages in pairs, or a column that names the run.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from ...core.errors import CannotRead
from ...core.labels import label as checked_label
from .cells import When, is_empty, percentage, when
from .clock import TableClock, clock_of, seconds_of
from .headings import SUMMARY_WORDS, factor_of, is_time, name_of, other_quantity, words_of
from .levels import MOSTLY, are_percentages, as_fractions, gives_levels

Grid = Sequence[tuple[int, Sequence[str]]]
"""Rows of a table with their numbers in the file."""

LEAST_READINGS = 2
NO_NAME = "run 1"
LEAST_TIMES = 3
MOST_HEADING_ROWS = 12


@dataclass(frozen=True)
class TableRun:
    """One run of a table. seconds : (m,) on the table's clock; percent : (m,) [%]; factors : what the table says of it;
    began_s : when its clock was 0, s since 1970, where the table carries dates; local : in no stated zone."""

    label: str
    seconds: list[float]
    percent: list[float]
    factors: dict[str, str] = field(default_factory=dict)
    began_s: float | None = None
    local: bool = False


@dataclass
class Found:
    """Runs of a table, and what was passed over, each with its row."""

    runs: list[TableRun] = field(default_factory=list)
    left_out: list[str] = field(default_factory=list)


def table_runs(grid: Grid) -> Found | None:
    """The runs of a table; None where it is none that people keep by hand.

    What cannot be read is left out and said, row by row; a run of fewer than two readings is none.
    """
    rows = [(n, [c.strip() for c in cells]) for n, cells in grid if any(c.strip() for c in cells)]
    if len(rows) < 2:
        return None
    for shape in (_named_rows, _pairs, _columns, _across):
        found = shape(rows)
        if found is not None and found.runs:
            found.runs = _named_apart(found.runs)
            return found
    return None


def _named_apart(runs: list[TableRun]) -> list[TableRun]:
    """Two runs of one name get a number each."""
    seen: dict[str, int] = {}
    apart = []
    for run in runs:
        seen[run.label] = seen.get(run.label, 0) + 1
        name = run.label if seen[run.label] == 1 else f"{run.label} ({seen[run.label]})"
        apart.append(replace(run, label=name))
    return apart


def _readings(
    cells: Sequence[tuple[int, When, str]], clock: TableClock, under: str, fractions: bool, found: Found
) -> tuple[list[float], list[float]]:
    """Seconds and percentages of one run; cells : (row, time, text) in the order of the table."""
    seconds, percent = [], []
    at = seconds_of([t for _, t, _ in cells], clock)
    for (row, _, text), moment in zip(cells, at, strict=True):
        if is_empty(text):
            continue
        try:
            value = percentage(text)
        except CannotRead as error:
            found.left_out.append(f"row {row}: {error.what}, under “{under}”")
            continue
        seconds.append(moment)
        percent.append(value * 100.0 if fractions and "%" not in text and value <= 1.0 else value)
    order = sorted(range(len(seconds)), key=lambda i: seconds[i])
    return [seconds[i] for i in order], [percent[i] for i in order]


def _add(
    found: Found, label: str, readings: tuple[list[float], list[float]], clock: TableClock, more: dict[str, str]
) -> None:
    seconds, percent = readings
    if len(seconds) < LEAST_READINGS:
        count = "no reading" if not seconds else "one reading"
        found.left_out.append(f"“{label}”: {count}, a run needs two")
        return
    began = clock.zero_s if clock.kind == "dated" else None
    name = checked_label(label[:200], "the table") or f"run {len(found.runs) + 1}"
    found.runs.append(TableRun(name, seconds, percent, more, began, clock.local))


def _cell(row: Sequence[str], i: int) -> str:
    return row[i] if i < len(row) else ""


def _time_column(rows: Grid) -> tuple[int, int] | None:
    """The column of times that rise down the table, and the index of its first row."""
    width = max(len(r) for _, r in rows)
    headed = _headed(rows)
    for c in sorted(range(min(width, 8)), key=lambda c: (c not in headed, c)):
        times = [(i, t) for i, (_, r) in enumerate(rows) if (t := when(_cell(r, c))) is not None]
        heading = headed.get(c, "")
        if heading and set(words_of(heading)) & {"#", "nr", "no", "n", "number", "index"}:
            continue
        if len(times) < LEAST_TIMES or len(times) < MOSTLY * (len(rows) - times[0][0]):
            continue
        clock = clock_of([t for _, t in times], heading)
        steps = np.diff(seconds_of([t for _, t in times], clock))
        if np.all(steps >= 0) and np.count_nonzero(steps > 0) >= MOSTLY * len(steps):
            return c, times[0][0]
    return None


def _headed(rows: Grid) -> dict[int, str]:
    """Columns that a heading of times stands over, by the first rows."""
    headed: dict[int, str] = {}
    for _, r in rows[:MOST_HEADING_ROWS]:
        for c, text in enumerate(r):
            if text and when(text) is None and is_time(text):
                headed.setdefault(c, text)
    return headed


def _headings_over(rows: Grid, first: int) -> list[list[str]]:
    """Heading rows above the data, cells of a name that spans columns carried to the right in all but the last."""
    above = [list(r) for _, r in rows[:first]][-2:]
    return above


def _columns(rows: Grid) -> Found | None:
    """Time down, a column a run."""
    where = _time_column(rows)
    if where is None:
        return None
    time_at, first = where
    above = _headings_over(rows, first)
    headings = above[-1] if above else []
    width = max(len(r) for _, r in rows)
    found = Found()
    data = list(_data_rows(rows[first:], time_at, headings, found))
    others = [c for c in range(width) if c != time_at and any(_cell(r, c) for _, _, r in data)]
    columns, passed = [], []
    for c in others:
        heading = _cell(headings, c)
        texts = [_cell(r, c) for _, _, r in data]
        if gives_levels(heading, texts):
            columns.append(c)
        elif not all(is_empty(t) for t in texts):
            passed.append(f"column “{heading or c + 1}”: no percentages")
    for c in range(width):
        if c != time_at and c not in others and _cell(headings, c):
            found.left_out.append(f"column “{_cell(headings, c)}” is empty")
    if not columns:
        return None
    # Of a single run its other columns are read as well; among several nobody can know whose they are.
    found.left_out += passed if len(columns) > 1 else []
    clock = clock_of([t for _, t, _ in data], _cell(headings, time_at))
    fractions = as_fractions([_cell(r, c) for c in columns for _, _, r in data])
    for k, c in enumerate(columns, 1):
        own = name_of(_cell(headings, c)) or (name_of(_cell(above[0], c)) if len(above) > 1 else "")
        name = own or f"run {k}"
        cells = [(n, t, _cell(r, c)) for n, t, r in data]
        _add(found, name, _readings(cells, clock, name, fractions, found), clock, {})
    return found


def _names(rows: Grid, c: int, numbers: bool) -> bool:
    """Whether the cells of a column name runs: some of them stand in several rows, or over empty ones; only a run's own
    name may be a number."""
    texts = [_cell(r, c) for _, r in rows]
    filled = [t for t in texts if t]
    if not numbers and are_percentages(texts):
        return False
    return bool(filled) and len(set(filled)) <= max(1, len(texts) // 2)


def _data_rows(
    rows: Grid, time_at: int, headings: Sequence[str], found: Found
) -> Iterator[tuple[int, When, Sequence[str]]]:
    """Rows whose time can be read; headings again, summaries and the rest are left out and said."""
    for n, r in rows:
        at = when(_cell(r, time_at))
        if at is not None:
            yield n, at, r
        elif list(r) == list(headings):
            found.left_out.append(f"row {n}: the headings again")
        elif (
            words_of(_cell(r, time_at) or _cell(r, 0))[:1]
            and words_of(_cell(r, time_at) or _cell(r, 0))[0] in SUMMARY_WORDS
        ):
            found.left_out.append(f"row {n}: a summary, “{(_cell(r, time_at) or _cell(r, 0))[:40]}”")
        else:
            found.left_out.append(f"row {n}: “{_cell(r, time_at)[:40]}” is no time")


def _pairs(rows: Grid) -> Found | None:
    """Pairs of a time and a percentage, a pair a run: each on its own times."""
    for i, (_, headings) in enumerate(rows[:MOST_HEADING_ROWS]):
        at = [c for c, text in enumerate(headings) if when(text) is None and is_time(text)]
        if len(at) < 2:
            continue
        found = Found()
        ends = [*at[1:], max(len(r) for _, r in rows)]
        texts = [_cell(r, c) for a, b in zip(at, ends, strict=True) for c in range(a + 1, b) for _, r in rows[i + 1 :]]
        fractions = as_fractions(texts)
        for k, (a, b) in enumerate(zip(at, ends, strict=True), 1):
            values = [
                c for c in range(a + 1, b) if gives_levels(_cell(headings, c), [_cell(r, c) for _, r in rows[i + 1 :]])
            ]
            if not values:
                found.left_out.append(f"column {a + 1}: times without percentages beside them")
                continue
            over = [_cell(r, c) for _, r in rows[:i][-1:] for c in range(a, b)]
            name = name_of(_cell(headings, values[0])) or next((t for t in over if t), "") or f"run {k}"
            cells = []
            for n, r in rows[i + 1 :]:
                t = when(_cell(r, a))
                if t is not None:
                    cells.append((n, t, _cell(r, values[0])))
                elif not is_empty(_cell(r, values[0])) or not is_empty(_cell(r, a)):
                    found.left_out.append(f"row {n}: “{_cell(r, a)[:40]}” is no time, under “{name}”")
            if cells:
                clock = clock_of([t for _, t, _ in cells], _cell(headings, a))
                _add(found, name, _readings(cells, clock, name, fractions, found), clock, {})
        return found
    return None


def _across(rows: Grid) -> Found | None:
    """A row a run, times across."""
    for i, (_, headings) in enumerate(rows[:MOST_HEADING_ROWS]):
        times = [(c, t) for c, text in enumerate(headings) if c > 0 and (t := when(text)) is not None]
        if len(times) < LEAST_TIMES or np.any(np.diff([t.seconds for _, t in times]) <= 0):
            continue
        first = times[0][0]
        names = [(c, factor_of(_cell(headings, c))) for c in range(first)]
        found = Found()
        texts = [_cell(r, c) for _, r in rows[i + 1 :] for c, _ in times]
        if not are_percentages(texts):
            continue
        fractions = as_fractions(texts)
        clock = clock_of([t for _, t in times], " ".join(_cell(headings, c) for c in range(first)))
        for n, r in rows[i + 1 :]:
            factors = {f: _cell(r, c) for c, f in names if f and _cell(r, c)}
            name = _run_name(factors, [_cell(r, c) for c, f in names if not f]) or f"row {n}"
            if (words_of(name) or [""])[0] in SUMMARY_WORDS:
                found.left_out.append(f"row {n}: a summary, “{name[:40]}”")
                continue
            cells = [(n, t, _cell(r, c)) for c, t in times]
            _add(found, name, _readings(cells, clock, name, fractions, found), clock, factors)
        return found
    return None


def _named_rows(rows: Grid) -> Found | None:
    """A row a reading, one or more columns that name the run."""
    for i, (_, headings) in enumerate(rows[:MOST_HEADING_ROWS]):
        named = [(c, f) for c, text in enumerate(headings) if text and (f := factor_of(text)) is not None]
        at = [c for c, text in enumerate(headings) if when(text) is None and is_time(text)]
        named = [(c, f) for c, f in named if _names(rows[i + 1 :], c, numbers=not f)]
        if not named or len(at) != 1:
            continue
        taken = {at[0], *(c for c, _ in named)}
        below = rows[i + 1 :]
        values = [
            c
            for c in range(len(headings))
            if c not in taken
            and other_quantity(headings[c]) is None
            and are_percentages([_cell(r, c) for _, r in below])
        ]
        percents = [c for c in values if "%" in headings[c] or "percent" in words_of(headings[c])] or values
        if not percents:
            continue
        found = Found()
        groups: dict[tuple[str, ...], list[tuple[int, When, str]]] = {}
        key: tuple[str, ...] = ()
        for n, t, r in _data_rows(below, at[0], headings, found):
            texts = tuple(_cell(r, c) for c, _ in named)
            key = texts if any(texts) else key  # A name that stands once over its rows.
            groups.setdefault(key, []).append((n, t, _cell(r, percents[0])))
        fractions = as_fractions([text for cells in groups.values() for *_, text in cells])
        for texts, cells in groups.items():
            factors = {f: t for (_, f), t in zip(named, texts, strict=True) if f and t}
            own = [t for (_, f), t in zip(named, texts, strict=True) if not f]
            name = _run_name(factors, own) or f"run {len(found.runs) + 1}"
            clock = clock_of([t for _, t, _ in cells], headings[at[0]])
            _add(found, name, _readings(cells, clock, name, fractions, found), clock, factors)
        return found
    return None


def _run_name(factors: dict[str, str], own: Sequence[str]) -> str:
    """A run's name: its own, else the phone on the charger."""
    name = " ".join(t for t in own if t)
    if name and not name.isdigit():
        return name
    phone, charger = factors.get("phone", ""), factors.get("charger", "")
    told = f"{phone} on {charger}" if phone and charger else phone or charger or next(iter(factors.values()), "")
    return f"{told} {name}".strip() if told and name else told or (f"run {name}" if name else "")
