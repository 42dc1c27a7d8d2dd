"""Tests of packs as lists need them: a few figures of each, in columns."""

import math
from collections import defaultdict
from dataclasses import dataclass, field
from typing import Any, cast

from sqlalchemy import Select, func, select
from sqlalchemy.dialects.postgresql import distinct_on
from sqlalchemy.orm import Session

from ..core.kit import Pack
from ..core.measured import Measured, Part
from ..core.packs import Bounds, HeldPower, Overview, PhoneCharges, Way, charges_seen, overview, rating
from ..documents.pack_test import Kind, PackTestDocument
from .pack_models import PackTest

LISTED_VERSION = 1
"""Rises with what is worked out here: rows of an older one are worked out anew before they are listed."""


@dataclass
class PackListed:
    """The tests of a pack in few figures: loads : (delivered [Wh], whether at least), those that may stand for all, in
    order of time; charges : of each phone by each way the one with the narrowest range, with how many there are;
    held : the latest (held [A], at [V]) before it let go; counts : by kind."""

    loads: list[tuple[Measured, bool]] = field(default_factory=list)
    charges: list[PhoneCharges] = field(default_factory=list)
    held: tuple[float, float] | None = None
    counts: dict[Kind, int] = field(default_factory=dict)


def overview_of(pack: Pack, tests: PackListed) -> Overview:
    """A pack by its tests."""
    return overview(
        rating(pack.rated_mah, pack.cell_v), tests.loads, tests.charges,
        None if pack.price is None else pack.price.amount, has_coil=bool(pack.gives), grams=pack.grams,
        power=None if tests.held is None else HeldPower(*tests.held, pack.claimed_w),
    )  # fmt: skip


def figures_of(document: PackTestDocument) -> dict[str, Any]:
    """The columns of a test."""
    load, charge = document.load, document.charge
    seen = None if charge is None else charges_seen(charge.phone, charge.charge(document.lamps))
    high = None if seen is None or not math.isfinite(seen.charges.high) else seen.charges.high
    tripped = load is not None and load.tripped
    return {
        "listed_version": LISTED_VERSION,
        "delivered_wh": None if load is None else load.delivered_wh,
        "expanded_wh": None if load is None else load.expanded_wh,
        "at_least": load is not None and load.at_least,
        "held_a": load.held_a if load is not None and tripped else None,
        "held_v": load.held_v if load is not None and tripped else None,
        "phone": "" if charge is None else charge.phone,
        "by_cord": charge is not None and charge.by_cord,
        "phone_wh": None if charge is None else charge.phone_wh,
        "charges": None if seen is None else seen.charges.value,
        "charges_low": None if seen is None else seen.charges.low,
        "charges_high": high,
        "charges_width": None if seen is None or not math.isfinite(seen.width) else seen.width,
    }


def listed(session: Session, pack: str | None = None) -> dict[str, PackListed]:
    """The tests of a pack, or of all, by the label without capitals.

    The database picks the few of each that count: thousands of tests are not all carried here.
    """
    _work_out_older(session)
    found: defaultdict[str, PackListed] = defaultdict(PackListed)
    here: list[Any] = [PackTest.deleted_at.is_(None)]
    if pack is not None:
        here.append(func.lower(PackTest.pack) == pack.lower())
    counts = select(PackTest.pack, PackTest.kind, func.count()).where(*here).group_by(PackTest.pack, PackTest.kind)
    for label, name, count in session.execute(counts):
        own, kind = found[label.casefold()].counts, cast(Kind, name)
        own[kind] = own.get(kind, 0) + count
    for row in session.execute(_latest(here, PackTest.delivered_wh, PackTest.pack, PackTest.at_least)):
        parts = () if row.expanded_wh is None else (Part("load test", row.expanded_wh / 2.0),)
        found[row.pack.casefold()].loads.append((Measured(row.delivered_wh, parts), row.at_least))
    for row in session.execute(_latest(here, PackTest.held_v, PackTest.pack)):
        found[row.pack.casefold()].held = (row.held_a, row.held_v)
    for row in session.execute(_narrowest(here)):
        way: Way = "cord" if row.by_cord else "coil"
        high = math.inf if row.charges_high is None else row.charges_high
        bounds = Bounds(row.charges_low, row.charges, high)
        found[row.pack.casefold()].charges.append(PhoneCharges(row.phone, way, bounds, row.phone_wh, row.times))
    return found


def _latest(here: list[Any], there: Any, *of_each: Any) -> Select[Any]:
    """The latest test of each, that has a figure; in order of time."""
    latest = (
        select(
            PackTest.pack, PackTest.delivered_wh, PackTest.expanded_wh, PackTest.at_least, PackTest.held_a,
            PackTest.held_v, PackTest.at,
        )
        .where(*here, there.is_not(None))
        .ext(distinct_on(*of_each))
        .order_by(*of_each, PackTest.at.desc(), PackTest.id)
        .subquery()
    )  # fmt: skip
    return select(latest).order_by(latest.c.at)


def _narrowest(here: list[Any]) -> Select[Any]:
    """Of each phone by each way the charge with the narrowest range, and how many there are; in the order in which
    phones were first charged."""
    same = (PackTest.pack, PackTest.phone, PackTest.by_cord)
    best = (
        select(
            *same, PackTest.phone_wh, PackTest.charges, PackTest.charges_low, PackTest.charges_high,
            func.count().over(partition_by=same).label("times"),
            func.min(PackTest.at).over(partition_by=same).label("first_at"),
        )
        .where(*here, PackTest.charges.is_not(None))
        .ext(distinct_on(*same))
        .order_by(*same, PackTest.charges_width.nulls_last(), PackTest.at, PackTest.id)
        .subquery()
    )  # fmt: skip
    return select(best).order_by(best.c.first_at)


def _work_out_older(session: Session) -> None:
    """Work out the columns of tests that an older version kept."""
    older = session.scalars(select(PackTest).where(PackTest.listed_version < LISTED_VERSION)).all()
    for test in older:
        for name, value in figures_of(PackTestDocument.read(test.document)).items():
            setattr(test, name, value)
    if older:
        session.flush()
