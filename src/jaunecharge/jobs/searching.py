"""Better schedules of a plan: searched for, each better one kept at once."""

import datetime as dt
import threading
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any, Protocol

from ..core.schedule import Schedule
from ..store.database import Database
from ..store.jobs.jobs import Cancelled, Superseded
from ..store.plan import plans as store
from .doing import Doing, Leaving

TICK_S = 0.5


class Stoppable(Protocol):
    """A search that another thread can stop."""

    stopped: bool

    def stop(self) -> None:
        """End it soon."""


def search(doing: Doing) -> dict[str, Any]:
    """Search for a better schedule of a plan's remaining runs, for some seconds; one that is wanted no more keeps what
    it has found."""
    from ..core.schedule import Search, solve

    plan_id, seconds = uuid.UUID(doing.args["plan"]), float(doing.args["seconds"])
    with doing.database.session() as session:
        plan = store.get_plan(session, plan_id)
        revision, problem = plan.revision, store.left_of(session, plan, dt.datetime.now(dt.UTC))
    if problem is None:
        return {"found": 0}
    wanted, looked, found = store.without_end(problem), Search(), 0

    def better(schedule: Schedule) -> None:
        nonlocal found
        with doing.database.session() as session:
            store.keep_better(session, plan_id, revision, wanted, schedule)
        found += 1

    with telling(doing, seconds, looked, lambda: found):
        best = solve(wanted, seconds, better, looked)
    _keep(doing.database, plan_id, revision, wanted, best, not looked.stopped)
    return {"found": found}


def _keep(database: Database, plan_id: uuid.UUID, revision: int, wanted: Any, best: Schedule, whole: bool) -> None:
    with database.session() as session:
        store.keep_better(session, plan_id, revision, wanted, best, searched=whole)


class Count(Protocol):
    """A number that rises."""

    def __call__(self) -> int:
        """Its present value."""


@contextmanager
def telling(doing: Doing, seconds: float, search: Stoppable, found: Count) -> Iterator[None]:
    """Tell twice a second how far a search has come; stop it where it is wanted no more, or this worker is to end."""
    over = threading.Event()

    def tell() -> None:
        gone, told = 0.0, 0
        while not over.wait(TICK_S):
            gone += TICK_S
            try:
                now = found()
                doing.tell("searching", min(0.99, gone / seconds), news=now > told)
                told = now
            except (Cancelled, Superseded, Leaving):
                search.stop()
                return
            except Exception:
                continue  # The database is away for a moment: it is told later.

    thread = threading.Thread(target=tell, daemon=True)
    thread.start()
    try:
        yield
    finally:
        over.set()
        thread.join()
