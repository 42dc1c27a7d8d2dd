"""Figures as documents carry them."""

from ...core.measured import Measured


def number(value: float | None, places: int = 4) -> float | None:
    """A figure rounded for print, or None."""
    return None if value is None else round(value, places)


def measured(value: Measured | None) -> dict[str, float | None] | None:
    """Value and expanded uncertainty at k = 2, in one unit; null where the uncertainty is not known."""
    return None if value is None else {"value": round(value.value, 4), "expanded": number(value.stated)}
