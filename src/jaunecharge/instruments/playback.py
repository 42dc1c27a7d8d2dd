"""A simulated charge played like a real one: nothing lies on the charger until it is placed, then time runs."""

import threading
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from ..core.arrays import Array
from ..core.simulator import Scenario, Simulated, room_c, simulate

SLOWEST, FASTEST = 1.0, 120.0
CABLE_OHM = 0.12
VOLT_NOISE, AMP_NOISE, PROBE_NOISE_K = 0.003, 0.003, 0.05

Clock = Callable[[], float]


@dataclass(frozen=True)
class Reading:
    """Values that instruments and phone would show: volts [V], amps [A], back of the phone and room [°C],
    percentage.
    """

    volts: float
    amps: float
    back_c: float
    room_c: float
    percent: float


class Playback:
    """A scenario played at a speed. Before `place` the phone lies beside the charger, as cool as the room.

    `clock` gives seconds of real time; the playback's own seconds run `speed` times as fast.
    """

    def __init__(self, scenario: Scenario, clock: Clock, speed: float = 1.0, seed: int = 1) -> None:
        if not SLOWEST <= speed <= FASTEST:
            raise ValueError(f"a speed lies between {SLOWEST:g} and {FASTEST:g}")
        self.scenario, self.speed = scenario, speed
        self.charge: Simulated = simulate(scenario)
        self._room: Array = np.asarray(room_c(scenario, np.arange(float(len(self.charge.power_w)))))
        self._clock, self._began = clock, clock()
        self._placed: float | None = None
        self._noise = np.random.default_rng(seed)
        self._lock = threading.Lock()

    @property
    def seconds(self) -> float:
        """Seconds of the bench since the playback began."""
        return (self._clock() - self._began) * self.speed

    def place(self) -> None:
        """Put the phone on the charger; once it lies there it stays."""
        with self._lock:
            if self._placed is None:
                self._placed = self.seconds

    @property
    def placed(self) -> bool:
        """Whether the phone lies on the charger."""
        return self._placed is not None

    @property
    def over(self) -> bool:
        """Whether all was played."""
        return self._placed is not None and self._index() == len(self.charge.power_w) - 1

    def _index(self) -> int:
        if self._placed is None:
            return 0
        since = self.scenario.placed_s + self.seconds - self._placed
        return min(int(since), len(self.charge.power_w) - 1)

    def read(self) -> Reading:
        """Values just now."""
        with self._lock:
            i = self._index()
            volts_noise, amps_noise, probe_noise = self._noise.normal(0.0, 1.0, 3)
        power = float(self.charge.power_w[i])
        amps = power / self.scenario.volts
        volts = self.scenario.volts - CABLE_OHM * amps
        return Reading(
            volts + VOLT_NOISE * volts_noise,
            max(0.0, power / volts + AMP_NOISE * amps_noise),
            float(self.charge.phone_c[i]) + PROBE_NOISE_K * probe_noise,
            float(self._room[min(i, len(self._room) - 1)]),
            float(self.charge.shown[i]),
        )
