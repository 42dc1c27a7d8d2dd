"""Throttling of a run: when it first throttled, for how long, and what that cost in energy and minutes.

Counted up to 80 % only, see `milestones.SLOWS_FROM`.
"""

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..log.check_ins import Milestone
from ..log.temperatures import HOT_C
from ..measured import Measured, Part, rectangle
from ..units import HOUR_S, MINUTE_S
from .cause_heat import HOT_SLACK_K
from .causes import Dip
from .judgement import Judged, stage_steps

ALIKE_SHARE = 0.2
"""Half-width of what the share of the power that reaches the battery may differ between full and throttled power
(own choice: the overhead of coil and phone does not fall in step with the power)."""


@dataclass(frozen=True)
class Throttle:
    """Heat's doing. first : the first throttle, or None; minutes : throttled below 80 % [min]; cycles : how often power
    was taken away; shortfall_wh : energy short of the unthrottled level below 80 % [Wh]; cost_min : what that cost;
    each : of every throttle that counts, from and to [s] and what it cost [min]; perhaps : whether something else of
    the run may have been heat, so that nobody can say `never`; likely : whether one event alone speaks for heat."""

    first: Dip | None
    minutes: float
    cycles: int
    shortfall_wh: float
    cost_min: Measured
    until_s: float
    each: tuple[tuple[float, float, float], ...] = ()
    perhaps: bool = False
    likely: bool = False


def throttle(judged: Judged, end_s: float, eighty: Milestone | None, base_w: float) -> Throttle:
    """Cost of heat: what the dips by heat took.

    The unthrottled level is what was expected at each dip. A minute at full power is worth the watts above no-load;
    what a dip lacks of them, divided by them, is what it cost.

    Parameters
    ----------
    judged : Judged
    end_s : float [s]
        Of the log.
    eighty : Milestone or None
        When 80 % was reached; where it never was, all of the run counts.
    base_w : float [W]
        No-load draw, which charges nothing.

    References
    ----------
    Own working of common practice; its share of uncertainty: see `ALIKE_SHARE`.
    """
    until_s = eighty.estimate_s if eighty is not None else end_s
    counted = [d for d in judged.dips if d.throttle]
    grid = judged.grid
    minutes, short_wh, at_eighty, edges_min = 0.0, 0.0, 0.0, 0.0
    each = []
    elsewhere = np.zeros(len(grid), dtype=bool)
    for other in judged.dips:
        if not other.throttle:
            elsewhere[grid.index(other.start_s) : grid.index(other.end_s)] = True
    for dip in counted:
        first, end = grid.index(dip.start_s), grid.index(min(dip.end_s, until_s))
        if dip.start_s >= until_s or end <= first:
            continue
        # A lasting cut goes on after a stop that has another cause; what was lost in the stop is not heat's.
        stopped = elsewhere[first:end]
        minutes += (min(dip.end_s, until_s) - dip.start_s - float(stopped.sum()) * grid.step_s) / MINUTE_S
        lacking = np.where(stopped, 0.0, np.maximum(dip.expected_w - grid.watts[first:end], 0.0))
        short_wh += float(lacking.sum()) * grid.step_s / HOUR_S
        worth = max(dip.expected_w - base_w, 0.05 * dip.expected_w)
        cost = float((lacking / worth).sum()) * grid.step_s / MINUTE_S
        each.append((dip.start_s, min(dip.end_s, until_s), cost))
        edges_min = math.hypot(edges_min, dip.depth_w / worth * grid.unsure_s / MINUTE_S * math.sqrt(2.0))
        if dip.start_s < until_s <= dip.end_s:
            at_eighty = dip.depth_w / worth
    cost = sum(c for _, _, c in each)
    half_min = (eighty.latest_s - eighty.earliest_s) / 2.0 / MINUTE_S if eighty is not None else 0.0
    parts = (
        Part("power that reaches the battery, taken as alike at both levels", rectangle(ALIKE_SHARE * cost)),
        Part("when 80 % was reached", rectangle(half_min * min(1.0, at_eighty))),
        *([Part("when the drops began and ended, between readings", rectangle(edges_min))] if edges_min else []),
    )
    return Throttle(
        counted[0] if counted else None, minutes, len(counted), short_wh, Measured(cost, parts), until_s, tuple(each),
        _perhaps_heat(judged), all(d.likely and not d.overruled for d in counted),
    )  # fmt: skip


Verdict = Literal["throttled", "probably", "perhaps", "never", "unknown"]


def throttle_verdict(cut: Throttle | None) -> Verdict:
    """Whether heat throttled a run, in a word.

    `unknown` where power or temperature is missing, `perhaps` where something without a cause may have been heat,
    `probably` where one event alone speaks for it.
    """
    if cut is None:
        return "unknown"
    if cut.first is None:
        return "perhaps" if cut.perhaps else "never"
    return "probably" if cut.likely else "throttled"


def _perhaps_heat(judged: Judged) -> bool:
    """Whether a step that stayed, or a dip without a cause, came while the phone may have been hot."""
    warm, grid = judged.warmth, judged.grid
    steps = stage_steps(judged)
    if warm is None:
        return bool(steps) or any(d.cause == "unexplained" for d in judged.dips)
    stepped = [warm.at(above.end, grid.steps(MINUTE_S)) for above, _ in steps]
    fell = [d.onset_c for d in judged.dips if d.cause == "unexplained" and not d.overruled]
    return any(c is None or c >= HOT_C - HOT_SLACK_K for c in (*stepped, *fell))
