"""Data packages as the pages want them."""

import uuid
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field


class WantedPackage(BaseModel):
    """A package to be written: of one finding, or of everything."""

    model_config = ConfigDict(extra="forbid")

    finding: uuid.UUID | None = None


class ArrivedPackage(BaseModel):
    """A package that was sent."""

    id: uuid.UUID


class SentPackage(BaseModel):
    """A package that was sent, to be brought in; take : how what was changed here and there is settled."""

    model_config = ConfigDict(extra="forbid")

    upload: uuid.UUID
    take: Literal["", "theirs", "mine"] = ""


class ConflictShape(BaseModel):
    """A row that was changed here and there."""

    table: str
    label: str
    differs: list[str]


class PackageProgress(BaseModel):
    """Progress of a package, a line of `application/x-ndjson` each; the last carries what came of it."""

    step: Literal["waiting", "running", "exporting", "importing", "done", "refused"]
    fraction: float
    package: uuid.UUID | None = Field(None, description="of a package that was written: where it is fetched")
    new: dict[str, int] = Field(default_factory=dict)
    equal: dict[str, int] = Field(default_factory=dict)
    taken: dict[str, int] = Field(default_factory=dict)
    conflicts: list[ConflictShape] = Field(default_factory=list)
