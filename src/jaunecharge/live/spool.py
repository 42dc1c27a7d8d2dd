"""Readings that wait on disk while the database is away: bounded, kept over a crash, stored when it is back."""

import json
import sqlite3
import threading
import uuid
from dataclasses import asdict
from pathlib import Path

from ..store.bench import Batch, Row

MOST_READINGS = 2_000_000
"""Some 500 lanes at a reading a second for an hour."""


class SpoolFull(Exception):
    """No more readings can wait; the message says how many do."""


class Spool:
    """A queue of batches in one SQLite file; several processes may share it."""

    def __init__(self, file: Path, most: int = MOST_READINGS) -> None:
        self._file, self._most = file, most
        self._lock = threading.Lock()
        self._connection: sqlite3.Connection | None = None

    def _open(self) -> sqlite3.Connection:
        if self._connection is None:
            self._file.parent.mkdir(parents=True, exist_ok=True)
            self._connection = sqlite3.connect(self._file, timeout=10, check_same_thread=False, isolation_level=None)
            self._connection.execute("PRAGMA journal_mode=WAL")
            self._connection.execute("PRAGMA synchronous=FULL")
            self._connection.execute(
                "CREATE TABLE IF NOT EXISTS waiting (id INTEGER PRIMARY KEY, readings INTEGER, batch TEXT)"
            )
        return self._connection

    def put(self, batches: list[Batch]) -> None:
        """Let batches wait; they are on disk when this returns.

        Raises
        ------
        SpoolFull
        """
        with self._lock:
            connection = self._open()
            waiting = self._count(connection)
            if waiting + sum(len(b.rows) for b in batches) > self._most:
                raise SpoolFull(f"{waiting} readings wait for the database; no more can be kept")
            connection.execute("BEGIN IMMEDIATE")
            connection.executemany(
                "INSERT INTO waiting (readings, batch) VALUES (?, ?)", [(len(b.rows), _written(b)) for b in batches]
            )
            connection.execute("COMMIT")

    def first(self, most: int = 500) -> list[tuple[int, Batch]]:
        """The batches that wait longest, each with its number."""
        if not self._file.exists():
            return []
        with self._lock:
            rows = self._open().execute("SELECT id, batch FROM waiting ORDER BY id LIMIT ?", (most,)).fetchall()
        return [(number, _read(text)) for number, text in rows]

    def drop(self, numbers: list[int]) -> None:
        """Let batches go that are stored now."""
        with self._lock:
            connection = self._open()
            connection.execute("BEGIN IMMEDIATE")
            connection.executemany("DELETE FROM waiting WHERE id = ?", [(n,) for n in numbers])
            connection.execute("COMMIT")

    def waiting(self) -> int:
        """How many readings wait."""
        if not self._file.exists():
            return 0
        with self._lock:
            return self._count(self._open())

    def close(self) -> None:
        """Close the file; what waits stays in it."""
        with self._lock:
            if self._connection is not None:
                self._connection.close()
            self._connection = None

    @staticmethod
    def _count(connection: sqlite3.Connection) -> int:
        return int(connection.execute("SELECT coalesce(sum(readings), 0) FROM waiting").fetchone()[0])


def _written(batch: Batch) -> str:
    return json.dumps(asdict(batch) | {"lane": str(batch.lane)})


def _read(text: str) -> Batch:
    found = json.loads(text)
    rows = tuple(Row(**row) for row in found.pop("rows"))
    return Batch(lane=uuid.UUID(found.pop("lane")), rows=rows, **found)
