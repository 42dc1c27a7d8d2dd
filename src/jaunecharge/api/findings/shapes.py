"""Findings as their station wants them."""

import datetime as dt
import uuid
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from ...documents.finding import (
    AskedOfFinding,
    DraftDocument,
    SentenceDocument,
)
from ...documents.ribbon import RibbonDocument
from ..numbers import Revision

Key = Annotated[str, Field(max_length=2000)]


class Asked(AskedOfFinding):
    """Question of a finding, and its runs and packs; the runs of its plan count besides."""

    model_config = ConfigDict(extra="forbid")


class AskedAnew(Asked):
    """The same of a finding that is there, in the state in which it was seen."""

    revision: Revision


class Seen(BaseModel):
    """The state in which a finding was seen."""

    revision: Revision


class NewWords(BaseModel):
    """Words in place of those of a sentence; null takes the first wording again."""

    key: Key
    words: Annotated[str, Field(max_length=4000)] | None
    revision: Revision


class LeftOutSentence(BaseModel):
    """Whether a sentence is left out."""

    key: Key
    left_out: bool
    revision: Revision


class Published(BaseModel):
    """Whether a finding is published."""

    published: bool
    revision: Revision


class SharedShape(BaseModel):
    """The link by which a finding is shared; empty where it is not."""

    url: str
    note: str = Field(description="who can open it, and who can read along")
    since: dt.datetime | None
    by: str


class FindingListed(BaseModel):
    """A finding in the list."""

    id: uuid.UUID
    question: str
    state: str
    drawn_at: dt.datetime
    published_at: dt.datetime | None
    stale: bool
    plan: uuid.UUID | None


class ChangedSource(BaseModel):
    """A source that is not as it was when the finding was drawn up."""

    said: str
    run: uuid.UUID | None


class WordedSentence(BaseModel):
    """Words of a sentence where they are not as they were drawn up: edited by whom, its first wording; or words
    that wait, as their sentence says something else by now."""

    key: str
    words: str
    by: str = Field(description="who edited it; empty where nobody did")
    first: str
    waiting: str
    left_out: bool


class FindingRun(BaseModel):
    """A run that a finding uses, with its ribbon where it is shown."""

    id: uuid.UUID
    label: str
    ribbon: RibbonDocument | None


class FindingShape(BaseModel):
    """A finding: what was asked, the draft, words that people put in, and whether it is up to date."""

    id: uuid.UUID
    revision: int
    asked: Asked
    plan_question: str
    draft: DraftDocument
    worded: list[WordedSentence]
    changed: list[ChangedSource]
    runs: list[FindingRun]
    drawn_at: dt.datetime
    drawn_by: str
    software: str
    published_at: dt.datetime | None
    published_by: str
    tiers: list[str] = Field(description="tiers of phones that advice can be asked for")
    currencies: list[str]


class AdviceShape(BaseModel):
    """Advice to somebody, line by line."""

    lines: list[SentenceDocument]
