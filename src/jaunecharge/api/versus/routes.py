"""Versus: runs against each other, claims, another phone, and the table of phones and chargers."""

import json
import uuid
from typing import Annotated

from fastapi import Query, Request, Response
from sqlalchemy.orm import Session

from ...core.errors import CannotRead
from ...core.versus import (
    CARRY_UNCERTAINTY,
    Align,
    Contender,
    Versus,
    check_cell,
    check_pair,
    estimate,
    grouped,
    is_wired,
    read_claim,
    span,
    told_apart,
    verdict_said,
    versus,
    worthwhile_windows,
)
from ...formats.versus import PAIR_HEADINGS, pair_rows, versus_document
from ...formats.write.csv_xlsx import csv_text
from ...store import models as m
from ...store import settings
from ...store import versus as store
from ...store.database import written_for
from ...store.fill import plan_draft, why_pointless
from ...store.listing.columns import table
from ...store.listing.models import TABLED
from ...store.listing.usual import usual
from ..context import context_of
from ..downloads import answers, download
from ..numbers import PercentAsked
from ..runs.readings import conditions_said
from ..runs.routes import Degrees
from ..strict import make_router
from . import shapes
from .view import versus_shape

router = make_router("versus", "/api/versus")

MOST_RUNS = 400
WORKED_OUT_S, SAID_FOR_S, AT_ONCE = 1.0, 0.2, 200
"""What of the table is worked out while somebody waits [s, runs of a phone]; workers see to the rest."""


def _chosen(
    session: Session, wanted: list[uuid.UUID], with_pool: bool = False
) -> tuple[list[Contender], list[Contender]]:
    """The runs that were chosen, named by what tells them apart and put into groups; and those near them.

    Raises
    ------
    CannotRead
    """
    keys = list(dict.fromkeys(str(w) for w in wanted))
    if not keys:
        raise CannotRead("no run is chosen", "choose one at least", file="runs")
    chosen = store.named(session, keys)
    if gone := len(keys) - len(chosen):
        raise CannotRead(f"{gone} of the runs are no longer there", "choose again", file="runs")
    return grouped(told_apart(chosen)), store.neighbours(session, chosen) if with_pool else []


def _compared(session: Session, asked: shapes.Compared) -> Versus:
    chosen, _ = _chosen(session, asked.runs)
    runs, _ = store.with_power(session, [r for r in chosen if r.course is not store.NOT_READ])
    return versus(runs, asked.start, asked.end, asked.align)


@router.get("/offered")
def show_offered(request: Request) -> list[shapes.OfferedShape]:
    """Offers of what to compare: plans, phones, everything."""
    with context_of(request).database.session() as session:
        return [
            shapes.OfferedShape(
                title=o.title,
                kind=o.kind,
                runs=[uuid.UUID(k) for k in o.runs],
                chargers=o.chargers,
                window=None if o.window is None else shapes.WindowShape(start=o.window[0], end=o.window[1]),
            )
            for o in store.offered(session, MOST_RUNS)
        ]


@router.get("")
def compare_runs(
    request: Request,
    run: Annotated[list[uuid.UUID], Query(max_length=MOST_RUNS)],
    start: PercentAsked = None,
    end: PercentAsked = None,
    align: Align = "placement",
    degrees: Degrees = "C",
) -> shapes.VersusShape:
    """Runs against each other: times over one window, differences against their noise, fairness, effects, value."""
    with context_of(request).database.session() as session:
        runs, pool = _chosen(session, run, with_pool=True)
        read = [r for r in runs if r.course is not store.NOT_READ]
        if len(read) < 2 <= len(runs):
            raise CannotRead("the runs are being read again", "wait a moment, and look again", file="runs")
        read, ribbons = store.with_power(session, read)
        comparison = versus(read, start, end, align)
        habits, _ = settings.habits(session)
        shape = versus_shape(comparison, told_apart(pool), ribbons, habits, degrees == "F")
        shape.windows = [
            shapes.WindowChoice(start=low, end=high, runs=count)
            for (low, high), count in worthwhile_windows([span(r.course.readings) for r in read])
        ]
        shape.reading = [r.label for r in runs if r.course is store.NOT_READ]
        return shape


@router.get("/pairs.csv", response_class=Response, responses=answers("text/csv"))
def pairs_csv(request: Request, asked: Annotated[shapes.Compared, Query()]) -> Response:
    """Every pair of a comparison as CSV."""
    with context_of(request).database.session() as session:
        comparison = _compared(session, asked)
    return download(csv_text(PAIR_HEADINGS, pair_rows(comparison)), "text/csv; charset=utf-8", "versus.csv")


@router.get("/comparison.json", response_class=Response, responses=answers("application/json"))
def comparison_json(request: Request, asked: Annotated[shapes.Compared, Query()]) -> Response:
    """A comparison as the command line gives it out."""
    with context_of(request).database.session() as session:
        comparison = _compared(session, asked)
    return download(json.dumps(versus_document(comparison), ensure_ascii=False), "application/json", "versus.json")


