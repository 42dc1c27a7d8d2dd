"""Meter checks and spot checks."""

import datetime as dt
import uuid
from contextlib import closing
from dataclasses import replace

from fastapi import Request
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from ...core.bench import check_said, gain_after
from ...core.errors import CannotRead
from ...core.plan import ready
from ...core.reading import SPOT_MINUTES, SPOT_MINUTES_USUAL, again_asked, drift_said, spot_seems
from ...documents.numbers import MeasuredDocument
from ...instruments.errors import Garbled
from ...instruments.scpi import Scpi
from ...live.instruments import instrument_at
from ...live.steady import now
from ...live.trying import try_once
from ...store import bench_models as b
from ...store.bench import checks as store
from ...store.bench import lanes as bench
from ...store.bench import surveys
from ...store.bench.opening import lane_on_the_spot
from ..context import Context, about, context_of, name_of
from ..numbers import Watts
from ..strict import make_router
from .routes import open_made
from .shapes import NewLaneShape

router = make_router("checks")


class CheckShape(BaseModel):
    """A check of a meter."""

    id: uuid.UUID
    meter: str
    way: str
    against: str
    deviation_percent: float
    expanded_percent: float
    gain_percent: float = Field(description="what its gain error is taken to be from then on, % of the reading")
    said: str
    pairs: list[tuple[float, float]]
    by: str
    at: dt.datetime


class NewCheck(BaseModel):
    """A meter to be checked: pairs of watts, read at the same moments."""

    meter: str
    other: str = Field("", description="label of the other meter; empty for a load of known watts")
    known_w: float | None = Field(None, gt=0, le=400)
    known_percent: float = Field(1.0, gt=0, le=50, description="how well the load is known, ±% of it")
    pairs: list[tuple[Watts, Watts]] = Field(max_length=500)


class Pair(BaseModel):
    """Readings of two meters at the same moment, W."""

    mine_w: float
    other_w: float | None


def check_shape(check: b.MeterCheck) -> CheckShape:
    """A check for the front end."""
    return CheckShape(
        id=check.id, meter=check.meter, way=check.way, against=check.against,
        deviation_percent=check.deviation_percent, expanded_percent=check.expanded_percent,
        gain_percent=gain_after(check.deviation_percent, check.expanded_percent),
        said=check_said(check.deviation_percent, check.expanded_percent),
        pairs=[(p[0], p[1]) for p in check.readings], by=check.by, at=check.at,
    )  # fmt: skip


@router.get("/meter-checks")
def list_checks(request: Request) -> list[CheckShape]:
    """All checks of meters, the latest first."""
    with context_of(request).database.session() as session:
        return [check_shape(c) for c in store.checks(session)]


@router.post("/meter-checks", status_code=201)
def add_check(request: Request, new: NewCheck) -> CheckShape:
    """Check a meter, and keep what came of it."""
    with context_of(request).database.session() as session:
        check = store.add_check(
            session, new.meter, new.other, new.known_w, new.known_percent, new.pairs, now(), name_of(request)
        )
        return check_shape(check)


@router.delete("/meter-checks/{check_id}")
def delete_check(request: Request, check_id: uuid.UUID) -> CheckShape:
    """Lay a check aside."""
    with context_of(request).database.session() as session:
        return check_shape(store.delete_check(session, check_id, now()))


@router.post("/meter-checks/{check_id}/restored")
def bring_back_check(request: Request, check_id: uuid.UUID) -> CheckShape:
    """Bring a check back."""
    with context_of(request).database.session() as session:
        return check_shape(store.delete_check(session, check_id, None))


class ToRead(BaseModel):
    """Meters to be asked for their watts."""

    meter: str
    other: str = ""


@router.post("/meter-checks/read")
def read_pair(request: Request, wanted: ToRead) -> Pair:
    """Ask one meter or two for their watts, as near to the same moment as can be."""
    with context_of(request).database.session() as session:
        mine = _address(session, wanted.meter)
        other = _address(session, wanted.other) if wanted.other else ""
    return Pair(mine_w=_watts(mine), other_w=_watts(other) if other else None)


def _address(session: Session, label: str) -> str:
    address = store.meter_of(session, label).address
    if not address:
        raise CannotRead(f"meter “{label}” has no address to be asked at", "type what it shows", file="meter")
    return address


def _watts(address: str) -> float:
    instrument = instrument_at(address, lasting=False)
    with closing(instrument):
        if isinstance(instrument, Scpi):
            return round(instrument.volts() * instrument.amps(), 4)
    shown = try_once(address)
    watts = shown.watts if shown.volts is None or shown.amps is None else shown.volts * shown.amps
    if watts is None:
        raise Garbled(f"{address} gives no watts")
    return round(watts, 4)


