"""Data packages: written, fetched, brought in."""

import uuid
from typing import Annotated, Any

from fastapi import Query, Request, Response
from fastapi.responses import FileResponse, StreamingResponse

from ...formats.package.schema import json_schema
from ...store.errors import NotThere
from ...store.findings.findings import get_finding
from ..arriving import FILE_AS_BODY, receive
from ..context import about, context_of
from ..downloads import answers
from ..findings.files import file_name
from ..following import Wanted, as_it_goes
from ..ndjson import NDJSON
from ..strict import make_router
from . import shapes

router = make_router("packages")
ZIP = "application/zip"
BY_LINES: dict[int | str, dict[str, Any]] = {
    200: {
        "description": "progress line by line; the last line ends it",
        "content": {NDJSON: {"schema": {"$ref": "#/components/schemas/PackageProgress"}}},
    }
}


@router.post("/packages", response_class=StreamingResponse, responses=BY_LINES)
def write_package(request: Request, wanted: shapes.WantedPackage) -> StreamingResponse:
    """Write a data package of everything, or of one finding with all that it rests on."""
    name, what = "bench", "everything"
    if wanted.finding is not None:
        with context_of(request).database.session() as session:
            what = get_finding(session, wanted.finding).question
        name = file_name(what)
    about(request, name)
    finding = None if wanted.finding is None else str(wanted.finding)
    return as_it_goes(request, Wanted("package", {"finding": finding, "name": f"{name}.zip"}, what))


@router.get("/packages/schema.json")
def show_schema() -> dict[str, Any]:
    """JSON Schema of the tables of a data package."""
    return json_schema()


@router.get("/packages/{package_id}", response_class=Response, responses=answers(ZIP))
def fetch_package(request: Request, package_id: uuid.UUID) -> FileResponse:
    """A data package that was written before."""
    try:
        upload = context_of(request).uploads.find(package_id)
    except NotThere as error:
        raise NotThere("the data package is no longer here: make it again") from error
    return FileResponse(upload.path, media_type=ZIP, filename=upload.name)


@router.post("/packages/uploads", status_code=201, openapi_extra=FILE_AS_BODY)
async def send_package(
    request: Request, name: Annotated[str, Query(max_length=300)] = "package.zip"
) -> shapes.ArrivedPackage:
    """Send a data package, to be brought in."""
    upload = await receive(request, context_of(request), name)
    return shapes.ArrivedPackage(id=upload.id)


@router.post("/packages/imports", response_class=StreamingResponse, responses=BY_LINES)
def bring_in(request: Request, sent: shapes.SentPackage) -> StreamingResponse:
    """Bring a data package in that was sent; what was changed here and there is told, and left until it is settled."""
    upload = context_of(request).uploads.find(sent.upload)
    about(request, upload.name)
    return as_it_goes(request, Wanted("bring in", {"upload": str(upload.id), "take": sent.take}, upload.name))
