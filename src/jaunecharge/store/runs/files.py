"""Files kept as they came: their bytes in chunks, found again by their SHA-256."""

import uuid
from collections.abc import Iterable, Iterator
from pathlib import Path

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...formats.read.source import chunks, sha256
from ..models import File, FileChunk, Run, RunFile
from .driver import driver


def keep_file(session: Session, path: Path, name: str, media_type: str = "") -> File:
    """The record of a file, its bytes stored unless the same bytes are there already."""
    digest = sha256(path)
    known = session.scalar(select(File).where(File.sha256 == digest))
    if known is not None:
        return known
    file = File(id=uuid.uuid4(), sha256=digest, name=name, size=path.stat().st_size, media_type=media_type)
    session.add(file)
    session.flush()
    keep_bytes(session, file.id, chunks(path))
    return file


def keep_bytes(session: Session, file_id: uuid.UUID, blocks: Iterable[bytes]) -> None:
    """Keep the bytes of a file, each block compressed where that makes it shorter."""
    import pyarrow as pa

    with (
        driver(session).cursor() as cursor,
        cursor.copy("COPY file_chunks (file_id, n, bytes, size) FROM STDIN (FORMAT BINARY)") as copy,
    ):
        copy.set_types(["uuid", "int4", "bytea", "int4"])
        for n, block in enumerate(blocks):
            short = pa.compress(block, "zstd", asbytes=True)
            kept, size = (short, len(block)) if len(short) < len(block) else (block, None)
            copy.write_row((file_id, n, kept, size))


def file_bytes(session: Session, file_id: uuid.UUID) -> Iterator[bytes]:
    """The bytes of a file, chunk by chunk."""
    import pyarrow as pa

    query = select(FileChunk.bytes, FileChunk.size).where(FileChunk.file_id == file_id).order_by(FileChunk.n)
    for block, size in session.execute(query.execution_options(yield_per=4)):
        yield block if size is None else pa.decompress(block, size, "zstd", asbytes=True)


def runs_read_from(session: Session, digest: str) -> list[Run]:
    """Runs that were read from a file with this SHA-256."""
    return list(
        session.scalars(
            select(Run)
            .join(RunFile, RunFile.run_id == Run.id)
            .join(File, File.id == RunFile.file_id)
            .where(File.sha256 == digest, Run.deleted_at.is_(None))
            .distinct()
        )
    )
