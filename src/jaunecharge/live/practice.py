"""Practice: stand-ins in the place of meter, probe and phone, so that the bench can be tried without any of them."""

import contextlib
import threading
import time
import uuid
from dataclasses import dataclass

from ..core.chain import Chain
from ..core.presets import prepare
from ..core.surroundings import Circumstances
from ..instruments.playback import Playback
from ..instruments.pusher import Pusher
from ..instruments.scpi import InstrumentError, Scpi
from ..instruments.standins import MAKER, StandIn

ASKED_WITHIN_S = 1.0
REPORTS_EVERY_S = 0.5


@dataclass(frozen=True)
class Stand:
    """What answers at an address: a stand-in that plays at a speed."""

    speed: float


def stand_in_at(address: str) -> Stand | None:
    """The stand-in that answers at an address; None where a real instrument does, or nobody."""
    instrument = Scpi(address, ASKED_WITHIN_S)
    with contextlib.closing(instrument), contextlib.suppress(InstrumentError, ValueError):
        found = instrument.identify()
        if found.maker == MAKER and found.model.startswith("stand-in"):
            return Stand(float(instrument.ask("SIM:SPEED?")))
    return None


def place_at(address: str) -> bool:
    """Have a stand-in put its phone on the charger; whether it has done so just now."""
    if stand_in_at(address) is None:
        return False
    instrument = Scpi(address, ASKED_WITHIN_S)
    with contextlib.closing(instrument), contextlib.suppress(InstrumentError):
        if instrument.ask("SIM:PLACED?") == "1":
            return False
        instrument.tell("SIM:PLACE")
        return instrument.ask("SIM:PLACED?") == "1"
    return False


def played_out(address: str) -> bool:
    """Whether a stand-in has played all that there is; no for a real instrument."""
    if stand_in_at(address) is None:
        return False
    instrument = Scpi(address, ASKED_WITHIN_S)
    with contextlib.closing(instrument), contextlib.suppress(InstrumentError):
        return instrument.ask("SIM:OVER?") == "1"
    return False


class Practice:
    """The stand-ins that this process runs."""

    def __init__(self) -> None:
        self._stands: list[StandIn] = []
        self._playbacks: dict[str, Playback] = {}
        self._pushers: dict[uuid.UUID, Pusher] = {}
        self._lock = threading.Lock()

    def stand(self, chain: Chain, around: Circumstances, speed: float, seed: int = 1) -> str:
        """Start a meter and probe that play this chain; their address.

        Raises
        ------
        CannotRead
        """
        playback = Playback(prepare(chain, around).scenario, time.monotonic, speed, seed)
        made = StandIn(playback, "both", seed=seed).start()
        with self._lock:
            self._stands.append(made)
            self._playbacks[made.address] = playback
        return made.address

    def report(self, address: str, server: str, lane: uuid.UUID, token: str) -> None:
        """Have the phone that a stand-in plays report its percentage to a lane."""
        with self._lock:
            pusher = Pusher(self._playbacks[address], server, str(lane), token, "percent", REPORTS_EVERY_S)
            self._pushers[lane] = pusher.start()

    def stop(self) -> None:
        """Stop them all."""
        with self._lock:
            for pusher in self._pushers.values():
                pusher.stop(0.1)
            for made in self._stands:
                made.stop()
            self._stands, self._pushers = [], {}
