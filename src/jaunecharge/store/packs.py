"""Tests of packs: kept, listed by pack, laid aside and brought back."""

import datetime as dt
import io
import uuid
from collections.abc import Sequence

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.errors import CannotRead
from ..core.kit import Pack, Phone
from ..core.log import PowerTrace, power_trace
from ..core.packs import LoadTest, read_load
from ..documents.case import Meter
from ..documents.pack_test import ChargeRead, LoadKept, PackTestDocument
from .errors import NotThere
from .kit import by_label, item_of, shelf
from .pack_models import PackTest

MOST_SAMPLES = 2_000_000


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


def packs(session: Session) -> list[Pack]:
    """All packs on the shelf, by label."""
    return [item for piece in shelf(session) if isinstance(item := item_of(piece), Pack)]


def add_load(
    session: Session, pack: Pack, trace: PowerTrace, meter: Meter, file: str, at: dt.datetime, by: str
) -> PackTest:
    """Read and keep a load test.

    Raises
    ------
    CannotRead
        If it is none.
    """
    if len(trace.time_s) > MOST_SAMPLES:
        raise CannotRead(
            f"it has {len(trace.time_s)} samples", f"log at most {MOST_SAMPLES}, one a second say", file=file
        )
    document = PackTestDocument(kind="load", rated_mah=pack.rated_mah, cell_v=pack.cell_v, meter=meter)
    test = read_load(trace, document.rating(), meter.spec())
    kept = LoadKept(
        delivered_wh=test.delivered_wh.value, expanded_wh=test.delivered_wh.stated, at_least=test.at_least, file=file
    )
    document = document.model_copy(update={"load": kept})
    return _add(session, pack, document, at, by, packed(trace))


def add_charge(session: Session, pack: Pack, charge: ChargeRead, at: dt.datetime, by: str) -> PackTest:
    """Keep a charge of a phone from a pack; the battery of a phone on the shelf is known.

    Raises
    ------
    CannotRead
        If it cannot be.
    """
    piece = by_label(session, charge.phone) if charge.phone else None
    phone = None if piece is None else item_of(piece)
    if charge.phone_wh is None and isinstance(phone, Phone):
        charge = charge.model_copy(update={"phone_mah": phone.capacity_mah, "phone_v": phone.nominal_v})
    charge.charge()
    document = PackTestDocument(kind="charge", rated_mah=pack.rated_mah, cell_v=pack.cell_v, charge=charge)
    return _add(session, pack, document, at, by, None)


def _add(
    session: Session, pack: Pack, document: PackTestDocument, at: dt.datetime, by: str, log: bytes | None
) -> PackTest:
    test = PackTest(
        id=uuid.uuid4(), pack=pack.label, kind=document.kind, document=document.kept(), log=log, by=by, at=at
    )
    session.add(test)
    session.flush()
    return test


def tests(session: Session, pack: str | None = None) -> Sequence[PackTest]:
    """The tests of a pack, or of all; the latest first."""
    asked = select(PackTest).where(PackTest.deleted_at.is_(None)).order_by(PackTest.at.desc(), PackTest.id)
    return session.scalars(asked if pack is None else asked.where(PackTest.pack == pack)).all()


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


def packed(trace: PowerTrace) -> bytes:
    """A log as bytes: times, volts and amps, compressed."""
    file = io.BytesIO()
    assert trace.volts is not None and trace.amps is not None
    np.savez_compressed(file, time_s=trace.time_s, volts=trace.volts, amps=trace.amps)
    return file.getvalue()


def trace_of(test: PackTest) -> PowerTrace:
    """The log of a load test."""
    assert test.log is not None
    with np.load(io.BytesIO(test.log), allow_pickle=False) as columns:
        time_s, volts, amps = (np.asarray(columns[name], dtype=float) for name in ("time_s", "volts", "amps"))
    return power_trace(time_s, volts * amps, volts, amps)


def load_of(test: PackTest) -> tuple[LoadTest, PackTestDocument, PowerTrace]:
    """A load test, read, what is kept of it, and its log."""
    document = PackTestDocument.read(test.document)
    trace = trace_of(test)
    return read_load(trace, document.rating(), document.meter.spec()), document, trace
