"""Fields of the table that nobody ran yet: why a run of one would tell nothing, and a plan that fills them."""

from collections.abc import Mapping, Sequence

from sqlalchemy.orm import Session

from ..core.errors import CannotRead
from ..core.factors import WIRED
from ..core.kit import transmits
from ..core.plan import READY, PlanCell, cells_of
from ..documents.choice import PickedCharger, PlanChoice
from . import models as m
from .kit import item_of, shelf
from .plan.work import choice_of

Wanted = Sequence[tuple[str, str]]
"""Phone and charger, the place behind it, of each field."""


def plan_draft(session: Session, wanted: Wanted, usual: Mapping[str, str]) -> tuple[str, PlanChoice]:
    """A question and a matrix that fill these fields and no others, with the usual adapter.

    Raises
    ------
    CannotRead
        If a phone or a charger of them is not on the shelf.
    """
    known, missing = _on_shelf(session, wanted)
    if missing:
        raise CannotRead(f"not on the shelf: {', '.join(missing)}", "add them there first", file="fields")
    choice = _choice(session, known, usual)
    keys = {(c.chain.phone.label.casefold(), c.row.label.casefold()): c.key for c in _cells(session, choice)}
    asked = {(phone.casefold(), charger.casefold()) for phone, charger in known}
    choice = choice.model_copy(
        update={
            "left_out": [key for pair, key in keys.items() if pair not in asked],
            "forced": [key for pair, key in keys.items() if pair in asked],
        }
    )
    chargers = dict.fromkeys(c for _, c in known)
    phones = dict.fromkeys(p for p, _ in known)
    question = f"What is missing: {', '.join(chargers)} on {', '.join(phones)}"
    return question[:120], choice


def why_pointless(session: Session, wanted: Wanted, usual: Mapping[str, str]) -> dict[tuple[str, str], str]:
    """Why a run of a field would tell nothing; fields without a reason, or without kit on the shelf, are left out."""
    known, _ = _on_shelf(session, wanted)
    if not known:
        return {}
    reasons = {
        (c.chain.phone.label.casefold(), c.row.label.casefold()): c.pointless
        for c in _cells(session, _choice(session, known, usual))
    }
    return {
        (phone, charger): why
        for phone, charger in known
        if (why := reasons.get((phone.casefold(), charger.casefold()), ""))
    }


def _cells(session: Session, choice: PlanChoice) -> list[PlanCell]:
    return cells_of(choice_of(session, choice), READY[0])


def _on_shelf(session: Session, wanted: Wanted) -> tuple[list[tuple[str, str]], list[str]]:
    """Fields whose kit lies on the shelf, and what is missing there."""
    pieces = shelf(session)
    phones = {p.label.casefold() for p in pieces if p.kind == "phone"}
    named, missing = [], []
    for phone, charger in wanted:
        if phone.casefold() not in phones:
            missing.append(phone)
        elif charger.casefold() != WIRED and _piece(pieces, charger) is None:
            missing.append(charger)
        else:
            named.append((phone, charger))
    return named, list(dict.fromkeys(missing))


def _piece(pieces: Sequence[m.Kit], name: str) -> tuple[m.Kit, str] | None:
    """The charger of a name, and its place where one stands behind it."""
    for piece in pieces:
        if not transmits(item_of(piece)):
            continue
        if piece.label.casefold() == name.casefold():
            return piece, ""
        if name.casefold().startswith(f"{piece.label.casefold()}, "):
            return piece, name[len(piece.label) + 2 :]
    return None


def _choice(session: Session, known: Wanted, usual: Mapping[str, str]) -> PlanChoice:
    pieces = shelf(session)
    by_label = {(p.kind, p.label.casefold()): p for p in pieces}
    chargers = dict.fromkeys(c for _, c in known)
    adapter = by_label.get(("adapter", usual.get("adapter", "").casefold()))
    cable = by_label.get(("cable", usual.get("cable", "").casefold()))
    picked = [(_piece(pieces, name), name) for name in chargers if name.casefold() != WIRED]
    return PlanChoice(
        phones=[by_label["phone", p.casefold()].id for p in dict.fromkeys(p for p, _ in known)],
        chargers=[PickedCharger(id=choice[0].id, place=choice[1]) for choice, _ in picked if choice is not None],
        wired=any(name.casefold() == WIRED for name in chargers),
        adapter=None if adapter is None else adapter.id,
        cable=None if cable is None else cable.id,
    )
