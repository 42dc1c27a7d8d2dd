"""One clock for the meter's log, the check-ins and the temperatures of a run."""

import datetime as dt
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Literal
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray

from ..arrays import Array, Mask, median, running_sum
from ..errors import CannotRead
from ..units import DAY_S, HOUR_S, MINUTE_S

SLACK_S = 30.0
LONGEST_BEFORE_S = 24 * HOUR_S
"""A phone may be placed, and read, before its meter is started, but no longer than this (own choice)."""
CLOCK_CHANGE_S = 3600.0
SAME_START_S = 60.0
"""Slack within which two things begin together (own choice)."""

AS_LONG, MANY = 0.9, 30
"""So many readings over so much of the meter's log were logged beside it, not noted by hand (own choice)."""


class ClockKind(StrEnum):
    """Zero of a column of times."""

    ELAPSED = "elapsed"
    TIME_OF_DAY = "time of day"
    ABSOLUTE = "absolute"
    AFTER_PLACING = "after placing"


@dataclass(frozen=True)
class Timeline:
    """Times of one file. seconds : (n,) [s], counted as `kind` says; absolute ones from 1970-01-01 UTC.

    `day_start_s` : [s] seconds since local midnight at the first row of an absolute clock, None where not known.
    `file` is where they stand, `rows` : (n,) int array the row of each, None where there are no rows.
    """

    kind: ClockKind
    seconds: Array
    day_start_s: float | None = None
    file: str = ""
    rows: NDArray[np.int64] | None = None

    def only(self, where: Mask) -> "Timeline":
        """The times at which `where` : (n,) bool holds."""
        rows = None if self.rows is None else self.rows[where]
        return replace(self, seconds=self.seconds[where], rows=rows)

    def refused(self, at: int, what: str, mend: str) -> CannotRead:
        """Flaws of the row at an index."""
        return CannotRead(what, mend, file=self.file, row=None if self.rows is None else int(self.rows[at]))


def refuse_backwards(clock: Timeline) -> None:
    """Refuse a file in which time runs backwards from most rows to the next.

    Raises
    ------
    CannotRead
        Naming the first row that does.
    """
    back = np.flatnonzero(np.diff(clock.seconds) < 0)
    if len(back) > (len(clock.seconds) - 1) / 2:
        raise clock.refused(
            int(back[0]) + 1,
            "time runs backwards from row to row",
            "sort the rows by time, oldest first, and read it again",
        )


def unwrapped(seconds: Array) -> tuple[Array, str | None]:
    """Times of day made to run on over midnight, and over one clock change; with a remark where one was found.

    seconds : (n,) [s] since midnight, in order of the rows.
    """
    steps = np.diff(seconds)
    nights = running_sum(np.where(steps < -DAY_S / 2, DAY_S, 0.0))
    return without_clock_change(seconds + nights)


def without_clock_change(seconds: Array) -> tuple[Array, str | None]:
    """Local times with the repeated hour of one autumn clock change undone, if the rows show exactly one.

    seconds : (n,) [s] in order of the rows.
    """
    steps = np.diff(seconds)
    usual = median(np.abs(steps)) if len(steps) else 0.0
    back = np.flatnonzero(steps < 0)
    if len(back) != 1 or abs(steps[back[0]] + CLOCK_CHANGE_S - usual) > max(5.0, 2.0 * usual):
        return seconds, None
    mended = seconds.copy()
    mended[back[0] + 1 :] += CLOCK_CHANGE_S
    return mended, "the clock went back one hour during the log: the hour was added to what follows"


MOST_RESTARTS, RESTART_WITHIN_S = 5, 60.0
"""A meter that was started anew counts from near 0 again; more often than this it is another kind of column."""


def without_restarts(seconds: Array) -> tuple[Array, str | None]:
    """Elapsed times of a meter that was started anew on the way, made to run on; with a remark where that was so.

    seconds : (n,) [s] in order of the rows. How long it was off nobody knows: it goes on one row later.
    """
    steps = np.diff(seconds)
    usual = median(steps[steps > 0]) if (steps > 0).any() else 0.0
    near_zero = seconds[1:] <= max(RESTART_WITHIN_S, 10.0 * usual)
    back = np.flatnonzero(near_zero & (steps < -max(RESTART_WITHIN_S, 10.0 * usual)))
    if not 0 < len(back) <= MOST_RESTARTS or np.count_nonzero(steps < 0) > len(back):
        return seconds, None
    mended = seconds.copy()
    for at in back.tolist():
        mended[at + 1 :] += mended[at] + usual - mended[at + 1]
    times = "once" if len(back) == 1 else f"{len(back)} times"
    return mended, f"the meter's clock went back to 0 {times}: what follows goes on from there, however long it was off"


