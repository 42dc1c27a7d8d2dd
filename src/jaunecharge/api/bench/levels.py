"""The level that a phone sends by itself to its lane: as a query, a form or JSON, by whatever can call an address."""

import datetime as dt
import json
from typing import Annotated, Any
from urllib.parse import parse_qsl
from zoneinfo import ZoneInfo

from fastapi import Request, Response
from fastapi.responses import JSONResponse
from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, ValidationError
from starlette.concurrency import run_in_threadpool

from ...core.bench import MOST_PHONE_W, POSITIONS, EntryItem, said
from ...core.errors import CannotRead
from ...core.log import BOUNDS, moment_of
from ...documents.document import said as said_wrong
from ...live.inbox import Waits
from ...live.reports import Report, batch_of, remark
from ...live.steady import now
from ...store.bench.entries import moment
from ...store.errors import LaneOver
from ..context import context_of
from ..numbers import YEARS
from ..problems import Problem, problem_of, response
from ..strict import make_router, refuse_figures
from .pushed import taken_in

router = make_router("a lane in the hand")

TRUE, FALSE = frozenset({"true", "1", "yes", "on"}), frozenset({"false", "0", "no", "off"})


def _plain(value: Any) -> Any:
    """A figure as automations write it: `47`, `47 %`, `31,5`."""
    if isinstance(value, bool):
        raise ValueError("a figure is wanted")
    return value.strip().removesuffix("%").strip().replace(",", ".") if isinstance(value, str) else value


def _whether(value: Any) -> Any:
    word = str(value).strip().casefold()
    return True if word in TRUE else False if word in FALSE else value


def _moment(value: Any) -> dt.datetime:
    at = moment_of(value)
    if not YEARS[0] <= at.year < YEARS[1]:
        raise ValueError(f"the year lies outside {YEARS[0]} to {YEARS[1]}")
    return at


At = Annotated[dt.datetime | None, BeforeValidator(_moment)]


def _figure(low: float, high: float, says: str) -> Any:
    return Field(None, ge=low, le=high, description=says)


class LevelIn(BaseModel):
    """A level that a phone sends, and what else it knows."""

    model_config = ConfigDict(allow_inf_nan=False, extra="ignore")

    percent: Annotated[float, BeforeValidator(_plain)] = Field(ge=0, le=100, description="the battery's level, %")
    celsius: Annotated[float | None, BeforeValidator(_plain)] = _figure(*BOUNDS["celsius"], "of the battery, °C")
    watts: Annotated[float | None, BeforeValidator(_plain)] = _figure(
        -MOST_PHONE_W, MOST_PHONE_W, "into the battery, as the phone says"
    )
    mv: Annotated[float | None, BeforeValidator(_plain)] = _figure(0, 60_000, "of the battery, mV")
    ma: Annotated[float | None, BeforeValidator(_plain)] = _figure(-20_000, 20_000, "into the battery, mA")
    charging: Annotated[bool | None, BeforeValidator(_whether)] = Field(None, description="whether it charges")
    at: At = Field(None, description="when it was read: ISO 8601 or epoch; now where it is left out")
    sent: At = Field(None, description="when it is sent, by the same clock: tells a wrong clock from a late call")
    id: str = Field("", max_length=200, description="what is sent twice with one id counts once")


class LevelLogged(BaseModel):
    """A level as it was logged. `committed`: it need not be sent again."""

    committed: bool
    duplicate: bool = False
    lane: str
    percent: float
    at: dt.datetime
    said: list[str] = Field(description="each figure in words")
    remark: str = Field("", description="what is odd about the time that was sent")
    left_out: list[str] = Field([], description="names that are not known here")


@router.post(
    "/hand/{token}/level",
    response_model=LevelLogged,
    responses={
        202: {"model": LevelLogged, "description": "the database does not answer: it waits on disk, send it again"},
        401: {"model": Problem, "description": "the token is over: its lane has ended, or never was"},
    },
    openapi_extra={
        "parameters": [
            {"name": "percent", "in": "query", "required": False, "schema": {"type": "string"},
             "description": "all of it may stand in the query as well"},
        ],
        "requestBody": {
            "content": {
                kind: {"schema": {"$ref": "#/components/schemas/LevelIn"}}
                for kind in ("application/json", "application/x-www-form-urlencoded")
            },
        },
    },
)  # fmt: skip
async def log_level(request: Request, token: str) -> Response:
    """Log the level that a phone sends: each once, at the time that it states."""
    context = context_of(request)
    try:
        state = await run_in_threadpool(context.hub.state_of_token, token)
    except LaneOver as error:
        mend = "open the lane's code again, or stop sending"
        return response(Problem(title="The lane has ended", status=401, detail=str(error), mend=mend))
    arrived = now()
    try:
        sent = await _sent(request)
        level = LevelIn.model_validate(sent)
    except ValidationError as error:
        return response(problem_of(CannotRead(*said_wrong(error), "level")))
    zone = ZoneInfo(state.lane.zone)
    at, left = (t if t is None or t.tzinfo else t.replace(tzinfo=zone) for t in (level.at, level.sent))
    figures = level.model_dump(exclude={"at", "sent"})
    batch, stamp = batch_of(state.lane, Report(at=at, sent=left, **figures), arrived)
    outcome = await taken_in(context, batch)
    if isinstance(outcome, Response):
        return outcome
    stored = None if isinstance(outcome, Waits) else outcome
    if stored is not None and stored.over:
        over = f"lane {state.lane.name} has ended"
        return response(Problem(title="The lane has ended", status=401, detail=over, mend="stop sending"))
    if stored is not None and stamp.said:
        await run_in_threadpool(remark, context.database, state.lane.id, stamp, arrived)
    logged = LevelLogged(
        committed=stored is not None, duplicate=stored is not None and stored.new == 0, lane=state.lane.name,
        percent=level.percent,
        at=moment(state.lane, batch.rows[0].clock_s or 0.0), said=_said(level, batch.rows[0].watts), remark=stamp.said,
        left_out=sorted(sent.keys() - LevelIn.model_fields.keys()),
    )  # fmt: skip
    return JSONResponse(logged.model_dump(mode="json"), 202 if stored is None else 200)


async def _sent(request: Request) -> dict[str, Any]:
    """Everything that was sent, by name: the query, and the body before it.

    Raises
    ------
    CannotRead
    """
    body = await request.body()
    kind = request.headers.get("content-type", "").partition(";")[0].strip().casefold()
    named: dict[str, Any] = dict(request.query_params)
    if not body.strip():
        return named
    if kind == "multipart/form-data":
        async with request.form(max_files=0, max_fields=50) as form:
            return named | {k: v for k, v in form.items() if isinstance(v, str)}
    if body.lstrip()[:1] == b"{" or kind == "application/json":
        refuse_figures(body)
        try:
            told = json.loads(body)
        except (ValueError, RecursionError):
            told = None
        if not isinstance(told, dict):
            raise CannotRead("what was sent is no JSON object", 'send {"percent": 47}', file="level")
        return named | told
    try:
        return named | dict(parse_qsl(body.decode(), max_num_fields=50))
    except ValueError as error:
        raise CannotRead("what was sent is no form", "send percent=47", file="level") from error


def _said(level: LevelIn, watts: float | None) -> list[str]:
    items = [EntryItem("percent", level.percent)]
    if level.celsius is not None:
        items.append(EntryItem("celsius", level.celsius, "c", POSITIONS[0]))
    if watts is not None:
        items.append(EntryItem("phone watts", round(watts, 3), "w"))
    return [said(i) for i in items]


TOLD = (LevelIn,)
"""Shapes that no route states by itself."""
