"""Packs: every one on the shelf with its tests; load tests and charges kept, shown, laid aside."""

import uuid
from collections.abc import Iterable

import numpy as np
from fastapi import APIRouter, Request
from sqlalchemy.orm import Session

from ...core.errors import CannotRead
from ...core.kit import Pack
from ...core.log import power_trace
from ...core.measured import Measured, Part
from ...core.packs import (
    Overview,
    PackSentence,
    cabin_class,
    cabin_said,
    charges_said,
    efficiency_said,
    full_charges,
    load_sentences,
    load_warnings,
    not_believed,
    overview,
    rating,
    transfer_efficiency,
)
from ...core.units import MINUTE_S
from ...documents.case import Meter
from ...documents.numbers import MeasuredDocument
from ...documents.pack_test import PackTestDocument
from ...formats.read.apart import apart
from ...formats.read.files import Asked, load_log
from ...live.steady import now
from ...store import packs as store
from ...store.pack_models import PackTest
from ..context import about, context_of, name_of
from . import shapes

router = APIRouter(prefix="/api", tags=["packs"])
MOST_DRAWN = 1200


@router.get("/packs")
def list_packs(request: Request) -> list[shapes.PackRow]:
    """Every pack of the shelf: what was promised, what came."""
    with context_of(request).database.session() as session:
        by_pack: dict[str, list[PackTest]] = {}
        for test in store.tests(session):
            by_pack.setdefault(test.pack.casefold(), []).append(test)
        return [_row(pack, by_pack.get(pack.label.casefold(), [])) for pack in store.packs(session)]


def _row(pack: Pack, tests: Iterable[PackTest]) -> shapes.PackRow:
    rated = rating(pack.rated_mah, pack.cell_v)
    listed = [(t, PackTestDocument.read(t.document)) for t in tests]
    in_order = listed[::-1]
    loads = [(_delivered(d), d.load.at_least) for _, d in in_order if d.load is not None]
    charged = [(d.charge.phone, d.charge.charge()) for _, d in in_order if d.charge is not None]
    price = None if pack.price is None else pack.price.amount
    found = overview(rated, loads, charged, price, has_coil=bool(pack.gives))
    delivered = found.delivered
    return shapes.PackRow(
        label=pack.label, note=pack.note, rated_mah=pack.rated_mah, cell_v=pack.cell_v, rated_wh=rated.wh,
        price=price, currency="" if pack.price is None else pack.price.currency, has_coil=bool(pack.gives),
        delivered=None if delivered is None else MeasuredDocument(value=delivered.value, expanded=delivered.stated),
        at_least=found.at_least, share=None if delivered is None else delivered.value / rated.wh,
        charges=_charges(found), stages=[shapes.StageShape(**vars(s)) for s in found.stages], per_wh=found.per_wh,
        cabin=cabin_class(rated.wh), cabin_said=cabin_said(rated).text, verdict=found.verdict,
        tests=[_test_row(t, d) for t, d in listed],
    )  # fmt: skip


def _delivered(document: PackTestDocument) -> Measured:
    assert document.load is not None
    expanded = document.load.expanded_wh
    parts = () if expanded is None else (Part("load test", expanded / 2.0),)
    return Measured(document.load.delivered_wh, parts)


def _charges(found: Overview) -> list[shapes.ChargesShape]:
    return [
        shapes.ChargesShape(
            phone=c.phone, way=c.way, value=c.charges.value, low=c.charges.low,
            high=c.charges.high if np.isfinite(c.charges.high) else None, times=c.times,
        )
        for c in found.charges
    ]  # fmt: skip


def _test_row(test: PackTest, document: PackTestDocument) -> shapes.TestRow:
    return shapes.TestRow(id=test.id, kind=document.kind, at=test.at, by=test.by, said=_said(document))


def _said(document: PackTestDocument) -> str:
    if document.load is not None:
        least = "at least " if document.load.at_least else ""
        return f"load test: {least}{document.load.delivered_wh:.1f} Wh"
    assert document.charge is not None
    charge = document.charge.charge()
    way = "cord" if charge.by_cord else "coil"
    return (
        f"{document.charge.phone or 'a phone'} by {way}: {charge.phone_before.said} to {charge.phone_after.said},"
        f" the pack from {charge.pack_before.said} to {charge.pack_after.said}"
    )


