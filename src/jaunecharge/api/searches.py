"""Searches for better schedules that go on: all of them are stopped before the application ends."""

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Protocol

STOPS_WITHIN_S = 10.0
TICK_S = 0.5


class Stoppable(Protocol):
    """A task that can be stopped from another thread."""

    def stop(self) -> None:
        """End it soon."""


class Searches:
    """The searches that go on in this process."""

    def __init__(self) -> None:
        self._going: set[Stoppable] = set()
        self._changed = threading.Condition()

    @contextmanager
    def going(self, search: Stoppable) -> Iterator[None]:
        """While a search goes on."""
        with self._changed:
            self._going.add(search)
        try:
            yield
        finally:
            with self._changed:
                self._going.discard(search)
                self._changed.notify_all()

    def stop_all(self) -> bool:
        """Stop every search and wait for them; whether all have ended."""
        with self._changed:
            for search in self._going:
                search.stop()
            return self._changed.wait_for(lambda: not self._going, STOPS_WITHIN_S)


@contextmanager
def ticking(tick: "Ticking") -> Iterator[None]:
    """Call something twice a second, with the seconds that have passed, while something else goes on."""
    over = threading.Event()

    def run() -> None:
        gone = 0.0
        while not over.wait(TICK_S):
            gone += TICK_S
            tick(gone)

    thread = threading.Thread(target=run, daemon=True)
    thread.start()
    try:
        yield
    finally:
        over.set()
        thread.join()


class Ticking(Protocol):
    """A function called as time passes."""

    def __call__(self, seconds: float) -> None:
        """So many seconds have passed."""
