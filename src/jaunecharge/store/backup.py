"""The whole store into one file, and back: a ZIP of tables as CSV, with a manifest of what is in it.

The file holds rows and nothing that is run. It holds no passphrase, no sign-in and no key of a lane, and restoring one
brings none back: who may sign in stays as it is, everybody signs in anew, and lanes are given new keys.
"""

import datetime as dt
import hashlib
import os
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import psycopg
from psycopg import sql
from pydantic import BaseModel, ConfigDict, Field, ValidationError
from sqlalchemy import Connection, MetaData, text

from .. import __version__
from ..core.errors import CannotRead
from ..documents.document import said
from .bench.lanes import CHANNEL, new_token
from .database import Database, revisions
from .failures import failure

FORMAT = "jaunecharge backup 1"
MANIFEST = "manifest.json"
OLD_MAGIC = b"PGDMP"
OF_THE_ENGINE = frozenset(f"procrastinate_{name}" for name in ("events", "jobs", "periodic_defers", "workers"))
JOBS = OF_THE_ENGINE | {"jobs"}
DERIVED = frozenset({"listing", "phone_columns"})
"""Tables that the database itself makes out of others."""

SENT = frozenset({"upload_chunks", "uploads"})
PRIVATE = frozenset({"finding_links", "people", "secrets", "sign_ins", "tries"}) | SENT | JOBS | DERIVED
"""Tables that no backup holds, and that restoring leaves as they are; sign-ins and links to findings end, and what was
sent and not yet read is sent again. Jobs that wait or run end as well: what they were about may be gone."""

ENDED = frozenset({"finding_links", "sign_ins", "tries"}) | SENT | JOBS | DERIVED
SCHEMA_VERSION = "alembic_version"
RELOAD = "reload"
"""Notification to listeners of the bench once everything has changed."""

BLOCK = 1 << 20
MOST_MANIFEST = 1_000_000
MADE_BY = "name a file that `backup` wrote"
_NO_KEY = sql.SQL("id::text AS token")
"""In the place of a lane's key: something else that is unique."""


class TableIn(BaseModel):
    """A table of a backup."""

    model_config = ConfigDict(extra="forbid")

    columns: list[str] = Field(min_length=1, max_length=200)
    rows: int = Field(ge=0)
    sha256: str = Field(pattern="^[0-9a-f]{64}$")


class Manifest(BaseModel):
    """Manifest of a backup: its form, who made it and when, the revision of the schema, its tables."""

    model_config = ConfigDict(extra="forbid")

    format: str
    version: str
    schema_revision: str = Field(pattern="^[0-9]{4}$")
    made_at: dt.datetime
    tables: dict[str, TableIn]


