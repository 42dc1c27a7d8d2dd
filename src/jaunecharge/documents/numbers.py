"""Figures as documents carry them."""

from typing import Any, Self

from pydantic import BaseModel, Field

from ..core.measured import Measured, Part


def number(value: float | None, places: int = 4) -> float | None:
    """A figure rounded for print, or None."""
    return None if value is None else round(value, places)


class MeasuredDocument(BaseModel):
    """A value and its expanded uncertainty, k = 2."""

    value: float
    expanded: float | None = Field(description="null where nothing of the uncertainty is known")

    @classmethod
    def of(cls, value: Measured) -> Self:
        """Of a value of the core, in one unit."""
        return cls(value=round(value.value, 4), expanded=number(value.stated))

    def measured(self, source: str) -> Measured:
        """The same for the core, its uncertainty from one source; one that is not known is kept as none at all."""
        return Measured(self.value, (Part(source, (self.expanded or 0.0) / 2.0),))


def measured(value: Measured | None) -> dict[str, Any] | None:
    """The same for a document that is put together by hand."""
    return None if value is None else MeasuredDocument.of(value).model_dump()
