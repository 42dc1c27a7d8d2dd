"""Expectation of a run of a plan, kept with its slot."""

from dataclasses import asdict, replace
from typing import Self

from ..core.plan import Expected
from .document import Document
from .ribbon import RibbonDocument


class ExpectedRun(Document):
    """See `core.plan.Expected`; `to` is by percentage."""

    minutes: float
    to: dict[int, float | None]
    attended_min: float
    hottest_c: float
    phone_end_c: float | None = None
    pad_end_c: float
    pad_tau_min: float
    ambient_c: float
    drawn_wh: float | None = None
    ribbon: RibbonDocument
    reaches: bool = True
    pack: str = ""
    fill_min: float = 0.0
    rest_min: float = 0.0

    @classmethod
    def of(cls, outcome: Expected) -> Self:
        """Of what the core expects."""
        figures = asdict(replace(outcome, ribbon=None))  # type: ignore[arg-type]
        return cls(**{**figures, "ribbon": RibbonDocument.of(outcome.ribbon)})
