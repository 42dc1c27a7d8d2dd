"""A copy of the test run's database server that follows it, on another port."""

import shutil
import subprocess
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import psycopg

from jaunecharge.postgres import HOST, SUPERUSER, Cluster
from tests.ports import free_port


class Copy:
    """The copy: its port, and how far it follows."""

    def __init__(self, cluster: Cluster, data: Path, port: int) -> None:
        self._cluster, self._data, self.port = cluster, data, port

    def url(self, name: str) -> str:
        """Address of a database of it, for the application."""
        access = self._cluster.access()
        return access.url(name).replace(f":{access.port}/", f":{self.port}/")

    def execute(self, statement: str) -> object:
        """Run a statement on it, as its superuser."""
        access = self._cluster.access()
        address = f"postgresql://{SUPERUSER}:{access.password}@{HOST}:{self.port}/postgres"
        with psycopg.connect(address, autocommit=True) as connection:
            return connection.execute(statement).fetchone()

    def start(self) -> None:
        options = f"-p {self.port} -c listen_addresses={HOST} -c unix_socket_directories=''"
        done = self._cluster._run(
            "pg_ctl", "start", "-D", self._data, "-l", self._data / "log", "-o", options, "-w", "-t", "60"
        )
        assert done.returncode == 0, done.stdout

    def stop(self) -> None:
        self._cluster._run("pg_ctl", "stop", "-D", self._data, "-m", "immediate")


@contextmanager
def copied(cluster: Cluster) -> Iterator[Copy]:
    """A copy that has caught up, for as long as it is needed."""
    folder = Path(tempfile.mkdtemp(prefix="jaunecharge-copy-"))
    folder.chmod(0o755)
    place = folder / "postgres"
    place.mkdir()
    subprocess.run(["chown", "--reference", str(cluster.data), str(place)], check=True)
    access = cluster.access()
    source = f"host={HOST} port={access.port} user={SUPERUSER} password={access.password}"
    done = cluster._run("pg_basebackup", "-d", source, "-D", place / "data", "-R", "-X", "stream", "-c", "fast")
    assert done.returncode == 0, done.stderr
    copy = Copy(cluster, place / "data", free_port())
    copy.start()
    try:
        yield copy
    finally:
        copy.stop()
        time.sleep(0.1)
        shutil.rmtree(folder, ignore_errors=True)
