"""Starting what the application needs, in order: the database server, the schema; and stopping what was started."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager

from .postgres import Cluster
from .settings import Settings
from .store.database import Database


@contextmanager
def ready_database(settings: Settings, told: Callable[[str], None] = print) -> Iterator[Database]:
    """The database with its schema up to date; a server that was started here is stopped afterwards."""
    cluster, started = None, False
    url = settings.database_url
    if url is None:
        cluster = Cluster(settings.cluster)
        told("database server …")
        started = cluster.start()
        told(f"database server: {'runs' if started else 'already running'} on 127.0.0.1:{cluster.access().port}")
        url = cluster.access().url()
    database = Database(url)
    try:
        database.migrate()
        yield database
    finally:
        database.close()
        if cluster is not None and started:
            cluster.stop()
