"""Readings that no USB supply, no battery and no bench gives are refused, by the row they stand in."""

import numpy as np

from ..arrays import Array
from ..errors import CannotRead
from .clock import Timeline

MOST_VOLTS = 60.0
"""USB PD extended power range ends at 48 V (USB PD 3.1); the rest is room for a meter that reads high."""
MOST_AMPS = 20.0
MOST_WATTS = 400.0
LEAST_C, MOST_C = -40.0, 150.0

BOUNDS = {
    "volts": (0.0, 60.0), "amps": (-20.0, 20.0), "watts": (-400.0, 400.0), "celsius": (-40.0, 150.0),
    "percent": (0.0, 100.0), "humidity": (0.0, 100.0),
}  # fmt: skip
"""Least and most that a reading may be [V, A, W, °C, %, %]: what lies outside is no reading of a charge."""


def refuse_no_supply(volts: Array | None, amps: Array | None, watts: Array | None, source: Timeline) -> None:
    """Refuse volts, amps or watts : (n,) that no USB supply gives; `source` is as long as they are.

    Raises
    ------
    CannotRead
    """
    for values, most, unit, milli in (
        (volts, MOST_VOLTS, "V", "mV"),
        (amps, MOST_AMPS, "A", "mA"),
        (watts, MOST_WATTS, "W", "mW"),
    ):
        if values is None:
            continue
        high = np.flatnonzero(np.abs(values) > most)
        if len(high):
            raise source.refused(
                int(high[0]),
                f"{values[high[0]]:g} {unit} is more than a USB supply gives ({most:g} {unit} at most)",
                f"if the column is in {milli}, name that unit; else take the row out",
            )


def refuse_no_level(percent: Array, source: Timeline) -> None:
    """Refuse percentages : (n,) that are no battery level; `source` is as long as they are.

    Raises
    ------
    CannotRead
    """
    wrong = np.flatnonzero((percent < 0) | (percent > 100))
    if len(wrong):
        raise source.refused(
            int(wrong[0]), f"{percent[wrong[0]]:g} % is not a battery level", "a percentage lies between 0 and 100"
        )


def refuse_no_temperature(celsius: Array, source: Timeline) -> None:
    """Refuse temperatures : (n,) [°C] that no bench has; `source` is as long as they are.

    Raises
    ------
    CannotRead
    """
    wrong = np.flatnonzero((celsius < LEAST_C) | (celsius > MOST_C))
    if len(wrong):
        raise source.refused(
            int(wrong[0]),
            f"{celsius[wrong[0]]:g} °C is not a temperature of a phone or a room",
            "check the column and its unit",
        )


LONGEST_MIN = 48 * 60.0
"""A charge of more than two days is none: its times are in seconds (own choice)."""


def refuse_other_units(minutes: Array, percent: Array, file: str) -> None:
    """Refuse check-ins : (n,) that are plainly not in minutes and percent.

    Raises
    ------
    CannotRead
    """
    if len(percent) > 1 and percent.max() <= 1.0 and np.ptp(percent) > 0:
        raise CannotRead(
            f"the highest check-in is {percent.max():g} %", "give percentages from 0 to 100, not shares of 1", file
        )
    if minutes.max() - minutes.min() > LONGEST_MIN:
        raise CannotRead(
            f"the check-ins reach over {minutes.max() - minutes.min():,.0f} min, more than two days",
            "give minutes after placing, not seconds",
            file,
        )
