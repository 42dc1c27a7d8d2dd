"""A phone as the pack: one phone gives, another takes, both read on one clock."""

from dataclasses import dataclass

import numpy as np

from ..errors import CannotRead
from ..log.check_ins import CheckIns
from ..safety import WARN_C
from .charges import Bounds

HALF_POINT = 0.5
FULL = 99.5
STOP_SLACK = 2.0
STOPPED_POINTS, STOPPED_READINGS = 1.0, 2
"""It has stopped where the taker gains no more than this in its last readings, and the giver loses no more either."""


@dataclass(frozen=True)
class PhoneToPhone:
    """A phone charged by a phone. given, gained [points]; a_point : points gained for each that was given; giver_wh,
    taker_wh [Wh] : by the batteries, None where one is unknown; stopped_at : the giver's level as it stopped giving,
    None where it did not, or the taker was full; hottest_c [°C] : of the giver, where it was read; by_heat : whether it
    was then so warm that it may have stopped by that, and not by its level."""

    seconds: float
    given: Bounds
    gained: Bounds
    a_point: Bounds
    giver_wh: Bounds | None
    taker_wh: Bounds | None
    stopped_at: float | None
    hottest_c: float | None = None
    by_heat: bool = False

    @property
    def arrived(self) -> Bounds | None:
        """Share of the giver's energy that arrived; None where a battery is unknown."""
        if self.giver_wh is None or self.taker_wh is None:
            return None
        low, high = self.giver_wh.low, self.giver_wh.high
        return Bounds(
            self.taker_wh.low / high, self.taker_wh.value / self.giver_wh.value,
            self.taker_wh.high / low if low > 0 else float("inf"),
        )  # fmt: skip


def phone_to_phone(
    giver: CheckIns,
    taker: CheckIns,
    giver_wh: float | None = None,
    taker_wh: float | None = None,
    hottest_c: float | None = None,
    usual_stop: float | None = None,
) -> PhoneToPhone:
    """Read both phones over the time that both were read.

    Parameters
    ----------
    giver, taker : CheckIns
        On one clock.
    giver_wh, taker_wh : float or None [Wh]
        Energy of their batteries.
    hottest_c : float or None [°C]
        Of the giver, while it gave.
    usual_stop : float or None [%]
        Level at which it stops by itself, as its settings say.

    Raises
    ------
    CannotRead
        If they were not read at the same time, or the giver gained.
    """
    start_s, end_s = max(giver.time_s[0], taker.time_s[0]), min(giver.time_s[-1], taker.time_s[-1])
    if len(giver) < 2 or len(taker) < 2 or end_s <= start_s:
        raise CannotRead(
            "the two phones were not read at the same time", "read both levels together, at the start and the end",
            file="levels",
        )  # fmt: skip
    lost = _level(giver, start_s) - _level(giver, end_s)
    won = _level(taker, end_s) - _level(taker, start_s)
    if lost <= 0:
        raise CannotRead(
            "the phone that gives lost nothing", "see which of the two gives: some take by themselves", file="levels"
        )
    given_, gained = _bounds(lost), _bounds(won)
    ratio = Bounds(
        gained.low / given_.high, gained.value / given_.value, gained.high / given_.low if given_.low > 0 else np.inf
    )
    stopped = _stopped_at(giver, taker, float(end_s))
    return PhoneToPhone(
        float(end_s - start_s), given_, gained, ratio, _scaled(given_, giver_wh), _scaled(gained, taker_wh), stopped,
        hottest_c, _by_heat(stopped, hottest_c, usual_stop),
    )  # fmt: skip


def _by_heat(stopped: float | None, hottest_c: float | None, usual_stop: float | None) -> bool:
    """Whether heat may have stopped it: it was as warm as phones stop at, and not yet down to its usual level."""
    if stopped is None or hottest_c is None or hottest_c < WARN_C:
        return False
    return usual_stop is None or stopped > usual_stop + STOP_SLACK


def _level(readings: CheckIns, at_s: float) -> float:
    return float(np.interp(at_s, readings.time_s, readings.percent))


def _bounds(points: float) -> Bounds:
    """A difference of two whole-number levels."""
    return Bounds(max(0.0, points - 2 * HALF_POINT), points, points + 2 * HALF_POINT)


def _scaled(points: Bounds, wh: float | None) -> Bounds | None:
    if wh is None:
        return None
    return Bounds(points.low * wh / 100.0, points.value * wh / 100.0, points.high * wh / 100.0)


def _stopped_at(giver: CheckIns, taker: CheckIns, end_s: float) -> float | None:
    """The giver's level from where neither moved any more."""
    if _level(taker, end_s) >= FULL:
        return None
    last = taker.time_s[taker.time_s <= end_s][-STOPPED_READINGS - 1 :]
    if len(last) <= STOPPED_READINGS:
        return None
    since = float(last[0])
    moved = _level(taker, end_s) - _level(taker, since)
    went = _level(giver, since) - _level(giver, end_s)
    return _level(giver, end_s) if moved <= STOPPED_POINTS and went <= STOPPED_POINTS else None
