"""Words looked for in lists: an index finds the lines of seldom ones at once, common ones are met soon from line to
line."""

import re
import uuid
from dataclasses import dataclass, replace
from math import inf

from sqlalchemy import ColumnElement, and_, case, func, select, text
from sqlalchemy.orm import Session

from .models import Listed
from .unchanged import while_unchanged

MOST_WORDS = 20
SAMPLED = 600
SELDOM, INDEXED = 0.02, 0.3
"""Share of the lines in which words together are seldom; in which an index still finds one faster than looking."""

FEW = 300
LEAST_INDEXED = 3
"""Letters of a word that the index knows."""

LINES = text("SELECT reltuples FROM pg_class WHERE oid = 'listing'::regclass")
"""About how many lines there are; -1 where nobody has counted yet."""


def each_of(words: str) -> tuple[str, ...]:
    """The words of a text."""
    return tuple(dict.fromkeys(words.lower().split()[:MOST_WORDS]))


@dataclass(frozen=True)
class Sought:
    """Words that all must stand in a line, the one that most lines lack first; `indexed` : those that an index finds;
    `share`, `about` : of the lines that hold them all, and how many these are; `lines` : they, where they are few."""

    words: tuple[str, ...] = ()
    indexed: frozenset[str] = frozenset()
    share: float = 1.0
    about: float = inf
    lines: tuple[uuid.UUID, ...] | None = None

    @property
    def found_at_once(self) -> bool:
        """Whether all lines that hold them are had sooner than some of them are met in order."""
        return self.lines is not None or (self.share <= SELDOM and bool(self.indexed))

    def taken_from_all(self, most: int) -> bool:
        """Whether the newest lines, so many, are had sooner from all that hold the words than met in order."""
        return self.lines is not None or bool(self.indexed) or self.about <= 2.0 * most

    def conditions(self, of_all: bool) -> list[ColumnElement[bool]]:
        """Conditions of a line; `of_all` : of all lines at once, by the index of words where that helps, or else of one
        line after the other in some order, until there are enough."""
        if self.lines is not None:
            return [Listed.run_id.in_(self.lines)]
        if of_all:
            return [Listed.words.like(f"%{_plain(w)}%") if w in self.indexed else _holds(w) for w in self.words]
        # The database knows nothing of how common they are: as one condition it takes them for half of the lines.
        return [func.coalesce(and_(*map(_holds, self.words)), False)] if self.words else []


def sought(session: Session, words: str) -> Sought:
    """Words, and how many lines hold them by a sample."""
    each = each_of(words)
    return while_unchanged(session, ("sought", each), lambda: _sampled(session, each)) if each else Sought()


def _sampled(session: Session, each: tuple[str, ...]) -> Sought:
    number = session.scalar(LINES) or 0.0
    percent = min(100.0, 100.0 * SAMPLED / number) if number > 0 else 100.0
    some = Listed.__table__.tablesample(func.system(percent), seed=text("0"))
    hold = [func.strpos(some.c.words, word) > 0 for word in each]
    counts = [func.count(case((held, 1))) for held in (and_(*hold), *hold)]
    of, *found = session.execute(select(func.count(), *counts).select_from(some)).one()
    together, *shares = (count / of if of else 0.0 for count in found)
    by_share = dict(sorted(zip(each, shares, strict=True), key=lambda item: item[1]))
    indexed = {word for word, share in by_share.items() if share <= INDEXED and len(word) >= LEAST_INDEXED}
    known = Sought(tuple(by_share), frozenset(indexed), together, together * number)
    if together > SELDOM:
        return known
    lines = tuple(session.scalars(select(Listed.run_id).where(*known.conditions(True)).limit(FEW + 1)))
    return replace(known, lines=lines) if len(lines) <= FEW else known


def _holds(word: str) -> ColumnElement[bool]:
    return func.strpos(Listed.words, word) > 0


def _plain(word: str) -> str:
    """A word in a pattern, where its signs mean themselves."""
    return re.sub(r"([\\%_])", r"\\\1", word)
