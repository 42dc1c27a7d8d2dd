"""A reader's decision about a run, as it is kept: undone by a mark, never destroyed."""

import datetime as dt
import uuid
from dataclasses import asdict
from typing import Literal, Self

from pydantic import Field

from ..core.reading import Cause, Decision
from .document import Document


class DecisionDocument(Document):
    """See `core.reading.Decision`; at : when it was made, undone_at : when it was undone, if it was."""

    id: uuid.UUID = Field(default_factory=uuid.uuid4)
    at: dt.datetime
    about: Literal["dip", "phase"]
    start_s: float
    end_s: float
    cause: Cause | Literal["no dip"] | None = None
    new_start_s: float | None = None
    new_end_s: float | None = None
    by: str = ""
    why: str = ""
    undone_at: dt.datetime | None = None
    undone_by: str = ""

    @classmethod
    def of(cls, decision: Decision, at: dt.datetime) -> Self:
        """Of a decision of the core."""
        return cls(at=at, **asdict(decision))

    def decision(self) -> Decision:
        """The same for the core."""
        return Decision(
            self.about, self.start_s, self.end_s, self.cause, self.new_start_s, self.new_end_s, self.by, self.why
        )
