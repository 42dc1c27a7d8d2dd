"""Kit as it is kept: its facts by name."""

from collections.abc import Mapping
from typing import Annotated, Any

from pydantic import Field, TypeAdapter, ValidationError

from ..core.errors import CannotRead
from ..core.kit import Kit, flaws
from ..core.labels import label
from .document import said

_KIT: TypeAdapter[Kit] = TypeAdapter(Annotated[Kit, Field(discriminator="kind")])


def kit_of(facts: Mapping[str, Any]) -> Kit:
    """Kit from its facts as they are stored.

    Raises
    ------
    CannotRead
        Naming the field.
    """
    try:
        item = _KIT.validate_python(dict(facts))
    except ValidationError as error:
        what, mend = said(error)
        raise CannotRead(what, mend) from error
    label(item.label)
    if flawed := flaws(item):
        raise CannotRead(f"{flawed[0].field}: {flawed[0].what}", flawed[0].mend)
    return item


def facts_of(item: Kit) -> dict[str, Any]:
    """The facts of kit, for a JSON document; what is not known is left out."""
    return {name: value for name, value in _KIT.dump_python(item, mode="json").items() if value not in (None, "", [])}
