"""Logs that are stored row by row, as all were once: loaded, and taken away once they are packed."""

import uuid

import numpy as np
from psycopg import sql
from sqlalchemy import Boolean, delete, func, select
from sqlalchemy.orm import Session

from ...core.arrays import Array
from .. import models as m
from ..row_models import ROWS
from .driver import SIGNATURE, TRAILER, driver
from .series import Columns


def series_in_rows(session: Session, run_id: uuid.UUID) -> dict[str, Columns]:
    """Series of a run by name; of a column that is NULL throughout nothing."""
    found: dict[str, Columns] = {}
    for name, table in ROWS.items():
        figures = [c.name for c in table.c if c.name not in {"run_id", "position"}]
        if "position" not in table.c:
            places = [""]
        else:
            at = select(table.c.position).where(table.c.run_id == run_id).distinct()
            places = sorted(session.scalars(at))
        for place in places:
            arrays = copy_out(session, name, figures, run_id, place)
            if len(arrays[0]):
                kept = {c: a for c, a in zip(figures, arrays, strict=True) if not np.isnan(a).all()}
                if name == "socket_samples" and any(np.isnan(a).any() for a in kept.values()):
                    kept = {c: kept[c] for c in ("t_s", "watts")}
                found[f"{name}:{place}" if place else name] = kept
    return found


def copy_out(session: Session, name: str, figures: list[str], run_id: uuid.UUID, place: str = "") -> list[Array]:
    """Columns of one run's rows in order of time, each (n,) float; NULL comes as NaN."""
    table = ROWS[name]
    wanted = sql.SQL(", ").join(
        sql.SQL("{}::int::float8" if isinstance(table.c[c].type, Boolean) else "coalesce({}, 'NaN')").format(
            sql.Identifier(c)
        )
        for c in figures
    )
    at = sql.SQL("AND position = {}").format(sql.Literal(place)) if place else sql.SQL("")
    statement = sql.SQL("COPY (SELECT {} FROM {} WHERE run_id = {} {} ORDER BY t_s) TO STDOUT (FORMAT BINARY)").format(
        wanted, sql.Identifier(table.name), sql.Literal(run_id), at
    )
    received = bytearray()
    with driver(session).cursor() as cursor, cursor.copy(statement) as copy:
        for block in copy:
            received += block
    layout = np.dtype(
        [("count", ">i2"), *(f for i in range(len(figures)) for f in ((f"length{i}", ">i4"), (f"value{i}", ">f8")))]
    )
    count = (len(received) - len(SIGNATURE) - len(TRAILER)) // layout.itemsize
    rows = np.frombuffer(received, dtype=layout, offset=len(SIGNATURE), count=count)
    return [rows[f"value{i}"].astype(float) for i in range(len(figures))]


def drop_rows(session: Session, run_id: uuid.UUID) -> None:
    """Forget the rows of a run."""
    for table in ROWS.values():
        session.execute(delete(table).where(table.c.run_id == run_id))


def unpacked_runs(session: Session) -> int:
    """Number of runs whose logs are in rows."""
    return session.scalar(select(func.count()).where(m.Run.packed.is_(False))) or 0


def rows_of_runs(session: Session, most: int) -> list[uuid.UUID]:
    """Runs whose logs are to be packed, the newest first."""
    query = select(m.Run.id).where(m.Run.packed.is_(False)).order_by(m.Run.created_at.desc())
    return list(session.scalars(query.limit(most)))


def claim_unpacked(session: Session, run_id: uuid.UUID) -> m.Run | None:
    """A run whose log is to be packed, locked against others; None where one of them has it."""
    query = select(m.Run).where(m.Run.id == run_id, m.Run.packed.is_(False))
    return session.scalar(query.with_for_update(skip_locked=True))
