"""Kit in one typed line: the kind first, then its label and whatever else is known, in any order."""

import re
from dataclasses import dataclass

from ..errors import CannotRead
from .fields import CURRENCY_SIGNS, FIELDS, Flawed, item_from, number
from .items import KINDS, Flaw, Kit
from .standards import PORT_AMPS, TRANSFER_WATTS
from .transfer import BY_NAME

GRAMMAR = (
    "the kind, the label, then what you know: charger Cairn disc 15 Qi2 15W 45 EUR; phone Ostrel Mini 3180 mAh Qi2 12W "
    "small; adapter Plug 20 20W; pack Col bank 10000mAh 3.7V Qi2 9V 2.22A; anything else as field:value, a longer "
    "value in quotes"
)
FORMS = {"pad": "pad", "puck": "puck", "stand": "stand", "multi-stand": "multi-stand", "disc": "puck"}

_FIGURE = r"\d+(?:[.,]\d+)?"
_UNITS = "mAh|Wh|mm|cm|mA|mV|V|A|W|K|%|m|g"
_PROFILE = re.compile(rf"^{_FIGURE}V{_FIGURE}A$", re.IGNORECASE)
_RANGE = re.compile(rf"^(?:PPS)?{_FIGURE}V?[-–]{_FIGURE}V{_FIGURE}A$", re.IGNORECASE)
_BY_COIL_ONE = rf"(?:{'|'.join((*TRANSFER_WATTS, *BY_NAME))}|own:[^\s=@;]+)(?:[=@]{_FIGURE}W?)?"
_TRANSFER = re.compile(rf"^{_BY_COIL_ONE}$", re.IGNORECASE)
_PLACE = re.compile(
    rf"\b(?!own:)([^\W\d_][\w-]*):\s*({_BY_COIL_ONE}(?:,\s*{_BY_COIL_ONE})*)(?![\w=@])[;,]?", re.IGNORECASE
)
_MEASURE = re.compile(rf"^({_FIGURE})({_UNITS}|EUR|CHF|USD|GBP)$", re.IGNORECASE)
_CURRENCY = re.compile(r"^(EUR|CHF|USD|GBP)$")

_JOINED: tuple[tuple[re.Pattern[str], str], ...] = tuple(
    (re.compile(shape, re.IGNORECASE), text)
    for shape, text in (
        (r"(?<=\d)[,'’\u00a0\u202f](?=\d{3}\s*mAh\b)", ""),
        (rf"(?:±|\+/?-)\s*(?={_FIGURE})", ""),
        (r"(?<=\d)\s*watts?\b", "W"),
        (r"\bQi(?:2\.\d| 2(?:\.\d)?(?!\s*[.,\dWV]))", "Qi2"),
        (r"\bQi\s*v?1\.\d\b", "Qi"),
        (rf"(?<![\w.,])({_FIGURE})\s+({_UNITS})(?![\w%])", r"\1\2"),
        (rf"({_FIGURE})V\s*[\s/@,×x\u2393]\s*({_FIGURE})A\b", r"\1V\2A"),
        (rf"\b(Qi2?)\s*[-:]?\s*({_FIGURE})W\b", r"\1=\2W"),
        (rf"\b({_FIGURE})W\s+(Qi2?)\b", r"\2=\1W"),
        (rf"\b(own:[^\s=@]+)\s+({_FIGURE})W\b", r"\1=\2W"),
        (rf"\b({_FIGURE})W\s+wireless(?:ly)?\b|\bwireless\s+({_FIGURE})W\b", r"wireless=\1\2W"),
        (rf"\bclaims?\s+({_FIGURE})W\b", r"claims=\1W"),
        (r"\b(\d+)\s*lamps?\b", r"lamps:\1"),
        (rf"\b({_FIGURE})W\s+(?:claimed|wired)\b", r"\1W"),
        (rf"\b(EUR|CHF|USD|GBP)\s*({_FIGURE})\b", r"\2\1"),
    )
)
"""Spellings of one word, written apart or the other way round."""

