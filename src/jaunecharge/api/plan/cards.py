"""Method cards, and all that a plan can be made of."""

import uuid

from fastapi import Request

from ...core.factors import FACTORS
from ...core.plan import MATRIX_FACTORS, ORDERS, READY, SCHOOLS, Card, in_words
from ...core.simulator import AIRFLOWS, IDLE_W
from ...documents.card import card_of
from ...store import models as m
from ...store.plan import cards as store
from ..context import context_of, name_of
from ..strict import make_router
from . import shapes

router = make_router("method", "/api/method")
CHOICES = {"airflow": list(AIRFLOWS), "phone_state": list(IDLE_W)}


def card_shape(card: Card, row: m.MethodCard | None = None) -> shapes.CardShape:
    """A card for the front end."""
    return shapes.CardShape(
        id=row.id if row else None,
        card=card,
        said=in_words(card),
        deep=card.deep,
        revision=row.revision if row else 0,
        retired_by=row.retired_by if row else "",
    )


@router.get("")
def show_method(request: Request) -> shapes.MethodShape:
    """Cards, schools, factors and orders."""
    with context_of(request).database.session() as session:
        own, retired = store.own_cards(session), store.own_cards(session, retired=True)
        return shapes.MethodShape(
            cards=[card_shape(c) for c in READY] + [card_shape(store.facts_of_card(c), c) for c in own],
            retired=[card_shape(store.facts_of_card(c), c) for c in retired],
            schools=list(SCHOOLS),
            factors=[
                shapes.FactorShape(
                    name=f.name,
                    said=f.said,
                    example=f.example,
                    common=f.common,
                    choices=CHOICES.get(f.name, []),
                    chosen_elsewhere=f.name in MATRIX_FACTORS,
                )
                for f in FACTORS
            ],
            orders=[shapes.OrderShape(rule=rule, why=why) for rule, why in ORDERS],
        )


@router.post("/cards", status_code=201)
def add_card(request: Request, new: shapes.CardChange) -> shapes.CardShape:
    """Keep a card of one's own; every field that is wrong is named."""
    with context_of(request).database.session() as session:
        row = store.add_card(session, card_of(new.card), name_of(request))
        return card_shape(store.facts_of_card(row), row)


@router.put("/cards/{card_id}")
def change_card(request: Request, card_id: uuid.UUID, change: shapes.CardChange) -> shapes.CardShape:
    """Change a card; runs and plans keep it as it was."""
    with context_of(request).database.session() as session:
        row = store.change_card(session, card_id, change.revision, card_of(change.card))
        return card_shape(store.facts_of_card(row), row)


@router.post("/cards/{card_id}/retired")
def retire_card(request: Request, card_id: uuid.UUID) -> shapes.CardShape:
    """Take a card out of use."""
    with context_of(request).database.session() as session:
        row = store.retire_card(session, card_id, name_of(request))
        return card_shape(store.facts_of_card(row), row)


@router.delete("/cards/{card_id}/retired")
def bring_back_card(request: Request, card_id: uuid.UUID) -> shapes.CardShape:
    """Put a retired card back in use."""
    with context_of(request).database.session() as session:
        row = store.bring_back_card(session, card_id)
        return card_shape(store.facts_of_card(row), row)
