"""A data package opened: refused where it is none, is too large, damaged, or points outside itself."""

import hashlib
import json
import stat
import struct
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path, PurePosixPath
from typing import Any, BinaryIO

from pydantic import ValidationError

from ...core.errors import CannotRead
from ...documents.document import said
from .out import DESCRIPTION, FORMAT
from .rows import OLDEST, SERIES, SINCE, TABLES, TOLD, VERSION, PackageRow

MOST_FILES = 20_000
MOST_BYTES = 8_000_000_000
MOST_TABLE = 400_000_000
MOST_DESCRIPTION = 20_000_000
MOST_RATIO, RATIO_FROM = 200.0, 1_000_000
BLOCK = 1 << 20
MADE_BY = "name a folder or a ZIP that `export --package` wrote"
DEPTH = 60


def _refused(what: str, name: str, mend: str = MADE_BY) -> CannotRead:
    return CannotRead(what, mend, file=name)


class Opened:
    """A package whose files are there, are no more than it says, and are what its hashes say."""

    def __init__(self, path: Path) -> None:
        """Open a package.

        Raises
        ------
        CannotRead
        """
        self.name = path.name
        if not path.exists():
            raise _refused("there is no such file or folder", self.name, "check its name and folder")
        self._folder = path if path.is_dir() else None
        self._archive: zipfile.ZipFile | None = None
        if self._folder is None:
            self._archive = self._zip(path)
        self.description = self._described()
        self.version = self._checked_version()
        self.paths = self._checked_files()

    def close(self) -> None:
        """Let go of the file."""
        if self._archive is not None:
            self._archive.close()

    def _zip(self, path: Path) -> zipfile.ZipFile:
        if entries(path) > MOST_FILES:
            raise _refused(f"it holds more than {MOST_FILES:,} files", self.name)
        try:
            archive = zipfile.ZipFile(path)
        except (zipfile.BadZipFile, OSError, NotImplementedError, ValueError) as error:
            raise _refused("it is no data package", self.name) from error
        whole = 0
        for info in archive.infolist():
            if stat.S_ISLNK(info.external_attr >> 16):
                raise _refused(f"{info.filename[:80]} is a link", self.name)
            whole += info.file_size
            packed = max(1, info.compress_size)
            if whole > MOST_BYTES or (info.file_size > RATIO_FROM and info.file_size / packed > MOST_RATIO):
                raise _refused(f"{info.filename[:80]} unpacks to far more than it is", self.name)
        return archive

    def _described(self) -> dict[str, Any]:
        try:
            with self._open(DESCRIPTION) as part:
                text = part.read(MOST_DESCRIPTION + 1)
        except (KeyError, OSError) as error:
            raise _refused(f"it has no {DESCRIPTION}", self.name) from error
        if len(text) > MOST_DESCRIPTION:
            raise _refused(f"its {DESCRIPTION} is too large", self.name)
        found = parsed(text, self.name, DESCRIPTION)
        if not isinstance(found, dict) or not isinstance(found.get("resources"), list):
            raise _refused(f"its {DESCRIPTION} describes no files", self.name)
        return found

    def _checked_version(self) -> int:
        own = self.description.get("jaunecharge")
        if not isinstance(own, dict) or own.get("format") != FORMAT:
            raise _refused("it is a data package of something else", self.name)
        version = own.get("version")
        if not isinstance(version, int) or not version >= OLDEST:
            raise _refused(f"it has no version that is known: {str(version)[:20]}", self.name)
        if version > VERSION:
            raise _refused(
                f"it is of version {version}, made by a later one", self.name, "import it with the version that made it"
            )
        return version

    def _checked_files(self) -> dict[str, dict[str, Any]]:
        """Every file by its path, each with what is said of it; all of them are read once and held against it."""
        resources = self.description["resources"]
        if len(resources) > MOST_FILES:
            raise _refused(f"it describes more than {MOST_FILES:,} files", self.name)
        found: dict[str, dict[str, Any]] = {}
        whole = 0
        for resource in resources:
            if not isinstance(resource, dict) or not isinstance(resource.get("path"), str):
                raise _refused("one of its files has no path", self.name)
            path = inside(resource["path"], self.name)
            if path in found:
                raise _refused(f"{path[:80]} is described twice", self.name)
            size, hash_ = resource.get("bytes"), str(resource.get("hash", ""))
            if not isinstance(size, int) or not 0 <= size <= MOST_BYTES or not hash_.startswith("sha256:"):
                raise _refused(f"{path[:80]} is described without its size and SHA-256", self.name)
            whole += size
            if whole > MOST_BYTES:
                raise _refused("it is larger than anything that is measured", self.name)
            found[path] = resource
        for path, resource in found.items():
            self._check(path, resource["bytes"], resource["hash"].removeprefix("sha256:"))
        return found

    def _check(self, path: str, size: int, sha256: str) -> None:
        digest, read = hashlib.sha256(), 0
        try:
            with self._open(path) as part:
                while block := part.read(BLOCK):
                    read += len(block)
                    if read > size:
                        break
                    digest.update(block)
        except (KeyError, OSError) as error:
            raise _refused(f"{path[:80]} is missing", self.name) from error
        except (zipfile.BadZipFile, EOFError, RuntimeError, ValueError) as error:
            raise _refused(f"{path[:80]} is damaged", self.name) from error
        if read != size or digest.hexdigest() != sha256:
            raise _refused(
                f"{path[:80]} is not what was written: its SHA-256 differs", self.name, "take another copy of it"
            )

    def _open(self, path: str) -> BinaryIO:
        if self._folder is not None:
            whole = self._folder / path
            resolved = whole.resolve()
            if not resolved.is_relative_to(self._folder.resolve()) or not resolved.is_file():
                raise KeyError(path)
            return resolved.open("rb")
        assert self._archive is not None
        return self._archive.open(path)  # type: ignore[return-value]

    def blocks(self, path: str) -> Iterator[bytes]:
        """The bytes of a file, block by block."""
        with self._open(path) as part:
            while block := part.read(BLOCK):
                yield block

    def _known(self, name: str, path: str) -> None:
        if self.version < SINCE.get(name, OLDEST):
            raise _refused(f"{path} is no part of version {self.version}", self.name)

    def rows(self, name: str) -> list[PackageRow]:
        """The rows of a table.

        Raises
        ------
        CannotRead
        """
        path = f"{name}.jsonl"
        if path not in self.paths:
            return []
        self._known(name, path)
        if self.paths[path]["bytes"] > MOST_TABLE:
            raise _refused(f"{path} is too large", self.name)
        row, found = (TABLES | TOLD)[name], []
        for n, line in enumerate(b"".join(self.blocks(path)).splitlines(), 1):
            raw = parsed(line, self.name, f"{path}, row {n}")
            try:
                found.append(row.model_validate(raw))
            except ValidationError as error:
                what, mend = said(error)
                raise CannotRead(f"{path}: {what}", mend, file=self.name, row=n) from error
            _harmless(raw, self.name, path, n)
        return found

    def series(self, name: str) -> bytes | None:
        """A table of many rows, as the CSV that it is; None where it is missing."""
        path = f"{name}.csv"
        if name not in SERIES or path not in self.paths:
            return None
        self._known(name, path)
        if self.paths[path]["bytes"] > MOST_TABLE * 4:
            raise _refused(f"{path} is too large", self.name)
        return b"".join(self.blocks(path))