@router.post("/packs/{label}/loads", status_code=201)
def add_load(request: Request, label: str, new: shapes.NewLoad) -> shapes.PackTestShape:
    """Keep a log that was sent as a load test of a pack."""
    context = context_of(request)
    upload = context.uploads.find(new.upload)
    log = apart(load_log, Asked(upload.path, upload.name), name=upload.name)
    with context.database.session() as session:
        pack = store.pack_of(session, label)
        if log.volts is None or log.amps is None:
            raise CannotRead("watts alone show no load test", "log volts and amps", file=upload.name)
        trace = power_trace(log.clock.seconds, log.watts, log.volts, log.amps)
        try:
            test = store.add_load(session, pack, trace, Meter(), upload.name, now(), name_of(request))
        except CannotRead as error:
            raise error.within(upload.name) from None
        shown = _shape(session, test)
    context.uploads.drop(upload)
    about(request, label)
    return shown


@router.post("/packs/{label}/charges", status_code=201)
def add_charge(request: Request, label: str, new: shapes.ChargeRead) -> shapes.PackTestShape:
    """Keep a charge of a phone from a pack."""
    with context_of(request).database.session() as session:
        pack = store.pack_of(session, label)
        test = store.add_charge(session, pack, new, now(), name_of(request))
        about(request, label)
        return _shape(session, test)


@router.get("/pack-tests/{test_id}")
def show_test(request: Request, test_id: uuid.UUID) -> shapes.PackTestShape:
    """A test of a pack, read."""
    with context_of(request).database.session() as session:
        return _shape(session, store.get_test(session, test_id))


@router.delete("/pack-tests/{test_id}")
def delete_test(request: Request, test_id: uuid.UUID) -> shapes.TestRow:
    """Lay a test of a pack aside."""
    return _moved(request, test_id, aside=True)


@router.post("/pack-tests/{test_id}/restored")
def bring_back_test(request: Request, test_id: uuid.UUID) -> shapes.TestRow:
    """Bring a test of a pack back."""
    return _moved(request, test_id, aside=False)


def _moved(request: Request, test_id: uuid.UUID, aside: bool) -> shapes.TestRow:
    with context_of(request).database.session() as session:
        test = store.delete_test(session, test_id, now() if aside else None)
        about(request, test.pack)
        return _test_row(test, PackTestDocument.read(test.document))


def _shape(session: Session, test: PackTest) -> shapes.PackTestShape:
    document = PackTestDocument.read(test.document)
    shape = shapes.PackTestShape(
        id=test.id, pack=test.pack, kind=document.kind, at=test.at, by=test.by, document=document, sentences=[],
        warnings=[], minute=[], volts=[], steps=[], cut_off=None, tripped=None, no_load_v=None,
    )  # fmt: skip
    if document.charge is not None:
        told, doubts = _of_charge(document)
        return shape.model_copy(update={"sentences": _sentences(told), "warnings": doubts})
    load, _, trace = store.load_of(test)
    assert trace.volts is not None
    rated = document.rating()

    def minute(at_s: float) -> float:
        return round((at_s - load.start_s) / MINUTE_S, 4)

    drawn = np.unique(np.linspace(0, len(trace.time_s) - 1, MOST_DRAWN).round().astype(int))
    more = {
        "sentences": _sentences(load_sentences(rated, load)),
        "warnings": load_warnings(rated, load),
        "minute": [minute(t) for t in trace.time_s[drawn].tolist()],
        "volts": [round(v, 4) for v in trace.volts[drawn].tolist()],
        "steps": [
            shapes.StepShape(start=minute(s.start_s), end=minute(s.end_s), amps=s.amps, volts=s.volts)
            for s in load.steps
        ],
        "cut_off": None if load.cut_off_s is None else minute(load.cut_off_s),
        "tripped": None if load.trip is None else minute(load.trip.at_s),
        "no_load_v": None if load.no_load_v is None else load.no_load_v.value,
    }
    return shape.model_copy(update=more)


def _of_charge(document: PackTestDocument) -> tuple[list[PackSentence], list[str]]:
    assert document.charge is not None
    charge, rated = document.charge.charge(), document.rating()
    charges, efficiency = full_charges(charge), transfer_efficiency(charge, rated)
    told = [] if charges is None else [charges_said(charges)]
    told += [] if efficiency is None else [efficiency_said(efficiency)]
    doubt = not_believed(charge, rated)
    still = ["The pack's gauge did not move: charge on until it does."] if charges is None else []
    return told, [*still, *([doubt] if doubt else [])]


def _sentences(told: Iterable[PackSentence]) -> list[shapes.PackSentenceShape]:
    return [shapes.PackSentenceShape(key=s.key, text=s.text) for s in told]
