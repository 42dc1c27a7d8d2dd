"""Documents of runs: rows, figures, sentences, notes, changes."""

import datetime as dt
import uuid
from typing import Literal

from pydantic import BaseModel, Field

from ...core.simulator import Given
from ...core.stages import Stage
from ...documents.case import Case
from ...documents.ribbon import RibbonDocument
from ...documents.run_summary import Interval, MilestoneDocument
from ..numbers import Minute, Revision
from ..shapes import CurveShape, Factors, FigureShape
from .list_shapes import ListScale
from .reading_shapes import JudgedShape
from .upload_shapes import CheckInRow, Reference


class SummaryShape(BaseModel):
    """A reading as a list shows it."""

    ribbon: RibbonDocument
    to_80: Interval | None
    hottest_c: float | None
    energy_in_wh: float | None = Field(description="null where nothing was metered")
    efficiency: float | None
    best_settled_w: float | None
    coverage: float
    headline: str = Field(description="five words, the strong ones between asterisks")
    kept_old: str = Field("", description="why the run could not be read again, where its old reading is shown")


class BenchEntry(BaseModel):
    """A line of the log that a run had on the bench."""

    minute: float
    said: str
    by: str
    first: str = Field(description="its first value, where it was corrected")
    undone: bool


class CopyOf(BaseModel):
    """The run that another is a copy of: the same recording, read before."""

    id: uuid.UUID
    label: str


class RunRow(BaseModel):
    """A run in a list."""

    id: uuid.UUID
    label: str
    factors: Factors
    origin: str
    simulated: bool
    outcome: str = Field(
        description="how it ended on the bench: complete, stopped early, void; empty if not made there"
    )
    spot: bool = Field(description="a spot check: minutes of watts")
    started_at: dt.datetime | None
    created_at: dt.datetime
    zone: str
    revision: Revision
    summary: SummaryShape
    copy_of: CopyOf | None = Field(None, description="where the same recording was read before")


class RunList(BaseModel):
    """A page of runs, and where the next begins; null after the last."""

    rows: list[RunRow]
    after: str | None
    scale: ListScale | None = Field(description="with the first page")


class Place(BaseModel):
    """A stretch of a run, minutes after placing."""

    start: float
    end: float


class SentenceShape(BaseModel):
    """One thing the run says, its basis, and its stretch in minutes after placing."""

    key: str
    text: str = Field(description="strong words stand between asterisks")
    basis: str
    start: float
    end: float
    places: list[Place] = Field(description="all its stretches, where there are several")
    figure: str = Field(description="the key of the figure that it stands on")


class NoteShape(BaseModel):
    """A note on a run."""

    id: uuid.UUID
    text: str
    minute: float | None
    by: str
    created_at: dt.datetime


class NewNote(BaseModel):
    """A note to be added."""

    text: str
    minute: Minute | None = None


class PhotoShape(BaseModel):
    """A picture of a run."""

    id: uuid.UUID
    caption: str
    name: str
    by: str
    created_at: dt.datetime


class CorrectionShape(BaseModel):
    """A change: what, from which first value to which, by whom and when."""

    what: str
    first: str
    now: str
    by: str
    at: dt.datetime


class FileShape(BaseModel):
    """A file that the run was read from."""

    role: str
    name: str
    size: int
    sha256: str
    reader: str


class RehearsalShape(BaseModel):
    """Origin of a simulated run."""

    seed: int
    origins: list[Given]


class RunMethod(BaseModel):
    """The method card that a run was made under, as it was then, and the plan that asked for it."""

    card: str
    said: str
    plan: uuid.UUID | None
    question: str


class RunShape(BaseModel):
    """A run, read."""

    id: uuid.UUID
    label: str
    factors: Factors
    case: Case
    origin: str
    simulated: bool
    outcome: str
    reason: str = Field(description="why it was stopped early, or is void")
    bench: list[BenchEntry] = Field(description="the log that it had on the bench")
    started_at: dt.datetime | None
    zone: str
    revision: Revision
    samples: int
    placed_s: float
    placed_said: str = Field(description="when the phone was placed, and how that is known")
    minutes: float
    summary: SummaryShape
    copy_of: CopyOf | None = Field(description="where the same recording was read before")
    sentences: list[SentenceShape]
    warnings: list[str]
    figures: list[FigureShape]
    stages: list[Stage] = Field(description="energy along the chain, where two points of it were logged")
    judged: JudgedShape | None = Field(description="null where no power was metered, or a shared meter credits nobody")
    milestones: list[MilestoneDocument]
    percent_at: list[CheckInRow]
    checkins: list[CheckInRow]
    level: CurveShape = Field(description="the level between check-ins, in points that straight lines may join")
    notes: list[NoteShape]
    photos: list[PhotoShape]
    corrections: list[CorrectionShape]
    method: RunMethod | None
    rehearsal: RehearsalShape | None
    files: list[FileShape]


class RunChange(BaseModel):
    """Corrections to make; what is left out stays."""

    revision: Revision
    label: str | None = None
    factors: Factors | None = None
    case: Case | None = None


class Shifted(BaseModel):
    """Check-ins, temperatures or both, to be put so many minutes later; earlier where negative."""

    revision: Revision
    what: Literal["check-ins", "temperatures", "both"]
    minutes: float = Field(ge=-14_400, le=14_400, allow_inf_nan=False)


class CheckInsChange(BaseModel):
    """Check-ins to put in the place of the present ones, typed or pasted."""

    revision: Revision
    text: str = Field(max_length=200_000)
    reference: Reference | None = None


class TemperatureSeries(BaseModel):
    """Temperatures at one place: minutes after placing, °C."""

    position: str
    minute: list[float]
    celsius: list[float]


class SeriesShape(BaseModel):
    """A run's curves thinned to what a screen can show, extremes kept; null in watts is a hole."""

    minute: list[float]
    watts: list[float | None]
    phone_minute: list[float]
    phone_watts: list[float] = Field(description="as the phone itself reports them")
    socket_minute: list[float]
    socket_watts: list[float] = Field(description="at the socket, before the adapter")
    temperatures: list[TemperatureSeries]
    samples: int = Field(description="samples that the stretch holds")


class PhoneShape(BaseModel):
    """A phone that was tested before."""

    label: str
    capacity_mah: float | None
    nominal_v: float | None
    battery_health: float | None
