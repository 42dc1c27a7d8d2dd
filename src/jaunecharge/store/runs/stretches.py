"""Stretches of a run's power, from as little of its log as they need."""

from dataclasses import dataclass

import numpy as np
from sqlalchemy.orm import Session

from ...core.arrays import Array
from ...core.log import hole_limit, holes_in
from ...core.reading import RunLog
from .. import models as m
from .logs import load_log, minutes_of, samples_between, watts_of
from .series import CHUNK_ROWS


@dataclass(frozen=True)
class Stretch:
    """Power between two moments, and one sample more on either side.

    time_s, watts : (n,) [s], [W], its samples, or lowest and highest of each of its minutes; holes : start and end [s]
    of what was not metered; samples : how many it holds.
    """

    time_s: Array
    watts: Array
    holes: list[tuple[float, float]]
    samples: int


def stretch_of(session: Session, run: m.Run, log: RunLog | None, from_s: float, to_s: float, points: int) -> Stretch:
    """A stretch of a run; of a long one in short where its minutes are more than can be shown.

    from_s, to_s : [s] on the log's clock, infinite for its beginning and end; log : the log, where it is at hand.
    """
    if log is None and run.packed and run.samples > CHUNK_ROWS:
        minutes = minutes_of(session, run)
        if minutes is not None and np.count_nonzero((minutes.end_s >= from_s) & (minutes.start_s <= to_s)) > points:
            time_s, watts = minutes.curve
            inside = _slice(time_s, from_s, to_s)
            held = (minutes.start_s >= from_s) & (minutes.end_s <= to_s)
            holes = minutes.holes(hole_limit(run.step_s or 0.0))
            return Stretch(time_s[inside], watts[inside], holes, int(minutes.samples[held].sum()))
        columns = samples_between(session, run, from_s, to_s)
        if columns is not None:
            return _of(columns["t_s"], watts_of(columns), hole_limit(run.step_s or 0.0), from_s, to_s)
    trace = (log or load_log(session, run)).trace
    if not trace.metered:
        # Of a run that no meter saw there is no curve, so no hole in it either.
        return Stretch(trace.time_s[:0], trace.power_w[:0], [], len(trace.time_s[_slice(trace.time_s, from_s, to_s)]))
    return _of(trace.time_s, trace.power_w, trace.hole_limit_s, from_s, to_s)


def _slice(time_s: Array, from_s: float, to_s: float) -> slice:
    first = max(0, int(np.searchsorted(time_s, from_s)) - 1)
    return slice(first, int(np.searchsorted(time_s, to_s, "right")) + 1)


def _of(time_s: Array, watts: Array, limit_s: float, from_s: float, to_s: float) -> Stretch:
    inside = _slice(time_s, from_s, to_s)
    holes = holes_in(time_s[inside], limit_s)
    return Stretch(time_s[inside], watts[inside], holes, len(time_s[inside]))
