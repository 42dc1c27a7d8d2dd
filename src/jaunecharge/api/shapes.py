"""The shapes of what goes in and out of the API; the front end's types are made from them."""

import datetime as dt
import uuid
from typing import Literal

from pydantic import BaseModel, Field

from ..core.log import Whose
from ..formats.case import Case
from ..formats.read.cells import TimeForm
from .numbers import Minute, Revision
from .reading_shapes import JudgedShape

Quantity = Literal[
    "time", "volts", "amps", "watts", "phone_watts", "energy", "charge", "percent", "celsius", "position", "ignore"
]
Role = Literal["meter", "checkins", "heat", "phone"]
Reference = Literal["after placing", "log"]


class TroubleShape(BaseModel):
    """What does not work just now, in words, since when that is known, and what would mend it."""

    what: str
    says: str
    since: dt.datetime
    mend: str


class Health(BaseModel):
    """Whether all works; if not, what does not, and since when. With 503 the database is away."""

    status: Literal["ok", "impaired"]
    version: str
    database: bool = Field(description="whether the database answers")
    free_bytes: int | None = Field(description="what is free on the disk that has least room")
    total_bytes: int | None
    troubles: list[TroubleShape]


class FileColumnShape(BaseModel):
    """A column as it was understood."""

    index: int
    heading: str
    quantity: Quantity
    unit: str | None
    why: str
    place: str
    units: list[str] = Field(description="the units that can be chosen for its quantity")


class UnderstandingShape(BaseModel):
    """A table as it was understood; it can be read once `problems` is empty."""

    gives: list[Role]
    delimiter: str
    comma: bool
    sheet: str | None
    sheets: list[str]
    time_form: TimeForm | None
    first_data_row: int
    columns: list[FileColumnShape]
    first_rows: list[list[str]]
    problems: list[str]


class ColumnChoice(BaseModel):
    """What a column is, as a person says."""

    quantity: Quantity
    unit: str | None = None


class ChoiceShape(BaseModel):
    """What a person put right in a table."""

    columns: dict[int, ColumnChoice] = Field(default_factory=dict)
    time_form: TimeForm | None = None
    comma: bool | None = None
    delimiter: Literal[",", ";", "\t", "|"] | None = None
    sheet: str | None = None


class RunRef(BaseModel):
    """A run, named, and whether it comes from the simulator."""

    id: uuid.UUID
    label: str
    simulated: bool


class DeletedRun(RunRef):
    """A run that was deleted: when and by whom."""

    at: dt.datetime
    by: str


class UploadShape(BaseModel):
    """A file that was sent, and how it was understood."""

    id: uuid.UUID
    name: str
    size: int
    sha256: str
    read_before: list[RunRef] = Field(description="runs that were read from the same file")
    understanding: UnderstandingShape


class CheckInRow(BaseModel):
    """One check-in: minutes after placing, or after the zero of the log's clock."""

    minute: float
    percent: float


class CheckInText(BaseModel):
    """Check-ins as typed, or pasted from a spreadsheet."""

    text: str = Field(max_length=200_000)


class CheckInsShape(BaseModel):
    """Check-ins as they were understood."""

    rows: list[CheckInRow]
    reference: Reference


class FileUse(BaseModel):
    """A file that was sent, what is taken from it, and what was put right."""

    upload: uuid.UUID
    roles: list[Role] = Field(min_length=1)
    choice: ChoiceShape = Field(default_factory=ChoiceShape)
    whose: Whose | None = Field(None, description="what its relative times count from; None: as guessed, and said so")


class Factors(BaseModel):
    """What is stated about phone, chain and surroundings: every factor of `core.factors`."""

    phone: str = ""
    charger: str = ""
    adapter: str = ""
    cable: str = ""
    case: str = ""
    airflow: str = ""
    phone_state: str = ""
    ambient: str = ""
    software: str = ""
    place: str = ""
    beside: str = ""
    shares: str = ""
    alignment: str = ""
    orientation: str = ""
    start: str = ""
    meter_in_line: str = ""
    method: str = ""


class NewRunShape(BaseModel):
    """A run to be read from files that were sent."""

    label: str = ""
    files: list[FileUse] = Field(min_length=1)
    checkins: str = Field("", max_length=200_000, description="check-ins typed or pasted")
    checkins_reference: Reference | None = Field(None, description="None: as understood")
    heat: str = Field("", max_length=200_000, description="temperatures typed or pasted: 10 98.4f back")
    fahrenheit: bool = Field(False, description="whether typed temperatures without a unit are in °F")
    factors: Factors = Field(default_factory=Factors)
    case: Case = Field(default_factory=Case)
    note: str = Field("", max_length=4000)
    zone: str = "UTC"
    slot: uuid.UUID | None = Field(None, description="the slot of a plan that it fills; found by itself if left out")


