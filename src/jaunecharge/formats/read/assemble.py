"""A run from its parts: the files, what each gives, and check-ins typed or pasted."""

import datetime as dt
import tempfile
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from zoneinfo import ZoneInfo

import numpy as np

from ...core.errors import CannotRead
from ...core.log import ClockKind, Guess, Timeline, Whose, typed_checkins, typed_temperatures
from ...core.reading import RunLog
from ...core.units import MINUTE_S
from ...documents.case import Case
from .cells import TimeForm
from .columns import Progress, no_progress
from .logs import (
    MeterLog,
    PhoneReports,
    Temperatures,
    TimedReadings,
    counted_from,
    guess_clock,
    meter_log,
    phone_reports,
    put_together,
    readings_after_placing,
    temperatures,
    timed_readings,
    without_meter,
)
from .socket_log import SOCKET, with_socket
from .source import Source, examine
from .understanding import Understanding, understand

PASTED = "check-ins"
PASTED_HEAT = "temperatures"


@dataclass(frozen=True)
class Part:
    """A file, how it was understood, and what is taken from it: `meter`, `checkins`, `heat`, `phone`, `socket`; whose :
    what its relative times count from, where somebody said so."""

    source: Source
    understood: Understanding
    roles: tuple[str, ...]
    whose: Whose | None = None


@dataclass(frozen=True)
class Assembled:
    """Log of a run, when it began if its times say so, and remarks of the readers; placed_s [s] where times that count
    from the placing state it."""

    log: RunLog
    started_at: dt.datetime | None
    remarks: tuple[str, ...]
    placed_s: float | None = None


def assemble(
    parts: Iterable[Part],
    checkins: str = "",
    reference: ClockKind | None = None,
    case: Case | None = None,
    zone: ZoneInfo | None = None,
    progress: Progress = no_progress,
    heat: str = "",
    in_fahrenheit: bool = False,
) -> Assembled:
    """A run's log from its parts; check-ins and temperatures may be typed or pasted, temperatures without a unit in °F
    where that is said.

    Raises
    ------
    CannotRead
        If there is nothing to read, something comes twice, or a part cannot be read.
    """
    case = case or Case()
    by_role: dict[str, Part] = {}
    for part in parts:
        for role in part.roles:
            if role in by_role:
                raise CannotRead(f"two files give the {role}", "take it from one of them only", file=part.source.name)
            by_role[role] = part
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
    if heat.strip():
        surfaces = pasted_temperatures(heat, in_fahrenheit, zone)
        if "heat" in by_role:
            raise CannotRead(
                "temperatures are typed and come in a file as well", "keep one of the two", by_role["heat"].source.name
            )
    elif "heat" in by_role:
        part = by_role["heat"]
        surfaces = temperatures(part.source, part.understood, zone)
    phone: PhoneReports | None = None
    if "phone" in by_role:
        phone = phone_reports(by_role["phone"].source, by_role["phone"].understood, zone)
    if "meter" not in by_role:
        return _without_meter(by_role, readings, surfaces, phone, case, zone)
    meter = meter_log(by_role["meter"].source, by_role["meter"].understood, zone, progress)
    first = None if readings is None or not len(readings.percent) else float(readings.percent[0])
    remarks = list(meter.remarks)
    for role, series in (("checkins", readings), ("heat", surfaces), ("phone", phone)):
        beside = role in by_role and by_role[role].source.path != by_role["meter"].source.path
        if series is None or not beside or series.clock.kind is not ClockKind.ELAPSED or not len(series.clock.seconds):
            continue
        whose, remark = _whose(by_role[role], meter, series.clock, case.placed_s, first)
        remarks += [remark] if remark else []
        clock = counted_from(series.clock, whose)
        if isinstance(series, TimedReadings):
            readings = replace(series, clock=clock)
        elif isinstance(series, Temperatures):
            surfaces = replace(series, clock=clock)
        else:
            phone = replace(series, clock=clock)
    log = put_together(meter, readings, surfaces, case.placed_s, case.ambient_c, phone)
    if (plug := by_role.get(SOCKET)) is not None:
        log, more = with_socket(log, meter.clock, plug.source, plug.understood, zone)
        remarks += more
    absolute = meter.clock.kind is ClockKind.ABSOLUTE
    return Assembled(log, _moment(float(meter.clock.seconds.min()) if absolute else None), tuple(remarks))


def _moment(seconds: float | None) -> dt.datetime | None:
    return None if seconds is None else dt.datetime.fromtimestamp(seconds, dt.UTC)


