"""Every charger with every phone, forecast, as it is kept and given out."""

import uuid

from pydantic import BaseModel

from ..core.chain import LinkName
from ..core.forecast import Between


class BetweenDocument(BaseModel):
    """A likely value between two ends; empty where it is never reached."""

    low: float | None
    likely: float | None
    high: float | None

    @classmethod
    def of(cls, estimate: Between) -> "BetweenDocument":
        """An estimate of the core."""
        return cls(low=estimate.low, likely=estimate.likely, high=estimate.high)


class CoverageCellDocument(BaseModel):
    """A pair: what arrives [W], minutes to 80 %, hottest, the narrowest link, and what the filters ask."""

    phone: uuid.UUID
    adapter: uuid.UUID | None
    delivered_w: BetweenDocument
    to_80: BetweenDocument
    hottest_c: float
    narrowest: LinkName
    why: str
    meets_claim: bool | None
    likely_hot: bool
    not_worth: str
    best: bool


class CoverageRow(BaseModel):
    """A charger at one of its places; without one, the wired baseline."""

    charger: uuid.UUID | None
    place: str
    label: str
    claimed_w: float | None
    cells: list[CoverageCellDocument]


class CoverageDocument(BaseModel):
    """Every charger with every phone."""

    phones: list[uuid.UUID]
    rows: list[CoverageRow]
