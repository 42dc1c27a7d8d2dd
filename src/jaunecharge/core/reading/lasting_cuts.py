"""Steps down with no return: a cut by heat, a change of supply, or a stage that the phone's policy asks for."""

from itertools import pairwise

import numpy as np

from ..arrays import Mask
from ..log.temperatures import HOT_C
from ..units import MINUTE_S
from .cause_supply import VOLTS_SHARE
from .causes import HOT_SLACK_K, SAME_LEVEL_K, TIGHT_K
from .dips import DEEP_SHARE, RawDip
from .evidence import Scene, carried_on, full_power, new_high
from .phases import STEP_SHARE, Level
from .verdict import CauseVerdict

CLIMB_K = 1.0
HELD_LEAST_S, HELD_WITHIN_K = 15 * MINUTE_S, 1.0
POLICY_K = 1.5
LEFT_SHARE, ONSET_S = 0.3, 2 * MINUTE_S


def lasting_cuts(scene: Scene, dips: list[RawDip], throttled_c: list[float]) -> list[tuple[RawDip, CauseVerdict]]:
    """Steps down with no return that heat or the supply explains: each to where its evidence ends.

    What is left is a stage: policy and heat cannot be told apart by one such step. throttled_c [°C] : where the dips
    by heat begin that returned; a last one, from which the charge goes straight into the taper, begins there too.
    """
    levels = _with_peak(scene, scene.course.levels)
    stop = next(x for x in (scene.course.taper, scene.course.trickle, scene.course.end) if x is not None)
    steps = [(a, b) for a, b in pairwise(levels) if b.watts < STEP_SHARE * a.watts]
    full = full_power(scene, dips)
    cuts: list[tuple[RawDip, CauseVerdict]] = []
    taken = -1
    for above, below in steps:
        if above.end <= taken or below.watts >= DEEP_SHARE * above.watts:
            continue
        first = _cut_begins(scene, above, below)
        raw = RawDip(first, stop, above.watts, below.watts, low=False)
        verdict = _lasting_supply(scene, above, below)
        if verdict is not None:
            raw = RawDip(first, _volts_back(scene, above, below, stop), above.watts, below.watts, low=False)
        else:
            verdict = _lasting_heat(scene, raw, above, below, steps, full, throttled_c)
        if verdict is not None:
            cuts.append((raw, verdict))
            taken = raw.end
    return cuts


def _with_peak(scene: Scene, levels: tuple[Level, ...]) -> tuple[Level, ...]:
    """The levels, and before them the best settled power where it was left before it could count as a level."""
    if not levels or levels[0].watts >= DEEP_SHARE * scene.settled_w:
        return levels
    grid = scene.grid
    high = np.flatnonzero(grid.smooth[scene.first : levels[0].first + 1] >= DEEP_SHARE * scene.settled_w)
    if not len(high):
        return levels
    end = scene.first + int(high[-1]) + 1
    return (Level(scene.first, end, scene.settled_w), *levels)


def _cut_begins(scene: Scene, above: Level, below: Level) -> int:
    """The step at which power leaves a level for a lower one: near the end of the level as it was fitted."""
    grid = scene.grid
    begin = max(above.first, above.end - grid.steps(2 * MINUTE_S))
    stop = min(below.end, max(above.end, below.first) + grid.steps(2 * MINUTE_S))
    lower = grid.watts[begin:stop] < (1 - LEFT_SHARE) * above.watts + LEFT_SHARE * min(below.watts, above.watts)
    higher = np.flatnonzero(~lower[: max(1, above.end - begin + grid.steps(MINUTE_S))])
    at = begin + int(higher[-1]) + 1 if len(higher) else above.end
    return min(max(at, begin), stop - 1)


def _lasting_supply(scene: Scene, above: Level, below: Level) -> CauseVerdict | None:
    volts = scene.grid.volts
    if volts is None:
        return None
    before = float(np.median(volts[above.first : above.end]))
    after = float(np.median(volts[below.first : below.end]))
    if after >= VOLTS_SHARE * before:
        return None
    return CauseVerdict("supply", f"the volts dropped from {before:.2f} to {after:.2f} V and stayed there")


def _volts_back(scene: Scene, above: Level, below: Level, stop: int) -> int:
    volts = scene.grid.volts
    assert volts is not None
    before = float(np.median(volts[above.first : above.end]))
    back = np.flatnonzero(volts[below.first : stop] >= VOLTS_SHARE * before)
    return below.first + int(back[0]) if len(back) else stop


def _lasting_heat(
    scene: Scene,
    raw: RawDip,
    above: Level,
    below: Level,
    steps: list[tuple[Level, Level]],
    full: Mask,
    throttled_c: list[float],
) -> CauseVerdict | None:
    """A lasting cut by heat: begins hot, still climbing, near the run's maximum, and is then held level."""
    on = scene.onset_c(raw)
    warmth = scene.warmth
    if warmth is None or on is None:
        return None
    grid, celsius = scene.grid, warmth.celsius
    # A probe lags, and a cut may come by degrees: the first minutes of it still belong to its onset.
    early = celsius[raw.first : raw.first + grid.steps(ONSET_S)]
    on = max([on, *early[np.isfinite(early)].tolist()])
    if on < HOT_C - min(HOT_SLACK_K, warmth.unsure_k):
        return None
    same = [c for c in throttled_c if abs(c - on) <= min(SAME_LEVEL_K, max(TIGHT_K, 3.0 * warmth.unsure_k))]
    if len(same) > 1:
        reason = f"dropped at {scene.said_c(raw, on)}, as {len(same)} times before; the taper came before it returned"
        return CauseVerdict("heat", reason)
    seconds = scene.seconds(raw)
    before_taper = celsius[scene.first : raw.end]
    inside = celsius[raw.first : raw.end]
    known, within = before_taper[np.isfinite(before_taper)], inside[np.isfinite(inside)]
    if seconds < HELD_LEAST_S or not len(within):
        return None
    hottest = float(known.max())
    if on < hottest - SAME_LEVEL_K or float(within.max()) > on + max(CLIMB_K, 2 * warmth.unsure_k):
        return None
    if not new_high(scene, raw, on):
        return None
    full_before = full.copy()
    full_before[raw.first :] = False
    if carried_on(scene, raw, full_before):
        return None
    others = [RawDip(a.end, b.first, a.watts, b.watts, low=False) for a, b in steps if a.end != above.end]
    cooler = [c for o in others if (c := scene.onset_c(o)) is not None and c < on - POLICY_K]
    gradual = (below.first - above.end) * grid.step_s > 4 * MINUTE_S
    near_top = float(np.mean(within >= on - HELD_WITHIN_K)) > 0.5
    if cooler and not (gradual and near_top):
        return None
    last = within[-grid.steps(HELD_LEAST_S) :]
    level = float(np.median(last))
    if float(np.percentile(last, 95) - np.percentile(last, 5)) > 2 * HELD_WITHIN_K + 2 * warmth.unsure_k:
        return None
    return CauseVerdict(
        "heat",
        f"cut for good at {scene.said_c(raw, on)}, near the hottest of the run; then held near {level:.1f} °C",
        "Phones also step down by a schedule of their own: repeat it with a fan to know.",
        likely=True,
    )