def one_clock(meter: Timeline, others: list[Timeline]) -> tuple[Array, list[Array]]:
    """All times in seconds on the log's own clock.

    Where the meter's time is absolute, its first row is 0; a relative clock beside it starts there too. A meter that
    writes the time of day keeps it, unless clocks beside it plainly count from its first row.

    Raises
    ------
    CannotRead
        If a file carries dates, or times of day that lie nowhere in it, and the meter's log does not.
    """
    start = float(meter.seconds[0])
    if meter.kind is ClockKind.ABSOLUTE:
        span = float(meter.seconds[-1]) - start
        return meter.seconds - start, [_beside_absolute(o, start, span, meter.day_start_s) for o in others]
    for other in others:
        if other.kind is ClockKind.ABSOLUTE:
            raise other.refused(
                0,
                "it carries dates, but the meter's log does not",
                "count it in seconds or minutes from the first row of the meter's log",
            )
    if meter.kind is ClockKind.TIME_OF_DAY:
        end = float(meter.seconds[-1])
        theirs = [_on_the_day(o, start, end) for o in others]
        counted = [o for o in others if o.kind is ClockKind.ELAPSED and len(o.seconds)]
        if any(o.seconds.min() < start - SLACK_S for o in counted):
            shifted = [
                o.seconds if o.kind is ClockKind.ELAPSED else t - start for o, t in zip(others, theirs, strict=True)
            ]
            return meter.seconds - start, shifted
        return meter.seconds, theirs
    for other in others:
        if other.kind is ClockKind.TIME_OF_DAY and len(other.seconds) and other.seconds.min() > meter.seconds[-1]:
            raise other.refused(
                0,
                "it carries times of day, but the meter's log counts from its first row",
                "count it in minutes from there, or give the meter's log times of day",
            )
    return meter.seconds, [o.seconds for o in others]


Whose = Literal["log", "placing"]
"""Zero of relative times: the beginning of the meter's log, or the placing of the phone."""


@dataclass(frozen=True)
class Guess:
    """Whose clock some times are on; None where nobody can know but who wrote them; and why."""

    whose: Whose | None
    why: str


def whose_clock(seconds: Array, log_start_s: float, log_end_s: float, placed_s: float) -> Guess:
    """Whether relative times count from the beginning of the log or from the placing.

    Parameters
    ----------
    seconds : (n,) float array [s]
        As they would be if they were on the log's clock.
    log_start_s, log_end_s, placed_s : float [s]

    References
    ----------
    Our own rule. Logs that run as long as the meter's are on its clock; a first reading that would lie before the
    placing counts from it; one at the placing is on the log's clock, or it would lie as late again.
    """
    lead = placed_s - log_start_s
    if lead < 1.0 or not len(seconds):
        return Guess("log", "the log begins as the phone is placed: both are the same")
    first, last = float(seconds.min()), float(seconds.max())
    before = (placed_s - first) / MINUTE_S
    if last - first >= AS_LONG * (log_end_s - log_start_s) and len(seconds) > MANY:
        return Guess("log", "they run as long as the meter's log")
    if before > SLACK_S / MINUTE_S:
        return Guess("placing", f"on the log's clock the first would lie {before:.0f} min before the placing")
    if last + lead > log_end_s + SAME_START_S:
        return Guess("log", "counted from the placing they would reach beyond the meter's log")
    if -before * MINUTE_S <= SAME_START_S:
        return Guess("log", "the first is at the placing")
    if lead <= SAME_START_S:
        return Guess("log", f"the phone was placed {lead:.0f} s after the log began: no more than that is at stake")
    return Guess(None, f"the phone was placed {lead / MINUTE_S:.0f} min after the log began")


def _beside_absolute(other: Timeline, start: float, span: float, day_start_s: float | None) -> Array:
    if other.kind is ClockKind.ABSOLUTE:
        return other.seconds - start
    if other.kind is ClockKind.TIME_OF_DAY and day_start_s is not None and len(other.seconds):
        after = (other.seconds[0] - day_start_s + SLACK_S) % DAY_S - SLACK_S
        lasts = float(other.seconds[-1] - other.seconds[0])
        if after > span + SLACK_S and 0.0 <= lasts + after - DAY_S <= span + SLACK_S:
            # The first was read before the meter was started, not nearly a day after it.
            after -= DAY_S
        if after <= span + SLACK_S and not _fits(other.seconds, 0.0, span):
            return other.seconds - other.seconds[0] + after
    return other.seconds


def _on_the_day(other: Timeline, start: float, end: float) -> Array:
    if other.kind is not ClockKind.TIME_OF_DAY or not len(other.seconds) or _fits(other.seconds, start, end):
        return other.seconds
    next_day = other.seconds + DAY_S
    return next_day if _fits(next_day, start, end) else other.seconds


def _fits(seconds: Array, start: float, end: float) -> bool:
    return bool(seconds.min() >= start - SLACK_S and seconds.min() <= end + SLACK_S)


def zone_named(name: str) -> ZoneInfo:
    """A time zone by its name.

    Raises
    ------
    CannotRead
    """
    try:
        return ZoneInfo(name)
    except (KeyError, ValueError, OSError) as error:
        raise CannotRead(
            f"“{name[:40]}” is no time zone", "name one as in Europe/Zurich or UTC", file="zone"
        ) from error


MILLISECONDS_FROM = 1e11
"""An epoch of so much counts milliseconds: in seconds it would lie beyond the year 5000."""


def moment_of(value: object) -> dt.datetime:
    """A moment as machines write it: an epoch in seconds or milliseconds, or ISO 8601, without a zone where that has
    none.

    Raises
    ------
    ValueError
        If it is neither.
    """
    if not isinstance(value, bool):
        try:
            epoch = float(str(value))
            return dt.datetime.fromtimestamp(epoch / 1000.0 if abs(epoch) >= MILLISECONDS_FROM else epoch, dt.UTC)
        except OverflowError:
            raise ValueError("no clock shows such a time") from None
        except (ValueError, OSError):
            pass
        try:
            return dt.datetime.fromisoformat(str(value).strip().replace(" ", "T", 1))
        except ValueError:
            pass
    raise ValueError("it is neither ISO 8601 nor an epoch")
