"""Fields of the table that nobody ran yet: why a run of one would tell nothing, and a plan that fills them."""

import json
import math
import re
import threading
import time
from collections.abc import Hashable, Iterator, Mapping, Sequence
from functools import lru_cache

from cachetools import LRUCache
from sqlalchemy.orm import Session

from ..core.errors import CannotRead
from ..core.factors import WIRED
from ..core.kit import transmits
from ..core.plan import READY, PlanCell, cells_of
from ..documents.choice import MOST_PICKED, PickedCharger, PlanChoice
from . import models as m
from .kit import item_of, shelf
from .plan.work import choice_of

Wanted = Sequence[tuple[str, str]]
"""Phone and charger, the place behind it, of each field."""

AT_ONCE = 50
"""Fields of a phone that are looked at before the clock is."""

AROUND = frozenset({"adapter", "cable", "case"})
"""Kinds of kit that any reason may rest on."""

_reasons: LRUCache[Hashable, str] = LRUCache(100_000)
_lock = threading.Lock()


def plan_draft(session: Session, wanted: Wanted, usual: Mapping[str, str]) -> tuple[str, PlanChoice]:
    """A question and a matrix that fill these fields and no others, with the usual adapter.

    Raises
    ------
    CannotRead
        If a phone or a charger of them is not on the shelf, or they are more than a plan takes.
    """
    on = _Shelf(session)
    known, missing = on.holding(wanted)
    if missing:
        raise CannotRead(f"not on the shelf: {', '.join(missing)}", "add them there first", file="fields")
    choice = on.choice(known, usual)
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


def why_pointless(
    session: Session, wanted: Wanted, usual: Mapping[str, str], seconds: float = math.inf
) -> tuple[dict[tuple[str, str], str], int]:
    """Why a run of a field would tell nothing, and how many fields are left, where that takes longer; fields without a
    reason, or without kit on the shelf, are left out. What was found is remembered as long as the kit is the same."""
    on, until = _Shelf(session), time.monotonic() + seconds
    known, _ = on.holding(wanted)
    marks = {pair: on.mark(pair, usual) for pair in known}
    with _lock:
        reasons = {pair: _reasons[mark] for pair, mark in marks.items() if mark in _reasons}
    unknown: dict[str, list[str]] = {}
    for phone, charger in (pair for pair in known if pair not in reasons):
        unknown.setdefault(phone, []).append(charger)
    left = 0
    for phone, some in ((p, some) for p, chargers in unknown.items() for some in _some(chargers)):
        if time.monotonic() > until:
            left += len(some)
            continue
        cells = _cells(session, on.choice([(phone, charger) for charger in some], usual))
        found = {c.row.label.casefold(): c.pointless for c in cells}
        with _lock:
            for charger in some:
                reasons[phone, charger] = _reasons[marks[phone, charger]] = found.get(charger.casefold(), "")
    return {pair: why for pair, why in reasons.items() if why}, left


def _some(names: Sequence[str]) -> Iterator[Sequence[str]]:
    for first in range(0, len(names), AT_ONCE):
        yield names[first : first + AT_ONCE]


def _cells(session: Session, choice: PlanChoice) -> list[PlanCell]:
    return cells_of(choice_of(session, choice), READY[0])


def _state(piece: m.Kit) -> str:
    return f"{piece.id} {piece.label} {json.dumps(piece.facts, sort_keys=True)}"


class _Shelf:
    """Kit by its label."""

    def __init__(self, session: Session) -> None:
        pieces = shelf(session)
        self._around = " ".join(_state(p) for p in pieces if p.kind in AROUND)
        self._by_label = {(p.kind, p.label.casefold()): p for p in pieces}
        self._phones = {p.label.casefold(): _state(p) for p in pieces if p.kind == "phone"}
        self._chargers = {p.label.casefold(): p for p in pieces if transmits(item_of(p))}
        self._charger = lru_cache(None)(self._charger_of)

    def holding(self, wanted: Wanted) -> tuple[list[tuple[str, str]], list[str]]:
        """Fields whose kit lies on the shelf, and what is missing there."""
        named, missing = [], []
        for phone, charger in wanted:
            if phone.casefold() not in self._phones:
                missing.append(phone)
            elif charger.casefold() != WIRED and self._charger(charger) is None:
                missing.append(charger)
            else:
                named.append((phone, charger))
        return named, list(dict.fromkeys(missing))

    def _charger_of(self, name: str) -> tuple[m.Kit, str, str] | None:
        """The charger of a name, its place where one stands behind it, and its state."""
        for end in (len(name), *(comma.start() for comma in re.finditer(", ", name))):
            if (piece := self._chargers.get(name[:end].casefold())) is not None:
                return piece, name[end + 2 :], _state(piece) + name[end:]
        return None

    def mark(self, pair: tuple[str, str], usual: Mapping[str, str]) -> Hashable:
        """All that the reason of a field rests on: it changes with the kit."""
        found = self._charger(pair[1])
        charger = WIRED if found is None else found[2]
        return self._phones[pair[0].casefold()], charger, self._around, usual.get("adapter", ""), usual.get("cable", "")

    def choice(self, known: Wanted, usual: Mapping[str, str]) -> PlanChoice:
        """A matrix of these fields, with the usual adapter and cable."""
        phones, chargers = dict.fromkeys(p for p, _ in known), dict.fromkeys(c for _, c in known)
        for names, what in ((phones, "phones"), (chargers, "chargers")):
            if len(names) > MOST_PICKED:
                more = f"{len(names)} {what} are more than one plan takes"
                raise CannotRead(more, f"pick fields of {MOST_PICKED} at most", file="fields")
        adapter = self._by_label.get(("adapter", usual.get("adapter", "").casefold()))
        cable = self._by_label.get(("cable", usual.get("cable", "").casefold()))
        picked = [self._charger(name) for name in chargers if name.casefold() != WIRED]
        return PlanChoice(
            phones=[self._by_label["phone", p.casefold()].id for p in phones],
            chargers=[PickedCharger(id=found[0].id, place=found[1]) for found in picked if found is not None],
            wired=any(name.casefold() == WIRED for name in chargers),
            adapter=None if adapter is None else adapter.id,
            cable=None if cable is None else cable.id,
        )
