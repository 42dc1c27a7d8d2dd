"""Readings that arrive twice, late, in any order, after a restart or with a clock that jumped: what they are.

A source numbers its readings, from 0 again each time it is started. What has been seen of each of its starts stands
in a `Source`; `start_of` says to which start a batch belongs, `settle` where each of its readings belongs in time, so
that the same readings sent again in any order settle to the same run.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

JUMP_S = 30.0
"""A source's clock that is off by more than this against what arrived before has jumped (our own)."""

EARLIEST_S = -86_400.0
"""A reading from longer before its lane was opened is none of the lane's (our own)."""

Figures = tuple[float | str | None, ...]
"""Content of a reading, without its number and time."""


@dataclass(frozen=True)
class Pushed:
    """A reading as a source sends it: its number, its own time [s] on any clock, or none."""

    number: int
    clock_s: float | None = None


@dataclass(frozen=True)
class Source:
    """State of one start of a source on a lane.

    epoch : how many starts came before; boot : what the source calls this start; last : its highest number so far;
    newest_s : the time of its newest reading on its own clock; offset_s : what its clock needs to be the lane's.
    """

    name: str
    epoch: int = 0
    boot: str = ""
    last: int = -1
    newest_s: float | None = None
    offset_s: float | None = None


@dataclass(frozen=True)
class Settled:
    """Where a batch belongs: each reading's lane time [s], and the source as it is then.

    A time is None where it cannot be: longer before the lane was opened than a day.
    """

    at_s: tuple[float | None, ...]
    source: Source
    jumped_s: float = 0.0


def start_of(
    starts: Sequence[Source],
    batch: Sequence[Pushed],
    sent: Mapping[int, Figures],
    stored: Mapping[int, Mapping[int, Figures]],
) -> Source | None:
    """The start of a source that a batch belongs to; None where it is a new one.

    Equal numbers with other figures, or with times later than all before, come from a source that counts anew. The
    same readings again belong to the start that they came from first.

    Parameters
    ----------
    starts : sequence of Source
        Those that the batch's name and boot can mean, the oldest first.
    sent : mapping
        The batch's figures by number.
    stored : mapping
        Of each start, by its epoch, the figures that are stored of these numbers.
    """
    if not starts:
        return None
    latest = starts[-1]
    clocks = [r.clock_s for r in batch if r.clock_s is not None]
    counts_anew = not latest.boot and max(r.number for r in batch) <= latest.last
    later = bool(clocks) and latest.newest_s is not None and min(clocks) > latest.newest_s
    if not (counts_anew and later) and _agree(sent, stored.get(latest.epoch, {})):
        return latest
    for start in reversed(starts[:-1]):
        there = stored.get(start.epoch, {})
        if sent.keys() <= there.keys() and _agree(sent, there):
            return start
    return None


def _agree(sent: Mapping[int, Figures], there: Mapping[int, Figures]) -> bool:
    return all(there.get(number, figures) == figures for number, figures in sent.items())


def settle(source: Source, batch: Sequence[Pushed], arrived_s: float, speed: float = 1.0) -> Settled:
    """Where the readings of a batch belong on the lane's clock.

    Parameters
    ----------
    source : Source
        The start that they come from.
    batch : sequence of Pushed
        In any order; not empty.
    arrived_s : float [s]
        When the batch arrived, on the lane's clock; nothing in it was read later.
    speed : float
        How many lane seconds pass in a second; a source's clock counts lane seconds.
    """
    if not batch:
        raise ValueError("a batch holds at least one reading")
    newest = max(batch, key=lambda r: r.number)
    clocks = [r.clock_s for r in batch if r.clock_s is not None]
    newest_clock = max(clocks) if clocks else None
    offset, jumped = source.offset_s, 0.0
    if newest_clock is not None:
        seen = arrived_s - newest_clock
        ahead = newest.number > source.last
        if offset is None:
            offset = seen
        elif ahead and _jumped(source, newest, seen - offset, speed):
            jumped, offset = seen - offset, seen
        elif ahead:
            # What is quickest to arrive tells best how the clocks stand.
            offset = min(offset, seen)
    at = (arrived_s if r.clock_s is None or offset is None else min(r.clock_s + offset, arrived_s) for r in batch)
    known = [c for c in (source.newest_s, newest_clock) if c is not None]
    return Settled(
        tuple(t if t >= EARLIEST_S else None for t in at),
        replace(
            source,
            last=max(source.last, newest.number),
            newest_s=newest_clock if jumped else (max(known) if known else None),
            offset_s=offset,
        ),
        jumped,
    )


def _jumped(source: Source, newest: Pushed, shift_s: float, speed: float) -> bool:
    """Whether a clock has jumped: its readings come from the future, or from before those that were there.

    One that is merely late is behind by its lag, and no earlier than what came before it.
    """
    back = newest.clock_s is not None and source.newest_s is not None and newest.clock_s < source.newest_s
    return back or shift_s < -max(JUMP_S, JUMP_S * speed / 10.0)
