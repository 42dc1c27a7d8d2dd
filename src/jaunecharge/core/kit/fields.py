"""The fields of kit as a person types them: name, words, unit, hint, and how the text becomes a fact and back.

Forms, one-line entry and CSV all go through here, so that a field is described in one place.
"""

import math
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, Literal, get_args

from ..errors import CannotRead
from ..labels import label
from .addresses import HINT as ADDRESS_HINT
from .addresses import address_of
from .items import (
    KINDS,
    MOST_MAH,
    Agreeing,
    BodySize,
    ChargerKind,
    Fan,
    Flaw,
    Kit,
    Magnets,
    Meter,
    Pad,
    Price,
    Probe,
    flaws,
)  # fmt: skip
from .standards import PORT_AMPS
from .supply import PpsRange, SupplyProfile, offers, parts, supply_profiles
from .transfer import Transfer, transfers

Parse = Callable[[str], Any]


class Flawed(Exception):
    """Kit that cannot be kept as it was typed: one flaw a field."""

    def __init__(self, flaws: list[Flaw]) -> None:
        super().__init__("; ".join(f"{f.field}: {f.what}" for f in flaws))
        self.flaws = flaws


@dataclass(frozen=True)
class Field:
    """One field: its name in the record, how it is said, its unit, a hint, its choices, and its parser.

    An empty text leaves the fact at its default, which `default` says.
    """

    name: str
    said: str
    parse: Parse
    unit: str = ""
    hint: str = ""
    choices: tuple[str, ...] = ()
    required: bool = False
    ask: str = ""
    """The question where a required one is missing."""

    by_coil: Literal["", "profiles", "pads"] = ""
    """Whether it names transfer profiles, of one coil or of several places."""

    default: str = ""
    write: Callable[[Any], str] = field(default=lambda value: _plain(value))


def _plain(value: Any) -> str:
    if value is None or value is False:
        return ""
    if value is True:
        return "yes"
    if isinstance(value, float):
        return f"{value:.12g}"
    if isinstance(value, tuple):
        return ", ".join(str(v) for v in value)
    return str(value)


def number(text: str) -> float:
    """A number, with a decimal point or comma.

    Raises
    ------
    CannotRead
    """
    try:
        value = float(text.strip().replace("−", "-").replace(",", "."))
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        raise CannotRead(f"“{text.strip()}” is not a number", "write figures, as 12.5")
    return value


def _number(low: float, high: float, unit: str, above: bool = True) -> Parse:
    def parse(text: str) -> float:
        value = number(re.sub(rf"\s*{re.escape(unit)}$", "", text.strip()) if unit else text)
        if not (low < value or (not above and low == value)) or not value <= high:
            begin = "above" if above else "from"
            raise CannotRead(f"{value:g} cannot be", f"{begin} {low:g} to {high:g} {unit}".strip())
        return value

    return parse


def _share(text: str) -> float:
    return _number(0, 100, "%")(text) / 100.0


def _whole(low: int, high: int) -> Parse:
    def parse(text: str) -> int:
        value = number(text)
        if value != int(value) or not low <= value <= high:
            raise CannotRead(f"{value:g} cannot be", f"a whole number from {low} to {high}")
        return int(value)

    return parse


def _one_of(choices: tuple[str, ...]) -> Parse:
    def parse(text: str) -> str:
        if (wanted := text.strip().lower()) not in choices:
            raise CannotRead(f"“{text.strip()}” is not known", f"one of {', '.join(choices)}")
        return wanted

    return parse


def _some_of(choices: tuple[str, ...]) -> Parse:
    return lambda text: tuple(dict.fromkeys(_one_of(choices)(part) for part in parts(text)))


def _yes(text: str) -> bool:
    return _one_of(("yes", "no"))(text) == "yes"


def _names(text: str) -> tuple[str, ...]:
    return tuple(label(part) for part in parts(text))


_PRICE = re.compile(r"^(?:(?P<c1>[A-Za-z]{3})\s*)?(?P<amount>\d+(?:[.,]\d+)?)\s*(?P<c2>[A-Za-z]{3})?$")


CURRENCY_SIGNS = {"€": "EUR", "$": "USD", "£": "GBP"}


def price(text: str) -> Price:
    """An amount with its currency: `45 EUR`, `$45`.

    Raises
    ------
    CannotRead
    """
    for sign, code in CURRENCY_SIGNS.items():
        text = text.replace(sign, f" {code} ")
    match = _PRICE.match(" ".join(text.split()))
    if match is None or not (match["c1"] or match["c2"]):
        raise CannotRead(f"“{text.strip()}” is not a price", "amount and currency, as 45 EUR")
    return Price(number(match["amount"]), (match["c1"] or match["c2"]).upper())


