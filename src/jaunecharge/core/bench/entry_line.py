"""The entry line of the bench: what a person types with a phone in the other hand, understood or asked about.

A line is a lane and what is seen there: `a 47`, `b 41.2c pad`, `c off`, `a 9,02v 1,97a`. The lane may be left out
where only one is open. `GRAMMAR` is the help, and each line of it is an example that is parsed in the tests.
"""

import re
from collections.abc import Callable

from ..errors import CannotRead
from ..packs import MOST_LAMPS, Restart, lamp_level
from .entry_items import (
    DECIMALS,
    FIXABLE,
    POSITIONS,
    SAID_UNIT,
    WATTS_OF,
    EntryItem,
    Kind,
    Line,
    Outcome,
    Unclear,
    corrected_by,
    plain_figure,
)

GRAMMAR: tuple[tuple[str, str], ...] = (
    ("a 47", "battery of lane A, %"),
    ("a 47 @14:30", "the same, seen at 14:30; @-5 is five minutes ago"),
    ("a 34 @+30", "seen 30 minutes after the phone was placed"),
    ("b 41.2c", "temperature at the back of the phone; 106f as well"),
    ("b 39c pad", "at another place: back, front, contact, pad, room"),
    ("a 9.02v 1.97a", "what a meter by hand shows; watts alone: 17.8w"),
    ("a 12.5w phone", "watts that the phone itself reports: kept apart; 14.2w socket: those at the wall"),
    ("b pack 75", "level of the battery pack, or of the phone that gives, %"),
    ("b lamps 3", "lamps that are lit on the pack; 3/5 where it has five"),
    ("b back by button", "its output came back by its button; by itself, when unloaded"),
    ("a light on", "the charger's light, on or off"),
    ("d off", "off the charger; on puts it back"),
    ("a no charge", "placed, but it does not charge"),
    ("a note moved it", "a note at this moment"),
    ("a fix 46", "corrects the last entry of its kind; the first value is kept"),
    ("a u", "undoes the last entry"),
    ("a placed", "the phone is on the charger: t = 0"),
    ("a placed @14:05", "it was placed then; moves a placing that was wrong"),
    ("a not placed", "takes the placing back"),
    ("a end", "ends the lane; end early WHY and end void WHY as well"),
)
"""The help of the entry line: an example, and what it says."""

_POINT = {kind: word for word, kind in WATTS_OF.items()}

NOT_LANES = frozenset("CFU")
"""Letters that the entry line uses for itself: °C, °F, undo."""

LETTERS = tuple(c for c in "ABCDEFGHIJKLMNOPQRSTUVWXYZ" if c not in NOT_LANES)


def lane_name(taken: frozenset[str]) -> str:
    """The first free name of a lane: A, B, D … Z, then A2, B2 …"""
    number = 1
    while True:
        for letter in LETTERS:
            name = letter if number == 1 else f"{letter}{number}"
            if name not in taken:
                return name
        number += 1


_NUMBER = r"[-−+]?[0-9]{1,6}(?:[.,][0-9]{1,9})?"
_FIGURE = re.compile(rf"^({_NUMBER})(%|c|°c|f|°f|v|a|w|ma|mv|mw)?$")
_LANE = re.compile(r"^([a-z])([0-9]{0,2})$")
_AT = re.compile(r"^@(?:([01]?[0-9]|2[0-3]):([0-5][0-9])|([-−+])([0-9]{1,4}))$")
_MILLI = {"mv": "v", "ma": "a", "mw": "w"}
LIMITS = {"%": (0.0, 100.0), "c": (-40.0, 150.0), "f": (-40.0, 302.0), "v": (0.0, 60.0), "a": (0.0, 20.0),
          "w": (0.0, 400.0)}  # fmt: skip
OUTCOMES: dict[str, Outcome] = {"": "complete", "complete": "complete", "early": "stopped early", "void": "void"}


def parse(text: str, lanes: tuple[str, ...] = ()) -> Line | Unclear:
    """A typed line, understood.

    Parameters
    ----------
    text : str
    lanes : tuple of str
        Names of the open lanes; empty: any name is taken.

    Returns
    -------
    Line or Unclear
        Never an exception, whatever is typed.
    """
    words = text.strip().split()
    if not words:
        return Unclear("nothing is typed", "a lane and what you see: a 47")
    lane, words = _lane(words, lanes)
    if isinstance(lane, Unclear):
        return lane
    if not words:
        return Unclear(f"lane {lane}: what do you see?", "a figure: 47, 41.2c, 9.02v 1.97a; or note, off, light on")
    words, at = _moment(words)
    items = _items(words)
    return items if isinstance(items, Unclear) else Line(lane, items, at)


