"""`jaunecharge export --package`, `jaunecharge import`: the data package out of the database and into it."""

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
    package: Annotated[Path, typer.Option("--package", help="the folder, or the file ending in .zip, to write")],
    finding: Annotated[str, typer.Option(help="id of a finding: it alone, with all that it rests on")] = "",
    everything: Annotated[
        bool, typer.Option("--all", help="everything of the bench; what is done without --finding")
    ] = False,
    as_json: Annotated[bool, typer.Option("--json", help="one JSON document on standard output")] = False,
) -> None:
    from ..service import ready_database
    from ..settings import settings
    from ..store.errors import NotThere
    from ..store.packages.going_out import export_package

    if finding and everything:
        raise CannotRead("--all and --finding exclude each other", "give one of them", file="--finding")
    try:
        wanted = uuid.UUID(finding) if finding else None
    except ValueError as error:
        raise CannotRead(
            f"“{finding[:60]}” is no id", "as it stands in the address of its page", "--finding"
        ) from error
    if not package.parent.is_dir():
        raise CannotRead("there is no such folder", "name one that is there", file=str(package.parent))
    with ready_database(settings(), _to_stderr) as database:
        try:
            export_package(database, package, wanted, _progress("exporting"))
        except NotThere as error:
            raise CannotRead(str(error), "list them under Findings", file="--finding") from error
        except FileExistsError as error:
            raise CannotRead(str(error), "name another, or delete it", file=str(package)) from error
    files = 1 if package.is_file() else sum(p.is_file() for p in package.rglob("*"))
    size = package.stat().st_size if package.is_file() else sum(p.stat().st_size for p in package.rglob("*"))
    if as_json:
        typer.echo(json.dumps({"package": str(package), "files": files, "bytes": size}))
    else:
        typer.echo(f"{package}: {size:,} bytes")


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
