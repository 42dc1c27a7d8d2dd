"""Readings pushed to a lane by its token, which reaches nothing else: stored once, acknowledged once that is sure."""

import asyncio
import hmac
import uuid

from fastapi import APIRouter, Request, Response
from fastapi.responses import JSONResponse
from pydantic import TypeAdapter, ValidationError
from starlette.datastructures import Headers
from starlette.types import ASGIApp, Receive, Scope, Send

from ..core.errors import CannotRead
from ..formats.case import said as said_wrong
from ..live.inbox import Waits
from ..live.spool import SpoolFull
from ..live.steady import now
from ..store.bench import Batch, Row
from ..store.lanes import lane_s
from . import bench_shapes as shapes
from .context import Context, context_of
from .problems import RESPONSES, Problem, problem_of, response

router = APIRouter(prefix="/api", tags=["pushed readings"], responses=RESPONSES)
BODY = TypeAdapter(shapes.ReadingsIn)
MOST_BYTES = 2_000_000
BEFORE, BEHIND = "/api/lanes/", "/readings"

BEFORE, BEHIND = "/api/lanes/", "/readings"


@router.post(
    "/lanes/{lane_id}/readings",
    response_model=shapes.Acknowledged,
    responses={
        202: {"model": shapes.Acknowledged, "description": "the database is away: they wait on disk, send them again"},
        401: {"model": Problem, "description": "the token is not that of this lane"},
        410: {"model": Problem, "description": "the lane has ended"},
        503: {"model": Problem, "description": "no more readings can wait"},
    },
    openapi_extra={
        "requestBody": {
            "required": True,
            "content": {"application/json": {"schema": {"$ref": "#/components/schemas/ReadingsIn"}}},
        }
    },
)
async def push_readings(request: Request, lane_id: uuid.UUID) -> Response:
    """Store a batch of readings of one source: each once, however often and in whatever order it is sent.

    They are acknowledged (`committed`) only once they are stored for good.
    """
    return await pushed(context_of(request), lane_id, bearer(request.headers), await request.body())


def bearer(headers: Headers) -> str:
    """The token that a request carries; empty where it has none."""
    kind, _, token = headers.get("authorization", "").partition(" ")
    return token.strip() if kind.lower() == "bearer" else ""


async def pushed(context: Context, lane_id: uuid.UUID, token: str, body: bytes) -> Response:
    """What is answered to a batch."""
    state = context.hub.states.get(lane_id)
    if state is None:
        return response(Problem(title="Over", status=410, detail="this lane has ended", mend="send no more to it"))
    if not hmac.compare_digest(token.encode(), state.lane.token.encode()):
        return response(Problem(title="Not allowed", status=401, detail="this token is not that of the lane"))
    if len(body) > MOST_BYTES:
        return response(problem_of(CannotRead("the batch is too large", "send fewer readings at a time", "readings")))
    try:
        sent = BODY.validate_json(body)
    except ValidationError as error:
        return response(problem_of(CannotRead(*said_wrong(error), "readings")))
    lane = state.lane
    rows = tuple(Row(r.n, r.clock_s, r.volts, r.amps, r.watts, r.celsius, r.position, r.percent) for r in sent.readings)
    batch = Batch(lane_id, sent.source, lane_s(lane, now()), rows, lane.speed, sent.boot)
    try:
        outcome = await asyncio.wrap_future(context.inbox.put(batch))
    except SpoolFull as error:
        return response(Problem(title="Full", status=503, detail=str(error), mend="keep them, and send them later"))
    if isinstance(outcome, Waits):
        return JSONResponse({"committed": False, "waiting": outcome.waiting}, 202)
    return JSONResponse(
        {"committed": True, "new": outcome.new, "duplicates": outcome.duplicates, "tick": outcome.tick, "waiting": 0}
    )


class PushDoor:
    """Takes pushed readings in before everything else is asked: they come hundreds of times a second.

    What it lets by is as the route says; a token is asked for here as there.
    """

    def __init__(self, app: ASGIApp, context: Context) -> None:
        self.app, self._context = app, context

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        path = scope.get("path", "")
        lane = path[len(BEFORE) : -len(BEHIND)] if path.startswith(BEFORE) and path.endswith(BEHIND) else ""
        if not lane or scope["type"] != "http" or scope["method"] != "POST" or not _is_id(lane):
            await self.app(scope, receive, send)
            return
        body = bytearray()
        while True:
            message = await receive()
            if message["type"] == "http.disconnect":
                return
            body += message.get("body", b"")
            if not message.get("more_body") or len(body) > MOST_BYTES:
                break
        answer = await pushed(self._context, uuid.UUID(lane), bearer(Headers(scope=scope)), bytes(body))
        await answer(scope, receive, send)


def _is_id(text: str) -> bool:
    try:
        uuid.UUID(text)
    except ValueError:
        return False
    return True
