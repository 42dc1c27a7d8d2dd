"""Mappings of columns that were kept under a name, for tables of the same headings."""

from sqlalchemy.orm import Session

from ..core.errors import CannotRead
from ..core.labels import label
from ..documents.mapping import Mapping, Mappings
from . import models as m

KEY = "mappings"
MOST = 200


def mappings(session: Session) -> list[Mapping]:
    """All that were kept, by name."""
    row = session.get(m.Setting, KEY)
    kept = [] if row is None else Mappings.read(row.value).mappings
    return sorted(kept, key=lambda x: x.name.casefold())


def mapping_for(session: Session, headings: list[str]) -> Mapping | None:
    """The mapping of tables with these headings, the one kept last; None where there is none."""
    row = session.get(m.Setting, KEY)
    kept = [] if row is None or not any(headings) else Mappings.read(row.value).mappings
    return next((x for x in reversed(kept) if x.fits(headings)), None)


def keep_mapping(session: Session, new: Mapping, by: str) -> Mapping:
    """Keep a mapping; one of the same name goes.

    Raises
    ------
    CannotRead
        If it has no name, or there are too many.
    """
    name = label(new.name, "name")
    if not name:
        raise CannotRead("it has no name", "give it one", file="name")
    new = new.model_copy(update={"name": name})
    others = [x for x in _all_for_change(session, by) if x.name.casefold() != name.casefold()]
    if len(others) >= MOST:
        raise CannotRead(f"{MOST} are kept already", "delete one that you no longer need", file="name")
    _put(session, [*others, new], by)
    return new


def delete_mapping(session: Session, name: str, by: str) -> None:
    """Forget a mapping."""
    _put(session, [x for x in _all_for_change(session, by) if x.name.casefold() != name.casefold()], by)


def _all_for_change(session: Session, by: str) -> list[Mapping]:
    row = session.get(m.Setting, KEY, with_for_update=True)
    if row is None:
        session.add(m.Setting(key=KEY, value=Mappings().kept(), revision=1, by=by))
        session.flush()
        return []
    return Mappings.read(row.value).mappings


def _put(session: Session, kept: list[Mapping], by: str) -> None:
    row = session.get_one(m.Setting, KEY)
    row.value, row.revision, row.by = Mappings(mappings=kept).kept(), row.revision + 1, by
    session.flush()
