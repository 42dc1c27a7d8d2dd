"""Headings of tables that people keep: of times, of a run by its name, of a factor, of something else."""

import re

from ...core.units import HOUR_S, MINUTE_S
from ..read.headings import QUANTITY_WORDS, UNIT_WORDS, plain

FACTOR_WORDS = {
    "charger": ("charger", "pad", "puck", "disc", "dock", "stand", "lader", "ladegerat", "chargeur", "cargador"),
    "phone": ("phone", "handy", "telefon", "telephone", "smartphone", "device", "gerat", "telefono"),
    "adapter": ("adapter", "adaptor", "plug", "netzteil", "supply", "brick"),
    "cable": ("cable", "kabel", "lead"),
    "case": ("case", "hulle", "cover"),
}
RUN_WORDS = ("run", "test", "name", "label", "trial", "lauf", "versuch", "nr", "no", "#", "number", "title", "which")
SUMMARY_WORDS = (
    "average",
    "mean",
    "total",
    "sum",
    "summary",
    "mittel",
    "mittelwert",
    "summe",
    "moyenne",
    "notes",
    "note",
)


def words_of(heading: str) -> list[str]:
    return [w for w in re.split(r"[^a-z0-9%°#]+", plain(heading)) if w]


def is_time(heading: str) -> bool:
    words = words_of(heading)
    units = {w for w, (quantity, _) in UNIT_WORDS.items() if quantity == "time"}
    known = {*QUANTITY_WORDS["time"], *units, "after", "since", "start", "placing", "in", "elapsed", "mm", "hh", "ss"}
    return (
        bool(words) and all(w in known for w in words) and any(w in units or w in QUANTITY_WORDS["time"] for w in words)
    )


def time_unit_s(heading: str) -> float | None:
    """Seconds of the unit that a heading of times names."""
    named = {"s": 1.0, "min": MINUTE_S, "h": HOUR_S, "ms": 1e-3}
    units = [UNIT_WORDS[w][1] for w in words_of(heading) if UNIT_WORDS.get(w, ("",))[0] == "time"]
    return next((named[u] for u in reversed(units) if u in named), None)


def other_quantity(heading: str) -> str | None:
    """The quantity that a heading plainly names, no percentage: by a unit in brackets, or by nothing else in it."""
    bracketed = [w.strip() for w in re.findall(r"[\[(]([^\])]*)[\])]", plain(heading))]
    words = words_of(heading)
    for word in bracketed:
        if word in UNIT_WORDS and UNIT_WORDS[word][0] not in ("percent", "time"):
            return UNIT_WORDS[word][0]
    if any("°" in w for w in words):
        return "celsius"
    quantities = {q: set(known) for q, known in QUANTITY_WORDS.items() if q not in ("percent", "time")}
    for word in words:
        quantity = next((q for q, known in quantities.items() if word in known), None)
        if quantity is None and UNIT_WORDS.get(word, ("percent",))[0] not in ("percent", "time") and len(words) == 1:
            quantity = UNIT_WORDS[word][0]
        if quantity is not None and all(w in UNIT_WORDS or w in quantities[quantity] for w in words):
            return quantity
    return None


def name_of(heading: str) -> str:
    """A run's name from the heading of its percentages: signs and words for a percentage left out."""
    text = re.sub(r"[\[(]\s*%\s*[\])]", " ", heading)
    text = re.sub(r"(?:^|\s)%(?:\s|$)", " ", text).strip().rstrip("%").strip()
    kept = [w for w in text.split() if plain(w) not in ("percent", "prozent", "pct", "soc", "level", "battery", "akku")]
    return " ".join(kept).strip(" ,;:-–")


def factor_of(heading: str) -> str | None:
    """The factor that a column of texts names; empty for a run's own name; None for neither."""
    words = words_of(heading)
    for name, known in FACTOR_WORDS.items():
        if any(w in known for w in words):
            return name
    return "" if any(w in RUN_WORDS for w in words) else None
