"""Usual conditions of all runs, counted in the database, and which runs were made under them."""

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import ColumnElement, func, select
from sqlalchemy.orm import Session

from ...core.factors import SAME_AMBIENT_K, with_own_supply
from ...core.versus import CONDITIONS, unlike, usual_levels, usual_room
from .models import Listed
from .unchanged import in_words, while_unchanged


@dataclass(frozen=True)
class Usual:
    """Usual level of each condition, and the room of most runs [°C]; `alike` : the conditions, as the listing writes
    them, that do not differ from the usual."""

    levels: Mapping[str, str]
    room_c: float | None
    alike: tuple[str, ...]

    def condition(self) -> ColumnElement[bool]:
        """Rows of runs that were made under the usual conditions."""
        same = Listed.conditions.in_(self.alike)
        if self.room_c is None:
            return same
        return same & Listed.room_c.between(self.room_c - SAME_AMBIENT_K, self.room_c + SAME_AMBIENT_K)


def factors_in(conditions: str) -> dict[str, str]:
    """Factors as a run states them, from what the listing keeps: its conditions in the core's order, the charger's
    kind last."""
    *stated, kind = json.loads(conditions)
    factors = {name: str(text) for name, text in zip(CONDITIONS, stated, strict=True) if text}
    return with_own_supply(factors, kind or "")


def usual(session: Session, *counting: ColumnElement[bool]) -> Usual:
    """The usual conditions of the runs that count: of all that stand in the list, void ones and spot checks left out,
    unless it is said which."""
    counting = counting or (Listed.void.is_(False), Listed.spot.is_(False))
    return while_unchanged(session, ("usual", in_words(counting)), lambda: _counted(session, counting))


def _counted(session: Session, counting: Sequence[ColumnElement[bool]]) -> Usual:
    query = select(Listed.conditions, func.count()).where(*counting).group_by(Listed.conditions)
    counted = [(text, factors_in(text), count) for text, count in session.execute(query)]
    levels = usual_levels((factors, count) for _, factors, count in counted)
    known = select(func.count(Listed.room_c)).where(*counting)
    rooms = session.scalar(known) or 0
    middle = select(Listed.room_c).where(*counting, Listed.room_c.is_not(None)).order_by(Listed.room_c)
    found = session.scalar(middle.offset(rooms // 2).limit(1)) if rooms else None
    room_c = None if found is None else usual_room(found)
    alike = tuple(text for text, factors, _ in counted if not unlike(factors, room_c, levels, room_c))
    return Usual(levels, room_c, alike)
