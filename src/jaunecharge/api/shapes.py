"""Documents that more than one station answers with."""

import datetime as dt
import uuid
from collections.abc import Callable
from typing import Literal

from pydantic import BaseModel, Field

from ..core.measured import Part
from ..core.report import Figure
from ..core.wording import decimals


class TroubleShape(BaseModel):
    """An outage in words: what does not work, since when, and what would mend it."""

    what: str
    says: str
    since: dt.datetime
    mend: str


class Health(BaseModel):
    """Whether all works; if not, what does not, and since when. With 503 the database does not answer."""

    status: Literal["ok", "impaired"]
    version: str
    database: bool = Field(description="whether the database answers")
    free_bytes: int | None = Field(description="what is free on the disk that has least room")
    total_bytes: int | None
    troubles: list[TroubleShape]


class Factors(BaseModel):
    """Factors that are stated about phone, chain and circumstances: every factor of `core.factors`."""

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


class Progress(BaseModel):
    """Progress of long work, a line of `application/x-ndjson` each; the last carries what came of it."""

    step: Literal["reading", "storing", "forecasting", "exporting", "importing", "done", "refused"]
    fraction: float
    run: uuid.UUID | None = None


class CurveShape(BaseModel):
    """A battery curve, of one run or the mean of repeats; null where no check-ins reach."""

    minute: list[float]
    percent: list[float | None]


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
    budget: list[Part]
    start: float | None
    end: float | None
    low: float | None
    high: float | None


def figure_shape(figure: Figure, minute: Callable[[float], float]) -> FigureShape:
    """A figure for the front end. minute : of a moment on the log's clock [s]."""
    bare = 1 if figure.unit else 2
    return FigureShape(
        key=figure.key,
        label=figure.label,
        unit=figure.unit,
        value=figure.value,
        expanded=figure.expanded,
        decimals=bare if figure.expanded is None else decimals(figure.expanded),
        point=figure.point,
        formula=figure.formula,
        numbers=figure.numbers,
        source=figure.source,
        budget=list(figure.budget),
        start=None if figure.start_s is None else minute(figure.start_s),
        end=None if figure.end_s is None else minute(figure.end_s),
        low=figure.low,
        high=figure.high,
    )
