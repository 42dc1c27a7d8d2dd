"""Files that were sent, or written to be fetched, and are not yet part of anything: gone after a day.

They lie in the database, or in an object store that every server reaches; each server keeps a copy of those that it
works on in a folder of its own.
"""

import datetime as dt
import logging
import os
import re
import shutil
import time
import uuid
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Protocol

from sqlalchemy import delete, insert, select
from sqlalchemy.orm import Session

from ...core.errors import CannotRead
from .. import models as m
from ..database import Database
from ..errors import NotThere
from .driver import driver

if TYPE_CHECKING:
    import pyarrow.fs as fs

log = logging.getLogger(__name__)
KEPT_S = 24 * 3600.0
SWEEPS_EVERY_S = 3600.0
GONE = "the file that was sent is no longer here: drop it again"
BLOCK = 1 << 20


@dataclass(frozen=True)
class Upload:
    """A file that was sent: its id, where a copy of it lies on this machine, and the name that it came with."""

    id: uuid.UUID
    path: Path
    name: str


class Blocks(Protocol):
    """Where the bytes of uploads are kept."""

    def put(self, session: Session, upload_id: uuid.UUID, path: Path) -> None:
        """Keep the bytes of a file."""

    def get(self, session: Session, upload_id: uuid.UUID) -> Iterator[bytes]:
        """The bytes, block by block."""

    def drop(self, session: Session, upload_ids: list[uuid.UUID]) -> None:
        """Forget the bytes of some."""

    def sweep(self, before: dt.datetime) -> None:
        """Forget bytes older than this that no record names any more."""


class InDatabase:
    """Bytes in chunks in the database: they come and go with the record of their file."""

    def put(self, session: Session, upload_id: uuid.UUID, path: Path) -> None:
        with (
            path.open("rb") as file,
            driver(session).cursor() as cursor,
            cursor.copy("COPY upload_chunks (upload_id, n, bytes) FROM STDIN (FORMAT BINARY)") as copy,
        ):
            copy.set_types(["uuid", "int4", "bytea"])
            n = 0
            while block := file.read(BLOCK):
                copy.write_row((upload_id, n, block))
                n += 1

    def get(self, session: Session, upload_id: uuid.UUID) -> Iterator[bytes]:
        query = select(m.SentChunk.bytes).where(m.SentChunk.upload_id == upload_id).order_by(m.SentChunk.n)
        yield from session.scalars(query.execution_options(yield_per=4))

    def drop(self, session: Session, upload_ids: list[uuid.UUID]) -> None:
        session.execute(delete(m.SentChunk).where(m.SentChunk.upload_id.in_(upload_ids)))

    def sweep(self, before: dt.datetime) -> None: ...


class InObjectStore:
    """Bytes as objects of an S3-compatible store, each under the id of its file.

    Its address is one that Arrow's file systems read: s3://KEY:SECRET@bucket/folder?endpoint_override=host:port
    """

    def __init__(self, address: str) -> None:
        self._address = address
        self._opened: tuple[fs.FileSystem, str] | None = None

    def _files(self) -> "tuple[fs.FileSystem, str]":
        if self._opened is None:
            import pyarrow.fs as fs

            self._opened = fs.FileSystem.from_uri(self._address)
        return self._opened

    def put(self, session: Session, upload_id: uuid.UUID, path: Path) -> None:
        files, folder = self._files()
        with path.open("rb") as file, files.open_output_stream(f"{folder}/{upload_id}") as out:
            shutil.copyfileobj(file, out, BLOCK)

    def get(self, session: Session, upload_id: uuid.UUID) -> Iterator[bytes]:
        files, folder = self._files()
        try:
            with files.open_input_stream(f"{folder}/{upload_id}") as file:
                while block := file.read(BLOCK):
                    yield block
        except FileNotFoundError as error:
            raise NotThere(GONE) from error

    def drop(self, session: Session, upload_ids: list[uuid.UUID]) -> None:
        import pyarrow.fs as fs

        files, folder = self._files()
        for upload_id in upload_ids:
            place = f"{folder}/{upload_id}"
            if files.get_file_info(place).type != fs.FileType.NotFound:
                files.delete_file(place)

    def sweep(self, before: dt.datetime) -> None:
        # A restore, or a commit that failed, leaves objects whose records are gone; records so old are gone as well.
        import pyarrow.fs as fs

        files, folder = self._files()
        for found in files.get_file_info(fs.FileSelector(folder, allow_not_found=True)):
            if found.type == fs.FileType.File and _is_id(found.base_name) and found.mtime < before:
                files.delete_file(found.path)


