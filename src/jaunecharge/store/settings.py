"""Settings of the whole bench: habits and tariff, and the run that serves as reference."""

import uuid
from dataclasses import asdict
from typing import Any

from sqlalchemy import update
from sqlalchemy.orm import Session

from ..core.errors import CannotRead
from ..core.measured import Measured, Part
from ..core.reading import Habits, Ratio, Reading, check_habits, ratio_of_reference
from . import models as m
from .errors import ChangedMeanwhile

HABITS, REFERENCE = "habits", "reference"


def setting(session: Session, key: str) -> m.Setting | None:
    """A setting as it is, or None where it was never chosen."""
    return session.get(m.Setting, key)


def _put(session: Session, key: str, value: dict[str, Any], revision: int, by: str) -> m.Setting:
    row = session.get(m.Setting, key, with_for_update=True)
    if (row.revision if row is not None else 0) != revision:
        raise ChangedMeanwhile("the setting was changed in another window since you opened it")
    if row is None:
        row = m.Setting(key=key, value=value, revision=1, by=by)
        session.add(row)
    else:
        row.value, row.revision, row.by = value, row.revision + 1, by
    session.flush()
    return row


def habits(session: Session) -> tuple[Habits, int]:
    """Habits of charging here, and their revision; the defaults where nobody chose."""
    row = setting(session, HABITS)
    return (Habits(), 0) if row is None else (Habits(**row.value), row.revision)


def change_habits(session: Session, new: Habits, revision: int, by: str) -> Habits:
    """Choose hours, tariff and currency.

    Raises
    ------
    CannotRead, ChangedMeanwhile
    """
    check_habits(new)
    _put(session, HABITS, asdict(new), revision, by)
    return new


def name_reference(
    session: Session, run: m.Run, reading: Reading, delivered_w: float, revision: int, by: str
) -> m.Setting:
    """Take a run as reference: all runs are then read with its ratio.

    Raises
    ------
    CannotRead
        If the run has no settled power, or delivers more than it draws.
    """
    best = reading.output.estimates[0] if reading.output is not None and reading.output.estimates else None
    if best is None or reading.best_settled is None:
        raise CannotRead("the run has no settled power", "choose one that charged for a minute", file="reference")
    ratio = reading.output.ratio if reading.output is not None else None
    assert ratio is not None
    drawn = reading.best_settled.watts
    try:
        ratio_of_reference(Measured(drawn), delivered_w, run.label)
    except ValueError as error:
        raise CannotRead(
            f"{delivered_w:g} W delivered of {drawn:.1f} W drawn cannot be", str(error), file="reference"
        ) from error
    parts = [(p.source, p.standard) for p in best.watts.parts if p.source.startswith("meter")]
    # The estimate is divided by k: what the meter leaves unsure of it goes back to the watts drawn.
    scale = drawn / best.watts.value
    value = {
        "run": str(run.id), "label": run.label, "delivered_w": delivered_w, "drawn_w": drawn,
        "parts": [[source, standard * scale] for source, standard in parts],
    }  # fmt: skip
    row = _put(session, REFERENCE, value, revision, by)
    _all_stale(session)
    return row


def drop_reference(session: Session, revision: int, by: str) -> None:
    """Go back to the usual ratio.

    Raises
    ------
    ChangedMeanwhile
    """
    _put(session, REFERENCE, {}, revision, by)
    _all_stale(session)


def ratio(session: Session) -> Ratio | None:
    """The ratio of the reference run, or None where none is named."""
    row = setting(session, REFERENCE)
    if row is None or not row.value:
        return None
    parts = tuple(Part(f"{source}, of the reference", standard) for source, standard in row.value["parts"])
    return ratio_of_reference(Measured(row.value["drawn_w"], parts), row.value["delivered_w"], row.value["label"])


def _all_stale(session: Session) -> None:
    session.execute(update(m.Run).values(reader_version=0, updated_at=m.Run.updated_at))


def reference_id(row: m.Setting | None) -> uuid.UUID | None:
    """The run that serves as reference."""
    return uuid.UUID(row.value["run"]) if row is not None and row.value else None
