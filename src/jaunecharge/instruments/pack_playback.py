"""A simulated pack on an electronic load, played like a real one: the load can be set while it runs."""

import threading
from collections.abc import Sequence

import numpy as np

from ..core.errors import CannotRead
from ..core.packs import LAMPS
from ..core.simulator import Load, PackOnLoad, PackScenario
from .playback import AMP_NOISE, FASTEST, PROBE_NOISE_K, SLOWEST, VOLT_NOISE, Clock, Reading

STEP_S = 1.0
OVER_AFTER_S = 60.0
UNITS = {"A": "A", "W": "W", "OHM": "ohm"}

Program = Sequence[tuple[float, Load]]
"""Loads in order: seconds, load; the last lasts."""


def load_of(text: str) -> Load:
    """A load as it is ordered: `2A`, `10W`, `5OHM`, `OFF`.

    Raises
    ------
    CannotRead
    """
    words = text.strip().upper().replace(" ", "").replace("Ω", "OHM")
    if words in {"OFF", "0"}:
        return Load()
    for ending, unit in (("OHM", "ohm"), ("A", "A"), ("W", "W")):
        if words.endswith(ending):
            try:
                value = float(words.removesuffix(ending))
            except ValueError:
                break
            if 0 <= value <= 1000:
                return Load(value, unit)  # type: ignore[arg-type]
    raise CannotRead(f"“{text[:20]}” is no load", "write 2A, 10W, 5OHM or OFF", file="load")


class PackPlayback:
    """A pack played at a speed. Before `place` nothing is drawn; then the program of the load runs, until a load is set
    by hand.

    `clock` gives seconds of real time; the playback's own seconds run `speed` times as fast.
    """

    def __init__(
        self, scenario: PackScenario, program: Program, clock: Clock, speed: float = 1.0, seed: int = 1
    ) -> None:
        if not SLOWEST <= speed <= FASTEST:
            raise ValueError(f"a speed lies between {SLOWEST:g} and {FASTEST:g}")
        self.pack, self.speed = PackOnLoad(scenario), speed
        self._program = tuple(program)
        self._by_hand: Load | None = None
        self._clock, self._began = clock, clock()
        self._placed: float | None = None
        self._played = self._off_s = 0.0
        self._shown = (scenario.output_v, 0.0)
        self._noise = np.random.default_rng(seed)
        self._lock = threading.Lock()

    @property
    def seconds(self) -> float:
        """Seconds of the bench since the playback began."""
        return (self._clock() - self._began) * self.speed

    def place(self) -> None:
        """Switch the load on."""
        with self._lock:
            if self._placed is None:
                self._advance()
                self._placed = self._played

    @property
    def placed(self) -> bool:
        """Whether the load was switched on."""
        return self._placed is not None

    @property
    def over(self) -> bool:
        """Whether the pack is empty, and was for a minute."""
        with self._lock:
            self._advance()
        return self.pack.empty and self._off_s > OVER_AFTER_S

    def set_load(self, load: Load) -> None:
        """Set the load by hand; the program is left."""
        with self._lock:
            self._advance()
            self._by_hand = load
            if self._placed is None and load.value > 0:
                self._placed = self._played

    def order(self, event: str) -> bool:
        """Something happens to the pack: BUTTON, LETGO, HOT or EMPTY; whether it is known."""
        with self._lock:
            self._advance()
            match event.strip().upper():
                case "BUTTON":
                    self.pack.press()
                case "LETGO":
                    self.pack.let_go()
                case "HOT":
                    self.pack.celsius = 51.0
                case "EMPTY":
                    self.pack.left_wh = 0.0
                case _:
                    return False
        return True

    def _load(self, since: float) -> Load:
        if self._by_hand is not None:
            return self._by_hand
        for seconds, load in self._program:
            if since < seconds:
                return load
            since -= seconds
        return self._program[-1][1] if self._program else Load()

    def _advance(self) -> None:
        now = self.seconds
        while self._played + STEP_S <= now:
            load = Load() if self._placed is None else self._load(self._played - self._placed)
            self._shown = self.pack.step(STEP_S, load)
            self._played += STEP_S
            self._off_s = 0.0 if self.pack.on else self._off_s + STEP_S

    def read(self) -> Reading:
        """Values just now."""
        with self._lock:
            self._advance()
            volts, amps = self._shown
            volts_noise, amps_noise, probe_noise = self._noise.normal(0.0, 1.0, 3)
            celsius, room = self.pack.celsius, self.pack.scenario.ambient_c
        return Reading(
            max(0.0, volts + VOLT_NOISE * volts_noise) if volts else 0.0,
            max(0.0, amps + AMP_NOISE * amps_noise) if amps else 0.0,
            celsius + PROBE_NOISE_K * probe_noise,
            room,
            float(np.ceil(self.pack.percent)),
        )

    @property
    def lamps(self) -> int:
        """Lamps that its gauge shows, of four."""
        return int(np.ceil(self.pack.percent / 100.0 * LAMPS))
