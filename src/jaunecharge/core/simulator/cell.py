"""The battery as an equivalent circuit: open-circuit voltage over charge, resistances, a slow branch."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..arrays import Array
from ..errors import CannotRead
from .engine import THERMAL_V

GRID = 201
"""Points of the tables over the state of charge, from 0 to 1."""

_SHAPE_AT = (0.0, 0.02, 0.05, 0.10, 0.20, 0.30, 0.40, 0.50, 0.60, 0.70, 0.80, 0.90, 0.96, 1.0)
_SHAPE_V = (3.00, 3.28, 3.44, 3.56, 3.66, 3.71, 3.75, 3.80, 3.88, 3.97, 4.07, 4.18, 4.25, 4.30)
"""A usual lithium-ion phone cell charged to about 4.4 V (from memory; scaled to the rated voltage)."""

USUAL_RESISTANCE_VH = 0.05
"""Series resistance times capacity [Ω·Ah = V·h]: 11 mΩ at 4.4 Ah (from memory)."""

EXCHANGE_C_RATE = 0.12
"""Exchange current of the charge transfer as a share of the capacity an hour (from memory)."""

USUAL_SLOW_VH = 0.06
USUAL_SLOW_S = 600.0
"""The slow branch: its resistance times capacity, and its time constant (from memory)."""

END_C_RATE = 0.05
"""Charge ends where the current falls under this share of the capacity an hour (common practice: C/20)."""


@dataclass(frozen=True)
class Cell:
    """A cell.

    ocv_v : (GRID,) open-circuit voltage [V] over charge 0–1; r_ohm : (GRID,) series resistance [Ω]; exchange_a :
    exchange current of the charge transfer [A], which adds 2RT/F · asinh(I / 2·exchange_a) to the voltage; slow_ohm,
    slow_s : resistance (GRID,) [Ω] and time constant [s] of the slow branch; most_a : constant-current limit [A];
    most_v : voltage at which the current begins to fall [V]; end_a : current at which charging ends [A].
    """

    capacity_ah: float
    ocv_v: Array
    r_ohm: Array
    exchange_a: float
    slow_ohm: Array
    slow_s: float
    most_a: float
    most_v: float
    end_a: float

    @property
    def energy_wh(self) -> float:
        """Energy between empty and full at no current [Wh]."""
        return float(np.trapezoid(self.ocv_v, np.linspace(0.0, 1.0, len(self.ocv_v))) * self.capacity_ah)


@lru_cache(maxsize=256)
def usual_cell(capacity_mah: float, nominal_v: float, health: float = 1.0, most_c_rate: float = 1.2) -> Cell:
    """A usual phone cell of a capacity and a nominal voltage.

    Parameters
    ----------
    capacity_mah : float [mAh]
        Rated; times `health` (0–1) it is what the cell holds.
    nominal_v : float [V]
        The mean open-circuit voltage is made equal to it.
    most_c_rate : float [1/h]
        Constant-current limit as a share of the capacity.

    Raises
    ------
    CannotRead
        If a figure is not above 0.
    """
    if not (capacity_mah > 0 and nominal_v > 0 and 0 < health <= 1):
        raise CannotRead("a battery is described by figures above 0", "give mAh, V and a health up to 100 %")
    at = np.linspace(0.0, 1.0, GRID)
    shape = np.interp(at, _SHAPE_AT, _SHAPE_V)
    ocv = shape * nominal_v / float(np.trapezoid(shape, at))
    ah = capacity_mah / 1000.0 * health
    rise = 1.0 + 0.6 * np.exp(-at / 0.05)
    r = np.full(GRID, USUAL_RESISTANCE_VH / ah / health) * rise
    slow = np.full(GRID, USUAL_SLOW_VH / ah / health)
    end_a = END_C_RATE * ah
    # At full charge exactly the last current flows, so that the shown percentage ends at 100.
    exchange_a = EXCHANGE_C_RATE * ah
    most_v = float(ocv[-1] + end_a * (r[-1] + slow[-1]) + THERMAL_V * np.arcsinh(end_a / (2.0 * exchange_a)))
    return Cell(ah, ocv, r, exchange_a, slow, USUAL_SLOW_S, most_c_rate * ah, most_v, end_a)
