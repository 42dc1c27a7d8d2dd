"""Check-ins: the battery curve, milestones as intervals, and readings worth asking about."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from ..arrays import Array, Mask, median
from ..errors import CannotRead
from ..measured import Measured, Part, lopsided_rectangle, rectangle
from ..milestones import TENS
from ..units import MINUTE_S, battery_wh
from .clock import SLACK_S, Timeline
from .flow import Crossed, Flow, crossing
from .monotone import Monotone, monotone

DEAD_PERCENT = 2.0
"""A phone that starts at this level or under was run down to dead: it may take minutes to wake (common practice)."""

REPORTED_MINUTES = (15.0, 30.0, 45.0, 60.0, 90.0, 120.0)
READING_HALF_WIDTH = 0.5
CAPACITY_SHARE = 0.03
UNKNOWN_HEALTH_BELOW = 0.10
ACCOUNT_FROM, ACCOUNT_TO = 10.0, 90.0
LEAST_DENIED_POINTS = 3.0
DENIED_SHARE = 0.3


@dataclass(frozen=True)
class CheckIns:
    """Battery readings in order of time. time_s : (m,) [s] on the log's clock; percent : (m,) [%]; within_s : where
    somebody looked every so many seconds and wrote down only when a percentage was reached, how often [s]; flow : of
    the charge between them, where a meter ran."""

    time_s: Array
    percent: Array
    within_s: float | None = None
    flow: Flow | None = None

    def __len__(self) -> int:
        return len(self.time_s)

    @cached_property
    def level(self) -> Monotone | None:
        """Battery level [%] over time [s] through the check-ins; None for fewer than two.

        Between two it follows the energy that the meter saw, else a monotone curve (PCHIP).
        """
        plain = self.plain
        if plain is None or self.flow is None:
            return plain
        pieces = [self._between(plain, self.flow, i) for i in range(len(self) - 1)]
        time_s = np.concatenate([*(t for t, _ in pieces), self.time_s[-1:]])
        return monotone(time_s, np.concatenate([*(p for _, p in pieces), self.percent[-1:]]))

    @cached_property
    def plain(self) -> Monotone | None:
        """Battery level [%] over time [s] from the check-ins alone (PCHIP); None for fewer than two."""
        return monotone(self.time_s, self.percent) if len(self) > 1 else None

    @cached_property
    def known(self) -> dict[float, Crossed | None]:
        """When percentages were reached, as far as that has been asked (see `_crossed`)."""
        return {}

    def _between(self, plain: Monotone, flow: Flow, i: int) -> tuple[Array, Array]:
        """Points of the level from one check-in on, up to the next."""
        a, b = float(self.time_s[i]), float(self.time_s[i + 1])
        inside = flow.time_s[(flow.time_s > a) & (flow.time_s < b)]
        time_s = np.concatenate(([a], inside))
        first, last = float(flow.at(a)), float(flow.at(b))
        if last <= first or not flow.sees(a, b):
            return time_s, plain(time_s)
        share = (flow.at(time_s) - first) / (last - first)
        return time_s, self.percent[i] + share * (self.percent[i + 1] - self.percent[i])

    @cached_property
    def believed(self) -> Mask:
        """Check-ins that their neighbours do not deny : (m,)."""
        return ~np.isin(self.time_s, [d.time_s for d in doubts(self)])


@dataclass(frozen=True)
class Battery:
    """The phone's battery as rated; health 0–1, or None where it is not known."""

    capacity_mah: float
    nominal_v: float
    health: float | None = None

    @property
    def point_wh(self) -> Measured:
        """Energy of one battery point [Wh].

        Capacity is a rectangle of ±3 % of the rated times the health, or −10 to +3 % of the rated where the health is
        not known (common practice).
        """
        wh = battery_wh(self.capacity_mah, self.nominal_v) / 100.0
        if self.health is None:
            relative = lopsided_rectangle(UNKNOWN_HEALTH_BELOW, CAPACITY_SHARE)
            return Measured(wh, (Part("capacity, health not known", relative * wh),))
        wh *= self.health
        return Measured(wh, (Part("capacity", rectangle(CAPACITY_SHARE) * wh),))


