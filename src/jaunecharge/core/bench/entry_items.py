"""Items of the entry line: what a person can enter on the bench, and how each is said."""

from dataclasses import dataclass
from typing import Literal

from ..units import fahrenheit, from_fahrenheit

Outcome = Literal["complete", "stopped early", "void"]
Kind = Literal[
    "percent", "celsius", "meter", "phone watts", "socket watts", "pack", "came back", "note", "light", "charger",
    "no charge", "placed", "not placed", "fix", "undo", "end",
]  # fmt: skip

POSITIONS = ("back", "front", "contact", "pad", "room")
DECIMALS = 9
SAID_UNIT = {"%": "%", "c": "°C", "f": "°F", "v": "V", "a": "A", "w": "W"}
WATTS_OF: dict[str, Kind] = {"phone": "phone watts", "socket": "socket watts"}
"""Watts of other points than the meter, by the word behind the figure."""

FIXABLE = frozenset({"percent", "celsius", "meter", *WATTS_OF.values(), "pack", "note"})


@dataclass(frozen=True)
class EntryItem:
    """One thing that was seen or done: its kind, the figure and its unit, the place or the words."""

    kind: Kind
    value: float | None = None
    unit: str = ""
    text: str = ""

    @property
    def celsius(self) -> float | None:
        """A temperature [°C], whatever it was typed in."""
        if self.kind != "celsius" or self.value is None:
            return None
        return from_fahrenheit(self.value) if self.unit == "f" else self.value


@dataclass(frozen=True)
class Line:
    """A line understood: the lane, what is seen there, and when (`14:30`; `-5` min from now; `+30` min after the
    placing; now where empty)."""

    lane: str
    items: tuple[EntryItem, ...]
    at: str = ""


@dataclass(frozen=True)
class Unclear:
    """A line that is not understood, or not yet complete: why, and what would be."""

    why: str
    mend: str


def corrected_by(item: EntryItem) -> EntryItem:
    """Value that a correction puts in the place of an entry."""
    if item.text.startswith("note "):
        return EntryItem("note", text=item.text.removeprefix("note "))
    if item.text == "pack" or item.text.startswith("pack "):
        return EntryItem("pack", item.value, item.unit, item.text.removeprefix("pack").strip())
    if item.unit in {"c", "f"}:
        return EntryItem("celsius", item.value, item.unit, item.text or "back")
    if item.text in WATTS_OF:
        return EntryItem(WATTS_OF[item.text], item.value, item.unit)
    return EntryItem("percent" if item.unit == "%" else "meter", item.value, item.unit)


def plain_figure(value: float) -> str:
    """A figure without needless digits."""
    return f"{value:.{DECIMALS}f}".rstrip("0").rstrip(".")


def of_the_pack(item: EntryItem) -> EntryItem:
    """An item on a lane where only a pack is: its percentages are the pack's."""
    if item.kind == "percent":
        return EntryItem("pack", item.value, "%")
    if item.kind == "fix" and item.unit == "%" and not item.text:
        return EntryItem("fix", item.value, "%", "pack")
    return item


def pack_level_text(item: EntryItem) -> str:
    """The level of a pack as `packs.typed_level` takes it."""
    if item.unit == "%":
        return plain_figure(item.value or 0.0)
    return f"{item.value:.0f}/{item.text}" if item.text else f"{item.value:.0f} lamps"


def said(item: EntryItem, in_fahrenheit: bool = False) -> str:
    """One item in words, for the echo and the list of last entries."""
    match item.kind:
        case "percent":
            return f"battery {item.value:g} %"
        case "celsius":
            celsius = item.celsius or 0.0
            figure = f"{fahrenheit(celsius):.1f} °F" if in_fahrenheit else f"{celsius:.1f} °C"
            typed = f" (typed {item.value:g} °F)" if item.unit == "f" and not in_fahrenheit else ""
            return f"{item.text} {figure}{typed}"
        case "meter":
            return f"{item.value:g} {SAID_UNIT[item.unit]}"
        case "phone watts":
            return f"phone says {item.value:g} W"
        case "socket watts":
            return f"at the socket {item.value:g} W"
        case "light":
            return f"charger's light {item.text}"
        case "pack" if item.unit == "%":
            return f"pack {item.value:g} %"
        case "pack":
            return f"{item.value:.0f}{' of ' + item.text if item.text else ''} lamps of the pack"
        case "came back":
            return f"the output: {item.text}"
        case "charger":
            return "off the charger" if item.text == "off" else "on the charger again"
        case "no charge":
            return "does not charge"
        case "placed":
            return "phone placed: t = 0"
        case "not placed":
            return "not placed yet: the placing is taken back"
        case "undo":
            return "undo the last entry"
        case "fix":
            return f"correct the last entry to {said(corrected_by(item), in_fahrenheit)}"
        case "end":
            return f"end the lane, {item.unit}" + (f": {item.text}" if item.text else "")
        case _:
            return f"note: {item.text}"
