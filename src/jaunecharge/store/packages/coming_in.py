"""A data package into the store: what is new is kept under its own ids, what is equal is passed over, what was changed
here and there is told, and kept as somebody decides."""

import uuid
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Literal

import numpy as np
from pydantic import ValidationError
from sqlalchemy import func, insert, select, update
from sqlalchemy.exc import DataError, IntegrityError
from sqlalchemy.orm import Session

from ...core.errors import CannotRead
from ...core.log import power_trace
from ...documents.pack_test import PackTestDocument
from ...formats.package.opened import Opened
from ...formats.package.rows import OLDEST, SERIES, SINCE, TABLES, PackageRow
from .. import models as m
from ..bench.lanes import new_token
from ..database import Database
from ..pack_listing import figures_of
from ..pack_logs import packed
from ..runs.files import keep_bytes
from ..runs.logs import load_log
from ..runs.readings import keep_reading
from .going_out import Progress, no_progress, plain, rows_of, table_of
from .series import OF_RUNS, arrow_of, forget_rows, take_series

Take = Literal["theirs", "mine", ""]
MOST_FIGURE = 1e12
HANGS_ON_RUNS = frozenset({"notes", "photos", "corrections", "run_files"})
KEPT_AS_HERE = HANGS_ON_RUNS | {"events", "lanes"}
"""Records of what happened: those that are here stay as they are."""

MADE_BY = "name a folder or a ZIP that `export --package` wrote"


@dataclass(frozen=True)
class Conflict:
    """A row that was changed here and there: its table, what it is called, and how the two differ."""

    table: str
    label: str
    differs: tuple[str, ...]


@dataclass
class Imported:
    """Outcome of an import, by table: rows that are new, equal, and taken or left in conflict."""

    new: dict[str, int] = field(default_factory=dict)
    equal: dict[str, int] = field(default_factory=dict)
    taken: dict[str, int] = field(default_factory=dict)
    conflicts: list[Conflict] = field(default_factory=list)

    @property
    def left(self) -> bool:
        """Whether conflicts wait for somebody to decide."""
        return bool(self.conflicts)


Last = Callable[[Session, Imported], None]


def no_last(session: Session, done: Imported) -> None:
    """Nothing more to be done with an import."""


def import_package(
    database: Database, path: Path, take: Take = "", progress: Progress = no_progress, last: Last = no_last
) -> Imported:
    """Bring a data package in: all of it in one transaction, or nothing; `last` is the last step in it.

    Raises
    ------
    CannotRead
        If it is no package, damaged, or its rows cannot be.
    """
    package = Opened(path)
    try:
        tables = {name: package.rows(name) for name in TABLES}
        progress(0.3)
        with database.session() as session:
            try:
                done = _Import(session, package, tables, take, progress).run()
                last(session, done)
                return done
            except (IntegrityError, DataError) as error:
                what = str(error.orig).strip().splitlines()[0]
                raise CannotRead(f"its rows do not fit together: {what[:200]}", MADE_BY, file=package.name) from error
    finally:
        package.close()


