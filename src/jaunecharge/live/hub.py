"""The bench as a process knows it, kept in step with the database by its notifications, and told to who listens."""

import datetime as dt
import json
import logging
import threading
import time
import uuid
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from typing import Any

import psycopg
from pydantic import TypeAdapter
from sqlalchemy.orm import Session

from ..core.heat import is_phone
from ..store import bench as store
from ..store import bench_models as b
from ..store.database import Database
from .inbox import Inbox, gone
from .lane_state import LaneState
from .steady import now
from .view import LaneFull, LaneView, full, traced, view

GATHER_S = 0.03
"""How long notifications are gathered before the changes are read."""

VIEWS_EVERY_S = 1.0
"""A lane's whole view is told no more often; its newest figures are told at once."""

RETRY_S = 0.3
SILENCE_S = 1.0
"""Without a change for so long, ages and states that time alone moves are told."""

MOST_VIEWS = 5
log = logging.getLogger(__name__)
_VIEWS = TypeAdapter(list[LaneView])
Hears = Callable[[int, str], None]


@dataclass
class Told:
    """What is told of one change or of some: figures at once, views now and then, lanes that are over."""

    figures: dict[str, list[Any]] = field(default_factory=dict)
    views: list[LaneView] = field(default_factory=list)
    over: list[str] = field(default_factory=list)


