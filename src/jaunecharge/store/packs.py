"""Tests of packs: kept, listed by pack, laid aside and brought back."""

import datetime as dt
import uuid
from collections.abc import Sequence
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session, load_only

from ..core.arrays import Array
from ..core.kit import Pack, Phone
from ..core.log import PowerTrace
from ..core.packs import LoadTest, held_power, thinned_heat
from ..core.units import MINUTE_S
from ..documents.pack_reading import passed_of, read_test
from ..documents.pack_test import FIRST_HEAT_MIN, LAST_HEAT_MIN, HeatRead, LoadKept, PackTestDocument
from ..formats.pack_tests import TestOut
from .errors import NotThere
from .kit import by_label, item_of, shelf
from .pack_listing import figures_of
from .pack_logs import packed, unpacked
from .pack_models import PackTest


def pack_of(session: Session, label: str) -> Pack:
    """The pack of a label on the shelf.

    Raises
    ------
    NotThere
    """
    piece = by_label(session, label)
    item = None if piece is None else item_of(piece)
    if not isinstance(item, Pack):
        raise NotThere(f"there is no pack “{label}” on the shelf")
    return item


def giver_of(session: Session, label: str) -> Phone:
    """The phone of a label on the shelf, as one that gives.

    Raises
    ------
    NotThere
    """
    piece = by_label(session, label)
    item = None if piece is None else item_of(piece)
    if not isinstance(item, Phone):
        raise NotThere(f"there is no phone “{label}” on the shelf")
    return item


def packs(session: Session) -> list[Pack]:
    """All packs on the shelf, by label."""
    return [item for piece in shelf(session) if isinstance(item := item_of(piece), Pack)]


def phones(session: Session) -> list[Phone]:
    """All phones on the shelf, by label."""
    return [item for piece in shelf(session) if isinstance(item := item_of(piece), Phone)]


def of_pack(kind: str, pack: Pack, **facts: Any) -> PackTestDocument:
    """A document of a test, with the rating that the pack has now."""
    return PackTestDocument.model_validate(
        {"kind": kind, "rated_mah": pack.rated_mah, "cell_v": pack.cell_v, "lamps": pack.lamps, **facts}
    )


def keep(
    session: Session, label: str, document: PackTestDocument, at: dt.datetime, by: str,
    logs: Sequence[PowerTrace] = (), heat: tuple[Array, Array] | None = None, test_id: uuid.UUID | None = None,
) -> PackTest:  # fmt: skip
    """Read and keep a test; of a phone on the shelf the battery is known.

    Parameters
    ----------
    label : str
        Of the pack, or of the phone that gives.
    document : PackTestDocument
        As it was typed; the figures that lists need are filled in here.
    logs : sequence of PowerTrace
    heat : (times [s], temperatures [°C]) or None
        On the clock of the first log, at its hottest place.
    test_id : UUID or None
        That it left with, where it comes back in.

    Raises
    ------
    CannotRead
        If it is no such test, or cannot be.
    """
    document = with_batteries(session, label, document)
    reading = read_test(document, logs, label)
    if reading.load is not None:
        file = "" if document.load is None else document.load.file
        document = document.model_copy(update={"load": load_kept(reading.load, file)})
    if heat is not None and reading.load is not None:
        document = with_heat(document, heat, reading.load.start_s)
    if reading.recharge is not None and logs and document.recharge is not None:
        found = reading.recharge
        facts = {
            "minutes": max(0.01, found.seconds / MINUTE_S), "watts": found.best_w, "volts": found.at_v,
            "full": found.full, "wh": None if found.taken_wh is None else found.taken_wh.value,
        }  # fmt: skip
        document = document.model_copy(update={"recharge": document.recharge.model_copy(update=facts)})
    if document.passed is not None and logs:
        passed = passed_of(document, logs)
        facts = {"in_wh": passed.in_wh.value, "out_wh": passed.out_wh.value, "minutes": passed.seconds / MINUTE_S}
        document = document.model_copy(update={"passed": document.passed.model_copy(update=facts)})
    return add(session, label, document, at, by, logs, test_id)


def with_heat(document: PackTestDocument, heat: tuple[Array, Array], start_s: float) -> PackTestDocument:
    """A load test with its temperatures, thinned, in minutes after the load was on."""
    reads = [
        HeatRead(minute=minute, celsius=c)
        for t, c in thinned_heat(*heat)
        if FIRST_HEAT_MIN <= (minute := (t - start_s) / MINUTE_S) <= LAST_HEAT_MIN
    ]
    notes = document.notes.model_copy(update={"heat": reads})
    return document.model_copy(update={"notes": notes})


