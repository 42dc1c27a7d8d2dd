"""A file as it came: its size, its text encoding, and the refusal of what is not a table at all."""

import codecs
import gzip
import hashlib
import zipfile
import zlib
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from ..core.errors import CannotRead

MOST_BYTES = 200_000_000
CHUNK = 1 << 20
READER = "tables-1"
"""Version of the readers, kept with every file that was read."""

GZIP_MAGIC, ZIP_MAGIC = b"\x1f\x8b", b"PK\x03\x04"
BOMS = ((codecs.BOM_UTF8, "utf-8-sig"), (codecs.BOM_UTF16_LE, "utf-16"), (codecs.BOM_UTF16_BE, "utf-16"))
SAVE_AS = "save it as CSV (UTF-8) or XLSX and read that"


@dataclass(frozen=True)
class Source:
    """A readable file: where its text lies, the name it came with, and how it is encoded.

    `encoding` is a codec name, or `xlsx` for a workbook.
    """

    path: Path
    name: str
    encoding: str

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


def refuse_too_large(size: int, name: str) -> None:
    """Refuse more than 200 MB.

    Raises
    ------
    CannotRead
    """
    if size > MOST_BYTES:
        raise CannotRead(
            f"it is {size:,} bytes".replace(",", " "),
            "at most 200 MB are read: split it, or log at a longer step",
            file=name,
        )


def examine(path: Path, name: str | None = None) -> Source:
    """What kind of file this is. A gzipped one is unpacked beside it, and its text examined.

    Raises
    ------
    CannotRead
        Empty, too large, binary, with a NUL, damaged, or in two encodings at once.
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
        return examine(_unpacked(path, name), name)
    if head.startswith(ZIP_MAGIC):
        if not zipfile.is_zipfile(path):
            raise CannotRead("the workbook is damaged or cut short", "save it again as XLSX", file=name)
        return Source(path, name, "xlsx")
    return Source(path, name, _text_encoding(path, name, head))


def _unpacked(path: Path, name: str) -> Path:
    target = path.with_name(path.name + ".unpacked")
    written = 0
    try:
        with gzip.open(path) as packed, target.open("wb") as out:
            while block := packed.read(CHUNK):
                written += len(block)
                refuse_too_large(written, name)
                out.write(block)
    except (EOFError, zlib.error, gzip.BadGzipFile) as error:
        target.unlink(missing_ok=True)
        raise CannotRead("the gzip file is cut short or damaged", "copy it from the meter again", file=name) from error
    except CannotRead:
        target.unlink(missing_ok=True)
        raise
    return target


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
        if not block.isascii() and not broken_row:
            try:
                beyond_ascii = beyond_ascii or not decoder.decode(block).isascii()
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
        for line in file:
            if line.isascii():
                continue
            try:
                line.decode("utf-8")
                return True
            except UnicodeDecodeError:
                continue
    return False


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
