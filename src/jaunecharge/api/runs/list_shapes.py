"""Shapes of lists: what is asked for, and how large what is found is."""

from typing import Literal

from pydantic import BaseModel, Field

from ...store.listing import pages

RunKind = Literal["measured", "simulated", "all"]


class AskedList(BaseModel):
    """A page of a list of runs: words that all stand in a row, which kind; its order; where it begins."""

    words: str = Field("", max_length=200)
    kind: RunKind = "measured"
    sort: pages.Sort = "when"
    down: bool = True
    after: str | None = Field(None, max_length=4000, description="as the page before says; without it the first page")
    limit: int = Field(60, ge=1, le=200)


class AskedRuns(AskedList):
    """The same of one phone, where one is named."""

    phone: str = Field("", max_length=200)


class AskedHeat(AskedList):
    """The same of heat: those that lost most first; under the usual conditions only, where that is asked."""

    kind: RunKind = "all"
    sort: pages.Sort = "lost"
    like: bool = False


class ListScale(BaseModel):
    """Size of a list, and what its ribbons are drawn by."""

    count: int = Field(description="rows that fit")
    more: bool = Field(description="whether there are more than are counted")
    of: int = Field(description="rows without the filter")
    any: bool = Field(description="whether there is any run at all, of whichever kind")
    longest_min: float | None
    usual_min: float | None = Field(description="a length that most rows have at most")
    most_w: float | None
