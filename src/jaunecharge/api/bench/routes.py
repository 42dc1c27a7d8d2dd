"""The bench: lanes opened, set, logged to and ended; live updates; entries corrected and undone."""

import uuid
from collections.abc import Callable
from dataclasses import asdict, replace
from typing import Annotated, Any

from fastapi import Query, Request
from sqlalchemy.orm import Session
from sse_starlette import EventSourceResponse

from ...core.bench import GRAMMAR, Told, Unclear, parse
from ...core.errors import CannotRead
from ...core.kit import ROLES, Role, role_of
from ...core.plan import run_said
from ...instruments.errors import InstrumentError
from ...live.lines import Understood, understand
from ...live.practice import place_at, stand_in_at
from ...live.shown import EntryView, LaneFull, LaneView
from ...live.steady import now
from ...live.trying import try_once
from ...live.view import entry_view, setting_of
from ...store import bench_models as b
from ...store.bench import lanes as store
from ...store.bench import log as lanes
from ...store.bench.opening import lane_from_slot, lane_of_pack, lane_on_the_spot
from ...store.errors import NotThere
from ...store.kit import by_label, item_of
from ...store.plan.plans import get_plan, open_slots
from ..context import Context, about, context_of, name_of
from ..numbers import Counted
from ..signed import token_of
from ..strict import make_router
from . import shapes
from .streams import EVENTS, last_seen, stream

MOST_NEXT = 6

router = make_router("bench")


@router.get("/bench")
def show_bench(request: Request) -> shapes.BenchShape:
    """Every open lane as it is now."""
    context = context_of(request)
    context.hub.catch_up()
    tick, shown = context.hub.fulls()
    away = context.hub.away or context.inbox.away
    return shapes.BenchShape(
        tick=tick,
        at=now(),
        lanes=shown,
        away=away,
        aside=[shapes.LaneAside(id=x.id, name=x.name, since=x.since, why=x.why) for x in context.hub.set_aside()],
        waiting=context.inbox.spool.waiting() if away else 0,
        secure=context.network.secure,
        reachable=context.network.reachable,
    )


@router.get(
    "/bench/events",
    response_class=EventSourceResponse,
    responses=EVENTS,
)
async def bench_events(request: Request, after: Counted = None) -> EventSourceResponse:
    """Every change of the bench from a count on; a browser that comes back goes on where it was."""
    context, token = context_of(request), token_of(request.scope)
    may = (lambda: context.known.who(token) is not None) if context.network.reachable else (lambda: True)
    return stream(context.hub, last_seen(request, after), may=may)


@router.get("/bench/aside")
def put_aside(request: Request) -> shapes.PutAsideShape:
    """Batches of readings that could not be stored, the last ones first."""
    spool = context_of(request).inbox.spool
    return shapes.PutAsideShape(
        batches=spool.aside(),
        last=[shapes.BatchAside(**vars(x), source=x.source) for x in spool.put_aside_last()],
    )


@router.delete("/bench/aside")
def forget_aside(request: Request) -> shapes.PutAsideShape:
    """Let go of the batches that could not be stored."""
    context_of(request).inbox.spool.forget_aside()
    return shapes.PutAsideShape(batches=0, last=[])


@router.get("/bench/help")
def entry_help() -> list[shapes.GrammarLine]:
    """Grammar of the entry line, by example."""
    return [shapes.GrammarLine(example=example, says=says) for example, says in GRAMMAR]


def echo_of(understood: Understood | Unclear) -> shapes.Echo:
    """Understanding of a line, for the front end."""
    if isinstance(understood, Unclear):
        return shapes.Echo(understood=False, why=understood.why, mend=understood.mend)
    return shapes.Echo(
        understood=True, lane=understood.state.lane.name, said=understood.said, at=understood.at,
        before=understood.before, doubts=[d.said for d in understood.doubts], instead=_instead(understood),
    )  # fmt: skip


def _instead(understood: Understood) -> shapes.Instead | None:
    names = next((d.names for d in understood.doubts if d.instead is not None), None)
    return None if names is None else shapes.Instead(line=understood.instead, said=names[0], keep=names[1])


@router.get("/bench/next")
def next_of_plans(request: Request) -> list[shapes.FromPlan]:
    """Runs of the plans that can be started now, the next one first."""
    with context_of(request).database.session() as session:
        open_on_bench = {lane.slot_id for lane in store.open_lanes(session)}
        slots = [
            shapes.FromPlan(
                slot=slot.id, label=run_said(slot.phone, slot.said), question=plan.question, start=slot.start_at,
                zone=plan.wishes.zone,
            )
            for slot in open_slots(session)
            if slot.id not in open_on_bench and (plan := get_plan(session, slot.plan_id)) is not None
        ]  # fmt: skip
    return sorted(slots, key=lambda s: (s.start is None, s.start))[:MOST_NEXT]


