"""Standby of a charger: after full and with no phone, a night, a year, and what that costs."""

from dataclasses import dataclass
from typing import ClassVar

from ..errors import CannotRead
from ..measured import Measured, total

DAYS = 365.0


@dataclass(frozen=True)
class Habits:
    """Habits of charging: hours of a night that a phone lies on it, how many of those it is full already,
    what a kWh costs, how often a year it charges, and how much of the energy gets through to the meter. The defaults
    are the demonstration's, to be changed.

    adapter_share : of the socket's energy, behind the adapter (0–1); hut_share : of a hut battery's, behind inverter
    and adapter (0–1); from memory: some 0.87 of a 20 W adapter, 0.9 of a small inverter.
    """

    night_h: float = 8.0
    full_h: float = 5.0
    tariff: float = 0.30
    currency: str = "EUR"
    unplugged: bool = False
    charges_year: float = DAYS
    adapter_share: float = 0.87
    hut_share: float = 0.78

    share_u: ClassVar[float] = 0.03
    """Standard uncertainty of either share (own choice)."""


def check_habits(habits: Habits) -> None:
    """Refuse habits that cannot be.

    Raises
    ------
    CannotRead
    """
    if not 0 <= habits.full_h <= habits.night_h <= 24:
        raise CannotRead(
            "the hours do not fit", "a night has 0 to 24 h, and no more of it is spent full", file="habits"
        )
    if habits.tariff < 0 or not habits.currency.strip():
        raise CannotRead("the tariff does not fit", "give a price per kWh from 0 up, and its currency", file="habits")
    if not 0 <= habits.charges_year <= 100_000:
        raise CannotRead(f"{habits.charges_year:g} charges a year cannot be", "from 0 to 100,000", file="habits")
    for share in (habits.adapter_share, habits.hut_share):
        if not 0.1 <= share <= 1:
            raise CannotRead(f"a share of {share:g} cannot be", "of the energy 0.1 to 1 gets through", file="habits")


LEAST_SEEN_S = 600.0
"""A level that was seen for less than this says nothing of a night or a year (own choice)."""


@dataclass(frozen=True)
class Standby:
    """Watts after full and with no phone (None where not logged), and what they come to.

    night_wh : after full, a night [Wh]; year_kwh : both together, a year [kWh]; year_cost : in `habits.currency`.
    """

    habits: Habits
    after_full: Measured | None
    no_load: Measured | None
    night_wh: Measured | None
    year_kwh: Measured | None
    year_cost: Measured | None


def standby(after_full: Measured | None, no_load: Measured | None, habits: Habits = Habits()) -> Standby | None:
    """Standby losses of a charger.

    A night has `full_h` hours after full; the rest of the year, while no phone lies there, the no-load draw goes on
    unless the charger is unplugged. What is not logged is left out, and the year then says less than there is.

    Parameters
    ----------
    after_full, no_load : Measured or None [W]
    habits : Habits
    """
    if after_full is None and no_load is None:
        return None
    night = after_full.scaled(habits.full_h) if after_full is not None else None
    parts: list[Measured] = []
    if night is not None:
        parts.append(night.scaled(DAYS / 1000.0))
    if no_load is not None and not habits.unplugged:
        parts.append(no_load.scaled((24.0 - habits.night_h) * DAYS / 1000.0))
    year = total(parts) if parts else None
    return Standby(habits, after_full, no_load, night, year, None if year is None else year.scaled(habits.tariff))