class Hub:
    """The open lanes as this process knows them."""

    def __init__(self, database: Database, inbox: Inbox) -> None:
        self._database, self.inbox = database, inbox
        self.states: dict[uuid.UUID, LaneState] = {}
        self.tick = 0
        self.away = False
        self._hears: list[Hears] = []
        self._viewed: dict[uuid.UUID, float] = {}
        self._lock = threading.RLock()
        self._over = threading.Event()
        self._changed = threading.Condition(self._lock)
        self._thread = threading.Thread(target=self._run, name="bench hub", daemon=True)

    def start(self) -> None:
        """Read what there is, and listen."""
        with suppress(Exception):
            self.load()
        self._thread.start()

    def stop(self) -> None:
        """Listen no more."""
        self._over.set()
        self._thread.join(30)

    def load(self) -> None:
        """Read the open lanes from the store."""
        with self._snapshot() as session:
            tick = store.present_tick(session)
            found = {lane.id: _loaded(session, lane) for lane in store.open_lanes(session)}
        with self._lock:
            self.states, self.tick = found, tick

    @contextmanager
    def _snapshot(self) -> Iterator[Session]:
        """A session that sees one state of the store throughout."""
        with self._database.session() as session:
            session.connection(execution_options={"isolation_level": "REPEATABLE READ"})
            yield session

    def refresh(self) -> None:
        """Take in what has changed since, and tell it."""
        with self._snapshot() as session:
            found = store.changes_since(session, self.tick)
            if found.tick == self.tick:
                return
            opened = [x for x in found.lanes if x.id not in self.states and x.state in store.OPEN]
            loaded = {lane.id: _loaded(session, lane) for lane in opened}
        with self._lock:
            self._take(found, loaded)
            self._changed.notify_all()

    def _take(self, found: store.Changes, loaded: dict[uuid.UUID, LaneState]) -> None:
        before, self.tick = self.tick, found.tick
        touched: set[uuid.UUID] = set(loaded)
        told = Told()
        self.states |= loaded
        for lane in found.lanes:
            if lane.id in loaded:
                continue
            if lane.state not in store.OPEN:
                state = self.states.pop(lane.id, None)
                told.over.append(str(lane.id))
                if state is not None:
                    state.lane = lane
                continue
            self.states[lane.id].lane = lane
            self._viewed.pop(lane.id, None)
            touched.add(lane.id)
        for entry in found.entries:
            if entry.lane_id in self.states and entry.lane_id not in loaded:
                self.states[entry.lane_id].enter(entry)
                self._viewed.pop(entry.lane_id, None)
                touched.add(entry.lane_id)
        readings: dict[uuid.UUID, list[Any]] = {}
        for r in found.readings:
            if r.lane_id in self.states and r.lane_id not in loaded:
                readings.setdefault(r.lane_id, []).append(r)
        for lane_id, rows in readings.items():
            self.states[lane_id].take(rows)
            touched.add(lane_id)
        for lane_id in touched:
            told.figures[str(lane_id)] = figures(self.states[lane_id], before)
        self._tell(told, touched)

    def _tell(self, told: Told, touched: set[uuid.UUID]) -> None:
        at, clock = now(), time.monotonic()
        due = sorted(
            (self._viewed.get(i, 0.0), i.int, i)
            for i in touched
            if i in self.states and clock - self._viewed.get(i, 0.0) >= VIEWS_EVERY_S
        )
        # A few at a time, those that wait longest first: nobody waits for all of fifty lanes to be described.
        for *_, lane_id in due[:MOST_VIEWS]:
            told.views.append(self.view(lane_id, at))
            self._viewed[lane_id] = clock
        if not self._hears:
            return
        text = self._written(told, at)
        for hears in list(self._hears):
            hears(self.tick, text)

    def _written(self, told: Told, at: dt.datetime) -> str:
        views = _VIEWS.dump_json(told.views).decode() if told.views else "[]"
        rest = json.dumps(
            {
                "tick": self.tick, "at": at.isoformat(), "figures": told.figures, "over": told.over,
                "away": self.away or self.inbox.away, "waiting": self._waiting(),
            },
            separators=(",", ":"),
        )  # fmt: skip
        return f'{rest[:-1]},"views":{views}}}'

    def _waiting(self) -> int:
        return self.inbox.spool.waiting() if self.away or self.inbox.away else 0

    def view(self, lane_id: uuid.UUID, at: dt.datetime | None = None) -> LaneView:
        """A lane at a moment."""
        with self._lock:
            return view(self.states[lane_id], at or now(), self.shared_with(lane_id))

    def fulls(self) -> tuple[int, list[LaneFull]]:
        """The count up to which this is so, and every open lane with its ribbon."""
        at = now()
        with self._lock:
            order = sorted(self.states.values(), key=lambda s: (len(s.lane.name), s.lane.name))
            return self.tick, [full(s, at, self.shared_with(s.lane.id)) for s in order]

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

    def lane_of_token(self, token: str) -> b.Lane | None:
        """The open lane that a token reaches, as this process knows it."""
        with self._lock:
            return next((s.lane for s in self.states.values() if s.lane.token == token), None)

    def since(self, tick: int) -> tuple[int, str]:
        """All that somebody missed who knows the bench up to a count."""
        with self._lock:
            at = now()
            told = Told(
                {str(i): figures(s, tick) for i, s in self.states.items()}, [self.view(i, at) for i in self.states]
            )
            return self.tick, self._written(told, at)

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
        return self._over.is_set()

    def wait_for_somebody(self, seconds: float) -> bool:
        """Wait until somebody looks at the bench; whether somebody does."""
        with self._changed:
            return self._changed.wait_for(lambda: bool(self._hears), seconds)

    def wait_for(self, tick: int, seconds: float = 5.0) -> bool:
        """Wait until this process knows a change; whether it does."""
        with self._changed:
            return self._changed.wait_for(lambda: self.tick >= tick, seconds)

    def _run(self) -> None:
        while not self._over.is_set():
            try:
                self._listen()
            except (psycopg.Error, OSError):
                self._lost()
            except Exception as error:
                if gone(error):
                    self._lost()
                else:
                    # Whatever it was, the bench must go on being told: what is known is read afresh.
                    log.exception("the bench could not be followed for a moment")
                    self.tick = 0
            self._over.wait(RETRY_S)

    def _lost(self) -> None:
        if not self.away and not self._over.is_set():
            with self._lock:
                self.away = True
                self._tell(Told(), set())

    def _listen(self) -> None:
        address = self._database.url.replace("postgresql+psycopg", "postgresql", 1)
        with psycopg.connect(address, autocommit=True, connect_timeout=3) as connection:
            connection.execute(f"LISTEN {store.CHANNEL}")
            if self.tick == 0:
                self.load()
            self.refresh()
            if self.away:
                self.away = False
                with self._lock:
                    self._tell(Told(), set(self.states))
            quiet = time.monotonic()
            while not self._over.is_set():
                heard = list(connection.notifies(timeout=0.25, stop_after=1))
                if heard:
                    self._over.wait(GATHER_S)
                    # What was gathered meanwhile is read in one go.
                    list(connection.notifies(timeout=0.0))
                    self.refresh()
                if time.monotonic() - quiet >= SILENCE_S / max(1.0, len(self.states) / MOST_VIEWS):
                    quiet = time.monotonic()
                    with self._lock:
                        self._tell(Told(), set(self.states))


def figures(state: LaneState, after_tick: int) -> list[Any]:
    """The newest figures of a lane, short: time, watts, volts, hottest, percentage, and the steps that changed."""
    steps = traced(state, after_tick)
    last = state.last
    hottest = max((c for p, (_, c) in state.celsius.items() if is_phone(p)), default=None)
    return [
        round(state.newest_s, 2),
        *(round(last[k][1], 3) if k in last else None for k in ("watts", "volts")),
        None if hottest is None else round(hottest, 2),
        state.reported[-1][1] if state.reported else None,
        steps.watts,
        steps.celsius,
    ]


def _loaded(session: Session, lane: b.Lane) -> LaneState:
    """A lane's state, rebuilt from the store."""
    state = LaneState(lane)
    for entry in store.entries_of(session, lane.id):
        state.enter(entry)
    state.take(store.means_of(session, lane.id))
    return state
