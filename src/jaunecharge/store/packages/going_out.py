"""Rows of the store for a data package: everything, or one finding with all that it rests on."""

import datetime as dt
import uuid
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from sqlalchemy import Table, Text, cast, func, select
from sqlalchemy.orm import Session

from ...core.arrays import Array
from ...formats.package.out import FolderSink, PackageOut, ZipSink
from ...formats.package.rows import TABLES, moment
from .. import bench_models, finding_models, pack_models
from .. import models as m
from ..database import Database
from ..findings.findings import get_finding, software
from ..findings.material import run_ids
from ..pack_logs import unpacked
from ..runs.files import file_bytes
from .series import OF_RUNS, csv_of, parquet_of, series_tables

_MODELS = (bench_models, finding_models, pack_models)
NAMES = {"events": "lane_entries"}
Progress = Callable[[float], None]


def no_progress(fraction: float) -> None:
    """For whom nobody waits."""


def table_of(name: str) -> Table:
    """The table of the store that holds a table of the package."""
    return m.Base.metadata.tables[NAMES.get(name, name)]


@dataclass
class Chosen:
    """Which rows go out: ids by table, None where all of it does."""

    ids: dict[str, list[Any] | None] = field(default_factory=dict)


def everything() -> Chosen:
    """The whole bench."""
    return Chosen(dict.fromkeys(TABLES))


def of_finding(session: Session, finding_id: uuid.UUID) -> Chosen:
    """One finding with its runs, its plan, its packs and the kit of all of them.

    Raises
    ------
    NotThere
    """
    found = get_finding(session, finding_id)
    document = found.document
    ids = run_ids(session, document)
    runs = session.scalars(select(m.Run).where(m.Run.id.in_(ids), m.Run.deleted_at.is_(None))).all()
    kit = {str(k.get("id")) for r in runs for k in r.kit.values() if isinstance(k, dict) and k.get("id")}
    plans = [] if document.plan is None else [document.plan]
    for plan in session.scalars(select(m.Plan).where(m.Plan.id.in_(plans))):
        choice = plan.choice
        picked = [*choice.phones, *(c.id for c in choice.chargers), choice.adapter, choice.cable]
        kit |= {str(i) for i in picked if i is not None}
    labels = [label.casefold() for label in document.packs]
    packs = session.scalars(select(m.Kit.id).where(func.lower(m.Kit.label).in_(labels)))
    kit |= {str(i) for i in packs}
    tests = session.scalars(select(pack_models.PackTest.id).where(func.lower(pack_models.PackTest.pack).in_(labels)))
    own = [r.id for r in runs]
    return Chosen(
        {
            **{name: [] for name in TABLES}, "findings": [found.id], "runs": own, "plans": plans,
            "kit": [uuid.UUID(i) for i in sorted(kit)], "pack_tests": list(tests), "settings": ["habits"],
        }
    )  # fmt: skip


def _alive(name: str, chosen: Chosen) -> list[Any]:
    """Conditions of the rows of a table: chosen, not deleted, of runs and plans that go out as well."""
    table = table_of(name)
    where: list[Any] = [] if "deleted_at" not in table.c else [table.c.deleted_at.is_(None)]
    key = table.c.key if name == "settings" else table.c.id if "id" in table.c else None
    ids = chosen.ids.get(name)
    runs = _alive("runs", chosen) if name != "runs" else []
    of_runs = select(table_of("runs").c.id).where(*runs)
    if name in {"notes", "photos", "corrections", "run_files"}:
        return [*where, table.c.run_id.in_(of_runs)]
    if name == "slots":
        return [*where, table.c.plan_id.in_(select(table_of("plans").c.id).where(*_alive("plans", chosen)))]
    if name == "lanes":
        return [*where, table.c.run_id.in_(of_runs), table.c.closed_at.is_not(None)]
    if name == "events":
        return [*where, table.c.lane_id.in_(select(table_of("lanes").c.id).where(*_alive("lanes", chosen)))]
    if name == "files":
        used = [
            select(table_of(child).c.file_id).where(*_alive(child, chosen)) for child in ("run_files", "photos")
        ]  # fmt: skip
        return [*where, table.c.id.in_(used[0].union(used[1]))]
    if ids is not None and key is not None:
        where.append(key.in_(ids))
    return where


