"""`jaunecharge read`: one run, from its files."""

import json
from dataclasses import replace
from pathlib import Path
from typing import Annotated

import typer

from ..core.errors import CannotRead
from ..core.log import ClockKind, Timeline, Whose
from ..core.reading import Reading, given_ratio, read_run
from ..core.report import EXPANDED_NOTE, figures, sentences, warnings
from ..core.units import MINUTE_S
from ..core.wording import decimals
from ..documents.case import Case
from ..formats.json_files import read_case
from ..formats.many.contents import read_one
from ..formats.read.apart import limited
from ..formats.read.logs import (
    MeterLog,
    Temperatures,
    TimedReadings,
    counted_from,
    guess_clock,
    meter_log,
    put_together,
    temperatures,
    timed_readings,
    without_meter,
)
from ..formats.read.socket_log import with_socket
from ..formats.read.source import examine
from ..formats.read.understanding import understand
from ..formats.write.report import document
from .app import command


@command("read")
def read(
    meter: Annotated[
        Path | None, typer.Option(help="the meter's log: any CSV or XLSX with times and volts and amps, or watts")
    ] = None,
    socket: Annotated[Path | None, typer.Option(help="the log of a meter at the socket, before the adapter")] = None,
    battery: Annotated[Path | None, typer.Option(help="check-ins: time and percentage")] = None,
    heat: Annotated[Path | None, typer.Option(help="temperatures: time, position, °C")] = None,
    battery_clock: Annotated[Whose, typer.Option(help="what the relative times of --battery count from")] = "log",
    heat_clock: Annotated[Whose, typer.Option(help="what the relative times of --heat count from")] = "log",
    case: Annotated[Path | None, typer.Option(help="what was typed in: battery, room, claim; JSON")] = None,
    reference_ratio: Annotated[
        float | None,
        typer.Option(help="watts drawn per watt delivered on a chain known to deliver", min=1.0, max=5.0),
    ] = None,
    run_number: Annotated[
        int | None, typer.Option("--run", help="which run of the file, as `jaunecharge runs` numbers them", min=1)
    ] = None,
    as_json: Annotated[bool, typer.Option("--json", help="one JSON document and nothing else")] = False,
) -> None:
    conditions = (read_case(case) if case else Case()).conditions()
    if reference_ratio is not None:
        conditions = replace(conditions, ratio=given_ratio(reference_ratio))
    readings: TimedReadings | None = None
    surfaces: Temperatures | None = None
    if meter is None and battery is None and heat is None:
        raise CannotRead("there is no file to read", "give --meter, --battery or --heat")
    log: MeterLog | None = None
    if run_number is not None:
        log, readings = _one_of(meter, battery, run_number)
    elif meter:
        with limited(meter.name):
            source = examine(meter)
            log = meter_log(source, understand(source))
    if battery and (run_number is None or readings is None):
        with limited(battery.name):
            source = examine(battery)
            readings = timed_readings(source, understand(source))
    if heat:
        with limited(heat.name):
            source = examine(heat)
            surfaces = temperatures(source, understand(source))
    remarks = [] if log is None else list(log.remarks)
    if readings is not None:
        remarks += _doubtful(log, readings.clock, battery_clock, "--battery", conditions.placed_s)
        readings = replace(readings, clock=counted_from(readings.clock, battery_clock))
    if surfaces is not None:
        remarks += _doubtful(log, surfaces.clock, heat_clock, "--heat", conditions.placed_s)
        surfaces = replace(surfaces, clock=counted_from(surfaces.clock, heat_clock))
    if log is None:
        alone = without_meter(readings, surfaces, conditions.placed_s, conditions.ambient_c)
        run, conditions = alone.log, replace(conditions, placed_s=alone.placed_s)
    else:
        run = put_together(log, readings, surfaces, conditions.placed_s, conditions.ambient_c)
    if socket is not None:
        clock = log.clock if log is not None else None if readings is None else readings.clock
        with limited(socket.name):
            source = examine(socket)
            run, more = with_socket(run, clock, source, understand(source))
        remarks += more
    del log  # Of a long log every array counts.
    reading = read_run(run, conditions)
    if as_json:
        result = document(reading)
        result["warnings"] += remarks
        typer.echo(json.dumps(result, ensure_ascii=False))
    else:
        typer.echo(_table(reading, remarks))


def _one_of(meter: Path | None, battery: Path | None, number: int) -> tuple[MeterLog | None, TimedReadings | None]:
    """One run of a file that holds several."""
    file = meter or battery
    if file is None:
        raise CannotRead("no file is given that holds runs", "give --meter or --battery", "--run")
    with limited(file.name):
        chosen = read_one(examine(file), number)
    return chosen.meter, chosen.readings


def _doubtful(log: MeterLog | None, clock: Timeline, whose: Whose, option: str, placed_s: float | None) -> list[str]:
    """Evidence for the other clock, where that is not what was stated."""
    if log is None or whose == "placing" or clock.kind is not ClockKind.ELAPSED or not len(clock.seconds):
        return []
    guess = guess_clock(log, clock, placed_s)
    if guess.whose != "placing":
        return []
    return [
        f"Times of {option} are read on the meter's clock, but {guess.why}: {option}-clock placing counts from there."
    ]


def _table(reading: Reading, remarks: list[str]) -> str:
    lines = [f"{s.plain}\n    {s.basis}" for s in sentences(reading)]
    judged = reading.judged
    if judged is not None and judged.phases:
        lines += ["", f"{'phase':12} {'from, min':>10} {'to, min':>10} {'mean W':>8}", "-" * 44]
        lines += [
            f"{p.kind:12} {_after(reading, p.start_s):>10.1f} {_after(reading, p.end_s):>10.1f} {p.mean_w:>8.2f}"
            for p in judged.phases
        ]
    if judged is not None and judged.dips:
        lines += ["", f"{'dip':12} {'from, min':>10} {'to, min':>10} {'W less':>8}  rests on", "-" * 78]
        lines += [
            f"{d.cause:12} {_after(reading, d.start_s):>10.1f} {_after(reading, d.end_s):>10.1f} {d.depth_w:>8.2f}"
            f"  {d.why}"
            for d in judged.dips
        ]
    lines += ["", f"{'figure':32} {'value':>10}   {'± or span':>9}  unit  measured at", "-" * 78]
    for f in figures(reading):
        places = 2 if f.expanded is None else decimals(f.expanded)
        spread = "" if f.expanded is None else f"{f.expanded:.{places}f}"
        if f.low is not None and f.high is not None:
            places, spread = 0, f"{f.low:.0f}–{f.high:.0f}"
        lines.append(f"{f.label:32} {f.value:>10.{places}f}   {spread:>9}  {f.unit:4}  {f.point}")
    lines += ["", EXPANDED_NOTE]
    careful = [*warnings(reading), *remarks]
    if careful:
        lines += ["", "Be careful:", *(f"  - {w}" for w in careful)]
    return "\n".join(lines)


def _after(reading: Reading, at_s: float) -> float:
    """Minutes after placing."""
    return (at_s - reading.placed_s) / MINUTE_S
