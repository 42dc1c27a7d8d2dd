"""A finding as it is kept: what was asked, what was drawn up, and the words that somebody put in place of others."""

import datetime as dt
import uuid
from typing import Annotated, ClassVar, Literal, Self

from pydantic import BaseModel, ConfigDict, Field

from ..core.findings import (
    Audience,
    ClaimRow,
    ClaimTyped,
    Disclosed,
    Draft,
    DraftBlock,
    DraftRow,
    FindingSentence,
    Foreign,
    Found,
    Got,
    Kind,
    Stated,
)
from .document import Document
from .numbers import MeasuredDocument

MOST_RUNS, MOST_PACKS, MOST_CLAIMS, MOST_FOREIGN = 400, 60, 60, 60
Line = Annotated[str, Field(max_length=300, pattern=r"^[^\x00]*$")]
Name = Annotated[str, Field(max_length=120, pattern=r"^[^\x00]*$")]


class ClaimTypedDocument(BaseModel):
    """A claim as somebody makes it: of what, in which words, against what where it compares."""

    about: Name
    text: Line
    against: Name = ""

    def claim(self) -> ClaimTyped:
        """The same for the core."""
        return ClaimTyped(self.about, self.text, self.against)


class ForeignDocument(BaseModel):
    """A figure that somebody else published: what, the figure as it stands there, where, when."""

    what: Line
    figure: Line
    source: Line
    date: Name = ""

    def foreign(self) -> Foreign:
        """The same for the core."""
        return Foreign(self.what, self.figure, self.source, self.date)


class DisclosedDocument(BaseModel):
    """Origin of a piece of kit: bought, lent, sponsored."""

    label: Name
    got: Got = "not stated"
    note: Line = ""

    def disclosed(self) -> Disclosed:
        """The same for the core."""
        return Disclosed(self.label, self.got, self.note)


class StatedDocument(BaseModel):
    """A figure of a sentence: its key, its text, its kind, value, unit and interval, what it rests on, its working."""

    key: str
    text: str
    kind: Kind
    value: float
    unit: str
    low: float | None
    high: float | None
    of: list[str] = Field(description="ids of runs, or labels of packs, that it rests on")
    how: str

    @classmethod
    def of_figure(cls, figure: Stated) -> Self:
        """Of a figure of the core."""
        return cls(**{**vars(figure), "of": list(figure.of)})

    def figure(self) -> Stated:
        """The same for the core."""
        return Stated(**{**self.model_dump(), "of": tuple(self.of)})


class SentenceDocument(BaseModel):
    """A sentence: each figure in its words stands in square brackets, strong words between asterisks."""

    key: str
    words: str
    figures: list[StatedDocument]
    basis: str

    @classmethod
    def of(cls, sentence: FindingSentence) -> Self:
        """Of a sentence of the core."""
        figures = [StatedDocument.of_figure(f) for f in sentence.figures]
        return cls(key=sentence.key, words=sentence.words, figures=figures, basis=sentence.basis)

    def sentence(self) -> FindingSentence:
        """The same for the core."""
        return FindingSentence(self.key, self.words, tuple(f.figure() for f in self.figures), self.basis)


class FindingRow(BaseModel):
    """A charger on a phone: its runs, the typical one first, its place as a range, and the verdict."""

    label: str
    runs: list[str]
    place: str
    minutes: float
    noise_min: float
    hottest_c: float | None
    energy_wh: MeasuredDocument | None
    price: float | None
    currency: str
    verdict: SentenceDocument

    @classmethod
    def of(cls, row: DraftRow) -> Self:
        """Of a row of the core."""
        energy = row.energy
        return cls(
            label=row.label, runs=list(row.runs), place=row.place, minutes=row.minutes, noise_min=row.noise_min,
            hottest_c=row.hottest_c,
            energy_wh=None if energy is None else MeasuredDocument(value=energy.value, expanded=energy.stated),
            price=None if row.price is None else row.price[0], currency="" if row.price is None else row.price[1],
            verdict=SentenceDocument.of(row.verdict),
        )  # fmt: skip


