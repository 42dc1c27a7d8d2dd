"""The command line: one thin command per use, on files, without a server or a database."""

import json
import signal
import sys
from pathlib import Path
from typing import Annotated, Any, NoReturn

import typer

from .core.errors import CannotRead
from .core.figures import EXPANDED_NOTE, figures
from .core.reading import Reading, read_run
from .core.sentences import sentences, warnings
from .core.words import decimals
from .formats.case import Case, read_case
from .formats.logs import Temperatures, TimedReadings, meter_log, put_together, temperatures, timed_readings
from .formats.report import document
from .formats.source import examine
from .formats.understanding import understand
from .postgres import CannotServe, is_free

# What Typer raises for a wrong call: the base of the one such error that it gives out by name.
UsageError: Any = typer.BadParameter.__mro__[1]
BAD_INPUT = 2
CANNOT_SERVE = 1
PAGES = Path(__file__).resolve().parents[2] / "web" / "dist"
RATIO_UNUSED = "The reference ratio is not used: this reading makes no estimate of the charger's output."

app = typer.Typer(
    add_completion=False,
    no_args_is_help=True,
    pretty_exceptions_enable=False,
    help="Measure wireless chargers against phones, and say what the figures allow.",
)


@app.callback()
def _commands() -> None:
    """Keep the name of each command, however few there are."""


@app.command()
def read(
    meter: Annotated[
        Path, typer.Option(help="the meter's log: any CSV or XLSX with times and volts and amps, or watts")
    ],
    battery: Annotated[Path | None, typer.Option(help="check-ins: time and percentage")] = None,
    heat: Annotated[Path | None, typer.Option(help="temperatures: time, position, °C")] = None,
    case: Annotated[Path | None, typer.Option(help="what was typed in: battery, room, claim; JSON")] = None,
    reference_ratio: Annotated[
        float | None,
        typer.Option(help="watts drawn per watt delivered on a chain known to deliver", min=1.0, max=5.0),
    ] = None,
    as_json: Annotated[bool, typer.Option("--json", help="one JSON document and nothing else")] = False,
) -> None:
    """Read one run from its files."""
    conditions = (read_case(case) if case else Case()).conditions()
    source = examine(meter)
    log = meter_log(source, understand(source))
    readings: TimedReadings | None = None
    surfaces: Temperatures | None = None
    if battery:
        source = examine(battery)
        readings = timed_readings(source, understand(source))
    if heat:
        source = examine(heat)
        surfaces = temperatures(source, understand(source))
    run = put_together(log, readings, surfaces, conditions.placed_s, conditions.ambient_c)
    reading = read_run(run, conditions)
    remarks = [*log.remarks, *([RATIO_UNUSED] if reference_ratio else [])]
    if as_json:
        made = document(reading)
        made["warnings"] += remarks
        typer.echo(json.dumps(made, ensure_ascii=False))
    else:
        typer.echo(_table(reading, remarks))


@app.command()
def serve(
    demo: Annotated[bool, typer.Option(help="load the demonstration's runs, if they are not there yet")] = False,
) -> None:
    """Start the database server and serve the application on this machine, until Ctrl-C."""
    import uvicorn

    from .api.app import make_app
    from .demo.hut import load
    from .service import ready_database
    from .settings import settings

    def leave(*_: object) -> None:
        for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
            signal.signal(number, signal.SIG_IGN)
        raise SystemExit(0)

    # The web server raises the signal again once it has shut down; leaving by an exception stops the rest as well.
    # It shuts down in order on the first two only, so a hang-up is passed on as the second.
    signal.signal(signal.SIGINT, leave)
    signal.signal(signal.SIGTERM, leave)
    signal.signal(signal.SIGHUP, lambda *_: signal.raise_signal(signal.SIGTERM))
    where = settings()
    if not is_free(where.port):
        raise CannotServe(f"port {where.port} is taken: stop what listens there, or set JAUNECHARGE_PORT to another")
    if not PAGES.exists():
        raise CannotRead("the pages are not built", "run make build", file=str(PAGES))
    with ready_database(where) as database:
        if demo:
            typer.echo("demonstration runs …")
            typer.echo(f"demonstration runs: {load(database) or 'already there'}")
        typer.echo(f"\n  Jaunecharge is at http://127.0.0.1:{where.port}/   (Ctrl-C stops it)\n")
        application = make_app(database, where.uploads, PAGES)
        uvicorn.run(application, host="127.0.0.1", port=where.port, log_level="warning", timeout_graceful_shutdown=3)


@app.command()
def backup(file: Annotated[Path, typer.Argument(help="the file to write")]) -> None:
    """Write everything that is stored into one file."""
    from .service import ready_database
    from .settings import settings
    from .store.backup import backup as write

    with ready_database(settings(), _to_stderr) as database:
        write(database, file)
    typer.echo(f"{file}: {file.stat().st_size:,} bytes")


@app.command()
def restore(file: Annotated[Path, typer.Argument(help="a file that `backup` wrote")]) -> None:
    """Put a backup in the place of what is stored; what is stored now is saved beside it first."""
    from .service import ready_database
    from .settings import settings
    from .store.backup import backup as write
    from .store.backup import restore as put_back

    with ready_database(settings(), _to_stderr) as database:
        before = file.with_name(f"{file.name}.before-restore")
        write(database, before)
        put_back(database, file)
    typer.echo(f"restored from {file}; what was stored before is in {before}")


@app.command()
def openapi() -> None:
    """The description of the web API, from which the front end's types are made."""
    from .api.app import make_app
    from .store.database import Database

    described = make_app(Database("postgresql://nobody@127.0.0.1/none"), Path("uploads")).openapi()
    typer.echo(json.dumps(described, indent=1, ensure_ascii=False))


def _to_stderr(text: str) -> None:
    typer.echo(text, err=True)


def _table(reading: Reading, remarks: list[str]) -> str:
    lines = [f"{s.plain}\n    {s.basis}" for s in sentences(reading)]
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


def main() -> None:
    """The command `jaunecharge`; bad input is one line on standard error and exit 2."""
    try:
        raise SystemExit(app(standalone_mode=False) or 0)
    except UsageError as error:
        if not (said := error.format_message().rstrip(".")):
            raise SystemExit(BAD_INPUT) from None
        command = error.ctx.command_path if error.ctx else "jaunecharge"
        _refuse(f"{command}: {said}; see {command} --help", BAD_INPUT)
    except CannotRead as error:
        _refuse(str(error), BAD_INPUT)
    except CannotServe as error:
        _refuse(str(error), CANNOT_SERVE)
    except typer.Abort:
        raise SystemExit(1) from None


def _refuse(said: str, code: int) -> NoReturn:
    print(" ".join(said.split()), file=sys.stderr)
    raise SystemExit(code) from None
