"""Readings pushed to a lane, and a lane in the hand: both by the token of that lane, which reaches nothing else."""

import asyncio
import hmac
import uuid

from fastapi import APIRouter, Request, Response
from fastapi.responses import JSONResponse
from pydantic import TypeAdapter, ValidationError

from ..core.errors import CannotRead
from ..formats.case import said as said_wrong
from ..live.inbox import Waits
from ..live.spool import SpoolFull
from ..live.steady import now
from ..store.bench import Batch, Row
from ..store.lanes import lane_s
from . import bench_shapes as shapes
from .context import context_of
from .problems import RESPONSES, Problem, response

router = APIRouter(prefix="/api", tags=["pushed readings"], responses=RESPONSES)
BODY = TypeAdapter(shapes.ReadingsIn)
MOST_BYTES = 2_000_000


def bearer(request: Request) -> str:
    """The token that a request carries; empty where it has none."""
    kind, _, token = request.headers.get("authorization", "").partition(" ")
    return token.strip() if kind.lower() == "bearer" else ""


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
    hub = context_of(request).hub
    state = hub.states.get(lane_id)
    token = bearer(request)
    if state is None:
        return response(Problem(title="Over", status=410, detail="this lane has ended", mend="send no more to it"))
    if not hmac.compare_digest(token.encode(), state.lane.token.encode()):
        return response(Problem(title="Not allowed", status=401, detail="this token is not that of the lane"))
    body = await request.body()
    if len(body) > MOST_BYTES:
        raise CannotRead("the batch is too large", "send fewer readings at a time", file="readings")
    try:
        sent = BODY.validate_json(body)
    except ValidationError as error:
        what, mend = said_wrong(error)
        raise CannotRead(what, mend, file="readings") from error
    lane = state.lane
    rows = tuple(Row(r.n, r.clock_s, r.volts, r.amps, r.watts, r.celsius, r.position, r.percent) for r in sent.readings)
    batch = Batch(lane_id, sent.source, lane_s(lane, now()), rows, lane.speed, sent.boot)
    try:
        outcome = await asyncio.wrap_future(context_of(request).inbox.put(batch))
    except SpoolFull as error:
        return response(Problem(title="Full", status=503, detail=str(error), mend="keep them, and send them later"))
    if isinstance(outcome, Waits):
        return JSONResponse({"committed": False, "waiting": outcome.waiting}, 202)
    return JSONResponse(
        {"committed": True, "new": outcome.new, "duplicates": outcome.duplicates, "tick": outcome.tick, "waiting": 0}
    )
