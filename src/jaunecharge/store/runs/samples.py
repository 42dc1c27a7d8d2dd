"""Many rows at once: PostgreSQL's binary COPY, its rows laid out by NumPy in both directions."""

import uuid
from collections.abc import Callable

import numpy as np
import psycopg
from sqlalchemy.orm import Session

from ...core.arrays import Array

SIGNATURE = b"PGCOPY\n\xff\r\n\x00" + bytes(8)
TRAILER = b"\xff\xff"
ROWS_AT_ONCE = 100_000


def driver(session: Session) -> psycopg.Connection:
    """The psycopg connection of a session, in its transaction."""
    connection = session.connection().connection.driver_connection
    assert isinstance(connection, psycopg.Connection)
    return connection


def packed_rows(run_id: uuid.UUID, columns: list[Array | None]) -> Callable[[int, int], bytes]:
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


def copy_in(
    session: Session,
    table: str,
    names: tuple[str, ...],
    run_id: uuid.UUID,
    columns: list[Array | None],
    progress: Callable[[float], None] = lambda fraction: None,
) -> None:
    """Rows of one run into a table whose columns are `run_id` and `names`, all double precision."""
    count = next(len(c) for c in columns if c is not None)
    pack = packed_rows(run_id, columns)
    statement = f"COPY {table} (run_id, {', '.join(names)}) FROM STDIN (FORMAT BINARY)"
    with driver(session).cursor() as cursor, cursor.copy(statement) as copy:
        copy.write(SIGNATURE)
        for start in range(0, count, ROWS_AT_ONCE):
            copy.write(pack(start, min(count, start + ROWS_AT_ONCE)))
            progress(start / count)
        copy.write(TRAILER)


def copy_out(session: Session, table: str, names: tuple[str, ...], run_id: uuid.UUID) -> list[Array]:
    """Columns of one run's rows in order of time, each (n,) float; NULL comes as NaN."""
    wanted = ", ".join(f"coalesce({name}, 'NaN')" for name in names)
    statement = f"COPY (SELECT {wanted} FROM {table} WHERE run_id = '{run_id}' ORDER BY t_s) TO STDOUT (FORMAT BINARY)"
    received = bytearray()
    with driver(session).cursor() as cursor, cursor.copy(statement) as copy:
        for block in copy:
            received += block
    layout = np.dtype(
        [("count", ">i2"), *(f for i in range(len(names)) for f in ((f"length{i}", ">i4"), (f"value{i}", ">f8")))]
    )
    rows = np.frombuffer(received, dtype=layout, offset=len(SIGNATURE), count=_rows_in(received, layout))
    return [rows[f"value{i}"].astype(float) for i in range(len(names))]


def _rows_in(received: bytearray, layout: np.dtype) -> int:
    return (len(received) - len(SIGNATURE) - len(TRAILER)) // layout.itemsize
