"""A file as it came: its size, its text encoding, and the refusal of what is not a table at all."""

import codecs
import gzip
import hashlib
import tempfile
import zipfile
import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any, TypeVar

from ...core.errors import CannotRead
from .limits import LONGEST_LINE, MOST_PARTS, refuse_too_large

CHUNK = 1 << 20
T = TypeVar("T", str, bytes)
READER = "tables-1"
"""Version of the readers, kept with every file that was read."""

GZIP_MAGIC, ZIP_MAGIC = b"\x1f\x8b", b"PK\x03\x04"
BOMS = ((codecs.BOM_UTF8, "utf-8-sig"), (codecs.BOM_UTF16_LE, "utf-16"), (codecs.BOM_UTF16_BE, "utf-16"))
SAVE_AS = "save it as CSV (UTF-8) or XLSX and read that"


@dataclass(frozen=True)
class Source:
    """A readable file: where its text lies, the name it came with, and how it is encoded.

    `encoding` is a codec name, or `xlsx` for a workbook; `unpacked` is the temporary file that `path` names, if it
    does: it goes with the last who holds it.
    """

    path: Path
    name: str
    encoding: str
    unpacked: Any = field(default=None, compare=False, repr=False)

    @property
    def is_workbook(self) -> bool:
        return self.encoding == "xlsx"


def chunks(path: Path) -> Iterator[bytes]:
    """The bytes of a file, a mebibyte at a time."""
    with path.open("rb") as file:
        while block := file.read(CHUNK):
            yield block


def sha256(path: Path) -> str:
    """SHA-256 of a file, in hexadecimal."""
    digest = hashlib.sha256()
    for block in chunks(path):
        digest.update(block)
    return digest.hexdigest()


def examine(path: Path, name: str | None = None) -> Source:
    """Kind of a file. A gzipped one is unpacked into a temporary file, and that is examined.

    Raises
    ------
    CannotRead
        Empty, too large, packed twice, binary, with a NUL, damaged, or in two encodings at once.
    """
    name = name or path.name
    try:
        size = path.stat().st_size
    except OSError as error:
        raise CannotRead("there is no such file", "check its name and folder", file=name) from error
    if path.is_dir():
        raise CannotRead("it is a folder", "name the file in it", file=name)
    refuse_too_large(size, name)
    with path.open("rb") as file:
        head = file.read(8)
    if not head:
        raise CannotRead("the file is empty", "export it from the meter again", file=name)
    if head.startswith(GZIP_MAGIC):
        return _unpacked(path, name)
    if head.startswith(ZIP_MAGIC):
        _refuse_no_workbook(path, name)
        return Source(path, name, "xlsx")
    return Source(path, name, _text_encoding(path, name, head))


def _refuse_no_workbook(path: Path, name: str) -> None:
    """Refuse a workbook that is damaged, or that unpacks to more than is read."""
    damaged = CannotRead("the workbook is damaged or cut short", "save it again as XLSX", file=name)
    try:
        with zipfile.ZipFile(path) as packed:
            parts = packed.infolist()
    except (zipfile.BadZipFile, OSError, ValueError, NotImplementedError, EOFError) as error:
        raise damaged from error
    if len(parts) > MOST_PARTS:
        raise CannotRead(f"the workbook is made of {len(parts)} files", "save the sheet alone, as CSV", file=name)
    refuse_too_large(sum(p.file_size for p in parts), name)


def _unpacked(path: Path, name: str) -> Source:
    # The file stays as long as what names it: it is gone with the last who holds the source.
    target = tempfile.NamedTemporaryFile(prefix="jaunecharge-", suffix=".unpacked")  # noqa: SIM115
    written = 0
    try:
        with gzip.open(path) as packed:
            while block := packed.read(CHUNK):
                written += len(block)
                refuse_too_large(written, name)
                target.write(block)
        target.flush()
    except (EOFError, zlib.error, gzip.BadGzipFile) as error:
        raise CannotRead("the gzip file is cut short or damaged", "copy it from the meter again", file=name) from error
    unpacked = Path(target.name)
    with unpacked.open("rb") as file:
        if file.read(2) == GZIP_MAGIC:
            raise CannotRead("it is packed twice", "unpack it once, then read it", file=name)
    return replace(examine(unpacked, name), unpacked=target)


def _text_encoding(path: Path, name: str, head: bytes) -> str:
    for bom, encoding in BOMS:
        if head.startswith(bom):
            _refuse_undecodable(path, name, encoding)
            return encoding
    row = 1
    decoder = codecs.getincrementaldecoder("utf-8")()
    beyond_ascii, broken_row = False, 0
    for block in chunks(path):
        if b"\0" in block:
            at = row + block[: block.index(b"\0")].count(b"\n")
            binary = _control_share(block) > 0.05
            raise CannotRead(
                "it is a binary file, not a table" if binary else "there is a NUL character in it",
                SAVE_AS if binary else "the log was cut off while writing: take that row out",
                file=name,
                row=None if binary else at,
            )
        if _control_share(block) > 0.05:
            raise CannotRead("it is a binary file, not a table", SAVE_AS, file=name)
        if not broken_row:
            try:
                beyond_ascii |= not decoder.decode(block).isascii()
            except UnicodeDecodeError as error:
                broken_row = row + error.object[: error.start].count(b"\n")
                beyond_ascii = beyond_ascii or not error.object[: error.start].isascii()
        row += block.count(b"\n")
    if not broken_row and _ends_whole(decoder):
        return "utf-8"
    if beyond_ascii or _has_utf8_later(path):
        raise CannotRead(
            "the text is partly UTF-8 and partly another encoding",
            "open it in an editor and save all of it as UTF-8",
            file=name,
            row=broken_row or row,
        )
    return "latin-1"


def _ends_whole(decoder: codecs.IncrementalDecoder) -> bool:
    try:
        decoder.decode(b"", final=True)
    except UnicodeDecodeError:
        return False
    return True


def _control_share(block: bytes) -> float:
    controls = len(block) - len(block.translate(None, bytes(range(9)) + bytes(range(14, 32))))
    return controls / max(1, len(block))


def _has_utf8_later(path: Path) -> bool:
    """Whether a line beyond ASCII is valid UTF-8: with another one that is not, the file is in two encodings."""
    with path.open("rb") as file:
        for line in bounded(file.readline):
            if line.isascii():
                continue
            try:
                line.decode("utf-8")
                return True
            except UnicodeDecodeError:
                continue
    return False


def bounded(readline: Callable[[int], T]) -> Iterator[T]:
    """The lines of a file; one that is too long comes in pieces, so that none fills the memory."""
    while line := readline(LONGEST_LINE + 1):
        yield line


def _refuse_undecodable(path: Path, name: str, encoding: str) -> None:
    decoder = codecs.getincrementaldecoder(encoding)()
    row = 1
    try:
        for block in chunks(path):
            text = decoder.decode(block)
            if "\0" in text:
                raise CannotRead(
                    "there is a NUL character in it",
                    "the log was cut off while writing: take that row out",
                    file=name,
                    row=row + text[: text.index("\0")].count("\n"),
                )
            row += text.count("\n")
        decoder.decode(b"", final=True)
    except UnicodeDecodeError as error:
        raise CannotRead(
            "the text is partly in another encoding than its first bytes say",
            "open it in an editor and save all of it as UTF-8",
            file=name,
            row=row,
        ) from error
