"""The shelf as files: JSON with every fact as it is, CSV with one row a piece as it would be typed."""

import csv
import io
import json
from collections.abc import Iterable
from pathlib import Path

from ..core.errors import CannotRead
from ..core.kit import FIELDS, Flawed, Kit, item_from, texts_of
from ..core.labels import as_typed
from ..documents.kit import facts_of, kit_of
from .write.csv_xlsx import csv_text

LARGEST = 5_000_000
COLUMNS = ("kind", *dict.fromkeys(f.name for own in FIELDS.values() for f in own))


def kit_json(items: Iterable[Kit]) -> str:
    """The shelf as a JSON document."""
    shelf = {"format": "kit shelf", "version": 1, "kit": [facts_of(i) for i in items]}
    return json.dumps(shelf, indent=1, ensure_ascii=False)


def kit_csv(items: Iterable[Kit]) -> str:
    """The shelf as a CSV: a column for each field of any kind, each cell as it would be typed."""
    rows = []
    for item in items:
        texts = {"kind": item.kind, **texts_of(item)}
        rows.append([texts.get(column, "") for column in COLUMNS])
    return csv_text(COLUMNS, rows)


def kit_from_text(text: str, name: str) -> tuple[Kit, ...]:
    """Kit from the text of a JSON or CSV file.

    Raises
    ------
    CannotRead
        Naming the row (or the number of the piece) and the field.
    """
    text = text.removeprefix("\ufeff")
    items = _from_json(text, name) if text.lstrip().startswith(("{", "[")) else _from_csv(text, name)
    seen: dict[str, int] = {}
    for row, item in items:
        if item.label.lower() in seen:
            raise CannotRead(f"the label “{item.label}” stands in it twice", "labels are unique", file=name, row=row)
        seen[item.label.lower()] = row
    return tuple(item for _, item in items)


def read_shelf(path: Path) -> tuple[Kit, ...]:
    """Kit from a JSON or CSV file.

    Raises
    ------
    CannotRead
    """
    try:
        if path.stat().st_size > LARGEST:
            raise CannotRead("it is larger than a shelf can be", f"at most {LARGEST // 1_000_000} MB", file=path.name)
        return kit_from_text(path.read_text(encoding="utf-8"), path.name)
    except OSError as error:
        raise CannotRead("there is no such file", "check its name and folder", file=path.name) from error
    except UnicodeDecodeError as error:
        raise CannotRead("it is not text in UTF-8", "save it as UTF-8", file=path.name) from error


def _from_json(text: str, name: str) -> list[tuple[int, Kit]]:
    try:
        document = json.loads(text)
    except (json.JSONDecodeError, RecursionError) as error:
        line = getattr(error, "lineno", None)
        raise CannotRead("it is not JSON", "check the line", file=name, row=line) from error
    pieces = document.get("kit") if isinstance(document, dict) else document
    if not isinstance(pieces, list):
        raise CannotRead("it holds no list of kit", "a list, or an object with a list “kit”", file=name)
    items = []
    for number, piece in enumerate(pieces, start=1):
        if not isinstance(piece, dict):
            raise CannotRead(f"piece {number} is not an object", "kind, label and facts of each", file=name)
        try:
            items.append((number, kit_of(piece)))
        except CannotRead as error:
            raise CannotRead(f"piece {number}: {error.what}", error.mend, file=name) from error
    return items


def _from_csv(text: str, name: str) -> list[tuple[int, Kit]]:
    first = text.split("\n", 1)[0]
    separator = max(",;\t", key=first.count)
    try:
        rows = list(csv.DictReader(io.StringIO(text), delimiter=separator, restkey="", restval=""))
    except csv.Error as error:
        raise CannotRead(f"it is not a CSV ({error})", "save it as CSV", file=name) from error
    headings = {(h or "").strip() for h in (rows[0].keys() if rows else ())}
    if not {"kind", "label"} <= headings:
        raise CannotRead(
            "its first row does not name kind and label", f"headings: {', '.join(COLUMNS[:6])} …", file=name
        )
    items = []
    for row, cells in enumerate(rows, start=2):
        texts = {k.strip(): _plain(v) for k, v in cells.items() if isinstance(v, str) and k}
        if not any(texts.values()):
            continue
        try:
            items.append((row, item_from(texts.get("kind", "").lower(), texts)))
        except Flawed as error:
            flaw = error.flaws[0]
            raise CannotRead(f"{flaw.field}: {flaw.what}", flaw.mend, file=name, row=row) from error
        except CannotRead as error:
            raise CannotRead(error.what, error.mend, file=name, row=row) from error
    return items


def _plain(cell: str) -> str:
    """A cell without the apostrophes that keep a spreadsheet from running it."""
    return as_typed(cell.strip())
