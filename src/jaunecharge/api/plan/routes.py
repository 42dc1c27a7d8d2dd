"""Plans: worked out, kept, scheduled, improved in the background, followed, exported."""

import datetime as dt
import uuid
from typing import Any
from zoneinfo import ZoneInfo

from fastapi import Request, Response
from fastapi.responses import StreamingResponse

from ...core.errors import CannotRead, Impossible
from ...core.log import zone_named
from ...core.plan import Plan, PlanCell, cells_of, events, one_more, run_said, warm_chargers
from ...documents.card import card_of
from ...formats.plan import schedule_csv
from ...formats.write.calendar import calendar
from ...store.plan import plans as store
from ...store.plan import slots as slot_store
from ...store.plan.stopping import let_rest_go as let_go
from ...store.plan.stopping import take_up_again
from ...store.plan.work import NewPlan, choice_of, timed, worked_out
from ..context import about, context_of, name_of
from ..downloads import answers, download
from ..following import Wanted, as_it_goes
from ..ndjson import NDJSON
from ..numbers import SearchSeconds
from ..strict import make_router
from . import shapes
from .view import plan_shape

SECONDS, LEAST_SECONDS, MOST_SECONDS = 20.0, 0.2, 120.0

router = make_router("plans")


def _now() -> dt.datetime:
    return dt.datetime.now(dt.UTC)


def new_plan(request: Request, new: shapes.NewPlanShape) -> NewPlan:
    """A plan for the store."""
    return NewPlan(new.question, card_of(new.card), new.choice, new.wishes, name_of(request))


@router.post("/plans/preview")
def preview_plan(request: Request, new: shapes.NewPlanShape) -> shapes.PreviewShape:
    """Work a plan out without keeping it: the matrix, what it shows, when it would be over."""
    wanted = new_plan(request, new)
    about(request, wanted.question)
    with context_of(request).database.session() as session:
        choice = choice_of(session, wanted.choice)
        try:
            cells = cells_of(choice, wanted.card)
        except CannotRead as error:
            return _refused([], None, f"{error.what}; {error.mend}")
        try:
            plan, _, findings = worked_out(session, wanted)
        except CannotRead as error:
            return _refused(cells, None, f"{error.what}; {error.mend}")
        try:
            problem, schedule = store.soonest_over(plan, choice, wanted)
            findings["one_more"] = one_more(choice, plan, wanted.choice.ordering(), problem, schedule)
            over, refused = store.moment(problem, schedule.makespan_min), ""
            warm = warm_chargers(plan, schedule)
        except (Impossible, CannotRead) as error:
            over, refused, warm = None, str(error), []
    return shapes.PreviewShape(
        cells=[_cell(c, plan) for c in plan.cells],
        findings=shapes.FindingsShape.model_validate(findings),
        runs=len(plan.runs),
        over_at=over,
        warm=warm,
        refused=refused,
    )


def _refused(cells: list[PlanCell], plan: Plan | None, why: str) -> shapes.PreviewShape:
    return shapes.PreviewShape(
        cells=[_cell(c, plan) for c in cells], findings=None, runs=0, over_at=None, warm=[], refused=why
    )


def _cell(cell: PlanCell, plan: Plan | None) -> shapes.CellShape:
    expected = plan.expected.get(cell.key) if plan else None
    return shapes.CellShape(
        key=cell.key,
        phone=cell.chain.phone.label,
        row=cell.row.label,
        conditions=list(cell.conditions),
        adapter=cell.factors.get("adapter", ""),
        pointless=cell.pointless,
        wanted=cell.wanted,
        minutes=None if expected is None else expected.minutes,
        to_80=None if expected is None else expected.to.get(80),
        hottest_c=None if expected is None else expected.hottest_c,
    )


@router.get("/plans")
def list_plans(request: Request, deleted: bool = False) -> list[shapes.PlanRow]:
    """All plans, the newest first."""
    with context_of(request).database.session() as session:
        counts = store.count_slots(session)
        return [
            shapes.PlanRow(
                id=p.id,
                question=p.question,
                card=p.card.name,
                counts=counts.get(p.id, {}),
                over_at=p.schedule.get("over_at"),
                created_at=p.created_at,
                deleted_by=p.deleted_by,
            )
            for p in store.list_plans(session, deleted)
        ]


@router.post("/plans", status_code=201)
def add_plan(request: Request, new: shapes.NewPlanShape) -> shapes.PlanShape:
    """Keep a plan with a first schedule."""
    wanted = new_plan(request, new)
    with context_of(request).database.session() as session:
        plan = store.add_plan(session, wanted)
        return plan_shape(session, plan, _now())


@router.get("/plans/{plan_id}")
def show_plan(request: Request, plan_id: uuid.UUID) -> shapes.PlanShape:
    """A plan, and what to do now."""
    with context_of(request).database.session() as session:
        return plan_shape(session, store.get_plan(session, plan_id), _now())


@router.put("/plans/{plan_id}")
def change_plan(request: Request, plan_id: uuid.UUID, new: shapes.NewPlanShape) -> shapes.PlanShape:
    """Change a plan; what has begun or is over stays."""
    wanted = new_plan(request, new)
    with context_of(request).database.session() as session:
        plan = store.change_plan(session, plan_id, new.revision, wanted, _now())
        return plan_shape(session, plan, _now())


