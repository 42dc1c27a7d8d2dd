"""Readings pushed to a lane by its token, which reaches nothing else: stored once, acknowledged once that is sure."""

import asyncio
import hmac
import uuid

from fastapi import Request, Response
from fastapi.responses import JSONResponse
from pydantic import TypeAdapter, ValidationError
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import Headers
from starlette.types import ASGIApp, Receive, Scope, Send

from ...core.errors import CannotRead
from ...core.log import MOST_PLACES
from ...documents.document import said as said_wrong
from ...live.inbox import Outcome, Refused, Waits
from ...live.spool import SpoolFull
from ...live.steady import now
from ...store import bench_models as b
from ...store.bench.arriving import Batch, Row
from ...store.bench.entries import lane_s
from ...store.bench.lanes import OPEN, get_lane
from ...store.errors import LaneOver
from ..context import Context, context_of
from ..door import is_pushed
from ..problems import Problem, answer_to, problem_of, response
from ..strict import make_router
from . import shapes

router = make_router("pushed readings")
BODY = TypeAdapter(shapes.ReadingsIn)
BEFORE, BEHIND = "/api/lanes/", "/readings"
STORED_WITHIN_S = 30.0
"""Time within which a push is answered: what is not stored by then is to be sent again."""


@router.post(
    "/lanes/{lane_id}/readings",
    response_model=shapes.Acknowledged,
    responses={
        202: {
            "model": shapes.Acknowledged,
            "description": "the database does not answer: they wait on disk, send them again",
        },
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
    """The answer to a batch."""
    state = context.hub.states.get(lane_id)
    # A lane that this process does not show (yet) takes readings all the same: the store knows it.
    lane = state.lane if state is not None else await run_in_threadpool(_stored_lane, context, lane_id)
    if not hmac.compare_digest(token.encode(), lane.token.encode()):
        return response(Problem(title="Not allowed", status=401, detail="this token is not that of the lane"))
    try:
        sent = BODY.validate_json(body)
    except ValidationError as error:
        return response(problem_of(CannotRead(*said_wrong(error), "readings")))
    if state is not None and len(state.heat.keys() | {r.position for r in sent.readings}) > MOST_PLACES // 2:
        most = f"use at most {MOST_PLACES // 2}"
        return response(problem_of(CannotRead("too many places are named on this lane", most, "position")))
    rows = tuple(Row(**r.model_dump()) for r in sent.readings)
    batch = Batch(lane_id, sent.source, lane_s(lane, now()), rows, lane.speed, sent.boot)
    outcome = await taken_in(context, batch)
    if isinstance(outcome, Response):
        return outcome
    if isinstance(outcome, Waits):
        return JSONResponse({"committed": False, "waiting": outcome.waiting}, 202)
    if outcome.over:
        raise LaneOver(f"lane {lane.name} has ended")
    return JSONResponse(
        {
            "committed": True, "new": outcome.new, "duplicates": outcome.duplicates, "refused": outcome.refused,
            "tick": outcome.tick, "waiting": 0,
        }
    )  # fmt: skip


async def taken_in(context: Context, batch: Batch) -> Outcome | Response:
    """Outcome of a batch once it is sure; the problem to answer with where it is not taken."""
    try:
        return await asyncio.wait_for(asyncio.wrap_future(context.inbox.put(batch)), STORED_WITHIN_S)
    except (SpoolFull, TimeoutError) as error:
        detail = str(error) or "what was sent is not stored yet"
        return response(Problem(title="Full", status=503, detail=detail, mend="keep it, and send it later"))
    except Refused as error:
        detail = f"the database refuses what was sent: {error}"
        return response(Problem(title="Refused", status=422, detail=detail, mend="it was set aside: see the bench"))


def _stored_lane(context: Context, lane_id: uuid.UUID) -> b.Lane:
    """An open lane, as the store knows it.

    Raises
    ------
    NotThere, LaneOver
    """
    with context.database.session() as session:
        lane = get_lane(session, lane_id)
    if lane.state not in OPEN:
        raise LaneOver(f"lane {lane.name} has ended")
    return lane


class PushDoor:
    """Takes pushed readings in before everything else is asked: they come hundreds of times a second.

    What it lets by is as the route says; a token is asked for here as there.
    """

    def __init__(self, app: ASGIApp, context: Context) -> None:
        self.app, self._context = app, context

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        path = scope.get("path", "")
        lane = path[len(BEFORE) : -len(BEHIND)] if is_pushed(path) else ""
        if not lane or scope["type"] != "http" or scope["method"] != "POST" or not _is_id(lane):
            await self.app(scope, receive, send)
            return
        message = await receive()  # The door before has read it whole.
        try:
            answer = await pushed(
                self._context, uuid.UUID(lane), bearer(Headers(scope=scope)), message.get("body", b"")
            )
        except Exception as error:
            answer = answer_to(error)
        await answer(scope, receive, send)


def _is_id(text: str) -> bool:
    try:
        uuid.UUID(text)
    except ValueError:
        return False
    return True
