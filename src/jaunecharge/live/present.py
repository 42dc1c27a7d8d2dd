"""The count of the bench's changes as the database has it just now, without ever waiting long for it."""

import queue
from concurrent.futures import Future, ThreadPoolExecutor
from concurrent.futures import TimeoutError as TooLate

from sqlalchemy.exc import SQLAlchemyError

from ..store.bench import lanes as store
from ..store.database import Database

AT_ONCE, MOST_WAITING = 4, 8


class Present:
    """Asks the database in threads of its own: one that hangs holds up nobody who looks at the bench."""

    def __init__(self, database: Database) -> None:
        self._database = database
        self._threads = ThreadPoolExecutor(AT_ONCE, "asks for the count")
        self._asked: queue.Queue[Future[int]] = queue.Queue()

    def tick(self, within_s: float) -> int | None:
        """The count; None where it is not known in time, or many ask already and none has an answer."""
        if self._asked.qsize() > MOST_WAITING:
            self._forget_answered()
            if self._asked.qsize() > MOST_WAITING:
                return None
        asking = self._threads.submit(self._ask)
        self._asked.put(asking)
        try:
            return asking.result(within_s)
        except (TooLate, SQLAlchemyError):
            return None

    def _forget_answered(self) -> None:
        for _ in range(self._asked.qsize()):
            try:
                asking = self._asked.get_nowait()
            except queue.Empty:
                return
            if not asking.done():
                self._asked.put(asking)

    def _ask(self) -> int:
        with self._database.session() as session:
            return store.present_tick(session)
