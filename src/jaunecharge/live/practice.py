"""Practice: stand-ins in the place of meter, probe and phone, so that the bench can be tried without any of them."""

import contextlib
import threading
import time
import uuid
from collections.abc import Set
from dataclasses import dataclass
from pathlib import Path

from ..core.chain import Chain
from ..core.kit import Pack, Tcp, address_of
from ..core.simulator import Circumstances, prepare, program_of, scenario_of
from ..instruments.errors import InstrumentError
from ..instruments.pack_playback import PackPlayback
from ..instruments.playback import Playback
from ..instruments.pusher import Pusher
from ..instruments.scpi import Scpi
from ..instruments.standins import MAKER, StandIn

ASKED_WITHIN_S = 1.0
GETS_ITS_LANE_S = 30.0
REPORTS_EVERY_S = 0.5


@dataclass(frozen=True)
class Stand:
    """Stand-in behind an address: a stand-in that plays at a speed."""

    speed: float


def stand_in_at(address: str) -> Stand | None:
    """The stand-in that answers at an address; None where a real instrument does, or nobody."""
    if not isinstance(address_of(address), Tcp):
        return None  # No stand-in is looked for where a port would have to be taken for it.
    instrument = Scpi(address, ASKED_WITHIN_S)
    with contextlib.closing(instrument), contextlib.suppress(InstrumentError, ValueError):
        identity = instrument.identify()
        if identity.maker == MAKER and identity.model.startswith("stand-in"):
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


class Practice:
    """The stand-ins that this process runs: each as long as a lane hangs on it.

    trusts : the certificate of the application itself, where it was made by hand.
    """

    def __init__(self, trusts: Path | None = None) -> None:
        self._trusts = trusts
        self._stands: dict[str, tuple[StandIn, Playback | PackPlayback, float]] = {}
        self._pushers: dict[str, list[Pusher]] = {}
        self._lock = threading.Lock()

    def stand(self, chain: Chain, around: Circumstances, speed: float, seed: int = 1) -> str:
        """Start a meter and probe that play this chain; their address.

        Raises
        ------
        CannotRead
        """
        playback = Playback(prepare(chain, around).scenario, time.monotonic, speed, seed)
        stand_in = StandIn(playback, "both", seed=seed).start()
        with self._lock:
            self._stands[stand_in.address] = stand_in, playback, time.monotonic()
        return stand_in.address

    def stand_pack(self, pack: Pack, steps: bool, speed: float, seed: int = 1) -> str:
        """Start a meter and probe between a pack of the shelf and an electronic load; their address.

        steps : whether the load rises until the pack lets go, else one load until it is empty.
        """
        scenario = scenario_of(pack, seed)
        playback = PackPlayback(scenario, program_of(scenario, steps), time.monotonic, speed, seed)
        stand_in = StandIn(playback, "both", seed=seed).start()
        with self._lock:
            self._stands[stand_in.address] = stand_in, playback, time.monotonic()
        return stand_in.address

    def report(self, address: str, server: str, lane: uuid.UUID, token: str) -> None:
        """Have the phone that a stand-in plays report its percentage to a lane."""
        with self._lock:
            _, playback, _ = self._stands[address]
            if isinstance(playback, PackPlayback):
                return  # A pack tells nobody how full it is.
            pusher = Pusher(
                playback, server, str(lane), token, "percent", REPORTS_EVERY_S, trusts=self._trusts
            )  # fmt: skip
            self._pushers.setdefault(address, []).append(pusher.start())

    def tidy(self, used: Set[str]) -> None:
        """End the stand-ins on which no lane hangs any more; one that was just made is given time to get its lane."""
        now = time.monotonic()
        with self._lock:
            gone = [a for a, (*_, made_at) in self._stands.items() if a not in used and now - made_at > GETS_ITS_LANE_S]
            ended = [(self._stands.pop(a)[0], self._pushers.pop(a, [])) for a in gone]
        for stand_in, pushers in ended:
            for pusher in pushers:
                pusher.stop(0.1)
            stand_in.stop()

    def __len__(self) -> int:
        return len(self._stands)

    def stop(self) -> None:
        """Stop them all."""
        with self._lock:
            ended = [(stand_in, self._pushers.get(a, [])) for a, (stand_in, *_) in self._stands.items()]
            self._stands, self._pushers = {}, {}
        for stand_in, pushers in ended:
            for pusher in pushers:
                pusher.stop(0.1)
            stand_in.stop()
