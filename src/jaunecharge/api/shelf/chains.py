"""Chains from the shelf: checked, forecast, covered, rehearsed; and phones fitted to runs."""

import uuid
from typing import Any, TypeVar

from fastapi import Request
from fastapi.responses import StreamingResponse
from sqlalchemy.orm import Session

from ...core.chain import Chain, advice, as_fed, headline
from ...core.errors import CannotRead
from ...core.forecast import (
    Between,
    Forecast,
    forecast,
    timed_swaps,
    with_best_adapter,
)
from ...core.kit import Adapter, Cable, Case, Charger, Kit, Meter, Phone, as_charger, transmits
from ...core.simulator import Circumstances, Fitted, fit_figures
from ...core.wording import an
from ...documents.coverage import BetweenDocument
from ...jobs.table import key_of
from ...store import kit as store
from ...store.errors import NotThere
from ...store.runs.rehearsals import NewRehearsal, add_rehearsal
from ..context import about, context_of, name_of
from ..following import Wanted, as_it_goes
from ..ndjson import NDJSON
from ..runs.routes import row_shape
from ..runs.shapes import RunRow
from ..strict import make_router
from . import shapes

Piece = TypeVar("Piece", bound=Kit)

router = make_router("chains")


def around_of(around: shapes.Around) -> Circumstances:
    """The circumstances for the core."""
    return Circumstances(**around.model_dump())


def _item(session: Session, piece_id: uuid.UUID | None, kind: type[Piece]) -> Piece | None:
    if piece_id is None:
        return None
    item = store.item_of(store.get_piece(session, piece_id))
    if kind is Charger and transmits(item):
        item = as_charger(item)
    if not isinstance(item, kind):
        wanted = kind.__name__.lower()
        raise CannotRead(f"“{item.label}” is {an(item.kind)}", f"choose {an(wanted)}", file=wanted)
    return item


def chain_of(session: Session, choice: shapes.ChainChoice) -> Chain:
    """The chain that was chosen.

    Raises
    ------
    NotThere, CannotRead
    """
    phone = _item(session, choice.phone, Phone)
    if phone is None:
        raise NotThere("no phone is chosen")
    charger = _item(session, choice.charger, Charger)
    if charger is not None and choice.place and choice.place not in {p.place for p in charger.pads}:
        raise CannotRead(f"“{charger.label}” has no place “{choice.place}”", "choose one of its pads", file="place")
    chain = as_fed(
        Chain(
            _item(session, choice.adapter, Adapter),
            _item(session, choice.cable, Cable),
            charger,
            phone,
            _item(session, choice.case, Case),
            choice.place,
            choice.phones_on_charger,
            choice.chargers_on_adapter,
        )
    )
    if not choice.best_adapter:
        return chain
    items = [store.item_of(p) for p in store.shelf(session)]
    return with_best_adapter(chain, [i for i in items if isinstance(i, Adapter)])


@router.post("/chain")
def check_chain(request: Request, choice: shapes.ChainChoice) -> shapes.ChainShape:
    """Forecast of a chain: watts at each link, what arrives, what to change, and the forecast."""
    with context_of(request).database.session() as session:
        chain = chain_of(session, choice)
        pieces = store.shelf(session)
        fitted = store.fitted_of(store.get_piece(session, choice.phone))
    around = around_of(choice.around)
    prediction = forecast(chain, around, fitted)
    checked = prediction.checked
    shelf = [store.item_of(p) for p in pieces]
    ids = {p.label: p.id for p in pieces}
    bold, why = headline(chain, checked)
    return shapes.ChainShape(
        adapter=ids[chain.adapter.label] if chain.adapter else None,
        links=list(checked.links),
        narrowest=checked.narrowest,
        negotiated=checked.deal.negotiated,
        outcome=checked.deal.outcome,
        inferred=checked.deal.inferred,
        meter_w=checked.meter_w,
        delivered_w=checked.delivered_w,
        claimed_w=checked.claimed_w,
        reaches_claim=checked.reaches_claim,
        charges=checked.charges,
        headline=bold,
        because=why,
        swaps=[
            shapes.SwapShape(link=s.link, piece=ids[s.label], place=s.chain.place, delivered_w=s.delivered_w, said=swap)
            for s, swap in timed_swaps(chain, shelf, around, prediction, fitted)
        ],
        advice=advice(chain, checked),
        forecast=forecast_shape(prediction),
    )


def forecast_shape(prediction: Forecast) -> shapes.ForecastShape:
    """A forecast for the front end."""
    return shapes.ForecastShape(
        minutes=prediction.minutes.round(1).tolist(),
        least=prediction.least.round(2).tolist(),
        likely=prediction.likely.round(2).tolist(),
        most=prediction.most.round(2).tolist(),
        likely_w=prediction.likely_w,
        to=[
            shapes.MilestoneEstimate(percent=p, low=e.low, likely=e.likely, high=e.high)
            for p, e in prediction.to.items()
        ],
        hottest_c=_estimate(prediction.hottest_c),
        throttle=prediction.throttle,
        drawn_wh=prediction.drawn_wh,
        origins=list(prediction.origins),
    )


def _estimate(e: Between) -> BetweenDocument:
    return BetweenDocument.of(e)


@router.post(
    "/coverage",
    response_class=StreamingResponse,
    responses={
        200: {
            "description": "progress line by line; the last line carries the table",
            "content": {NDJSON: {"schema": {"$ref": "#/components/schemas/CoverageProgress"}}},
        }
    },
)
def cover_shelf(request: Request, choice: shapes.CoverageChoice) -> StreamingResponse:
    """Every charger with every phone: what to expect, and which pairs are worth a run."""
    args = choice.model_dump(mode="json")
    with context_of(request).database.session() as session:
        for piece, kind in ((choice.adapter, Adapter), (choice.cable, Cable), (choice.case, Case)):
            _item(session, piece, kind)
        key = key_of(session, args)
    return as_it_goes(request, Wanted("table", args, "the whole shelf", key))


@router.post("/rehearsals", status_code=201)
def rehearse_chain(request: Request, new: shapes.NewRehearsalShape) -> RunRow:
    """Simulate a run of a chain, and keep it as a run that is marked as simulated."""
    with context_of(request).database.session() as session:
        chain = chain_of(session, new)
        pieces = store.shelf(session)
        meter = next((i for p in pieces if isinstance(i := store.item_of(p), Meter)), Meter(label="meter"))
        run = add_rehearsal(
            session,
            NewRehearsal(
                chain,
                around_of(new.around),
                new.seed,
                meter,
                store.fitted_of(store.get_piece(session, new.phone)),
                new.label,
                by=name_of(request),
                zone=new.zone,
            ),
        )
        session.refresh(run)
        about(request, run.label)
        return row_shape(run)


def fit_shape(fit: dict[str, Any]) -> shapes.FitShape:
    """A fit for the front end."""
    figures = fit_figures(Fitted(**fit["fitted"]))
    return shapes.FitShape(
        run=fit["fitted"]["run"],
        run_id=fit["run_id"],
        rms_w=fit["rms_w"],
        rms_points=fit["rms_points"],
        rms_k=fit["rms_k"],
        heat_fitted=fit["heat_fitted"],
        said=fit["said"],
        figures=list(figures),
    )
