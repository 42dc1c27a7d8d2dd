"""Corrections of a run: facts, check-ins, times; with the first values kept, and undone by a mark."""

import datetime as dt
import math
import uuid
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.errors import CannotRead
from ...core.factors import NAMES
from ...core.labels import label
from ...core.log import (
    CheckIns,
    refuse_outside,
)
from ...core.units import MINUTE_S
from ...documents.case import Case
from .. import models as m
from ..errors import ChangedMeanwhile, NotThere
from ..kit import used_kit
from ..plan.cards import card_named
from .logs import checkins_of, keep_checkins, keep_heat, load_log, pack
from .readings import keep_reading
from .runs import get_run


def for_change(session: Session, run_id: uuid.UUID, revision: int) -> m.Run:
    """A run locked for change, its log packed.

    Raises
    ------
    NotThere, ChangedMeanwhile
    """
    run = session.scalar(select(m.Run).where(m.Run.id == run_id, m.Run.deleted_at.is_(None)).with_for_update())
    if run is None:
        raise NotThere(f"there is no run {run_id}")
    if run.revision != revision:
        raise ChangedMeanwhile("the run was changed in another window since you opened it")
    pack(session, run)
    return run


def correct(session: Session, run: m.Run, what: str, old: Any, new: Any, by: str) -> None:
    """Note a change; the first value is that of the first correction of the same thing."""
    earlier = session.scalar(
        select(m.Correction).where(m.Correction.run_id == run.id, m.Correction.what == what).order_by(m.Correction.at)
    )
    first = earlier.first if earlier is not None else old
    session.add(m.Correction(run_id=run.id, what=what, first=first, now=new, by=by))


def change_run(
    session: Session,
    run_id: uuid.UUID,
    revision: int,
    by: str,
    new_label: str | None = None,
    factors: dict[str, str] | None = None,
    case: Case | None = None,
) -> m.Run:
    """Correct what was stated about a run; it is read anew.

    Raises
    ------
    NotThere, ChangedMeanwhile, CannotRead
    """
    run = for_change(session, run_id, revision)
    if new_label is not None and (wanted := label(new_label)) != run.label:
        correct(session, run, "label", run.label, wanted, by)
        run.label = wanted
    if factors is not None:
        stated = {name: label(text, name) for name, text in factors.items() if name in NAMES and text.strip()}
        for name in sorted(stated.keys() | run.factors.keys()):
            if stated.get(name) != run.factors.get(name):
                correct(session, run, name, run.factors.get(name), stated.get(name), by)
        if stated != run.factors:
            run.kit = used_kit(session, stated)
        if stated.get("method") != run.factors.get("method"):
            run.card = card_named(session, stated.get("method", ""))
        run.factors = stated
    if case is not None:
        # A simulated run stays marked, whatever else is corrected.
        case = case.model_copy(update={"simulated": run.case.simulated})
        conditions, before = case.kept(), run.case.kept()
        for name in sorted(conditions.keys() | before.keys()):
            if conditions.get(name) != before.get(name):
                correct(session, run, name, before.get(name), conditions.get(name), by)
        run.case = case
    return read_anew(session, run)


def change_checkins(session: Session, run_id: uuid.UUID, revision: int, readings: CheckIns, by: str) -> m.Run:
    """Put other check-ins in the place of a run's; the first ones are kept with the correction.

    Raises
    ------
    NotThere, ChangedMeanwhile, CannotRead
    """
    run = for_change(session, run_id, revision)
    old = [list(r) for r in checkins_of(session, run)]
    new = [list(r) for r in zip(readings.time_s.tolist(), readings.percent.tolist(), strict=True)]
    if old != new:
        correct(session, run, "check-ins", old, new, by)
        keep_checkins(session, run.id, readings)
    return read_anew(session, run)


def shift_run(
    session: Session, run_id: uuid.UUID, revision: int, what: str, seconds: float, placed_s: float, by: str
) -> m.Run:
    """Put check-ins, temperatures or `both` of a run so many seconds later; nothing else of them changes.

    Raises
    ------
    NotThere, ChangedMeanwhile, CannotRead
        If there are none, or a check-in would lie before both log and placing.
    """
    run = for_change(session, run_id, revision)
    log = load_log(session, run)
    readings, heat = log.readings, log.heat
    if (what != "temperatures" and readings is None) or (what != "check-ins" and heat is None):
        missing = "check-ins" if readings is None else "temperatures"
        raise CannotRead(f"the run has no {missing}", "shift what it has", file="shift")
    if what != "temperatures" and readings is not None:
        moved = CheckIns(readings.time_s + seconds, readings.percent)
        earliest_s = min(log.trace.start_s, placed_s, float(readings.time_s[0]))
        refuse_outside(moved.time_s, earliest_s if log.trace.metered else -math.inf)
        keep_checkins(session, run.id, moved)
    if what != "check-ins" and heat is not None:
        keep_heat(session, run, heat.shifted(seconds))
    name = {"both": "clock of check-ins and temperatures"}.get(what, f"clock of {what}")
    correct(session, run, name, "as read", f"{seconds / MINUTE_S:+g} min", by)
    return read_anew(session, run)


def read_anew(session: Session, run: m.Run) -> m.Run:
    """Read a run that was changed; its revision rises.

    Raises
    ------
    CannotRead
    """
    keep_reading(session, run, load_log(session, run))
    run.revision += 1
    session.flush()
    return run


def delete_run(session: Session, run_id: uuid.UUID, by: str) -> None:
    """Lay a run aside; it can be brought back."""
    run = get_run(session, run_id)
    run.deleted_at, run.deleted_by = dt.datetime.now(dt.UTC), by


def bring_back_run(session: Session, run_id: uuid.UUID) -> m.Run:
    """Undo the deletion of a run."""
    run = get_run(session, run_id, deleted=True)
    run.deleted_at, run.deleted_by = None, ""
    return run


def corrections(session: Session, run_id: uuid.UUID) -> list[m.Correction]:
    """Corrections of a run, the latest first."""
    return list(
        session.scalars(select(m.Correction).where(m.Correction.run_id == run_id).order_by(m.Correction.at.desc()))
    )
