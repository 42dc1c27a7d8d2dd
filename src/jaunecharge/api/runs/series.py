"""The curves of a run, thinned to what a screen can show, their extremes kept."""

import uuid
from typing import Annotated

import numpy as np
from fastapi import Query, Request
from tsdownsample import MinMaxLTTBDownsampler

from ...core.arrays import Array
from ...core.units import MINUTE_S
from ...store.runs.logs import load_beside
from ...store.runs.runs import get_run
from ...store.runs.stretches import stretch_of
from ..context import context_of
from ..numbers import MinuteAsked
from ..strict import make_router
from . import shapes

router = make_router("runs")


def thinned(time_s: Array, values: Array, points: int) -> np.ndarray:
    """Indices of at most `points` samples that keep the shape and the extremes (MinMaxLTTB)."""
    if len(time_s) <= points:
        return np.arange(len(time_s))
    return np.asarray(MinMaxLTTBDownsampler().downsample(time_s, values, n_out=points))


@router.get("/runs/{run_id}/series")
def series(
    request: Request,
    run_id: uuid.UUID,
    start: MinuteAsked = None,
    end: MinuteAsked = None,
    points: Annotated[int, Query(ge=100, le=5000)] = 1500,
) -> shapes.SeriesShape:
    """Power and temperatures of a run, or of a stretch of it."""
    context = context_of(request)
    with context.database.session() as session:
        run = get_run(session, run_id)
        placed_s = context.placed_s(session, run)
        from_s = -np.inf if start is None else placed_s + start * MINUTE_S
        to_s = np.inf if end is None else placed_s + end * MINUTE_S
        log = context.readings.log(run)
        stretch = stretch_of(session, run, log, from_s, to_s, points)
        beside = log or load_beside(session, run)
    curve = thinned(stretch.time_s, stretch.watts, points)
    times, watts = stretch.time_s[curve], stretch.watts[curve]
    holes = [h for h in stretch.holes if from_s < h[1] and h[0] < to_s]
    if holes:
        edges = np.array(holes).reshape(-1, 2)
        middles = edges.mean(axis=1)
        order = np.argsort(np.concatenate((times, middles)), kind="stable")
        times = np.concatenate((times, middles))[order]
        watts = np.concatenate((watts, np.full(len(middles), np.nan)))[order]
    temperatures = []
    for surface in beside.heat.surfaces if beside.heat else ():
        at = (surface.time_s >= from_s) & (surface.time_s <= to_s)
        t, c = surface.time_s[at], surface.celsius[at]
        few = thinned(t, c, points)
        temperatures.append(
            shapes.TemperatureSeries(
                position=surface.position,
                minute=np.round((t[few] - placed_s) / MINUTE_S, 4).tolist(),
                celsius=np.round(c[few], 3).tolist(),
            )
        )

    def of_point(time_s: Array, watts: Array) -> tuple[list[float], list[float]]:
        """Watts of another point than the meter: (minutes, W)."""
        at = (time_s >= from_s) & (time_s <= to_s)
        t, w = time_s[at], watts[at]
        few = thinned(t, w, points)
        return np.round((t[few] - placed_s) / MINUTE_S, 4).tolist(), np.round(w[few], 3).tolist()

    phone_minute, phone_watts = of_point(beside.besides.time_s, beside.besides.watts)
    socket = ([], []) if beside.socket is None else of_point(beside.socket.time_s, beside.socket.power_w)
    return shapes.SeriesShape(
        phone_minute=phone_minute,
        phone_watts=phone_watts,
        socket_minute=socket[0],
        socket_watts=socket[1],
        minute=np.round((times - placed_s) / MINUTE_S, 4).tolist(),
        watts=[None if np.isnan(w) else w for w in np.round(watts, 4).tolist()],
        temperatures=temperatures,
        samples=stretch.samples,
    )
