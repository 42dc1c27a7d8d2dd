"""A data set for analysts: readings and samples of a selection of runs as partitioned Parquet, as any engine reads it.

A folder a table, in it a folder a month (`month=2026-11`), in it files; runs in the order of their beginnings, a run's
rows together and in the order of time. `_columns.json` tells each table's columns and units.
"""

import datetime as dt
import json
import shutil
import uuid
from collections.abc import Callable, Iterator, Sequence
from contextlib import ExitStack, suppress
from dataclasses import dataclass, field
from itertools import groupby
from pathlib import Path
from typing import Any

from sqlalchemy import ColumnElement, func, select
from sqlalchemy.orm import Session

from ...core.errors import CannotRead
from ...core.units import MINUTE_S
from ...formats.package.rows import SERIES
from ...formats.write.runs_table import COLUMNS, row_of
from .. import models as m
from ..database import Database
from ..runs.logs import MINUTES, load_log, series_of
from ..runs.readings import known_placing, reading_of
from ..runs.series import Columns
from ..runs.table import rows_out
from .going_out import everything, no_progress, of_finding
from .series import OF_RUNS, series_table

Progress = Callable[[float], None]
ROWS_A_FILE = 5_000_000
DESCRIPTION = "_columns.json"
"""Files that begin with an underscore are no part of a data set, for those who read it."""

TEXTS = frozenset({
    "label", "began_at", "zone", "read_at", "reads_as", "outcome", "spot_check", "simulated", "copy_of", "origin", "id",
})  # fmt: skip
MINUTE_UNITS = {
    "start_s": "s", "end_s": "s", "low_s": "s", "low_w": "W", "high_s": "s", "high_w": "W", "mean_w": "W",
    "samples": "",
}  # fmt: skip
"""Columns of the minutes of a run's samples."""


@dataclass(frozen=True)
class Selection:
    """Which runs go out: those of a finding or some by their ids, else all; of a phone, of a charger, begun in a time.

    since, until : moments, the first of them in, the last out; by when a run began, or was read where that is unknown.
    """

    finding: uuid.UUID | None = None
    runs: tuple[uuid.UUID, ...] = ()
    phone: str = ""
    charger: str = ""
    since: dt.datetime | None = None
    until: dt.datetime | None = None


@dataclass
class Written:
    """Outcome: how many runs, and rows by table."""

    runs: int = 0
    rows: dict[str, int] = field(default_factory=dict)


_BEGAN = func.coalesce(m.Run.started_at, m.Run.created_at)


def _chosen(session: Session, wanted: Selection) -> list[ColumnElement[bool]]:
    where: list[ColumnElement[bool]] = [m.Run.deleted_at.is_(None)]
    chosen = everything() if wanted.finding is None else of_finding(session, wanted.finding)
    own = chosen.ids.get("runs")
    if own is not None:
        where.append(m.Run.id.in_(own))
    if wanted.runs:
        where.append(m.Run.id.in_(wanted.runs))
    for name in ("phone", "charger"):
        label = getattr(wanted, name)
        if label:
            where.append(func.lower(m.Run.factors[name].as_string()) == label.lower())
    if wanted.since is not None:
        where.append(wanted.since <= _BEGAN)
    if wanted.until is not None:
        where.append(wanted.until > _BEGAN)
    return where


def export_dataset(
    database: Database, folder: Path, wanted: Selection = Selection(), progress: Progress = no_progress
) -> Written:
    """Write a selection of runs into a folder, whole or not at all.

    Raises
    ------
    NotThere
        If there is no such finding.
    FileExistsError
        If the folder is there.
    """
    if folder.exists():
        raise FileExistsError(f"{folder.name} is there already")
    partial = folder.with_name(folder.name + ".partial")
    shutil.rmtree(partial, ignore_errors=True)
    partial.mkdir(parents=True)
    try:
        with database.session() as session:
            session.connection(execution_options={"isolation_level": "REPEATABLE READ"})
            written = _write(session, partial, wanted, progress)
        partial.rename(folder)
    except BaseException:
        shutil.rmtree(partial, ignore_errors=True)
        raise
    progress(1.0)
    return written


def _write(session: Session, folder: Path, wanted: Selection, progress: Progress) -> Written:
    query = select(m.Run.id, _BEGAN).where(*_chosen(session, wanted)).order_by(_BEGAN, m.Run.id)
    runs = [(run_id, f"{at.astimezone(dt.UTC):%Y-%m}") for run_id, at in session.execute(query)]
    written = Written(len(runs))
    done = 0
    for month, of_month in groupby(runs, key=lambda r: r[1]):
        with ExitStack() as stack:
            tables = _Tables(stack, folder, month, written)
            ids = [run_id for run_id, _ in of_month]
            tables.put("runs", _readings(session, ids))
            for run_id in ids:
                run = session.get_one(m.Run, run_id)
                for name, table in _series(session, run):
                    tables.put(name, table)
                session.expunge(run)
                done += 1
                progress(done / len(runs))
    (folder / DESCRIPTION).write_text(json.dumps(described(), ensure_ascii=False, indent=1) + "\n", encoding="utf-8")
    return written