def _pads(text: str) -> tuple[Pad, ...]:
    """`mpp` for one pad; `left: mpp; right: bpp` for several."""
    pads = []
    for part in (p for p in re.split(r"[;\n]", text) if p.strip()):
        named = re.match(r"^\s*(?!own:)([^:]+):(.*)$", part)
        place, gives = (label(named[1]), named[2]) if named else ("", part)
        pads.append(Pad(place, transfers(gives, "")))
    return tuple(pads)


def _write_pads(value: tuple[Pad, ...]) -> str:
    return "; ".join((f"{p.place}: " if p.place else "") + ", ".join(str(t) for t in p.gives) for p in value)


def _pps(text: str) -> tuple[PpsRange, ...]:
    offered = offers(text, "")
    if offered.profiles or offered.rated_w:
        raise CannotRead("a fixed profile stands among the ranges", "write ranges only, as 3.3-11V3A")
    return offered.pps


def _profiles(text: str) -> tuple[SupplyProfile, ...]:
    return supply_profiles(text)


def _accepts(text: str) -> tuple[Transfer, ...]:
    return transfers(text, "phone")


def _gives(text: str) -> tuple[Transfer, ...]:
    return transfers(text, "")


def _address(text: str) -> str:
    return address_of(text).said


def _mm(name: str, text: str) -> Field:
    return Field(name, text, _number(0, 1000, "mm"), "mm")


TRANSFER_HINT = "Qi2 15W, Qi 5W, Qi 15W, or a maker's own, as own:NAME=20"
_LABEL = Field(
    "label", "label", lambda t: label(t), required=True, hint="as you call it on the bench", ask="What do you call it?"
)
_COMMON = (
    Field("price", "price", price, hint="45 EUR", write=lambda p: f"{p.amount:.12g} {p.currency}" if p else ""),
    Field("note", "note", lambda t: t.strip()),
)
_W = _number(0, 400, "W")
STANDS = get_args(Meter.__annotations__["stands"])
MEASURES, SENSORS = (get_args(Probe.__annotations__[name]) for name in ("measures", "sensor"))

