"""Forecast of a chain: watts, times and heat with their spread, for one pair or for the whole shelf; a phone fitted to
a measured run.
"""

from .chain_forecast import Between, Forecast, ThrottleForecast, forecast, timed_swaps
from .coverage import Coverage, Row, chargers_of, cover, with_best_adapter
from .fit import FitResult, fit_phone

__all__ = [
    "Between",
    "Coverage",
    "FitResult",
    "Forecast",
    "Row",
    "ThrottleForecast",
    "chargers_of",
    "cover",
    "fit_phone",
    "forecast",
    "timed_swaps",
    "with_best_adapter",
]
