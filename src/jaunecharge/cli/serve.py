"""`jaunecharge serve`, `backup`, `restore`, `openapi`: what needs the database, or describes what serves it."""

import gc
import json
import os
import signal
import sys
import threading
from dataclasses import replace
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from ..core.errors import CannotRead
from ..postgres import CannotServe, is_free
from ..secured import keep_renewed, secured_by
from .app import command
from .serving import answer_by_many, hand_on

if TYPE_CHECKING:
    from ..store.database import Database

WARM_UP_AFTER_S = 5.0
MOST_PROCESSES = 64
PAGES = Path(__file__).resolve().parents[3] / "web" / "dist"


@command("serve")
def serve(
    demo: Annotated[bool, typer.Option(help="load the demonstration's runs, if they are not there yet")] = False,
    lan: Annotated[bool, typer.Option("--lan", help="listen on the network; everybody has to sign in")] = False,
    tls: Annotated[
        tuple[str, str] | None,
        typer.Option(metavar="auto | CERT KEY", help="https: by an authority of its own, or your certificate and key"),
    ] = None,
    behind: Annotated[
        str | None,
        typer.Option(metavar="ADDRESS", help="address of a proxy that passes requests on; everybody has to sign in"),
    ] = None,
    processes: Annotated[int, typer.Option(min=1, max=MOST_PROCESSES, help="processes that answer")] = 1,
    with_worker: Annotated[
        bool, typer.Option("--worker/--no-worker", help="a worker beside it; without, `jaunecharge worker` elsewhere")
    ] = True,
) -> None:
    from ..api.network import Network, on_the_network
    from ..api.network import behind as behind_proxy
    from ..service import kept_alive, ready_database
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
    network = on_the_network(where.port, tls is not None) if lan else Network()
    if behind is not None:
        network = behind_proxy(behind, network)
    where.make_state()
    secured = secured_by(tls, network.hosts, where.state) if tls else None
    if not PAGES.exists():
        raise CannotRead("the pages are not built", "run make build", file=str(PAGES))
    # Threads that store and tell readings take turns with the one that answers: short ones keep its answers quick.
    sys.setswitchinterval(0.001)
    # The application is loaded while the database server starts. All that it loads stays: nothing to collect in it.
    gc.disable()
    loading = threading.Thread(target=import_module, args=("jaunecharge.api.app",), daemon=True)
    loading.start()
    with ready_database(where) as database:
        loading.join()
        gc.freeze()
        gc.enable()
        import uvicorn

        from ..api.app import make_app
        from ..jobs.workforce import Elsewhere
        from ..jobs.workforce import beside as worker_beside

        if demo:
            from ..demo.bench import play
            from ..demo.hut import load

            typer.echo("demonstration runs …")
            typer.echo(f"demonstration runs: {load(database) or 'already there'}")
        if secured is not None:
            network = replace(
                network, certificate=secured.certificate, authority=secured.authority, fingerprint=secured.fingerprint
            )
        if network.reachable:
            _have_passphrase(database)
        scheme = "http" if tls is None else "https"
        places = [f"{scheme}://127.0.0.1:{where.port}/", *([f"{network.address}/"] if network.reachable else [])]
        typer.echo(f"\n  Jaunecharge is at {' and '.join(places)}   (Ctrl-C stops it)\n")
        if network.reachable and not network.secure:
            typer.echo("  Not encrypted: anyone on this network can read along; --tls auto prevents that.\n")
        if secured is not None and secured.said:
            typer.echo(f"  {secured.said}\n")
        if secured is not None and secured.authority is not None:
            typer.echo(f"  Trust it once on each device: {places[-1]}trust")
            typer.echo(f"  SHA-256 of its authority: {secured.fingerprint}\n")
        folder = None if where.database_url is not None else where.cluster
        hands = worker_beside(database.url) if with_worker else Elsewhere()
        own_address = f"{scheme}://127.0.0.1:{where.port}"
        options: dict[str, Any] = {
            "host": "0.0.0.0" if lan else "127.0.0.1", "port": where.port, "log_level": "warning",
            "timeout_graceful_shutdown": 3, "ssl_certfile": None if secured is None else secured.certificate,
            "ssl_keyfile": None if secured is None else secured.key, "proxy_headers": behind is not None,
            "forwarded_allow_ips": where.proxies,
        }  # fmt: skip
        if processes > 1:
            os.environ["JAUNECHARGE_DATABASE_URL"] = database.url
            hand_on(network, PAGES, folder, own_address if demo else "")
            with kept_alive(where, typer.echo):
                answer_by_many(options, processes, network, where.state, hands, typer.echo)
            return
        application = make_app(database, where.uploads, PAGES, network, folder, where.uploads_url, hands)
        if demo:
            context = application.state.context
            play(database, context.hub, context.practice, own_address)
        # After a fault meters wait: their readings are taken first, the rest is made ready later.
        warm_up = threading.Timer(WARM_UP_AFTER_S, _warm_up)
        warm_up.daemon = True
        warm_up.start()
        with kept_alive(where, typer.echo):
            config = uvicorn.Config(application, **options)
            config.load()
            context_of_tls = config.ssl
            if secured is not None and secured.authority is not None and context_of_tls is not None:
                keep_renewed(network.hosts, where.state, context_of_tls.load_cert_chain, typer.echo)
            server = uvicorn.Server(config)
            server.run()
            if not server.started:
                raise CannotServe(f"the web server did not start on port {where.port}")


