"""Energies of two rows against each other: the same rule of noise as for times, with a spread of its own."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..measured import Measured
from ..noise import Side, Sides, Spread, measured_spread, noises
from .compare import Versus
from .contender import window_energy
from .repeats import Repeats
from .window import Lap

ENERGY_SPREAD = 0.03
"""Standard deviation of one run's energy over a window, as a share of it, where no repeats tell: how a phone lies on
the coil changes what is lost (own choice)."""


@dataclass(frozen=True)
class EnergyDifference:
    """More energy that the second of two rows takes, and the noise of that [Wh]."""

    more_wh: float
    noise_wh: float

    @property
    def shown(self) -> bool:
        """Whether it exceeds its noise."""
        return abs(self.more_wh) > self.noise_wh


def metered_energies(cell: Repeats, laps: Sequence[Lap]) -> list[Measured]:
    """Energy at the meter over the window, of each run of a row that was metered [Wh]."""
    return [
        energy
        for run, x in zip(cell.runs, laps, strict=False)
        if (energy := window_energy(run.course, (x.start.estimate, x.start.width), (x.end.estimate, x.end.width)))
        and energy.value > 0
    ]


def energy_spread(comparison: Versus) -> Spread:
    """Spread of a run's energy: assumed, and what repeats showed of it pooled into that."""
    cells = zip(comparison.cells, comparison.timed.laps, strict=True)
    return measured_spread(Spread(ENERGY_SPREAD), [[e.value for e in metered_energies(c, laps)] for c, laps in cells])


def energy_difference(comparison: Versus, a: int, b: int) -> EnergyDifference | None:
    """Difference of two rows that fill the same battery; None where one of them was not metered."""
    sides = [metered_energies(comparison.cells[n], comparison.timed.laps[n]) for n in (a, b)]
    if not all(sides):
        return None
    spread = energy_spread(comparison)
    mine, other = (_side(s) for s in sides)
    found = noises(Sides.of([mine]), Sides.of([other]), np.array([spread.share]), spread)
    # The meter's share is common to both and cancels, but for how much more of it the larger has.
    apart = _meter(sides[0]) - _meter(sides[1])
    return EnergyDifference(
        other.minutes - mine.minutes, float(found.factor[0]) * math.hypot(float(found.standard[0]), apart)
    )


def _side(energies: Sequence[Measured]) -> Side:
    own = [sum(p.standard**2 for p in e.parts if p.source != "meter") for e in energies]
    return Side(float(np.mean([e.value for e in energies])), len(energies), float(np.mean(own)))


def _meter(energies: Sequence[Measured]) -> float:
    return float(np.mean([sum(p.standard for p in e.parts if p.source == "meter") for e in energies]))
