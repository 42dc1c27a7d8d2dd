"""Makes the fonts of reports and drawings from those of the pages: one weight a file, all scripts in one, as TTF.

Run by hand when the pages' fonts change: python tools/fonts.py
"""

import shutil
import tempfile
from pathlib import Path

from fontTools.merge import Merger
from fontTools.ttLib import TTFont
from fontTools.varLib.instancer import instantiateVariableFont

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "web" / "node_modules" / "@fontsource-variable"
TARGET = ROOT / "src" / "jaunecharge" / "formats" / "fonts"
FAMILIES = {
    "Sofia Sans": ("sofia-sans", ("latin", "latin-ext", "greek", "cyrillic")),
    "Red Hat Mono": ("red-hat-mono", ("latin", "latin-ext")),
}
WEIGHTS = {"Regular": 400, "Bold": 700}
EPOCH = 3_600_000_000
"""Seconds since 1904 that stand in every file: the same input gives the same bytes."""


def main() -> None:
    """Write a file a family and weight, and the licence of each family."""
    TARGET.mkdir(exist_ok=True)
    for family, (folder, scripts) in FAMILIES.items():
        shutil.copy(SOURCE / folder / "LICENSE", TARGET / f"{folder}.LICENSE")
        for name, weight in WEIGHTS.items():
            with tempfile.TemporaryDirectory() as place:
                parts = []
                for script in scripts:
                    font = TTFont(SOURCE / folder / "files" / f"{folder}-{script}-wght-normal.woff2")
                    limits = {"wght": min(weight, next(a.maxValue for a in font["fvar"].axes if a.axisTag == "wght"))}
                    single = instantiateVariableFont(font, limits, inplace=False)
                    single.flavor = None
                    for table in ("GSUB", "GPOS", "GDEF", "STAT", "DSIG"):
                        if table in single:
                            del single[table]
                    parts.append(f"{place}/{script}.ttf")
                    single.save(parts[-1])
                merged = Merger().merge(parts)
            _name(merged, family, name, weight)
            merged.save(TARGET / f"{folder}-{name.lower()}.ttf")


def _name(font: TTFont, family: str, name: str, weight: int) -> None:
    font.recalcTimestamp = False
    font["head"].created = font["head"].modified = EPOCH
    font["head"].macStyle = 1 if name == "Bold" else 0
    font["OS/2"].usWeightClass = weight
    font["OS/2"].fsSelection = 0x20 if name == "Bold" else 0x40
    texts = {1: family, 2: name, 4: f"{family} {name}", 6: f"{family}-{name}".replace(" ", ""), 16: family, 17: name}
    for record in list(font["name"].names):
        if record.nameID in {3, 21, 22, 25}:
            font["name"].removeNames(record.nameID)
    for key, text in texts.items():
        font["name"].setName(text, key, 3, 1, 0x409)


if __name__ == "__main__":
    main()
