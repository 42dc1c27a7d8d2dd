"""Pairs of chargers whose difference is known, simulated as they would be run: by the battery curve of the simulator,
with the run-to-run spread of real runs, seen through check-ins as a tester makes them."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from scipy.stats import binom

from jaunecharge.core.chain.check import Chain
from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.core.log.check_ins import CheckIns
from jaunecharge.core.noise import CHAMBER_SPREAD, ROOM_SPREAD, Spread, interval_variance, resolvable
from jaunecharge.core.simulator.circumstances import Circumstances
from jaunecharge.core.simulator.scenario import prepare
from jaunecharge.core.simulator.simulate import simulate
from jaunecharge.core.versus.compare import versus
from jaunecharge.core.versus.contender import Contender, Course
from jaunecharge.core.versus.window import lap

CHAINS = (
    ("phone Alder 4400mAh mpp medium magnets", "puck Disc mpp asks 9V2.22A", "adapter Plug 20W"),
    ("phone Birch 3300mAh mpp@12 small magnets", "puck Disc mpp asks 9V2.22A", "adapter Plug 20W"),
    ("phone Cedar 5000mAh bpp large", "charger Pad bpp asks 5V2A agrees:5v", "adapter Plug 10W"),
    ("phone Elder 4000mAh epp medium", "charger Plate epp asks 9V2A", "adapter Plug 18W"),
)  # fmt: skip
METHODS = ((1, 10.0, False), (1, 5.0, False), (2, 10.0, False), (3, 10.0, False), (3, 15.0, False), (1, 1.0, True))
"""Runs a side, minutes between check-ins, and whether in a chamber with a continuous log."""

WINDOWS = ((10.0, 80.0), (10.0, 100.0), (20.0, 80.0))


@lru_cache
def curve(chain: int) -> tuple[np.ndarray, np.ndarray]:
    """Minutes after placing and the level of the battery [%, with fractions] of a simulated charge from 10 %."""
    phone, charger, adapter = (kit_from_line(line) for line in CHAINS[chain])
    prepared = prepare(Chain(adapter, None, charger, phone), Circumstances(start_percent=10.0, ambient_c=23.0))
    made = simulate(replace(prepared.scenario, most_s=6 * 3600.0))
    after = np.arange(len(made.charge)) - made.scenario.placed_s
    keep = (after >= 0) & (np.arange(len(after)) % 20 == 0)
    return after[keep] / 60.0, np.maximum.accumulate(made.shown[keep].astype(float))


@dataclass(frozen=True)
class SimulatedPair:
    """A pair as it was run: both sides, the window, and by how much the slow one is slower over it [min]."""

    runs: tuple[Contender, ...]
    window: tuple[float, float]
    slower_min: float


def pairs(count: int, seed: int, size: float) -> Iterator[SimulatedPair]:
    """Pairs that differ by `size` times what their method is said to resolve: 0 for equal ones."""
    rng = np.random.default_rng(seed)
    for n in range(count):
        runs, interval, chamber = METHODS[n % len(METHODS)]
        window = WINDOWS[int(rng.integers(len(WINDOWS)))]
        minutes, level = curve(int(rng.integers(len(CHAINS))))
        spread = CHAMBER_SPREAD if chamber else ROOM_SPREAD
        # By how much the fast side must be faster is said for the time of the slow one, over the window.
        slow = lap(CheckIns(minutes * 60.0, level), *window)
        assert slow is not None
        lying = interval_variance(*([interval] if window[0] == 10.0 else [interval, interval]))
        least = resolvable(slow.estimate, runs, lying, Spread(spread))
        assert least is not None
        difference = size * least
        share = 1.0 - difference / slow.estimate
        made = [
            _run(rng, minutes * part, level, spread, interval, chamber, f"{side}{k}", side)
            for side, part in (("fast", share), ("slow", 1.0))
            for k in range(runs)
        ]
        yield SimulatedPair(tuple(made), window, difference)


def _run(
    rng: np.random.Generator, minutes: np.ndarray, level: np.ndarray, spread: float, interval: float, chamber: bool,
    label: str, group: str,
) -> Contender:  # fmt: skip
    """A run a little faster or slower than the last of its kind, with a check-in every so many minutes."""
    own = minutes * rng.normal(1.0, spread)
    phase = rng.uniform(0.2, 1.0) * interval
    at = np.concatenate([[0.0], np.arange(phase, own[-1] + interval, interval)])
    shown = np.floor(np.interp(at, own, level))
    shown[0] = 10.0
    factors = {"phone": "one", "charger": group}
    course = Course(CheckIns(at * 60.0, shown))
    return Contender(label, label, factors, course, group=group, chamber=chamber, interval_min=interval)


@dataclass(frozen=True)
class Told:
    """How many of some pairs a difference was claimed for, and how many of those the right way round."""

    pairs: int
    claimed: int
    right: int


def told(count: int, seed: int, size: float) -> Told:
    """What the comparison says of simulated pairs."""
    claimed = right = 0
    for pair in pairs(count, seed, size):
        verdict = versus(pair.runs, *pair.window, with_gaps=False).pairs[0].verdict
        claimed += verdict != "no difference shown"
        right += verdict == "a faster"
    return Told(count, claimed, right)


LEVEL = 0.99
"""Of the binomial bound: a rate that is as it should be breaks it once in a hundred times."""


def most_wrong(count: int, rate: float = 0.05) -> int:
    """The most wrong claims among so many equal pairs."""
    return int(binom.ppf(LEVEL, count, rate))


def fewest_found(count: int, rate: float = 0.80) -> int:
    """The fewest differences found among so many that are just resolvable."""
    return int(binom.ppf(1.0 - LEVEL, count, rate))
