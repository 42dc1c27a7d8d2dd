"""The bench as a process knows it, kept in step with the database by its notifications, and told to who listens.

A lane that cannot be read or drawn is set aside: that is said, it is tried again, and the others go on.
"""

import datetime as dt
import hmac
import logging
import threading
import time
import uuid
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager, suppress
from typing import Any, TypeVar

import psycopg
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from ..store import bench_models as b
from ..store.backup import RELOAD
from ..store.bench import lanes as store
from ..store.database import Database
from ..store.errors import LaneAside, LaneOver
from ..store.failures import failure
from .inbox import Inbox
from .lane_state import LaneState
from .present import Present
from .shown import LaneFull, LaneView
from .steady import now
from .told import Aside, Told, figures, loaded, written
from .view import full, view
from .worker import Turn, Worker

GATHER_S = 0.01
"""Time that notifications are gathered before the changes are read."""

VIEWS_EVERY_S = 1.0
"""A lane's whole view is told no more often; its newest figures are told at once."""

RETRY_S = 0.3
ASIDE_AGAIN_S = 15.0
"""A lane that was set aside is tried again so often."""

SILENCE_S = 1.0
"""Without a change for so long, ages and states that time alone moves are told."""

MOST_VIEWS = 5
NEWS_WITHIN_S = 2.0
log = logging.getLogger(__name__)
Hears = Callable[[int, str], None]
T = TypeVar("T")