class Progress(BaseModel):
    """How far long work has come, a line of `application/x-ndjson` each; the last carries what came of it."""

    step: Literal["reading", "storing", "forecasting", "done", "refused"]
    fraction: float
    run: uuid.UUID | None = None


class Interval(BaseModel):
    """A time known to lie in an interval, in minutes after placing."""

    earliest: float
    estimate: float
    latest: float


class ReachedShape(BaseModel):
    """When a percentage was reached."""

    percent: int
    minute: float


class Mark(BaseModel):
    """A dip by its cause, or the time after full, in minutes after placing."""

    what: str
    start: float
    end: float


class RibbonShape(BaseModel):
    """The ribbon of a run in steps of `step_min` from placing; null where nothing was metered or measured."""

    step_min: float
    watts: list[float | None]
    celsius: list[float | None] | None
    ticks: list[ReachedShape]
    minutes: float
    marks: list[Mark] = []


class SummaryShape(BaseModel):
    """What a list shows of a reading."""

    ribbon: RibbonShape
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


class Word(BaseModel):
    """A piece of a sentence."""

    text: str
    strong: bool


class Place(BaseModel):
    """A stretch of a run, minutes after placing."""

    start: float
    end: float


class SentenceShape(BaseModel):
    """One thing the run says, its basis, and its stretch in minutes after placing."""

    key: str
    words: list[Word]
    basis: str
    start: float
    end: float
    places: list[Place] = Field(description="all its stretches, where there are several")
    figure: str = Field(description="the key of the figure that it stands on")


class BudgetLine(BaseModel):
    """A part of a standard uncertainty, in the unit of its figure."""

    source: str
    standard: float


class FigureShape(BaseModel):
    """A figure with its uncertainty (k = 2) and its working; its stretch in minutes after placing."""

    key: str
    label: str
    unit: str
    value: float
    expanded: float | None
    decimals: int
    point: str
    formula: str
    numbers: str
    source: str
    budget: list[BudgetLine]
    start: float | None
    end: float | None
    low: float | None
    high: float | None


class MilestoneShape(Interval):
    """When a percentage was reached."""

    percent: int


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


class GivenShape(BaseModel):
    """One figure that a simulation rests on, and where it comes from."""

    what: str
    value: str
    origin: str


class RehearsalShape(BaseModel):
    """What a simulated run was made from."""

    seed: int
    origins: list[GivenShape]


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
    judged: JudgedShape | None = Field(description="null where no power was metered, or a shared meter credits nobody")
    milestones: list[MilestoneShape]
    percent_at: list[CheckInRow]
    checkins: list[CheckInRow]
    notes: list[NoteShape]
    photos: list[PhotoShape]
    corrections: list[CorrectionShape]
    method: RunMethod | None
    rehearsal: RehearsalShape | None
    files: list[FileShape]


class RunChange(BaseModel):
    """What is to be corrected; what is left out stays."""

    revision: Revision
    label: str | None = None
    factors: Factors | None = None
    case: Case | None = None


class ClockOfFile(BaseModel):
    """Whose clock the relative times of a file are on; null where nobody can know but who wrote them."""

    upload: uuid.UUID
    whose: Whose | None
    why: str


class ClocksAsked(BaseModel):
    """Files as they are to be read: those whose times are relative are looked at."""

    files: list[FileUse] = Field(min_length=1)
    placed_s: float | None = Field(None, ge=-1e9, le=1e9, allow_inf_nan=False)


class HeatText(BaseModel):
    """Temperatures as they are typed or pasted."""

    text: str = Field(max_length=200_000)
    fahrenheit: bool = False


class HeatRow(BaseModel):
    """A temperature: minute, °C, where."""

    minute: float
    celsius: float
    place: str


class HeatTextShape(BaseModel):
    """How typed or pasted temperatures are understood; minutes count from the placing, or from the first of them."""

    rows: list[HeatRow]
    reference: Reference


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
    temperatures: list[TemperatureSeries]
    samples: int = Field(description="samples that the stretch holds")


class PhoneShape(BaseModel):
    """A phone that was tested before."""

    label: str
    capacity_mah: float | None
    nominal_v: float | None
    battery_health: float | None
