"""Small drawings within a report: the ribbons of one phone, the walk of one pack."""

from ...core.wording import plain
from ..drawings import Subject
from ..drawings.band import Frame, ribbon
from ..drawings.canvas import time_axis
from ..drawings.flows import walk_of
from ..drawings.pictures import row_said
from ..drawings.subject import DrawnPhone
from ..drawings.svg import Drawing

WIDE, ROW, LABEL = 900.0, 52.0, 170.0


def block_drawing(subject: Subject, phone: DrawnPhone) -> str:
    """The ribbons of the chargers of a phone, on the scale that all phones of the finding share."""
    high = ROW * len(phone.rows) + 34.0
    about = "; ".join(row_said(r, phone.window) for r in phone.rows)
    drawing = Drawing(WIDE, high, f"Ribbons: {phone.head}", plain(about), ground=False)
    left, right = LABEL, WIDE - 8.0
    time_axis(drawing, left, right, 4.0, high - 26.0, subject.minutes)
    for n, row in enumerate(phone.rows):
        middle = n * ROW + ROW / 2.0 + 7.0
        drawing.text(0.0, middle + 5.0, row.label, 15.0, most=LABEL - 8.0)
        ribbon(drawing, row.ribbon, Frame(left, right - left, subject.minutes, middle, 14.0, subject.full_watts))
    return _embedded(drawing, f"b{subject.phones.index(phone)}")


def pack_drawings(subject: Subject) -> list[tuple[str, str]]:
    """The walk of each pack, by its label."""
    most = max([1.0, *(s.wh or 0.0 for p in subject.packs for s in p.stages)])
    drawn = []
    for n, pack in enumerate(p for p in subject.packs if p.stages):
        drawing = Drawing(WIDE, 130.0, f"Energy of {pack.label}", "", ground=False)
        walk_of(drawing, pack, (0.0, WIDE), 20.0, 106.0, most)
        drawn.append((pack.label, _embedded(drawing, f"p{n}")))
    return drawn


def _embedded(drawing: Drawing, prefix: str) -> str:
    """A drawing within a page: its ids are those of no other drawing there."""
    text = drawing.written()
    for name in ("title", "desc", *(f"heat{n}" for n in range(drawing.count, 0, -1))):
        text = text.replace(f'id="{name}"', f'id="{prefix}{name}"').replace(f"url(#{name})", f"url(#{prefix}{name})")
    return text.replace('aria-labelledby="title desc"', f'aria-labelledby="{prefix}title {prefix}desc"')