class _Tables:
    """The files of one month, each closed once it is full."""

    def __init__(self, stack: ExitStack, folder: Path, month: str, written: Written) -> None:
        self._stack, self._folder, self._month, self._written = stack, folder, month, written
        self._open: dict[str, tuple[Any, int, int]] = {}

    def put(self, name: str, table: Any) -> None:
        """Add rows to a table."""
        import pyarrow.parquet as pq

        writer, rows, n = self._open.get(name, (None, 0, 0))
        if writer is None or rows + len(table) > ROWS_A_FILE:
            if writer is not None:
                writer.close()
                n += 1
            place = self._folder / name / f"month={self._month}"
            place.mkdir(parents=True, exist_ok=True)
            texts = [f.name for f in table.schema if str(f.type) == "string"]
            writer, rows = pq.ParquetWriter(
                place / f"part-{n}.parquet", table.schema, compression="zstd", use_dictionary=texts
            ), 0  # fmt: skip
            self._stack.callback(writer.close)
        writer.write_table(table)
        self._open[name] = writer, rows + len(table), n
        self._written.rows[name] = self._written.rows.get(name, 0) + len(table)


def _readings(session: Session, ids: Sequence[uuid.UUID]) -> Any:
    """Readings of runs: the table of all runs, a row each."""
    import pyarrow as pa

    runs = {r.id: r for r in session.scalars(select(m.Run).where(m.Run.id.in_(ids)))}
    rows = [row_of(run) for run in rows_out(session, (runs[i] for i in ids))]
    return pa.table(
        {
            ("run_id" if name == "id" else name): pa.array([r[n] for r in rows], _kind(name))
            for n, name in enumerate(COLUMNS)
        }
    )


def _kind(name: str) -> Any:
    import pyarrow as pa

    from ...core.factors import NAMES

    return pa.string() if name in TEXTS or name in NAMES else pa.float64()


def _series(session: Session, run: m.Run) -> Iterator[tuple[str, Any]]:
    """Series of a run, each with the minute after placing beside its times; the minutes of its samples among them."""
    import pyarrow as pa

    placed_s = _placed_s(session, run)
    for stored, columns in sorted(series_of(session, run).items()):
        name, _, place = stored.partition(":")
        if name == MINUTES:
            own = {"run_id": pa.repeat(pa.scalar(str(run.id), pa.string()), len(columns["t_s"]))}
            table = pa.table(own | {c: pa.array(columns[c]) for c in MINUTE_UNITS})
            yield name, _with_minute(table, placed_s, columns, "start_s")
        else:
            yield name, _with_minute(series_table(name, run.id, place, columns), placed_s, columns, "t_s")


def _placed_s(session: Session, run: m.Run) -> float | None:
    """When the phone was placed [s]; None where the run cannot be read."""
    known = known_placing(run)
    if known is None:
        with suppress(CannotRead):
            known = reading_of(session, run, load_log(session, run)).placed_s
    return known


def _with_minute(table: Any, placed_s: float | None, columns: Columns, before: str) -> Any:
    import pyarrow as pa

    time_s = columns["t_s"]
    minute = pa.nulls(len(time_s), pa.float64()) if placed_s is None else pa.array((time_s - placed_s) / MINUTE_S)
    return table.add_column(table.schema.get_field_index(before) + 1, "minute", minute)


def described() -> dict[str, Any]:
    """Columns of each table, and their units."""

    def of(columns: dict[str, str], after: str) -> dict[str, str]:
        found: dict[str, str] = {"run_id": ""}
        for name, unit in columns.items():
            found[name] = unit
            if name == after:
                found["minute"] = "min, after the placing of the phone"
        return found

    tables = {name: of({c: u for c, _, u in SERIES[name]}, "t_s") for name in OF_RUNS}
    tables[MINUTES] = of(MINUTE_UNITS, "start_s")
    tables["runs"] = {("run_id" if name == "id" else name): _unit(name) for name in COLUMNS}
    clock = "t_s and all that ends in _s count on the log's own clock; month is that in which a run began (UTC)"
    return {"about": clock, "partitioned by": "month", "tables": tables}


UNITS = {"min": "min", "c": "°C", "k": "K", "wh": "Wh", "w": "W", "percent": "%"}


def _unit(name: str) -> str:
    return UNITS.get(name.rsplit("_", 1)[-1], "") if name not in TEXTS else ""
