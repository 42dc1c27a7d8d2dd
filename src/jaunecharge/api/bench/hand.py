"""A lane in the hand: what a phone that has read its code may see and log, for as long as the lane is open."""

import io
import uuid

import segno
from fastapi import Request, Response
from sse_starlette import EventSourceResponse
from starlette.concurrency import run_in_threadpool

from ...live.lines import understand
from ...live.shown import LaneFull
from ...live.steady import now
from ...store.bench.lanes import lane_for_change
from ...store.bench.reporting import report_with
from ...store.errors import LaneOver
from ..context import Context, context_of, name_of
from ..downloads import answers
from ..numbers import Counted
from ..strict import make_router
from . import shapes
from .routes import echo_of, log, noted
from .streams import EVENTS, last_seen, stream

router = make_router("a lane in the hand")

UNREACHED = "only this machine can open it: start with `jaunecharge serve --lan` to reach it from a phone"
READABLE = "not encrypted: anyone on this network can read along; start with --tls auto to prevent that"
BY_HAND = "by hand-held"


def _lane_id(context: Context, token: str) -> uuid.UUID:
    """The lane that a token reaches.

    Raises
    ------
    LaneOver, LaneAside
    """
    return context.hub.state_of_token(token).lane.id


def _is_open(context: Context, token: str) -> bool:
    try:
        return bool(_lane_id(context, token))
    except LaneOver:
        return False


@router.get("/hand/{token}")
def lane_in_hand(request: Request, token: str) -> LaneFull:
    """The lane that a token reaches."""
    context = context_of(request)
    return context.hub.full(_lane_id(context, token))


@router.post("/hand/{token}/echo")
def echo_in_hand(request: Request, token: str, typed: shapes.Typed) -> shapes.Echo:
    """Understanding of a line for that lane."""
    context = context_of(request)
    return echo_of(understand(context.hub, typed.line, typed.fahrenheit, _lane_id(context, token)))


@router.post("/hand/{token}/lines")
def log_in_hand(request: Request, token: str, new: shapes.NewLine) -> shapes.Logged:
    """Log a line to that lane."""
    context = context_of(request)
    return noted(request, new, log(context, new, name_of(request) or BY_HAND, _lane_id(context, token)))


@router.get("/hand/{token}/events", response_class=EventSourceResponse, responses=EVENTS)
async def events_in_hand(request: Request, token: str, after: Counted = None) -> EventSourceResponse:
    """Every change of that lane, as server-sent events."""
    context = context_of(request)
    lane_id = await run_in_threadpool(_lane_id, context, token)
    return stream(context.hub, last_seen(request, after), lane_id, lambda: _is_open(context, token))


@router.put("/hand/{token}/reporting")
def report_from_hand(request: Request, token: str, reports: shapes.Reports) -> shapes.Reports:
    """State that the phone on the charger reports its level itself, and with which screen; or no longer does."""
    context = context_of(request)
    with context.database.session() as session:
        lane = lane_for_change(session, _lane_id(context, token))
        report_with(session, lane, reports.screen, now(), name_of(request) or BY_HAND)
    return reports


def _link(request: Request, context: Context, lane_id: uuid.UUID) -> tuple[str, str]:
    state = context.hub.state_of(lane_id)
    base = context.network.address or str(request.base_url)
    return f"{base.rstrip('/')}/hand/{state.lane.token}", state.lane.token


@router.get("/lanes/{lane_id}/link")
def lane_link(request: Request, lane_id: uuid.UUID) -> shapes.LaneLinkShape:
    """Hand out the link to a lane, for a phone in the hand."""
    context = context_of(request)
    url, token = _link(request, context, lane_id)
    network = context.network
    trust = f"a phone warns until it trusts this bench: {network.address}/trust" if network.authority else ""
    note = UNREACHED if not network.reachable else trust if network.secure else READABLE
    return shapes.LaneLinkShape(url=url, token=token, reachable=network.reachable, note=note)


@router.get("/lanes/{lane_id}/link.svg", response_class=Response, responses=answers("image/svg+xml"))
def lane_code(request: Request, lane_id: uuid.UUID) -> Response:
    """The same as a QR code."""
    url, _ = _link(request, context_of(request), lane_id)
    out = io.BytesIO()
    segno.make(url, error="m").save(out, kind="svg", scale=5, border=3, dark="#1c1f26", light="#ffffff")
    return Response(out.getvalue(), media_type="image/svg+xml", headers={"Cache-Control": "no-store"})