WHERE: dict[str, dict[str, str]] = {
    "phone": {"mah": "capacity_mah", "v": "nominal_v", "w": "wired_w", "mm": "thickness_mm", "%": "battery_health",
              "transfer": "accepts"},
    "charger": {"w": "claimed_w", "mm": "thickness_mm", "transfer": "pads", "profile": "asks"},
    "adapter": {"w": "rated_w", "profile": "profiles", "range": "pps"},
    "cable": {"a": "amps", "m": "length_m"},
    "pack": {"mah": "rated_mah", "v": "cell_v", "profile": "outputs", "range": "outputs", "transfer": "gives",
             "g": "grams"},
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
_IN_LABEL: dict[str, dict[str, tuple[str, str]]] = {
    "charger": {w: ("form", f) for w, f in FORMS.items()},
    "meter": {"socket": ("stands", "socket")},
    "probe": {"room": ("measures", "room")},
}
"""Words that say something and are a part of the label too, before any figure: Larch twin stand, Bunk room air."""

_SILENT = {"asks", "wired", "rated", "claims", "claim", "wireless", "wirelessly"}
"""Words that only say what the figure beside them is."""

_WH = re.compile(rf"^({_FIGURE})Wh$", re.IGNORECASE)
_CLAIMED = re.compile(rf"^claims=({_FIGURE})W$", re.IGNORECASE)
_WIRELESS = re.compile(rf"^wireless=({_FIGURE})W$", re.IGNORECASE)
_CAMERA_WORD = re.compile(r"thermal|heat|infrared|camera|imager", re.IGNORECASE)
_CAMERA = re.compile(r"\b(?:thermal|heat|infrared)?\s*(?:camera|imager)\b", re.IGNORECASE)


@dataclass(frozen=True)
class Typed:
    """A line as far as it is understood: the kind, the text of each field, and questions about what is not."""

    kind: str
    texts: dict[str, str]
    asked: tuple[Flaw, ...] = ()


def typed_kit(line: str) -> Typed:
    """Understanding of one typed line.

    Raises
    ------
    CannotRead
        If the line does not begin with a kind of kit.
    """
    line = line.replace("“", '"').replace("”", '"').strip()
    kind = line.split()[0].lower() if line else ""
    texts: dict[str, list[str]] = {}
    asked: list[Flaw] = []
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
        else:
            asked.append(_unknown(f"{name}:"))
    line = re.sub(r'\b[a-z_]+:"[^"]*"', " ", line)
    quoted = re.findall(r'"([^"]+)"', line)
    named: list[str] = quoted[:1]
    asked += [_unknown(text) for text in quoted[1:]]
    unquoted = joined(re.sub(r'"[^"]+"', " ", line))
    if kind == "charger" and (places := [p for p in _PLACE.findall(unquoted) if p[0] not in known]):
        texts["pads"] = ["; ".join(f"{place}: {gives}" for place, gives in places)]
        unquoted = _PLACE.sub(lambda match: match[0] if match[1] in known else " ", unquoted)
    rest = unquoted.split()[1:]
    camera = kind == "probe" and _CAMERA.search(" ".join([*named, *rest])) is not None
    if camera:
        # Whatever it is called: a camera is no bead.
        texts.setdefault("sensor", ["thermal camera"])
    in_label, stated_wh = True, ""
    while rest:
        word = rest.pop(0)
        place = _place(kind, word)
        if place is None and (explicit := re.match(r"^([a-z_]+):(.+)$", word)):
            if explicit[1] in known:
                texts[explicit[1]] = [explicit[2]]
            else:
                asked.append(_unknown(f"{explicit[1]}:"))
        elif in_label and (both := _IN_LABEL.get(kind, {}).get(word.lower())):
            texts.setdefault(both[0], [both[1]])
            named.append(word)
        elif (claimed := _CLAIMED.match(word.rstrip(","))) and "claimed_w" in known:
            texts["claimed_w"] = [claimed[1]]
        elif (coil := _WIRELESS.match(word.rstrip(","))) and kind in _BY_COIL:
            if kind == "charger":
                texts.setdefault("claimed_w", [coil[1]])
            asked.append(Flaw(_BY_COIL[kind], f"{coil[1]} W by which standard?", f"Qi2 {coil[1]}W, or Qi {coil[1]}W"))
        elif place is not None:
            in_label = not named
            said_once = place[0] in {"form", "sensor"}
            texts[place[0]] = [place[1]] if said_once else [*texts.get(place[0], []), place[1]]
        elif re.fullmatch(_FIGURE, word) and rest and _CURRENCY.match(rest[0]):
            texts["price"] = [f"{word} {rest.pop(0)}"]
        elif kind == "pack" and (wh := _WH.match(word.rstrip(","))):
            stated_wh = wh[1]
        elif _MEASURE.match(word.rstrip(",")) or _PROFILE.match(word.rstrip(",")) or "=" in word:
            asked.append(_which(kind, word.rstrip(",")))
        elif _says_of_figure(word, rest) or (not in_label and camera and _CAMERA_WORD.fullmatch(word)):
            continue
        elif in_label:
            named.append(word)
        else:
            # What stands behind a figure is no part of the name: it was meant to say something.
            asked.append(_unknown(word.rstrip(",")))
    if kind == "pack" and stated_wh:
        asked += _with_wh(number(stated_wh), texts)
    if kind == "charger" and "claimed_w" not in texts and (boxed := _watts_of_name(texts.get("pads", []))):
        # What a box says beside its standard is what its maker claims.
        texts["claimed_w"] = [boxed]
    if named:
        texts["label"] = [" ".join(named)]
    # Where the standard is named as well, its watts need not be asked about.
    asked = [f for f in asked if f.field not in texts]
    return Typed(kind, {name: ", ".join(given) for name, given in texts.items()}, tuple(asked))


_BY_COIL = {"charger": "pads", "phone": "accepts", "pack": "gives"}


def joined(line: str) -> str:
    """A line in which figures stand with their units, and what belongs together in one word."""
    for sign, code in CURRENCY_SIGNS.items():
        # A sign belongs first to the figure that it touches, before it or after.
        for shape in (f"{re.escape(sign)}({_FIGURE})", rf"(?<![\w.,])({_FIGURE})\s*{re.escape(sign)}",
                      rf"{re.escape(sign)}\s+({_FIGURE})"):  # fmt: skip
            line = re.sub(shape, rf" \1{code} ", line)
    for written, text in _JOINED:
        line = written.sub(text, line)
    return line


def _says_of_figure(word: str, rest: list[str]) -> bool:
    """Whether a word only says what the figure behind it is; elsewhere it is a word like any other."""
    return word.lower() in _SILENT and bool(rest) and rest[0][0].isdigit()


def _unknown(word: str) -> Flaw:
    """The question about an unknown word."""
    return Flaw("line", f"What is “{word}”?", "if it is part of the label, put it before the figures")


SAME_WH = 0.03
"""Wh on a label are rounded (our own): so far off mAh × V they still agree."""


def _with_wh(wh: float, texts: dict[str, list[str]]) -> list[Flaw]:
    """Whichever of mAh and V is missing beside Wh is put into `texts`; asked where both are, or where all disagree."""
    mah, volts = (_figure_of(texts.get(name, [])) for name in ("rated_mah", "cell_v"))
    if not wh or mah == 0 or volts == 0 or (mah is None and volts is None):
        return [Flaw("line", f"{wh:g} Wh: from how many mAh, at how many V?", "two of the three are enough")]
    if mah is not None and volts is not None:
        product_wh = mah * volts / 1000.0
        flaw = Flaw("line", f"{wh:g} Wh, or {product_wh:.3g}, as mAh × V make it?", "leave the wrong one out")
        return [] if abs(product_wh - wh) <= SAME_WH * wh else [flaw]
    if mah is not None:
        texts["cell_v"] = [f"{wh / mah * 1000:.4g}"]
    elif volts is not None:
        texts["rated_mah"] = [f"{wh / volts * 1000:.6g}"]
    return []


def _figure_of(typed: list[str]) -> float | None:
    """The figure of a field as far as one was typed; what is wrong with it, its field says."""
    return float(typed[0].replace(",", ".")) if typed and re.fullmatch(_FIGURE, typed[0]) else None


def _watts_of_name(pads: list[str]) -> str:
    """The watts that were typed beside the name of a standard; empty where none were."""
    for pad in pads:
        named = re.match(rf"^qi2?=({_FIGURE})W$", pad, re.IGNORECASE)
        if named:
            return named[1]
    return ""


def _which(kind: str, word: str) -> Flaw:
    """The question about a figure that is ambiguous for this kind."""
    if kind == "pack" and word.upper().endswith("W"):
        return Flaw("line", f"{word} of a pack: by coil, by wire or claimed?", f"Qi2 {word}, 9V2.22A, or claims {word}")
    fields = ", ".join(f"{f.name}:" for f in FIELDS[kind] if f.unit)
    return Flaw(
        "line", f"What is {word} of a {kind}?", f"write it with its field: {fields}" if fields else "leave it out"
    )


def typed_fields(line: str) -> tuple[str, dict[str, str]]:
    """The kind, and what was understood of each field, from one typed line.

    Raises
    ------
    CannotRead
        If the line does not begin with a kind of kit.
    """
    parsed = typed_kit(line)
    return parsed.kind, parsed.texts


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
        If anything of it is not understood.
    """
    parsed = typed_kit(line)
    return item_of(parsed)


def item_of(parsed: Typed) -> Kit:
    """Kit from a line that was understood; nothing of it may be left over.

    Raises
    ------
    Flawed
    """
    asked = list(parsed.asked)
    try:
        item = item_from(parsed.kind, parsed.texts)
    except Flawed as error:
        # A pack of which something is asked has not said that it gives nothing.
        already = {f.field for f in asked} | ({"outputs"} if asked else set())
        raise Flawed([*asked, *(f for f in error.flaws if f.field not in already)]) from None
    if asked:
        raise Flawed(asked)
    return item
