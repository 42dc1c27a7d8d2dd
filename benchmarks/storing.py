"""What a sample costs, stored in each way that was tried: bytes in the table with its index, seconds to write and read.

A million samples of a noisy meter, a sample a second, to four decimals and to two; `python -m benchmarks.storing`.
"""

import io
import statistics
import time
import uuid
from collections.abc import Callable
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq
from sqlalchemy import text
from tests.old_rows import copy_in
from tests.serving import fresh_database

from jaunecharge.core.log import power_trace
from jaunecharge.formats.columns import packed, unpacked
from jaunecharge.store.database import Database
from jaunecharge.store.runs.logs import trace_columns, watts_of
from jaunecharge.store.runs.series import CHUNK_ROWS, keep_series, load_series

MILLION = 1_000_000
MOST_BYTES = {4: 3.0, 2: 2.0}
Columns = dict[str, np.ndarray]


def noisy(decimals: int) -> Columns:
    """Times [s], volts and amps of a meter, and their product."""
    rng = np.random.default_rng(5)
    time_s = np.arange(MILLION, dtype=float)
    volts = np.round(9.0 + rng.normal(0, 0.005, MILLION), decimals)
    amps = np.round(np.where(time_s < 60, 0.05, 1.5) + rng.normal(0, 0.003, MILLION), decimals)
    return {"t_s": time_s, "watts": volts * amps, "volts": volts, "amps": amps}


def chunks(columns: Columns) -> list[Columns]:
    return [{n: c[s : s + CHUNK_ROWS] for n, c in columns.items()} for s in range(0, MILLION, CHUNK_ROWS)]


def whole(columns: Columns, decimals: int) -> Columns:
    """Whole numbers in place of decimals, without the watts."""
    scaled = {"t_s": columns["t_s"], **{n: np.rint(columns[n] * 10.0**decimals) for n in ("volts", "amps")}}
    return {n: c.astype(np.int32) for n, c in scaled.items()}


def parquet(columns: Columns, **how: Any) -> bytes:
    out = io.BytesIO()
    pq.write_table(
        pa.table(columns),
        out,
        compression="zstd",
        use_dictionary=False,
        write_statistics=False,
        store_schema=False,
        **how,
    )
    return out.getvalue()


def differences(columns: Columns) -> bytes:
    """Arrow IPC of differences, zstd."""
    narrow = {n: np.diff(c, prepend=c[:1]).astype(np.int16) for n, c in columns.items()}
    batch, sink = pa.RecordBatch.from_pydict(narrow), pa.BufferOutputStream()
    with pa.ipc.new_stream(sink, batch.schema, options=pa.ipc.IpcWriteOptions(compression="zstd")) as writer:
        writer.write_batch(batch)
    return bytes(sink.getvalue())


WAYS: dict[str, Callable[[Columns, int], list[bytes]]] = {
    "float64 with watts, Parquet": lambda c, d: [parquet(x) for x in chunks(c)],
    "whole numbers, Arrow IPC of differences": lambda c, d: [differences(x) for x in chunks(whole(c, d))],
    "whole numbers, Parquet of differences": lambda c, d: [
        parquet(x, column_encoding=dict.fromkeys(x, "DELTA_BINARY_PACKED")) for x in chunks(whole(c, d))
    ],
    "whole numbers, Parquet as stored": lambda c, d: [
        packed({n: v for n, v in x.items() if n != "watts"}) for x in chunks(c)
    ],
}


def in_rows(database: Database, columns: Columns) -> float:
    """Bytes a sample in rows, as versions before stored them, the index among them."""
    with database.session() as session:
        run_id = uuid.uuid4()
        copy_in(session, "power_samples", tuple(columns), run_id, list(columns.values()))
        size = session.scalar(text("SELECT pg_total_relation_size('power_samples')")) or 0
        session.execute(text("TRUNCATE power_samples"))
    return size / MILLION


def in_arrays(database: Database, columns: Columns) -> float:
    """Bytes a sample as arrays of float64 that PostgreSQL itself compresses with lz4."""
    with database.session() as session:
        names = ", ".join(f"{n} bytea COMPRESSION lz4" for n in columns)
        session.execute(text(f"CREATE TABLE arrays (n int, {names})"))
        for n, chunk in enumerate(chunks(columns)):
            values = {name: c.tobytes() for name, c in chunk.items()}
            session.execute(
                text(f"INSERT INTO arrays VALUES (:n, {', '.join(f':{x}' for x in values)})"), {"n": n, **values}
            )
        size = session.scalar(text("SELECT pg_total_relation_size('arrays')")) or 0
        session.execute(text("DROP TABLE arrays"))
    return size / MILLION


def stored(database: Database, columns: Columns) -> tuple[float, float, float]:
    """As a run is stored: bytes a sample on disk, the index among them; seconds to write and to read."""
    trace = power_trace(columns["t_s"], columns["watts"], columns["volts"], columns["amps"])
    wrote, took = [], []
    for _ in range(3):
        with database.session() as session:
            session.execute(text("TRUNCATE series"))
            run_id = uuid.uuid4()
            began = time.perf_counter()
            keep_series(session, run_id, "samples", trace_columns(trace))
            session.flush()
            wrote.append(time.perf_counter() - began)
            began = time.perf_counter()
            found = load_series(session, run_id)["samples"]
            took.append(time.perf_counter() - began)
            assert watts_of(found).tobytes() == trace.power_w.tobytes()
            size = session.scalar(text("SELECT sum(pg_total_relation_size(relid)) FROM pg_partition_tree('series')"))
    return float(size or 0) / MILLION, statistics.median(wrote), statistics.median(took)


def results() -> list[tuple[str, str, str, str, bool]]:
    """What is stored of a million samples, beside what was stored of them before; on a database of its own, which is
    emptied in between."""
    rows = []
    for decimals in (4, 2):
        columns = noisy(decimals)
        with fresh_database() as database:
            size, wrote, took = stored(database, columns)
            before = in_rows(database, columns)
        rows.append((
            f"bytes a sample on disk, {decimals} decimals", f"{size:.2f}", f"rows with their index {before:.0f}",
            f"{MOST_BYTES[decimals]:g}", size <= MOST_BYTES[decimals],
        ))  # fmt: skip
        rows.append((
            "the same million samples written, read", f"{wrote:.2f} s, {took:.2f} s", "without their reading", "", True
        ))  # fmt: skip
    return rows


def main() -> None:
    with fresh_database() as database:
        print(f"{'':44} {'bytes a sample':>16}")
        for decimals in (4, 2):
            columns = noisy(decimals)
            print(f"{decimals} decimals")
            print(f"  {'rows with their index':42} {in_rows(database, columns):16.1f}")
            print(f"  {'float64 arrays, lz4 of PostgreSQL':42} {in_arrays(database, columns):16.1f}")
            for name, way in WAYS.items():
                way(columns, decimals)
                began = time.perf_counter()
                blocks = way(columns, decimals)
                took = time.perf_counter() - began
                print(f"  {name:42} {sum(map(len, blocks)) / MILLION:16.2f}   written in {took:.2f} s")
            began = time.perf_counter()
            for block in blocks:
                unpacked(block)
            print(f"  {'':42} {'':16}   read in {time.perf_counter() - began:.2f} s")
            size, wrote, took = stored(database, columns)
            print(
                f"  {'in the table, with its index':42} {size:16.2f}   written in {wrote:.2f} s, read in {took:.2f} s"
            )


if __name__ == "__main__":
    main()