def with_batteries(session: Session, label: str, document: PackTestDocument) -> PackTestDocument:
    """A document with the batteries of its phones, as far as they stand on the shelf and it does not state them."""
    charge, given = document.charge, document.given
    if charge is not None and charge.phone_wh is None and (phone := _phone(session, charge.phone)) is not None:
        facts = {"phone": phone.label, "phone_mah": phone.capacity_mah, "phone_v": phone.nominal_v}
        return document.model_copy(update={"charge": charge.model_copy(update=facts)})
    if given is not None:
        giver, taker = _phone(session, label), _phone(session, given.taker)
        batteries = {
            "giver_wh": given.giver_wh or (None if giver is None else giver.battery_wh),
            "taker_wh": given.taker_wh or (None if taker is None else taker.battery_wh),
            "usual_stop": given.usual_stop
            if giver is None or given.usual_stop is not None
            else giver.gives_stop_percent,
        }
        return document.model_copy(update={"given": given.model_copy(update=batteries)})
    return document


def _phone(session: Session, label: str) -> Phone | None:
    piece = by_label(session, label) if label else None
    item = None if piece is None else item_of(piece)
    return item if isinstance(item, Phone) else None


def load_kept(test: LoadTest, file: str) -> LoadKept:
    """The chief figures of a load test, for lists."""
    wh, trip = test.delivered_wh, test.trip
    held = held_power(test, None)
    return LoadKept(
        delivered_wh=None if wh is None else wh.value, expanded_wh=None if wh is None else wh.stated,
        at_least=test.at_least, file=file, held_a=None if held is None else held.held_a,
        held_v=None if held is None else held.volts, let_go_a=None if trip is None else trip.tripped_at_a,
        tripped=trip is not None,
        slept_a=test.sleeps[0].amps if test.sleeps else None,
        awake_a=None if test.awake is None else test.awake.amps,
    )  # fmt: skip


def is_here(session: Session, test_id: uuid.UUID) -> bool:
    """Whether a test is kept, those laid aside included."""
    return session.get(PackTest, test_id) is not None


def bring_in(session: Session, test: TestOut) -> bool:
    """Keep a test that comes back in, unless it is here; whether it is new.

    Raises
    ------
    CannotRead
        If it cannot be read.
    """
    if session.get(PackTest, test.id) is not None:
        return False
    reading, document = read_test(test.document, test.logs, test.pack), test.document
    if reading.load is not None:
        # What lists show is worked out here, whatever the file says.
        file = "" if document.load is None else document.load.file
        document = document.model_copy(update={"load": load_kept(reading.load, file)})
    add(session, test.pack, document, test.at, test.by, test.logs, test.id)
    return True


def out_of(test: PackTest, with_logs: bool = True) -> TestOut:
    """A test as it leaves."""
    logs = tuple(traces_of(test)) if with_logs else ()
    return TestOut(test.id, test.pack, test.at, test.by, PackTestDocument.read(test.document), logs)


def add(
    session: Session, label: str, document: PackTestDocument, at: dt.datetime, by: str,
    logs: Sequence[PowerTrace] = (), test_id: uuid.UUID | None = None,
) -> PackTest:  # fmt: skip
    """Keep a test as it is."""
    test = PackTest(
        **figures_of(document),
        id=test_id or uuid.uuid4(), pack=label, kind=document.kind, document=document.kept(),
        log=packed(logs) if logs else None, by=by, at=at,
    )  # fmt: skip
    session.add(test)
    session.flush()
    return test


def tests(session: Session, pack: str | None = None) -> Sequence[PackTest]:
    """The tests of a pack, or of all; the latest first."""
    asked = (
        select(PackTest)
        .where(PackTest.deleted_at.is_(None))
        .order_by(PackTest.at.desc(), PackTest.id)
        .options(load_only(PackTest.pack, PackTest.kind, PackTest.document, PackTest.by, PackTest.at))
    )
    return session.scalars(asked if pack is None else asked.where(func.lower(PackTest.pack) == pack.lower())).all()


def get_test(session: Session, test_id: uuid.UUID) -> PackTest:
    """A test by its id, those laid aside included.

    Raises
    ------
    NotThere
    """
    test = session.get(PackTest, test_id)
    if test is None:
        raise NotThere(f"there is no test {test_id}")
    return test


def delete_test(session: Session, test_id: uuid.UUID, at: dt.datetime | None) -> PackTest:
    """Lay a test aside; with None bring it back.

    Raises
    ------
    NotThere
    """
    test = get_test(session, test_id)
    test.deleted_at = at
    session.flush()
    return test


def traces_of(test: PackTest) -> list[PowerTrace]:
    """The logs of a test; none where it was read off a display."""
    return [] if test.log is None else unpacked(test.log)
