"""Record of the lane that a run was made on: how it was set, and its whole log."""

import datetime as dt
from collections.abc import Mapping
from typing import Any

from pydantic import BaseModel, Field

from .document import Document


class StepDocument(BaseModel):
    """A step of setting a lane, as it was told."""

    skipped: bool = False
    reason: str = ""
    by: str = ""


class LineValue(BaseModel):
    """The value of a line before it was corrected."""

    value: float | None
    unit: str
    text: str


class LineDocument(BaseModel):
    """A line of a lane's log; t_s : seconds on the lane's clock; what was undone and corrected is told."""

    t_s: float
    at: dt.datetime
    kind: str
    value: float | None = None
    unit: str = ""
    text: str = ""
    advice: str = ""
    by: str = ""
    first: LineValue | None = None
    corrected_by: str | None = None
    corrected_at: dt.datetime | None = None
    undone_by: str | None = None
    undone_at: dt.datetime | None = None


class BenchRecord(Document):
    """The lane of a run: its name, how and why it ended, how fast its clock went, its steps, its log."""

    lane: str = ""
    outcome: str = ""
    reason: str = ""
    speed: float = 1.0
    setup: dict[str, StepDocument] = Field(default_factory=dict)
    log: list[LineDocument] = Field(default_factory=list)

    @classmethod
    def upgraded(cls, raw: Mapping[str, Any], version: int) -> Mapping[str, Any]:
        # What was seen at an alarm and what to do stood in one text, a line each.
        log = []
        for line in raw.get("log", ()):
            text, _, advice = str(line.get("text", "")).partition("\n")
            log.append({**line, "text": text, "advice": advice} if line["kind"] == "alarm" else line)
        return {**raw, "log": log}

    def kept(self) -> dict[str, Any]:
        # What a line has not is left out: a log is long.
        return {**super().kept(), "log": [line.model_dump(mode="json", exclude_defaults=True) for line in self.log]}
