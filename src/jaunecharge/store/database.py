"""The database: engine, sessions, and the schema brought up to date."""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from pathlib import Path

from sqlalchemy import Connection, text
from sqlalchemy.orm import Session, sessionmaker

from .replica import READS, Replica, engine_on

MIGRATIONS = Path(__file__).parent / "migrations"


LOOKS_ONLY: ContextVar[bool] = ContextVar("looks only", default=False)
"""Whether who asks may look and not change: the database itself then refuses to write."""


def driver_url(url: str) -> str:
    """A PostgreSQL address made to use psycopg 3, however it was written."""
    for scheme in ("postgresql://", "postgres://"):
        if url.startswith(scheme):
            return "postgresql+psycopg://" + url[len(scheme) :]
    return url


def revisions() -> frozenset[str]:
    """The revisions of the schema that this version knows."""
    return frozenset(p.name[:4] for p in (MIGRATIONS / "versions").glob("[0-9]*.py"))


def _is_current(connection: Connection) -> bool:
    """Whether the schema is at its last revision, so that there is nothing to be done."""
    if connection.scalar(text("SELECT to_regclass('public.alembic_version')")) is None:
        return False
    return connection.scalar(text("SELECT max(version_num) FROM alembic_version")) == max(revisions())


class Database:
    """One PostgreSQL database."""

    def __init__(self, url: str, read_url: str | None = None) -> None:
        self.url = driver_url(url)
        self._replica = None if read_url is None else Replica(driver_url(read_url))
        self.engine = engine_on(self.url)
        self._sessions = sessionmaker(self.engine, expire_on_commit=False)

    @contextmanager
    def session(self) -> Iterator[Session]:
        """A session in one transaction: committed at the end, rolled back on an error; of a replica, where a page only
        reads and one is there that knows enough."""
        after = READS.get()
        reading = None if self._replica is None or after is None else self._replica.session(after)
        if reading is not None:
            with reading:
                yield reading
            return
        with self._sessions.begin() as session:
            if LOOKS_ONLY.get():
                session.execute(text("SET TRANSACTION READ ONLY"))
            yield session

    def migrate(self, revision: str = "head") -> None:
        """Bring the schema up to a revision; data stay."""
        with self.engine.begin() as connection:
            self.lock_schema(connection)
            if revision != "head" or not _is_current(connection):
                self.migrate_on(connection, revision)

    def lock_schema(self, connection: Connection) -> None:
        """Keep others from changing the schema until this transaction ends."""
        connection.execute(text("SELECT pg_advisory_xact_lock(8417)"))

    def migrate_on(self, connection: Connection, revision: str = "head") -> None:
        """Bring the schema up to a revision within a transaction."""
        from alembic import command
        from alembic.config import Config

        config = Config()
        config.set_main_option("script_location", str(MIGRATIONS))
        config.attributes["connection"] = connection
        command.upgrade(config, revision)

    def answers(self) -> bool:
        """Whether the database answers."""
        with self.engine.connect() as connection:
            return connection.execute(text("SELECT 1")).scalar() == 1

    @property
    def replicated(self) -> bool:
        """Whether there is a replica for pages that only read."""
        return self._replica is not None

    def close(self) -> None:
        self.engine.dispose()
        if self._replica is not None:
            self._replica.close()


@contextmanager
def written_for(database: Database) -> Iterator[Session]:
    """A session that writes what is noted of a person's request, also where that person may only look."""
    looks, reads = LOOKS_ONLY.set(False), READS.set(None)
    try:
        with database.session() as session:
            yield session
    finally:
        LOOKS_ONLY.reset(looks)
        READS.reset(reads)
