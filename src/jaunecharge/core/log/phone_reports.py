"""Reports of phone, charger and room: watts as the phone reports them, whether it says that it charges, the charger's
light, the room's humidity. Never mixed with a meter's readings."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

import numpy as np

from ..arrays import Array
from ..wording import counted, duration


def _none() -> Array:
    return np.zeros(0)


@dataclass(frozen=True)
class Besides:
    """time_s, watts : (k,) as the phone reported them [s], [W]; lights : when the charger's light was seen on or off
    [s]; charging : when the phone said that it charges, or does not [s]; humidity_s, humidity : (h,) of the room [s],
    [%]; each in order of time."""

    time_s: Array = field(default_factory=_none)
    watts: Array = field(default_factory=_none)
    lights: tuple[tuple[float, bool], ...] = ()
    charging: tuple[tuple[float, bool], ...] = ()
    humidity_s: Array = field(default_factory=_none)
    humidity: Array = field(default_factory=_none)

    def __bool__(self) -> bool:
        return bool(len(self.time_s) or self.lights or self.charging or len(self.humidity_s))


def besides(
    watts: Iterable[tuple[float, float]] = (),
    lights: Iterable[tuple[float, bool]] = (),
    charging: Iterable[tuple[float, bool]] = (),
    humidity: Iterable[tuple[float, float]] = (),
) -> Besides:
    """Reports in any order: (at [s], W), (at [s], whether the light was on, or whether the phone charges), (at [s], %).

    Of what the phone says again and again of its charging, the first and the last of equal words stay.
    """
    table, room = (np.array(sorted(dict(rows).items()), dtype=float).reshape(-1, 2) for rows in (watts, humidity))
    told = sorted(dict(charging).items())
    ends = {0, len(told) - 1} | {i for k in range(1, len(told)) if told[k][1] != told[k - 1][1] for i in (k - 1, k)}
    changes = tuple(x for i, x in enumerate(told) if i in ends)
    return Besides(table[:, 0], table[:, 1], tuple(sorted(lights)), changes, room[:, 0], room[:, 1])


def not_charging(reports: Besides) -> list[tuple[float, float]]:
    """Times over which the phone said that it does not charge: (first said, last said) [s]. What it did not say counts
    for neither.
    """
    times: list[tuple[float, float]] = []
    going_on = False
    for at, charges in reports.charging:
        if not charges:
            times = [*times[:-1], (times[-1][0], at)] if going_on else [*times, (at, at)]
        going_on = not charges
    return times


def not_charging_said(times: Sequence[tuple[float, float]]) -> tuple[str, str]:
    """Times over which the phone said that it does not charge in words, and what that rests on."""
    lasted = sum(end - start for start, end in times)
    often = "once" if len(times) == 1 else counted(len(times), "time")
    return (
        f"The phone itself said {often} that it does not charge"
        + (f", for *{duration(lasted)}* or more" if lasted else ""),
        "its own word: off the coil, a charge limit or heat look alike to it",
    )


def phone_watts_said(reports: Besides) -> tuple[str, str]:
    """The watts that the phone reported, and what that rests on; the figures between asterisks."""
    readings = counted(len(reports.watts), "reading")
    spread = f", *{float(reports.watts.mean()):.1f} W* on average" if len(reports.watts) > 1 else ""
    return (
        f"The phone itself reports *{float(reports.watts.max()):.1f} W* at most{spread}",
        f"{readings}; its own figure, behind the charger's losses and never mixed with the meter's",
    )
