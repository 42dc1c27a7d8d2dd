"""A run as one JSON document: check-ins in minutes after placing, or the files that they stand in."""

from dataclasses import dataclass
from pathlib import Path
from typing import Annotated

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from ..core.errors import CannotRead
from ..core.reading import read_run
from ..core.trace import Array
from ..core.units import MINUTE_S
from .case import Case, read_case, said
from .documents import read_json
from .logs import meter_log, put_together, timed_readings
from .source import examine
from .understanding import understand

Minute = Annotated[float, Field(ge=-1_000_000, le=1_000_000)]
Percent = Annotated[float, Field(ge=0, le=100)]


class RunDocument(BaseModel):
    """What such a document may say; everything else in it is ignored."""

    model_config = ConfigDict(extra="ignore", allow_inf_nan=False)

    label: str = ""
    capacity_mah: float | None = Field(None, gt=0, le=100_000)
    nominal_v: float | None = Field(None, gt=0, le=30)
    checkins: list[tuple[Minute, Percent]] = []
    meter: str | None = None
    battery: str | None = None
    case: str | None = None


@dataclass(frozen=True)
class Curve:
    """A battery curve. minutes : (n,) after placing [min]; percent : (n,) [%]."""

    label: str
    minutes: Array
    percent: Array


def read_curve(path: Path) -> Curve:
    """The battery curve of a run's document.

    Raises
    ------
    CannotRead
    """
    try:
        found = RunDocument.model_validate(read_json(path))
    except ValidationError as error:
        what, mend = said(error)
        raise CannotRead(what, mend, file=path.name) from error
    if not found.checkins and found.meter and found.battery:
        return _from_files(found, path.parent)
    if not found.checkins:
        mend = "“checkins”: [[minute, percent], …], or “meter” and “battery” files"
        raise CannotRead("it holds no check-ins", mend, file=path.name)
    table = np.array(found.checkins, dtype=float)
    if np.any(np.diff(table[:, 0]) <= 0):
        row = int(np.flatnonzero(np.diff(table[:, 0]) <= 0)[0]) + 2
        raise CannotRead(f"check-in {row} is not later than the one before", "put them in order of time", path.name)
    return Curve(found.label or path.stem, table[:, 0], table[:, 1])


def _from_files(found: RunDocument, folder: Path) -> Curve:
    meter = examine(folder / str(found.meter))
    battery = examine(folder / str(found.battery))
    case = read_case(folder / found.case) if found.case else Case()
    readings = timed_readings(battery, understand(battery))
    log = put_together(meter_log(meter, understand(meter)), readings, None, case.placed_s)
    reading = read_run(log, case.conditions())
    assert log.readings is not None
    return Curve(found.label or "run", (log.readings.time_s - reading.placed_s) / MINUTE_S, log.readings.percent)
