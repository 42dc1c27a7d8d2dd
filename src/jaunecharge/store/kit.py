"""The shelf: kit added, changed, retired, brought back; and what was fitted to a phone."""

import datetime as dt
import uuid
from collections.abc import Iterable
from dataclasses import asdict
from typing import TYPE_CHECKING, Any

from sqlalchemy import func, select, update
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from ..core.errors import CannotRead
from ..core.kit import Flaw, Flawed, Kit
from ..core.simulator import Fitted
from ..core.wording import an
from ..documents.kit import facts_of, kit_of
from . import models as m
from .bench_models import Lane
from .errors import ChangedMeanwhile, NotThere
from .pack_models import PackTest

if TYPE_CHECKING:
    from ..core.forecast import FitResult

KINDS_OF_FACTORS = {
    "phone": ("phone",),
    "charger": ("charger", "pack"),
    "adapter": ("adapter",),
    "cable": ("cable",),
    "case": ("case",),
}
"""Which kinds of kit each factor of a run can name."""


def shelf(session: Session, retired: bool = False) -> list[m.Kit]:
    """All kit in use (or all that is retired), by kind and label."""
    wanted = m.Kit.retired_at.is_not(None) if retired else m.Kit.retired_at.is_(None)
    return list(session.scalars(select(m.Kit).where(wanted).order_by(m.Kit.kind, func.lower(m.Kit.label))))


def get_piece(session: Session, piece_id: uuid.UUID) -> m.Kit:
    """A piece by its id.

    Raises
    ------
    NotThere
    """
    piece = session.get(m.Kit, piece_id)
    if piece is None:
        raise NotThere(f"there is no kit {piece_id}")
    return piece


def item_of(piece: m.Kit) -> Kit:
    """The kit of a record."""
    return kit_of(piece.facts)


def fitted_of(piece: m.Kit) -> Fitted | None:
    """Fit of a phone, or None."""
    return Fitted(**piece.fit["fitted"]) if piece.fit else None


def by_label(session: Session, label: str) -> m.Kit | None:
    """The piece of this label, retired or not."""
    return session.scalar(select(m.Kit).where(func.lower(m.Kit.label) == label.strip().lower()))


def add_piece(session: Session, item: Kit, by: str) -> m.Kit:
    """Put kit on the shelf.

    Raises
    ------
    Flawed
        If the label is taken, by retired kit too.
    """
    _refuse_taken(session, item.label, None)
    piece = m.Kit(id=uuid.uuid4(), kind=item.kind, label=item.label, facts=facts_of(item), created_by=by)
    session.add(piece)
    _flush(session, item.label)
    return piece


def add_all(session: Session, items: Iterable[Kit], by: str) -> tuple[list[m.Kit], list[str]]:
    """Put many pieces on the shelf; those whose label is taken already are left out, and named."""
    added, left = [], []
    for item in items:
        if by_label(session, item.label) is None:
            added.append(add_piece(session, item, by))
        else:
            left.append(item.label)
    return added, left


def change_piece(session: Session, piece_id: uuid.UUID, revision: int, item: Kit) -> m.Kit:
    """Put other facts in the place of a piece's; runs keep those that they were made with.

    Raises
    ------
    NotThere, ChangedMeanwhile, Flawed, CannotRead
    """
    piece = session.scalar(select(m.Kit).where(m.Kit.id == piece_id).with_for_update())
    if piece is None:
        raise NotThere(f"there is no kit {piece_id}")
    if piece.revision != revision:
        raise ChangedMeanwhile("this kit was changed in another window since you opened it")
    if piece.kind != item.kind:
        raise CannotRead(
            f"{an(piece.kind)} does not become {an(item.kind)}", "delete it, and add the other", file="kind"
        )
    _refuse_taken(session, item.label, piece.id)
    if item.label != piece.label:
        _rename_tests(session, piece.label, item.label)
    piece.label, piece.facts = item.label, facts_of(item)
    piece.revision += 1
    _flush(session, item.label)
    return piece


def _rename_tests(session: Session, before: str, after: str) -> None:
    """Tests of a pack, or of a phone that gave, go with its new label; so do lanes on which it is just tested."""
    session.execute(update(PackTest).where(func.lower(PackTest.pack) == before.lower()).values(pack=after))
    session.execute(update(Lane).where(func.lower(Lane.pack) == before.lower()).values(pack=after))


def retire(session: Session, piece_id: uuid.UUID, by: str) -> m.Kit:
    """Take kit out of use; it stays in the runs that it was used in, and can be brought back."""
    piece = get_piece(session, piece_id)
    piece.retired_at, piece.retired_by = dt.datetime.now(dt.UTC), by
    return piece


def bring_back(session: Session, piece_id: uuid.UUID) -> m.Kit:
    """Put retired kit back in use."""
    piece = get_piece(session, piece_id)
    piece.retired_at, piece.retired_by = None, ""
    return piece


def keep_fit(
    session: Session, piece_id: uuid.UUID, result: "FitResult | None", run_id: uuid.UUID | None = None
) -> m.Kit:
    """Keep what was fitted to a phone, with how well it fits; None takes it away."""
    piece = get_piece(session, piece_id)
    piece.fit = None if result is None else fit_document(result, run_id)
    piece.revision += 1
    return piece


def fit_document(result: "FitResult", run_id: uuid.UUID | None) -> dict[str, Any]:
    """A fit as it is stored: the figures, the run, the misfit."""
    return {
        "fitted": asdict(result.fitted),
        "run_id": None if run_id is None else str(run_id),
        "rms_w": result.rms_w,
        "rms_points": result.rms_points,
        "rms_k": result.rms_k,
        "heat_fitted": result.heat_fitted,
        "said": result.said(),
    }


def used_kit(session: Session, factors: dict[str, str]) -> dict[str, Any]:
    """The facts of what a run names by label, as they are now: to be kept with the run."""
    used = {}
    for factor, allowed in KINDS_OF_FACTORS.items():
        piece = by_label(session, factors[factor]) if factors.get(factor) else None
        if piece is not None and piece.kind in allowed:
            used[factor] = {"id": str(piece.id), "revision": piece.revision, **piece.facts}
    return used


def _refuse_taken(session: Session, label: str, own: uuid.UUID | None) -> None:
    other = by_label(session, label)
    if other is not None and other.id != own:
        suffix = " (deleted)" if other.retired_at is not None else ""
        raise Flawed(
            [Flaw("label", f"“{other.label}” is the label of {an(other.kind)} already{suffix}", "choose another")]
        )


def _flush(session: Session, label: str) -> None:
    try:
        session.flush()
    except IntegrityError as error:
        raise Flawed([Flaw("label", f"“{label}” is taken already", "choose another")]) from error
