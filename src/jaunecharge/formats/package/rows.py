"""Rows of the data package: one model a table, from which its schema is made and by which what comes in is checked."""

import datetime as dt
import uuid
from typing import Annotated, Any, Literal

from pydantic import AwareDatetime, BaseModel, ConfigDict, Field

Text = Annotated[str, Field(max_length=20_000, pattern=r"^[^\x00]*$")]
Short = Annotated[str, Field(max_length=2_000, pattern=r"^[^\x00]*$")]
Facts = dict[str, Any]
Count = Annotated[int, Field(ge=0, le=2**62)]
Seconds = Annotated[float, Field(ge=-1e9, le=1e9, json_schema_extra={"unit": "s"})]
Minutes = Annotated[float, Field(ge=-1e9, le=1e9, json_schema_extra={"unit": "min"})]
Sha256 = Annotated[str, Field(pattern="^[0-9a-f]{64}$")]


class PackageRow(BaseModel):
    """A row of a table of the package."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class KitRow(PackageRow):
    """A piece of kit: its facts by kind, what was fitted to a phone."""

    id: uuid.UUID
    kind: Short
    label: Short
    facts: Facts
    fit: Facts | None
    revision: Count
    created_by: Short
    created_at: AwareDatetime
    retired_at: AwareDatetime | None
    retired_by: Short


class CardRow(PackageRow):
    """A method card of one's own."""

    id: uuid.UUID
    name: Short
    facts: Facts
    revision: Count
    created_by: Short
    created_at: AwareDatetime


class SettingRow(PackageRow):
    """Habits and tariff, or the reference run."""

    key: Short
    value: Facts
    revision: Count
    by: Short
    at: AwareDatetime


class PlanRow(PackageRow):
    """A plan: question, method, matrix, wishes; what it can show, its schedule, what was changed."""

    id: uuid.UUID
    question: Text
    card: Facts
    choice: Facts
    wishes: Facts
    findings: Facts
    schedule: Facts
    changes: list[Facts]
    revision: Count
    created_by: Short
    created_at: AwareDatetime


class SlotRow(PackageRow):
    """A run of a plan: when it is planned, and what has happened to it; history : what it was before each step."""

    id: uuid.UUID
    plan_id: uuid.UUID
    position: Count
    key: Text
    repeat: Count
    closing: bool
    phone: Short
    said: Short
    factors: dict[str, Short]
    expected: Facts
    drain_min: Minutes
    cool_min: Minutes
    drain_start: AwareDatetime | None
    start_at: AwareDatetime | None
    end_at: AwareDatetime | None
    fill_at: AwareDatetime | None
    state: Short
    drain_began_at: AwareDatetime | None
    drained_at: AwareDatetime | None
    began_at: AwareDatetime | None
    ended_at: AwareDatetime | None
    cool_at: AwareDatetime | None
    void_reason: Short
    card: Facts | None
    run_id: uuid.UUID | None
    history: list[Facts]


class RunRow(PackageRow):
    """A run: phone, chain, conditions, kit and card as they were then, decisions of readers, what was cleaned."""

    id: uuid.UUID
    label: Short
    factors: dict[str, Short]
    conditions: Facts
    kit: Facts
    card: Facts | None
    rehearsal: Facts | None
    outcome: Short
    bench: Facts | None
    overrulings: list[Facts]
    origin: Short
    started_at: AwareDatetime | None
    zone: Short
    cleaned: Facts
    remarks: list[Text]
    samples: Count
    recording: Facts
    revision: Count
    created_by: Short
    created_at: AwareDatetime


class FileRow(PackageRow):
    """A file that was read or a picture, by its SHA-256; its bytes lie in originals/."""

    id: uuid.UUID
    sha256: Sha256
    name: Short
    size: Annotated[int, Field(ge=0, le=2**40, json_schema_extra={"unit": "B"})]
    media_type: Short
    received_at: AwareDatetime


class RunFileRow(PackageRow):
    """Which file a run was read from, as what, by which reader, and how its columns were understood."""

    run_id: uuid.UUID
    role: Short
    file_id: uuid.UUID
    reader: Short
    understood: Facts


class NoteRow(PackageRow):
    """A remark on a run."""

    id: uuid.UUID
    run_id: uuid.UUID
    t_s: Seconds | None
    text: Text
    created_by: Short
    created_at: AwareDatetime


class PhotoRow(PackageRow):
    """A picture that belongs to a run."""

    id: uuid.UUID
    run_id: uuid.UUID
    file_id: uuid.UUID
    t_s: Seconds | None
    caption: Text
    created_by: Short
    created_at: AwareDatetime


class CorrectionRow(PackageRow):
    """A change of what was stated or read: who, when, the first value and the new one."""

    id: uuid.UUID
    run_id: uuid.UUID
    what: Short
    first: Any
    now: Any
    by: Short
    at: AwareDatetime


