"""Kit in one typed line: the kind first, then its label and whatever else is known, in any order."""

import re

from .errors import CannotRead
from .kit import KINDS, Kit
from .kit_fields import FIELDS, item_from
from .standards import PORT_AMPS, TRANSFER_WATTS

GRAMMAR = (
    "the kind, the label, then what you know: charger Cairn disc 15 mpp 15W 45 EUR; phone Ostrel Mini 3180mAh mpp@12 "
    "small; adapter Plug 20 20W; cable Braided 3A 1.5m; anything else as field:value, a longer value in quotes"
)
FORMS = {"pad": "pad", "puck": "puck", "stand": "stand", "multi-stand": "multi-stand", "disc": "puck"}

_FIGURE = r"\d+(?:[.,]\d+)?"
_PROFILE = re.compile(rf"^{_FIGURE}V{_FIGURE}A$", re.IGNORECASE)
_RANGE = re.compile(rf"^(?:PPS)?{_FIGURE}V?[-–]{_FIGURE}V{_FIGURE}A$", re.IGNORECASE)
_TRANSFER = re.compile(rf"^(?:{'|'.join(TRANSFER_WATTS)}|own:[^\s=@]+)(?:[=@]{_FIGURE}W?)?$", re.IGNORECASE)
_MEASURE = re.compile(rf"^({_FIGURE})(mAh|mm|V|W|A|K|%|m|EUR|CHF|USD|GBP)$", re.IGNORECASE)
_CURRENCY = re.compile(r"^(EUR|CHF|USD|GBP)$")

WHERE: dict[str, dict[str, str]] = {
    "phone": {"mah": "capacity_mah", "v": "nominal_v", "w": "wired_w", "mm": "thickness_mm", "%": "battery_health",
              "transfer": "accepts"},
    "charger": {"w": "claimed_w", "mm": "thickness_mm", "transfer": "pads", "profile": "asks"},
    "adapter": {"w": "rated_w", "profile": "profiles", "range": "pps"},
    "cable": {"a": "amps", "m": "length_m"},
    "pack": {"mah": "rated_mah", "v": "cell_v", "profile": "outputs", "transfer": "gives"},
    "meter": {"%": "gain_percent"},
    "probe": {"k": "accuracy_k"},
    "case": {"mm": "thickness_mm"},
}  # fmt: skip
"""Which field a figure with this unit, a supply profile or a transfer profile goes to, by kind."""

WORDS: dict[str, dict[str, tuple[str, str]]] = {
    "phone": {**{s: ("body", s) for s in ("small", "medium", "large")}, "magnets": ("magnets", "built in")},
    "charger": {**{w: ("form", f) for w, f in FORMS.items()}, "fan": ("fan", "own"),
                "switchable": ("fan", "switchable"), "captive": ("captive_cable", "yes")},
    "adapter": {p: ("computer_port", p) for p in PORT_AMPS if " " not in p},
    "case": {"magnets": ("magnets", "yes")},
    "probe": {s: ("sensor", s) for s in ("thermocouple", "thermistor", "infrared")},
}  # fmt: skip
_SILENT = {"claims", "asks", "wired", "rated"}
"""Words that only say what the figure after them is."""


def typed_fields(line: str) -> tuple[str, dict[str, str]]:
    """The kind, and what was understood of each field, from one typed line.

    Raises
    ------
    CannotRead
        If the line does not begin with a kind of kit.
    """
    line = line.replace("“", '"').replace("”", '"').strip()
    kind = line.split()[0].lower() if line else ""
    texts: dict[str, list[str]] = {}
    if kind in FORMS:
        texts["form"] = [FORMS[kind]]
        kind = "charger"
    if kind not in KINDS:
        raise CannotRead(
            f"“{kind}” is not a kind of kit" if kind else "nothing is typed", f"begin with one of {', '.join(KINDS)}"
        )
    known = {f.name for f in FIELDS[kind]}
    for name, text in re.findall(r'\b([a-z_]+):"([^"]*)"', line):
        if name in known:
            texts[name] = [text]
    line = re.sub(r'\b[a-z_]+:"[^"]*"', " ", line)
    quoted = re.search(r'"([^"]+)"', line)
    named: list[str] = [quoted[1]] if quoted else []
    rest = re.sub(r'"[^"]+"', " ", line).split()[1:]
    in_label = True
    while rest:
        word = rest.pop(0)
        place = _place(kind, word)
        if (explicit := re.match(r"^([a-z_]+):(.+)$", word)) and explicit[1] in known:
            texts[explicit[1]] = [explicit[2]]
        elif in_label and kind == "charger" and word.lower() in FORMS:
            # Before any figure it is a part of the label too: Larch twin stand.
            texts.setdefault("form", [FORMS[word.lower()]])
            named.append(word)
        elif place is not None:
            in_label = False
            said_once = place[0] == "form"
            texts[place[0]] = [place[1]] if said_once else [*texts.get(place[0], []), place[1]]
        elif re.fullmatch(_FIGURE, word) and rest and _CURRENCY.match(rest[0]):
            texts["price"] = [f"{word} {rest.pop(0)}"]
        elif word.lower() not in _SILENT:
            named.append(word)
    if named:
        texts["label"] = [" ".join(named)]
    return kind, {name: ", ".join(found) for name, found in texts.items()}


def _place(kind: str, word: str) -> tuple[str, str] | None:
    """The field that a word belongs to, and its text; None if it is a part of the label."""
    where = WHERE.get(kind, {})
    if kind in WORDS and word.lower() in WORDS[kind]:
        return WORDS[kind][word.lower()]
    for shape, name in ((_TRANSFER, "transfer"), (_PROFILE, "profile"), (_RANGE, "range")):
        if name in where and shape.match(word.rstrip(",")):
            return where[name], word.rstrip(",")
    measure = _MEASURE.match(word.rstrip(","))
    if measure is None:
        return None
    unit = measure[2].lower()
    if unit.upper() in {"EUR", "CHF", "USD", "GBP"}:
        return "price", f"{measure[1]} {unit.upper()}"
    return (where[unit], measure[1]) if unit in where else None


def kit_from_line(line: str) -> Kit:
    """Kit from one typed line.

    Raises
    ------
    CannotRead, Flawed
    """
    return item_from(*typed_fields(line))
