"""Method cards: the ready ones, and one's own, added, changed and retired."""

import datetime as dt
import uuid
from dataclasses import replace

from sqlalchemy import func, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from ...core.kit import Flaw, Flawed
from ...core.labels import label
from ...core.plan import READY, Card
from ...documents.card import card_document, card_of
from .. import models as m
from ..errors import ChangedMeanwhile, NotThere


def own_cards(session: Session, retired: bool = False) -> list[m.MethodCard]:
    """One's own cards by name, those in use or those retired."""
    wanted = m.MethodCard.retired_at.is_not(None) if retired else m.MethodCard.retired_at.is_(None)
    return list(session.scalars(select(m.MethodCard).where(wanted).order_by(func.lower(m.MethodCard.name))))


def get_card(session: Session, card_id: uuid.UUID) -> m.MethodCard:
    """A card of one's own by its id.

    Raises
    ------
    NotThere
    """
    row = session.get(m.MethodCard, card_id)
    if row is None:
        raise NotThere(f"there is no card {card_id}")
    return row


def card_named(session: Session, name: str) -> Card | None:
    """A card by its name, as it is now: to be kept with a run. None where there is none."""
    ready = next((c for c in READY if c.name.lower() == name.strip().lower()), None)
    if ready is not None:
        return ready
    own = session.scalar(select(m.MethodCard).where(func.lower(m.MethodCard.name) == name.strip().lower()))
    return None if own is None else card_of(own.facts)


def add_card(session: Session, card: Card, by: str) -> m.MethodCard:
    """Keep a card of one's own.

    Raises
    ------
    Flawed
        If its name is taken.
    """
    card = replace(card, name=label(card.name, "name"))
    _refuse_taken(session, card.name, None)
    row = m.MethodCard(id=uuid.uuid4(), name=card.name, facts=card_document(card), created_by=by)
    session.add(row)
    _flush(session, card.name)
    return row


def change_card(session: Session, card_id: uuid.UUID, revision: int, card: Card) -> m.MethodCard:
    """Change a card; runs and plans keep it as it was.

    Raises
    ------
    NotThere, ChangedMeanwhile, Flawed
    """
    row = session.scalar(select(m.MethodCard).where(m.MethodCard.id == card_id).with_for_update())
    if row is None:
        raise NotThere(f"there is no card {card_id}")
    if row.revision != revision:
        raise ChangedMeanwhile("this card was changed in another window since you opened it")
    card = replace(card, name=label(card.name, "name"))
    _refuse_taken(session, card.name, card_id)
    row.name, row.facts = card.name, card_document(card)
    row.revision += 1
    _flush(session, card.name)
    return row


def retire_card(session: Session, card_id: uuid.UUID, by: str) -> m.MethodCard:
    """Take a card out of use."""
    row = get_card(session, card_id)
    row.retired_at, row.retired_by = dt.datetime.now(dt.UTC), by
    return row


def bring_back_card(session: Session, card_id: uuid.UUID) -> m.MethodCard:
    """Put a retired card back in use."""
    row = get_card(session, card_id)
    row.retired_at, row.retired_by = None, ""
    return row


def facts_of_card(card: m.MethodCard) -> Card:
    """The card of a record."""
    return card_of(card.facts)


def _refuse_taken(session: Session, name: str, own: uuid.UUID | None) -> None:
    other = session.scalar(select(m.MethodCard).where(func.lower(m.MethodCard.name) == name.lower()))
    taken = any(c.name.lower() == name.lower() for c in READY) or (other is not None and other.id != own)
    if taken:
        raise Flawed([Flaw("name", f"“{name}” is the name of a card already", "choose another")])


def _flush(session: Session, name: str) -> None:
    try:
        session.flush()
    except IntegrityError as error:
        raise Flawed([Flaw("name", f"“{name}” is taken already", "choose another")]) from error