class LaneRow(PackageRow):
    """A lane of the bench that is over, from which a run came."""

    id: uuid.UUID
    name: Short
    state: Short
    label: Short
    factors: dict[str, Short]
    case: Facts
    card: Facts
    chain: Facts
    setup: Facts
    meter: Short
    probe: Short
    speed: float
    simulated: bool
    survey: uuid.UUID | None
    kind: Short
    pack: Short
    pack_test_id: uuid.UUID | None
    zone: Short
    slot_id: uuid.UUID | None
    run_id: uuid.UUID | None
    opened_at: AwareDatetime
    placed_s: Seconds | None
    closed_at: AwareDatetime | None
    outcome: Short
    reason: Text
    created_by: Short
    socket: Short = ""
    room: Short = ""


class EventRow(PackageRow):
    """An entry of a lane's log: typed, seen or done, with its first value where it was corrected."""

    id: uuid.UUID
    lane_id: uuid.UUID
    t_s: Seconds
    at: AwareDatetime
    kind: Short
    value: float | None
    unit: Short
    text: Text
    advice: Text
    by: Short
    first: Facts | None
    corrected_by: Short
    corrected_at: AwareDatetime | None
    undone_by: Short
    undone_at: AwareDatetime | None


class MeterCheckRow(PackageRow):
    """A check of a meter against something that is known."""

    id: uuid.UUID
    meter: Short
    way: Short
    against: Short
    deviation_percent: Annotated[float, Field(json_schema_extra={"unit": "%"})]
    expanded_percent: Annotated[float, Field(json_schema_extra={"unit": "%"})]
    readings: list[Any]
    by: Short
    at: AwareDatetime


class PackTestRow(PackageRow):
    """A test of a pack; the logs that it was read from lie in pack_logs."""

    id: uuid.UUID
    pack: Short
    kind: Short
    document: Facts
    by: Short
    at: AwareDatetime


class PackPlanRow(PackageRow):
    """A plan of pack tests."""

    id: uuid.UUID
    document: Facts
    by: Short
    at: AwareDatetime


class FindingPackageRow(PackageRow):
    """A finding: what was asked, what was drawn up from what, by which version."""

    id: uuid.UUID
    question: Text
    document: Facts
    draft: Facts
    sources: Facts
    software: Short
    drawn_at: AwareDatetime
    drawn_by: Short
    revision: Count
    created_by: Short
    created_at: AwareDatetime


class ReadingRow(PackageRow):
    """Reading of a run: told for others; worked out again where it comes in."""

    run_id: uuid.UUID
    reader: Count
    reading: Facts


Kind = Literal["number", "string", "boolean"]
Column = tuple[str, Kind, str]

SERIES: dict[str, tuple[Column, ...]] = {
    "samples": (("run_id", "string", ""), ("t_s", "number", "s"), ("watts", "number", "W"), ("volts", "number", "V"),
                ("amps", "number", "A")),
    "checkins": (("run_id", "string", ""), ("t_s", "number", "s"), ("percent", "number", "%")),
    "temperatures": (("run_id", "string", ""), ("position", "string", ""), ("t_s", "number", "s"),
                     ("celsius", "number", "°C")),
    "ambients": (("run_id", "string", ""), ("t_s", "number", "s"), ("celsius", "number", "°C")),
    "phone_watts": (("run_id", "string", ""), ("t_s", "number", "s"), ("watts", "number", "W")),
    "lights": (("run_id", "string", ""), ("t_s", "number", "s"), ("lit", "boolean", "")),
    "charging": (("run_id", "string", ""), ("t_s", "number", "s"), ("charges", "boolean", "")),
    "socket_samples": (("run_id", "string", ""), ("t_s", "number", "s"), ("watts", "number", "W"),
                       ("volts", "number", "V"), ("amps", "number", "A")),
    "humidities": (("run_id", "string", ""), ("t_s", "number", "s"), ("percent", "number", "%")),
    "pack_logs": (("test_id", "string", ""), ("log", "number", ""), ("t_s", "number", "s"), ("watts", "number", "W"),
                  ("volts", "number", "V"), ("amps", "number", "A")),
}  # fmt: skip
"""Tables of many rows, as CSV: their columns, each with its kind and unit. t_s counts on the log's own clock."""

TABLES: dict[str, type[PackageRow]] = {
    "kit": KitRow, "cards": CardRow, "settings": SettingRow, "files": FileRow, "plans": PlanRow, "runs": RunRow,
    "slots": SlotRow, "run_files": RunFileRow, "notes": NoteRow, "photos": PhotoRow, "corrections": CorrectionRow,
    "lanes": LaneRow, "events": EventRow, "meter_checks": MeterCheckRow, "pack_tests": PackTestRow,
    "pack_plans": PackPlanRow, "findings": FindingPackageRow,
}  # fmt: skip
"""Tables as JSON, in the order in which they can be brought in."""

TOLD = {"readings": ReadingRow}
"""Tables that are told and not read again."""

VERSION = 3
OLDEST = 1
SINCE = {
    "lanes": 2, "events": 2, "findings": 2, "meter_checks": 2, "charging": 3, "socket_samples": 3, "humidities": 3,
}  # fmt: skip
"""First version of the tables that the oldest did not have."""


def moment(value: dt.datetime) -> str:
    """A moment as the package has it: UTC, to the microsecond."""
    return value.astimezone(dt.UTC).isoformat(timespec="microseconds").replace("+00:00", "Z")