def backup(database: Database, target: Path) -> None:
    """Write everything that is stored into one file; the file appears whole or not at all, for its owner alone."""
    partial = target.with_name(target.name + ".partial")
    partial.unlink(missing_ok=True)
    try:
        with (
            os.fdopen(os.open(partial, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as file,
            zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED, compresslevel=3) as archive,
            database.engine.connect().execution_options(isolation_level="REPEATABLE READ") as connection,
        ):
            _write(connection, archive)
        partial.replace(target)
    finally:
        partial.unlink(missing_ok=True)


def _write(connection: Connection, archive: zipfile.ZipFile) -> None:
    tables = {}
    for name, columns in _tables(connection).items():
        if name in PRIVATE or name == SCHEMA_VERSION:
            continue
        shown = [
            sql.SQL("id::text AS token") if (name, c) == ("lanes", "token") else sql.Identifier(c) for c in columns
        ]
        query = sql.SQL("COPY (SELECT {} FROM public.{}) TO STDOUT (FORMAT csv, HEADER)").format(
            sql.SQL(", ").join(shown), sql.Identifier(name)
        )
        digest = hashlib.sha256()
        with (
            archive.open(_file(name), "w", force_zip64=True) as out,
            _driver(connection).cursor() as cursor,
        ):
            with cursor.copy(query) as copy:
                for block in copy:
                    digest.update(block)
                    out.write(block)
            rows = cursor.rowcount
        tables[name] = TableIn(columns=columns, rows=rows, sha256=digest.hexdigest())
    manifest = Manifest(
        format=FORMAT, version=__version__, schema_revision=_revision(connection), made_at=dt.datetime.now(dt.UTC),
        tables=tables,
    )  # fmt: skip
    archive.writestr(MANIFEST, manifest.model_dump_json(indent=1))


def restore(database: Database, origin: Path) -> None:
    """Put a backup in the place of what is stored, and bring it up to the present schema.

    All of it happens in one transaction: if anything fails, what was stored stays.

    Raises
    ------
    CannotRead
        If the file is no backup, is damaged, or holds anything but rows of the tables of its schema.
    """
    try:
        with origin.open("rb") as file:
            if file.read(len(OLD_MAGIC)) == OLD_MAGIC:
                raise CannotRead(
                    "it was made before backups had their present form",
                    "restore it with the version that made it, and back that up with this one", file=origin.name,
                )  # fmt: skip
        with zipfile.ZipFile(origin) as archive:
            _restore(database, archive, origin.name)
    except FileNotFoundError as error:
        raise CannotRead("there is no such file", "check its name and folder", file=origin.name) from error
    except (zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError) as error:
        raise _no_backup(origin.name) from error


def _no_backup(name: str) -> CannotRead:
    return CannotRead("it is not a backup of this application", MADE_BY, file=name)


def _restore(database: Database, archive: zipfile.ZipFile, name: str) -> None:
    manifest = _manifest(archive, name)
    database.close()
    try:
        with database.engine.begin() as connection:
            database.lock_schema(connection)
            tick = connection.scalar(text("SELECT tick FROM bench")) or 0
            private = {table: _rows(connection, table) for table in sorted(PRIVATE - ENDED)}
            connection.execute(text("DROP SCHEMA public CASCADE"))
            connection.execute(text("CREATE SCHEMA public"))
            database.migrate_on(connection, manifest.schema_revision)
            _fill(connection, archive, manifest, name)
            database.migrate_on(connection)
            for table, rows in private.items():
                _put_back(connection, table, rows)
            _go_on_counting(connection)
            _renew(connection, tick)
    except Exception as error:
        if failure(error) == "refused":
            said_ = str(getattr(error, "orig", None) or error).strip().splitlines()[0]
            raise CannotRead(f"its rows do not fit the schema: {said_}", MADE_BY, name) from error
        raise


def _manifest(archive: zipfile.ZipFile, name: str) -> Manifest:
    try:
        part = archive.getinfo(MANIFEST)
        if part.file_size > MOST_MANIFEST:
            raise _no_backup(name)
        manifest = Manifest.model_validate_json(archive.read(part))
    except KeyError as error:
        raise _no_backup(name) from error
    except ValidationError as error:
        raise CannotRead(f"its manifest cannot be read: {said(error)[0]}", MADE_BY, name) from error
    if manifest.format != FORMAT:
        raise CannotRead(f"it is a “{manifest.format[:40]}”", f"“{FORMAT}” is read", file=name)
    if manifest.schema_revision not in revisions():
        raise CannotRead(
            f"it was made by a later version ({manifest.version[:20]})", "restore it with that version", file=name
        )
    wanted = {MANIFEST, *(_file(table) for table in manifest.tables)}
    if sorted(wanted) != sorted(archive.namelist()):
        raise CannotRead("it holds other files than its manifest says", MADE_BY, file=name)
    return manifest


def _fill(connection: Connection, archive: zipfile.ZipFile, manifest: Manifest, name: str) -> None:
    """Put the rows of a backup into empty tables of its own revision."""
    there = {t: c for t, c in _tables(connection).items() if t not in PRIVATE and t != SCHEMA_VERSION}
    for table in sorted(there.keys() ^ manifest.tables.keys()):
        what = "misses the table" if table in there else "holds a table that its schema does not know:"
        raise CannotRead(f"it {what} {table[:60]}", MADE_BY, file=name)
    # Rows that a migration itself puts in are those of the backup as well.
    for table in reversed(_order(connection)):
        if table in there:
            connection.execute(text(f'DELETE FROM public."{table}"'))
    for table in _order(connection):
        if table not in there:
            continue
        stated = manifest.tables[table]
        if sorted(stated.columns) != sorted(there[table]):
            raise CannotRead(f"the columns of {table} are not those of its schema", MADE_BY, name)
        query = sql.SQL("COPY public.{} ({}) FROM STDIN (FORMAT csv, HEADER MATCH)").format(
            sql.Identifier(table), sql.SQL(", ").join(map(sql.Identifier, stated.columns))
        )
        digest = hashlib.sha256()
        with archive.open(_file(table)) as part, _driver(connection).cursor() as cursor:
            with cursor.copy(query) as copy:
                while block := part.read(BLOCK):
                    digest.update(block)
                    copy.write(block)
            rows = cursor.rowcount
        if (digest.hexdigest(), rows) != (stated.sha256, stated.rows):
            raise CannotRead(f"{table} is damaged: it is not what was written", "take another copy of it", file=name)


def _renew(connection: Connection, tick: int) -> None:
    """Give every lane a new key, and have everybody who follows the bench read it afresh."""
    for (lane,) in connection.execute(text("SELECT id FROM lanes")).all():
        connection.execute(
            text("UPDATE lanes SET token = :token WHERE id = :id"),
            {"token": new_token(), "id": lane},
        )
    connection.execute(text("UPDATE bench SET tick = greatest(tick, :tick) + 1"), {"tick": tick})
    connection.execute(text("SELECT pg_notify(:channel, :what)"), {"channel": CHANNEL, "what": RELOAD})


def _go_on_counting(connection: Connection) -> None:
    """Let what the database numbers by itself begin after the rows that were put back."""
    query = """
        SELECT table_name, column_name, pg_get_serial_sequence(format('public.%I', table_name), column_name)
        FROM information_schema.columns WHERE table_schema = 'public'
    """
    for table, column, sequence in connection.execute(text(query)).all():
        if sequence is not None:
            last = connection.scalar(text(f'SELECT max("{column}") FROM public."{table}"'))
            if last is not None:
                connection.execute(text("SELECT setval(:sequence, :last)"), {"sequence": sequence, "last": last})


def _rows(connection: Connection, table: str) -> list[dict[str, Any]]:
    if table not in _tables(connection):
        return []
    return [dict(r) for r in connection.execute(text(f'SELECT * FROM public."{table}"')).mappings()]


def _put_back(connection: Connection, table: str, rows: list[dict[str, Any]]) -> None:
    if rows:
        metadata = MetaData()
        metadata.reflect(connection, only=[table], schema="public")
        connection.execute(metadata.tables[f"public.{table}"].insert(), rows)


def _tables(connection: Connection) -> dict[str, list[str]]:
    """The tables of the schema, each with its columns in order."""
    tables: dict[str, list[str]] = {}
    # Rows of a partition are those of its table.
    query = (
        "SELECT table_name, column_name FROM information_schema.columns WHERE table_schema = 'public' AND NOT EXISTS"
        " (SELECT FROM pg_class WHERE relispartition AND oid = format('public.%I', table_name)::regclass)"
        " ORDER BY table_name, ordinal_position"
    )
    for table, column in connection.execute(text(query)):
        tables.setdefault(table, []).append(column)
    return tables


def _order(connection: Connection) -> list[str]:
    """The tables in the order in which they can be filled: none before those that it refers to."""
    metadata = MetaData()
    metadata.reflect(connection, schema="public", only=list(_tables(connection)))
    return [t.name for t in metadata.sorted_tables]


def _revision(connection: Connection) -> str:
    return str(connection.scalar(text(f"SELECT version_num FROM {SCHEMA_VERSION}")))


def _driver(connection: Connection) -> psycopg.Connection[Any]:
    driver = connection.connection.driver_connection
    assert isinstance(driver, psycopg.Connection)
    return driver


def _file(table: str) -> str:
    return f"tables/{table}.csv"


def unused(target: Path) -> Path:
    """A name beside this one that no file has: nothing is overwritten."""
    return next(p for p in _names(target) if not p.exists())


def _names(target: Path) -> Iterator[Path]:
    yield target
    n = 1
    while True:
        n += 1
        yield target.with_name(f"{target.name}-{n}")