class FindingBlock(BaseModel):
    """A phone under like conditions: its tier, the window [%], the chargers, and the best for each purpose."""

    phone: str
    tier: str
    where: str
    window: list[float] | None = Field(description="from and to [%]", min_length=2, max_length=2)
    wired: str = Field(description="time by wire, in words; empty where none was run")
    rows: list[FindingRow]
    best: list[SentenceDocument]
    alone: list[str] = Field(description="chargers that nothing was compared with")

    @classmethod
    def of(cls, block: DraftBlock) -> Self:
        """Of a block of the core."""
        return cls(
            phone=block.phone, tier=block.tier, where=block.where,
            window=None if block.window is None else list(block.window), wired=block.wired,
            rows=[FindingRow.of(r) for r in block.rows], best=[SentenceDocument.of(s) for s in block.best],
            alone=list(block.alone),
        )  # fmt: skip


class ClaimRowDocument(BaseModel):
    """A claim, how it fares, and by which reading of it."""

    about: str
    claim: str
    by_maker: bool = Field(description="as it stands on the shelf, else as it was typed")
    on: str = Field(description="phone that it was tried on")
    found: Found
    reading: str
    sentence: SentenceDocument

    @classmethod
    def of(cls, row: ClaimRow) -> Self:
        """Of a row of the core."""
        return cls(**{**vars(row), "sentence": SentenceDocument.of(row.sentence)})


class DraftDocument(Document):
    """A finding as it was drawn up."""

    VERSION: ClassVar[int] = 1

    answer: list[SentenceDocument]
    blocks: list[FindingBlock]
    packs: list[SentenceDocument]
    claims: list[ClaimRowDocument]
    foreign: list[SentenceDocument]
    method: list[SentenceDocument]
    not_tested: list[SentenceDocument]
    limits: list[SentenceDocument]
    cautions: list[SentenceDocument]
    next: list[SentenceDocument]
    state: str

    @classmethod
    def of(cls, draft: Draft) -> Self:
        """Of a draft of the core."""

        def all_of(sentences: tuple[FindingSentence, ...]) -> list[SentenceDocument]:
            return [SentenceDocument.of(s) for s in sentences]

        return cls(
            answer=all_of(draft.answer), blocks=[FindingBlock.of(b) for b in draft.blocks], packs=all_of(draft.packs),
            claims=[ClaimRowDocument.of(c) for c in draft.claims], foreign=all_of(draft.foreign),
            method=all_of(draft.method), not_tested=all_of(draft.not_tested), limits=all_of(draft.limits),
            cautions=all_of(draft.cautions), next=all_of(draft.next), state=draft.state,
        )  # fmt: skip

    def sentences(self) -> dict[str, SentenceDocument]:
        """Every sentence by its key."""
        told = [
            *self.answer, *(s for b in self.blocks for s in (*(r.verdict for r in b.rows), *b.best)), *self.packs,
            *(c.sentence for c in self.claims), *self.foreign, *self.method, *self.not_tested, *self.limits,
            *self.cautions, *self.next,
        ]  # fmt: skip
        return {s.key: s for s in told}


class EditDocument(BaseModel):
    """Words that somebody put in place of those of a sentence: first, as they stood then, with its figures."""

    words: str
    first: str
    figures: list[StatedDocument]
    by: str
    at: dt.datetime


class SourceMark(BaseModel):
    """A source as it was when the finding was drawn up: its name, and a SHA-256 of all that the finding uses of it;
    of a run its revision and its reader besides, as nothing of it has changed while these are the same."""

    label: str
    mark: str
    revision: int | None = None
    reader: int | None = None


class AskedOfFinding(BaseModel):
    """Question of a finding, its runs and packs, claims, figures of others, disclosure: what somebody asks."""

    question: Line
    audience: Audience = "buyer"
    degrees: Literal["C", "F"] = "C"
    runs: list[uuid.UUID] = Field(default_factory=list, max_length=MOST_RUNS)
    plan: uuid.UUID | None = None
    packs: list[Name] = Field(default_factory=list, max_length=MOST_PACKS)
    claims: list[ClaimTypedDocument] = Field(default_factory=list, max_length=MOST_CLAIMS)
    foreign: list[ForeignDocument] = Field(default_factory=list, max_length=MOST_FOREIGN)
    disclosed: list[DisclosedDocument] = Field(default_factory=list, max_length=MOST_RUNS)


class FindingDocument(AskedOfFinding, Document):
    """Question of a finding, its runs and packs, and what people wrote into it."""

    VERSION: ClassVar[int] = 1
    model_config = ConfigDict(extra="ignore", allow_inf_nan=False, frozen=True)

    edits: dict[str, EditDocument] = Field(default_factory=dict)
    hidden: list[str] = Field(default_factory=list, description="keys of sentences that are left out")
    published_at: dt.datetime | None = None
    published_by: str = ""
