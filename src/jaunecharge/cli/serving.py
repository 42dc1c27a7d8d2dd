"""The application as one of several processes that answer on the same port."""

import gc
import os
import signal
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from pydantic import BaseModel
from sqlalchemy import text

from ..secured import keep_renewed
from ..settings import settings

if TYPE_CHECKING:
    from fastapi import FastAPI

    from ..api.network import Network
    from ..jobs.workforce import Workforce
    from ..store.database import Database

HANDED_ON = "JAUNECHARGE_SERVING"
DEMO_LOCK = 8422
LOOKS_EVERY_S = 0.5


class Serving(BaseModel):
    """Network, pages and database, as the first process hands them on to those that answer."""

    pages: Path
    reachable: bool
    secure: bool
    address: str
    names: tuple[str, ...]
    certificate: Path | None
    authority: Path | None
    fingerprint: str
    database_folder: Path | None
    demo_at: str
    parent: int


def hand_on(network: "Network", pages: Path, database_folder: Path | None, demo_at: str) -> None:
    """Leave for the processes to come what they need; `demo_at` : where the demonstration's lanes are played, if so."""
    handed = Serving(**vars(network), pages=pages, database_folder=database_folder, demo_at=demo_at, parent=os.getpid())
    os.environ[HANDED_ON] = handed.model_dump_json()


def answer_by_many(
    options: dict[str, Any], processes: int, network: "Network", state: Path, hands: "Workforce",
    tell: Callable[[str], None],
) -> None:  # fmt: skip
    """Answer by several processes on one port, until told to stop; one that dies is started again."""
    import uvicorn
    from uvicorn.supervisors import Multiprocess

    config = uvicorn.Config("jaunecharge.cli.serving:application", factory=True, workers=processes, **options)
    with config.bind_socket() as socket:
        many = Multiprocess(config, [socket])
        # A terminal that hangs up stops it, as one process alone.
        signal.signal(signal.SIGHUP, lambda *_: many.signal_queue.append(signal.SIGTERM))
        if network.authority is not None:
            # Each process has read the certificate: one after another is replaced.
            keep_renewed(network.hosts, state, lambda *_: many.signal_queue.append(signal.SIGHUP), tell)
        hands.start()
        try:
            many.run()
        finally:
            hands.stop()


def application() -> "FastAPI":
    """The application of one process, on the database that the first process has."""
    from ..api.app import make_app
    from ..api.network import Network
    from ..jobs.workforce import Elsewhere
    from ..store.database import Database

    sys.setswitchinterval(0.001)
    handed = Serving.model_validate_json(os.environ[HANDED_ON])
    threading.Thread(target=_with_parent, args=(handed.parent,), daemon=True).start()
    where = settings()
    where.make_state()
    assert where.database_url is not None
    database = Database(where.database_url, where.database_read_url)
    network = Network(
        handed.reachable, handed.secure, handed.address, handed.names, handed.certificate, handed.authority,
        handed.fingerprint,
    )  # fmt: skip
    made = make_app(
        database, where.uploads, handed.pages, network, handed.database_folder, where.uploads_url, Elsewhere()
    )
    gc.freeze()
    if handed.demo_at:
        threading.Thread(target=_play, args=(made, database, handed.demo_at), daemon=True).start()
    return made


def _with_parent(parent: int) -> None:
    """End with the first process, however that ends: the port is to be free again."""
    while os.getppid() == parent:
        time.sleep(LOOKS_EVERY_S)
    os.kill(os.getpid(), signal.SIGTERM)


def _play(made: "FastAPI", database: "Database", address: str) -> None:
    """Play the demonstration's lanes: in one of the processes, for as long as it lives."""
    from ..demo.bench import play

    with database.engine.connect() as connection:
        while not connection.scalar(text("SELECT pg_try_advisory_lock(:lock)"), {"lock": DEMO_LOCK}):
            connection.rollback()
            time.sleep(LOOKS_EVERY_S)
        connection.commit()
        context = made.state.context
        play(database, context.hub, context.practice, address).join()
        threading.Event().wait()