def _lane(words: list[str], lanes: tuple[str, ...]) -> tuple[str | Unclear, list[str]]:
    first = words[0].lower()
    named = _LANE.match(first)
    name = first.upper()
    if named and first[0].upper() not in NOT_LANES and not named[2].startswith("0") and named[2] != "1":
        if lanes and name not in lanes:
            return Unclear(f"there is no lane {name}", f"open are {', '.join(lanes)}"), []
        return name, words[1:]
    if len(lanes) == 1:
        return lanes[0], words
    open_lanes = f"open are {', '.join(lanes)}" if lanes else "lanes are called A, B, D …"
    return Unclear("which lane?", f"its letter first; {open_lanes}"), []


def _moment(words: list[str]) -> tuple[list[str], str]:
    """The words without the moment that stands last, and the moment; a note keeps its words."""
    match = _AT.match(words[-1])
    if match is None or len(words) < 2:
        return words, ""
    at = f"{int(match[1]):02d}:{match[2]}" if match[1] else f"{match[3].replace('−', '-')}{int(match[4])}"
    return words[:-1], at


def _items(words: list[str]) -> tuple[EntryItem, ...] | Unclear:
    first = words[0].lower()
    if first in _WORDS:
        return _WORDS[first](words[1:])
    items: list[EntryItem] = []
    for word in (w.lower() for w in words):
        if word in POSITIONS and items and items[-1].kind == "celsius":
            items[-1] = EntryItem("celsius", items[-1].value, items[-1].unit, word)
        elif word in WATTS_OF and items and (items[-1].kind, items[-1].unit) == ("meter", "w"):
            items[-1] = EntryItem(WATTS_OF[word], items[-1].value, "w")
        elif word in {"lamp", "lamps"} and items and items[-1].kind == "percent":
            lit = _lamps([f"{items[-1].value:g}"])
            if isinstance(lit, Unclear):
                return lit
            items[-1] = lit[0]
        else:
            item = _figure(word)
            if isinstance(item, Unclear):
                return item
            items.append(item)
    kinds = [(i.kind, i.unit, i.text) for i in items]
    if len(set(kinds)) < len(kinds):
        return Unclear("the same is said twice", "one figure of each kind in a line")
    return tuple(items)


def _figure(word: str) -> EntryItem | Unclear:
    match = _FIGURE.match(word)
    if match is None:
        return Unclear(
            f"“{word[:30]}” is not understood", "47, 41.2c, 106f, 9.02v, 1.97a, 17.8w, or a word: ? lists them"
        )
    value = float(match[1].replace("−", "-").replace(",", "."))
    unit = (match[2] or "").removeprefix("°")
    if unit in _MILLI:
        value, unit = round(value / 1000.0, DECIMALS), _MILLI[unit]
    low, high = LIMITS[unit or "%"]
    if not low <= value <= high:
        text = SAID_UNIT[unit or "%"]
        return Unclear(f"{value:g} {text} cannot be", f"from {low:g} to {high:g} {text}")
    kind: Kind = "percent" if unit in {"", "%"} else "celsius" if unit in {"c", "f"} else "meter"
    if kind == "percent" and value != int(value):
        return Unclear(
            f"{value:g} % is not what a phone shows", "a whole number; with c, v, a or w it is another reading"
        )
    return EntryItem(kind, value, "%" if kind == "percent" else unit, "back" if kind == "celsius" else "")


def _note(words: list[str]) -> tuple[EntryItem, ...] | Unclear:
    text = " ".join(words)
    return (EntryItem("note", text=text),) if text else Unclear("the note is empty", "note, then what you want to say")


def _light(words: list[str]) -> tuple[EntryItem, ...] | Unclear:
    state = words[0].lower() if len(words) == 1 else ""
    return (
        (EntryItem("light", text=state),) if state in {"on", "off"} else Unclear("the light is on or off", "light on")
    )


def _pack(words: list[str]) -> tuple[EntryItem, ...] | Unclear:
    """The level of a pack: a percentage, or lamps."""
    if words and words[-1].lower() in {"lamp", "lamps"}:
        return _lamps(words[:-1])
    if len(words) == 1 and "/" in words[0]:
        return _lamps(words)
    level = _figure(words[0].lower()) if len(words) == 1 else Unclear("", "")
    if isinstance(level, Unclear) or level.kind != "percent":
        return Unclear("which level of the pack?", "pack 75, or lamps 3")
    return (EntryItem("pack", level.value, "%"),)


def _lamps(words: list[str]) -> tuple[EntryItem, ...] | Unclear:
    lit, _, of = words[0].partition("/") if len(words) == 1 else ("", "", "")
    if not lit.isdecimal() or (of and not of.isdecimal()) or len(lit) > 2 or len(of) > 2:
        return Unclear("how many lamps are lit?", "lamps 3, or lamps 3/5")
    try:
        lamp_level(int(lit), int(of) if of else MOST_LAMPS)
    except CannotRead as error:
        return Unclear(error.what, error.mend or "lamps 3")
    return (EntryItem("pack", float(lit), "lamps", of),)


