"""Checks of meters: kept with their date, the latest counts."""

import datetime as dt
import uuid
from collections.abc import Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ...core.bench import Against, check_said, deviation
from ...core.errors import CannotRead
from ...core.kit import Meter
from .. import bench_models as b
from ..errors import NotThere
from ..kit import by_label, item_of


def meter_of(session: Session, label: str) -> Meter:
    """The meter of a label.

    Raises
    ------
    CannotRead
    """
    piece = by_label(session, label)
    item = None if piece is None else item_of(piece)
    if not isinstance(item, Meter):
        raise CannotRead(f"there is no meter “{label}” on the shelf", "add it there first", file="meter")
    return item


def add_check(
    session: Session, label: str, other: str, known_w: float | None, known_percent: float,
    pairs: Sequence[tuple[float, float]], now: dt.datetime, by: str,
) -> b.MeterCheck:  # fmt: skip
    """Check a meter, against another one or a load of known watts, and keep what came of it.

    Parameters
    ----------
    other : str
        Label of the other meter; empty for a load of known watts.
    known_w, known_percent : float
        The load [W], and how well it is known [% of it, half the width of a rectangle].
    pairs : sequence of (this meter, the other one) [W]
        Of a known load the second figure is not looked at.

    Raises
    ------
    CannotRead
    """
    meter = meter_of(session, label)
    if other:
        against = meter_of(session, other)
        if against.label == meter.label:
            raise CannotRead("a meter cannot be checked against itself", "choose another one", file="other")
        latest = latest_check(session, against.label)
        gain = against.gain_percent if latest is None else latest.expanded_percent
        if gain is None:
            mend = "give it on the shelf, or check that one against a load of known watts first"
            raise CannotRead(f"the accuracy of meter {against.label} is not known", mend, file="other")
        held, theirs = Against(f"meter {against.label}", gain), [p[1] for p in pairs]
    elif known_w is not None:
        held, theirs = Against(f"a load of {known_w:g} W", known_percent), [known_w] * len(pairs)
    else:
        raise CannotRead("say what it is checked against", "another meter, or a load of known watts", file="other")
    result = deviation([p[0] for p in pairs], theirs, held)
    check = b.MeterCheck(
        id=uuid.uuid4(), meter=meter.label, way="two meters" if other else "known load", against=held.said,
        deviation_percent=result.value, expanded_percent=result.expanded,
        readings=[[p[0], t] for p, t in zip(pairs, theirs, strict=True)], by=by, at=now,
    )  # fmt: skip
    session.add(check)
    session.flush()
    return check


def checks(session: Session) -> list[b.MeterCheck]:
    """All checks, the latest first."""
    query = select(b.MeterCheck).where(b.MeterCheck.deleted_at.is_(None)).order_by(b.MeterCheck.at.desc())
    return list(session.scalars(query))


def latest_check(session: Session, label: str) -> b.MeterCheck | None:
    """The latest check of a meter."""
    query = select(b.MeterCheck).where(
        func.lower(b.MeterCheck.meter) == label.strip().lower(), b.MeterCheck.deleted_at.is_(None)
    )
    return session.scalar(query.order_by(b.MeterCheck.at.desc()).limit(1)) if label.strip() else None


def latest_checks(session: Session) -> dict[str, b.MeterCheck]:
    """The latest check of each meter, by its label in small letters."""
    return {check.meter.lower(): check for check in reversed(checks(session))}


def said_of_check(check: b.MeterCheck) -> str:
    """A check in words."""
    return check_said(check.deviation_percent, check.expanded_percent)


def delete_check(session: Session, check_id: uuid.UUID, now: dt.datetime | None) -> b.MeterCheck:
    """Lay a check aside, or bring it back (`now` is None).

    Raises
    ------
    NotThere
    """
    check = session.get(b.MeterCheck, check_id)
    if check is None:
        raise NotThere(f"there is no check {check_id}")
    check.deleted_at = now
    session.flush()
    return check
