"""The database: engine, sessions, and the schema brought up to date."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, text
from sqlalchemy.orm import Session, sessionmaker

MIGRATIONS = Path(__file__).parent / "migrations"


def driver_url(url: str) -> str:
    """A PostgreSQL address made to use psycopg 3, however it was written."""
    for scheme in ("postgresql://", "postgres://"):
        if url.startswith(scheme):
            return "postgresql+psycopg://" + url[len(scheme) :]
    return url


class Database:
    """One PostgreSQL database."""

    def __init__(self, url: str) -> None:
        self.url = driver_url(url)
        self.engine: Engine = create_engine(self.url, pool_pre_ping=True, pool_size=8)
        self._sessions = sessionmaker(self.engine, expire_on_commit=False)

    @contextmanager
    def session(self) -> Iterator[Session]:
        """A session in one transaction: committed at the end, rolled back on an error."""
        with self._sessions.begin() as session:
            yield session

    def migrate(self, revision: str = "head") -> None:
        """Bring the schema up to a revision; data stay."""
        config = Config()
        config.set_main_option("script_location", str(MIGRATIONS))
        with self.engine.begin() as connection:
            connection.execute(text("SELECT pg_advisory_xact_lock(8417)"))
            config.attributes["connection"] = connection
            command.upgrade(config, revision)

    def answers(self) -> bool:
        """Whether the database answers."""
        with self.engine.connect() as connection:
            return connection.execute(text("SELECT 1")).scalar() == 1

    def close(self) -> None:
        self.engine.dispose()
