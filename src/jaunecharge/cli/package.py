"""`jaunecharge export --package`, `jaunecharge import`: the data package out of the database and into it."""

import datetime as dt
import json
import sys
import uuid
from collections.abc import Callable
from pathlib import Path
from typing import Annotated, Literal

import typer

from ..core.errors import CannotRead
from .app import command

CONFLICTS_LEFT = 4


def _progress(what: str) -> Callable[[float], None]:
    """A line on standard error that says how far it is, where somebody looks."""
    last = -1

    def told(fraction: float) -> None:
        nonlocal last
        percent = int(100 * fraction)
        if percent != last and sys.stderr.isatty():
            typer.echo(f"\r{what} {percent} %", err=True, nl=percent == 100)
            last = percent

    return told


@command("export")
def export(
    package: Annotated[
        Path | None, typer.Option("--package", help="the folder, or the file ending in .zip, to write")
    ] = None,
    parquet: Annotated[
        Path | None, typer.Option("--parquet", help="the folder of a Parquet data set to write, for analysts")
    ] = None,
    finding: Annotated[str, typer.Option(help="id of a finding: it alone, with all that it rests on")] = "",
    everything: Annotated[
        bool, typer.Option("--all", help="everything of the bench; what is done without --finding")
    ] = False,
    run: Annotated[list[str] | None, typer.Option(help="with --parquet: id of a run, again for each more")] = None,
    phone: Annotated[str, typer.Option(help="with --parquet: runs of this phone alone")] = "",
    charger: Annotated[str, typer.Option(help="with --parquet: runs on this charger alone")] = "",
    since: Annotated[str, typer.Option(help="with --parquet: runs that began then or later, ISO 8601")] = "",
    until: Annotated[str, typer.Option(help="with --parquet: runs that began before then, ISO 8601")] = "",
    as_json: Annotated[bool, typer.Option("--json", help="one JSON document on standard output")] = False,
) -> None:
    from ..service import ready_database
    from ..settings import settings
    from ..store.errors import NotThere
    from ..store.packages.dataset import Selection, export_dataset
    from ..store.packages.going_out import export_package

    if finding and everything:
        raise CannotRead("--all and --finding exclude each other", "give one of them", file="--finding")
    wanted = _id(finding, "--finding") if finding else None
    if (package is None) == (parquet is None):
        raise CannotRead("--package and --parquet exclude each other", "give one of them", file="export")
    if package is not None and (run or phone or charger or since or until):
        raise CannotRead("a package holds everything, or one finding", "select runs with --parquet", file="export")
    target = package or parquet
    assert target is not None
    if not target.parent.is_dir():
        raise CannotRead("there is no such folder", "name one that is there", file=str(target.parent))
    selection = Selection(
        wanted, tuple(_id(r, "--run") for r in run or ()), phone.strip(), charger.strip(), _moment(since, "--since"),
        _moment(until, "--until"),
    )  # fmt: skip
    with ready_database(settings(), _to_stderr) as database:
        try:
            if parquet is not None:
                written = export_dataset(database, parquet, selection, _progress("exporting"))
            else:
                export_package(database, target, wanted, _progress("exporting"))
        except NotThere as error:
            raise CannotRead(str(error), "list them under Findings", file="--finding") from error
        except FileExistsError as error:
            raise CannotRead(str(error), "name another, or delete it", file=str(target)) from error
    files = [target] if target.is_file() else [p for p in target.rglob("*") if p.is_file()]
    size = sum(p.stat().st_size for p in files)
    if parquet is not None and as_json:
        found = {"runs": written.runs, "rows": written.rows, "files": len(files), "bytes": size}
        typer.echo(json.dumps({"parquet": str(target), **found}))
    elif parquet is not None:
        rows = ", ".join(f"{count:,} {name}" for name, count in written.rows.items() if name != "runs")
        typer.echo(f"{target}: {written.runs:,} runs{', ' if rows else ''}{rows}; {size:,} bytes")
    elif as_json:
        typer.echo(json.dumps({"package": str(target), "files": len(files), "bytes": size}))
    else:
        typer.echo(f"{target}: {size:,} bytes")


def _id(text: str, option: str) -> uuid.UUID:
    try:
        return uuid.UUID(text)
    except ValueError as error:
        raise CannotRead(f"“{text[:60]}” is no id", "as it stands in the address of its page", option) from error


def _moment(text: str, option: str) -> dt.datetime | None:
    """A moment as it was typed; of a date its beginning, in UTC where no offset stands."""
    if not text:
        return None
    try:
        at = dt.datetime.fromisoformat(text)
    except ValueError as error:
        raise CannotRead(f"“{text[:40]}” is no moment", "as 2026-11-30 or 2026-11-30T08:00+01:00", option) from error
    return at if at.tzinfo is not None else at.replace(tzinfo=dt.UTC)


@command("import")
def import_(
    package: Annotated[Path, typer.Argument(help="a folder or a ZIP that `export --package` wrote")],
    take: Annotated[
        Literal["theirs", "mine"] | None, typer.Option(help="settle what was changed here and there")
    ] = None,
    as_json: Annotated[bool, typer.Option("--json", help="one JSON document on standard output")] = False,
) -> None:
    from ..service import ready_database
    from ..settings import settings
    from ..store.packages.coming_in import import_package

    with ready_database(settings(), _to_stderr) as database:
        done = import_package(database, package, take or "", _progress("importing"))
    if as_json:
        conflicts = [{"table": c.table, "label": c.label, "differs": list(c.differs)} for c in done.conflicts]
        counts = {"new": done.new, "equal": done.equal, "taken": done.taken}
        typer.echo(json.dumps({**counts, "conflicts": conflicts}, ensure_ascii=False))
    else:
        for what, counted in (("new", done.new), ("equal", done.equal), ("taken", done.taken)):
            rows = ", ".join(f"{n} {name.replace('_', ' ')}" for name, n in counted.items())
            typer.echo(f"{what}: {rows or 'nothing'}")
        for conflict in done.conflicts:
            typer.echo(f"changed here and there: {conflict.table}, {conflict.label} ({', '.join(conflict.differs)})")
        if done.left:
            typer.echo("left as they are here: say --take theirs or --take mine", err=True)
    if done.left:
        raise typer.Exit(CONFLICTS_LEFT)


def _to_stderr(text: str) -> None:
    typer.echo(text, err=True)
