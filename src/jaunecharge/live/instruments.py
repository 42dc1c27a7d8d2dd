"""Asking instruments, and listening to those that tell by themselves: a thread for each address, its readings handed to
every lane that hangs on it."""

import time
import uuid
from collections.abc import Callable, Mapping
from concurrent.futures import Future
from dataclasses import dataclass

from ..core.errors import CannotRead
from ..core.kit import Mqtt, Role, Serial, address_of
from ..core.log import BOUNDS, METER, SOCKET
from ..instruments.errors import InstrumentError, OverRange
from ..instruments.scpi import Scpi
from ..store.bench.arriving import Batch, Row
from .figure_lines import FigureLines, writes_lines
from .figures import Figures
from .inbox import Inbox, Outcome
from .spool import SpoolFull
from .topic_figures import TopicFigures
from .worker import Turn, Worker

MOST_EVERY_S, LEAST_EVERY_S = 1.0, 0.1
POWER: frozenset[Role] = frozenset({"meter", "socket"})
LANE_SECONDS = 6.0
"""A lane that runs faster than the wall's clock is asked at least once in so many of its own seconds, where it can."""

WAIT_AFTER_FAULT_S = 0.5
OVER_EVERY_S = 5.0
"""A stand-in is asked so often whether it has played all that there is."""


def every_s(speed: float) -> float:
    """Seconds between two questions to an instrument, for a lane of a speed."""
    return min(MOST_EVERY_S, max(LEAST_EVERY_S, LANE_SECONDS / speed))


Roles = frozenset[Role]


@dataclass(frozen=True)
class Asked:
    """Questions for one address, how often, and for which lanes: id, and what the instrument measures there."""

    address: str
    lanes: tuple[tuple[uuid.UUID, Roles], ...]
    speed: float
    stand_in: bool = False

    @property
    def roles(self) -> Roles:
        """All that it measures, on whichever lane."""
        return frozenset[Role]().union(*(roles for _, roles in self.lanes))

    @property
    def power(self) -> bool:
        """Whether it measures power."""
        return bool(self.roles & POWER)


class Poller:
    """Asks one address until it is stopped."""

    def __init__(self, asked: Asked, inbox: Inbox, lane_s: Callable[[uuid.UUID], float | None]) -> None:
        self.asked, self._inbox, self._lane_s = asked, inbox, lane_s
        self.fault, self.played_out = "", False
        self.worker = Worker(f"asks {asked.address}", f"the instrument at {asked.address} is not asked", self._run)

    def start(self) -> "Poller":
        """Begin to ask."""
        self.worker.start()
        return self

    def stop(self) -> None:
        """Ask no more; the question that is under way is not waited for."""
        self.worker.stop(0.0)

    def _run(self, turn: Turn) -> None:
        instrument: Instrument | None = None
        boot, number, over_asked = uuid.uuid4().hex, 0, 0.0
        try:
            while not turn.wait(every_s(self.asked.speed) if isinstance(instrument, Scpi | None) else 0.0):
                try:
                    if instrument is None:
                        instrument = instrument_at(self.asked.address, "watts" if self.asked.power else "celsius")
                    if isinstance(instrument, Scpi):
                        heard = [self._read(instrument)]
                        if self.asked.stand_in and time.monotonic() - over_asked > OVER_EVERY_S:
                            over_asked = time.monotonic()
                            self.played_out = instrument.ask("SIM:OVER?") == "1"
                    else:
                        heard = instrument.read()
                except (InstrumentError, CannotRead) as error:
                    self.fault = str(error)
                    turn.wait(WAIT_AFTER_FAULT_S)
                    continue
                self.fault = ""
                stored = self._hand_on(heard, number, boot)
                number += len(heard)
                if isinstance(instrument, TopicFigures):
                    acknowledge(instrument, heard, stored)
        finally:
            if instrument is not None:
                instrument.close()

    def _hand_on(self, heard: list[Figures], number: int, boot: str) -> Future[Outcome] | None:
        """Hand readings to every lane; what becomes of the last one's, which is settled after all others, and never of
        what found no room.
        """
        last = None
        for lane, roles in self.asked.lanes:
            rows = [
                row
                for n, f in enumerate(heard)
                if (row := row_of(f, number + n, None if f.at_s is None else f.at_s * self.asked.speed, roles))
            ]
            at = self._lane_s(lane)
            if rows and at is not None:
                batch = Batch(lane, self.asked.address, at, tuple(rows), self.asked.speed, boot)
                try:
                    last = self._inbox.put(batch)
                except SpoolFull as error:
                    self.fault = str(error)
                    return Future()
        return last

    def _read(self, instrument: Scpi) -> Figures:
        volts = amps = celsius = None
        if self.asked.power:
            volts, amps = instrument.volts(), instrument.amps()
        if self.asked.roles - POWER:
            try:
                celsius = instrument.celsius()
            except OverRange:
                if not self.asked.power:
                    raise
        return Figures(None, volts, amps, None, celsius)