class Hub:
    """The open lanes as this process knows them."""

    def __init__(self, database: Database, inbox: Inbox) -> None:
        self._database, self.inbox, self._present = database, inbox, Present(database)
        self.states: dict[uuid.UUID, LaneState] = {}
        self.aside: dict[uuid.UUID, Aside] = {}
        self.loaded = False
        self.tick = 0
        self.away = False
        self._hears: list[Hears] = []
        self.noticed: Callable[[set[str]], None] = lambda payloads: None
        self._viewed: dict[uuid.UUID, float] = {}
        self._lock = threading.RLock()
        self._aside_tried = 0.0
        self._changed = threading.Condition(self._lock)
        self.worker = Worker("bench", "the bench shows nothing new", self._run)

    def start(self) -> None:
        """Read what there is, and listen."""
        with suppress(Exception):
            self.load()
        self.worker.start()

    def stop(self) -> None:
        """Listen no more."""
        self.worker.stop()

    def load(self) -> None:
        """Read the open lanes from the store."""
        with self._snapshot() as session:
            tick = store.present_tick(session)
            lanes = store.open_lanes(session)
            states = self._load_each(session, lanes)
        with self._lock:
            self.aside = {lane.id: self.aside[lane.id] for lane in lanes if lane.id in self.aside}
            self.states, self.tick, self.loaded = states, tick, True
            self._aside_tried = time.monotonic()

    def _load_each(self, session: Session, lanes: list[b.Lane]) -> dict[uuid.UUID, LaneState]:
        """The state of each lane; one that cannot be read is set aside."""
        states = {}
        for lane in lanes:
            try:
                state = loaded(session, lane)
                if lane.id in self.aside:
                    view(state, now()), figures(state, 0)
            except Exception as error:
                if failure(error) is not None:
                    raise
                self._set_aside(lane, error)
            else:
                states[lane.id] = state
                self.aside.pop(lane.id, None)
        return states

    def _set_aside(self, lane: b.Lane, error: Exception) -> None:
        if lane.id not in self.aside:
            log.error("lane %s is set aside", lane.name, exc_info=error)
            self.aside[lane.id] = Aside(lane.id, lane.name, now(), f"{type(error).__name__}: {error}"[:200])
        self.states.pop(lane.id, None)

    def _each(self, lanes: Iterable[uuid.UUID], build: Callable[[LaneState], T]) -> dict[uuid.UUID, T]:
        """Something of each lane; one of which it cannot be made is set aside."""
        by_lane = {}
        for lane_id in list(lanes):
            state = self.states.get(lane_id)
            if state is None:
                continue
            try:
                by_lane[lane_id] = build(state)
            except Exception as error:
                self._set_aside(state.lane, error)
        return by_lane

    @contextmanager
    def _snapshot(self) -> Iterator[Session]:
        """A session that sees one state of the store throughout."""
        with self._database.session() as session:
            session.connection(execution_options={"isolation_level": "REPEATABLE READ"})
            yield session

    def refresh(self) -> None:
        """Take in what has changed since, and tell it."""
        with self._snapshot() as session:
            changes = store.changes_since(session, self.tick)
            if changes.tick == self.tick:
                return
            opened = [x for x in changes.lanes if x.id not in self.states and x.state in store.OPEN]
            loaded = self._load_each(session, opened)
        with self._lock:
            self._take(changes, loaded)
            self._changed.notify_all()

    def _take(self, changes: store.Changes, loaded: dict[uuid.UUID, LaneState]) -> None:
        before, self.tick = self.tick, changes.tick
        touched: set[uuid.UUID] = set(loaded)
        news = Told()
        self.states |= loaded
        for lane in changes.lanes:
            if lane.id in loaded:
                continue
            if lane.state not in store.OPEN:
                self.aside.pop(lane.id, None)
                state = self.states.pop(lane.id, None)
                news.over.append(str(lane.id))
                if state is not None:
                    state.lane = lane
                continue
            if lane.id in self.states:
                self.states[lane.id].lane = lane
                self._viewed.pop(lane.id, None)
                touched.add(lane.id)
        for entry in changes.entries:
            if entry.lane_id in self.states and entry.lane_id not in loaded:
                self.states[entry.lane_id].enter(entry)
                self._viewed.pop(entry.lane_id, None)
                touched.add(entry.lane_id)
        readings: dict[uuid.UUID, list[Any]] = {}
        for r in changes.readings:
            if r.lane_id in self.states and r.lane_id not in loaded:
                readings.setdefault(r.lane_id, []).append(r)
        self._each(readings, lambda state: state.take(readings[state.lane.id]))
        touched |= readings.keys()
        news.figures = {str(i): f for i, f in self._each(touched, lambda state: figures(state, before)).items()}
        self._tell(news, touched)

    def _tell(self, news: Told, touched: set[uuid.UUID]) -> None:
        at, clock = now(), time.monotonic()
        due = sorted(
            (self._viewed.get(i, 0.0), i.int, i)
            for i in touched
            if i in self.states and clock - self._viewed.get(i, 0.0) >= VIEWS_EVERY_S
        )
        # A few at a time, those that wait longest first: nobody waits for all of fifty lanes to be described.
        chosen = [lane_id for *_, lane_id in due[:MOST_VIEWS]]
        news.views += self._each(chosen, lambda state: self._view(state, at)).values()
        self._viewed |= dict.fromkeys(chosen, clock)
        if not self._hears:
            return
        text = self._written(news, at)
        for hears in list(self._hears):
            try:
                hears(self.tick, text)
            except RuntimeError:  # The loop of one who listened is gone; that is no reason not to tell the others.
                self._hears.remove(hears)

    def _written(self, news: Told, at: dt.datetime) -> str:
        return written(news, at, self.tick, self.away or self.inbox.away, self._waiting(), self.set_aside())

    def _waiting(self) -> int:
        return self.inbox.spool.waiting() if self.away or self.inbox.away else 0

    def set_aside(self) -> list[Aside]:
        """Lanes that are open and cannot be shown or watched."""
        return sorted(list(self.aside.values()), key=lambda x: x.name)

    def state_of(self, lane_id: uuid.UUID) -> LaneState:
        """An open lane.

        Raises
        ------
        NotThere, LaneOver
            If there is none, or it has ended: so says the store, not what this process happens to know.
        LaneAside
            If it is open, and this process cannot show it (yet).
        """
        state = self.states.get(lane_id)
        if state is None:
            with self._database.session() as session:
                lane = store.get_lane(session, lane_id)
                if lane.state not in store.OPEN:
                    raise LaneOver(f"lane {lane.name} has ended")
            self.catch_up()
            state = self.states.get(lane_id)
            if state is None:
                raise LaneAside(f"lane {lane.name} is open, and cannot be shown just now")
        return state

    def _view(self, state: LaneState, at: dt.datetime) -> LaneView:
        return view(state, at, self.shared_with(state.lane.id))

    def view(self, lane_id: uuid.UUID) -> LaneView:
        """A lane as it is now.

        Raises
        ------
        NotThere, LaneOver, LaneAside
        """
        return self._one(lane_id, lambda state: self._view(state, now()))

    def catch_up(self) -> None:
        """Know what other servers have done so far, unless the database is away."""
        tick = None if self.away else self._present.tick(NEWS_WITHIN_S)
        if tick is not None:
            self.wait_for(tick, NEWS_WITHIN_S)

    def full(self, lane_id: uuid.UUID) -> LaneFull:
        """A lane as it is now, with its ribbon.

        Raises
        ------
        NotThere, LaneOver, LaneAside
        """
        return self._one(lane_id, lambda state: full(state, now(), self.shared_with(lane_id)))

    def _one(self, lane_id: uuid.UUID, build: Callable[[LaneState], T]) -> T:
        self.state_of(lane_id)
        with self._lock:
            by_lane = self._each([lane_id], build)
        if lane_id not in by_lane:
            self.state_of(lane_id)
            raise LaneAside("the lane has just changed")
        return by_lane[lane_id]

    def fulls(self) -> tuple[int, list[LaneFull]]:
        """The count up to which this is so, and every open lane with its ribbon."""
        at = now()
        with self._lock:
            order = sorted(self.states.values(), key=lambda s: (len(s.lane.name), s.lane.name))
            by_lane = self._each((s.lane.id for s in order), lambda s: full(s, at, self.shared_with(s.lane.id)))
            return self.tick, list(by_lane.values())

    def shared_with(self, lane_id: uuid.UUID) -> list[str]:
        """Names of the other lanes that hang on the same meter."""
        state = self.states.get(lane_id)
        if state is None:
            return []
        mine = state.lane
        if not mine.meter and not mine.meter_address:
            return []
        return sorted(
            s.lane.name
            for s in list(self.states.values())
            if s.lane.id != lane_id and (s.lane.meter, s.lane.meter_address) == (mine.meter, mine.meter_address)
        )

    def state_of_token(self, token: str) -> LaneState:
        """The open lane that a token reaches.

        Raises
        ------
        LaneOver
            If it reaches none, or none any more.
        LaneAside
            If it is open, and this process cannot show it (yet).
        """
        with self._lock:
            asked = token.encode()
            state = next((s for s in self.states.values() if hmac.compare_digest(s.lane.token.encode(), asked)), None)
        if state is None:
            with self._database.session() as session:
                lane = store.lane_of_token(session, token)
            if lane is None:
                raise LaneOver("this code reaches no lane, or its lane has ended")
            state = self.state_of(lane.id)
        return state

    def since(self, tick: int) -> tuple[int, str]:
        """All that somebody missed who knows the bench up to a count."""
        with self._lock:
            at = now()
            views = self._each(self.states, lambda s: self._view(s, at))
            steps = self._each(views, lambda s: figures(s, tick))
            return self.tick, self._written(Told({str(i): f for i, f in steps.items()}, list(views.values())), at)

    def listen(self, hears: Hears) -> Callable[[], None]:
        """Be told every change from now on; what is returned ends that."""
        with self._lock:
            self._hears.append(hears)
            self._changed.notify_all()

        def leave() -> None:
            with self._lock, suppress(ValueError):
                self._hears.remove(hears)

        return leave

    @property
    def over(self) -> bool:
        """Whether it listens no more."""
        return self.worker.stopped.is_set()

    def wait_for_somebody(self, seconds: float) -> bool:
        """Wait until somebody looks at the bench; whether somebody does."""
        with self._changed:
            return self._changed.wait_for(lambda: bool(self._hears), seconds)

    def wait_for(self, tick: int, seconds: float = 5.0) -> bool:
        """Wait until this process knows a change; whether it does."""
        with self._changed:
            return self._changed.wait_for(lambda: self.tick >= tick, seconds)

    def _run(self, turn: Turn) -> None:
        while not turn.over:
            try:
                self._listen(turn)
            except (psycopg.Error, OSError, SQLAlchemyError):
                self._lost()
            except Exception:
                # Whatever it was, the bench must go on being told: what is known is read afresh.
                log.exception("the bench could not be followed for a moment")
                self.tick = 0
            turn.wait(RETRY_S)

    def _lost(self) -> None:
        if not self.away and not self.over:
            with self._lock:
                self.away = True
                self._tell(Told(), set())

    def _listen(self, turn: Turn) -> None:
        address = self._database.url.replace("postgresql+psycopg", "postgresql", 1)
        with psycopg.connect(address, autocommit=True, connect_timeout=3) as connection:
            connection.execute(f"LISTEN {store.CHANNEL}")
            if self.tick == 0 or not self.loaded:
                self.load()
            self.refresh()
            if self.away:
                self.away = False
                with self._lock:
                    self._tell(Told(), set(self.states))
            quiet = time.monotonic()
            while not turn.over:
                turn.beat()
                heard = list(connection.notifies(timeout=0.25, stop_after=1))
                if turn.over:
                    return
                if heard:
                    turn.wait(GATHER_S)
                    # What was gathered meanwhile is read in one go.
                    heard += connection.notifies(timeout=0.0)
                    self.noticed({notice.payload for notice in heard})
                    if any(notice.payload == RELOAD for notice in heard):
                        before = set(self.states)
                        self.load()
                        with self._lock:
                            self._tell(Told(over=[str(i) for i in before - set(self.states)]), set(self.states))
                    self.refresh()
                if self.aside and time.monotonic() - self._aside_tried > ASIDE_AGAIN_S:
                    self.load()
                if time.monotonic() - quiet >= SILENCE_S / max(1.0, len(self.states) / MOST_VIEWS):
                    quiet = time.monotonic()
                    with self._lock:
                        self._tell(Told(), set(self.states))
