"""Readings that wait on disk while the database does not answer: bounded, kept over a crash, stored when it is back.

What the database refuses is set aside here as well, for a person to see; it keeps nothing behind it from being stored.
"""

import contextlib
import json
import sqlite3
import threading
import uuid
from collections.abc import Iterator
from dataclasses import asdict, dataclass
from pathlib import Path

from ..store.bench.arriving import Batch, Row
from .steady import now

MOST_READINGS = 2_000_000
"""Some 500 lanes at a reading a second for an hour."""

MOST_ASIDE = 10_000
"""Batches set aside that are kept: of more, those that were set aside first are let go. Their number goes on."""


class SpoolFull(Exception):
    """No more readings can wait; the message says how many do."""


UNREADABLE = (ValueError, TypeError, KeyError, AttributeError)


@dataclass(frozen=True)
class PutAside:
    """A batch that was not stored, and why: the batch itself, as far as it can be read, is its `text`."""

    id: int
    at: str
    readings: int
    why: str
    text: str

    @property
    def source(self) -> str:
        """Sender of a batch; empty where that cannot be read."""
        try:
            return str(_read(self.text).source).replace("\x00", "\ufffd")
        except UNREADABLE:
            return ""


class Spool:
    """A queue of batches in one SQLite file; several processes may share it."""

    def __init__(self, file: Path, most: int = MOST_READINGS) -> None:
        self._file, self._most = file, most
        self._lock = threading.Lock()
        self._connection: sqlite3.Connection | None = None

    def _open(self) -> sqlite3.Connection:
        if self._connection is None:
            self._file.parent.mkdir(parents=True, exist_ok=True)
            self._file.touch(0o600)
            self._connection = sqlite3.connect(self._file, timeout=10, check_same_thread=False, isolation_level=None)
            self._connection.execute("PRAGMA journal_mode=WAL")
            self._connection.execute("PRAGMA synchronous=FULL")
            self._connection.execute(
                "CREATE TABLE IF NOT EXISTS waiting (id INTEGER PRIMARY KEY, readings INTEGER, batch TEXT)"
            )
            self._connection.execute(
                "CREATE TABLE IF NOT EXISTS aside (id INTEGER PRIMARY KEY AUTOINCREMENT, at TEXT, readings INTEGER,"
                " why TEXT, batch TEXT)"
            )
            self._file.chmod(0o600)
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
            with _transaction(connection):
                connection.executemany(
                    "INSERT INTO waiting (readings, batch) VALUES (?, ?)", [(len(b.rows), _written(b)) for b in batches]
                )

    def first(self, most: int = 500) -> list[tuple[int, Batch]]:
        """The batches that wait longest, each with its number; what cannot be read of the file is set aside."""
        if not self._file.exists():
            return []
        with self._lock:
            rows = self._open().execute("SELECT id, batch FROM waiting ORDER BY id LIMIT ?", (most,)).fetchall()
        batches = []
        for number, text in rows:
            try:
                batches.append((number, _read(text)))
            except UNREADABLE as error:
                self.drop([number], f"it cannot be read: {error}")
        return batches

    def drop(self, numbers: list[int], aside: str = "") -> None:
        """Let batches go that are stored now; or put them aside, saying why."""
        with self._lock:
            connection = self._open()
            with _transaction(connection):
                for number in numbers if aside else ():
                    connection.execute(
                        "INSERT INTO aside (at, readings, why, batch) SELECT ?, readings, ?, batch FROM waiting"
                        " WHERE id = ?",
                        (_now(), aside, number),
                    )
                connection.executemany("DELETE FROM waiting WHERE id = ?", [(n,) for n in numbers])
                if aside:
                    _let_go(connection)

    def put_aside(self, batch: Batch, why: str) -> None:
        """Keep a batch that nobody sends again and that cannot be stored, for a person to see."""
        with self._lock:
            connection = self._open()
            with _transaction(connection):
                connection.execute(
                    "INSERT INTO aside (at, readings, why, batch) VALUES (?, ?, ?, ?)",
                    (_now(), len(batch.rows), why, _written(batch)),
                )
                _let_go(connection)

    def aside(self) -> int:
        """Number of batches that are set aside."""
        if not self._file.exists():
            return 0
        with self._lock:
            return int(self._open().execute("SELECT count(*) FROM aside").fetchone()[0])

    def put_aside_last(self, most: int = 100) -> list[PutAside]:
        """The batches that were set aside last."""
        if not self._file.exists():
            return []
        with self._lock:
            query = "SELECT id, at, readings, why, batch FROM aside ORDER BY id DESC LIMIT ?"
            return [PutAside(*row) for row in self._open().execute(query, (most,))]

    def forget_aside(self) -> int:
        """Let go of what was set aside; how many batches that were."""
        with self._lock, _transaction(connection := self._open()):
            return connection.execute("DELETE FROM aside").rowcount

    def waiting(self) -> int:
        """Number of readings that wait."""
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


@contextlib.contextmanager
def _transaction(connection: sqlite3.Connection) -> Iterator[None]:
    """All of it, or nothing: a full disk leaves no transaction open."""
    connection.execute("BEGIN IMMEDIATE")
    try:
        yield
    except BaseException:
        with contextlib.suppress(sqlite3.Error):
            connection.execute("ROLLBACK")
        raise
    connection.execute("COMMIT")


def _let_go(connection: sqlite3.Connection) -> None:
    connection.execute("DELETE FROM aside WHERE id <= (SELECT max(id) FROM aside) - ?", (MOST_ASIDE,))


def _now() -> str:
    return now().isoformat(timespec="seconds")


def _written(batch: Batch) -> str:
    return json.dumps(asdict(batch) | {"lane": str(batch.lane)})


def _read(text: str) -> Batch:
    batch = json.loads(text)
    rows = tuple(Row(**row) for row in batch.pop("rows"))
    return Batch(lane=uuid.UUID(batch.pop("lane")), rows=rows, **batch)
