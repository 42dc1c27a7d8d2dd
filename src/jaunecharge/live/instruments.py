"""Asking instruments: a thread for each address, its readings handed to every lane that hangs on it."""

import threading
import uuid
from collections.abc import Callable
from dataclasses import dataclass, field

from ..instruments.scpi import InstrumentError, OverRange, Scpi
from ..store.bench import Batch, Row
from .inbox import Inbox

MOST_EVERY_S, LEAST_EVERY_S = 1.0, 0.1
LANE_SECONDS = 6.0
"""A lane that runs faster than the wall's clock is asked at least once in so many of its own seconds, where it can."""

WAIT_AFTER_FAULT_S = 0.5


def every_s(speed: float) -> float:
    """Seconds between two questions to an instrument, for a lane of a speed."""
    return min(MOST_EVERY_S, max(LEAST_EVERY_S, LANE_SECONDS / speed))


@dataclass(frozen=True)
class Asked:
    """What one address is asked for, how often, and for which lanes: (id, opened at, speed)."""

    address: str
    meter: bool
    probe: bool
    lanes: tuple[uuid.UUID, ...]
    speed: float


@dataclass
class Poller:
    """Asks one address until it is stopped."""

    asked: Asked
    inbox: Inbox
    lane_s: Callable[[uuid.UUID], float | None]
    fault: str = ""
    answered: int = 0
    _over: threading.Event = field(default_factory=threading.Event)
    _thread: threading.Thread | None = None

    def start(self) -> "Poller":
        """Begin to ask."""
        self._thread = threading.Thread(target=self._run, name=f"asks {self.asked.address}", daemon=True)
        self._thread.start()
        return self

    def stop(self) -> None:
        """Ask no more."""
        self._over.set()

    def join(self) -> None:
        """Wait until the last question is over."""
        if self._thread is not None:
            self._thread.join(10)

    def _run(self) -> None:
        instrument = Scpi(self.asked.address)
        boot, number = uuid.uuid4().hex, 0
        try:
            while not self._over.wait(every_s(self.asked.speed)):
                try:
                    row = self._read(instrument, number)
                except InstrumentError as error:
                    self.fault = str(error)
                    self._over.wait(WAIT_AFTER_FAULT_S)
                    continue
                self.fault = ""
                self.answered += 1
                number += 1
                for lane in self.asked.lanes:
                    at = self.lane_s(lane)
                    if at is not None:
                        self.inbox.put(Batch(lane, self.asked.address, at, (row,), self.asked.speed, boot))
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


def wanted(lanes: list[tuple[uuid.UUID, str, str, float]]) -> dict[str, Asked]:
    """What is asked of each address: lanes as (id, address of the meter, of the probe, speed)."""
    found: dict[str, Asked] = {}
    for address in sorted({a for _, meter, probe, _ in lanes for a in (meter, probe) if a}):
        mine = [lane for lane in lanes if address in lane[1:3]]
        found[address] = Asked(
            address,
            any(meter == address for _, meter, _, _ in mine),
            any(probe == address for _, _, probe, _ in mine),
            tuple(lane for lane, *_ in mine),
            max(speed for *_, speed in mine),
        )
    return found