def inside(path: str, name: str) -> str:
    """A path that stays within the package.

    Raises
    ------
    CannotRead
    """
    pure = PurePosixPath(path)
    if (
        not path or "\\" in path or "\x00" in path or ":" in path or pure.is_absolute() or len(path) > 300
        or any(p in {"..", ".", ""} for p in path.split("/"))
    ):  # fmt: skip
        raise _refused(f"“{path[:80]}” points outside it", name)
    return path


def parsed(text: bytes, name: str, path: str) -> Any:
    """JSON without figures that are none, and not nested without end.

    Raises
    ------
    CannotRead
    """

    def no_figure(word: str) -> Any:
        raise ValueError(word)

    try:
        found = json.loads(text, parse_constant=no_figure)
    except (ValueError, RecursionError) as error:
        raise _refused(f"{path} cannot be read as JSON", name) from error
    if _depth(found) > DEPTH:
        raise _refused(f"{path} is nested too deep", name)
    return found


def _depth(value: Any, most: int = DEPTH + 1) -> int:
    if most <= 0 or not isinstance(value, dict | list):
        return 0
    inner = value.values() if isinstance(value, dict) else value
    return 1 + max((_depth(v, most - 1) for v in inner), default=0)


def _harmless(value: Any, name: str, path: str, row: int) -> None:
    """Refuse signs that no text of the database can hold, however deep they stand."""
    if isinstance(value, str):
        if "\x00" in value or any("\ud800" <= c <= "\udfff" for c in value):
            raise CannotRead(f"{path} holds a sign that no text has", MADE_BY, file=name, row=row)
    elif isinstance(value, float):
        if abs(value) > 1e15:
            raise CannotRead(f"{path} holds a figure that cannot be", MADE_BY, file=name, row=row)
    elif isinstance(value, int):
        if abs(value) > 2**62:
            raise CannotRead(f"{path} holds a figure that cannot be", MADE_BY, file=name, row=row)
    elif isinstance(value, dict):
        for key, inner in value.items():
            _harmless(key, name, path, row)
            _harmless(inner, name, path, row)
    elif isinstance(value, list):
        for inner in value:
            _harmless(inner, name, path, row)


_END, _END_64 = b"PK\x05\x06", b"PK\x06\x06"


def entries(path: Path) -> int:
    """Files that a ZIP says it holds, read from its end alone: before a million of them are taken into memory."""
    size = path.stat().st_size
    with path.open("rb") as file:
        file.seek(max(0, size - 66_000))
        tail = file.read()
    at = tail.rfind(_END)
    if at < 0 or len(tail) < at + 12:
        return 0
    count = int(struct.unpack("<H", tail[at + 10 : at + 12])[0])
    whole = tail.rfind(_END_64)
    if count == 0xFFFF and whole >= 0 and len(tail) >= whole + 40:
        count = int(struct.unpack("<Q", tail[whole + 32 : whole + 40])[0])
    return count


Progress = Callable[[float], None]
