"""The keeper of the bench: one process at a time asks the instruments, applies the watch rules and marks what was
missed.

It holds a lock of the database for as long as it lives; when it is gone, another process takes over.
"""

import datetime as dt
import logging
import time
import uuid
from contextlib import suppress
from typing import Literal

import psycopg
from sqlalchemy.exc import SQLAlchemyError

from ..core.bench import (
    PACK_ALONE,
    SILENT_STEPS,
    Alarm,
    Seen,
    SoFar,
    changes,
    pack_watch,
    report_every_s,
    silent_limit_s,
    watch,
)
from ..core.errors import CannotRead
from ..core.kit import ROLES, Role
from ..core.log import LASTING_S, LEAST_JUMP_W, SOCKET, latest_rise, power_trace
from ..core.reading import LEAST_S
from ..core.units import MINUTE_S
from ..store.bench import lanes as store
from ..store.bench import log as lanes
from ..store.database import Database
from ..store.errors import LaneOver, NotThere
from .hub import Hub
from .instruments import Asked, Hangs, Poller, wanted
from .known import known_of
from .lane_state import LaneState
from .steady import now
from .view import no_load_w
from .worker import Turn, Worker

log = logging.getLogger(__name__)
KEEPER_LOCK = 8418
LOOK_EVERY_S = 0.1
EACH_EVERY_S, MOST_AT_ONCE = 0.9, 5
"""Interval at which each lane is looked at, and number at a time: the others wait, not those who log."""

TAKE_OVER_S = 0.5
GAP_S = 30.0
LEVELS = {"note": 0.0, "warn": 1.0, "stop": 2.0}
PLACING_SEEN_S = 120 * MINUTE_S
SPOT_RESTS_S, TYPED_RESTS_S = 5.0, 10.0
"""A spot check stays open so long after its minutes, and after what was typed last: somebody may type more."""

UNWATCHED = "not watched"


