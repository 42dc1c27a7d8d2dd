"""A run from its parts: the files, what each gives, and check-ins typed or pasted."""

import datetime as dt
import tempfile
from collections.abc import Iterable
from dataclasses import dataclass, replace
from pathlib import Path
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from ..core.clock import ClockKind, Timeline
from ..core.entry import typed_checkins
from ..core.errors import CannotRead
from ..core.reading import RunLog
from .case import Case
from .cells import TimeForm
from .logs import (
    Temperatures,
    TimedReadings,
    meter_log,
    put_together,
    readings_after_placing,
    temperatures,
    timed_readings,
)
from .source import Source, examine
from .tables import Progress, no_progress
from .understanding import Understanding, understand

PASTED = "check-ins"


@dataclass(frozen=True)
class Part:
    """A file, how it was understood, and what is taken from it: `meter`, `checkins`, `heat`."""

    source: Source
    understood: Understanding
    roles: tuple[str, ...]


@dataclass(frozen=True)
class Assembled:
    """What was recorded of a run, when the log began if the meter says so, and remarks of the readers."""

    log: RunLog
    started_at: dt.datetime | None
    remarks: tuple[str, ...]


def zone_of(name: str) -> ZoneInfo:
    """A time zone by its name.

    Raises
    ------
    CannotRead
    """
    try:
        return ZoneInfo(name)
    except (ZoneInfoNotFoundError, ValueError, OSError) as error:
        raise CannotRead(f"“{name[:40]}” is no time zone", "name one as in Europe/Zurich", file="zone") from error


def assemble(
    parts: Iterable[Part],
    checkins: str = "",
    reference: ClockKind | None = None,
    case: Case | None = None,
    zone: ZoneInfo | None = None,
    progress: Progress = no_progress,
) -> Assembled:
    """A run's log from its parts.

    Raises
    ------
    CannotRead
        If there is no meter's log, something comes twice, or a part cannot be read.
    """
    case = case or Case()
    by_role: dict[str, Part] = {}
    for part in parts:
        for role in part.roles:
            if role in by_role:
                raise CannotRead(f"two files give the {role}", "take it from one of them only", file=part.source.name)
            by_role[role] = part
    if "meter" not in by_role:
        raise CannotRead("there is no meter's log among the files", "drop the CSV that the meter wrote", file="files")
    readings: TimedReadings | None = None
    if checkins.strip():
        if "checkins" in by_role:
            raise CannotRead(
                "check-ins are typed and come in a file as well",
                "keep one of the two",
                file=by_role["checkins"].source.name,
            )
        readings = pasted_readings(checkins, reference, zone)
    elif "checkins" in by_role:
        part = by_role["checkins"]
        readings = timed_readings(part.source, part.understood, zone)
        if reference is ClockKind.AFTER_PLACING:
            readings = counted_from_placing(readings)
    surfaces: Temperatures | None = None
    if "heat" in by_role:
        part = by_role["heat"]
        surfaces = temperatures(part.source, part.understood, zone)
    meter = meter_log(by_role["meter"].source, by_role["meter"].understood, zone, progress)
    log = put_together(meter, readings, surfaces, case.placed_s, case.ambient_c)
    started = None
    if meter.clock.kind is ClockKind.ABSOLUTE:
        started = dt.datetime.fromtimestamp(float(meter.clock.seconds.min()), dt.UTC)
    return Assembled(log, started, meter.remarks)


def counted_from_placing(readings: TimedReadings) -> TimedReadings:
    """The same readings, their times taken to count from the placing of the phone."""
    return replace(readings, clock=Timeline(ClockKind.AFTER_PLACING, readings.clock.seconds))


def pasted_readings(text: str, reference: ClockKind | None = None, zone: ZoneInfo | None = None) -> TimedReadings:
    """Check-ins from typed lines, or from cells pasted out of a spreadsheet.

    Typed lines, and pasted minutes, count from the placing of the phone; pasted seconds, times of day and dates run on
    the log's clock. `reference` overrules that.

    Raises
    ------
    CannotRead
        Naming the line.
    """
    try:
        found = readings_after_placing(typed_checkins(text))
        on_log = False
    except CannotRead as error:
        if not any(c.isalpha() for c in text.strip().splitlines()[0]) and not _dated(text):
            raise error.within(PASTED) from None
        found, form = _pasted_table(text, zone)
        on_log = form not in (TimeForm.MINUTES, TimeForm.HOURS)
    if reference is ClockKind.AFTER_PLACING or (reference is None and not on_log):
        return counted_from_placing(found)
    if found.clock.kind is ClockKind.AFTER_PLACING:
        return replace(found, clock=Timeline(ClockKind.ELAPSED, found.clock.seconds))
    return found


def _dated(text: str) -> bool:
    first = text.strip().splitlines()[0]
    return first.count("-") >= 2 or first.count(".") >= 2 or first.count(":") >= 2


def _pasted_table(text: str, zone: ZoneInfo | None) -> tuple[TimedReadings, TimeForm | None]:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "pasted.tsv"
        path.write_text(text, encoding="utf-8")
        source = examine(path, PASTED)
        understood = understand(source)
        return timed_readings(source, understood, zone), understood.time_form
