"""A run as one JSON document: check-ins in minutes after placing, or the files that they stand in."""

import hashlib
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from ..core.arrays import Array
from ..core.errors import CannotRead
from ..core.kit import Capacity
from ..core.labels import label
from ..core.log import CheckIns, Recording, levels_mark, looked_every, make_check_ins, recording_of, refuse_other_units
from ..core.plan import spreads_little
from ..core.reading import read_run
from ..core.units import MINUTE_S
from ..core.versus import Contender, Course, course_of
from ..documents.case import Case
from ..documents.document import said
from .json_files import read_case, read_json
from .read.logs import meter_log, put_together, temperatures, timed_readings
from .read.source import examine
from .read.understanding import understand

Minute = Annotated[float, Field(ge=-1_000_000, le=1_000_000)]
Percent = Annotated[float, Field(ge=0, le=100)]
Level = Annotated[str, Field(max_length=200)] | float | None

CHAMBER = "chamber"


class RunDocument(BaseModel):
    """Fields of such a document; everything else in it is ignored."""

    model_config = ConfigDict(extra="ignore", allow_inf_nan=False)

    label: str = ""
    factors: dict[Annotated[str, Field(max_length=60)], Level] = {}
    group: str = ""
    capacity_mah: Capacity | None = None
    nominal_v: float | None = Field(None, gt=0, le=30)
    interval_min: float | None = Field(None, ge=0, le=1440)
    chamber: bool = False
    checkins: list[tuple[Minute, Percent]] = []
    meter: str | None = None
    battery: str | None = None
    heat: str | None = None
    case: str | None = None
    files: dict[str, str] = {}

    @model_validator(mode="after")
    def _named_files(self) -> "RunDocument":
        """Files may stand together under `files` as well."""
        for role in ("meter", "battery", "heat", "case"):
            if getattr(self, role) is None:
                setattr(self, role, self.files.get(role))
        return self


@dataclass(frozen=True)
class Curve:
    """A battery curve. minutes : (n,) after placing [min]; percent : (n,) [%]."""

    label: str
    minutes: Array
    percent: Array


def read_document(path: Path) -> RunDocument:
    """A run's document, checked.

    Raises
    ------
    CannotRead
    """
    try:
        return RunDocument.model_validate(read_json(path))
    except ValidationError as error:
        what, mend = said(error)
        raise CannotRead(what, mend, file=path.name) from error


def read_curve(path: Path) -> Curve:
    """The battery curve of a run's document.

    Raises
    ------
    CannotRead
    """
    document = read_document(path)
    course, _, _ = _course(document, path)
    assert course.readings is not None
    return Curve(document.label or path.stem, course.readings.time_s / MINUTE_S, course.readings.percent)


def read_contender(path: Path, key: str = "") -> Contender:
    """A run's document as a side of a comparison.

    Raises
    ------
    CannotRead
    """
    document = read_document(path)
    course, case, recording = _course(document, path)
    texts = {name: _level(value) for name, value in document.factors.items() if name != "ambient_c"}
    ambient = document.factors.get("ambient_c")
    if isinstance(ambient, str) and ambient.strip():
        texts["ambient"] = ambient.strip()
    interval = document.interval_min if document.interval_min is not None else case.interval_min
    chamber = document.chamber or any(CHAMBER in text.casefold() for text in texts.values())
    return Contender(
        key=key or str(path),
        label=label(document.label, path.name) or path.stem,
        factors={name: label(text, path.name) for name, text in texts.items() if text},
        course=course,
        ambient_c=float(ambient) if isinstance(ambient, int | float) else case.ambient_c,
        group=document.group.strip(),
        chamber=spreads_little(chamber, interval),
        interval_min=interval,
        capacity_mah=document.capacity_mah or case.capacity_mah,
        simulated=case.simulated,
        recording=recording,
    )


def _level(value: str | float | None) -> str:
    return "" if value is None else value.strip() if isinstance(value, str) else f"{value:g}"


def _course(document: RunDocument, path: Path) -> tuple[Course, Case, Recording]:
    """Course of the run, conditions stated beside its files, and its fingerprint."""
    if not document.checkins and document.battery:
        return _from_files(document, path)
    if not document.checkins:
        mend = "“checkins”: [[minute, percent], …], or “meter” and “battery” files"
        raise CannotRead("it holds no check-ins", mend, file=path.name)
    table = np.array(document.checkins, dtype=float)
    if np.any(np.diff(table[:, 0]) <= 0):
        row = int(np.flatnonzero(np.diff(table[:, 0]) <= 0)[0]) + 2
        raise CannotRead(f"check-in {row} is not later than the one before", "put them in order of time", path.name)
    refuse_other_units(table[:, 0], table[:, 1], path.name)
    readings = CheckIns(table[:, 0] * MINUTE_S, table[:, 1])
    # Check-ins that somebody wrote down may agree, in another document; the same document is the same run.
    recording = Recording(levels=hashlib.sha256(path.read_bytes()).hexdigest())
    every = None if document.interval_min is None else document.interval_min * MINUTE_S
    return Course(looked_every(readings, every)), Case(), recording


def _from_files(document: RunDocument, path: Path) -> tuple[Course, Case, Recording]:
    folder = path.parent
    case = read_case(folder / document.case) if document.case else Case()
    source = examine(folder / str(document.battery))
    readings = timed_readings(source, understand(source))
    if not len(readings.percent):
        raise CannotRead("it holds no check-ins", "“battery”: a file of time and percent", file=path.name)
    if not document.meter:
        seconds = readings.clock.seconds
        after_placing = seconds - (float(seconds[0]) if case.placed_s is None else case.placed_s)
        plain = make_check_ins(after_placing, readings.percent)
        return Course(plain), case, Recording(levels=levels_mark(plain))
    source = examine(folder / document.meter)
    log = meter_log(source, understand(source))
    heat = None
    if document.heat:
        source = examine(folder / document.heat)
        heat = temperatures(source, understand(source))
    conditions = case.conditions()
    run = put_together(log, readings, heat, conditions.placed_s, conditions.ambient_c)
    reading = read_run(run, conditions)
    return course_of(reading), case, recording_of(run.trace, run.readings, reading.placed_s)
