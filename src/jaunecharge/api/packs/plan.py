"""The plan of pack tests: made, shown, let go, as a calendar."""

import datetime as dt
from typing import Annotated

from fastapi import Request, Response
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from ...core.log import zone_named
from ...documents.choice import Hours
from ...documents.pack_plan import Label, PlannedPackTest
from ...formats.write.calendar import calendar
from ...live.steady import now
from ...store.errors import NotThere
from ...store.pack_plans import NewPackPlan, agenda, bring_back, let_go, make_pack_plan, present_pack_plan
from ..context import about, context_of, name_of
from ..downloads import answers, download
from ..numbers import Moment, Zone
from ..strict import make_router

router = make_router("packs")


class WantedShape(BaseModel):
    """A test that is wanted."""

    pack: Label
    method: Label


class NewPackPlanShape(BaseModel):
    """A plan of pack tests to be made."""

    wanted: Annotated[list[WantedShape], Field(min_length=1, max_length=60)]
    start: Moment
    zone: Zone = "UTC"
    attended: Annotated[list[Hours], Field(min_length=1, max_length=21)]
    meters: int = Field(1, ge=1, le=50)


class PlannedShape(PlannedPackTest):
    """A test of the plan, whether it was made since, and whether it should have begun."""

    done: bool
    late: bool


class PackPlanShape(BaseModel):
    """The plan of pack tests: null where there is none."""

    at: dt.datetime
    zone: str
    tests: list[PlannedShape]
    over_at: dt.datetime


def _shape(session: Session) -> PackPlanShape | None:
    try:
        plan, document, done = present_pack_plan(session)
    except NotThere:
        return None
    moment = now()
    rows = [
        PlannedShape(**test.model_dump(), done=over, late=not over and test.start < moment)
        for test, over in zip(document.tests, done, strict=True)
    ]
    return PackPlanShape(at=plan.at, zone=document.zone, tests=rows, over_at=max(t.end for t in rows))


@router.get("/packs/plan")
def show_pack_plan(request: Request) -> PackPlanShape | None:
    """The plan of pack tests, with what was done of it."""
    with context_of(request).database.session() as session:
        return _shape(session)


@router.post("/packs/plan", status_code=201)
def add_pack_plan(request: Request, new: NewPackPlanShape) -> PackPlanShape | None:
    """Put tests of packs in time: each pack full before, rested after; the plan before is let go."""
    with context_of(request).database.session() as session:
        wanted = [(w.pack, w.method) for w in new.wanted]
        make_pack_plan(
            session, NewPackPlan(wanted, new.start, new.zone, new.attended, new.meters, name_of(request)), now()
        )
        about(request, "plan of pack tests")
        return _shape(session)


@router.delete("/packs/plan")
def remove_pack_plan(request: Request) -> None:
    """Let the plan of pack tests go; the tests that were made stay."""
    with context_of(request).database.session() as session:
        let_go(session, now())
        about(request, "plan of pack tests")


@router.post("/packs/plan/restored")
def bring_back_pack_plan(request: Request) -> PackPlanShape | None:
    """Bring the plan of pack tests back that was deleted last; nothing where none was."""
    with context_of(request).database.session() as session:
        try:
            bring_back(session)
        except NotThere:
            return None
        about(request, "plan of pack tests")
        return _shape(session)


@router.get("/exports/pack-plan.ics", response_class=Response, responses=answers("text/calendar"))
def pack_plan_calendar(request: Request) -> Response:
    """Export what is still to be done of the plan of pack tests, as a calendar."""
    with context_of(request).database.session() as session:
        try:
            plan, document, done = present_pack_plan(session)
            due, zone, key = agenda(document, done), document.zone, str(plan.id)
        except NotThere:
            due, zone, key = [], "UTC", "none"
        text = calendar(due, "Pack tests", zone_named(zone), key, 0, now())
    return download(text, "text/calendar", "pack-plan.ics")
