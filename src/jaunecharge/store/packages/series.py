"""Series of runs as tables of a package, and back: a row a moment, in the order of runs, places and times."""

import io
import uuid
from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np
from sqlalchemy.orm import Session

from ...core.errors import CannotRead
from ...core.log import Cleaned, PowerTrace
from ...formats.package.rows import SERIES
from .. import models as m
from ..runs.logs import MINUTES, SAMPLES, SOCKET, keep_trace, series_of, watts_of
from ..runs.rows import drop_rows
from ..runs.series import Columns, drop_series, keep_series

OF_RUNS = tuple(name for name, columns in SERIES.items() if columns[0][0] == "run_id")
"""Series of runs; those of packs hang on their tests."""

METERED = (SAMPLES, SOCKET)


def series_tables(session: Session, name: str, runs: Sequence[uuid.UUID]) -> Iterator[Any]:
    """A series of each run that has it, as a table of Arrow."""
    for run_id in runs:
        run = session.get_one(m.Run, run_id)
        found = series_of(session, run, only=name)
        for stored in sorted(found):
            yield series_table(name, run_id, stored.partition(":")[2], found[stored])


def series_table(name: str, run_id: uuid.UUID, place: str, columns: Columns) -> Any:
    """A series of a run as a table of Arrow."""
    import pyarrow as pa

    count = len(columns["t_s"])
    if name in METERED:
        columns = columns | {"watts": watts_of(columns)}
    texts = {"run_id": str(run_id), "position": place}
    arrays = {}
    for column, kind, _ in SERIES[name]:
        if kind == "string":
            arrays[column] = pa.repeat(pa.scalar(texts[column], pa.string()), count)
        elif column not in columns:
            arrays[column] = pa.nulls(count, pa.float64())
        elif kind == "boolean":
            arrays[column] = pa.array(columns[column] != 0.0)
        else:
            arrays[column] = pa.array(columns[column], mask=np.isnan(columns[column]))
    return pa.table(arrays)


def csv_of(table: Any) -> bytes:
    """A table as CSV without headings; truths are `t` and `f`."""
    import pyarrow as pa
    import pyarrow.compute as pc
    import pyarrow.csv as writer

    for n, field in enumerate(table.schema):
        if pa.types.is_boolean(field.type):
            table = table.set_column(n, field.name, pc.if_else(table.column(n), "t", "f"))
    quoting = "needed" if "position" in table.column_names else "none"
    out = pa.BufferOutputStream()
    writer.write_csv(table, out, writer.WriteOptions(include_header=False, quoting_style=quoting))
    return bytes(out.getvalue())


def parquet_of(name: str, tables: Iterator[Any]) -> bytes:
    """A series as Parquet, a group of rows a run: the same figures to the last bit."""
    import pyarrow.parquet as pq

    out, schema = io.BytesIO(), arrow_of(b"", name).schema
    with pq.ParquetWriter(out, schema, compression="zstd", store_schema=False) as writer:
        for table in tables:
            writer.write_table(table)
    return out.getvalue()


def arrow_of(csv: Any, name: str) -> Any:
    """A series as a table of Arrow, from its CSV (bytes, or a buffer of Arrow) without headings.

    Raises
    ------
    pyarrow.ArrowInvalid
        If a cell is not of its column's kind.
    """
    import pyarrow as pa
    import pyarrow.csv as reader

    kinds = {"string": pa.string(), "number": pa.float64(), "boolean": pa.bool_()}
    types = {c: kinds[kind] for c, kind, _ in SERIES[name]}
    if len(csv) == 0:
        return pa.table({c: pa.array([], t) for c, t in types.items()})
    return reader.read_csv(
        pa.BufferReader(csv), read_options=reader.ReadOptions(column_names=list(types)),
        parse_options=reader.ParseOptions(newlines_in_values=True),
        convert_options=reader.ConvertOptions(
            column_types=types, null_values=[""], true_values=["t"], false_values=["f"], strings_can_be_null=False
        ),
    )  # fmt: skip


def take_series(session: Session, name: str, table: Any, runs: Sequence[m.Run]) -> None:
    """Keep a series of runs, as a table of Arrow has it, in the place of what they have of it.

    Raises
    ------
    CannotRead
        If a moment or a figure is missing, or two rows are of one moment.
    """
    for run in runs:
        drop_series(session, run.id, *((SAMPLES, MINUTES) if name == SAMPLES else (name,)))
    by_id = {str(run.id): run for run in runs}
    optional = {"volts", "amps"}
    for column, _, _ in SERIES[name]:
        if column not in optional and table[column].null_count:
            raise CannotRead(f"rows of {name} do not fit: one has no {column}", "write every moment with its figures")
    for run_id, place, columns in _apart(name, table):
        if run_id not in by_id:
            continue
        run = by_id[run_id]
        if not np.all(np.diff(columns["t_s"]) > 0):
            raise CannotRead(f"rows of {name} do not fit: two are of one moment", "leave one of them out")
        if name == SAMPLES:
            meter = columns["t_s"], columns["watts"], columns.get("volts"), columns.get("amps")
            keep_trace(session, run, PowerTrace(*meter, Cleaned()))
        else:
            keep_series(session, run.id, f"{name}:{place}" if place else name, columns)


def _apart(name: str, table: Any) -> Iterator[tuple[str, str, Columns]]:
    """Rows of a table run by run and place by place, in the order of time: run, place, columns; of a column without
    figures nothing."""
    keys = [c for c, kind, _ in SERIES[name] if kind == "string"]
    codes, texts = [], []
    for key in keys:
        encoded = table[key].combine_chunks().dictionary_encode()
        codes.append(np.asarray(encoded.indices.to_numpy(zero_copy_only=False)))
        texts.append(encoded.dictionary.to_pylist())
    figures = {c: _figures(table[c]) for c, kind, _ in SERIES[name] if kind != "string"}
    order = np.lexsort((figures["t_s"], *reversed(codes)))
    if not len(order):
        return
    starts = np.flatnonzero(np.concatenate(([True], np.any([np.diff(c[order]) != 0 for c in codes], axis=0))))
    for start, end in zip(starts, [*starts[1:], len(order)], strict=True):
        here = order[start:end]
        own = {c: values[here] for c, values in figures.items()}
        kept = {c: v for c, v in own.items() if not np.isnan(v).all()}
        run_id, *place = (text[c[here[0]]] for c, text in zip(codes, texts, strict=True))
        yield run_id, place[0] if place else "", kept


def _figures(column: Any) -> np.ndarray:
    import pyarrow as pa

    floats = column.cast(pa.float64()) if not pa.types.is_boolean(column.type) else column.cast(pa.int8())
    return np.asarray(floats.combine_chunks().to_numpy(zero_copy_only=False), dtype=np.float64)


def forget_rows(session: Session, runs: Sequence[m.Run]) -> None:
    """Take away what is stored of runs in rows: their series come in packed."""
    for run in runs:
        drop_rows(session, run.id)
        run.packed = True
    session.flush()
