"""Base of every kept document: a version, and a way to be read however old it is."""

from collections.abc import Mapping
from typing import Any, ClassVar, Self

from pydantic import BaseModel, ConfigDict, ValidationError

VERSION = "version"


class Document(BaseModel):
    """A document as the store keeps it. `VERSION` rises with its form; `upgraded` says what an older one becomes.

    What a newer version added is ignored, what an older one had not is as it was then: by its default.
    """

    model_config = ConfigDict(extra="ignore", allow_inf_nan=False, frozen=True)
    VERSION: ClassVar[int] = 1

    @classmethod
    def upgraded(cls, raw: Mapping[str, Any], version: int) -> Mapping[str, Any]:
        """An older form in the terms of the present one; version : of the form, 0 where it was kept without one."""
        return raw

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """The document of what is kept.

        Raises
        ------
        ValidationError
        """
        version = int(raw.get(VERSION, 0))
        return cls.model_validate(raw if version >= cls.VERSION else cls.upgraded(raw, version))

    def kept(self) -> dict[str, Any]:
        """JSON to keep."""
        return {VERSION: self.VERSION, **self.model_dump(mode="json")}


def said(error: ValidationError) -> tuple[str, str]:
    """Flaws of the first field that was refused, and what would mend it."""
    first = error.errors(include_url=False)[0]
    # Which of several shapes a value was held against is of no use to the person.
    field = ".".join(str(p) for p in first["loc"] if "[" not in str(p)) or "the document"
    value = first.get("input")
    shown = f" ({value!r})" if isinstance(value, str | int | float) else ""
    return f"{field}{shown} is refused", first["msg"][0].lower() + first["msg"][1:]
