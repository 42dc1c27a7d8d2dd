"""Readings: a reader's decisions, the reference run, habits, heat across runs, and reading anew."""

import uuid
from typing import Annotated

from fastapi import Query, Request
from sqlalchemy.orm import Session

from ...core.reading import READER_VERSION, USUAL_RATIO, Decision, Habits
from ...core.units import MINUTE_S
from ...core.versus import CONDITIONS, unlike
from ...jobs import deal_out
from ...store import models as m
from ...store import settings
from ...store.jobs.jobs import count_jobs
from ...store.listing import pages
from ...store.listing.usual import Usual
from ...store.listing.usual import usual as usual_now
from ...store.runs import runs as store
from ...store.runs.decisions import overrule, set_aside
from ...store.runs.readings import factors_of, stale
from ..context import context_of, name_of
from ..numbers import RevisionAsked
from ..runs.shapes import RunRow
from ..strict import make_router
from . import reading_shapes as shapes
from .list_shapes import AskedHeat, ListScale
from .lists import simulated_in
from .routes import row_shape

router = make_router("readings")


@router.post("/runs/{run_id}/decisions")
def decide(request: Request, run_id: uuid.UUID, new: shapes.NewDecision) -> RunRow:
    """Decide otherwise about a dip or a phase; the run is read anew with it."""
    context = context_of(request)
    with context.database.session() as session:
        placed_s = context.placed_s(session, store.get_run(session, run_id))

        def seconds(minute: float | None) -> float | None:
            return None if minute is None else placed_s + minute * MINUTE_S

        decision = Decision(
            new.about,
            placed_s + new.start * MINUTE_S,
            placed_s + new.end * MINUTE_S,
            new.cause,
            seconds(new.new_start),
            seconds(new.new_end),
            name_of(request),
            new.why.strip(),
        )
        return row_shape(overrule(session, run_id, new.revision, decision))


@router.put("/runs/{run_id}/decisions/{decision_id}")
def undo_decision(request: Request, run_id: uuid.UUID, decision_id: uuid.UUID, change: shapes.Aside) -> RunRow:
    """Undo a decision, or let it count again."""
    with context_of(request).database.session() as session:
        return row_shape(set_aside(session, run_id, change.revision, decision_id, change.aside, name_of(request)))


@router.get("/settings")
def show_settings(request: Request) -> shapes.SettingsShape:
    """Habits, tariff and the reference run."""
    with context_of(request).database.session() as session:
        return _settings_shape(session)


def _settings_shape(session: Session) -> shapes.SettingsShape:
    habits, revision = settings.habits(session)
    reference = settings.setting(session, settings.REFERENCE)
    ratio = settings.ratio(session) or USUAL_RATIO
    named = reference is not None and bool(reference.value)
    return shapes.SettingsShape(
        habits=shapes.HabitsShape(
            revision=revision,
            night_h=habits.night_h,
            full_h=habits.full_h,
            tariff=habits.tariff,
            currency=habits.currency,
            unplugged=habits.unplugged,
            charges_year=habits.charges_year,
            adapter_share=habits.adapter_share,
            hut_share=habits.hut_share,
        ),
        reference=shapes.ReferenceShape(
            revision=0 if reference is None else reference.revision,
            run=settings.reference_id(reference),
            label=reference.value["label"] if reference is not None and named else "",
            delivered_w=reference.value["delivered_w"] if reference is not None and named else None,
            k=ratio.value.value,
            expanded=ratio.value.expanded,
        ),
    )


@router.put("/settings/habits")
def change_habits(request: Request, new: shapes.HabitsShape) -> shapes.SettingsShape:
    """Choose hours, tariff and currency."""
    with context_of(request).database.session() as session:
        wanted = Habits(
            new.night_h, new.full_h, new.tariff, new.currency.strip(), new.unplugged, new.charges_year,
            new.adapter_share, new.hut_share,
        )  # fmt: skip
        settings.change_habits(session, wanted, new.revision, name_of(request))
        return _settings_shape(session)


@router.put("/settings/reference")
def name_reference(request: Request, new: shapes.NewReference) -> shapes.SettingsShape:
    """Take a run as reference; all runs are read anew with its ratio, in the background."""
    context = context_of(request)
    with context.database.session() as session:
        run = store.get_run(session, new.run)
        reading = context.reading(session, run)
        settings.name_reference(session, run, reading, new.delivered_w, new.revision, name_of(request))
        deal_out(session)
        shown = _settings_shape(session)
    context.workforce.need()
    return shown


@router.delete("/settings/reference")
def drop_reference(request: Request, revision: RevisionAsked) -> shapes.SettingsShape:
    """Go back to the usual ratio."""
    context = context_of(request)
    with context.database.session() as session:
        settings.drop_reference(session, revision, name_of(request))
        deal_out(session)
        shown = _settings_shape(session)
    context.workforce.need()
    return shown


@router.get("/rereading")
def show_rereading(request: Request) -> shapes.Rereading:
    """Number of runs that wait to be re-analysed; their old readings stay until then."""
    context = context_of(request)
    with context.database.session() as session:
        left, failed = stale(session), count_jobs(session).get("failed", 0)
    return shapes.Rereading(left=left, of=context.rereadings.of(left), version=READER_VERSION, failed=failed)


@router.get("/throttling")
def show_throttling(request: Request, asked: Annotated[AskedHeat, Query()]) -> shapes.ThrottleTable:
    """Heat over all runs, page by page: hottest, first throttle, minutes lost, and unlike conditions."""
    with context_of(request).database.session() as session:
        usual = usual_now(session)
        alike = (usual.condition(),) if asked.like else ()
        wanted = pages.Wanted(asked.words, simulated_in(asked.kind), void=False, also=alike)
        found = pages.page(session, wanted, asked.sort, asked.down, asked.after, asked.limit)
        sized = None if asked.after else pages.scale(session, wanted)
        return shapes.ThrottleTable(
            rows=[_heat_row(run, usual) for run in store.runs_by_id(session, found.runs)],
            usual=conditions_said(dict(usual.levels), usual.room_c),
            after=found.after,
            scale=None if sized is None else ListScale(**vars(sized)),
        )


def _heat_row(run: m.Run, usual: Usual) -> shapes.ThrottleRow:
    throttle, factors = run.summary.throttle, factors_of(run)
    logged = None if throttle is None else throttle.ambient_c
    room = run.case.ambient_c if logged is None else logged
    return shapes.ThrottleRow(
        id=run.id,
        label=run.label,
        at=run.started_at or run.created_at,
        zone=run.zone,
        phone=run.factors.get("phone", ""),
        charger=run.factors.get("charger", ""),
        conditions=conditions_said(factors, room),
        simulated=run.case.simulated,
        throttle=throttle,
        unlike=unlike(factors, room, usual.levels, usual.room_c),
    )


def conditions_said(factors: dict[str, str], room_c: float | None) -> str:
    conditions = [
        "no case"
        if name == "case" and factors[name] == "none"
        else f"from {factors[name]}"
        if name == "start"
        else factors[name]
        for name in CONDITIONS
        if factors.get(name)
    ]
    return ", ".join([*conditions, *([] if room_c is None else [f"{room_c:.0f} °C"])])