@dataclass(frozen=True)
class Milestone:
    """When a percentage was reached [s]: after `earliest_s`, at the latest at `latest_s`."""

    percent: int
    earliest_s: float
    estimate_s: float
    latest_s: float
    after_s: float | None = None
    by_s: float | None = None
    """The check-ins that it lies between, where the meter says more exactly when."""


@dataclass(frozen=True)
class Account:
    """The window of the battery account: from and to [s] and [%]."""

    start_s: float
    end_s: float
    from_percent: float
    to_percent: float

    @property
    def points(self) -> float:
        return self.to_percent - self.from_percent


def make_check_ins(time_s: Array, percent: Array) -> CheckIns:
    """Check-ins in order of time; of several at one moment the last written stands."""
    order = np.argsort(time_s, kind="stable")
    time_s, percent = time_s[order], percent[order]
    last = np.append(np.diff(time_s) > 0, True) if len(time_s) else np.zeros(0, dtype=bool)
    return CheckIns(time_s[last], percent[last])


def since(readings: CheckIns, at_s: float) -> CheckIns:
    """The check-ins from a moment on [s], some seconds of slack before it included."""
    later = readings.time_s >= at_s - SLACK_S
    return CheckIns(readings.time_s[later], readings.percent[later])


LISTED_ONLY = 2.0
"""Check-ins that lie so many times further apart than somebody looked are those that were worth writing down (own
choice); a single gap among many is a gap: nobody looked."""


def looked_every(readings: CheckIns, interval_s: float | None) -> CheckIns:
    """Check-ins with how often somebody looked [s], where that bounds when a percentage was reached."""
    if interval_s is None or interval_s <= 0 or len(readings) < 2:
        return readings
    listed_only = median(np.diff(readings.time_s)) > LISTED_ONLY * interval_s
    return replace(readings, within_s=interval_s) if listed_only else readings


def refuse_outside(time_s: Array, log_start_s: float, source: Timeline | None = None) -> None:
    """Refuse check-ins that come before the meter's log begins.

    Parameters
    ----------
    time_s : (m,) float array [s], on the log's clock
    log_start_s : float [s]
    source : Timeline or None
        Where they were read, to name the row.

    Raises
    ------
    CannotRead
    """
    early = np.flatnonzero(time_s < log_start_s - SLACK_S)
    if len(early):
        what = f"the check-in at {time_s[early[0]]:g} s comes before the meter log begins ({log_start_s:g} s)"
        mend = "put both on one clock, or count the check-ins from the placing of the phone"
        raise CannotRead(what, mend, file="check-ins") if source is None else source.refused(int(early[0]), what, mend)


def curve(readings: CheckIns) -> Monotone | None:
    """Battery level [%] over time [s] through the check-ins; None for fewer than two."""
    return readings.level


LEVEL_POINTS, MOST_IN_PIECE = 600, 12


