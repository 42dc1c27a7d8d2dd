"""Surveys: spot checks of many chains in a row."""

import uuid
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.arrays import Array
from ...core.bench import by_hand
from ...core.factors import WIRED
from ...core.log import idle_level, is_phone
from ...core.reading import Spot, spot
from .. import bench_models as b
from ..runs.logs import load_log
from ..runs.runs import get_run
from .ending import entered_of


@dataclass(frozen=True)
class Found:
    """Interim result of a spot check: its watts, its volts [V], where the phone stood [%] and how warm it got [°C]."""

    spot: Spot | None = None
    volts: float | None = None
    start_percent: float | None = None
    hottest_c: float | None = None


def chain_label(factors: dict[str, str]) -> str:
    """Identity of a chain in a survey: charger, its place, adapter, cable, case, and how the phone lay."""
    charger, case = factors.get("charger", ""), factors.get("case", "none")
    parts = [
        "by wire" if charger in {"", WIRED} else charger,
        *(factors.get(n, "") for n in ("place", "adapter", "cable")),
    ]
    parts += [case if case not in {"", "none"} else "", factors.get("alignment", "")]
    return ", ".join(p for p in parts if p)


def lanes_of(session: Session, survey: uuid.UUID | None = None) -> list[b.Lane]:
    """The lanes of a survey, or of all of them, in their order."""
    query = select(b.Lane).where(b.Lane.survey.is_not(None) if survey is None else b.Lane.survey == survey)
    return list(session.scalars(query.order_by(b.Lane.opened_at, b.Lane.id)))


def found_of(session: Session, lane: b.Lane, live: tuple[Array, Array] | None) -> Found:
    """Interim result of a spot check, as metered and as typed; of one that has ended, from its run.

    Parameters
    ----------
    live : (times [s], watts [W]), optional
        What the meter has shown of a lane that is still open.
    """
    entered = entered_of(session, lane.id)
    typed = sorted(by_hand(entered))
    percents = sorted((e.t_s, e.item.value) for e in entered if e.item.kind == "percent" and e.item.value is not None)
    celsius = [c for e in entered if is_phone(e.item.text) and (c := e.item.celsius) is not None]
    volts = [v for _, _, v, _ in typed if v is not None]
    rows: list[tuple[float, float]] = [(t, w) for t, w, _, _ in typed]
    if live is not None:
        rows += zip(live[0].tolist(), live[1].tolist(), strict=True)
    elif lane.run_id is not None:
        log = load_log(session, get_run(session, lane.run_id, deleted=True))
        if log.trace.metered:
            # Watts that were typed stand in the run's own log already.
            rows = list(zip(log.trace.time_s.tolist(), log.trace.power_w.tolist(), strict=True))
            charging = log.trace.time_s > (lane.placed_s or 0.0)
            if log.trace.volts is not None and charging.any():
                volts = [float(np.median(log.trace.volts[charging]))]
        if log.readings is not None and len(log.readings):
            percents = list(zip(log.readings.time_s.tolist(), log.readings.percent.tolist(), strict=True))
        surfaces = [] if log.heat is None else [s for s in log.heat.surfaces if is_phone(s.position)]
        celsius += [float(s.celsius.max()) for s in surfaces]
    return Found(
        _spot(lane, sorted(rows)),
        volts[-1] if volts else None,
        percents[0][1] if percents else None,
        max(celsius, default=None),
    )


def _spot(lane: b.Lane, rows: Sequence[tuple[float, float]]) -> Spot | None:
    if lane.placed_s is None or not rows:
        return None
    time_s, watts = (np.array(column) for column in zip(*rows, strict=True))
    before = time_s < lane.placed_s - 1.0
    idle = idle_level(time_s[before], watts[before])
    case = lane.case
    stated = case.conditions().meter if "meter" in case.model_fields_set else None
    return spot(time_s, watts, lane.placed_s, stated, None if idle is None else idle.watts)
