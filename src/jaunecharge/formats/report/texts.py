"""A finding as plain text to read out or to paste, short and long, and as a post in Markdown."""

from collections.abc import Sequence

from ...documents.finding import SentenceDocument
from ..drawings.svg import clean
from .content import ReportIn
from .tables import TableRow, markdown_line, spoken, table_markdown


def _words(made: ReportIn, sentences: Sequence[SentenceDocument]) -> list[str]:
    hidden = set(made.document.hidden)
    return [
        made.wordings[s.key].words if s.key in made.wordings else s.words for s in sentences if s.key not in hidden
    ]  # fmt: skip


def short_text(made: ReportIn) -> str:
    """Question, answer, and what is out of date or most to be careful about: half a minute to read out."""
    lines = [clean(made.document.question), ""]
    if made.changed:
        lines += [f"Out of date: {clean('; '.join(made.changed))}.", ""]
    lines += [spoken(w) for w in _words(made, made.draft.answer)]
    unmet = [c for c in made.draft.claims if c.found == "not supported" and c.sentence.key not in made.document.hidden]
    lines += [
        f"Not supported: {clean(c.about)}, “{clean(c.claim)}”{f' on {clean(c.on)}' if c.on else ''}." for c in unmet
    ]
    return "\n".join(lines) + "\n"


def _sections(made: ReportIn) -> list[tuple[str, list[str]]]:
    draft = made.draft
    verdicts = []
    for block in draft.blocks:
        for row in block.rows:
            told = _words(made, [row.verdict])
            verdicts += [f"{block.phone}, *{row.label}*, place {row.place}: {w}" for w in told]
    claims = []
    for c in draft.claims:
        for w in _words(made, [c.sentence]):
            on = f" on {c.on}" if c.on else ""
            claims.append(f"*{c.about}*, “{c.claim}”{on}: *{c.found}*. {w}")
    return [
        ("Chargers by phone", verdicts), ("Packs", _words(made, draft.packs)), ("Claims", claims),
        ("Method", _words(made, draft.method)),
        ("What was not shown", _words(made, [*draft.not_tested, *draft.next, *draft.limits])),
        ("Published by others", _words(made, draft.foreign)), ("Cautions", _words(made, draft.cautions)),
    ]  # fmt: skip


def long_text(made: ReportIn) -> str:
    """The whole finding in sentences."""
    lines = [short_text(made)]
    for head, words in _sections(made):
        if words:
            lines += [head, *(spoken(w) for w in words), ""]
    return "\n".join([*lines, f"{clean(made.software)}, drafted {made.drawn_at:%Y-%m-%d}."]) + "\n"


def markdown(made: ReportIn, rows: Sequence[TableRow]) -> str:
    """The finding as a post in Markdown, with its table."""
    lines = [f"# {markdown_line(made.document.question)}", ""]
    if made.changed:
        lines += [f"**Out of date:** {markdown_line('; '.join(made.changed))}.", ""]
    lines += [x for w in _words(made, made.draft.answer) for x in (f"{markdown_line(w)}.", "")]
    if rows:
        lines += [table_markdown(rows)]
    for head, words in _sections(made):
        if words:
            lines += [f"## {head}", "", *(f"- {markdown_line(w)}." for w in words), ""]
    return "\n".join([*lines, f"{markdown_line(made.software)}, drafted {made.drawn_at:%Y-%m-%d}."]) + "\n"
