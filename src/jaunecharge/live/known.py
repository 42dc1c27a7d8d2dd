"""The reading of a lane so far, made anew once a minute and with each check-in: it takes tens of milliseconds."""

import logging

from ..core.arrays import Array
from ..core.bench import SoFar, so_far
from ..core.reading import Limits, known_limits
from ..core.units import MINUTE_S
from ..store.bench.entries import told_of
from .lane_state import LaneState

log = logging.getLogger(__name__)
FASTER = 6.0


def known_of(state: LaneState, now_s: float, no_load_w: float | None, shared: bool) -> SoFar:
    """The reading of a lane by now. Of a meter that is shared its watts say nothing."""
    lane, placed_s = state.lane, state.lane.placed_s
    if placed_s is None:
        return SoFar()
    percents = [(t, p) for t, p in state.percents if t >= placed_s]
    # A stand-in that runs fast is read every ten seconds of the clock on the wall, not sixty times as often.
    every_s = MINUTE_S * max(1.0, lane.speed / FASTER)
    made_from = (placed_s, no_load_w, shared, tuple(percents), int(now_s // every_s))
    if state.known is None or state.known[0] != made_from:
        state.known = made_from, _made(state, placed_s, percents, no_load_w, shared)
    return state.known[1]


def _made(
    state: LaneState, placed_s: float, percents: list[tuple[float, float]], no_load_w: float | None, shared: bool
) -> SoFar:
    times, watts = state.watts.arrays()
    heat_s, celsius = state.phone_heat()
    metered = 0 if shared else len(times)
    try:
        return so_far(
            times[:metered], watts[:metered], _volts(state, metered), placed_s, no_load_w, percents, heat_s, celsius,
            limits_of(state),
        )  # fmt: skip
    except Exception as error:
        # What it comes from is more than a bench must say: its figures and alarms go on without.
        log.error("lane %s cannot be read so far", state.lane.name, exc_info=error)
        return SoFar()


def _volts(state: LaneState, count: int) -> Array | None:
    """Volts of the same steps as the watts; None where some are missing."""
    _, volts = state.volts.arrays()
    return volts if len(volts) == count and count else None


def limits_of(state: LaneState) -> Limits:
    """Knowledge of the phone's charge limit."""
    told = told_of(state.lane).get("settings")
    return known_limits(state.lane.card.limits == "left on", told is not None and not told.skipped)
