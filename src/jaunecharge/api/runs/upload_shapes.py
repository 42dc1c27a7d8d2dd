"""Documents of files that are sent, and of what is typed beside them."""

import datetime as dt
import uuid
from typing import Literal

from pydantic import BaseModel, Field

from ...core.log import Whose
from ...documents.case import Case
from ...documents.mapping import Mapping
from ...formats.read.cells import TimeForm
from ..numbers import Zone
from ..shapes import Factors

Quantity = Literal[
    "time", "volts", "amps", "watts", "phone_watts", "phone_volts", "phone_amps", "energy", "charge", "percent",
    "celsius", "position", "ignore",
]  # fmt: skip


Role = Literal["meter", "checkins", "heat", "phone", "socket"]


Reference = Literal["after placing", "log"]


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
    """A column as a person names it."""

    quantity: Quantity
    unit: str | None = None


class ChoiceShape(BaseModel):
    """Corrections of how a table is understood."""

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
    understanding: UnderstandingShape | None = Field(description="null where it cannot be read as one run")
    mapping: Mapping | None = Field(None, description="corrections kept for tables of the same headings")
    runs: int = Field(description="runs that it holds, as a table or a log; 0 where nobody has looked")


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


class NewRunShape(BaseModel):
    """A run to be read from files that were sent, from what was typed, or both."""

    label: str = ""
    files: list[FileUse] = Field([], description="none where all was typed")
    checkins: str = Field("", max_length=200_000, description="check-ins typed or pasted")
    checkins_reference: Reference | None = Field(None, description="None: as understood")
    heat: str = Field("", max_length=200_000, description="temperatures typed or pasted: 10 98.4f back")
    fahrenheit: bool = Field(False, description="whether typed temperatures without a unit are in °F")
    factors: Factors = Field(default_factory=Factors)
    case: Case = Field(default_factory=Case)
    note: str = Field("", max_length=4000)
    zone: Zone = "UTC"
    slot: uuid.UUID | None = Field(None, description="the slot of a plan that it fills; found by itself if left out")


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
    """Understanding of typed or pasted temperatures; minutes count from the placing, or from the first of them."""

    rows: list[HeatRow]
    reference: Reference