def level_points(readings: CheckIns) -> tuple[Array, Array]:
    """The level between check-ins as points close enough to be joined by straight lines: times [s], levels [%], the
    check-ins among them; of a single one itself."""
    level = curve(readings)
    if level is None:
        return readings.time_s, readings.percent
    pieces = max(1, min(MOST_IN_PIECE, LEVEL_POINTS // len(readings)))
    between = np.arange(pieces) / pieces
    at = np.append(
        (readings.time_s[:-1, None] + np.diff(readings.time_s)[:, None] * between).ravel(), readings.time_s[-1]
    )
    return at, level(at)


def milestone(readings: CheckIns, percent: int) -> Milestone | None:
    """When `percent` was first seen, as an interval; None where it was there at the first check-in, or never."""
    passed = _crossed(readings, percent)
    if passed is None:
        return None
    return Milestone(percent, *passed.when_s, *(passed.between_s if passed.metered else ()))


def reached(readings: CheckIns, percent: float) -> tuple[float, float, float] | None:
    """When `percent` was first seen: earliest, estimate and latest [s]; None where it was there at the first check-in,
    or never.

    The interval is that of the check-ins about it, the estimate the first crossing of a monotone curve in it; for 100 %
    it is the first sighting. Where a meter ran, both are sharper: see `core.log.flow.crossing`.
    """
    passed = _crossed(readings, percent)
    return None if passed is None else passed.when_s


def _crossed(readings: CheckIns, percent: float) -> Crossed | None:
    """The passing of a percentage, worked out once for each."""
    if percent not in readings.known:
        between, crossed = _between_check_ins(readings, percent), None
        if between is not None:
            sharp = _by_the_meter(readings, percent, *between)
            when = sharp or (between[0], _estimate(readings, percent, *between), between[1])
            crossed = Crossed(when, between, sharp is not None)
        readings.known[percent] = crossed
    return readings.known[percent]


def _first_above(readings: CheckIns, percent: float) -> int | None:
    """The first check-in at a percentage or above; None where the first of all is, or none."""
    above = np.flatnonzero(readings.percent >= percent)
    return int(above[0]) if len(above) and above[0] > 0 else None


def _between_check_ins(readings: CheckIns, percent: float) -> tuple[float, float] | None:
    """Between which moments [s] a percentage was reached, by the check-ins alone."""
    at = _first_above(readings, percent)
    if at is None:
        return None
    earliest, latest = float(readings.time_s[at - 1]), float(readings.time_s[at])
    if readings.within_s is not None and readings.percent[at] == percent:
        earliest = max(earliest, latest - readings.within_s)
    return earliest, latest


def _estimate(readings: CheckIns, percent: float, earliest: float, latest: float) -> float:
    at = _first_above(readings, percent)
    return latest if percent >= 100 or at is None else max(earliest, _crossing(readings, at, percent))


def _by_the_meter(
    readings: CheckIns, percent: float, earliest: float, latest: float
) -> tuple[float, float, float] | None:
    """When a percentage was reached by the flow of the charge: earliest, estimate, latest [s]; None where no meter
    tells."""
    at = _first_above(readings, percent)
    if readings.flow is None or percent >= 100 or at is None:
        return None
    sharp = crossing(readings.flow, readings.time_s, readings.percent, readings.believed, at, percent)
    if sharp is None:
        return None
    low, estimate, high = (min(latest, max(earliest, s)) for s in sharp)
    return low, estimate, high


def _crossing(readings: CheckIns, at: int, percent: float) -> float:
    """First time in the piece that ends at check-in `at` where the curve reaches `percent`."""
    level = readings.plain
    assert level is not None
    if percent >= readings.percent[at]:
        return float(readings.time_s[at])
    roots = np.roots(level.c[:, at - 1] - np.array([0.0, 0.0, 0.0, percent]))
    width = readings.time_s[at] - readings.time_s[at - 1]
    real = roots.real[(abs(roots.imag) < 1e-6) & (roots.real > 0.0) & (roots.real <= width)]
    return float(readings.time_s[at - 1] + (real.min() if len(real) else width))


def milestones(readings: CheckIns) -> list[Milestone]:
    """Every ten percent that was passed, in order."""
    crossings = (milestone(readings, p) for p in TENS)
    return [m for m in crossings if m is not None]


def percent_at(readings: CheckIns, placed_s: float) -> list[tuple[float, float]]:
    """Battery level [%] at the usual minutes after placing, where the check-ins reach: (minute, percent)."""
    level = curve(readings)
    if level is None:
        return []
    levels = [(minute, float(level(placed_s + minute * MINUTE_S))) for minute in REPORTED_MINUTES]
    return [(minute, percent) for minute, percent in levels if np.isfinite(percent)]


def points_gained(readings: CheckIns) -> Measured:
    """Battery points from the first check-in to the highest; each reading is a rectangle of ± half a point."""
    return _difference(float(readings.percent[0]), float(readings.percent.max()))


def _difference(low: float, high: float) -> Measured:
    reading = rectangle(READING_HALF_WIDTH)
    return Measured(high - low, (Part("first percentage", reading), Part("last percentage", reading)))


def energy_into_battery(points: Measured, battery: Battery) -> Measured:
    """Energy [Wh] that `points` of this battery stand for: points × capacity × voltage."""
    each = battery.point_wh
    return Measured(
        points.value * each.value,
        tuple(Part(p.source, p.standard * each.value) for p in points.parts)
        + tuple(Part(p.source, p.standard * points.value) for p in each.parts),
    )


def account_window(readings: CheckIns) -> Account | None:
    """From the first check-in at 10 % or more to the first that shows the highest level up to 90 %."""
    inside = np.flatnonzero((readings.percent >= ACCOUNT_FROM) & (readings.percent <= ACCOUNT_TO))
    if not len(inside):
        return None
    first = int(inside[0])
    later = inside[inside > first]
    if not len(later):
        return None
    last = int(later[np.argmax(readings.percent[later])])
    if readings.percent[last] <= readings.percent[first]:
        return None
    return Account(
        float(readings.time_s[first]),
        float(readings.time_s[last]),
        float(readings.percent[first]),
        float(readings.percent[last]),
    )


def account_points(account: Account) -> Measured:
    """Points gained over the account window, with the uncertainty of its two readings."""
    return _difference(account.from_percent, account.to_percent)


@dataclass(frozen=True)
class DoubtfulCheckIn:
    """A check-in worth asking about: its time [s], what it shows [%] and what its neighbours would expect [%]."""

    time_s: float
    percent: float
    expected: float


GAUGE_POINTS = 1.0
"""A percentage may fall by so much while nothing is charged and nobody touches the phone."""


def falls(readings: CheckIns, still: Sequence[tuple[float, float]] = ()) -> list[tuple[float, float, float]]:
    """Every place where the percentage fell: (time [s] of the lower reading, from [%], to [%]).

    still : stretches [s] in which the charge stood still by itself; a fall by a point there is none to be told.
    """
    drops = []
    for i in np.flatnonzero(np.diff(readings.percent) < 0):
        at, high, low = float(readings.time_s[i + 1]), float(readings.percent[i]), float(readings.percent[i + 1])
        if high - low > GAUGE_POINTS or not any(a <= at <= b for a, b in still):
            drops.append((at, high, low))
    return drops


def doubts(readings: CheckIns) -> list[DoubtfulCheckIn]:
    """Readings that the pace on both sides denies: each side, carried on, misses it by over 3 points.

    A bend in the curve (a hold, the taper) agrees with the side that it continues, so it is not asked about; nor are
    the neighbours of a reading that stands out more than they do.
    """
    time_s, percent = readings.time_s, readings.percent
    doubtful: list[tuple[float, int, DoubtfulCheckIn]] = []
    for i in range(2, len(readings) - 2):
        before = (percent[i - 1] - percent[i - 2]) / (time_s[i - 1] - time_s[i - 2])
        after = (percent[i + 2] - percent[i + 1]) / (time_s[i + 2] - time_s[i + 1])
        from_left = percent[i - 1] + before * (time_s[i] - time_s[i - 1])
        from_right = percent[i + 1] - after * (time_s[i + 1] - time_s[i])
        miss = percent[i] - np.array([from_left, from_right])
        limit = max(LEAST_DENIED_POINTS, DENIED_SHARE * (percent[i + 1] - percent[i - 1]) / 2.0)
        between = percent[i] - np.interp(time_s[i], time_s[[i - 1, i + 1]], percent[[i - 1, i + 1]])
        if np.all(np.abs(miss) > limit) and miss[0] * miss[1] > 0 and miss[0] * between > 0:
            expected = float(from_left + from_right) / 2.0
            doubtful.append((abs(float(between)), i, DoubtfulCheckIn(float(time_s[i]), float(percent[i]), expected)))
    indices: list[int] = []
    for _, i, _ in sorted(doubtful, key=lambda f: -f[0]):
        if all(abs(i - other) > 1 for other in indices):
            indices.append(i)
    return [doubt for _, i, doubt in doubtful if i in indices]
