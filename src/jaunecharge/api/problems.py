"""Errors as problem documents (RFC 9457)."""

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel, Field
from sqlalchemy.exc import DBAPIError
from starlette.exceptions import HTTPException

from ..core.errors import CannotRead
from ..core.kit_fields import Flawed
from ..core.schedule import Impossible
from ..instruments.scpi import InstrumentError
from ..live.inbox import gone
from ..store.errors import ChangedMeanwhile, LaneOver, NotThere

KNOWN = (CannotRead, Flawed, Impossible, NotThere, ChangedMeanwhile, LaneOver)
MEDIA_TYPE = "application/problem+json"


class FlawShape(BaseModel):
    """What is wrong with one field of a form, and what would mend it."""

    field: str
    what: str
    mend: str


class Problem(BaseModel):
    """What went wrong, where, and what would mend it."""

    type: str = Field("about:blank", description="what kind of problem it is")
    title: str = Field(description="the kind in words")
    status: int
    detail: str = Field(description="what is wrong")
    mend: str = Field("", description="what would put it right")
    file: str = Field("", description="the file or field that it concerns")
    row: int | None = Field(None, description="row of that file, counted from 1")
    flaws: list[FlawShape] = Field([], description="what is wrong with each field of a form")


RESPONSES: dict[int | str, dict[str, object]] = {
    status: {"model": Problem, "description": text, "content": {MEDIA_TYPE: {}}}
    for status, text in (
        (404, "It is not there."),
        (409, "It was changed meanwhile."),
        (410, "The lane has ended."),
        (422, "It cannot be read."),
        (503, "The database is away."),
    )
}


def problem_of(error: CannotRead | Flawed | Impossible | NotThere | ChangedMeanwhile | LaneOver) -> Problem:
    """The problem document of an error of the core or the store."""
    match error:
        case CannotRead():
            return Problem(
                type="urn:jaunecharge:cannot-read",
                title="This cannot be read",
                status=422,
                detail=error.what,
                mend=error.mend,
                file=error.file,
                row=error.row,
            )
        case Flawed():
            first = error.flaws[0]
            return Problem(
                type="urn:jaunecharge:flawed",
                title="Some of it is refused",
                status=422,
                detail=first.what,
                mend=first.mend,
                file=first.field,
                flaws=[FlawShape(field=f.field, what=f.what, mend=f.mend) for f in error.flaws],
            )
        case Impossible():
            return Problem(
                type="urn:jaunecharge:impossible",
                title="No schedule can be",
                status=422,
                detail=error.why,
                mend=" ".join(error.wishes),
            )
        case NotThere():
            return Problem(type="urn:jaunecharge:not-there", title="It is not there", status=404, detail=str(error))
        case LaneOver():
            return Problem(
                type="urn:jaunecharge:lane-over",
                title="The lane has ended",
                status=410,
                detail=str(error),
                mend="open its run, or set up another lane",
            )
        case ChangedMeanwhile():
            return Problem(
                type="urn:jaunecharge:changed-meanwhile",
                title="It was changed meanwhile",
                status=409,
                detail=str(error),
                mend="look at the newer values, then save yours again",
            )


def response(problem: Problem) -> JSONResponse:
    """A problem document as a response."""
    return JSONResponse(problem.model_dump(), status_code=problem.status, media_type=MEDIA_TYPE)


def install(app: FastAPI) -> None:
    """Answer every error with a problem document."""

    def known(_: Request, error: Exception) -> JSONResponse:
        assert isinstance(error, KNOWN)
        return response(problem_of(error))

    def invalid(_: Request, error: Exception) -> JSONResponse:
        assert isinstance(error, RequestValidationError)
        first = error.errors()[0]
        field = ".".join(str(p) for p in first["loc"] if p not in ("body", "query", "path"))
        return response(
            Problem(
                type="urn:jaunecharge:invalid",
                title="A value is refused",
                status=422,
                detail=f"{field or 'the request'} is refused",
                mend=first["msg"][0].lower() + first["msg"][1:],
                file=field,
            )
        )

    def http(_: Request, error: Exception) -> JSONResponse:
        assert isinstance(error, HTTPException)
        return response(Problem(title=str(error.detail), status=error.status_code, detail=str(error.detail)))

    def database(_: Request, error: Exception) -> JSONResponse:
        if not gone(error):
            raise error
        return response(
            Problem(
                type="urn:jaunecharge:database-away",
                title="The database is away",
                status=503,
                detail="the database does not answer just now; nothing was changed",
                mend="wait a moment: it is started again by itself, and readings wait on disk",
            )
        )

    def instrument(_: Request, error: Exception) -> JSONResponse:
        return response(
            Problem(
                type="urn:jaunecharge:instrument", title="The instrument does not answer", status=502,
                detail=str(error),
                mend="see whether it is on and reachable, or type what it shows",
            )
        )  # fmt: skip

    app.add_exception_handler(InstrumentError, instrument)
    app.add_exception_handler(DBAPIError, database)
    for kind in KNOWN:
        app.add_exception_handler(kind, known)
    app.add_exception_handler(RequestValidationError, invalid)
    app.add_exception_handler(HTTPException, http)
