"""Content of a report: sections of sentences and tables, each figure numbered for the list of workings at the end."""

import datetime as dt
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from markupsafe import Markup, escape

from ...core.findings import Audience
from ...documents.finding import DraftDocument, FindingDocument, SentenceDocument
from ..drawings import Subject
from ..drawings.svg import clean


@dataclass(frozen=True)
class Wording:
    """Words of a sentence as they are to be read: by whom they were edited, and what they stand for."""

    words: str
    by: str = ""
    first: str = ""


@dataclass(frozen=True)
class UsedRun:
    """A run that a report rests on: when, by which method and meter, the files that it was read from with their
    SHA-256, the reader, and what was corrected."""

    id: str
    label: str
    began: str
    method: str
    files: tuple[tuple[str, str], ...]
    reader: int
    corrections: int
    rehearsed: str = ""


@dataclass(frozen=True)
class ReportIn:
    """Material of a report. changed : what is out of date; rows, headings : the table of figures; runs : those
    that it rests on; seeds : of the plan's order and the like."""

    document: FindingDocument
    draft: DraftDocument
    wordings: Mapping[str, Wording]
    subject: Subject
    drawn_at: dt.datetime
    drawn_by: str
    software: str
    changed: Sequence[str] = ()
    headings: Sequence[str] = ()
    rows: Sequence[Sequence[str]] = ()
    runs: Sequence[UsedRun] = ()
    seeds: Sequence[str] = ()


@dataclass
class Note:
    """A figure of the report with its working, by its number."""

    number: int
    text: str
    interval: str
    how: str
    of: str


@dataclass
class Notes:
    """Figures of a report, numbered as they come."""

    labels: Mapping[str, str]
    listed: list[Note] = field(default_factory=list)

    def add(self, sentence: SentenceDocument, text: str) -> int:
        """The number of a figure of a sentence."""
        figure = next(f for f in sentence.figures if f.text == text)
        interval = ""
        if figure.low is not None and figure.high is not None:
            interval = f"{figure.low:.1f} to {figure.high:.1f} {figure.unit}"
        names = [self.labels.get(k, k) for k in figure.of]
        shown = ", ".join(names[:6]) + (f" and {len(names) - 6} more" if len(names) > 6 else "")
        note = Note(len(self.listed) + 1, figure.text, interval, figure.how, shown)
        self.listed.append(note)
        return note.number


_PIECES = re.compile(r"(\[[^\[\]]*\]|\*)")


def marked_up(words: str, sentence: SentenceDocument, notes: Notes) -> Markup:
    """Words as HTML: strong words bold, each figure linked to its working."""
    parts: list[Markup] = []
    bold = False
    known = {f.text for f in sentence.figures}
    for piece in _PIECES.split(clean(words)):
        if piece == "*":
            parts.append(Markup("</b>" if bold else "<b>"))
            bold = not bold
        elif piece.startswith("[") and piece[1:-1] in known:
            number = notes.add(sentence, piece[1:-1])
            parts.append(Markup('<a class="figure" id="u{0}" href="#f{0}">{1}</a>').format(number, piece[1:-1]))
        else:
            parts.append(escape(piece))
    if bold:
        parts.append(Markup("</b>"))
    return Markup("").join(parts)


@dataclass(frozen=True)
class Told:
    """A sentence of a report."""

    text: Markup
    basis: str
    by: str
    first: str


class Telling:
    """Sentences of a report as they are to be read; those that were left out are not."""

    def __init__(self, made: ReportIn) -> None:
        self._made = made
        self._hidden = set(made.document.hidden)
        self.notes = Notes({r.id: r.label for r in made.runs})

    def one(self, sentence: SentenceDocument) -> Told | None:
        """A sentence, or None where it is left out."""
        if sentence.key in self._hidden:
            return None
        wording = self._made.wordings.get(sentence.key) or Wording(sentence.words)
        first = re.sub(r"[\[\]*]", "", wording.first)
        return Told(marked_up(wording.words, sentence, self.notes), clean(sentence.basis), wording.by, first)

    def all(self, sentences: Sequence[SentenceDocument]) -> list[Told]:
        """Those of several that are not left out."""
        return [told for s in sentences if (told := self.one(s)) is not None]


AUDIENCES: Mapping[Audience, str] = {
    "buyer": "for a buyer", "association": "for an association that lends out chargers", "engineer": "for an engineer",
}  # fmt: skip
BEST_FOR: Mapping[Audience, frozenset[str]] = {
    "buyer": frozenset({"fastest", "coolest", "cheapest"}),
    "association": frozenset({"fastest", "coolest", "thriftiest", "small battery", "cheapest"}),
    "engineer": frozenset({"fastest", "coolest", "thriftiest", "small battery", "cheapest"}),
}
"""Purposes that are told to whom."""