def _without_meter(
    by_role: dict[str, Part],
    readings: TimedReadings | None,
    surfaces: Temperatures | None,
    phone: PhoneReports | None,
    case: Case,
    zone: ZoneInfo | None,
) -> Assembled:
    """A run from percentages, temperatures or both; relative times of a file count from where somebody said."""

    def whose(role: str, clock: Timeline) -> Timeline:
        said = by_role[role].whose if role in by_role else None
        return counted_from(clock, said or "log")

    if readings is not None:
        readings = replace(readings, clock=whose("checkins", readings.clock))
    if surfaces is not None:
        surfaces = replace(surfaces, clock=whose("heat", surfaces.clock))
    if phone is not None:
        phone = replace(phone, clock=whose("phone", phone.clock))
    run = without_meter(readings, surfaces, case.placed_s, case.ambient_c, phone)
    log, remarks = run.log, list[str]()
    if (plug := by_role.get(SOCKET)) is not None:
        clock = None if readings is None else readings.clock
        log, remarks = with_socket(log, clock, plug.source, plug.understood, zone)
    return Assembled(log, _moment(run.started_s), tuple(remarks), run.placed_s)


def clocks_asked(parts: Sequence[Part], placed_s: float | None = None) -> list[tuple[int, Guess]]:
    """Of each file beside the meter's whose times are relative, by its place among the parts: whose clock it is on.

    Raises
    ------
    CannotRead
    """
    meter_part = next((p for p in parts if "meter" in p.roles), None)
    if meter_part is None:
        return []
    meter, questions = meter_log(meter_part.source, meter_part.understood), []
    for n, part in enumerate(parts):
        if part is meter_part or not part.roles or SOCKET in part.roles:
            continue
        clock = series_of(part).clock
        if clock.kind is ClockKind.ELAPSED and len(clock.seconds):
            questions.append((n, guess_clock(meter, clock, placed_s)))
    return questions


def series_of(part: Part) -> TimedReadings | Temperatures | PhoneReports:
    """Reader of a file beside a meter's log, by the first of its roles.

    Raises
    ------
    CannotRead
    """
    if "checkins" in part.roles:
        return timed_readings(part.source, part.understood)
    if "heat" in part.roles:
        return temperatures(part.source, part.understood)
    return phone_reports(part.source, part.understood)


def _whose(
    part: Part, meter: MeterLog, clock: Timeline, placed_s: float | None, first_percent: float | None
) -> tuple[Whose, str]:
    """Zero of the relative times of a file, and a remark where nobody stated it."""
    if part.whose is not None:
        return part.whose, ""
    guess = guess_clock(meter, clock, placed_s, first_percent)
    name = part.source.name
    if guess.whose == "placing":
        return "placing", f"Times of {name} are taken to count from the placing: {guess.why}."
    if guess.whose is None:
        return "log", f"Times of {name} are taken to be on the meter's clock, which nobody said: {guess.why}."
    return "log", ""


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
        readings = readings_after_placing(typed_checkins(text))
        on_log = False
    except CannotRead as error:
        if not any(c.isalpha() for c in text.strip().splitlines()[0]) and not _dated(text):
            raise error.within(PASTED) from None
        readings, form = _pasted_table(text, zone)
        on_log = form not in (TimeForm.MINUTES, TimeForm.HOURS)
    if reference is ClockKind.AFTER_PLACING or (reference is None and not on_log):
        return counted_from_placing(readings)
    if readings.clock.kind is ClockKind.AFTER_PLACING:
        return replace(readings, clock=Timeline(ClockKind.ELAPSED, readings.clock.seconds))
    return readings


def pasted_temperatures(text: str, in_fahrenheit: bool = False, zone: ZoneInfo | None = None) -> Temperatures:
    """Temperatures from typed lines, `10 98.4f back`, which count from the placing of the phone; or from cells pasted
    out of a spreadsheet, on the log's clock where they are seconds, times of day or dates.

    Raises
    ------
    CannotRead
        Naming the line.
    """
    try:
        rows = typed_temperatures(text, in_fahrenheit)
    except CannotRead as error:
        table = _heat_table(text, zone)
        if table is None:
            raise error.within(PASTED_HEAT) from None
        return table
    seconds = np.array([minute * MINUTE_S for minute, _, _ in rows])
    clock = Timeline(ClockKind.AFTER_PLACING, seconds, file=PASTED_HEAT)
    return Temperatures(clock, tuple(place for *_, place in rows), np.array([c for _, c, _ in rows]))


def _heat_table(text: str, zone: ZoneInfo | None) -> Temperatures | None:
    """Temperatures of cells that were pasted; None where they are no table of temperatures."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "pasted.tsv"
        path.write_text(text, encoding="utf-8")
        source = examine(path, PASTED_HEAT)
        try:
            understood = understand(source)
        except CannotRead:
            return None
        if not understood.of("celsius") or understood.problems:
            return None
        table = temperatures(source, understood, zone)
    if understood.time_form not in (TimeForm.MINUTES, TimeForm.HOURS):
        return table
    return replace(table, clock=Timeline(ClockKind.AFTER_PLACING, table.clock.seconds))


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
