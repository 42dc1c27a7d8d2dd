"""Files of many runs that were sent: looked at, shown run by run, and taken apart."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass, replace
from zoneinfo import ZoneInfo

from ...core.errors import CannotRead
from ...core.log import ClockKind, Recording, Timeline, recording_of
from ...core.reading import Conditions, Reading, Ribbon, RunLog, read_run, ribbon
from ..read.files import Asked
from ..read.logs import MeterLog, TimedReadings, put_together, without_meter
from ..read.source import Source, examine
from ..read.understanding import Understanding, understand
from .contents import Contents, RunInFile, contents, picked

MOST_LOOKED_BYTES = 30_000_000
"""A log beyond this is not searched for placings before anybody asks."""

SHOWN_STEPS = 120


@dataclass(frozen=True)
class Looked:
    """A file as it was looked at: how it is understood as one run, None where it is not; and how many runs it holds."""

    understanding: Understanding | None
    runs: int


@dataclass(frozen=True)
class Shown:
    """The runs of a file before they are stored, each with its ribbon and its fingerprint; None where a run cannot be
    read by itself."""

    contents: Contents
    ribbons: tuple[Ribbon | None, ...]
    recordings: tuple[Recording | None, ...]


@dataclass(frozen=True)
class Taken:
    """One run out of a file: its log, from its own beginning on; when that was; what the file says of it."""

    label: str
    role: str
    log: RunLog
    started_at: dt.datetime | None
    factors: dict[str, str]
    remarks: tuple[str, ...]


def look_at(asked: Asked) -> Looked:
    """A file, looked at as one run and as many.

    Raises
    ------
    CannotRead
        If it is neither.
    """
    source = examine(asked.path, asked.name)
    understanding, refused = None, None
    try:
        understanding = understand(source, asked.choice)
    except CannotRead as error:
        refused = error
    count = 0
    if asked.path.stat().st_size <= MOST_LOOKED_BYTES:
        try:
            count = len(contents(source).runs)
        except CannotRead as error:
            refused = refused or error
    if understanding is None and count == 0 and refused is not None:
        raise refused
    return Looked(understanding, count)


def show(asked: Asked, zone: ZoneInfo | None = None) -> Shown:
    """The runs of a file, each with its ribbon.

    Raises
    ------
    CannotRead
        If there is no run in it.
    """
    source = examine(asked.path, asked.name)
    inside = contents(source)
    readings = [_read(source, run, zone) for run in inside.runs]
    return Shown(
        inside,
        tuple(None if r is None else ribbon(r, SHOWN_STEPS) for r in readings),
        tuple(None if r is None else recording_of(r.log.trace, r.log.readings, r.placed_s) for r in readings),
    )


def _read(source: Source, run: RunInFile, zone: ZoneInfo | None) -> Reading | None:
    try:
        return read_run(_taken(source, run, zone, None).log, Conditions())
    except CannotRead:
        return None


def take(
    asked: Asked, groups: Sequence[Sequence[int]], zone: ZoneInfo | None = None, ambient_c: float | None = None
) -> list[Taken]:
    """Runs of a file by their numbers; those of one group are one run.

    Raises
    ------
    CannotRead
        If a number is none, or runs are joined that are not placings of one log, side by side.
    """
    source = examine(asked.path, asked.name)
    inside = contents(source)
    by_number = {run.n: run for run in inside.runs}
    runs = []
    for group in groups:
        missing = next((n for n in group if n not in by_number), None)
        if missing is not None or not group:
            raise CannotRead(f"there is no run {missing} in it", "look at the file again", source.name)
        runs.append(joined([by_number[n] for n in sorted(group)], source.name))
    return [_taken(source, run, zone, ambient_c) for run in runs]


def joined(parts: Sequence[RunInFile], name: str) -> RunInFile:
    """Placings of one log that are one run.

    Raises
    ------
    CannotRead
    """
    first, last = parts[0], parts[-1]
    if len(parts) == 1:
        return first
    if any(p.kind != "log" for p in parts) or [p.n for p in parts] != list(range(first.n, last.n + 1)):
        raise CannotRead("only placings of a log that follow each other can be joined", "take them apart again", name)
    return replace(first, end_s=last.end_s, checkins=tuple(c for p in parts for c in p.checkins))


def _taken(source: Source, run: RunInFile, zone: ZoneInfo | None, ambient_c: float | None) -> Taken:
    """The log of a run, counted from its own beginning."""
    one = picked(source, run)
    meter, readings = one.meter, one.readings
    if meter is not None:
        meter = replace(meter, clock=_from(meter.clock, run.start_s))
    if readings is not None:
        readings = replace(readings, clock=_from(readings.clock, run.start_s))
    log = _log(meter, readings, ambient_c)
    began = None if run.began_s is None else run.began_s + run.start_s
    remarks = () if meter is None else meter.remarks
    return Taken(
        run.label, "checkins" if meter is None else "meter", log, _moment(began, run.local, zone), run.factors, remarks
    )


def _log(meter: MeterLog | None, readings: TimedReadings | None, ambient_c: float | None) -> RunLog:
    if meter is None:
        return without_meter(readings, ambient_c=ambient_c).log
    return put_together(meter, readings, ambient_c=ambient_c)


def _from(clock: Timeline, start_s: float) -> Timeline:
    return replace(clock, kind=ClockKind.ELAPSED, seconds=clock.seconds - start_s)


def _moment(seconds: float | None, local: bool, zone: ZoneInfo | None) -> dt.datetime | None:
    """A moment [s since 1970]; where it is by a clock of no stated zone, by that of the reader."""
    if seconds is None:
        return None
    moment = dt.datetime.fromtimestamp(seconds, dt.UTC)
    return moment.replace(tzinfo=zone).astimezone(dt.UTC) if local and zone is not None else moment
