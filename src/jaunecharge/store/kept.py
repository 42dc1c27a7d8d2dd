"""Columns of JSON as the documents that they hold: `run.summary` is a `RunSummary`, and what is kept is what it gives.

A document is read when it is asked for, so that a row that cannot be read spoils no list of others.
"""

from collections.abc import Callable, Iterable, Mapping
from typing import Any, Generic, TypeVar, overload

from ..core.plan import Card
from ..documents.bench_record import StepDocument
from ..documents.card import card_document, card_of
from ..documents.document import Document

D = TypeVar("D", bound=Document)
R = TypeVar("R")


def _once(row: Any, column: str, read: Callable[[Any], R]) -> R:
    """The document of a column, read once as long as the row keeps the same JSON: documents are never changed."""
    raw = getattr(row, column)
    known = row.__dict__.get(f"{column}_read")
    if known is None or known[0] is not raw:
        known = row.__dict__[f"{column}_read"] = raw, read(raw)
    document: R = known[1]
    return document


class Kept(Generic[D]):
    """A document that must be there; column : the attribute that holds its JSON."""

    def __init__(self, column: str, form: type[D]) -> None:
        self.column, self.form = column, form

    @overload
    def __get__(self, row: None, owner: type) -> "Kept[D]": ...
    @overload
    def __get__(self, row: object, owner: type) -> D: ...
    def __get__(self, row: object | None, owner: type) -> "Kept[D] | D":
        return self if row is None else _once(row, self.column, self.form.read)

    def __set__(self, row: object, value: D) -> None:
        setattr(row, self.column, value.kept())


class MaybeKept(Generic[D]):
    """A document that may be missing: None where its column is empty. Only a column that is never NULL keeps `{}`."""

    def __init__(self, column: str, form: type[D], empty: dict[str, Any] | None = None) -> None:
        self.column, self.form, self.empty = column, form, empty

    @overload
    def __get__(self, row: None, owner: type) -> "MaybeKept[D]": ...
    @overload
    def __get__(self, row: object, owner: type) -> D | None: ...
    def __get__(self, row: object | None, owner: type) -> "MaybeKept[D] | D | None":
        if row is None:
            return self
        return _once(row, self.column, lambda raw: self.form.read(raw) if raw else None)

    def __set__(self, row: object, value: D | None) -> None:
        setattr(row, self.column, self.empty if value is None else value.kept())


class KeptList(Generic[D]):
    """A list of documents."""

    def __init__(self, column: str, form: type[D]) -> None:
        self.column, self.form = column, form

    @overload
    def __get__(self, row: None, owner: type) -> "KeptList[D]": ...
    @overload
    def __get__(self, row: object, owner: type) -> tuple[D, ...]: ...
    def __get__(self, row: object | None, owner: type) -> "KeptList[D] | tuple[D, ...]":
        return self if row is None else tuple(self.form.read(raw) for raw in getattr(row, self.column) or ())

    def __set__(self, row: object, value: Iterable[D]) -> None:
        setattr(row, self.column, [document.kept() for document in value])


class MaybeKeptCard:
    """A method card as it was then, if there is one."""

    @overload
    def __get__(self, row: None, owner: type) -> "MaybeKeptCard": ...
    @overload
    def __get__(self, row: object, owner: type) -> Card | None: ...
    def __get__(self, row: Any, owner: type) -> "MaybeKeptCard | Card | None":
        if row is None:
            return self
        return _once(row, "card_json", lambda raw: None if raw is None else card_of(raw))

    def __set__(self, row: Any, value: Card | None) -> None:
        row.card_json = None if value is None else card_document(value)


class KeptCard:
    """A method card as it was then."""

    @overload
    def __get__(self, row: None, owner: type) -> "KeptCard": ...
    @overload
    def __get__(self, row: object, owner: type) -> Card: ...
    def __get__(self, row: Any, owner: type) -> "KeptCard | Card":
        return self if row is None else _once(row, "card_json", card_of)

    def __set__(self, row: Any, value: Card) -> None:
        row.card_json = card_document(value)


class KeptSteps:
    """Told steps of setting a lane, by their keys."""

    @overload
    def __get__(self, row: None, owner: type) -> "KeptSteps": ...
    @overload
    def __get__(self, row: object, owner: type) -> dict[str, StepDocument]: ...
    def __get__(self, row: Any, owner: type) -> "KeptSteps | dict[str, StepDocument]":
        if row is None:
            return self
        return {key: StepDocument.model_validate(raw) for key, raw in row.setup_json.items()}

    def __set__(self, row: Any, value: Mapping[str, StepDocument]) -> None:
        row.setup_json = {key: step.model_dump() for key, step in value.items()}
