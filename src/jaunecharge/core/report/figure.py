"""One figure of a run, with how it was worked out."""

from dataclasses import dataclass

from ..measured import Part


@dataclass(frozen=True)
class Figure:
    """One figure: value in `unit`, where along the chain it is measured, and its working.

    `formula` is the rule, `numbers` the rule with this run's numbers in it, `budget` the parts of the standard
    uncertainty in the unit of the figure, `source` where the rule comes from; `start_s`, `end_s` [s] its stretch.
    A time known only to lie in an interval has no `expanded`, but `low` and `high` in the unit of the figure.
    """

    key: str
    label: str
    unit: str
    value: float
    expanded: float | None
    point: str
    formula: str
    numbers: str
    source: str
    budget: tuple[Part, ...] = ()
    start_s: float | None = None
    end_s: float | None = None
    low: float | None = None
    high: float | None = None
