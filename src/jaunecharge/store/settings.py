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
    kept = session.get(m.Setting, key, with_for_update=True)
    if (kept.revision if kept is not None else 0) != revision:
        raise ChangedMeanwhile("the setting was changed in another window since you opened it")
    if kept is None:
        kept = m.Setting(key=key, value=value, revision=1, by=by)
        session.add(kept)
    else:
        kept.value, kept.revision, kept.by = value, kept.revision + 1, by
    session.flush()
    return kept


def habits(session: Session) -> tuple[Habits, int]:
    """Habits of charging here, and their revision; the defaults where nobody chose."""
    kept = setting(session, HABITS)
    return (Habits(), 0) if kept is None else (Habits(**kept.value), kept.revision)


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
    kept = _put(session, REFERENCE, value, revision, by)
    _all_stale(session)
    return kept


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
    kept = setting(session, REFERENCE)
    if kept is None or not kept.value:
        return None
    parts = tuple(Part(f"{source}, of the reference", standard) for source, standard in kept.value["parts"])
    return ratio_of_reference(Measured(kept.value["drawn_w"], parts), kept.value["delivered_w"], kept.value["label"])


def _all_stale(session: Session) -> None:
    session.execute(update(m.Run).values(reader_version=0, updated_at=m.Run.updated_at))


def reference_id(kept: m.Setting | None) -> uuid.UUID | None:
    """The run that serves as reference."""
    return uuid.UUID(kept.value["run"]) if kept is not None and kept.value else None
