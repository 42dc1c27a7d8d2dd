"""Percentages that mean something to a tester: where runs are timed, where phones slow, where they are told to stop."""

MILESTONES = (50, 80, 100)
"""Where times are told and compared (common practice)."""

TENS = tuple(range(10, 101, 10))
"""Where a run is timed."""

SLOWS_FROM = 80
"""Above this percentage every charger slows by itself, and differences vanish (common practice)."""

CHARGE_LIMITS = (80.0, 85.0, 90.0, 95.0)
"""Levels at which phones are told to stop (common practice)."""

LIMIT_WITHIN = 1.5
"""A check-in shows whole numbers, and the stop may come between two of them."""


def at_limit(percent: float | None) -> float | None:
    """The level at which phones are told to stop, if a percentage lies at one [%]."""
    if percent is None:
        return None
    nearest = min(CHARGE_LIMITS, key=lambda p: abs(p - percent))
    return nearest if abs(nearest - percent) <= LIMIT_WITHIN else None