@router.post("/bench/echo")
def echo(request: Request, typed: shapes.Typed) -> shapes.Echo:
    """Understanding of a line, before it is logged."""
    return echo_of(understand(context_of(request).hub, typed.line, typed.fahrenheit))


@router.post("/bench/lines")
def log_line(request: Request, new: shapes.NewLine) -> shapes.Logged:
    """Log a line; what is odd about it is asked first, and logged once somebody is sure."""
    return noted(request, new, log(context_of(request), new, name_of(request)))


def noted(request: Request, new: shapes.NewLine, logged: shapes.Logged) -> shapes.Logged:
    """The same, its line in the log of who did what; nothing there where it was not logged."""
    about(request, new.line.strip() if logged.logged else None)
    return logged


def log(context: Context, new: shapes.NewLine, by: str, only: uuid.UUID | None = None) -> shapes.Logged:
    """Log a line, to one lane alone where only one may be reached."""
    understood = understand(context.hub, new.line, new.fahrenheit, only, new.at)
    if only is not None and not isinstance(understood, Unclear) and understood.items[0].kind == "end":
        understood = Unclear("a lane is not ended from the hand", "end it on the bench itself")
    answer = echo_of(understood)
    if isinstance(understood, Unclear) or (understood.doubts and not new.sure):
        return shapes.Logged(logged=False, echo=answer)
    with context.database.session() as session:
        lane = store.lane_for_change(session, understood.state.lane.id)
        run = lanes.log_items(
            session, lane, understood.items, understood.at_s, now(), by, new.id, timed=understood.at != ""
        )
        tick, test = lane.tick, lane.pack_test_id
    context.hub.wait_for(tick)
    return shapes.Logged(
        logged=True, echo=answer, lane=lane.id, run=None if run is None else run.id, pack_test=test, tick=tick
    )


@router.post("/lanes", status_code=201)
def open_lane(request: Request, new: shapes.NewLaneShape) -> LaneFull:
    """Open a lane: for a run of a plan, or on the spot."""
    context, by = context_of(request), name_of(request)
    # What a stand-in plays knows of no room but its own.
    room = "" if new.practice is not None else new.room
    hung = {"meter": new.meter, "probe": new.probe, "socket": new.socket, "room": room}
    more: dict[str, Any] = {role: text if text is None else text.strip() for role, text in hung.items()}
    more |= {"zone": new.zone, "by": by, "survey": new.survey}
    with context.database.session() as session:
        for role in ROLES:
            _refuse_unknown(session, more[role] or "", role)
        if new.slot is not None:
            opening = lane_from_slot(session, new.slot, **more)
        elif new.kind != "charge":
            opening = lane_of_pack(session, new.kind, new.pack.strip(), new.method, new.ambient_c, **more)
        else:
            factors = {k: v for k, v in new.factors.model_dump().items() if v}
            opening = lane_on_the_spot(session, factors, new.card, new.ambient_c, **more)
    about(request, opening.label)
    return open_made(request, opening, new.practice, new.reports)


def open_made(
    request: Request, opening: store.NewLane, practice: float | None = None, reports: bool = False
) -> LaneFull:
    """Open a lane that was made ready; with stand-ins where it is for practice."""
    context, address = context_of(request), ""
    with context.database.session() as session:
        if practice is not None:
            address = context.practise(session, opening, practice)
            opening = replace(
                opening, meter="stand-in", probe="stand-in", meter_address=address, probe_address=address,
                speed=practice, simulated=True,
            )  # fmt: skip
        elif opening.meter_address and (stand := stand_in_at(opening.meter_address)) is not None:
            opening = replace(opening, speed=stand.speed, simulated=True)
        lane = store.open_lane(session, opening, now())
        lane_id, tick, token = lane.id, lane.tick, lane.token
    context.hub.wait_for(tick)
    if address and reports:
        context.practice.report(address, str(request.base_url).rstrip("/"), lane_id, token)
    return context.hub.full(lane_id)


def _refuse_unknown(session: Session, label: str, role: Role) -> None:
    if label and ((piece := by_label(session, label)) is None or role_of(item_of(piece)) != role):
        said = {"socket": "meter at the socket", "room": "probe of the room"}.get(role, role)
        raise CannotRead(f"there is no {said} “{label}” on the shelf", "add it there, or choose another", file=role)


@router.get("/lanes/{lane_id}")
def show_lane(request: Request, lane_id: uuid.UUID) -> LaneFull:
    """An open lane with its ribbon."""
    hub = context_of(request).hub
    hub.catch_up()
    return hub.full(lane_id)


