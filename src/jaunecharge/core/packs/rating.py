"""The rating of a pack against its yield: watt-hours, the same in mAh at 5 V, hours at a load, cabins."""

from dataclasses import dataclass
from typing import Literal

from ..errors import CannotRead
from ..measured import Measured
from ..units import battery_wh

USB_V = 5.0
"""At which people give a pack's capacity again [V]."""

GOOD_SHARE = 0.5
"""A good pack gives half of its rated mAh and more at 5 V (common practice)."""

USUAL_YIELD = 0.75
"""Share of the rated energy that is counted on before anything was measured (own choice: measured ones lie about 0.7 to
0.85, from memory)."""

CABIN_WH, APPROVAL_WH = 100.0, 160.0
"""Up to 100 Wh a battery usually goes in the cabin, up to 160 Wh with the carrier's approval (dangerous goods rules for
passengers of ICAO and IATA, from memory, as known in 2025)."""

CABIN_SOURCE = (
    "IATA Dangerous Goods Regulations, provisions for passengers (table 2.3.A, after ICAO's Technical Instructions);"
    " from memory, as known in 2025; the carrier decides and may allow less: ask it"
)
MOST_YIELD = 1.2
LAST_DIGIT_WH = 0.05
"""A display of watt-hours is read to a tenth (own choice)."""

MOST_MAH, MOST_CELL_V, MOST_WH, MOST_LOAD_W = 1_000_000.0, 60.0, 60_000.0, 5_000.0

Cabin = Literal["cabin", "with approval", "not in the cabin"]


@dataclass(frozen=True)
class Rating:
    """A pack as it is printed: mAh at the voltage of its cells [V]."""

    mah: float
    cell_v: float

    @property
    def wh(self) -> float:
        """Energy of its cells [Wh]."""
        return battery_wh(self.mah, self.cell_v)


def rating(mah: float | None, cell_v: float | None) -> Rating:
    """A rating from what is printed.

    Raises
    ------
    CannotRead
        If one of both is missing or not positive: milliampere-hours without volts say nothing of energy.
    """
    if mah is None or not 0 < mah <= MOST_MAH:
        raise CannotRead(
            "the rated capacity is missing or no capacity", f"write mAh between 0 and {MOST_MAH:g}", file="rated mAh"
        )
    if cell_v is None:
        raise CannotRead(
            f"{mah:g} mAh say nothing of energy without a voltage", "add the volts of the cells, mostly 3.6 to 3.87",
            file="cell volts",
        )  # fmt: skip
    if not 0 < cell_v <= MOST_CELL_V:
        raise CannotRead(f"{cell_v:g} V is no voltage of a cell", f"write 0 to {MOST_CELL_V:g} V", file="cell volts")
    return Rating(float(mah), float(cell_v))


def check_delivered(wh: float) -> float:
    """Delivered energy as somebody states it [Wh].

    Raises
    ------
    CannotRead
        If it is none.
    """
    if not 0 < wh <= MOST_WH:
        raise CannotRead(f"{wh:g} Wh was delivered by no pack", f"write 0 to {MOST_WH:g} Wh", file="delivered Wh")
    return wh


def mah_at_usb(delivered_wh: float) -> float:
    """Delivered energy as a capacity at 5 V [mAh]."""
    return delivered_wh / USB_V * 1000.0


def share_of_rated_mah(delivered_wh: float, rated: Rating) -> float:
    """Capacity at 5 V as a share of the rated one, which is at the cells' voltage (0–1)."""
    return mah_at_usb(delivered_wh) / rated.mah


def is_good(delivered_wh: float, rated: Rating) -> bool:
    """Whether a pack gives what a good one does, by the rule of thumb."""
    return share_of_rated_mah(delivered_wh, rated) >= GOOD_SHARE


def yield_of(delivered: Measured, rated: Rating) -> Measured:
    """Delivered energy as a share of the rated (0–1), with its uncertainty; what is printed counts as exact."""
    return delivered.scaled(1.0 / rated.wh)


@dataclass(frozen=True)
class Hours:
    """Hours at a load, and what they rest on: a yield that was stated, measured, or only usual."""

    hours: float
    share: float
    basis: Literal["stated", "measured", "usual"]


def hours_at_load(rated: Rating, load_w: float, stated: float | None = None, measured: float | None = None) -> Hours:
    """Hours that a full pack feeds a load.

    Parameters
    ----------
    rated : Rating
    load_w : float [W]
    stated, measured : float or None
        Yield (0–1) as somebody states it, and as a test gave it; the first that is there counts.

    Raises
    ------
    CannotRead
        If the load is not positive, or the stated yield no share.
    """
    if not 0 < load_w <= MOST_LOAD_W:
        raise CannotRead(f"{load_w:g} W is no load", f"write 0 to {MOST_LOAD_W:g} W", file="load W")
    if stated is not None and not 0 < stated <= MOST_YIELD:
        raise CannotRead(f"{stated:g} is no yield", "write it as a share, 0.79 for 79 %", file="yield")
    share = stated if stated is not None else measured if measured is not None else USUAL_YIELD
    basis: Literal["stated", "measured", "usual"] = (
        "stated" if stated is not None else "measured" if measured is not None else "usual"
    )
    return Hours(rated.wh * share / load_w, share, basis)


def cabin_class(wh: float) -> Cabin:
    """Whether a battery of so much energy goes in a cabin, by the usual rules; the carrier decides."""
    if wh <= CABIN_WH:
        return "cabin"
    return "with approval" if wh <= APPROVAL_WH else "not in the cabin"
