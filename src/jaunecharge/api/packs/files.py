"""Files of packs: whatever is sent, understood and kept; all tests out as tables and as JSON."""

import uuid
from pathlib import Path
from typing import Annotated

from fastapi import Query, Request, Response
from sqlalchemy.orm import Session
from starlette.concurrency import run_in_threadpool

from ...core.errors import CannotRead
from ...core.log import power_trace
from ...documents.pack_test import LoadKept
from ...formats.pack_tests import COLUMNS, is_tests_json, table_row, tests_from_json, tests_json
from ...formats.read.apart import apart
from ...formats.read.files import Asked, load_log
from ...formats.read.pack_charges import ChargesFound, charges_in
from ...formats.read.source import examine
from ...formats.write.csv_xlsx import Cell, csv_text, xlsx_bytes
from ...live.steady import now
from ...store import packs as store
from ...store.errors import NotThere
from ...store.runs.uploads import Upload
from ..arriving import FILE_AS_BODY, receive
from ..context import about, context_of, name_of
from ..downloads import answers, download
from ..strict import make_router
from . import shapes

router = make_router("packs")
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
LARGEST_JSON = 100_000_000


def _charges(path: Path, name: str) -> ChargesFound | None:
    return charges_in(examine(path, name))


@router.post("/packs/files", status_code=201, openapi_extra=FILE_AS_BODY)
async def add_file(
    request: Request,
    name: Annotated[str, Query(min_length=1, max_length=300)],
    pack: Annotated[
        str, Query(max_length=200, description="its label where the file does not say of which it is")
    ] = "",
) -> shapes.FileKept:
    """Keep what a file holds: a load test's log, a table of charges, or tests that were exported here."""
    context = context_of(request)
    upload = await receive(request, context, name)

    def kept() -> shapes.FileKept:
        try:
            with context.database.session() as session:
                return _kept(session, upload, pack, name_of(request))
        finally:
            context.uploads.drop(upload)

    answer = await run_in_threadpool(kept)
    about(request, upload.name)
    return answer


def _kept(session: Session, upload: Upload, pack: str, by: str) -> shapes.FileKept:
    if _head(upload.path):
        return _tests(session, upload.path, upload.name)
    if (charges := apart(_charges, upload.path, upload.name, name=upload.name)) is not None:
        return _keep_charges(session, charges, pack, upload.name, by)
    return _load(session, upload.path, upload.name, pack, by)


def _head(path: Path) -> bool:
    with path.open("rb") as file:
        return is_tests_json(file.read(400).decode("utf-8", "replace"))


def _tests(session: Session, path: Path, name: str) -> shapes.FileKept:
    if path.stat().st_size > LARGEST_JSON:
        raise CannotRead("it is larger than tests can be", f"at most {LARGEST_JSON // 1_000_000} MB", file=name)
    try:
        text = path.read_text(encoding="utf-8")
    except UnicodeDecodeError as error:
        raise CannotRead("it is not text in UTF-8", "export it again", file=name) from error
    tests, left_out = tests_from_json(text, name)
    new: list[uuid.UUID] = []
    here = 0
    for number, test in enumerate(tests, start=1):
        try:
            if store.bring_in(session, test):
                new.append(test.id)
            else:
                here += 1
        except CannotRead as error:
            left_out.append(f"test {number}: {error.what}: {error.mend}")
    return shapes.FileKept(holds="tests", tests=new, here=here, left_out=left_out)


def _keep_charges(session: Session, found: ChargesFound, label: str, file: str, by: str) -> shapes.FileKept:
    kept: list[uuid.UUID] = []
    left_out, here = list(found.left_out), 0
    for typed in found.charges:
        if typed.id is not None and store.is_here(session, typed.id):
            here += 1
            continue
        try:
            pack = store.pack_of(session, typed.pack or label)
            document = store.of_pack("charge", pack, charge=typed.charge)
            kept.append(store.keep(session, pack.label, document, typed.at or now(), by, test_id=typed.id).id)
        except (CannotRead, NotThere) as error:
            left_out.append(f"row {typed.row}: {error}")
    if not kept and not here:
        raise CannotRead(
            f"none of its charges can be kept: {left_out[0] if left_out else 'there is none'}",
            "mend the rows, or put the packs on the shelf first", file=file,
        )  # fmt: skip
    return shapes.FileKept(holds="charges", tests=kept, here=here, left_out=left_out)


def _load(session: Session, path: Path, name: str, label: str, by: str) -> shapes.FileKept:
    pack = store.pack_of(session, label)
    log = apart(load_log, Asked(path, name), name=name)
    if log.volts is None or log.amps is None:
        raise CannotRead("watts alone show no load test", "log volts and amps", file=name)
    trace = power_trace(log.clock.seconds, log.watts, log.volts, log.amps)
    file = LoadKept(delivered_wh=None, expanded_wh=None, at_least=False, file=name)
    document = store.of_pack("load", pack, load=file, remarks=list(log.remarks))
    try:
        heat = None if log.celsius is None else (log.clock.seconds, log.celsius)
        test = store.keep(session, pack.label, document, now(), by, [trace], heat)
    except CannotRead as error:
        raise error.within(name) from None
    return shapes.FileKept(holds="load test", tests=[test.id], here=0, left_out=[])


def _rows(request: Request) -> list[list[Cell]]:
    with context_of(request).database.session() as session:
        return [table_row(store.out_of(t, with_logs=t.kind == "load")) for t in store.tests(session)]


@router.get("/exports/packs.csv", response_class=Response, responses=answers("text/csv"))
def packs_csv(request: Request) -> Response:
    """Export all tests of packs as CSV."""
    return download(csv_text(COLUMNS, _rows(request)), "text/csv; charset=utf-8", "packs.csv")


@router.get("/exports/packs.xlsx", response_class=Response, responses=answers(XLSX))
def packs_xlsx(request: Request) -> Response:
    """Export all tests of packs as a workbook."""
    return download(xlsx_bytes(COLUMNS, _rows(request), "packs"), XLSX, "packs.xlsx")


@router.get("/exports/packs.json", response_class=Response, responses=answers("application/json"))
def packs_json(request: Request) -> Response:
    """Export all tests of packs with their logs, to be read back in."""
    with context_of(request).database.session() as session:
        text = tests_json(store.out_of(t) for t in store.tests(session))
    return download(text, "application/json", "packs.json")
