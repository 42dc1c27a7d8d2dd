"""Meaning of a heading: the quantity of a column and its unit, in the languages that meters and spreadsheets speak."""

import re
import unicodedata
from types import MappingProxyType

UNIT_WORDS = MappingProxyType(
    {
        "v": ("volts", "V"),
        "mv": ("volts", "mV"),
        "a": ("amps", "A"),
        "ma": ("amps", "mA"),
        "w": ("watts", "W"),
        "mw": ("watts", "mW"),
        "wh": ("energy", "Wh"),
        "mwh": ("energy", "mWh"),
        "kwh": ("energy", "kWh"),
        "j": ("energy", "J"),
        "ah": ("charge", "Ah"),
        "mah": ("charge", "mAh"),
        "s": ("time", "s"),
        "sec": ("time", "s"),
        "secs": ("time", "s"),
        "second": ("time", "s"),
        "seconds": ("time", "s"),
        "sekunden": ("time", "s"),
        "secondes": ("time", "s"),
        "secondi": ("time", "s"),
        "segundos": ("time", "s"),
        "ms": ("time", "ms"),
        "millis": ("time", "ms"),
        "milliseconds": ("time", "ms"),
        "us": ("time", "us"),
        "ns": ("time", "ns"),
        "min": ("time", "min"),
        "mins": ("time", "min"),
        "minute": ("time", "min"),
        "minutes": ("time", "min"),
        "minuten": ("time", "min"),
        "minuti": ("time", "min"),
        "minutos": ("time", "min"),
        "h": ("time", "h"),
        "hours": ("time", "h"),
        "%": ("percent", "%"),
        "percent": ("percent", "%"),
        "prozent": ("percent", "%"),
        "pct": ("percent", "%"),
        "volt": ("volts", "V"),
        "volts": ("volts", "V"),
        "millivolts": ("volts", "mV"),
        "amp": ("amps", "A"),
        "amps": ("amps", "A"),
        "ampere": ("amps", "A"),
        "milliamps": ("amps", "mA"),
        "watt": ("watts", "W"),
        "watts": ("watts", "W"),
        "milliwatts": ("watts", "mW"),
        "°c": ("celsius", "°C"),
        "c": ("celsius", "°C"),
        "degc": ("celsius", "°C"),
        "celsius": ("celsius", "°C"),
        "°f": ("celsius", "°F"),
        "f": ("celsius", "°F"),
        "degf": ("celsius", "°F"),
        "fahrenheit": ("celsius", "°F"),
        "k": ("celsius", "K"),
    }
)
"""A word that is a unit, and the quantity that it measures."""

QUANTITY_WORDS = MappingProxyType(
    {
        "time": ("time", "t", "timestamp", "zeit", "uhrzeit", "elapsed", "clock", "epoch", "unix", "temps", "heure",
                 "tempo", "ora", "tiempo", "hora", "tijd", "date", "datum", "datetime", "zeitpunkt", "utc"),
        "volts": ("voltage", "vbus", "spannung", "tension", "tensione", "voltaje", "spanning", "u"),
        "amps": ("current", "ibus", "strom", "stromstarke", "courant", "corrente", "corriente", "stroom", "i"),
        "watts": ("power", "pbus", "leistung", "puissance", "potenza", "potencia", "vermogen", "p"),
        "energy": ("energy", "energie", "energia"),
        "charge": ("capacity", "charge", "ladung", "kapazitat", "capacite"),
        "percent": ("soc", "battery", "level", "akku", "ladestand", "batterie", "batteria", "bateria", "accu",
                    "batteriestand", "akkustand"),
        "celsius": ("temp", "temperature", "temperatur", "temperatura", "temperatuur"),
        "position": ("position", "place", "where", "probe", "sensor", "ort", "stelle", "lieu", "posto", "lugar"),
    }
)  # fmt: skip
"""Words that name a quantity; from memory of what exports are headed with."""

PLACE_WORDS = ("back", "front", "contact", "pad", "underside", "ambient", "room", "air", "phone", "charger", "thermal",
               "camera", "infrared")  # fmt: skip
BATTERY_WORDS = ("battery", "akku", "batterie", "batteria", "bateria", "accu")
"""Words that name the phone's own battery: its watts, volts and amps are not the meter's."""

IGNORED = re.compile(
    r"^(d[+-]|dp|dm|cc\s?[12]|sbu\s?[12]|n|no|nr|row|index|sample|#|id|group|comment|note)\b|^#$|^d[+-]"
)

_BRACKETS = re.compile(r"[\[(]([^\])]*)[\])]")


def plain(heading: str) -> str:
    """A heading in lower case without accents."""
    decomposed = unicodedata.normalize("NFKD", heading.strip().lower().replace("µ", "u"))
    return "".join(c for c in decomposed if not unicodedata.combining(c))


def meaning(heading: str) -> tuple[str | None, str | None]:
    """Quantity and unit that a heading names, each None where it does not say."""
    text = plain(heading)
    if not text:
        return None, None
    if IGNORED.match(text):
        return "ignore", None
    bracketed = [w.strip() for w in _BRACKETS.findall(text)]
    words = [w for w in re.split(r"[^a-z0-9%°]+", _BRACKETS.sub(" ", text)) if w]
    named = next((q for w in words for q, known in QUANTITY_WORDS.items() if w in known), None)
    units = [UNIT_WORDS[w] for w in (*bracketed, *reversed(words)) if w in UNIT_WORDS]
    if (own := _of_the_phone(words, units)) is not None:
        return own
    stated = [UNIT_WORDS[w] for w in bracketed if w in UNIT_WORDS]
    if stated and all(q != named for q, _ in stated) and all(len(w) == 1 for w in words):
        return stated[0]  # `T (°C)`: one letter means this or that, its unit does not.
    for quantity, unit in units:
        if named is None or named == quantity:
            return quantity, unit
    places = any(w in PLACE_WORDS for w in words)
    if named is None and places:
        return "celsius", None
    return named, None


def _of_the_phone(words: list[str], units: list[tuple[str, str]]) -> tuple[str, str | None] | None:
    """Meaning of a heading about the phone itself: its own watts, its battery's volts and amps, or a temperature; what
    has gone into the battery is no reading of a run."""
    battery = any(w in BATTERY_WORDS for w in words)
    if not battery and not ("phone" in words or "reported" in words or "reports" in words):
        return None
    measured = dict(reversed(units))
    quantities = set(measured) | {q for w in words for q, known in QUANTITY_WORDS.items() if w in known}
    if "watts" in quantities:
        return "phone_watts", measured.get("watts")
    if battery and "celsius" in quantities:
        return "celsius", measured.get("celsius")
    if battery and quantities & {"volts", "amps", "energy"} and "percent" not in measured:
        told = quantities & {"volts", "amps", "energy"}
        own = {"volts": "phone_volts", "amps": "phone_amps"}.get(next(iter(told))) if len(told) == 1 else None
        return (own, measured.get(next(iter(told)))) if own else ("ignore", None)
    return None


def place(heading: str) -> str:
    """The place that a temperature column's heading names; `back` where it names none."""
    words = re.findall(r"[^\W_]+", _BRACKETS.sub(" ", heading.lower()))
    rest = [w for w in words if plain(w) not in UNIT_WORDS and plain(w) not in QUANTITY_WORDS["celsius"]]
    return " ".join(rest) or "back"
