"""A table of phones charged from packs, as people keep it: a row a charge, levels before and after, many at once."""

import datetime as dt
import re
import uuid
from collections.abc import Sequence
from dataclasses import dataclass, field

from pydantic import ValidationError

from ...core.errors import CannotRead
from ...documents.document import said
from ...documents.pack_test import ChargeRead
from . import cells
from .headings import plain
from .layout import delimiter_of, rows
from .source import Source

PACK = frozenset({"pack", "packs", "bank", "powerbank", "power", "akku", "batterie", "source"})
PHONE = frozenset({"phone", "handy", "telefon", "telephone", "smartphone", "device", "gerat", "telefono", "receiver"})
BEFORE = frozenset({"before", "start", "from", "begin", "first", "vorher", "von", "avant", "initial"})
AFTER = frozenset({"after", "end", "to", "until", "last", "nachher", "bis", "apres", "final"})
WAY = frozenset({"way", "method", "coil", "cord", "wired", "wireless"})
OWN = {"kind": "kind", "id": "id"}
"""Columns of our own table of all tests, in which a charge is one kind among others."""
MINUTES = frozenset({"minutes", "min", "minuten", "duration", "took"})
WHEN = frozenset({"date", "when", "day", "datum", "at"})
BY_CORD = frozenset({"cord", "cable", "wire", "wired", "usb", "usbc", "kabel", "lead", "yes", "c"})
BY_COIL = frozenset({"coil", "wireless", "pad", "magnetic", "magnets", "qi", "qi2", "no", ""})
SPAN = re.compile(r"^(.+?)\s*(?:→|->|–|—|>|\bto\b|(?<=[\d%])\s*-)\s*(.+)$", re.IGNORECASE)
NEEDED = ("pack before", "pack after", "phone before", "phone after")
MOST_ROWS = 5000


@dataclass(frozen=True)
class TypedCharge:
    """One row: the label of its pack, empty where the table does not say; the charge; when, None where not said; the id
    that it left with, where it is our own."""

    row: int
    pack: str
    charge: ChargeRead
    at: dt.datetime | None
    id: uuid.UUID | None = None


@dataclass
class ChargesFound:
    """Charges of a table, and what was left out, each with its row and why."""

    charges: list[TypedCharge] = field(default_factory=list)
    left_out: list[str] = field(default_factory=list)


def charges_in(source: Source) -> ChargesFound | None:
    """The charges of a table: levels in columns of their own, or two in one cell (`100 to 27`); None where it is none.

    Raises
    ------
    CannotRead
        If it has more rows than anybody charges.
    """
    delimiter = "" if source.is_workbook else delimiter_of(source)
    found, columns, heads = ChargesFound(), None, 0
    for number, row in rows(source, delimiter, None):
        if columns is None:
            heads += 1
            columns = _columns(row)
            if columns is None and heads > 10:
                return None
            continue
        if not any(c.strip() for c in row) or _is_another_kind(row, columns):
            continue
        if number > MOST_ROWS:
            raise CannotRead(f"it has more than {MOST_ROWS} rows", "cut it into several", file=source.name)
        try:
            found.charges.append(_charge(number, row, columns))
        except CannotRead as error:
            found.left_out.append(f"row {number}: {error.what}: {error.mend}")
    return found if columns is not None else None


def _columns(row: Sequence[str]) -> dict[str, int] | None:
    """Which column says what; None where this is not the row of headings."""
    columns: dict[str, int] = {}
    for i, heading in enumerate(row):
        name = _meaning(heading)
        if name and name not in columns:
            columns[name] = i
    levels = sum(name in columns for name in NEEDED)
    return columns if levels == len(NEEDED) or {"pack span", "phone span"} <= columns.keys() else None


def _meaning(heading: str) -> str:
    words = set(re.split(r"[^a-z0-9%]+", plain(heading))) - {""}
    whose = "pack" if words & PACK else "phone" if words & PHONE else ""
    if whose:
        levels = "%" in heading or "level" in words
        other = f"{whose} span" if levels else whose
        return f"{whose} before" if words & BEFORE else f"{whose} after" if words & AFTER else other
    if plain(heading).strip() in OWN:
        return OWN[plain(heading).strip()]
    for name, known in (("minutes", MINUTES), ("when", WHEN), ("way", WAY)):
        if words & known:
            return name
    return ""


def _is_another_kind(row: Sequence[str], columns: dict[str, int]) -> bool:
    """Whether a row of our own table is a test of another kind."""
    i = columns.get("kind")
    return i is not None and i < len(row) and row[i].strip() not in {"", "charge"}


def _charge(number: int, row: Sequence[str], columns: dict[str, int]) -> TypedCharge:
    def cell(name: str) -> str:
        i = columns.get(name)
        return row[i].strip() if i is not None and i < len(row) else ""

    levels = {name: cell(name) for name in NEEDED}
    names = {whose: cell(whose) for whose in ("pack", "phone")}
    if not any(levels.values()):
        for whose in ("pack", "phone"):
            both = cell(f"{whose} span")
            span = SPAN.match(both)
            if span is None:
                raise CannotRead(f"“{both[:40]}” is not two levels", "write 100 to 27")
            levels[f"{whose} before"], levels[f"{whose} after"] = span[1].strip(), span[2].strip()
    missing = [name for name in NEEDED if not levels[name]]
    if missing:
        raise CannotRead(f"{missing[0]} is empty", "a charge is four levels")
    minutes, when = cell("minutes"), cell("when")
    facts = {
        "phone": names["phone"], "pack_before": levels["pack before"], "pack_after": levels["pack after"],
        "phone_before": _percent(levels["phone before"]), "phone_after": _percent(levels["phone after"]),
        "by_cord": _by_cord(cell("way")), "minutes": _figure(minutes) if minutes else None,
    }  # fmt: skip
    try:
        charge = ChargeRead.model_validate(facts)
    except ValidationError as error:
        what, mend = said(error)
        raise CannotRead(what, mend) from error
    charge.charge()
    return TypedCharge(number, names["pack"], charge, _moment(when) if when else None, _own_id(cell("id")))


def _own_id(text: str) -> uuid.UUID | None:
    try:
        return uuid.UUID(text)
    except ValueError:
        return None


def _percent(text: str) -> float:
    return _figure(text.rstrip("% "))


def _figure(text: str) -> float:
    try:
        return cells.number(text, "," in text and "." not in text)
    except ValueError as error:
        raise CannotRead(f"“{text[:40]}” is no figure", "write figures, as 62") from error


def _by_cord(text: str) -> bool:
    words = set(re.split(r"[^a-z0-9]+", plain(text)))
    if words & (BY_CORD - BY_COIL):
        return True
    if words & BY_COIL:
        return False
    raise CannotRead(f"“{text[:40]}” is no way of charging", "write coil or cord")


def _moment(text: str) -> dt.datetime:
    try:
        moment = cells.moment(text)
    except ValueError as error:
        raise CannotRead(f"“{text[:40]}” is no date", "write it as 2027-03-01") from error
    return moment if moment.tzinfo is not None else moment.replace(tzinfo=dt.UTC)