CAME_BACK: dict[str, Restart] = {
    "by itself": "by itself",
    "itself": "by itself",
    "by button": "by its button",
    "by its button": "by its button",
    "button": "by its button",
    "unloaded": "when the load was taken off",
    "when unloaded": "when the load was taken off",
    "when the load was taken off": "when the load was taken off",
    "not at all": "not at all",
    "no": "not at all",
}


def _came_back(words: list[str]) -> tuple[EntryItem, ...] | Unclear:
    how = CAME_BACK.get(" ".join(w.lower() for w in words))
    if how is None:
        return Unclear("how did it come back?", "back by itself, back by button, back when unloaded, back not at all")
    return (EntryItem("came back", text=how),)


def _alone(item: EntryItem) -> Callable[[list[str]], tuple[EntryItem, ...] | Unclear]:
    return lambda words: Unclear(f"“{words[0][:30]}” is one word too many", "leave it out") if words else (item,)


def _no(words: list[str]) -> tuple[EntryItem, ...] | Unclear:
    if [w.lower() for w in words] in (["charge"], ["charging"]):
        return (EntryItem("no charge"),)
    return Unclear("no what?", "no charge: it is placed, but does not charge")


def _not(words: list[str]) -> tuple[EntryItem, ...] | Unclear:
    if [w.lower() for w in words] == ["placed"]:
        return (EntryItem("not placed"),)
    return Unclear("not what?", "not placed: takes the placing back")


def _fix(words: list[str]) -> tuple[EntryItem, ...] | Unclear:
    if not words:
        return Unclear("the right value is missing", "fix 46, or fix 41.2c")
    right = _items(words)
    if isinstance(right, Unclear):
        return right
    if len(right) != 1 or right[0].kind not in FIXABLE:
        return Unclear("one value is corrected at a time", "fix 46, or fix 41.2c pad, or fix note WORDS")
    [only] = right
    return (EntryItem("fix", only.value, only.unit, _after(only)),)


def _after(item: EntryItem) -> str:
    """Suffix of the figure of a correction, which says which entry it corrects."""
    if item.kind == "note":
        return f"note {item.text}"
    if item.kind == "pack":
        return f"pack {item.text}".strip()
    return _POINT.get(item.kind, item.text)


def _end(words: list[str]) -> tuple[EntryItem, ...] | Unclear:
    named = words[0].lower() if words else ""
    if named not in OUTCOMES:
        return Unclear(f"“{named[:30]}” is no way to end", "end, end early WHY, or end void WHY")
    reason = " ".join(words[1:])
    if named in {"void", "early"} and not reason:
        return Unclear("why?", f"end {named}, then the reason")
    return (EntryItem("end", unit=OUTCOMES[named], text=reason),)


_WORDS: dict[str, Callable[[list[str]], tuple[EntryItem, ...] | Unclear]] = {
    "note": _note,
    "light": _light,
    "pack": _pack,
    "lamps": _lamps,
    "lamp": _lamps,
    "back": _came_back,
    "on": _alone(EntryItem("charger", text="on")),
    "off": _alone(EntryItem("charger", text="off")),
    "no": _no,
    "not": _not,
    "fix": _fix,
    "u": _alone(EntryItem("undo")),
    "undo": _alone(EntryItem("undo")),
    "placed": _alone(EntryItem("placed")),
    "end": _end,
}


def canonical(line: Line) -> str:
    """The same line as the tool would write it; parsed again it says the same."""
    parts = [line.lane.lower(), *(_written(i) for i in line.items)]
    return " ".join(p for p in (*parts, f"@{line.at}" if line.at else "") if p)


def _written(item: EntryItem) -> str:
    figure = "" if item.value is None else f"{plain_figure(item.value)}{item.unit}"
    match item.kind:
        case "percent" | "meter":
            return figure
        case "celsius":
            return f"{figure} {item.text}".strip()
        case "phone watts" | "socket watts":
            return f"{figure} {_POINT[item.kind]}"
        case "note" | "light":
            return f"{item.kind} {item.text}"
        case "pack":
            return _pack_written(item)
        case "came back":
            return f"back {item.text}"
        case "charger":
            return item.text
        case "no charge" | "placed" | "not placed" | "undo":
            return "u" if item.kind == "undo" else item.kind
        case "fix":
            right = corrected_by(item)
            if right.kind == "pack":
                return f"fix {_pack_written(right)}"
            return " ".join(p for p in ("fix", figure, item.text) if p)
        case _:
            short = {"complete": "", "stopped early": "early", "void": "void"}[item.unit]
            return " ".join(p for p in ("end", short or ("complete" if item.text else ""), item.text) if p)


def _pack_written(item: EntryItem) -> str:
    if item.unit == "%":
        return f"pack {plain_figure(item.value or 0.0)}%"
    return f"lamps {item.value:.0f}{'/' + item.text if item.text else ''}"
