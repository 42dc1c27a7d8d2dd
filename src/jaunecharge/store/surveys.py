"""Surveys: spot checks of many chains in a row."""

import uuid

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.factors import WIRED
from ..core.spot import Spot, spot
from ..core.trace import Array
from . import bench_models as b
from .runs import get_run, load_log


def chain_label(factors: dict[str, str]) -> str:
    """What sets a chain of a survey apart: charger, adapter, case."""
    charger = factors.get("charger", "")
    parts = ["by wire" if charger in {"", WIRED} else charger, factors.get("place", ""), factors.get("adapter", "")]
    if factors.get("case", "none") not in {"", "none"}:
        parts.append(factors["case"])
    return ", ".join(p for p in parts if p)


def lanes_of(session: Session, survey: uuid.UUID) -> list[b.Lane]:
    """The lanes of a survey, in their order."""
    return list(session.scalars(select(b.Lane).where(b.Lane.survey == survey).order_by(b.Lane.opened_at, b.Lane.id)))


def found_of(session: Session, lane: b.Lane, live: tuple[Array, Array] | None) -> tuple[Spot | None, float | None]:
    """What a spot check shows so far, and its volts; of one that has ended, from its run.

    Parameters
    ----------
    live : (times [s], watts [W]), optional
        Of a lane that is still open.
    """
    if lane.placed_s is None:
        return None, None
    if lane.run_id is None:
        return (None, None) if live is None else (spot(live[0], live[1], lane.placed_s), None)
    trace = load_log(session, get_run(session, lane.run_id, deleted=True)).trace
    charging = trace.time_s > lane.placed_s
    volts = None if trace.volts is None or not charging.any() else float(np.median(trace.volts[charging]))
    return spot(trace.time_s, trace.power_w, lane.placed_s), volts
