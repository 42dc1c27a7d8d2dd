"""Corrections of how a table is understood, kept under a name for tables of the same headings."""

from typing import Annotated

from pydantic import BaseModel, Field

from .document import Document

MOST_COLUMNS = 300
Heading = Annotated[str, Field(max_length=400)]


class MappedColumn(BaseModel):
    """Quantity of a column, and its unit."""

    quantity: str = Field(max_length=40)
    unit: str | None = Field(None, max_length=40)


class Mapping(Document):
    """Corrections under a name, by the headings of the table."""

    name: str = Field(min_length=1, max_length=80)
    headings: list[Heading] = Field(min_length=1, max_length=MOST_COLUMNS)
    columns: dict[int, MappedColumn] = Field(default_factory=dict, max_length=MOST_COLUMNS)
    time_form: str | None = Field(None, max_length=40)
    comma: bool | None = None

    def fits(self, headings: list[str]) -> bool:
        """Whether a table has the same headings, in the same order."""
        return [h.strip().casefold() for h in self.headings] == [h.strip().casefold() for h in headings]


class Mappings(Document):
    """All that were kept."""

    mappings: list[Mapping] = Field(default_factory=list)