def _warm_up() -> None:
    """Compile what is compiled, so that the first who asks need not wait for it."""
    from ..core.simulator import warm_up

    warm_up()
    # All of that stays as well: looking through it for what can go would hold up an answer for a fifth of a second.
    gc.freeze()


def _have_passphrase(database: "Database") -> None:
    """The passphrase of the bench: asked for at the first start on the network, or given in the environment.

    Raises
    ------
    CannotRead
        If there is none and nobody can be asked.
    """
    from ..store import people

    given = os.environ.get("JAUNECHARGE_PASSPHRASE", "")
    with database.session() as session:
        first = people.by_name(session, people.FIRST)
        if given and first is not None:
            if not people.is_right(first.digest, given):
                people.set_passphrase(session, first, given)
        elif given:
            people.add_person(session, people.FIRST, "change", given)
        elif not people.somebody_may_change(session):
            if not sys.stdin.isatty():
                raise CannotRead(
                    "no passphrase is set", "start it once by hand, or set JAUNECHARGE_PASSPHRASE", file="--lan"
                )
            typer.echo("Everybody who reaches this bench over the network gives a name and a passphrase.")
            name = typer.prompt("your name")
            people.add_person(
                session, name, "change", typer.prompt("passphrase", hide_input=True, confirmation_prompt=True)
            )


@command("backup")
def backup(file: Annotated[Path, typer.Argument(help="the file to write")]) -> None:
    from ..service import ready_database
    from ..settings import settings
    from ..store.backup import backup as write

    with ready_database(settings(), _to_stderr) as database:
        write(database, file)
    typer.echo(f"{file}: {file.stat().st_size:,} bytes")


@command("restore")
def restore(file: Annotated[Path, typer.Argument(help="a file that `backup` wrote")]) -> None:
    from ..service import ready_database
    from ..settings import settings
    from ..store.backup import backup as write
    from ..store.backup import restore as put_back
    from ..store.backup import unused

    with ready_database(settings(), _to_stderr) as database:
        before = unused(file.with_name(f"{file.name}.before-restore"))
        write(database, before)
        put_back(database, file)
    typer.echo(f"restored from {file}; what was stored before is in {before}")


@command("openapi")
def openapi() -> None:
    from ..api.app import make_app
    from ..store.database import Database

    described = make_app(Database("postgresql://nobody@127.0.0.1/none"), Path("uploads")).openapi()
    typer.echo(json.dumps(described, indent=1, ensure_ascii=False))


def _to_stderr(text: str) -> None:
    typer.echo(text, err=True)