def row_of(figures: Figures, n: int, clock_s: float | None, roles: Roles) -> Row | None:
    """A reading for a lane: what an instrument measures there, and no more; None where that is nothing.

    A plug's own temperature is neither the phone's nor the room's; nor is the phone at the socket.
    """
    f, at_phone = figures, bool(roles & {"meter", "probe"})
    place = ("back" if at_phone else "room" if "room" in roles else "") if f.celsius is not None else ""
    row = Row(
        n, clock_s,
        *((f.volts, f.amps, f.watts) if roles & POWER else (None, None, None)),
        celsius=f.celsius if place else None, position=place, percent=f.percent if at_phone else None,
        point=SOCKET if "socket" in roles and "meter" not in roles else METER,
        humidity=f.humidity,
    )  # fmt: skip
    return row if any(getattr(row, name) is not None for name in BOUNDS) else None


def acknowledge(topic: TopicFigures, heard: list[Figures], stored: Future[Outcome] | None) -> None:
    """Have the broker forget messages once they are stored, or wait on disk."""
    if stored is None:
        topic.acknowledge(heard)
    else:
        stored.add_done_callback(lambda _: topic.acknowledge(heard))


Instrument = Scpi | FigureLines | TopicFigures


def instrument_at(address: str, plain: str = "watts", lasting: bool = True) -> Instrument:
    """The instrument at an address: what is asked by SCPI, or what writes lines or publishes by itself.

    plain : what a topic's bare number is; lasting : whether its broker keeps what is published while nobody listens.

    Raises
    ------
    NotReached
        If that is to be found out by listening, and nobody is there.
    CannotRead
        If it is no address.
    """
    where = address_of(address)
    if isinstance(where, Mqtt):
        return TopicFigures(address, plain, lasting)
    speaks = where.speaks if isinstance(where, Serial) else "scpi"
    if speaks == "":
        speaks = "csv" if writes_lines(address) else "scpi"
    return FigureLines(address) if speaks == "csv" else Scpi(address)


@dataclass(frozen=True)
class Hangs:
    """A lane and what it hangs on: addresses by role, its speed, whether a stand-in plays there."""

    lane: uuid.UUID
    addresses: Mapping[Role, str]
    speed: float
    stand_in: bool = False

    def roles_of(self, address: str) -> Roles:
        """All that the instrument at an address measures on this lane."""
        return frozenset(role for role, at in self.addresses.items() if at == address)


def wanted(lanes: list[Hangs]) -> dict[str, Asked]:
    """Questions for each address."""
    asked: dict[str, Asked] = {}
    for address in sorted({a for x in lanes for a in x.addresses.values() if a}):
        mine = [(x, roles) for x in lanes if (roles := x.roles_of(address))]
        asked[address] = Asked(
            address,
            tuple((x.lane, roles) for x, roles in mine),
            max(x.speed for x, _ in mine),
            any(x.stand_in and "meter" in roles for x, roles in mine),
        )
    return asked
