"""Logs laid down row by row, as versions before this one did."""

import uuid
from collections.abc import Callable

import numpy as np
from sqlalchemy import text

from jaunecharge.store.row_models import ROWS
from jaunecharge.store.runs.driver import SIGNATURE, TRAILER, driver
from jaunecharge.store.runs.logs import SAMPLES, watts_of
from jaunecharge.store.runs.series import load_series

ROWS_AT_ONCE = 100_000


def packed_rows(run_id: uuid.UUID, columns: list[np.ndarray | None]) -> Callable[[int, int], bytes]:
    """Rows of (run, figures …) in the binary COPY format, from one index up to another.

    columns : (n,) float arrays, None for a column that is NULL throughout.
    """
    fields: list[tuple[str, str]] = [("count", ">i2"), ("run_length", ">i4"), ("run", "V16")]
    for i, column in enumerate(columns):
        fields.append((f"length{i}", ">i4"))
        if column is not None:
            fields.append((f"value{i}", ">f8"))
    layout = np.dtype(fields)

    def pack(start: int, end: int) -> bytes:
        rows = np.zeros(end - start, dtype=layout)
        rows["count"] = 1 + len(columns)
        rows["run_length"] = 16
        rows["run"] = np.void(run_id.bytes)
        for i, column in enumerate(columns):
            rows[f"length{i}"] = -1 if column is None else 8
            if column is not None:
                rows[f"value{i}"] = column[start:end]
        return rows.tobytes()

    return pack


def copy_in(session, table: str, names: tuple[str, ...], run_id: uuid.UUID, columns: list[np.ndarray | None]) -> None:
    """Rows of one run into a table whose columns are `run_id` and `names`, all double precision."""
    count = next(len(c) for c in columns if c is not None)
    pack = packed_rows(run_id, columns)
    statement = f"COPY {table} (run_id, {', '.join(names)}) FROM STDIN (FORMAT BINARY)"
    with driver(session).cursor() as cursor, cursor.copy(statement) as copy:
        copy.write(SIGNATURE)
        for start in range(0, count, ROWS_AT_ONCE):
            copy.write(pack(start, min(count, start + ROWS_AT_ONCE)))
        copy.write(TRAILER)


def unpack_all(session) -> int:
    """Lay the logs of all runs down in rows again; how many runs those are."""
    runs = list(session.scalars(text("SELECT id FROM runs WHERE packed")))
    for run_id in runs:
        for name, columns in load_series(session, run_id, without=("minutes",)).items():
            kind, _, place = name.partition(":")
            table = ROWS[kind]
            if kind in (SAMPLES, "socket_samples"):
                columns = columns | {"watts": watts_of(columns)}
            flags = {"charging": "charges", "lights": "lit"}
            if place or kind in flags:
                marked = {c: v.astype(bool) if c in flags.values() else v for c, v in columns.items()}
                moments = zip(*(v.tolist() for v in marked.values()), strict=True)
                rows = [dict(zip(marked, row, strict=True)) for row in moments]
                more = {"run_id": run_id} | ({"position": place} if place else {})
                session.execute(table.insert(), [row | more for row in rows])
            else:
                names = tuple(c.name for c in table.c if c.name != "run_id")
                copy_in(session, table.name, names, run_id, [columns.get(c) for c in names])
    session.execute(text("DELETE FROM series"))
    session.execute(text("UPDATE runs SET packed = false, step_s = NULL"))
    return len(runs)