FIELDS: dict[str, tuple[Field, ...]] = {
    "phone": (
        _LABEL,
        Field("capacity_mah", "battery", _number(0, MOST_MAH, "mAh"), "mAh", "4360", required=True,
              ask="How many mAh has its battery?"),
        Field("nominal_v", "at", _number(0, 30, "V"), "V", default="3.87"),
        Field("battery_health", "health", _share, "%", "unknown", write=lambda v: f"{v * 100:.6g}" if v else ""),
        Field("accepts", "takes by coil", _accepts, "", TRANSFER_HINT, required=True,
              ask="Which wireless standard does the phone take, and how many watts at most?", by_coil="profiles"),
        Field("wired_w", "takes by wire", _W, "W"),
        Field("body", "body", _one_of(get_args(BodySize)), choices=get_args(BodySize), default="medium"),
        Field("magnets", "magnets", _one_of(get_args(Magnets)), choices=get_args(Magnets), default="none"),
        _mm("length_mm", "length"), _mm("width_mm", "width"), _mm("thickness_mm", "thickness"),
        Field("gives_w", "gives away by coil", _W, "W"),
        Field("gives_stop_percent", "stops giving at", _number(0, 100, "%", False), "%", "30"),
        Field("software", "software", lambda t: label(t)),
        Field("serial", "serial", lambda t: label(t)),
    ),
    "charger": (
        _LABEL,
        Field("form", "form", _one_of(get_args(ChargerKind)), choices=get_args(ChargerKind), default="pad"),
        Field("pads", "gives", _pads, "", "Qi2 15W, Qi 5W …; several places: left: Qi2; right: Qi", required=True,
              ask="Which standard does it use? Qi2 15 W, Qi 5 W …", by_coil="pads", write=_write_pads),
        Field("claimed_w", "claims", _W, "W"),
        Field("asks", "asks its adapter for", _profiles, "", "9V2.22A, best first; of its class if empty"),
        Field("agrees", "agrees by", _some_of(get_args(Agreeing)), hint="pd, pps, own, or 5v", default="pd"),
        Field("modes", "maker's own modes", _names, hint="their names, where it insists on one"),
        Field("fan", "fan", _one_of(get_args(Fan)), choices=get_args(Fan), default="none"),
        Field("fan_noise", "fan noise", lambda t: t.strip(), hint="as you hear it"),
        Field("captive_cable", "cable fixed to it", _yes, choices=("yes", "no"), default="no"),
        Field("no_load_w", "draws without a phone", _number(0, 50, "W", False), "W"),
        _mm("thickness_mm", "thickness"),
        Field("size", "size", lambda t: t.strip()),
    ),
    "adapter": (
        _LABEL,
        Field("profiles", "profiles", _profiles, "", "as printed: 5V3A,9V2.22A"),
        Field("rated_w", "or rated", _W, "W", "20: profiles are then inferred"),
        Field("pps", "PPS ranges", _pps, "", "3.3-11V3A"),
        Field("modes", "other fast modes", _names, hint="names of makers' own"),
        Field("ports", "ports", _whole(1, 20), default="1"),
        Field("shared_w", "ports share", _W, "W", "in all"),
        Field("computer_port", "computer's port", _one_of(tuple(PORT_AMPS)), choices=tuple(PORT_AMPS)),
    ),
    "cable": (
        _LABEL,
        Field("amps", "carries", _number(0, 10, "A"), "A", default="3"),
        Field("length_m", "length", _number(0, 20, "m"), "m"),
    ),
    "pack": (
        _LABEL,
        Field("rated_mah", "rated", _number(0, 1_000_000, "mAh"), "mAh", "10000", required=True,
              ask="How many mAh is it rated?"),
        Field("cell_v", "cell voltage", _number(0, 60, "V"), "V", "usually 3.7 V (to get Wh)", required=True,
              ask="What is its cell voltage?"),
        Field("outputs", "gives by wire", _profiles, "", "5V3A, 9V2.22A"),
        Field("gives", "gives by coil", _gives, "", TRANSFER_HINT, by_coil="profiles"),
        Field("claimed_w", "claims", _W, "W"),
        Field("grams", "weighs", _number(0, 100_000, "g"), "g"),
        Field("lamps", "lamps of its gauge", _whole(1, 10), hint="4; empty where it shows a percentage"),
    ),
    "meter": (
        _LABEL,
        Field("stands", "stands", _one_of(STANDS), choices=STANDS, default="inline"),
        Field("gain_percent", "accuracy", _number(0, 20, "%", False), "% of reading", "not known"),
        Field("counts_v", "counts of volts", _number(0, 5, "V", False), "V", default="0.01"),
        Field("counts_a", "counts of amps", _number(0, 5, "A", False), "A", default="0.01"),
        Field("step_s", "logs every", _number(0, 3600, "s"), "s", default="1"),
        Field("passes_negotiation", "lets devices negotiate", _yes, choices=("yes", "no"), default="yes",
              write=lambda v: "yes" if v else "no"),
        Field("address", "is asked at", _address, hint=ADDRESS_HINT),
    ),
    "probe": (
        _LABEL,
        Field("measures", "measures", _one_of(MEASURES), choices=MEASURES, default="phone"),
        Field("sensor", "sensor", _one_of(SENSORS), choices=SENSORS, default="not known"),
        Field("accuracy_k", "accuracy", _number(0, 20, "K", False), "K", default="1"),
        Field("address", "is asked at", _address, hint=ADDRESS_HINT),
    ),
    "case": (
        _LABEL,
        Field("thickness_mm", "thickness at the back", _number(0, 30, "mm"), "mm", default="1.5"),
        Field("magnets", "ring of magnets", _yes, choices=("yes", "no"), default="no"),
    ),
}  # fmt: skip
FIELDS = {kind: (*own, *_COMMON) for kind, own in FIELDS.items()}


def item_from(kind: str, texts: Mapping[str, str]) -> Kit:
    """Kit from what was typed in its fields; fields left empty take their defaults.

    Parameters
    ----------
    kind : str
        One of `kit.KINDS`.
    texts : mapping of field name to text

    Raises
    ------
    Flawed
        With every field that is wrong, not only the first.
    CannotRead
        If the kind is unknown.
    """
    if kind not in KINDS:
        raise CannotRead(f"“{kind}” is not a kind of kit", f"one of {', '.join(KINDS)}", file="kind")
    facts: dict[str, Any] = {}
    listed: list[Flaw] = []
    for entry in FIELDS[kind]:
        text = texts.get(entry.name, "").strip()
        if not text:
            if entry.required:
                listed.append(Flaw(entry.name, entry.ask or f"{entry.said}?", entry.hint))
            continue
        try:
            facts[entry.name] = entry.parse(text)
        except CannotRead as error:
            listed.append(Flaw(entry.name, error.what, error.mend))
    if listed:
        raise Flawed(listed)
    # A form knows only the fields of its kind; the dataclass fills the rest with its defaults.
    item = KINDS[kind](**facts)
    if listed := flaws(item):
        raise Flawed(listed)
    return item


def texts_of(item: Kit) -> dict[str, str]:
    """Texts that would enter this kit: every field of its kind, empty where nothing is known."""
    return {entry.name: entry.write(getattr(item, entry.name)) for entry in FIELDS[item.kind]}
