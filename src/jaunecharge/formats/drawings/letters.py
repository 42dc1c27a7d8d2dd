"""Widths of text in the fonts that drawings are set in, so that it is cut and wrapped where it does not fit."""

from functools import lru_cache
from pathlib import Path

FONTS = Path(__file__).parents[1] / "fonts"
TEXT, READINGS = "Sofia Sans", "Red Hat Mono"
_FILES = {TEXT: "sofia-sans", READINGS: "red-hat-mono"}
_UNKNOWN = 0.6
MOST_LETTERS = 600
"""No line of a drawing holds more letters."""


def font_files() -> list[Path]:
    """All font files that ship with the application."""
    return sorted(FONTS.glob("*.ttf"))


@lru_cache
def _advances(family: str, bold: bool) -> tuple[dict[int, str], dict[str, float]]:
    from fontTools.ttLib import TTFont

    with TTFont(FONTS / f"{_FILES[family]}-{'bold' if bold else 'regular'}.ttf", lazy=True) as font:
        per_em = font["head"].unitsPerEm
        return dict(font.getBestCmap()), {name: advance / per_em for name, (advance, _) in font["hmtx"].metrics.items()}


def width(text: str, size: float, bold: bool = False, family: str = TEXT) -> float:
    """Width of a text [px] at a size [px]."""
    glyphs, advances = _advances(family, bold)
    return size * sum(advances.get(glyphs.get(ord(c), ""), _UNKNOWN) for c in text)


def cut(text: str, size: float, most: float, bold: bool = False, family: str = TEXT) -> str:
    """A text that fits, with … where it was cut."""
    if width(text[:MOST_LETTERS], size, bold, family) <= most and len(text) <= MOST_LETTERS:
        return text
    low, high = 0, min(len(text), MOST_LETTERS)
    while low < high:
        middle = (low + high + 1) // 2
        fits = width(text[:middle] + "…", size, bold, family) <= most
        low, high = (middle, high) if fits else (low, middle - 1)
    return text[:low].rstrip() + "…"


def wrapped(text: str, size: float, most: float, lines: int, bold: bool = False) -> list[str]:
    """A text in lines that fit; what does not fit into them is cut."""
    rows: list[str] = []
    for word in text.split():
        if rows and width(f"{rows[-1]} {word}", size, bold) <= most:
            rows[-1] += f" {word}"
        else:
            rows.append(word)
    if len(rows) > lines:
        rows = [*rows[: lines - 1], " ".join(rows[lines - 1 :])]
    return [cut(r, size, most, bold) for r in rows]
