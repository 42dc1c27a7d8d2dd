"""Errors as problem documents (RFC 9457)."""

import sqlite3

import psycopg
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel, Field
from sqlalchemy import exc
from starlette.exceptions import HTTPException
from starlette.routing import Match

from ..core.errors import CannotRead, Impossible
from ..core.kit import Flaw, Flawed
from ..formats.read.apart import Busy
from ..instruments.errors import InstrumentError
from ..store.errors import ChangedMeanwhile, LaneAside, LaneOver, NotThere
from ..store.failures import failure, looked_only, no_room

KNOWN = (CannotRead, Flawed, Impossible, NotThere, ChangedMeanwhile, LaneOver)
MEDIA_TYPE = "application/problem+json"


class Problem(BaseModel):
    """A problem: what went wrong, where, and what would mend it."""

    type: str = Field("about:blank", description="what kind of problem it is")
    title: str = Field(description="the kind in words")
    status: int
    detail: str = Field(description="what is wrong")
    mend: str = Field("", description="what would put it right")
    file: str = Field("", description="the file or field that it concerns")
    row: int | None = Field(None, description="row of that file, counted from 1")
    flaws: list[Flaw] = Field([], description="what is wrong with each field of a form")


RESPONSES: dict[int | str, dict[str, object]] = {
    status: {"model": Problem, "description": text, "content": {MEDIA_TYPE: {}}}
    for status, text in (
        (404, "It is not there."),
        (409, "It was changed meanwhile."),
        (410, "The lane has ended."),
        (422, "It cannot be read."),
        (503, "The database does not answer."),
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
                flaws=list(error.flaws),
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


def answer_to(error: Exception) -> JSONResponse:
    """The problem document that answers an error; errors that are none of these are raised again."""
    if isinstance(error, KNOWN):
        return response(problem_of(error))
    if isinstance(error, LaneAside):
        return response(
            Problem(
                type="urn:jaunecharge:lane-aside", title="The lane cannot be shown", status=503, detail=str(error),
                mend="wait a moment; what is sent to it is stored all the same",
            )
        )  # fmt: skip
    if isinstance(error, InstrumentError):
        return response(
            Problem(
                type="urn:jaunecharge:instrument", title="The instrument does not answer", status=422,
                detail=str(error), mend="see whether it is on and reachable, or type what it shows",
            )
        )  # fmt: skip
    if isinstance(error, Busy):
        return response(Problem(title="Busy", status=503, detail=str(error), mend="try again in a moment"))
    if no_room(error):
        return response(NO_ROOM)
    if looked_only(error):
        return response(LOOKS_ONLY)
    kind = failure(error)
    if kind is None:
        raise error
    return response(REFUSED_VALUE if kind == "refused" else AWAY)


NO_ROOM = Problem(
    type="urn:jaunecharge:no-room", title="The disk is full", status=507,
    detail="there is no room left on the disk; nothing was changed",
    mend="make room on it: it goes on by itself once there is some",
)  # fmt: skip
AWAY = Problem(
    type="urn:jaunecharge:database-away", title="The database does not answer", status=503,
    detail="the database does not answer just now; nothing was changed",
    mend="wait a moment: it is started again by itself, and readings wait on disk",
)  # fmt: skip
UNFORESEEN = Problem(
    type="urn:jaunecharge:unforeseen", title="It could not be done", status=500,
    detail="something went wrong that nobody thought of; nothing was changed", mend="its log says more",
)  # fmt: skip
LOOKS_ONLY = Problem(
    type="urn:jaunecharge:looks-only", title="Not allowed", status=403,
    detail="you may look at everything here, and change nothing", mend="ask somebody who may",
)  # fmt: skip
REFUSED_VALUE = Problem(
    type="urn:jaunecharge:refused", title="A value is refused", status=422,
    detail="the database cannot keep a value that was sent; nothing was changed", mend="look at what was sent",
)  # fmt: skip


def _methods(request: Request) -> list[str]:
    """The methods that an address of the API knows."""
    methods: set[str] = set()
    for route in request.app.router.routes:
        own = getattr(route, "methods", None) or set()
        if getattr(route, "include_in_schema", True) and route.matches(request.scope)[0] is not Match.NONE:
            methods |= own
    return sorted(methods)


def install(app: FastAPI) -> None:
    """Answer every error with a problem document."""

    def known(_: Request, error: Exception) -> JSONResponse:
        return answer_to(error)

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

    def http(request: Request, error: Exception) -> JSONResponse:
        assert isinstance(error, HTTPException)
        status, may = error.status_code, _methods(request)
        if status == 405 and not may:
            status = 404  # Nothing of that name is there, with any method.
        detail = "there is no such address" if status == 404 else str(error.detail)
        answer = response(Problem(title=detail.capitalize(), status=status, detail=detail))
        answer.headers.update(error.headers or {})
        if status == 405:
            answer.headers["Allow"] = ", ".join(may)
        return answer

    for kind in (
        *KNOWN,
        LaneAside,
        Busy,
        InstrumentError,
        exc.DBAPIError,
        psycopg.Error,
        exc.TimeoutError,
        OSError,
        sqlite3.OperationalError,
    ):
        app.add_exception_handler(kind, known)
    app.add_exception_handler(UnicodeEncodeError, known)
    app.add_exception_handler(RequestValidationError, invalid)
    app.add_exception_handler(HTTPException, http)
