"""A simulated pack under an electronic load: cells, a converter whose efficiency depends on the load, a source
resistance, protection, cut-off, sleep; second by second, for stand-ins and tests.

Its figures are invented to be likely; what it plays is no pack that anybody sells.
"""

from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from ..kit.items import Pack
from ..units import HOUR_S, battery_wh

LoadUnit = Literal["A", "W", "ohm"]
Back = Literal["by itself", "by its button", "when the load was taken off"]

FIXED_LOSS_W, SHARE_LOSS, SQUARE_LOSS = 0.25, 0.06, 0.0012
"""Of the converter: what it always takes, a part of the load, and what grows with its square (from memory: some 80 to
94 %)."""

BACK_AFTER_S = 12.0
EMPTY_SHARE = 0.02


@dataclass(frozen=True)
class Load:
    """An electronic load: so many amps, watts or ohms; 0 amps: nothing drawn."""

    value: float = 0.0
    unit: LoadUnit = "A"

    def amps(self, open_v: float, ohm: float) -> float:
        """Current drawn from a source of `open_v` [V] with a resistance of `ohm` [Ω]: [A]."""
        if self.value <= 0 or open_v <= 0:
            return 0.0
        if self.unit == "A":
            return self.value
        if self.unit == "ohm":
            return open_v / (self.value + ohm)
        inside = open_v**2 - 4.0 * ohm * self.value
        return (open_v - inside**0.5) / (2.0 * ohm) if inside > 0 and ohm > 0 else self.value / open_v


@dataclass(frozen=True)
class PackScenario:
    """A pack: what is printed (mAh at V of its cells), what is in it as a share of that, the volts of its output, its
    resistance [Ω], the current at which it lets go [A], how it comes back, under which load and after how long it
    sleeps, and what it loses by itself a day, as a share."""

    rated_mah: float = 10_000.0
    cell_v: float = 3.7
    health: float = 0.93
    output_v: float = 5.1
    ohm: float = 0.06
    lets_go_a: float = 3.6
    back: Back = "by its button"
    sleep_a: float = 0.06
    sleep_after_s: float = 35.0
    ambient_c: float = 23.0
    kelvin_per_w: float = 6.0
    minutes_to_warm: float = 18.0
    lost_a_day: float = 0.0015

    @property
    def cells_wh(self) -> float:
        """Energy in its cells when full [Wh]."""
        return battery_wh(self.rated_mah, self.cell_v) * self.health


@dataclass
class PackOnLoad:
    """A pack as it stands: energy left [Wh], whether its output is on, how warm it is [°C]."""

    scenario: PackScenario
    left_wh: float = field(default=0.0)
    on: bool = True
    celsius: float = field(default=0.0)
    empty: bool = False
    _off_s: float = 0.0
    _small_s: float = 0.0

    def __post_init__(self) -> None:
        self.left_wh = self.left_wh or self.scenario.cells_wh
        self.celsius = self.celsius or self.scenario.ambient_c

    @property
    def percent(self) -> float:
        """Energy left [%]."""
        return 100.0 * max(0.0, self.left_wh) / self.scenario.cells_wh

    def step(self, seconds: float, load: Load) -> tuple[float, float]:
        """So many seconds more under a load: volts and amps at the output."""
        s = self.scenario
        if not self.on:
            self._come_back(seconds, load)
        amps = load.amps(s.output_v, s.ohm) if self.on else 0.0
        if amps > s.lets_go_a:
            self.on, self._off_s, amps = False, 0.0, 0.0
        volts = s.output_v - s.ohm * amps if self.on else 0.0
        out_w = volts * amps
        lost_w = FIXED_LOSS_W + SHARE_LOSS * out_w + SQUARE_LOSS * out_w**2 if self.on else 0.0
        self.left_wh -= (out_w + lost_w) * seconds / HOUR_S
        warm = s.ambient_c + s.kelvin_per_w * lost_w
        self.celsius += (warm - self.celsius) * min(1.0, seconds / (s.minutes_to_warm * 60.0))
        self._sleep(seconds, amps)
        if self.on and self.left_wh <= EMPTY_SHARE * s.cells_wh:
            self.on, self.empty = False, True
        return volts, amps

    def press(self) -> None:
        """Press its button."""
        self.on = not self.empty
        self._small_s = 0.0

    def let_go(self) -> None:
        """Have its protection let go."""
        self.on, self._off_s = False, 0.0

    def idle(self, days: float) -> None:
        """Leave it unused."""
        self.left_wh *= (1.0 - self.scenario.lost_a_day) ** days

    def _sleep(self, seconds: float, amps: float) -> None:
        small = self.on and 0.0 < amps < self.scenario.sleep_a
        self._small_s = self._small_s + seconds if small else 0.0
        if self._small_s > self.scenario.sleep_after_s:
            self.on, self._off_s = False, 0.0

    def _come_back(self, seconds: float, load: Load) -> None:
        self._off_s += seconds
        back = self.scenario.back
        unloaded = back == "when the load was taken off" and load.value == 0
        if not self.empty and (unloaded or (back == "by itself" and self._off_s >= BACK_AFTER_S)):
            self.on, self._small_s = True, 0.0


QUARTER_H, STEP_MIN, STEP_A = 0.25, 3.0, 0.5
USUAL_WH = 37.0


def scenario_of(pack: Pack, seed: int = 1) -> PackScenario:
    """A likely pack of the shelf: a little less in it than is printed, its highest output, a protection somewhat above
    or below what that is rated at. Of one label it is always the same."""
    rng = np.random.default_rng([seed, *pack.label.encode()])
    best = max(pack.outputs, key=lambda p: p.watts, default=None)
    volts, amps = (5.0, 2.4) if best is None else (best.volts, best.amps)
    return PackScenario(
        rated_mah=pack.rated_mah, cell_v=pack.cell_v, health=float(rng.uniform(0.84, 0.97)), output_v=volts * 1.02,
        ohm=float(rng.uniform(0.03, 0.11)), lets_go_a=amps * float(rng.uniform(0.85, 1.25)),
        # A larger pack has more surface: it grows with the two thirds of what is in it.
        kelvin_per_w=PackScenario.kelvin_per_w * (USUAL_WH / pack.rated_wh) ** (2 / 3),
    )  # fmt: skip


def program_of(scenario: PackScenario, steps: bool) -> list[tuple[float, Load]]:
    """Loads in order: seconds, load. steps : half an ampere more every three minutes; else one load, a quarter of what
    is printed an hour and no more than it holds."""
    if not steps:
        watts = battery_wh(scenario.rated_mah, scenario.cell_v) * QUARTER_H
        return [(0.0, Load(min(watts, 0.8 * scenario.lets_go_a * scenario.output_v), "W"))]
    count = int(scenario.lets_go_a / STEP_A) + 2
    return [(STEP_MIN * 60.0, Load(STEP_A * (n + 1))) for n in range(count)]
