"""The canvas of a picture: 16:9 or square, its head and foot, the axis of time."""

from dataclasses import dataclass
from typing import Literal

from . import letters
from .scale import LINE, SOFT, time_steps
from .svg import Drawing

Form = Literal["wide", "square"]
SIZES: dict[Form, tuple[float, float]] = {"wide": (1280.0, 720.0), "square": (1080.0, 1080.0)}
EDGE, HEAD_SIZE, FOOT = 48.0, 30.0, 34.0


@dataclass
class Canvas:
    """A drawing with its head and foot put in, and the room that is left between them [px]."""

    drawing: Drawing
    left: float
    right: float
    top: float
    bottom: float

    @property
    def wide(self) -> float:
        return self.right - self.left

    @property
    def high(self) -> float:
        return self.bottom - self.top


def canvas(form: Form, head: str, under: str, foot: str, about: str, ground: bool = True) -> Canvas:
    """A canvas of a form.

    Parameters
    ----------
    head, under, foot : str
        The question, one line under it, one line at the foot.
    about : str
        What the picture shows, in words: its text alternative.
    ground : bool
        Whether it has a background.
    """
    wide, high = SIZES[form]
    drawing = Drawing(wide, high, head, about, ground)
    y = EDGE + HEAD_SIZE * 0.6
    for row in letters.wrapped(head, HEAD_SIZE, wide - 2 * EDGE, 2 if form == "wide" else 3, bold=True):
        drawing.text(EDGE, y, row, HEAD_SIZE, bold=True)
        y += HEAD_SIZE * 1.2
    if under:
        drawing.soft(EDGE, y, under, 18.0, most=wide - 2 * EDGE)
        y += 26.0
    drawing.soft(EDGE, high - FOOT + 6.0, foot, 14.0, most=wide - 2 * EDGE)
    return Canvas(drawing, EDGE, wide - EDGE, y + 4.0, high - FOOT - 22.0)


def clock(minutes: float) -> str:
    """A moment for an axis: 0:00, 1:30."""
    whole = round(minutes)
    return f"{whole // 60}:{whole % 60:02d}"


def time_axis(drawing: Drawing, left: float, right: float, top: float, bottom: float, minutes: float) -> None:
    """Hairlines at round minutes from top to bottom, their times under them."""
    step = time_steps(minutes, 9)
    for n in range(int(minutes // step) + 1):
        x = left + n * step / minutes * (right - left)
        drawing.line(x, top, x, bottom, LINE)
        drawing.text(x, bottom + 18.0, clock(n * step), 14.0, colour=SOFT, anchor="middle")
