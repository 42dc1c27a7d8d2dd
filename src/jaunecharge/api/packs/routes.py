"""Packs: every one on the shelf with its tests; tests kept, shown, laid aside."""

import uuid
from collections.abc import Callable
from typing import Annotated, TypeVar

import numpy as np
from fastapi import Path, Query, Request
from sqlalchemy.orm import Session

from ...core.arrays import Array
from ...core.errors import CannotRead
from ...core.kit import Pack
from ...core.log import PowerTrace, power_trace
from ...core.packs import METHODS, can_be_timed, hours_at_load, hours_said, rating, typed_gauge, typed_given
from ...core.units import MINUTE_S
from ...documents.pack_reading import read_test, short_words
from ...documents.pack_test import LoadKept, PackTestDocument
from ...formats.read.apart import apart
from ...formats.read.files import Asked, load_log
from ...live.steady import now
from ...store import packs as store
from ...store.errors import NotThere
from ...store.pack_listing import PackListed, listed
from ...store.pack_models import PackTest
from ..context import Context, about, context_of, name_of
from ..shapes import figure_shape
from ..strict import make_router
from . import rows, shapes

router = make_router("packs")
MOST_DRAWN = 1200
Label = Annotated[str, Path(max_length=200)]
Block = TypeVar("Block")


def of_pack(session: Session, label: str) -> PackListed:
    """The tests of a pack in few figures."""
    return listed(session, label)[label.casefold()]


@router.get("/packs")
def list_packs(request: Request) -> shapes.Shelf:
    """Every pack of the shelf: what was promised, what came; and the phones that give."""
    with context_of(request).database.session() as session:
        tests = listed(session)
        packs = [rows.row_of(p, tests[p.label.casefold()]) for p in store.packs(session)]
        givers = [
            rows.giver_row(phone, rows.listed(store.tests(session, phone.label)))
            for phone in store.phones(session)
            if phone.gives_w is not None or phone.label.casefold() in tests
        ]
        return shapes.Shelf(packs=packs, givers=givers)


@router.get("/packs/charges")
def list_charges(request: Request) -> shapes.ChargeTable:
    """Full charges of every phone of the shelf from every pack, measured or estimated."""
    with context_of(request).database.session() as session:
        tests = listed(session)
        packs = [(p, tests[p.label.casefold()]) for p in store.packs(session)]
        return rows.table_of(packs, store.phones(session))


@router.get("/packs/methods")
def list_methods() -> list[shapes.PackMethodShape]:
    """Methods of pack tests: what each is good for, and how it is done."""
    return [
        shapes.PackMethodShape(
            name=m.name, kind=m.kind, good_for=m.good_for, steps=list(m.steps), timed=can_be_timed(m)
        )
        for m in METHODS
    ]


@router.get("/packs/{label:path}/hours")
def show_hours(request: Request, label: Label, watts: Annotated[float, Query(gt=0, le=5000)]) -> shapes.HoursShape:
    """Hours that a full pack feeds a load, before it is tried: by its own test, or a usual yield."""
    with context_of(request).database.session() as session:
        pack = store.pack_of(session, label)
        found = rows.overview_of(pack, of_pack(session, pack.label))
    rated = rating(pack.rated_mah, pack.cell_v)
    whole = found.delivered is not None and not found.at_least
    hours = hours_at_load(
        rated, watts, measured=found.delivered.value / rated.wh if whole and found.delivered else None
    )
    return shapes.HoursShape(watts=watts, hours=hours.hours, said=hours_said(watts, hours).text, basis=hours.basis)


@router.get("/packs/{label:path}")
def show_pack(request: Request, label: Label) -> shapes.PackShape:
    """A pack as a whole, with its tests."""
    with context_of(request).database.session() as session:
        pack = store.pack_of(session, label)
        return rows.pack_shape(pack, rows.listed(store.tests(session, pack.label)), of_pack(session, pack.label))


@router.post("/packs/{label:path}/tests", status_code=201)
def add_test(request: Request, label: Label, new: shapes.NewTest) -> shapes.PackTestShape:
    """Keep a test of a pack, or of a phone that gives: from a log that was sent, or as it was read off a display."""
    context = context_of(request)
    logs, remarks, names, heat = _logs(context, new)
    with context.database.session() as session:
        if new.kind == "phone_to_phone":
            giver = store.giver_of(session, label)
            pack_label, document = giver.label, PackTestDocument(
                kind="phone_to_phone", rated_mah=giver.capacity_mah, cell_v=giver.nominal_v, given=_given(new),
            )  # fmt: skip
        else:
            pack = store.pack_of(session, label)
            pack_label, document = pack.label, _document(pack, new, names, remarks)
        try:
            test = store.keep(session, pack_label, document, new.at or now(), name_of(request), logs, heat)
        except CannotRead as error:
            raise error.within(names[0]) if names else error from None
        shown = _shape(session, test)
    for upload in (new.upload, new.second_upload):
        if upload is not None:
            context.uploads.drop(context.uploads.find(upload))
    about(request, pack_label)
    return shown


def _given(new: shapes.NewTest) -> shapes.GivenRead:
    """Both phones, as a list or as they were typed."""
    read = _stated(new.given)
    typed = [{"minute": m, "giver": g, "taker": t} for m, g, t in typed_given(read.typed)]
    rows = [r.model_dump() for r in read.readings] + typed
    if len(rows) < 2:
        raise CannotRead("one moment alone says nothing", "read both levels at the start and the end", file="readings")
    return shapes.GivenRead.model_validate({**read.model_dump(exclude={"readings", "typed"}), "readings": rows})


