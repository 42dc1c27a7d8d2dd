"""A finding as one HTML file that needs no script and nothing from outside, and the same as a tagged PDF."""

import base64
import os
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from functools import lru_cache
from pathlib import Path
from typing import Any

from jinja2 import Environment, FileSystemLoader, StrictUndefined
from markupsafe import Markup

from ..drawings import draw
from ..drawings.letters import FONTS
from ..drawings.svg import clean
from .content import AUDIENCES, BEST_FOR, ReportIn, Telling
from .figures import block_drawing, pack_drawings

HERE = Path(__file__).parent
FACES = (
    ("Sofia Sans", 400, "sofia-sans-regular.ttf"), ("Sofia Sans", 700, "sofia-sans-bold.ttf"),
    ("Red Hat Mono", 400, "red-hat-mono-regular.ttf"), ("Red Hat Mono", 700, "red-hat-mono-bold.ttf"),
)  # fmt: skip
_LOCK = threading.Lock()


@lru_cache
def _environment() -> Environment:
    return Environment(
        loader=FileSystemLoader(HERE), autoescape=True, undefined=StrictUndefined, trim_blocks=True, lstrip_blocks=True,
        finalize=_readable,
    )  # fmt: skip


def _readable(value: Any) -> Any:
    """Text of people without signs of control and direction; what is marked up already as it stands."""
    return clean(value) if isinstance(value, str) and not isinstance(value, Markup) else value


@lru_cache
def _style() -> Markup:
    """The style with the fonts in it, so that nothing is asked from outside."""
    faces = [
        f"@font-face{{font-family:'{family}';font-weight:{weight};src:url(data:font/ttf;base64,"
        f"{base64.b64encode((FONTS / name).read_bytes()).decode()}) format('truetype')}}"
        for family, weight, name in FACES
    ]
    return Markup("\n".join([*faces, (HERE / "report.css").read_text(encoding="utf-8")]))


def page(made: ReportIn) -> str:
    """A finding as one HTML file: the same bytes for the same finding."""
    telling, draft, document = Telling(made), made.draft, made.document
    wanted = BEST_FOR[document.audience]
    blocks: list[dict[str, Any]] = []
    drawn = iter(made.subject.phones)
    for block in draft.blocks:
        if not block.rows:
            continue
        phone = next(drawn, None)
        blocks.append(
            {
                "head": f"{block.tier}: {block.phone}" if block.tier else block.phone, "where": block.where,
                "window": block.window, "wired": block.wired,
                "drawing": "" if phone is None else Markup(block_drawing(made.subject, phone)),
                "rows": [(r, told) for r in block.rows if (told := telling.one(r.verdict)) is not None],
                "best": telling.all([s for s in block.best if s.key.split("|")[0] in wanted]),
            }
        )  # fmt: skip
    claims = [(c, told) for c in draft.claims if (told := telling.one(c.sentence)) is not None]
    context = {
        "question": clean(document.question), "audience": AUDIENCES[document.audience], "state": draft.state,
        "drawn_at": made.drawn_at, "drawn_on": f"{made.drawn_at.day} {made.drawn_at:%B %Y}", "drawn_by": made.drawn_by,
        "published": document.published_at, "software": made.software, "changed": made.changed,
        "answer": telling.all(draft.answer), "blocks": blocks,
        "alone": [b for b in draft.blocks if not b.rows and b.alone], "packs": telling.all(draft.packs),
        "pack_drawings": [(label, Markup(svg)) for label, svg in pack_drawings(made.subject)],
        "claims": claims, "method": telling.all(draft.method), "not_tested": telling.all(draft.not_tested),
        "limits": telling.all(draft.limits), "next": telling.all(draft.next), "foreign": telling.all(draft.foreign),
        "cautions": telling.all(draft.cautions),
        "disclosed": [d for d in document.disclosed if d.got != "not stated" or d.note],
        "headings": made.headings, "rows": made.rows, "runs": made.runs, "seeds": made.seeds,
        "bars": Markup(draw(made.subject, "bars", ground=False)) if made.subject.phones else "",
        "notes": telling.notes.listed, "style": _style(), "engineer": document.audience == "engineer",
    }  # fmt: skip
    return _environment().get_template("report.html").render(context)


@contextmanager
def _dated(seconds: int) -> Iterator[None]:
    """The clock that libraries write into files stands at a moment: the same finding gives the same bytes."""
    before = os.environ.get("SOURCE_DATE_EPOCH")
    os.environ["SOURCE_DATE_EPOCH"] = str(seconds)
    try:
        yield
    finally:
        if before is None:
            del os.environ["SOURCE_DATE_EPOCH"]
        else:
            os.environ["SOURCE_DATE_EPOCH"] = before


def pdf(made: ReportIn) -> bytes:
    """The same as a tagged PDF: the same bytes for the same finding."""
    from weasyprint import HTML
    from weasyprint.text.fonts import FontConfiguration
    from weasyprint.urls import URLFetcher

    with _LOCK, _dated(int(made.drawn_at.timestamp())):
        # Nothing but what stands in the page itself is fetched.
        only_data = URLFetcher(allowed_protocols={"data"}, fail_on_errors=True)
        source = HTML(string=page(made), base_url=None, url_fetcher=only_data)
        written: bytes = source.write_pdf(font_config=FontConfiguration(), pdf_variant="pdf/ua-1", pdf_tags=True)
    return written
