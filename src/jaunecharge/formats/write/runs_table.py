"""All runs as one table: each column with what stands in it."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from ...core.factors import NAMES
from ...core.milestones import TENS
from ...core.wording import plain
from ...documents.numbers import MeasuredDocument
from ...documents.run_summary import RunSummary, ThrottleSummary
from .csv_xlsx import Cell


@dataclass(frozen=True)
class RunOut:
    """A run as it goes into the table; moments are ISO 8601 on the clock of its zone."""

    id: str
    label: str
    began_at: str
    zone: str
    read_at: str
    factors: Mapping[str, str]
    summary: RunSummary
    outcome: str
    spot: bool
    simulated: bool
    copy_of: str
    origin: str


Column = Callable[[RunOut], Cell]
ENDS = ("estimate", "earliest", "latest")


def _factor(name: str) -> Column:
    return lambda run: run.factors.get(name, "")


def _reached(percent: int, end: str) -> Column:
    def cell(run: RunOut) -> Cell:
        milestone = next((x for x in run.summary.milestones if x.percent == percent), None)
        return None if milestone is None else float(getattr(milestone, end))

    return cell


def _heat(of: Callable[[ThrottleSummary], Cell]) -> Column:
    return lambda run: None if run.summary.throttle is None else of(run.summary.throttle)


def _through(name: str) -> Column:
    def cell(run: RunOut) -> Cell:
        through: MeasuredDocument | None = getattr(run.summary, name)
        return None if through is None else through.value

    return cell


COLUMNS: dict[str, Column] = {
    "label": lambda run: run.label,
    "began_at": lambda run: run.began_at,
    "zone": lambda run: run.zone,
    "read_at": lambda run: run.read_at,
    **{name: _factor(name) for name in NAMES},
    "start_percent": lambda run: run.summary.start_percent,
    **{f"to_{p}_min" if end == "estimate" else f"to_{p}_{end}_min": _reached(p, end) for p in TENS for end in ENDS},
    "hottest_c": lambda run: run.summary.hottest_c,
    "energy_in_wh": lambda run: run.summary.energy_in_wh,
    "efficiency": lambda run: run.summary.efficiency,
    "through_adapter": _through("through_adapter"),
    "socket_to_battery": _through("socket_to_battery"),
    "best_settled_w": lambda run: run.summary.best_settled_w,
    "coverage": lambda run: run.summary.coverage,
    "rise_k": _heat(lambda heat: heat.rise_k),
    "first_throttle_min": _heat(lambda heat: heat.first_min),
    "first_throttle_c": _heat(lambda heat: heat.first_c),
    "throttled_min": _heat(lambda heat: heat.minutes),
    "heat_cost_min": _heat(lambda heat: None if heat.cost_min is None else heat.cost_min.value),
    "heat_cost_expanded_min": _heat(lambda heat: None if heat.cost_min is None else heat.cost_min.expanded),
    "reads_as": lambda run: plain(run.summary.headline),
    "outcome": lambda run: run.outcome,
    "spot_check": lambda run: "spot check" if run.spot else "",
    "simulated": lambda run: "simulated" if run.simulated else "",
    "copy_of": lambda run: run.copy_of,
    "origin": lambda run: run.origin,
    "id": lambda run: run.id,
}
"""Minutes count from the placing."""


def row_of(run: RunOut) -> list[Cell]:
    """A run as a row of the table."""
    return [cell(run) for cell in COLUMNS.values()]
