"""A ribbon as it is kept and given out."""

import math
from typing import Self

import numpy as np
from pydantic import BaseModel, Field

from ..core.arrays import Array
from ..core.reading import Ribbon


class Reached(BaseModel):
    """When a percentage was reached, in minutes after placing."""

    percent: int
    minute: float


class Mark(BaseModel):
    """A dip by its cause, or the time after full, in minutes after placing."""

    what: str
    start: float
    end: float


class PaceMark(BaseModel):
    """A straight piece of the percentages, in minutes after placing."""

    start: float
    end: float
    points_per_min: float


class RibbonDocument(BaseModel):
    """The ribbon of a run in steps of `step_min` from placing; null where nothing was metered or measured."""

    step_min: float
    watts: list[float | None]
    celsius: list[float | None] | None
    ticks: list[Reached]
    minutes: float
    marks: list[Mark] = []
    pace: list[PaceMark] = Field([], description="height where no meter was: straight pieces of the percentages")

    @classmethod
    def of(cls, band: Ribbon) -> Self:
        """Of a ribbon of the core."""
        return cls(
            step_min=band.step_min,
            watts=_listed(band.watts),
            celsius=None if band.celsius is None else _listed(band.celsius),
            ticks=[Reached(percent=p, minute=round(m, 2)) for p, m in band.ticks],
            minutes=round(band.minutes, 2),
            marks=[Mark(what=w, start=round(a, 2), end=round(b, 2)) for w, a, b in band.marks],
            pace=[PaceMark(start=round(a, 2), end=round(b, 2), points_per_min=round(v, 4)) for a, b, v in band.pace],
        )


def _listed(values: Array) -> list[float | None]:
    return [round(v, 2) if math.isfinite(v) else None for v in values.tolist()]


def unlisted(values: list[float | None]) -> Array:
    """Figures of a document as the core takes them, NaN where there is none : (n,)."""
    return np.array([math.nan if v is None else v for v in values], dtype=float)
