"""`jaunecharge people`: who may sign in over the network, for whoever sits at the machine itself."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import TYPE_CHECKING, Annotated

import typer

from .app import COMMANDS, app

if TYPE_CHECKING:
    from sqlalchemy.orm import Session

    from ..store.bench_models import Person

commands = typer.Typer(help=COMMANDS["people"].help, no_args_is_help=True)
app.add_typer(commands, name="people")
Name = Annotated[str, typer.Argument(help="the name that the person signs in with")]


@contextmanager
def _session(what: str = "", about: str = "") -> Iterator["Session"]:
    """The store; what is done is in the log."""
    import datetime as dt
    import getpass

    from ..service import ready_database
    from ..settings import settings
    from ..store.audit import add_line

    with ready_database(settings(), lambda text: typer.echo(text, err=True)) as database, database.session() as session:
        yield session
        if what:
            add_line(session, dt.datetime.now(dt.UTC), getpass.getuser(), "this machine", what, about, "command line")


def _passphrase() -> str:
    return str(typer.prompt("passphrase", hide_input=True, confirmation_prompt=True))


@commands.command("list")
def list_people() -> None:
    """Everybody who may sign in."""
    from ..store import people

    with _session() as session:
        for person in people.people(session):
            typer.echo(f"{person.name:30} may {person.role}")


@commands.command()
def add(name: Name, look: Annotated[bool, typer.Option("--look", help="may look, and change nothing")] = False) -> None:
    """Let somebody sign in."""
    from ..store import people

    with _session("let somebody sign in", name) as session:
        people.add_person(session, name, "look" if look else "change", _passphrase())


@commands.command()
def passphrase(name: Name) -> None:
    """Give somebody another passphrase; their sessions end."""
    from ..store import people

    with _session("give somebody another passphrase", name) as session:
        people.set_passphrase(session, _person(session, name), _passphrase())


@commands.command()
def remove(name: Name) -> None:
    """Let somebody sign in no more; their sessions end."""
    from ..store import people

    with _session("let somebody sign in no more", name) as session:
        people.remove_person(session, _person(session, name))


def _person(session: "Session", name: str) -> "Person":
    from ..core.errors import CannotRead
    from ..store import people

    person = people.by_name(session, name)
    if person is None:
        raise CannotRead(f"there is nobody called “{name[:40]}”", "see `jaunecharge people list`", file="name")
    return person
