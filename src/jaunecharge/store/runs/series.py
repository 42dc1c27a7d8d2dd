"""Series of a run's log as columns in chunks: kept, loaded whole or in part, replaced."""

import uuid
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from sqlalchemy import ColumnElement, delete, insert, or_, select
from sqlalchemy.orm import Session

from ...core.arrays import Array
from ...formats.columns import packed, unpacked
from ..models import SeriesChunk

CHUNK_ROWS = 65_536
Columns = dict[str, Array]
"""A series: its times `t_s`, rising, and its figures, (n,) each."""

Progress = Callable[[float], None]


@dataclass(frozen=True)
class Chunk:
    """A stretch of a series as it is stored: its place in it, its rows, first and last time [s], its bytes."""

    n: int
    rows: int
    first_s: float
    last_s: float
    bytes: bytes


def chunks_of(columns: Mapping[str, Array]) -> Iterator[Chunk]:
    """A series in chunks; its time is that of its column `t_s`."""
    time_s = columns["t_s"]
    for n, start in enumerate(range(0, len(time_s), CHUNK_ROWS)):
        here = slice(start, start + CHUNK_ROWS)
        times = time_s[here]
        block = packed({name: values[here] for name, values in columns.items()})
        yield Chunk(n, len(times), float(times[0]), float(times[-1]), block)


def keep_series(
    session: Session, run_id: uuid.UUID, name: str, columns: Mapping[str, Array],
    progress: Progress = lambda fraction: None,
) -> None:  # fmt: skip
    """Keep a series of a run; one without rows is not kept."""
    count = max(1, len(columns["t_s"]))
    for chunk in chunks_of(columns):
        session.execute(insert(SeriesChunk).values(run_id=run_id, name=name, **vars(chunk)))
        progress((chunk.n * CHUNK_ROWS + chunk.rows) / count)


def load_series(
    session: Session, run_id: uuid.UUID, without: Sequence[str] = (), only: str | None = None
) -> dict[str, Columns]:
    """Series of a run by name, whole; those `without`, and all that are not `only` one, are left where they are."""
    query = select(SeriesChunk.name, SeriesChunk.bytes).where(SeriesChunk.run_id == run_id)
    if only is not None:
        query = query.where(_named(only))
    if without:
        query = query.where(SeriesChunk.name.not_in(without))
    blocks: dict[str, list[Columns]] = {}
    for name, block in session.execute(query.order_by(SeriesChunk.name, SeriesChunk.n)):
        blocks.setdefault(name, []).append(unpacked(block))
    return {name: _joined(parts) for name, parts in blocks.items()}


def load_between(session: Session, run_id: uuid.UUID, name: str, from_s: float, to_s: float) -> Columns | None:
    """The chunks of a series that hold a stretch of time [s], and what is next to it on either side; None where there
    is no such series."""
    mine = (SeriesChunk.run_id == run_id, SeriesChunk.name == name)
    starts = session.execute(
        select(SeriesChunk.n, SeriesChunk.first_s, SeriesChunk.last_s).where(*mine).order_by(SeriesChunk.n)
    ).all()
    if not starts:
        return None
    before = max((n for n, first, _ in starts if first <= from_s), default=0)
    after = min((n for n, _, last in starts if last >= to_s), default=starts[-1].n)
    query = select(SeriesChunk.bytes).where(*mine, SeriesChunk.n.between(min(before, after), max(before, after)))
    return _joined([unpacked(block) for block in session.scalars(query.order_by(SeriesChunk.n))])


def drop_series(session: Session, run_id: uuid.UUID, *names: str) -> None:
    """Forget series of a run: those named, and those whose name begins so and goes on after a colon."""
    session.execute(delete(SeriesChunk).where(SeriesChunk.run_id == run_id, or_(*map(_named, names))))


def _named(name: str) -> ColumnElement[bool]:
    return or_(SeriesChunk.name == name, SeriesChunk.name.startswith(f"{name}:", autoescape=True))


def in_order(**columns: Array | Sequence[float]) -> Columns:
    """Columns in the order of their times."""
    arrays = {name: np.asarray(values, dtype=float) for name, values in columns.items()}
    if np.all(np.diff(arrays["t_s"]) >= 0):
        return arrays
    order = np.argsort(arrays["t_s"], kind="stable")
    return {name: values[order] for name, values in arrays.items()}


def _joined(parts: Sequence[Columns]) -> Columns:
    if len(parts) == 1:
        return parts[0]
    return {name: np.concatenate([part[name] for part in parts]) for name in parts[0]}