class Uploads:
    """Files that were sent: every server that has the database has them.

    `folder` is this machine's own: what is missing in it is fetched, what nobody used for a day goes.
    """

    def __init__(self, database: Database, folder: Path, blocks: Blocks | None = None) -> None:
        self._database, self.folder = database, folder
        self._blocks = blocks or InDatabase()
        self._swept = -SWEEPS_EVERY_S

    def begin(self, name: str) -> Upload:
        """Room for a file about to arrive."""
        self._tidy()
        upload_id = uuid.uuid4()
        place = self.folder / str(upload_id)
        place.mkdir(parents=True)
        return Upload(upload_id, place / "content", plain_name(name))

    def keep(self, upload: Upload) -> None:
        """Keep a file that arrived whole; from now on every server has it."""
        with self._database.session() as session:
            size = upload.path.stat().st_size
            session.execute(insert(m.SentFile).values(id=upload.id, name=upload.name, size=size))
            self._blocks.put(session, upload.id, upload.path)

    def find(self, upload_id: uuid.UUID) -> Upload:
        """A file that was sent before, a copy of it on this machine.

        Raises
        ------
        NotThere
        """
        with self._database.session() as session:
            kept = session.get(m.SentFile, upload_id)
            if kept is None:
                raise NotThere(GONE)
            upload = Upload(upload_id, self.folder / str(upload_id) / "content", kept.name)
            if not _is_whole(upload.path, kept.size):
                self._fetch(session, upload)
        os.utime(upload.path.parent)
        return upload

    def _fetch(self, session: Session, upload: Upload) -> None:
        upload.path.parent.mkdir(parents=True, exist_ok=True)
        partial = upload.path.with_name(f"partial-{uuid.uuid4().hex}")
        try:
            with partial.open("wb") as file:
                for block in self._blocks.get(session, upload.id):
                    file.write(block)
            partial.replace(upload.path)
        finally:
            partial.unlink(missing_ok=True)

    def drop(self, upload: Upload) -> None:
        """Forget a file that was sent."""
        with self._database.session() as session:
            self._forget(session, [upload.id])
        _clear(upload.path.parent)

    def _forget(self, session: Session, upload_ids: list[uuid.UUID]) -> None:
        self._blocks.drop(session, upload_ids)
        session.execute(delete(m.SentFile).where(m.SentFile.id.in_(upload_ids)))

    def _tidy(self) -> None:
        self.folder.mkdir(parents=True, exist_ok=True)
        for place in self.folder.iterdir():
            if place.is_dir() and time.time() - place.stat().st_mtime > KEPT_S:
                _clear(place)
        before = dt.datetime.now(dt.UTC) - dt.timedelta(seconds=KEPT_S)
        with self._database.session() as session:
            # Another server that tidies as well takes others.
            old = select(m.SentFile.id).where(m.SentFile.sent_at < before).with_for_update(skip_locked=True)
            if upload_ids := list(session.scalars(old)):
                self._forget(session, upload_ids)
        if time.monotonic() - self._swept >= SWEEPS_EVERY_S:
            self._swept = time.monotonic()
            try:
                self._blocks.sweep(before)
            except OSError as error:
                # A key may be allowed to put, fetch and delete, but not to list.
                log.warning("what no record names any more stays in the object store: %s", error)


def _is_whole(path: Path, size: int) -> bool:
    try:
        return path.stat().st_size == size
    except FileNotFoundError:
        return False


def _is_id(name: str) -> bool:
    try:
        return str(uuid.UUID(name)) == name
    except ValueError:
        return False


def _clear(place: Path) -> None:
    shutil.rmtree(place, ignore_errors=True)


def still_kept(session: Session, upload_ids: list[uuid.UUID]) -> set[uuid.UUID]:
    """Those of some files that are not gone yet."""
    return set(session.scalars(select(m.SentFile.id).where(m.SentFile.id.in_(upload_ids)))) if upload_ids else set()


def uploads_of(database: Database, folder: Path, address: str | None) -> Uploads:
    """Uploads of a server: in the database, or in the object store at an address."""
    return Uploads(database, folder, None if address is None else InObjectStore(address))


def plain_name(name: str) -> str:
    """A file's name without folders and control characters.

    Raises
    ------
    CannotRead
    """
    bare = re.sub(r"[\x00-\x1f\x7f]", "", name.replace("\\", "/").rsplit("/", 1)[-1]).strip()
    if not bare:
        raise CannotRead("the file has no name", "send its name with it", file="upload")
    return bare[-200:]
