"""Outlook of a lane's chain, kept with the lane."""

from dataclasses import asdict
from typing import Self

import numpy as np
from pydantic import BaseModel

from ..core.bench import Curve, Outlook
from .document import Document

MOST_CURVE_ROWS = 400


class ForecastCurve(BaseModel):
    """Battery level [%] over minutes after placing: at least, likely, at most."""

    minutes: list[float]
    least: list[float]
    likely: list[float]
    most: list[float]


class Outline(BaseModel):
    """Watts expected in steps from placing on."""

    step_min: float
    watts: list[float]


class Expectation(Document):
    """The forecast of a lane: see `core.bench.Outlook`; empty where its chain is not known."""

    curve: ForecastCurve | None = None
    ribbon: Outline | None = None
    least_w: float | None = None
    class_w: float | None = None
    volts: float | None = None
    adapter_w: float | None = None
    own_source: bool = False
    rated_wh: float | None = None

    @classmethod
    def of(cls, outlook: Outlook) -> Self:
        """Of an outlook of the core."""
        rows = slice(None, None, max(1, len(outlook.curve.minutes) // MOST_CURVE_ROWS))
        return cls(
            curve=ForecastCurve(**{k: [round(float(x), 3) for x in v[rows]] for k, v in asdict(outlook.curve).items()}),
            ribbon=Outline(step_min=outlook.ribbon.step_min, watts=[round(float(w), 3) for w in outlook.ribbon.watts]),
            least_w=outlook.least_w,
            class_w=outlook.class_w,
            volts=outlook.volts,
            adapter_w=outlook.adapter_w,
            own_source=outlook.own_source,
        )

    def forecast(self) -> Curve | None:
        """Its curve for the core; None where the chain is not known."""
        if self.curve is None:
            return None
        return Curve(*(np.array(x, dtype=float) for x in self.curve.model_dump().values()))
