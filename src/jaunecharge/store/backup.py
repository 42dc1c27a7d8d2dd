"""The whole store into one file, and back: PostgreSQL's own dump, brought up to the present schema."""

import os
import subprocess
import tempfile
from pathlib import Path

from sqlalchemy.engine import make_url

from ..core.errors import CannotRead
from ..postgres import CannotServe, tools
from .database import Database

MAGIC = b"PGDMP"


def _environment(url: str) -> tuple[dict[str, str], list[str]]:
    address = make_url(url)
    environment = {**os.environ, "PGPASSWORD": address.password or ""}
    options = ["-h", address.host or "127.0.0.1", "-p", str(address.port or 5432)]
    if address.username:
        options += ["-U", address.username]
    return environment, [*options, "-d", address.database or "postgres"]


def _run(name: str, url: str, *arguments: str, output: Path | None = None) -> None:
    environment, where = _environment(url)
    with tempfile.TemporaryFile("w+") as err:
        done = subprocess.run(
            [str(tools() / name), *(where if name != "pg_restore" else []), *arguments],
            env=environment, stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, stderr=err, check=False,
        )  # fmt: skip
        err.seek(0)
        if done.returncode:
            raise CannotServe(f"{name} failed: {err.read().strip().splitlines()[-1:]}")


def backup(database: Database, target: Path) -> None:
    """Write everything that is stored into one file; the file appears whole or not at all."""
    partial = target.with_name(target.name + ".partial")
    try:
        _run("pg_dump", database.url, "-Fc", "--no-owner", "--no-privileges", "-n", "public", "-f", str(partial))
        partial.replace(target)
    finally:
        partial.unlink(missing_ok=True)


def restore(database: Database, origin: Path) -> None:
    """Put a backup in the place of what is stored, and bring it up to the present schema.

    All of it happens in one transaction: if anything fails, what was stored stays.

    Raises
    ------
    CannotRead
        If the file is no backup.
    CannotServe
        If PostgreSQL refuses it.
    """
    try:
        with origin.open("rb") as file:
            whole = file.read(len(MAGIC)) == MAGIC
    except OSError as error:
        raise CannotRead("there is no such file", "check its name and folder", file=origin.name) from error
    if not whole:
        raise CannotRead("it is not a backup of this application", "name a file that `backup` wrote", file=origin.name)
    with tempfile.TemporaryDirectory() as folder:
        script, before = Path(folder) / "restore.sql", Path(folder) / "before.sql"
        _run("pg_restore", database.url, "--no-owner", "--no-privileges", "-f", str(script), str(origin))
        before.write_text("DROP SCHEMA public CASCADE;\n")
        database.close()
        _run("psql", database.url, "-q", "-1", "-v", "ON_ERROR_STOP=1", "-f", str(before), "-f", str(script))
    database.migrate()
