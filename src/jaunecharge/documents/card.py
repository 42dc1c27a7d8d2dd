"""Method cards as documents."""

from typing import Any

from pydantic import TypeAdapter, ValidationError

from ..core.kit import Flaw, Flawed
from ..core.plan import Card, card_flaws
from .document import VERSION

_CARD = TypeAdapter(Card)


def card_of(document: dict[str, Any]) -> Card:
    """A card from its document.

    Raises
    ------
    Flawed
        With every field that is wrong.
    """
    try:
        card = _CARD.validate_python(document)
    except ValidationError as error:
        raise Flawed(
            [
                Flaw(
                    str(e["loc"][0]) if e["loc"] else "card",
                    f"{e.get('input')!r} is refused",
                    e["msg"][0].lower() + e["msg"][1:],
                )
                for e in error.errors(include_url=False)
            ]
        ) from error
    if flaws := card_flaws(card):
        raise Flawed(flaws)
    return card


def card_document(card: Card) -> dict[str, Any]:
    """A card as its document."""
    return {VERSION: 1, **_CARD.dump_python(card, mode="json")}
