"""`jaunecharge serve`, `backup`, `restore`, `openapi`: what needs the database, or describes what serves it."""

import json
import signal
from pathlib import Path
from typing import Annotated

import typer

from ..core.errors import CannotRead
from ..postgres import CannotServe, is_free
from .app import app

PAGES = Path(__file__).resolve().parents[3] / "web" / "dist"


@app.command()
def serve(
    demo: Annotated[bool, typer.Option(help="load the demonstration's runs, if they are not there yet")] = False,
) -> None:
    """Start the database server and serve the application on this machine, until Ctrl-C."""
    import uvicorn

    from ..api.app import make_app
    from ..core.simulate import warm_up
    from ..demo.hut import load
    from ..service import ready_database
    from ..settings import settings

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
    warm_up()
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
    from ..service import ready_database
    from ..settings import settings
    from ..store.backup import backup as write

    with ready_database(settings(), _to_stderr) as database:
        write(database, file)
    typer.echo(f"{file}: {file.stat().st_size:,} bytes")


@app.command()
def restore(file: Annotated[Path, typer.Argument(help="a file that `backup` wrote")]) -> None:
    """Put a backup in the place of what is stored; what is stored now is saved beside it first."""
    from ..service import ready_database
    from ..settings import settings
    from ..store.backup import backup as write
    from ..store.backup import restore as put_back

    with ready_database(settings(), _to_stderr) as database:
        before = file.with_name(f"{file.name}.before-restore")
        write(database, before)
        put_back(database, file)
    typer.echo(f"restored from {file}; what was stored before is in {before}")


@app.command()
def openapi() -> None:
    """The description of the web API, from which the front end's types are made."""
    from ..api.app import make_app
    from ..store.database import Database

    described = make_app(Database("postgresql://nobody@127.0.0.1/none"), Path("uploads")).openapi()
    typer.echo(json.dumps(described, indent=1, ensure_ascii=False))


def _to_stderr(text: str) -> None:
    typer.echo(text, err=True)
