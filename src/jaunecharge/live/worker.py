"""Threads that tell that they live, and a watch over them: whoever stands still is started again, and it is said.

A thread cannot be ended from outside. One that stands still is left behind: another takes its place, and it leaves by
itself as soon as it wakes, because its turn is over.
"""

import datetime as dt
import logging
import threading
import time
from collections.abc import Callable, Iterable
from dataclasses import dataclass

from .steady import now

log = logging.getLogger(__name__)
STANDS_STILL_S = 10.0
LOOK_EVERY_S = 1.0
WAITS_LONGEST_S = 300.0
"""After each start that did not help the next one waits twice as long, up to this."""


class Turn:
    """One thread's time as a worker: over once the worker stops, or another thread has taken its place."""

    def __init__(self, stopped: threading.Event) -> None:
        self._stopped = stopped
        self.replaced = False
        self.lives = False
        self.beaten = time.monotonic()

    @property
    def over(self) -> bool:
        """Whether this thread is to leave."""
        return self.replaced or self._stopped.is_set()

    def beat(self) -> None:
        """Tell that this thread works."""
        self.beaten, self.lives = time.monotonic(), True

    def wait(self, seconds: float) -> bool:
        """Wait, once some work is done; whether the turn is over."""
        self.beat()
        self._stopped.wait(seconds)
        return self.over


@dataclass(frozen=True)
class Blind:
    """An outage: what does not work, since when, and what that means for the bench."""

    what: str
    since: dt.datetime
    says: str


class Worker:
    """A part of the bench that works in a thread of its own.

    Parameters
    ----------
    name : str
    says : str
        What is blind while it stands still, in words.
    run : callable
        The work; it beats at least every few seconds, and returns when its turn is over.
    """

    def __init__(self, name: str, says: str, run: Callable[[Turn], None]) -> None:
        self.name, self.says, self._run = name, says, run
        self.stopped = threading.Event()
        self.starts = 0
        self._turn: Turn | None = None
        self._thread: threading.Thread | None = None
        self._since: dt.datetime | None = None
        self._began = 0.0

    def start(self) -> None:
        """Begin, or begin again in the place of a thread that stands still."""
        if self._turn is not None:
            self._turn.replaced = True
        self.starts += 1
        self._began = time.monotonic()
        turn = self._turn = Turn(self.stopped)
        self._thread = threading.Thread(target=self._live, args=(turn,), name=self.name, daemon=True)
        self._thread.start()

    def stop(self, wait_s: float = 30.0) -> None:
        """End, and wait until it has."""
        self.stopped.set()
        if self._thread is not None and self._thread is not threading.current_thread():
            self._thread.join(wait_s)

    def _live(self, turn: Turn) -> None:
        try:
            self._run(turn)
        except Exception:
            log.exception("%s ended", self.name)

    @property
    def stands_still(self) -> bool:
        """Whether nothing was heard of it for too long, or its thread is gone."""
        if self._turn is None or self._thread is None or self.stopped.is_set():
            return False
        return not self._thread.is_alive() or time.monotonic() - self._turn.beaten > STANDS_STILL_S

    def look(self) -> Blind | None:
        """See whether it works, and start it again if it stands still; what is blind until it works again."""
        turn, still = self._turn, self.stands_still
        if turn is None or (not still and turn.lives):
            self._since = None
            if time.monotonic() - self._began > WAITS_LONGEST_S:
                self.starts = 1
            return None
        if self._since is None and still:
            self._since = now() - dt.timedelta(seconds=time.monotonic() - turn.beaten)
        if self._since is None:
            return None
        wait_s = min(WAITS_LONGEST_S, STANDS_STILL_S * 2.0 ** (self.starts - 1))
        if still and time.monotonic() - self._began >= wait_s:
            log.error("%s has stood still since %s: it is started again", self.name, self._since.isoformat())
            self.start()
        return Blind(self.name, self._since, self.says)


class Watch:
    """Looks at every worker once a second; others ask it what is blind."""

    def __init__(self, workers: Callable[[], Iterable[Worker]]) -> None:
        self._workers = workers
        self._seen: list[Blind] = []
        self._own = Worker("watch", "nobody sees whether the parts of the bench work", self._run)

    def start(self) -> None:
        """Begin to look."""
        self._own.start()

    def stop(self) -> None:
        """Look no more."""
        self._own.stop()

    def _run(self, turn: Turn) -> None:
        while not turn.wait(LOOK_EVERY_S):
            self.look()

    def look(self) -> None:
        """Look at each once."""
        self._seen = [blind for worker in self._workers() if (blind := worker.look()) is not None]

    def blind(self) -> list[Blind]:
        """Outages just now; asking starts the watch again if that is what stands still."""
        own = self._own.look()
        return [*([own] if own is not None else []), *self._seen]
