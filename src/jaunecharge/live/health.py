"""Health: what does not work just now, and since when, in words, for the pages, and for whoever asks whether all is
well.
"""

import datetime as dt
import shutil
from collections.abc import Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from concurrent.futures import TimeoutError as TookTooLong
from dataclasses import dataclass
from pathlib import Path

from ..store.database import Database
from .hub import Hub
from .steady import now
from .worker import Watch

ANSWERS_WITHIN_S = 3.0
LOW_BYTES, LOW_SHARE = 1_000_000_000, 0.05
"""Less room than either is said before it is gone."""

GIGA = 1e9


@dataclass(frozen=True)
class Trouble:
    """An outage in words, and since when that is known."""

    what: str
    says: str
    since: dt.datetime
    mend: str = ""


@dataclass(frozen=True)
class Room:
    """Free space on the disk that has least of it [bytes]."""

    free: int
    total: int

    @property
    def low(self) -> bool:
        """Whether it is said that it becomes scarce."""
        return self.free < LOW_BYTES or self.free < LOW_SHARE * self.total


class Health:
    """Asks every part of the bench how it is."""

    def __init__(self, database: Database, hub: Hub, watch: Watch, folders: Sequence[Path]) -> None:
        self._database, self._hub, self._watch, self._folders = database, hub, watch, tuple(folders)
        self._asks = ThreadPoolExecutor(1, "asks the database")
        self._asked: Future[bool] | None = None
        self._since: dict[str, dt.datetime] = {}

    def answers(self) -> bool:
        """Whether the database answers, in time; nobody asks again as long as it has not."""
        if self._asked is None or self._asked.done():
            self._asked = self._asks.submit(self._database.answers)
        try:
            return self._asked.result(ANSWERS_WITHIN_S)
        except TookTooLong:
            return False
        except Exception:
            return False

    def room(self) -> Room | None:
        """The room on the disks of the state folder and of the database; None where that cannot be told."""
        listed = []
        for folder in self._folders:
            place = next((f for f in (folder, *folder.parents) if f.exists()), None)
            if place is not None:
                usage = shutil.disk_usage(place)
                listed.append(Room(usage.free, usage.total))
        return min(listed, key=lambda room: room.free, default=None)

    def troubles(self) -> list[Trouble]:
        """All that does not work just now."""
        listed = [Trouble(b.what, b.says, b.since, "it is being started again") for b in self._watch.blind()]
        if not self.answers():
            waiting = self._hub.inbox.spool.waiting()
            words = f"the database does not answer: {_many(waiting, 'reading')} wait on disk" if waiting else ""
            listed.append(
                self._one("database", words or "the database does not answer", "it is started again by itself")
            )
        if self._hub.inbox.fault:
            listed.append(
                self._one("spool", f"readings are not stored: {self._hub.inbox.fault}", "keep them on the instruments")
            )
        if (room := self.room()) is not None and room.low:
            left = f"only {room.free / GIGA:.1f} GB of {room.total / GIGA:.0f} GB are left on the disk"
            listed.append(self._one("disk", left, "make room before the runs of tonight"))
        for lane in self._hub.set_aside():
            words = f"lane {lane.name} cannot be shown, and no alarm is given for it"
            listed.append(
                Trouble(f"lane {lane.name}", words, lane.since, "look at its phone yourself, or end the lane")
            )
        if aside := self._hub.inbox.spool.aside():
            words = f"{_many(aside, 'batch', 'batches')} of readings could not be stored and {_were(aside)} set aside"
            listed.append(self._one("set aside", words, "see what they are"))
        self._since = {t.what: t.since for t in listed}
        return listed

    def _one(self, what: str, says: str, mend: str) -> Trouble:
        return Trouble(what, says, self._since.get(what) or now(), mend)

    def stop(self) -> None:
        """Ask no more."""
        self._asks.shutdown(wait=False, cancel_futures=True)


def _many(number: int, one: str, more: str = "") -> str:
    return f"{number:,} {one if number == 1 else more or one + 's'}"


def _were(number: int) -> str:
    return "was" if number == 1 else "were"