@router.post("/lanes/{lane_id}/steps/{key}")
def tell_step(request: Request, lane_id: uuid.UUID, key: str, change: shapes.StepTold) -> LaneView:
    """Tick a step of setting the bench, skip it with a reason, or open it again."""
    answer = None if change.state == "open" else Told(change.state == "skipped", change.reason)
    state = context_of(request).hub.states.get(lane_id)
    steps = () if state is None else setting_of(state)
    return _change(
        request, lane_id, lambda s, lane: lanes.tell_step(s, lane, key, answer, now(), name_of(request), steps)
    )


@router.post("/lanes/{lane_id}/placed")
def place(request: Request, lane_id: uuid.UUID, already: Annotated[bool, Query()] = False) -> LaneView:
    """Place the phone: it lies on the charger, t = 0. Where a stand-in plays it, it is put there.

    With `already` it lay there before the lane was opened: the run goes on without a no-load, from the first reading.
    """
    context = context_of(request)
    if already:
        return _change(request, lane_id, lambda s, lane: lanes.place_already(s, lane, now(), name_of(request)))
    state = context.hub.states.get(lane_id)
    if state is not None and state.lane.simulated and state.lane.meter_address:
        place_at(state.lane.meter_address)
    at = now()
    return _change(request, lane_id, lambda s, lane: lanes.place(s, lane, lanes.lane_s(lane, at), at, name_of(request)))


@router.put("/lanes/{lane_id}/placed")
def move_placing(request: Request, lane_id: uuid.UUID, moved: shapes.PlacingMoved) -> LaneView:
    """Correct the placing: t = 0 moves to another moment."""
    return _change(
        request,
        lane_id,
        lambda s, lane: lanes.move_placing(s, lane, lanes.lane_s(lane, min(moved.at, now())), now(), name_of(request)),
    )


@router.delete("/lanes/{lane_id}/placed")
def take_back_placing(request: Request, lane_id: uuid.UUID) -> LaneView:
    """Take the placing back: the lane is being set again."""
    return _change(request, lane_id, lambda s, lane: lanes.take_back_placing(s, lane, now(), name_of(request)))


@router.post("/lanes/{lane_id}/ended")
def end_lane(request: Request, lane_id: uuid.UUID, ended: shapes.Ended) -> shapes.Logged:
    """End a lane: it closes into a run."""
    context = context_of(request)
    if ended.outcome != "complete" and not ended.reason.strip():
        raise CannotRead("no reason is given", "say why; the run keeps it", file="reason")
    with context.database.session() as session:
        lane = store.lane_for_change(session, lane_id)
        run = lanes.close_lane(session, lane, ended.outcome, ended.reason, now(), name_of(request), ended.id)
        tick, test = lane.tick, lane.pack_test_id
    context.hub.wait_for(tick)
    echo_ = shapes.Echo(understood=True, lane=lane.name, said=[f"ended, {ended.outcome}"])
    return shapes.Logged(
        logged=True, echo=echo_, lane=lane_id, run=None if run is None else run.id, pack_test=test, tick=tick
    )


@router.patch("/lanes/{lane_id}/entries/{entry_id}")
def fix_entry(request: Request, lane_id: uuid.UUID, entry_id: uuid.UUID, fixed: shapes.EntryFixed) -> LaneView:
    """Put the right value in the place of an entry's; the first one is kept."""

    def change(session: Session, lane: b.Lane) -> None:
        entry = session.get(b.LaneEntry, entry_id)
        if entry is None:
            raise NotThere(f"there is no entry {entry_id}")
        line = parse(f"{lane.name} {fixed.line}")
        if isinstance(line, Unclear):
            raise CannotRead(line.why, line.mend, file="line")
        if len(line.items) != 1:
            raise CannotRead("one value is corrected at a time", "as 46, or 41.2c pad", file="line")
        lanes.correct(session, lane, entry, line.items[0], now(), name_of(request), fixed.id)

    return _change(request, lane_id, change)


@router.get("/lanes/{lane_id}/log")
def lane_log(request: Request, lane_id: uuid.UUID) -> list[EntryView]:
    """The whole log of a lane, in order of time, corrections and what was undone included."""
    with context_of(request).database.session() as session:
        lane = store.get_lane(session, lane_id)
        return [entry_view(e, lane.name) for e in store.entries_of(session, lane_id)]


def _change(request: Request, lane_id: uuid.UUID, change: Callable[[Session, b.Lane], object]) -> LaneView:
    context = context_of(request)
    with context.database.session() as session:
        lane = store.lane_for_change(session, lane_id)
        change(session, lane)
        tick = lane.tick
    context.hub.wait_for(tick)
    return context.hub.view(lane_id)


@router.post("/instruments/try")
def try_instrument(wanted: shapes.Instrument) -> shapes.Tried:
    """Ask an instrument who it is and what it shows; of one that writes lines, listen to it."""
    try:
        shown = try_once(wanted.address)
    except InstrumentError as error:
        return shapes.Tried(said="", problem=str(error))
    return shapes.Tried(**asdict(shown), stand_in=stand_in_at(wanted.address) is not None)
