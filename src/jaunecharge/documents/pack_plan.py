"""A plan of pack tests as it is kept: when somebody is there, and each test in time."""

import datetime as dt
from typing import Annotated

from pydantic import BaseModel, Field

from .choice import Hours
from .document import Document
from .pack_test import Kind

Label = Annotated[str, Field(min_length=1, max_length=200)]


class PlannedPackTest(BaseModel):
    """A test of a pack in time; fill_at : when the pack is plugged in to be full, None where it need not be."""

    pack: str
    method: str
    kind: Kind
    fill_at: dt.datetime | None
    start: dt.datetime
    end: dt.datetime
    attended: bool


class PackPlanDocument(Document):
    """A plan of pack tests."""

    zone: str
    attended: list[Hours]
    meters: int = 1
    tests: list[PlannedPackTest] = Field(default_factory=list)
