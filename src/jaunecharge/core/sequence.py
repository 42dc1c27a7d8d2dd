"""Readings that arrive twice, late, in any order, after a restart or with a clock that jumped: what they are.

A source numbers its readings. What has been seen of it stands in `Source`; `settle` says where each of a batch
belongs, so that the same readings sent again in any order settle to the same run.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

JUMP_S = 30.0
"""A source's clock that is off by more than this against what arrived before has jumped (our own)."""


@dataclass(frozen=True)
class Pushed:
    """A reading as a source sends it: its number, its own time [s] on any clock, or none."""

    number: int
    clock_s: float | None = None


@dataclass(frozen=True)
class Source:
    """What is known of a source on a lane.

    epoch : how often it has started anew; boot : what it calls its present start; last : its highest number so far;
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
    """Where a batch belongs: each reading's lane time [s], the source as it is then, and what happened to it."""

    at_s: tuple[float, ...]
    source: Source
    restarted: bool = False
    jumped_s: float = 0.0


def settle(source: Source, batch: Sequence[Pushed], arrived_s: float, speed: float = 1.0, boot: str = "") -> Settled:
    """Where the readings of a batch belong on the lane's clock.

    Parameters
    ----------
    source : Source
    batch : sequence of Pushed
        Of one source, in any order; not empty.
    arrived_s : float [s]
        When the batch arrived, on the lane's clock; nothing in it was read later.
    speed : float
        How many lane seconds pass in a second; a source's clock counts lane seconds.
    boot : str
        What the source calls its present start; empty where it does not say.
    """
    if not batch:
        raise ValueError("a batch holds at least one reading")
    restarted = _restarted(source, batch, boot)
    if restarted:
        source = replace(source, epoch=source.epoch + 1, last=-1, newest_s=None, offset_s=None)
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
    at = tuple(arrived_s if r.clock_s is None or offset is None else r.clock_s + offset for r in batch)
    known = [c for c in (source.newest_s, newest_clock) if c is not None]
    return Settled(
        at,
        replace(
            source,
            boot=boot or source.boot,
            last=max(source.last, newest.number),
            newest_s=newest_clock if jumped else (max(known) if known else None),
            offset_s=offset,
        ),
        restarted,
        jumped,
    )


def _jumped(source: Source, newest: Pushed, shift_s: float, speed: float) -> bool:
    """Whether a clock has jumped: its readings come from the future, or from before those that were there.

    One that is merely late is behind by its lag, and no earlier than what came before it.
    """
    back = newest.clock_s is not None and source.newest_s is not None and newest.clock_s < source.newest_s
    return back or shift_s < -max(JUMP_S, JUMP_S * speed / 10.0)


def _restarted(source: Source, batch: Sequence[Pushed], boot: str) -> bool:
    """Whether the source has begun to count anew: it says so, or low numbers come with later times than all before."""
    if boot and source.boot:
        return boot != source.boot
    if source.last < 0:
        return False
    low = max(r.number for r in batch) <= source.last
    clocks = [r.clock_s for r in batch if r.clock_s is not None]
    return low and bool(clocks) and source.newest_s is not None and min(clocks) > source.newest_s