class _Import:
    """One import."""

    def __init__(
        self, session: Session, package: Opened, tables: Mapping[str, list[PackageRow]], take: Take, progress: Progress
    ) -> None:
        self.session, self.package, self.tables, self.take, self.progress = session, package, tables, take, progress
        self.done = Imported()
        self.runs: list[uuid.UUID] = []
        """Runs that are new or taken: their series come in, and they are read."""
        self.tests: list[uuid.UUID] = []
        self.files: dict[uuid.UUID, uuid.UUID] = {}
        """Files whose bytes are here already, under another id."""

    def run(self) -> Imported:
        """Bring everything in."""
        for name, rows in self.tables.items():
            for row in rows:
                self._row(name, row)
            self.session.flush()
        self._series()
        self.progress(0.6)
        self._pack_logs()
        for n, run_id in enumerate(self.runs):
            run = self.session.get_one(m.Run, run_id)
            self.session.refresh(run)
            try:
                keep_reading(self.session, run, load_log(self.session, run))
            except (CannotRead, ValidationError, ValueError, KeyError, TypeError) as error:
                raise CannotRead(
                    f"run “{run.label[:60]}” cannot be read: {error}", "leave it out, or export it again",
                    file=self.package.name,
                ) from error  # fmt: skip
            self.progress(0.6 + 0.4 * (n + 1) / len(self.runs))
        self.session.flush()
        return self.done

    def _row(self, name: str, row: PackageRow) -> None:
        values = row.model_dump()
        if name == "files":
            self._file(values)
            return
        if name in HANGS_ON_RUNS and not self._there("runs", values["run_id"]):
            return
        if "file_id" in values:
            values["file_id"] = self.files.get(values["file_id"], values["file_id"])
        if name == "slots" and values["run_id"] is not None and not self._there("runs", values["run_id"]):
            values["run_id"] = None
        here = self._here(name, values)
        if here is None:
            twin = self._same_name(name, values)
            if twin is not None:
                self._decide(name, values, twin)
                return
            self._insert(name, values)
            return
        apart = tuple(k for k in values if _canonical(here.get(k)) != _canonical(plain(values[k])))
        if not apart or name in KEPT_AS_HERE:
            self._count(self.done.equal, name)
        else:
            self._conflict(name, values, apart)

    def _there(self, name: str, row_id: uuid.UUID) -> bool:
        table = table_of(name)
        return self.session.execute(select(table.c.id).where(table.c.id == row_id)).first() is not None

    def _where(self, name: str, values: Mapping[str, Any]) -> list[Any]:
        table = table_of(name)
        return [c == values[c.name] for c in table.primary_key.columns]

    def _here(self, name: str, values: Mapping[str, Any]) -> dict[str, Any] | None:
        return next(rows_of(self.session, name, self._where(name, values)), None)

    def _same_name(self, name: str, values: Mapping[str, Any]) -> dict[str, Any] | None:
        """Kit or a card under the same name, with another id."""
        column = {"kit": "label", "cards": "name"}.get(name)
        if column is None:
            return None
        table = table_of(name)
        return next(rows_of(self.session, name, [func.lower(table.c[column]) == values[column].lower()]), None)

    def _decide(self, name: str, values: dict[str, Any], twin: dict[str, Any]) -> None:
        """Decide on what is here under the same name: equal, or in conflict; theirs, taken, has the id that is here."""
        if _canonical(twin["facts"]) == _canonical(values["facts"]):
            self._count(self.done.equal, name)
        else:
            self._conflict(name, {**values, "id": uuid.UUID(twin["id"])}, ("facts",))

    def _conflict(self, name: str, values: dict[str, Any], apart: tuple[str, ...]) -> None:
        if self.take == "theirs":
            self._replace(name, values)
            self._count(self.done.taken, name)
        elif self.take == "mine":
            self._count(self.done.equal, name)
        else:
            label = values.get("label") or values.get("question") or values.get("name") or values.get("said")
            self.done.conflicts.append(Conflict(name, str(label or values.get("key") or values.get("id")), apart))

    def _insert(self, name: str, values: dict[str, Any]) -> None:
        self.session.execute(insert(table_of(name)).values(**values, **self._more(name, values)))
        self._count(self.done.new, name)
        self._note(name, values)

    def _replace(self, name: str, values: dict[str, Any]) -> None:
        table = table_of(name)
        more = {k: v for k, v in self._more(name, values).items() if k != "token"}
        if "deleted_at" in table.c:
            more["deleted_at"] = None
        self.session.execute(update(table).where(*self._where(name, values)).values(**values, **more))
        self._note(name, values)

    def _note(self, name: str, values: Mapping[str, Any]) -> None:
        if name == "runs":
            self.runs.append(values["id"])
        elif name == "pack_tests":
            self.tests.append(values["id"])

    def _more(self, name: str, values: Mapping[str, Any]) -> dict[str, Any]:
        """Columns that the package does not have: worked out here, whatever it says."""
        if name == "runs":
            return {"summary": {}, "reader_version": 0}
        if name == "lanes":
            return {"token": new_token(), "tick": 0}
        if name == "events":
            return {"tick": 0}
        if name == "pack_tests":
            try:
                return figures_of(PackTestDocument.read(values["document"]))
            except (ValidationError, CannotRead, ValueError, TypeError, KeyError) as error:
                raise CannotRead(
                    f"a test of “{str(values['pack'])[:60]}” cannot be read", "leave it out", file=self.package.name
                ) from error
        return {}

    def _count(self, counts: dict[str, int], name: str) -> None:
        counts[name] = counts.get(name, 0) + 1

    def _file(self, values: dict[str, Any]) -> None:
        """A file by its SHA-256: its bytes are kept once."""
        known = self.session.scalar(select(m.File.id).where(m.File.sha256 == values["sha256"]))
        if known is not None:
            self.files[values["id"]] = known
            self._count(self.done.equal, "files")
            return
        path = f"originals/{values['sha256']}"
        stated = self.package.paths.get(path)
        if stated is None or stated["hash"] != f"sha256:{values['sha256']}":
            raise CannotRead(f"{path[:90]} is missing, or is another file", MADE_BY, file=self.package.name)
        self._insert("files", values)
        keep_bytes(self.session, values["id"], self.package.blocks(path))

    def _series(self) -> None:
        """Series of the runs that are new or taken; those of others stay as they are."""
        if not self.runs:
            return
        runs = [self.session.get_one(m.Run, run_id) for run_id in self.runs]
        forget_rows(self.session, runs)
        for name in OF_RUNS:
            table = self._read_series(name)
            if table is not None:
                try:
                    take_series(self.session, name, table, runs)
                except CannotRead as error:
                    raise error.within(self.package.name) from error

    def _read_series(self, name: str) -> Any:
        """A series as a table, its figures finite and such as can be.

        Raises
        ------
        CannotRead
        """
        import pyarrow as pa
        import pyarrow.compute as pc

        whole = self.package.series(name)
        if whole is None and self.package.version < SINCE.get(name, OLDEST):
            return None
        if whole is None:
            raise CannotRead(f"{name}.csv is missing", MADE_BY, file=self.package.name)
        heading = whole[: whole.find(b"\n") + 1]
        # What is read is a view into the file as it stands: these tables may be large.
        body = pa.py_buffer(whole).slice(len(heading))
        if heading.strip().split(b",") != [c.encode() for c, _, _ in SERIES[name]]:
            raise CannotRead(f"{name}.csv has other columns", MADE_BY, file=self.package.name)
        try:
            table = arrow_of(body, name)
        except (pa.ArrowInvalid, UnicodeDecodeError) as error:
            raise CannotRead(f"{name}.csv: {str(error)[:160]}", MADE_BY, file=self.package.name) from error
        del whole, body
        for column, kind, _ in SERIES[name]:
            values = table[column]
            if (
                kind == "number"
                and not pc.all(
                    pc.and_(
                        pc.is_finite(pc.fill_null(values, 0.0)), pc.less(pc.abs(pc.fill_null(values, 0.0)), MOST_FIGURE)
                    ),
                    min_count=0,
                ).as_py()
            ):
                raise CannotRead(f"{name}.csv: a figure of {column} cannot be", MADE_BY, file=self.package.name)
            if kind == "string" and pc.any(pc.match_substring(values, "\x00"), min_count=0).as_py():
                raise CannotRead(f"{name}.csv holds a sign that no text has", MADE_BY, file=self.package.name)
        return table

    def _pack_logs(self) -> None:
        """Logs of the tests that are new or taken."""
        import pyarrow.compute as pc

        table = self._read_series("pack_logs")
        tests = table_of("pack_tests")
        for test_id in self.tests:
            own = table.filter(pc.equal(table["test_id"], str(test_id)))
            traces = []
            for n in sorted(set(own["log"].to_pylist())):
                log = own.filter(pc.equal(own["log"], n))
                time_s, watts, volts, amps = (
                    np.asarray(log[c].to_numpy(zero_copy_only=False), dtype=float)
                    for c in ("t_s", "watts", "volts", "amps")
                )
                bare = bool(np.isnan(volts).any() or np.isnan(amps).any())
                traces.append(power_trace(time_s, watts, None if bare else volts, None if bare else amps))
            log_bytes = packed(traces) if traces else None
            self.session.execute(update(tests).where(tests.c.id == test_id).values(log=log_bytes))


def _canonical(value: Any) -> Any:
    """A value so that equal ones are equal: figures as figures, keys in any order."""
    if isinstance(value, dict):
        return {k: _canonical(v) for k, v in sorted(value.items())}
    if isinstance(value, list | tuple):
        return [_canonical(v) for v in value]
    if isinstance(value, bool):
        return value
    return float(value) if isinstance(value, int | float) else value