class Keeper:
    """Keeps the bench, once it holds the lock."""

    def __init__(self, database: Database, hub: Hub) -> None:
        self._database, self._hub = database, hub
        self._pollers: dict[str, Poller] = {}
        self._watched: dict[uuid.UUID, float] = {}
        self._backend = 0
        self.keeps = False
        self.worker = Worker("watch over the lanes", "no alarm is given", self._run)

    def start(self) -> None:
        """Try to keep the bench from now on."""
        self.worker.start()

    def stop(self) -> None:
        """Keep it no more."""
        self.worker.stop()

    @property
    def workers(self) -> list[Worker]:
        """Itself, and those that ask the instruments."""
        return [self.worker, *(p.worker for p in list(self._pollers.values()))]

    def _run(self, turn: Turn) -> None:
        while not turn.over:
            try:
                self._hold(turn)
            except (psycopg.Error, SQLAlchemyError, OSError):
                pass
            except Exception:
                log.exception("the bench was not kept for a moment")
            if turn.replaced:
                return
            self.keeps = False
            turn.wait(TAKE_OVER_S)
        self._ask({})

    def _hold(self, turn: Turn) -> None:
        address = self._database.url.replace("postgresql+psycopg", "postgresql", 1)
        with psycopg.connect(address, autocommit=True, connect_timeout=3) as connection:
            if self._backend:
                # A thread of this process that stands still may hold the lock: its connection is ended.
                connection.execute("SELECT pg_terminate_backend(%s)", (self._backend,))
                self._backend = 0
            while not turn.over:
                [held] = connection.execute("SELECT pg_try_advisory_lock(%s)", (KEEPER_LOCK,)).fetchone() or [False]
                if held:
                    break
                turn.wait(TAKE_OVER_S)
            else:
                return
            self.keeps, self._backend = True, connection.info.backend_pid
            try:
                self._resume()
                while not turn.wait(LOOK_EVERY_S):
                    connection.execute("SELECT 1")
                    self._look(turn)
            finally:
                if not turn.replaced:
                    self._backend = 0

    def _resume(self) -> None:
        """Mark what was missed while nobody kept the bench."""
        at = now()
        for state in list(self._hub.states.values()):
            gap = missed(state, at)
            if gap is not None:
                self._log(state, [store.NewEntry("gap", gap[0], text=gap[1])])

    def _look(self, turn: Turn) -> None:
        states = list(self._hub.states.values())
        self._ask(wanted([_reached(s) for s in states]))
        if self._hub.inbox.away:
            return
        at, clock = now(), time.monotonic()
        waits = sorted((self._watched.get(s.lane.id, 0.0), s.lane.id.int, s) for s in states)
        for last, _, state in waits[:MOST_AT_ONCE]:
            if clock - last < EACH_EVERY_S:
                break
            self._watched[state.lane.id] = clock
            turn.beat()
            if turn.over:
                return
            try:
                if not self._placed(state, at):
                    self._watch(state, at)
                    self._end_spot(state, at)
                    self._end_played(state, at)
            except (psycopg.Error, SQLAlchemyError):
                raise
            except Exception as error:
                # One lane that cannot be judged must not keep the others from being watched.
                self._say_unwatched(state, at, error)

    def _say_unwatched(self, state: LaneState, at: dt.datetime, error: Exception) -> None:
        """Say in a lane's log that it is not watched; the alarm ends by itself once it is again."""
        if any(a.unit == UNWATCHED for a in state.alarms):
            return
        log.error("lane %s could not be watched", state.lane.name, exc_info=error)
        words = "this lane cannot be watched: no alarm is given for it"
        advice = "watch the phone yourself, or end the lane"
        entry = store.NewEntry("alarm", state.now_s(at), LEVELS["warn"], UNWATCHED, words, advice=advice)
        self._log(state, [entry])

    def _ask(self, asked: dict[str, Asked]) -> None:
        for address, poller in list(self._pollers.items()):
            if asked.get(address) != poller.asked:
                poller.stop()
                del self._pollers[address]
        for address, what in asked.items():
            if address not in self._pollers:
                self._pollers[address] = Poller(what, self._hub.inbox, self._lane_s).start()

    def _lane_s(self, lane_id: uuid.UUID) -> float | None:
        state = self._hub.states.get(lane_id)
        return None if state is None else state.now_s(now())

    def faults(self) -> dict[str, str]:
        """Flaws of the instruments that are asked, by address."""
        return {address: p.fault for address, p in self._pollers.items() if p.fault}

    def _placed(self, state: LaneState, at: dt.datetime) -> bool:
        """Whether the meter has just seen that the phone was placed; the run then begins."""
        if state.lane.state != "setting" or not state.metered or self._hub.shared_with(state.lane.id):
            return False
        at_s = seen_placing(state)
        if at_s is None:
            return False
        with suppress(CannotRead, LaneOver, NotThere), self._database.session() as session:
            lane = store.lane_for_change(session, state.lane.id)
            if lane.state == "setting":
                lanes.place(session, lane, at_s, at, lanes.BY_METER)
        return True

    def _watch(self, state: LaneState, at: dt.datetime) -> None:
        on = frozenset(a.unit for a in state.alarms)
        shared = bool(self._hub.shared_with(state.lane.id))
        rules = pack_watch if state.lane.kind in PACK_ALONE else watch
        fired, cleared = changes(on, rules(seen_of(state, at, shared), on))
        if not fired and not cleared:
            return
        at_s = state.now_s(at)
        words = {a.unit: a.text for a in state.alarms}
        new = [
            store.NewEntry("alarm", at_s, LEVELS[a.level], a.key, a.seen, advice=a.do + self._why(state, a))
            for a in fired
        ]
        new += [store.NewEntry("alarm over", at_s, unit=key, text=words.get(key, key)) for key in cleared]
        self._log(state, new)

    def _why(self, state: LaneState, alarm: Alarm) -> str:
        """Fault of the instrument itself, where it is silent."""
        address = next((a for role, a in _addresses(state).items() if alarm.key == f"{role} silent"), "")
        fault = self.faults().get(address, "") if address else ""
        return f" ({fault})" if fault else ""

    def _log(self, state: LaneState, new: list[store.NewEntry]) -> None:
        tick: int | None = None
        with suppress(LaneOver, NotThere), self._database.session() as session:
            lane = store.lane_for_change(session, state.lane.id)
            store.add_entries(session, lane, new, now())
            tick = lane.tick
        # The next look must know what was logged, or it would log it again; a lane that has ended logs nothing.
        if tick is not None:
            self._hub.wait_for(tick)

    def _end_spot(self, state: LaneState, at: dt.datetime) -> None:
        """End a spot check once its minutes are over and nobody types any more."""
        card, placed = state.lane.card, state.lane.placed_s
        if not card.is_spot or placed is None or state.lane.survey is None:
            return
        if state.now_s(at) < placed + card.spot_min * MINUTE_S + SPOT_RESTS_S:
            return
        typed = state.typed_w
        if not state.metered and (typed is None or typed[0] < placed + LEAST_S):
            return  # Nobody has typed the watts yet: it waits for them.
        if any((at - e.at).total_seconds() < TYPED_RESTS_S for e in state.standing):
            return
        with suppress(CannotRead, LaneOver, NotThere), self._database.session() as session:
            lane = store.lane_for_change(session, state.lane.id)
            lanes.close_lane(session, lane, "complete", "its minutes are over", at, "the bench")

    def _end_played(self, state: LaneState, at: dt.datetime) -> None:
        """End a lane of which the stand-in has played all that there is."""
        lane = state.lane
        if not lane.simulated or lane.state != "running" or lane.survey is not None:
            return
        poller = self._pollers.get(lane.meter_address)
        if poller is None or not poller.played_out:
            return
        with suppress(CannotRead, LaneOver, NotThere), self._database.session() as session:
            row = store.lane_for_change(session, lane.id)
            lanes.close_lane(session, row, "complete", "the stand-in has played to its end", at, "the bench")


