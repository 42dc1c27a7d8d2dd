"""SVG put together: elements with numbers rounded alike, a text alternative, and the picture as PNG."""

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from xml.etree import ElementTree as Xml

from . import letters
from .scale import GROUND, INK, SOFT

SPACE = "http://www.w3.org/2000/svg"
_UNFIT = re.compile("[\x00-\x08\x0b-\x1f\x7f\u200e\u200f\u202a-\u202e\u2066-\u2069\ud800-\udfff\ufffe\uffff]")
Attribute = str | float | int | None


def number(value: float) -> str:
    """A coordinate: two decimals, none where they say nothing."""
    text = f"{value:.2f}".rstrip("0").rstrip(".")
    return "0" if text in {"-0", ""} else text


def clean(text: str) -> str:
    """Text that XML can hold and that is read from left to right: control and direction signs are left out."""
    return _UNFIT.sub("", text)


@dataclass
class Drawing:
    """A drawing in the making. title, about : its text alternative; ground : whether it has a background."""

    wide: float
    high: float
    title: str
    about: str = ""
    ground: bool = True
    root: Xml.Element = field(init=False)
    count: int = 0

    def __post_init__(self) -> None:
        size = f"0 0 {number(self.wide)} {number(self.high)}"
        self.root = Xml.Element(
            "svg", {
                "xmlns": SPACE, "viewBox": size, "width": number(self.wide), "height": number(self.high), "role": "img",
                "aria-labelledby": "title desc",
            },
        )  # fmt: skip
        for tag, text in (("title", self.title), ("desc", self.about)):
            Xml.SubElement(self.root, tag, {"id": tag}).text = clean(text)
        if self.ground:
            self.put("rect", width=self.wide, height=self.high, fill=GROUND)

    def put(self, tag: str, into: Xml.Element | None = None, text: str = "", **attributes: Attribute) -> Xml.Element:
        """An element; underscores of attributes stand for hyphens."""
        named = {
            k.rstrip("_").replace("_", "-"): v if isinstance(v, str) else number(float(v))
            for k, v in attributes.items()
            if v is not None and v != ""
        }
        made = Xml.SubElement(self.root if into is None else into, tag, named)
        if text:
            made.text = clean(text)
        return made

    def line(
        self, x1: float, y1: float, x2: float, y2: float, colour: str = INK, wide: float = 1.0, dash: str = ""
    ) -> None:
        """A straight line."""
        self.put("line", x1=x1, y1=y1, x2=x2, y2=y2, stroke=colour, stroke_width=wide, stroke_dasharray=dash)

    def text(
        self, x: float, y: float, words: str, size: float = 16.0, bold: bool = False, colour: str = INK,
        anchor: str = "", family: str = letters.TEXT, most: float | None = None,
    ) -> None:  # fmt: skip
        """A line of text, cut where it would be wider than `most`."""
        shown = clean(words) if most is None else letters.cut(clean(words), size, most, bold, family)
        self.put(
            "text", text=shown, x=x, y=y, font_family=f"{family}, sans-serif" if family == letters.TEXT else family,
            font_size=size, font_weight="700" if bold else "", fill=colour, text_anchor=anchor,
        )  # fmt: skip

    def soft(
        self, x: float, y: float, words: str, size: float = 13.0, anchor: str = "", most: float | None = None
    ) -> None:
        """A line of small text in soft ink."""
        self.text(x, y, words, size, colour=SOFT, anchor=anchor, most=most)

    def name(self, what: str) -> str:
        """An id that no other element has."""
        self.count += 1
        return f"{what}{self.count}"

    def written(self) -> str:
        """The drawing as it is kept."""
        Xml.indent(self.root, " ")
        return Xml.tostring(self.root, encoding="unicode") + "\n"


def paths(points: Iterator[tuple[float, float]]) -> str:
    """A line through points."""
    return "M" + "L".join(f"{number(x)} {number(y)}" for x, y in points)


def png(svg: str, times: int = 1) -> bytes:
    """A drawing as PNG, so many times as large, in the fonts that ship with the application."""
    import resvg_py

    fonts = [str(f) for f in letters.font_files()]
    return bytes(
        resvg_py.svg_to_bytes(
            svg_string=svg, zoom=float(times), skip_system_fonts=True, font_files=fonts, font_family=letters.TEXT,
            sans_serif_family=letters.TEXT, monospace_family=letters.READINGS,
        )
    )  # fmt: skip
