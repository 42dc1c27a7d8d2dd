"""A lane in the hand: what a phone that has read its code may see and log, for as long as the lane is open."""

import io
import uuid
from typing import Annotated

import segno
from fastapi import APIRouter, Query, Request, Response
from sse_starlette import EventSourceResponse

from ..live.lines import understand
from ..live.steady import now
from ..live.view import LaneFull, full
from ..store.errors import LaneOver, NotThere
from . import bench_shapes as shapes
from .bench import echo_of, log
from .context import Context, context_of, name_of
from .problems import RESPONSES
from .streams import last_seen, stream

router = APIRouter(prefix="/api", tags=["a lane in the hand"], responses=RESPONSES)

UNREACHED = "only this machine can open it: start with `jaunecharge serve --lan` to reach it from a phone"
READABLE = "what is sent can be read on this network: start with --tls CERT KEY to prevent that"


def _lane_id(context: Context, token: str) -> uuid.UUID:
    """The lane that a token reaches.

    Raises
    ------
    LaneOver
        If it reaches none, or none any more.
    """
    lane = context.hub.lane_of_token(token)
    if lane is None:
        raise LaneOver("this code reaches no lane, or its lane has ended")
    return lane.id


@router.get("/hand/{token}")
def lane_in_hand(request: Request, token: str) -> LaneFull:
    """The lane that a token reaches."""
    context = context_of(request)
    lane_id = _lane_id(context, token)
    return full(context.hub.states[lane_id], now(), context.hub.shared_with(lane_id))


@router.post("/hand/{token}/echo")
def echo_in_hand(request: Request, token: str, typed: shapes.Typed) -> shapes.Echo:
    """What is understood of a line for that lane."""
    context = context_of(request)
    return echo_of(understand(context.hub, typed.line, typed.fahrenheit, _lane_id(context, token)))


@router.post("/hand/{token}/lines")
def log_in_hand(request: Request, token: str, new: shapes.NewLine) -> shapes.Logged:
    """Log a line to that lane."""
    context = context_of(request)
    return log(context, new, name_of(request) or "by hand-held", _lane_id(context, token))


@router.get("/hand/{token}/events", response_class=EventSourceResponse)
async def events_in_hand(
    request: Request, token: str, after: Annotated[int | None, Query()] = None
) -> EventSourceResponse:
    """Every change of that lane, as server-sent events."""
    context = context_of(request)
    return stream(context.hub, last_seen(request, after), _lane_id(context, token))


def _link(request: Request, context: Context, lane_id: uuid.UUID) -> tuple[str, str]:
    state = context.hub.states.get(lane_id)
    if state is None:
        raise NotThere(f"lane {lane_id} is not open")
    base = context.network.address or str(request.base_url)
    return f"{base.rstrip('/')}/hand/{state.lane.token}", state.lane.token


@router.get("/lanes/{lane_id}/link")
def lane_link(request: Request, lane_id: uuid.UUID) -> shapes.LinkShape:
    """How a phone in the hand reaches a lane."""
    context = context_of(request)
    url, token = _link(request, context, lane_id)
    network = context.network
    note = UNREACHED if not network.reachable else "" if network.secure else READABLE
    return shapes.LinkShape(url=url, token=token, reachable=network.reachable, note=note)


@router.get("/lanes/{lane_id}/link.svg", response_class=Response)
def lane_code(request: Request, lane_id: uuid.UUID) -> Response:
    """The same as a QR code."""
    url, _ = _link(request, context_of(request), lane_id)
    out = io.BytesIO()
    segno.make(url, error="m").save(out, kind="svg", scale=5, border=3, dark="#1c1f26", light="#ffffff")
    return Response(out.getvalue(), media_type="image/svg+xml", headers={"Cache-Control": "no-store"})
