"""Columns of figures as bytes, and back to the last bit: Parquet, where a column's decimals are exact as whole numbers.

A meter writes decimals. A column whose every figure is a whole number over a power of ten, or a whole number of steps,
goes as those whole numbers: as their differences where they run on, byte by byte where they scatter; else as it is.
Each block opens with any reader of Parquet; under the key `scales` it says what to divide or multiply by.
"""

import json
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..core.arrays import Array

SCALES = b"scales"
MOST_DECIMALS = 7
TRIED = 256
"""Figures that are looked at before the whole column is."""

MOST_EXACT = 2.0**53
"""Whole numbers up to here are all there among the doubles (IEEE 754)."""


@dataclass(frozen=True)
class Scale:
    """Way from whole numbers to figures: `over` a power of ten, `times` a step, or as they are."""

    over: float | None = None
    times: float | None = None

    def figures(self, numbers: np.ndarray) -> Array:
        """The figures of whole numbers."""
        values = np.asarray(numbers, dtype=np.float64)
        if self.over is not None:
            return values if self.over == 1.0 else values / self.over
        return values if self.times is None else values * self.times

    def numbers(self, figures: Array) -> np.ndarray | None:
        """The whole numbers that come back as these figures to the last bit; None where there are none such."""
        raw = figures * self.over if self.over is not None else figures / self.times if self.times else figures
        whole = np.rint(raw)
        if not np.all(np.abs(whole) < MOST_EXACT):
            return None
        numbers = whole.astype(np.int64)
        return numbers if _alike(self.figures(numbers), figures) else None


AS_IS = Scale()


def packed(columns: Mapping[str, Array]) -> bytes:
    """Columns of one length as bytes.

    columns : (n,) float arrays by name; any double goes, NaN and −0 among them.
    """
    import pyarrow as pa
    import pyarrow.parquet as pq

    arrays, encodings, scales = {}, {}, {}
    for name, figures in columns.items():
        figures = np.ascontiguousarray(figures, dtype=np.float64)
        scale, numbers = _scaled(figures)
        encodings[name], narrow = _encoded(numbers)
        arrays[name] = pa.array(narrow)
        scales[name] = {k: v for k, v in vars(scale).items() if v is not None}
    table, sink = pa.table(arrays), pa.BufferOutputStream()
    with pq.ParquetWriter(
        sink, table.schema, compression="zstd", use_dictionary=False, column_encoding=encodings,
        write_statistics=False, store_schema=False,
    ) as writer:  # fmt: skip
        writer.write_table(table, row_group_size=max(1, len(table)))
        writer.add_key_value_metadata({SCALES: json.dumps(scales)})
    return bytes(sink.getvalue())


def unpacked(block: bytes) -> dict[str, Array]:
    """Columns of a block by name: (n,) float arrays.

    Raises
    ------
    ValueError
        If it is none that `packed` made.
    """
    import pyarrow as pa
    import pyarrow.parquet as pq

    file = pq.ParquetFile(pa.BufferReader(block))
    metadata = file.metadata.metadata or {}
    if SCALES not in metadata:
        raise ValueError("a block without scales")
    scales = json.loads(metadata[SCALES])
    table = file.read(use_threads=False)
    return {name: Scale(**scales[name]).figures(_plain(table.column(name))) for name in table.column_names}


def _plain(column: Any) -> np.ndarray:
    """The numbers of an Arrow column without nulls; its own `to_numpy` loads pandas, which takes long."""
    chunks = [
        np.frombuffer(c.buffers()[1], dtype=str(c.type).replace("double", "float64"))[c.offset : c.offset + len(c)]
        for c in column.chunks
    ]
    return chunks[0] if len(chunks) == 1 else np.concatenate(chunks) if chunks else np.empty(0)


def _alike(a: Array, b: Array) -> bool:
    """Whether two columns are the same to the last bit: 0 and −0 are not, a NaN and itself are."""
    return bool(np.array_equal(a.view(np.int64), np.ascontiguousarray(b).view(np.int64)))


def _scaled(figures: Array) -> tuple[Scale, np.ndarray]:
    """The scale of a column, and what is to be kept of it."""
    if len(figures) and not np.all(np.isfinite(figures)):
        return AS_IS, figures
    few = figures[:: max(1, len(figures) // TRIED)]
    powers = range(MOST_DECIMALS + 1)
    for scale in (
        *(Scale(over=10.0**d) for d in powers), *(Scale(times=10.0**-d) for d in powers[1:]), *_steps(figures)
    ):  # fmt: skip
        if scale.numbers(few) is not None and (numbers := scale.numbers(figures)) is not None:
            return scale, numbers
    return AS_IS, figures


def _steps(figures: Array) -> list[Scale]:
    """Steps that a column may be whole numbers of: the one between its first figures, and the decimal next to that."""
    if len(figures) < 2 or figures[1] == figures[0]:
        return []
    step = abs(float(figures[1] - figures[0]))
    near = float(f"{step:.6g}")
    return [Scale(times=s) for s in dict.fromkeys((near, step)) if s > 0.0 and np.isfinite(s)]


def _encoded(numbers: np.ndarray) -> tuple[str, np.ndarray]:
    """Encoding and type of a column: differences where they are narrower than the numbers themselves."""
    if numbers.dtype == np.float64:
        return "BYTE_STREAM_SPLIT", numbers
    narrow = numbers
    if not len(numbers) or max(abs(int(numbers.min())), abs(int(numbers.max()))) < 2**31:
        narrow = numbers.astype(np.int32)
    if len(numbers) < 2:
        return "DELTA_BINARY_PACKED", narrow
    # Half a bit over: differences of what only scatters are wider by the square root of two.
    apart = float(np.diff(numbers).astype(np.float64).std())
    return ("DELTA_BINARY_PACKED" if apart < float(numbers.std()) else "BYTE_STREAM_SPLIT"), narrow