def rows_of(session: Session, name: str, where: Sequence[Any]) -> Iterator[dict[str, Any]]:
    """Rows of a table as the package has them, in the order of their keys."""
    table, columns = table_of(name), list(TABLES[name].model_fields)
    order = [cast(c, Text).collate("C") for c in table.primary_key.columns]
    query = select(*(table.c[c] for c in columns)).where(*where).order_by(*order)
    for row in session.execute(query):
        yield {c: plain(v) for c, v in zip(columns, row, strict=True)}


def plain(value: Any) -> Any:
    """A value of a row as the package has it."""
    if isinstance(value, uuid.UUID):
        return str(value)
    return moment(value) if isinstance(value, dt.datetime) else value


def export_package(
    database: Database, target: Path, finding: uuid.UUID | None = None, progress: Progress = no_progress
) -> None:
    """Write a data package: a ZIP where the name says so, else a folder; whole or not at all.

    Raises
    ------
    NotThere
        If there is no such finding.
    FileExistsError
        If a folder of that name is there.
    """
    is_zip = target.suffix.lower() == ".zip"
    if not is_zip and target.exists():
        raise FileExistsError(f"{target.name} is there already")
    sink: ZipSink | FolderSink = ZipSink(target) if is_zip else FolderSink(target)
    try:
        with database.session() as session:
            session.connection(execution_options={"isolation_level": "REPEATABLE READ"})
            chosen = everything() if finding is None else of_finding(session, finding)
            _write(session, PackageOut(sink), chosen, progress)
        sink.close()
    except BaseException:
        sink.drop()
        raise
    progress(1.0)


def _write(session: Session, package: PackageOut, chosen: Chosen, progress: Progress) -> None:
    for name in TABLES:
        package.table(name, rows_of(session, name, _alive(name, chosen)))
    runs = list(session.scalars(select(table_of("runs").c.id).where(*_alive("runs", chosen)).order_by(m.Run.id)))
    package.table("readings", _readings(session, runs))
    progress(0.1)
    for n, name in enumerate(OF_RUNS):
        package.series(name, map(csv_of, series_tables(session, name, runs)))
        if name == "samples":
            progress(0.4)
            package.parquet(name, parquet_of(name, series_tables(session, name, runs)))
        progress(0.6 + 0.04 * n)
    package.series("pack_logs", _pack_logs(session, _alive("pack_tests", chosen)))
    query = select(m.File).where(*_alive("files", chosen)).order_by(m.File.sha256)
    for file in session.scalars(query):
        package.original(file.sha256, file.media_type, file_bytes(session, file.id))
    title = "A bench" if chosen.ids.get("findings") is None else "A finding and all that it rests on"
    package.describe(title, software())


def _readings(session: Session, runs: Sequence[uuid.UUID]) -> Iterator[Mapping[str, Any]]:
    query = select(m.Run.id, m.Run.reader_version, m.Run.summary_json).where(m.Run.id.in_(runs)).order_by(m.Run.id)
    for run_id, reader, summary in session.execute(query):
        yield {"run_id": str(run_id), "reader": reader, "reading": summary}


def _pack_logs(session: Session, where: Sequence[Any]) -> Iterator[bytes]:
    tests = table_of("pack_tests")
    query = select(tests.c.id, tests.c.log).where(*where, tests.c.log.is_not(None)).order_by(tests.c.id)
    for test_id, log in session.execute(query):
        for n, trace in enumerate(unpacked(log)):
            yield _log_lines(str(test_id), n, trace.time_s, trace.power_w, trace.volts, trace.amps)


def _log_lines(test_id: str, n: int, time_s: Array, watts: Array, volts: Array | None, amps: Array | None) -> bytes:
    nothing: Iterable[str] = [""] * len(time_s)
    columns = [
        map(repr, time_s.tolist()), map(repr, watts.tolist()),
        nothing if volts is None else map(repr, volts.tolist()), nothing if amps is None else map(repr, amps.tolist()),
    ]  # fmt: skip
    return "".join(f"{test_id},{n},{','.join(cells)}\n" for cells in zip(*columns, strict=True)).encode()