@router.put("/plans/{plan_id}/rest")
def let_rest_go(request: Request, plan_id: uuid.UUID, rest: shapes.RestOfPlan) -> shapes.PlanShape:
    """Let the runs go that have not begun, or take them up again."""
    change = let_go if rest.let_go else take_up_again
    with context_of(request).database.session() as session:
        change(session, plan_id, _now(), name_of(request))
        return plan_shape(session, store.get_plan(session, plan_id), _now())


@router.delete("/plans/{plan_id}", status_code=204, response_class=Response)
def delete_plan(request: Request, plan_id: uuid.UUID) -> None:
    """Lay a plan aside; `POST …/restored` brings it back."""
    with context_of(request).database.session() as session:
        store.delete_plan(session, plan_id, name_of(request))


@router.post("/plans/{plan_id}/restored")
def bring_back_plan(request: Request, plan_id: uuid.UUID) -> shapes.PlanShape:
    """Undo the deletion of a plan."""
    with context_of(request).database.session() as session:
        return plan_shape(session, store.bring_back_plan(session, plan_id), _now())


@router.post("/plans/{plan_id}/replanned")
def replan(request: Request, plan_id: uuid.UUID) -> shapes.PlanShape:
    """Plan what is left anew from now on: something is late, or failed."""
    with context_of(request).database.session() as session:
        plan = store.for_change(session, plan_id)
        store.reschedule(session, plan, _now(), "rescheduled from here", name_of(request))
        return plan_shape(session, plan, _now())


@router.post(
    "/plans/{plan_id}/improved",
    response_class=StreamingResponse,
    responses={
        200: {
            "description": "progress line by line; the last line carries the plan",
            "content": {NDJSON: {"schema": {"$ref": "#/components/schemas/PlanProgress"}}},
        }
    },
)
def improve_plan(
    request: Request,
    plan_id: uuid.UUID,
    seconds: SearchSeconds = SECONDS,
) -> StreamingResponse:
    """Look for a better schedule in the background; each better one is kept at once."""
    context = context_of(request)
    with context.database.session() as session:
        question = store.get_plan(session, plan_id).question
    length = min(max(seconds, LEAST_SECONDS), MOST_SECONDS)

    def finished(result: dict[str, Any]) -> dict[str, Any]:
        with context.database.session() as session:
            return {"plan": plan_shape(session, store.get_plan(session, plan_id), _now()).model_dump(mode="json")}

    return as_it_goes(
        request, Wanted("schedule", {"plan": str(plan_id), "seconds": length}, question), finished, dropped=True
    )


@router.post("/slots/{slot_id}/happened")
def tell_slot(request: Request, slot_id: uuid.UUID, happened: shapes.Told) -> shapes.PlanShape:
    """Say what has happened to a slot; the rest of its plan is planned anew around it."""
    now = _now()
    with context_of(request).database.session() as session:
        slot = slot_store.tell(
            session, slot_id, happened.what, happened.at or now, now, name_of(request), happened.reason, happened.again
        )
        return plan_shape(session, store.get_plan(session, slot.plan_id), now)


@router.delete("/slots/{slot_id}/happened")
def undo_slot(request: Request, slot_id: uuid.UUID) -> shapes.PlanShape:
    """Take back what was last said of a slot."""
    now = _now()
    with context_of(request).database.session() as session:
        slot = slot_store.undo(session, slot_id, now, name_of(request))
        return plan_shape(session, store.get_plan(session, slot.plan_id), now)


@router.get("/slots/{slot_id}")
def show_slot(request: Request, slot_id: uuid.UUID) -> shapes.SlotRef:
    """Conditions that a run which fills a slot will state: so that nothing is typed twice."""
    with context_of(request).database.session() as session:
        slot = slot_store.find_slot(session, slot_id)
        plan = store.get_plan(session, slot.plan_id)
        card = slot.card or plan.card
        return shapes.SlotRef(
            id=slot.id,
            plan=plan.id,
            question=plan.question,
            label=run_said(slot.phone, slot.said),
            factors=slot.factors,
            interval_min=card.interval_min or None,
            ambient_c=slot.expected.ambient_c,
            began_at=slot.began_at,
        )


@router.get("/plans/{plan_id}/calendar.ics", response_class=Response, responses=answers("text/calendar"))
def plan_calendar(request: Request, plan_id: uuid.UUID) -> Response:
    """Work still to be done, as a calendar (iCalendar)."""
    with context_of(request).database.session() as session:
        plan = store.get_plan(session, plan_id)
        zone = zone_named(plan.wishes.zone)
        due = events([timed(s, zone) for s in store.slots_of(session, plan_id)])
        text = calendar(due, plan.question, zone, str(plan.id), plan.revision, _now())
    return download(text, "text/calendar", "plan.ics")


@router.get("/plans/{plan_id}/schedule.csv", response_class=Response, responses=answers("text/csv"))
def plan_csv(request: Request, plan_id: uuid.UUID) -> Response:
    """The schedule as a table (CSV)."""
    with context_of(request).database.session() as session:
        plan = store.get_plan(session, plan_id)
        zone: ZoneInfo = zone_named(plan.wishes.zone)
        text = schedule_csv([timed(s, zone) for s in store.slots_of(session, plan_id)])
    return download(text, "text/csv", "plan.csv")
