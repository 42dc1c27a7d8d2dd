"""The data package written: each file with its size and SHA-256, and a description of all of them; the same data give
the same bytes."""

import csv
import hashlib
import io
import json
import shutil
import zipfile
from collections.abc import Iterable, Mapping
from contextlib import AbstractContextManager
from pathlib import Path
from typing import Any, BinaryIO, Protocol

from .rows import SERIES, TABLES, TOLD, VERSION
from .schema import series_schema, table_schema

DESCRIPTION = "datapackage.json"
PROFILE = "https://datapackage.org/profiles/2.0/datapackage.json"
EPOCH = (1980, 1, 1, 0, 0, 0)
FORMAT = "jaunecharge data package"


class Sink(Protocol):
    """Where files of a package go."""

    def file(self, path: str) -> AbstractContextManager[BinaryIO]:
        """A file of the package, to be written."""
        ...


class FolderSink:
    """A folder; it appears whole or not at all."""

    def __init__(self, target: Path) -> None:
        self.target, self.partial = target, target.with_name(target.name + ".partial")
        shutil.rmtree(self.partial, ignore_errors=True)
        self.partial.mkdir(parents=True)

    def file(self, path: str) -> AbstractContextManager[BinaryIO]:
        whole = self.partial / path
        whole.parent.mkdir(parents=True, exist_ok=True)
        return whole.open("wb")

    def close(self) -> None:
        """Put the folder in its place."""
        self.partial.rename(self.target)

    def drop(self) -> None:
        """Leave nothing behind."""
        shutil.rmtree(self.partial, ignore_errors=True)


class ZipSink:
    """A ZIP file; it appears whole or not at all."""

    def __init__(self, target: Path) -> None:
        self.target, self.partial = target, target.with_name(target.name + ".partial")
        self.archive = zipfile.ZipFile(self.partial, "w", zipfile.ZIP_DEFLATED, compresslevel=3)

    def file(self, path: str) -> AbstractContextManager[BinaryIO]:
        info = zipfile.ZipInfo(path, EPOCH)
        info.compress_type = zipfile.ZIP_STORED if path.endswith(".parquet") else zipfile.ZIP_DEFLATED
        return self.archive.open(info, "w", force_zip64=True)  # type: ignore[return-value]

    def close(self) -> None:
        """Put the file in its place."""
        self.archive.close()
        self.partial.replace(self.target)

    def drop(self) -> None:
        """Leave nothing behind."""
        self.archive.close()
        self.partial.unlink(missing_ok=True)


class PackageOut:
    """A package in the making: tables, series and files are put in, and described at the end."""

    def __init__(self, sink: Sink) -> None:
        self._sink = sink
        self._resources: list[dict[str, Any]] = []

    def put(self, path: str, blocks: Iterable[bytes], **description: Any) -> None:
        """A file by its blocks."""
        digest, size = hashlib.sha256(), 0
        with self._sink.file(path) as out:
            for block in blocks:
                digest.update(block)
                size += len(block)
                out.write(block)
        self._resources.append({**description, "path": path, "bytes": size, "hash": f"sha256:{digest.hexdigest()}"})

    def table(self, name: str, rows: Iterable[Mapping[str, Any]]) -> None:
        """A table as JSON Lines, an object a row; one without rows is left out."""
        lines = [json.dumps(_in_order(r), ensure_ascii=False, allow_nan=False) for r in rows]
        if not lines:
            return
        row = (TABLES | TOLD)[name]
        self.put(
            f"{name}.jsonl", [("\n".join(lines) + "\n").encode()], name=name.replace("_", "-"), type="table",
            format="jsonl", mediatype="application/jsonl", encoding="utf-8", description=row.__doc__ or "",
            schema=table_schema(row),
        )  # fmt: skip

    def series(self, name: str, blocks: Iterable[bytes]) -> None:
        """A table of many rows as CSV, by blocks of it without headings."""
        heading = io.StringIO()
        csv.writer(heading, lineterminator="\n").writerow([c for c, _, _ in SERIES[name]])
        self.put(
            f"{name}.csv", _before(heading.getvalue().encode(), blocks), name=name.replace("_", "-"), type="table",
            format="csv", mediatype="text/csv", encoding="utf-8", schema=series_schema(name),
        )  # fmt: skip

    def parquet(self, name: str, content: bytes) -> None:
        """The same table as Parquet."""
        self.put(
            f"{name}.parquet", [content], name=f"{name}-parquet", type="file",
            mediatype="application/vnd.apache.parquet", description=f"{name}.csv as Parquet",
        )  # fmt: skip

    def original(self, sha256: str, media_type: str, blocks: Iterable[bytes]) -> None:
        """A file as it came, named by its SHA-256."""
        self.put(
            f"originals/{sha256}", blocks, name=f"original-{sha256}", mediatype=media_type or "application/octet-stream"
        )

    def describe(self, title: str, software: str) -> None:
        """The description of the package, put in last."""
        document = {
            "$schema": PROFILE, "name": "jaunecharge", "title": title, "version": str(VERSION),
            "jaunecharge": {"format": FORMAT, "version": VERSION, "software": software},
            "resources": self._resources,
        }  # fmt: skip
        with self._sink.file(DESCRIPTION) as out:
            out.write(json.dumps(document, ensure_ascii=False, indent=1).encode() + b"\n")


def _before(first: bytes, blocks: Iterable[bytes]) -> Iterable[bytes]:
    yield first
    yield from blocks


def _in_order(row: Mapping[str, Any]) -> dict[str, Any]:
    """A row with its columns as they come, and what stands within them by its keys: the same bytes each time."""
    return {name: _sorted(value) for name, value in row.items()}


def _sorted(value: Any) -> Any:
    if isinstance(value, dict):
        return {k: _sorted(v) for k, v in sorted(value.items())}
    return [_sorted(v) for v in value] if isinstance(value, list) else value
