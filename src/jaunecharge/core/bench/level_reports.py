"""Levels that a phone reports by itself: where they belong in time, whatever its clock says, and its watts."""

from dataclasses import dataclass
from typing import Literal

from ..units import MINUTE_S
from ..wording import duration

CLOCK_AGREES_S = 30.0
"""Two clocks that differ by no more than this are taken to agree: phones and benches set theirs by the network (our
own)."""

LATE_TOLD_S = 5 * MINUTE_S
"""A report that arrives so long after its moment is remarked on: it was kept that long, or the clock is slow (our
own)."""

MOST_PHONE_W = 200.0
"""More than any phone takes (our own)."""


@dataclass(frozen=True)
class Stamped:
    """Where a report belongs: at_s [s since the lane was opened]; odd, said : what is odd about its time, or empty."""

    at_s: float
    odd: Literal["", "off", "ahead", "before", "late"] = ""
    said: str = ""


def stamped(arrived_s: float, at_s: float | None = None, sent_s: float | None = None) -> Stamped:
    """Where a report belongs in time.

    Parameters
    ----------
    arrived_s : float [s]
        When it arrived, counted from the opening of the lane.
    at_s : float or None [s]
        When it was read, by the phone's clock, counted from the same moment; None: when it arrived.
    sent_s : float or None [s]
        When it was sent, by the phone's clock. What was kept for a while is then told from a clock that is wrong.
    """
    if at_s is None:
        return Stamped(arrived_s)
    if sent_s is not None and abs(arrived_s - sent_s) > CLOCK_AGREES_S:
        # Only how old it was when it was sent is known.
        age_s = max(0.0, sent_s - at_s)
        words = f"the phone's clock is {_off(sent_s - arrived_s)}: its reports are put in time by their age"
        return Stamped(arrived_s - age_s, "off", words)
    if at_s > arrived_s + CLOCK_AGREES_S:
        way = _off(at_s - arrived_s)
        return Stamped(arrived_s, "ahead", f"the phone's clock is {way}: its reports count from when they arrive")
    if sent_s is None and at_s < 0.0:
        words = f"a report is stamped {duration(-at_s)} before the lane was opened: it counts from when it arrived"
        return Stamped(arrived_s, "before", f"{words}. See whether the phone's clock is right")
    if sent_s is None and arrived_s - at_s > LATE_TOLD_S:
        late = duration(arrived_s - at_s)
        words = f"a report arrived {late} after the time that it states: it was kept so long, or the clock is slow"
        return Stamped(at_s, "late", words)
    return Stamped(min(at_s, arrived_s))


def _off(ahead_s: float) -> str:
    return f"{duration(abs(ahead_s))} {'ahead of' if ahead_s > 0.0 else 'behind'} the bench's"


def phone_side_w(watts: float | None, mv: float | None, ma: float | None) -> float | None:
    """Power at the phone [W]: as it is stated, else from its battery's millivolts and milliamps; None without both."""
    if watts is not None:
        return watts
    return None if mv is None or ma is None else mv * ma * 1e-6
