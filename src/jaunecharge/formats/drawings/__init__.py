"""Drawings of a finding for print, slides and videos: as SVG, and from that as PNG."""

from collections.abc import Callable
from typing import Literal, get_args

from .canvas import Form
from .curves import curves, scatter
from .flows import chains, walks
from .pictures import RACE_AT, bars, race, ribbons, table
from .subject import Subject
from .svg import png

Picture = Literal[
    "ribbons", "bars", "battery", "power", "temperature", "heat", "price", "table", "race", "walk", "chain"
]
PICTURES: tuple[Picture, ...] = get_args(Picture)

__all__ = ["PICTURES", "RACE_AT", "Form", "Picture", "Subject", "draw", "png"]


def draw(
    subject: Subject, picture: Picture, form: Form = "wide", ground: bool = True, phone: int = 0, minute: int = 30
) -> str:
    """A picture of a finding as SVG.

    Parameters
    ----------
    picture : Picture
    form : "wide" (16:9) or "square"
    ground : bool
        Whether it has a background.
    phone : int
        Which phone's curves; of the others all phones are shown.
    minute : int
        Of a frame of the race.
    """
    made: dict[Picture, Callable[[], str]] = {
        "ribbons": lambda: ribbons(subject, form, ground),
        "bars": lambda: bars(subject, form, ground),
        "battery": lambda: curves(subject, form, "battery", phone, ground),
        "power": lambda: curves(subject, form, "power", phone, ground),
        "temperature": lambda: curves(subject, form, "temperature", phone, ground),
        "heat": lambda: scatter(subject, form, "heat", ground),
        "price": lambda: scatter(subject, form, "price", ground),
        "table": lambda: table(subject, form, ground),
        "race": lambda: race(subject, form, minute, ground),
        "walk": lambda: walks(subject, form, ground),
        "chain": lambda: chains(subject, form, ground),
    }
    return made[picture]()
