"""Documents of files that hold many runs."""

import datetime as dt
import uuid
from typing import Annotated, Literal

from pydantic import BaseModel, Field

from ...documents.case import Case
from ...documents.ribbon import RibbonDocument
from ...formats.many.contents import Kind
from ..numbers import Zone
from ..shapes import Factors
from .upload_shapes import RunRef

MOST_RUNS = 200


class RunInFileShape(BaseModel):
    """One run of a file, before it is stored."""

    n: int
    label: str
    kind: Kind
    minutes: float = Field(description="how long it lasts")
    start_min: float = Field(description="where it begins, on the file's own clock")
    placed_min: float | None = Field(description="when the phone was placed, on the file's own clock")
    from_percent: float | None
    to_percent: float | None
    readings: int = Field(description="percentages that it has")
    factors: dict[str, str] = Field(description="what the file says of it")
    ribbon: RibbonDocument | None = Field(description="null where it cannot be read by itself")
    sure: bool = Field(description="whether it is plainly another phone, not the same one after a stop")
    read_before: RunRef | None = Field(description="a run that was read from the same recording")


class FileRunsShape(BaseModel):
    """The runs of a file, and what was left out."""

    name: str
    runs: list[RunInFileShape]
    left_out: list[str]
    read_before: list[RunRef] = Field(description="runs that were read from the same file")


class RunWanted(BaseModel):
    """A run to be stored: its number in the file, or those of placings that are joined."""

    ns: list[Annotated[int, Field(ge=1, le=10_000)]] = Field(min_length=1, max_length=MOST_RUNS)
    label: str = Field("", max_length=200)
    factors: Factors = Field(default_factory=Factors, description="over those that hold for all")


class NewRunsShape(BaseModel):
    """Runs of one file to be stored, all or none."""

    upload: uuid.UUID
    runs: list[RunWanted] = Field(min_length=1, max_length=MOST_RUNS)
    factors: Factors = Field(default_factory=Factors, description="what holds for all of them")
    case: Case = Field(default_factory=Case)
    note: str = Field("", max_length=4000)
    zone: Zone = "UTC"


class StoredRuns(BaseModel):
    """Runs that were stored, in the order of the file."""

    runs: list[uuid.UUID]
    at: dt.datetime


class RunsProgress(BaseModel):
    """Progress of runs that are stored, a line of `application/x-ndjson` each; the last carries them."""

    step: Literal["waiting", "running", "reading", "storing", "done", "refused"]
    fraction: float
    runs: list[uuid.UUID] | None = None
    at: dt.datetime | None = None
