"""Figures of a phone fitted to a measured run; apart from the simulator, so that keeping it does not load that."""

from dataclasses import dataclass

NEVER = 1e9
"""A temperature [°C] or a time [s] that is never reached."""


@dataclass(frozen=True)
class Fitted:
    """Figures of a phone fitted to a measured run: see `fit`."""

    receiver: float
    conductance: float
    heat_capacity_j: float
    knee_percent: float
    last_share: float
    level_c: float = NEVER
    accepts_w: float | None = None
    run: str = ""
