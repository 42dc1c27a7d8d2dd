"""Workers that come with a server: a thread of it, a process beside it, or none."""

import logging
import os
import subprocess
import sys
import threading
from typing import Protocol

from ..store.database import Database
from ..store.runs.uploads import Uploads
from .worker import Worker

log = logging.getLogger(__name__)
BEGINS_AFTER_S = 5.0
"""A worker comes once whoever opened the application has their page, or as soon as there is a job for it."""

LOOKS_EVERY_S = 1.0
ENDS_WITHIN_S = 40.0


class Workforce(Protocol):
    """Workers that come with a server."""

    def start(self) -> None:
        """Begin soon."""

    def need(self) -> None:
        """Begin now: there is a job."""

    def stop(self) -> None:
        """End, and wait until all have."""


class Elsewhere:
    """No worker of its own: others see to the jobs."""

    def start(self) -> None: ...

    def need(self) -> None: ...

    def stop(self) -> None: ...


class InThread:
    """A worker in a thread of this process: for tests, and for whoever embeds the application."""

    def __init__(self, database: Database, uploads: Uploads) -> None:
        self._worker = Worker(database, uploads)
        self._timer = threading.Timer(BEGINS_AFTER_S, self._worker.start)
        self._timer.daemon = True

    def start(self) -> None:
        self._timer.start()

    def need(self) -> None:
        self._worker.start()

    def stop(self) -> None:
        self._timer.cancel()
        self._worker.stop()


class Beside:
    """A process beside this one, started again where it ends by itself."""

    def __init__(self, command: list[str], environment: dict[str, str]) -> None:
        self._command, self._environment = command, environment
        self._needed, self._over = threading.Event(), threading.Event()
        self._thread = threading.Thread(target=self._see_to, name="worker beside", daemon=True)

    def start(self) -> None:
        self._thread.start()

    def need(self) -> None:
        self._needed.set()

    def stop(self) -> None:
        self._over.set()
        self._needed.set()
        if self._thread.is_alive():
            self._thread.join(ENDS_WITHIN_S + 10.0)

    def _see_to(self) -> None:
        self._needed.wait(BEGINS_AFTER_S)
        while not self._over.is_set():
            # Its standard input stays open as long as this process lives.
            process = subprocess.Popen(
                self._command, stdin=subprocess.PIPE, start_new_session=True, env={**os.environ, **self._environment}
            )
            while process.poll() is None and not self._over.wait(LOOKS_EVERY_S):
                pass
            if process.poll() is None:
                process.terminate()
                try:
                    process.wait(ENDS_WITHIN_S)
                except subprocess.TimeoutExpired:
                    process.kill()
                    process.wait()
            elif not self._over.wait(LOOKS_EVERY_S):
                log.warning("the worker ended with %s; it is started again", process.returncode)


def beside(url: str) -> Beside:
    """A worker in a process of its own on a database; it ends with this process, however that ends."""
    run = "from jaunecharge.cli import main; main()"
    return Beside([sys.executable, "-c", run, "worker", "--beside"], {"JAUNECHARGE_DATABASE_URL": url})