@router.post("/claim")
def check_claim(request: Request, asked: shapes.ClaimAsked) -> shapes.ClaimShape:
    """Whether the times support a claim, and under which reading."""
    claim = read_claim(asked.text)
    with context_of(request).database.session() as session:
        comparison = _compared(session, asked)
    for place in (asked.a, asked.b):
        if place >= len(comparison.cells):
            raise CannotRead("there is no such row", "choose one of those compared", file="claim")
    about = comparison.cells[asked.a].label
    if claim.kind == "reaches":
        checks, pair = check_cell(claim, comparison, asked.a), False
    else:
        if asked.a == asked.b:
            raise CannotRead("a claim of a difference needs two rows", "choose another to hold it against", "claim")
        checks, pair = check_pair(claim, comparison, asked.a, asked.b), True
        about = f"{about}, against {comparison.cells[asked.b].label}"
    return shapes.ClaimShape(
        said=claim.said,
        pair=pair,
        about=about,
        verdict=verdict_said(checks),
        checks=checks,
    )


@router.post("/carry")
def carry_over(request: Request, asked: shapes.CarryAsked) -> shapes.CarryShape:
    """Expectation with another phone: estimates, with their range."""
    with context_of(request).database.session() as session:
        comparison = _compared(session, asked)
        phone = store.phone_on_shelf(session, asked.phone) if asked.phone.strip() else None
        if asked.phone.strip() and phone is None and asked.capacity_mah is None:
            raise CannotRead(f"“{asked.phone}” is not on the shelf", "give its capacity in mAh", file="phone")
        to_mah = asked.capacity_mah or (phone.capacity_mah if phone is not None else None)
        if to_mah is None:
            raise CannotRead("no other phone is named", "choose one, or give its capacity in mAh", file="phone")
        rows = []
        for n, cell in enumerate(comparison.cells):
            run = session.get(m.Run, uuid.UUID(cell.first.key))
            by_wire = is_wired(cell.first)
            limits = store.limits(run, phone, by_wire)
            own = phone is not None and cell.first.levels.get("phone") == phone.label.casefold()
            minutes = float(comparison.timed.sides.minutes[n]) if comparison.timed.known[n] else None
            carried = estimate(minutes, cell.first.capacity_mah, to_mah, *limits, same_phone=own, by_wire=by_wire)
            rows.append(
                shapes.CarriedRow(
                    label=cell.label,
                    estimate=None if carried.lap is None else carried.lap.estimate,
                    low=None if carried.lap is None else carried.lap.low,
                    high=None if carried.lap is None else carried.lap.high,
                    ratio=carried.ratio,
                    same_tier=carried.same_tier,
                    said=carried.said,
                )
            )
        return shapes.CarryShape(
            phone=phone.label if phone is not None else asked.phone.strip() or f"a phone of {to_mah:g} mAh",
            capacity_mah=to_mah,
            range_percent=CARRY_UNCERTAINTY * 100.0,
            rows=rows,
        )


@router.get("/table")
def show_table(request: Request) -> shapes.PhoneTableShape:
    """Chargers × phones: medians, spread and places under the usual conditions, and what nobody ran yet."""
    context = context_of(request)
    with written_for(context.database) as session:
        made = table(session, store.of_phone, WORKED_OUT_S, AT_ONCE)
        if made.left:
            context.workforce.need()
        chargers = sorted({cell.charger for c in made.columns for cell in c.cells}, key=str.casefold)
        there = {(c.phone, cell.charger) for c in made.columns for cell in c.cells}
        empty = [(c.phone, x) for x in chargers for c in made.columns if (c.phone, x) not in there]
        pointless, unsaid = why_pointless(session, empty, made.usual.levels, SAID_FOR_S)
        return shapes.PhoneTableShape(
            chargers=chargers,
            columns=[
                shapes.PhoneColumnShape(
                    phone=c.phone,
                    window=None if c.window is None else shapes.WindowShape(start=c.window[0], end=c.window[1]),
                    timed=c.timed,
                )
                for c in made.columns
            ],
            fields=[
                shapes.FieldShape(
                    phone=c.phone,
                    charger=cell.charger,
                    median=cell.median,
                    spread=None if cell.spread is None else list(cell.spread),
                    place=cell.place,
                    runs=[shapes.FieldRun(**vars(r)) for r in cell.runs],
                    count=cell.count,
                    others=[shapes.FieldRun(**vars(r)) for r in cell.others],
                    others_count=cell.others_count,
                )
                for c in made.columns
                for cell in c.cells
            ]
            + [
                shapes.FieldShape(
                    phone=phone, charger=charger, median=None, spread=None, place="", runs=[], others=[],
                    pointless=pointless.get((phone, charger), ""),
                )
                for phone, charger in empty
            ],
            usual=conditions_said(dict(made.usual.levels), made.usual.room_c),
            left=made.left,
            unsaid=unsaid,
        )  # fmt: skip


@router.post("/plan")
def fill_fields(request: Request, wanted: shapes.WantedFields) -> shapes.PlanDraft:
    """A matrix for a new plan that fills fields of the table; nothing is kept."""
    with context_of(request).database.session() as session:
        levels = usual(session, *TABLED).levels
        question, choice = plan_draft(session, [(f.phone, f.charger) for f in wanted.fields], levels)
        return shapes.PlanDraft(question=question, choice=choice.model_dump(mode="json"))