def _reached(state: LaneState) -> Hangs:
    lane = state.lane
    return Hangs(lane.id, _addresses(state), lane.speed, lane.simulated)


def _beside(state: LaneState) -> dict[Literal["socket", "room"], float | None]:
    """The meter at the socket and what measures the room, where there are any, and when each was last heard [s]."""
    heard: dict[Literal["socket", "room"], float | None] = {"socket": state.last_s(SOCKET), "room": state.room_s}
    return {role: at for role, at in heard.items() if at is not None or _addresses(state)[role]}


def _addresses(state: LaneState) -> dict[Role, str]:
    """Addresses of a lane's instruments, by what they measure."""
    return {role: getattr(state.lane, f"{role}_address") for role in ROLES}


def missed(state: LaneState, at: dt.datetime) -> tuple[float, str] | None:
    """The gap that a lane has just now, for its log: since when [s], and in words; None where there is none."""
    if state.lane.state != "running" or not state.metered or state.newest_s <= 0:
        return None
    lasts = state.now_s(at) - state.newest_s
    if lasts <= max(GAP_S, SILENT_STEPS * state.spacing_s):
        return None
    minutes = (state.newest_s - (state.lane.placed_s or 0.0)) / MINUTE_S
    return (
        state.newest_s,
        f"nothing was logged for {lasts / MINUTE_S:.1f} min from minute {minutes:.1f} on: nobody was there to log",
    )


def seen_placing(state: LaneState) -> float | None:
    """When the meter saw the phone placed [s]; None where it did not."""
    newest = state.last.get("watts")
    if newest is None or newest[1] < state.lowest_w + LEAST_JUMP_W:
        return None
    # A placing that was taken back is not seen again.
    from_s = max(state.newest_s - PLACING_SEEN_S, state.not_placed_s)
    # Finely where that is still at hand; else by the steps of the ribbon, which go back to the beginning.
    for steps in (state.fine, state.watts):
        times, watts = steps.arrays()
        later = times > from_s
        if later.sum() < 3:
            continue
        with suppress(CannotRead):
            at_s = latest_rise(power_trace(times[later], watts[later]))
            if at_s is not None and state.newest_s - at_s >= LASTING_S and at_s > times[later][0]:
                return at_s
    return None


def seen_of(state: LaneState, at: dt.datetime, shared: bool = False) -> Seen:
    """State of a lane for the alarm rules."""
    lane, card, chain = state.lane, state.lane.card, state.lane.chain
    times, watts = state.fine.arrays()
    heat_s, celsius = state.phone_heat()
    percents = state.percents
    volts = state.last.get("volts")
    placed = lane.placed_s
    began = next((p for t, p in percents if placed is None or t >= placed - 1.0), card.starts_at)
    return Seen(
        now_s=state.now_s(at),
        placed_s=placed,
        time_s=times,
        watts=watts,
        heat_s=heat_s,
        celsius=celsius,
        percents=percents,
        expected_w=None if shared else chain.least_w,
        class_w=chain.class_w,
        no_load_w=no_load_w(state),
        volts=None if volts is None else volts[1],
        expected_v=None if shared else chain.volts,
        metered=bool(lane.meter_address) or len(times) > 2,
        probed=bool(lane.probe_address) or bool(state.heat),
        silent_s=silent_limit_s(state.spacing_s, lane.speed),
        start_percent=began,
        ends_at=card.ends_at,
        soak=card.end == "soak after full",
        off=state.off or shared,
        known=SoFar() if lane.kind in PACK_ALONE else known_of(state, state.now_s(at), no_load_w(state), shared),
        kind=lane.kind,
        reported_s=state.reported[-1][0] if state.reported else None,
        report_every_s=report_every_s(list(state.latest_reports)),
        beside=_beside(state),
    )
