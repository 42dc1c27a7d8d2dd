"""Starting what the application needs, in order: the database server, the schema; and stopping what was started."""

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from .postgres import Cluster
from .settings import Settings
from .store.database import Database

LOOK_EVERY_S = 0.3


@contextmanager
def ready_database(settings: Settings, tell: Callable[[str], None] = print) -> Iterator[Database]:
    """The database with its schema up to date; the last process that uses the server stops it afterwards."""
    settings.make_state()
    cluster = None
    url = settings.database_url
    if url is None:
        cluster = Cluster(settings.cluster, but=settings.port)
        tell("database server …")
        started = cluster.start()
        tell(f"database server: {'runs' if started else 'already running'} on 127.0.0.1:{cluster.access().port}")
        url = cluster.access().url()
    database = Database(url, settings.database_read_url)
    try:
        database.migrate()
        yield database
    finally:
        database.close()
        if cluster is not None:
            cluster.leave()


@contextmanager
def kept_alive(settings: Settings, tell: Callable[[str], None] = print) -> Iterator[None]:
    """See to the database server meanwhile: one that was killed is started again."""
    if settings.database_url is not None:
        yield
        return
    cluster, over = Cluster(settings.cluster, but=settings.port), threading.Event()

    def watch() -> None:
        while not over.wait(LOOK_EVERY_S):
            if not cluster.alive():
                tell("the database server is gone: starting it again …")
                while not over.is_set() and not cluster.start_again():
                    over.wait(LOOK_EVERY_S)
                tell("database server: runs again")

    thread = threading.Thread(target=watch, name="database watch", daemon=True)
    thread.start()
    try:
        yield
    finally:
        over.set()
        thread.join(70)
