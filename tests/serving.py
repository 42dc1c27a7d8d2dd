"""A database cluster for the whole test run, a fresh database for each class, and the application served for real."""

import atexit
import datetime as dt
import shutil
import socket
import tempfile
import threading
import time
import unittest
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from functools import lru_cache
from pathlib import Path

import httpx
import uvicorn
from sqlalchemy import Connection, text

from jaunecharge.api.app import make_app
from jaunecharge.api.network import Network
from jaunecharge.demo import hut
from jaunecharge.postgres import ROLE, Cluster
from jaunecharge.store.backup import JOBS
from jaunecharge.store.database import Database
from tests.declared import Declared

ON_THE_NETWORK = Network(True, False, "http://192.0.2.7:8417")
PASSPHRASE = "three yellow lamps"
PAGES = Path(__file__).parents[1] / "web" / "dist"


@lru_cache
def cluster() -> Cluster:
    """The cluster of this test run, stopped and removed at its end."""
    folder = Path(tempfile.mkdtemp(prefix="jaunecharge-tests-"))
    folder.chmod(0o755)
    found = Cluster(folder / "postgres", durable=False)
    found.start()

    def remove() -> None:
        found.stop()
        shutil.rmtree(folder)

    atexit.register(remove)
    return found


@contextmanager
def administered() -> Iterator[Connection]:
    """A connection that makes and drops databases."""
    admin = Database(cluster().access().admin_url())
    try:
        with admin.engine.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
            yield connection
    finally:
        admin.close()


def _make(template: str | None = None) -> str:
    name = f"t{uuid.uuid4().hex[:12]}"
    with administered() as connection:
        connection.execute(text(f"CREATE DATABASE {name} OWNER {ROLE}" + (f" TEMPLATE {template}" if template else "")))
    return name


DEMO_AT = dt.time(11, tzinfo=dt.UTC)
"""What the demonstration holds hangs on the hour at which it is loaded: its plan is played until then."""


def _last(time: dt.time) -> dt.datetime:
    """When it was last that time of day."""
    now = dt.datetime.now(dt.UTC)
    today = dt.datetime.combine(now.date(), time)
    return today if today <= now else today - dt.timedelta(days=1)


@lru_cache
def template(with_demo: bool) -> str:
    """A database with the present schema, and the demonstration if wanted, to be copied: made once a test run."""
    name = _make(template(False) if with_demo else None)
    database = Database(cluster().access().url(name))
    if with_demo:
        hut.load(database, _last(DEMO_AT))
    else:
        database.migrate()
    database.close()
    return name


@contextmanager
def fresh_database(revision: str = "head", with_demo: bool = False) -> Iterator[Database]:
    """A database of its own with the schema at a revision, dropped afterwards."""
    name = _make(template(with_demo) if revision == "head" else None)
    database = Database(cluster().access().url(name))
    try:
        if revision != "head":
            database.migrate(revision)
        yield database
    finally:
        database.close()
        with administered() as connection:
            connection.execute(text(f"DROP DATABASE {name} WITH (FORCE)"))


@contextmanager
def served(database: Database, uploads: Path, network: Network = Network()) -> Iterator[str]:
    """The application on a free port of this machine; its address.

    Raises
    ------
    AssertionError
        At the end, if it answered anything that its description does not have.
    """
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    application = Declared(make_app(database, uploads, PAGES, network), network.reachable)
    server = uvicorn.Server(uvicorn.Config(application, host="127.0.0.1", port=port, log_level="warning"))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    address = f"http://127.0.0.1:{port}"
    while not server.started:
        time.sleep(0.02)
        if not thread.is_alive():
            raise RuntimeError("the application did not start")
    try:
        yield address
    finally:
        server.should_exit = True
        thread.join(timeout=10)
    undeclared = list(application.undeclared())
    assert not undeclared, "\n".join(undeclared)


class ServedTest(unittest.TestCase):
    """Tests of the application as it is served, on a database of the class's own."""

    database: Database
    address: str
    folder: Path
    with_demo = False
    network = Network()

    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = Path(tempfile.mkdtemp(prefix="jaunecharge-test-"))
        cls.addClassCleanup(shutil.rmtree, cls.folder)
        cls.database = cls.enterClassContext(fresh_database(with_demo=cls.with_demo))
        cls.fill()
        cls.address = cls.enterClassContext(served(cls.database, cls.folder / "uploads", cls.network))
        cls.web = cls.enterClassContext(httpx.Client(base_url=cls.address, timeout=120))

    @classmethod
    def fill(cls) -> None:
        """What the database holds before the application starts."""

    def rows(self) -> dict[str, int]:
        """How many rows each table holds; the log of who asked what, jobs, and files that wait to be read, left out."""
        with self.database.engine.connect() as connection:
            tables = connection.execute(
                text("SELECT tablename FROM pg_tables WHERE schemaname = 'public' AND tablename <> 'alembic_version'")
            ).scalars()
            aside = {"audit", "uploads", "upload_chunks"} | JOBS
            return {
                t: connection.execute(text(f"SELECT count(*) FROM {t}")).scalar_one() for t in tables if t not in aside
            }