class NewSpot(NewLaneShape):
    """A spot check of one chain, one of a survey."""

    minutes: float = Field(SPOT_MINUTES_USUAL, ge=SPOT_MINUTES[0], le=SPOT_MINUTES[1])


class SpotRow(BaseModel):
    """A chain of a survey: what it drew, and what that is like."""

    lane: uuid.UUID
    name: str = Field(description="of its lane, for what is typed")
    survey: uuid.UUID | None
    at: dt.datetime
    zone: str
    label: str
    phone: str
    state: str
    outcome: str
    simulated: bool
    run: uuid.UUID | None
    by_hand: bool = Field(description="no meter is asked: watts are typed")
    ramp_s: float | None
    ramp_from_s: float | None = Field(description="where the ramp ended between two readings, the earlier one")
    settled_w: MeasuredDocument | None
    steady: bool | None = Field(description="null where one reading cannot show it")
    sparse: bool = Field(description="from single readings")
    volts: float | None
    start_percent: float | None
    hottest_c: float | None
    seems: str


class Survey(BaseModel):
    """Spot checks in a row, and what is still asked of them, phone by phone."""

    rows: list[SpotRow]
    asked: list[str]
    drift: list[str]


@router.post("/spot-checks", status_code=201)
def open_spot(request: Request, new: NewSpot) -> SpotRow:
    """Open a lane for a spot check: it ends by itself once its minutes are over."""
    context = context_of(request)
    card = replace(ready("Spot check"), spot_min=new.minutes)
    survey = new.survey or uuid.uuid4()
    with context.database.session() as session:
        factors = {k: v for k, v in new.factors.model_dump().items() if v}
        opening = lane_on_the_spot(
            session, factors, card.name, new.ambient_c, meter=new.meter.strip(), probe="", zone=new.zone,
            by=name_of(request), survey=survey,
        )  # fmt: skip
        opening = replace(opening, card=card, label=surveys.chain_label(opening.factors))
    about(request, opening.label)
    full = open_made(request, opening, new.practice)
    with context.database.session() as session:
        return _row(context, session, bench.get_lane(session, full.view.id))


def _row(context: Context, session: Session, lane: b.Lane) -> SpotRow:
    """A chain of a survey for the front end."""
    state = context.hub.states.get(lane.id)
    survey = surveys.found_of(session, lane, None if state is None else state.fine.arrays())
    row = SpotRow(
        lane=lane.id, name=lane.name, survey=lane.survey, at=lane.opened_at, zone=lane.zone, label=lane.label,
        phone=lane.factors.get("phone", ""), state=lane.state, outcome=lane.outcome, simulated=lane.simulated,
        run=lane.run_id, by_hand=not lane.meter_address, volts=survey.volts, start_percent=survey.start_percent,
        hottest_c=survey.hottest_c, ramp_s=None, ramp_from_s=None, settled_w=None, steady=None, sparse=False, seems="",
    )  # fmt: skip
    if survey.spot is None:
        return row
    shown = {
        "ramp_s": survey.spot.ramp_s, "ramp_from_s": survey.spot.ramp_from_s, "steady": survey.spot.steady,
        "settled_w": MeasuredDocument(value=survey.spot.settled.value, expanded=survey.spot.settled.stated),
        "sparse": survey.spot.sparse, "seems": spot_seems(survey.spot),
    }  # fmt: skip
    return row.model_copy(update=shown)


@router.get("/spot-checks")
def list_spot_checks(request: Request) -> list[SpotRow]:
    """All spot checks that were made, the newest first; those that were broken off are left out."""
    context = context_of(request)
    with context.database.session() as session:
        rows = [_row(context, session, lane) for lane in surveys.lanes_of(session) if lane.outcome != "void"]
    return rows[::-1]


@router.get("/spot-checks/{survey}")
def show_survey(request: Request, survey: uuid.UUID) -> Survey:
    """The spot checks of a survey, in their order."""
    context = context_of(request)
    with context.database.session() as session:
        rows = [_row(context, session, lane) for lane in surveys.lanes_of(session, survey)]
    asked, drift = [], []
    phones = dict.fromkeys(r.phone for r in rows)
    for phone in phones:
        done = [(r.label, r.settled_w.value) for r in rows if r.phone == phone and r.outcome != "void" and r.settled_w]
        labels, watts = [label for label, _ in done], [w for _, w in done]
        named = f"{phone}: " if len(phones) > 1 else ""
        asked += [named + text for text in (again_asked(labels),) if text]
        drift += [named + text for text in (drift_said(labels, watts),) if text]
    return Survey(rows=rows, asked=asked, drift=drift)