def _notes(new: shapes.NewTest) -> shapes.LoadNotesRead:
    if not new.gauge_typed.strip():
        return new.notes
    levels = [shapes.LevelRead(minute=minute, level=level) for minute, level in typed_gauge(new.gauge_typed)]
    return new.notes.model_copy(update={"levels": levels})


def _stated(block: Block | None) -> Block:
    if block is None:
        raise CannotRead("nothing was typed of this test", "fill in its fields", file="test")
    return block


def _document(pack: Pack, new: shapes.NewTest, names: list[str], remarks: list[str]) -> PackTestDocument:
    facts: dict[str, object] = {"notes": _notes(new), "remarks": remarks}
    match new.kind:
        case "load" if names:
            facts |= {
                "load": LoadKept(delivered_wh=None, expanded_wh=None, at_least=False, file=names[0]),
                "second_file": names[1] if len(names) > 1 else "",
            }
        case "load":
            facts |= {"seen": _stated(new.seen)}
        case "recharge":
            read = new.recharge or shapes.RechargeRead()
            facts |= {"recharge": read.model_copy(update={"file": names[0]} if names else {})}
        case "pass_through":
            passed = new.passed or shapes.PassRead()
            files = {"in_file": names[0], "out_file": names[1]} if len(names) > 1 else {}
            facts |= {"passed": passed.model_copy(update=files)}
        case "charge":
            facts |= {"charge": _stated(new.charge)}
        case "standby":
            facts |= {"standby": _stated(new.standby)}
    return store.of_pack(new.kind, pack, **facts)


Heat = tuple[Array, Array] | None


def _logs(context: Context, new: shapes.NewTest) -> tuple[list[PowerTrace], list[str], list[str], Heat]:
    """The logs that were sent with a test, what was remarked on them, their names, and the first one's temperatures."""
    heat: Heat = None
    traces: list[PowerTrace] = []
    remarks: list[str] = []
    names: list[str] = []
    for sent in (new.upload, new.second_upload):
        if sent is None:
            continue
        upload = context.uploads.find(sent)
        log = apart(load_log, Asked(upload.path, upload.name), name=upload.name)
        if new.kind == "load" and (log.volts is None or log.amps is None):
            raise CannotRead("watts alone show no load test", "log volts and amps", file=upload.name)
        if log.celsius is not None and heat is None:
            heat = (log.clock.seconds, log.celsius)
        traces.append(power_trace(log.clock.seconds, log.watts, log.volts, log.amps))
        remarks += log.remarks
        names.append(upload.name)
    if new.kind == "pass_through" and len(traces) == 1:
        raise CannotRead("one log alone shows no pass-through", "send what goes in and what comes out", file=names[0])
    return traces, remarks, names, heat


@router.get("/pack-tests/{test_id}")
def show_test(request: Request, test_id: uuid.UUID) -> shapes.PackTestShape:
    """A test of a pack, read."""
    with context_of(request).database.session() as session:
        return _shape(session, store.get_test(session, test_id))


@router.delete("/pack-tests/{test_id}")
def remove_test(request: Request, test_id: uuid.UUID) -> shapes.TestRow:
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
        return rows.test_row(test, PackTestDocument.read(test.document))


def _shape(session: Session, test: PackTest) -> shapes.PackTestShape:
    document, logs = PackTestDocument.read(test.document), store.traces_of(test)
    try:
        pack: Pack | None = store.pack_of(session, test.pack)
    except NotThere:
        pack = None
    found = None if pack is None else rows.overview_of(pack, of_pack(session, test.pack))
    delivered = None if found is None or found.at_least else found.delivered
    reading = read_test(document, logs, test.pack, None if pack is None else pack.claimed_w, delivered)
    load = reading.load
    start_s = load.start_s if load is not None else logs[0].start_s if logs else 0.0

    def minute(at_s: float) -> float:
        return round((at_s - start_s) / MINUTE_S, 4)

    timed = load is not None and not load.by_eye
    return shapes.PackTestShape(
        id=test.id, pack=test.pack, kind=document.kind, at=test.at, by=test.by, said=short_words(document),
        document=document, sentences=rows.sentence_shapes(reading.sentences), warnings=reading.warnings,
        figures=[figure_shape(f, minute) for f in reading.figures],
        traces=[_trace(t, n, document, minute) for n, t in enumerate(logs)],
        steps=[]
        if load is None
        else [
            shapes.StepShape(start=minute(s.start_s), end=minute(s.end_s), amps=s.amps, volts=s.volts)
            for s in load.steps
        ],
        by_load=[
            shapes.AtLoadShape(in_w=a.in_w, out_w=a.out_w, share=a.share.value, expanded=a.share.stated)
            for a in reading.by_load
        ],
        by_eye=load is not None and load.by_eye,
        cut_off=minute(load.cut_off_s) if timed and load is not None and load.cut_off_s is not None else None,
        tripped=minute(load.trip.at_s) if timed and load is not None and load.trip is not None else None,
        no_load_v=None if load is None or load.no_load_v is None else load.no_load_v.value,
    )  # fmt: skip


def _trace(
    trace: PowerTrace, n: int, document: PackTestDocument, minute: Callable[[float], float]
) -> shapes.TraceShape:
    drawn = np.unique(np.linspace(0, len(trace.time_s) - 1, MOST_DRAWN).round().astype(int))
    names = {"pass_through": ("in", "out"), "recharge": ("in", "")}.get(document.kind, ("", "the other output"))
    return shapes.TraceShape(
        name=names[min(n, 1)], minute=[minute(t) for t in trace.time_s[drawn].tolist()],
        volts=None if trace.volts is None else [round(v, 4) for v in trace.volts[drawn].tolist()],
        watts=[round(w, 4) for w in trace.power_w[drawn].tolist()],
    )  # fmt: skip
