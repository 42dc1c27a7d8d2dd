"""Work on stored runs in the background: read anew, where the old reading stays until the new one is there, and
packed."""

import logging
import threading

from sqlalchemy.exc import SQLAlchemyError

from ..store.database import Database
from ..store.runs.logs import load_log, pack, pack_one
from ..store.runs.readings import claim_stale, read_stale, stale
from .niceness import step_back

PAUSE_S = 5.0
IDLE_S = 600.0

log = logging.getLogger(__name__)


class Rereader:
    """Reads and packs one run after another, each in a transaction of its own; several processes share the work."""

    def __init__(self, database: Database) -> None:
        self._database = database
        self._wanted = threading.Event()
        self._over = threading.Event()
        self._of = 0
        self._thread = threading.Thread(target=self._work, name="reading again", daemon=True)

    def start(self) -> None:
        """Begin; whatever is stale is read."""
        self._wanted.set()
        self._thread.start()

    def stop(self) -> None:
        """End after the run that is being read."""
        self._over.set()
        self._wanted.set()
        self._thread.join(timeout=60)

    def wake(self) -> None:
        """Look for stale runs now."""
        self._wanted.set()

    def of(self, left: int) -> int:
        """Out of how many so many are left."""
        self._of = 0 if left == 0 else max(self._of, left)
        return self._of

    def _work(self) -> None:
        step_back()
        while not self._over.is_set():
            self._wanted.wait(IDLE_S)
            self._wanted.clear()
            try:
                while not self._over.is_set() and (self.read_one() or self.pack_one()):
                    pass
            except SQLAlchemyError as error:
                # The database does not answer: what is stale stays so, and is read when it is back.
                log.warning("reading again was interrupted: %s", str(error).splitlines()[0])
                if not self._over.wait(PAUSE_S):
                    self._wanted.set()
            except Exception:
                log.exception("a run could not be read again; the others wait for a while")

    def read_one(self) -> bool:
        """Read one stale run anew; whether there was one."""
        with self._database.session() as session:
            self.of(stale(session))
            run = claim_stale(session)
            if run is None:
                return False
            pack(session, run)
            kept_at = run.updated_at
            read_stale(session, run, load_log(session, run))
            # Nobody changed it: a window that shows it need not ask anew, and no later save is refused.
            run.updated_at = kept_at
        return True

    def pack_one(self) -> bool:
        """Pack the log of one run that is stored in rows; whether there was one."""
        with self._database.session() as session:
            return pack_one(session)
