"""Asking instruments: a thread for each address, its readings handed to every lane that hangs on it."""

import contextlib
import time
import uuid
from collections.abc import Callable
from dataclasses import dataclass

from ..instruments.scpi import InstrumentError, OverRange, Scpi
from ..store.bench.arriving import Batch, Row
from .inbox import Inbox
from .spool import SpoolFull
from .worker import Turn, Worker

MOST_EVERY_S, LEAST_EVERY_S = 1.0, 0.1
LANE_SECONDS = 6.0
"""A lane that runs faster than the wall's clock is asked at least once in so many of its own seconds, where it can."""

WAIT_AFTER_FAULT_S = 0.5
OVER_EVERY_S = 5.0
"""A stand-in is asked so often whether it has played all that there is."""


def every_s(speed: float) -> float:
    """Seconds between two questions to an instrument, for a lane of a speed."""
    return min(MOST_EVERY_S, max(LEAST_EVERY_S, LANE_SECONDS / speed))


@dataclass(frozen=True)
class Asked:
    """Questions for one address, how often, and for which lanes: (id, opened at, speed)."""

    address: str
    meter: bool
    probe: bool
    lanes: tuple[uuid.UUID, ...]
    speed: float
    stand_in: bool = False


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
        instrument = Scpi(self.asked.address)
        boot, number, over_asked = uuid.uuid4().hex, 0, 0.0
        try:
            while not turn.wait(every_s(self.asked.speed)):
                try:
                    row = self._read(instrument, number)
                    if self.asked.stand_in and time.monotonic() - over_asked > OVER_EVERY_S:
                        over_asked = time.monotonic()
                        self.played_out = instrument.ask("SIM:OVER?") == "1"
                except InstrumentError as error:
                    self.fault = str(error)
                    turn.wait(WAIT_AFTER_FAULT_S)
                    continue
                self.fault = ""
                number += 1
                for lane in self.asked.lanes:
                    at = self._lane_s(lane)
                    if at is not None:
                        batch = Batch(lane, self.asked.address, at, (row,), self.asked.speed, boot)
                        with contextlib.suppress(SpoolFull):
                            self._inbox.put(batch)
        finally:
            instrument.close()

    def _read(self, instrument: Scpi, number: int) -> Row:
        volts = amps = celsius = None
        if self.asked.meter:
            volts, amps = instrument.volts(), instrument.amps()
        if self.asked.probe:
            try:
                celsius = instrument.celsius()
            except OverRange:
                if not self.asked.meter:
                    raise
        return Row(number, None, volts, amps, None, celsius, "back" if celsius is not None else "", None)


@dataclass(frozen=True)
class Hangs:
    """A lane and what it hangs on: addresses of its meter and probe, its speed, whether a stand-in plays there."""

    lane: uuid.UUID
    meter: str
    probe: str
    speed: float
    stand_in: bool = False


def wanted(lanes: list[Hangs]) -> dict[str, Asked]:
    """Questions for each address."""
    asked: dict[str, Asked] = {}
    for address in sorted({a for x in lanes for a in (x.meter, x.probe) if a}):
        mine = [x for x in lanes if address in (x.meter, x.probe)]
        asked[address] = Asked(
            address,
            any(x.meter == address for x in mine),
            any(x.probe == address for x in mine),
            tuple(x.lane for x in mine),
            max(x.speed for x in mine),
            any(x.stand_in and x.meter == address for x in mine),
        )
    return asked
