"""Evidence for a charge limit as the cause of a dip: a long stop at a percentage where phones are told to stop."""

from collections.abc import Sequence

import numpy as np

from ..arrays import median
from ..milestones import at_limit
from ..units import MINUTE_S
from ..wording import duration
from .dips import RawDip
from .evidence import SAME_LEVEL_K, Scene
from .verdict import CauseVerdict

HOLD_LEAST_S, HOLD_RISE, RUNS_DOWN = 15 * MINUTE_S, 1.0, 6.0
"""A phone at its limit lets its battery run down by a few points before it charges again (own choice)."""


def by_limit(scene: Scene, dip: RawDip) -> CauseVerdict | None:
    """No-load for a quarter of an hour and more at a percentage where phones are told to stop.

    Where somebody saw that the limit is off, nothing explains it.
    """
    if not dip.low or scene.seconds(dip) < HOLD_LEAST_S or scene.readings is None:
        return None
    grid, readings = scene.grid, scene.readings
    begin_s, end_s = grid.edge_s(dip.first), grid.edge_s(dip.end)
    inside = (readings.time_s > begin_s + MINUTE_S) & (readings.time_s <= end_s + MINUTE_S)
    held = readings.percent[inside]
    if not len(held) or float(held.max() - held.min()) > HOLD_RISE:
        return None
    limit = at_limit(median(held))
    if limit is None:
        return None
    fell = scene.fell_k(dip)
    if fell is not None and fell < -SAME_LEVEL_K:
        return None
    return _limited(scene, dip, limit, f"with the battery at {median(held):g} %")


def topped_up_at_limit(scene: Scene, dips: Sequence[RawDip]) -> dict[int, CauseVerdict]:
    """Stops at one limit, again and again: the phone runs down a little and is charged back up to it."""
    if scene.readings is None:
        return {}
    at: dict[float, list[RawDip]] = {}
    for dip in dips:
        limit = at_limit(scene.percent_at(dip.first))
        long = scene.seconds(dip) >= HOLD_LEAST_S or (dip.trailing and _read_in(scene, dip))
        if dip.low and limit is not None and long and _runs_down(scene, dip, limit):
            at.setdefault(limit, []).append(dip)
    return {
        dip.first: _limited(scene, dip, limit, f"from {limit:g} % on, where it stopped {len(stops)} times")
        for limit, stops in at.items()
        if len(stops) > 1
        for dip in stops
    }


def _read_in(scene: Scene, dip: RawDip) -> bool:
    """Whether somebody read the percentage since it stopped."""
    assert scene.readings is not None
    return float(scene.readings.time_s[-1]) > scene.grid.edge_s(dip.first) + MINUTE_S


def _runs_down(scene: Scene, dip: RawDip, limit: float) -> bool:
    """Whether the percentage stands or falls a little while nothing is drawn, and never rises."""
    assert scene.readings is not None
    begin_s, end_s = scene.grid.edge_s(dip.first), scene.grid.edge_s(dip.end)
    inside = (scene.readings.time_s > begin_s + MINUTE_S) & (scene.readings.time_s <= end_s - MINUTE_S)
    levels = scene.readings.percent[inside]
    return bool(np.all(np.diff(levels) <= 0) and np.all(levels >= limit - RUNS_DOWN) and np.all(levels <= limit + 1))


def _limited(scene: Scene, dip: RawDip, limit: float, where: str) -> CauseVerdict:
    """A charge limit; unexplained where somebody saw that it is off."""
    fell = scene.fell_k(dip)
    cooled = "" if fell is None else f", cooling by {max(0.0, fell):.1f} K"
    stood = f"{duration(scene.seconds(dip))} at no-load {where}{cooled}"
    if scene.limits == "seen off":
        return CauseVerdict(
            "unexplained",
            f"stopped at {limit:g} % with limits off: {stood}",
            "Look into the phone's settings again: some turn a limit back on by themselves. If it is off, repeat the"
            " run with another charger.",
        )
    asked = "" if scene.limits != "off" else "; the method says limits off: was one left on?"
    return CauseVerdict("hold", f"{stood}: a charge limit{asked}")
