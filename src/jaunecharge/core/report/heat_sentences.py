"""Heat in words: the hottest, and how long it lasted at or above the usual thresholds."""

from ..log.temperatures import HeatFacts
from ..safety import THRESHOLDS_C
from ..units import MINUTE_S
from ..wording import duration, temperature, temperature_rise, threshold

LEAST_MIN = 0.5
"""Less than this is said as `under a minute`."""


def over_said(heat: HeatFacts, fahrenheit: bool = False) -> str:
    """Time of a place at or above each threshold that it reached: `12 min at or above 40 °C`.

    Between readings that are far apart the minutes lie on straight lines, and that is said.
    """
    reached = [(c, minutes) for c, minutes in heat.minutes_over.items() if heat.max_c >= c]
    if not reached:
        return f"never at {threshold(float(THRESHOLDS_C[0]), fahrenheit)}" + ("" if heat.dense else " when read")
    if heat.every_s is None:
        return f"one reading, at or above {threshold(float(reached[-1][0]), fahrenheit)}"
    text = ", ".join(
        f"{'under a minute' if minutes < LEAST_MIN else f'{minutes:.0f} min'} at or above {threshold(c, fahrenheit)}"
        for c, minutes in reached
    )
    return text if heat.dense else f"about {text}, by straight lines between readings"


def hottest_said(heat: HeatFacts, fahrenheit: bool = False) -> str:
    """The hottest reading and its rise over the room: `Hottest *42.4 °C*, 18.1 K over the room`."""
    what = "Hottest" if heat.dense else "Hottest reading"
    rise = "" if heat.rise_k is None else f", {temperature_rise(heat.rise_k, fahrenheit)} over the room"
    return f"{what} *{temperature(heat.max_c, fahrenheit)}*{rise}"


def read_said(heat: HeatFacts) -> str:
    """Interval of readings at a place, where they are far apart: `read every 10 min`; else empty."""
    if heat.dense:
        return ""
    return "read once" if heat.every_s is None else f"read every {duration(max(heat.every_s, MINUTE_S))}"
