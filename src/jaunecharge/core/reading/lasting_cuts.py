"""Steps down with no return: a cut by heat, a change of supply, or a stage that the phone's policy asks for."""

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np

from ..arrays import Array, Mask, median, percentile
from ..log.temperatures import HOT_C
from ..units import MINUTE_S
from .cause_heat import HOT_SLACK_K, TIGHT_K
from .cause_supply import VOLTS_SHARE
from .dips import DEEP_SHARE, RawDip
from .evidence import HELD_LEAST_S, HELD_WITHIN_K, SAME_LEVEL_K, Scene, carried_on, full_power, new_high
from .phases import STEP_SHARE, Level
from .verdict import CauseVerdict

CLIMB_K = 1.0
POLICY_K = 1.5
LEFT_SHARE, ONSET_S = 0.3, 2 * MINUTE_S
INTO_TAPER_S, HELD_FROM_S, HELD_TO_S, COOLER_K = 10 * MINUTE_S, 5 * MINUTE_S, 8 * MINUTE_S, 0.5
"""A cut that the taper follows begins near where the taper is taken to begin, and is over as the phone has cooled."""

ALIKE_SHARE = 0.1
LONE = 2
LET_GO_K, VOLTS_SOON_S = 10.0, 5 * MINUTE_S
"""A phone that has cooled by so much is no longer held by its heat (own choice)."""


def lasting_cuts(scene: Scene, dips: list[RawDip], throttled: Sequence[RawDip]) -> list[tuple[RawDip, CauseVerdict]]:
    """Steps down with no return that heat or the supply explains: each to where its evidence ends.

    What is left is a stage: policy and heat cannot be told apart by one such step. throttled : the dips by heat that
    returned; a last one, from which the charge goes straight into the taper, begins where they do.
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
            raw = RawDip(first, _volts_back(scene, above, first, stop), above.watts, below.watts, low=False)
        else:
            swings = _came_and_went(scene, above, below, first, dips)
            verdict = None if swings else _lasting_heat(scene, raw, above, below, steps, full, throttled, dips)
        if verdict is not None:
            cuts.append((raw, verdict))
            taken = raw.end
    last = _into_taper(scene, levels, throttled) if taken < stop else None
    return [*cuts, last] if last is not None else cuts


def _came_and_went(scene: Scene, above: Level, below: Level, first: int, dips: Sequence[RawDip]) -> bool:
    """Whether watts read by hand had been as low before, singly: power came and went faster than it was read, and a row
    of low readings may be chance."""
    grid = scene.grid
    if grid.by_hand_s is None:
        return False
    at = [i for s in grid.by_hand_s.tolist() if scene.first < (i := grid.index(s)) < first]
    as_low = [i for i in at if abs(grid.watts[i] / below.watts - 1.0) < min(ALIKE_SHARE, 1.0 - DEEP_SHARE)]
    return sum(not any(d.first <= i < d.end for d in dips) for i in as_low) >= LONE


def _into_taper(
    scene: Scene, levels: tuple[Level, ...], throttled: Sequence[RawDip]
) -> tuple[RawDip, CauseVerdict] | None:
    """A last cut by heat that the taper follows without a level of its own: it begins where the others of the run did,
    and lasts until the phone is cooler than that."""
    grid, warmth, taper = scene.grid, scene.warmth, scene.course.taper
    if warmth is None or warmth.sparse or grid.by_hand_s is not None or taper is None or not levels:
        return None
    above, earliest = levels[-1], max((d.end for d in throttled), default=0) + grid.steps(MINUTE_S)
    begin = max(above.first, earliest, taper - grid.steps(2 * MINUTE_S))
    fell = np.flatnonzero(grid.smooth[begin : scene.course.end] < DEEP_SHARE * above.watts)
    if not len(fell):
        return None
    first = begin + int(fell[0])
    raw = RawDip(first, scene.course.end, above.watts, float(grid.smooth[first]), low=False)
    on = scene.onset_c(raw)
    same = [] if on is None else _at_level(scene, raw, on, throttled)
    if on is None or not same or first - taper > grid.steps(INTO_TAPER_S):
        return None
    # As a charge tapers the phone cools with it; held by its heat it stays as warm while power falls.
    later = warmth.celsius[first + grid.steps(HELD_FROM_S) : first + grid.steps(HELD_TO_S)]
    if not np.isfinite(later).any() or float(np.nanmean(later)) < on:
        return None
    cooler = np.flatnonzero(warmth.celsius[first:] < on - COOLER_K)
    end = min(scene.course.end, first + int(cooler[0])) if len(cooler) else scene.course.end
    why = f"dropped at {scene.said_c(raw, on)}, as {_times(len(same))} before; the taper came before it returned"
    return replace(raw, end=end), CauseVerdict("heat", why, likely=len(same) < 2)


def _as_before(scene: Scene, above: Level, below: Level, on: float) -> bool:
    """Whether the run drew the same lower power before, as hot, and more only after it had cooled in between."""
    assert scene.warmth is not None
    celsius = scene.warmth.celsius
    for level in scene.course.levels:
        if level.end > above.first or level.watts >= DEEP_SHARE * above.watts:
            continue
        usual = (
            np.nanmedian(celsius[level.first : level.end]) if np.isfinite(celsius[level.first : level.end]).any() else 0
        )
        cooled = float(np.nanmin(celsius[level.end : above.end], initial=np.inf)) < on - HELD_WITHIN_K
        if abs(level.watts - below.watts) <= ALIKE_SHARE * below.watts and usual >= on - HELD_WITHIN_K and cooled:
            return True
    return False


def _at_level(scene: Scene, raw: RawDip, on: float, throttled: Sequence[RawDip]) -> list[RawDip]:
    """The dips by heat of a run in whose range of temperatures another fall begins."""
    assert scene.warmth is not None
    within = min(SAME_LEVEL_K, max(TIGHT_K, 3.0 * scene.warmth.unsure_k))
    ranges = [(d, scene.onset_c(d), scene.hottest_c(d)) for d in throttled if d.end <= raw.first]
    return [d for d, low, top in ranges if low is not None and low - within <= on <= max(low, top or low) + within]


def _times(count: int) -> str:
    return "once" if count == 1 else f"{count} times"


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
    reach = grid.steps(MINUTE_S) if grid.by_hand_s is None else max(0, below.first - above.end)
    higher = np.flatnonzero(~lower[: max(1, above.end - begin + reach)])
    at = begin + int(higher[-1]) + 1 if len(higher) else above.end
    return min(max(at, begin), stop - 1)


def _lasting_supply(scene: Scene, above: Level, below: Level) -> CauseVerdict | None:
    volts = scene.grid.volts
    if volts is None:
        return None
    before = median(volts[above.first : above.end])
    # The volts fall with the power; those that fall later in the lower level are not what took it.
    soon = volts[below.first : min(below.end, below.first + scene.grid.steps(VOLTS_SOON_S))]
    after = median(soon)
    if after >= VOLTS_SHARE * before:
        return None
    return CauseVerdict("supply", f"the volts dropped from {before:.2f} to {after:.2f} V and stayed there")


def _volts_back(scene: Scene, above: Level, first: int, stop: int) -> int:
    """The step at which the volts that fell are back; `stop` where they never were."""
    volts = scene.grid.volts
    assert volts is not None
    before = median(volts[above.first : above.end])
    down = volts[first:stop] < VOLTS_SHARE * before
    fell = int(np.argmax(down))
    back = np.flatnonzero(~down[fell:])
    return first + fell + int(back[0]) if len(back) and fell + int(back[0]) > 0 else stop


def _ends(scene: Scene, raw: RawDip, dips: Sequence[RawDip]) -> list[int]:
    """The steps up to which a cut may be looked at: its end, and the first stop in it after a quarter of an hour."""
    seen = raw.first + scene.grid.steps(HELD_LEAST_S)
    stops = [d.first for d in dips if d.low and seen <= d.first < raw.end]
    return [raw.end, *stops[:1]]


def _settled(scene: Scene, celsius: Array, first: int, end: int) -> tuple[float, float]:
    """Range of the temperature in the last quarter of an hour of a stretch [K], and its middle [°C]."""
    last = celsius[first:end][-scene.grid.steps(HELD_LEAST_S) :]
    last = last[np.isfinite(last)]
    if not len(last):
        return np.inf, np.nan
    return percentile(last, 95) - percentile(last, 5), median(last)


def _lasting_heat(
    scene: Scene,
    raw: RawDip,
    above: Level,
    below: Level,
    steps: list[tuple[Level, Level]],
    full: Mask,
    throttled: Sequence[RawDip],
    dips: Sequence[RawDip],
) -> CauseVerdict | None:
    """A lasting cut by heat: begins hot, still climbing, near the run's maximum, and is then held level."""
    on = scene.onset_c(raw)
    warmth = scene.warmth
    returns = any(x.first >= below.end and x.watts > (above.watts + below.watts) / 2.0 for x in scene.course.levels)
    if warmth is None or on is None or returns:
        return None
    grid, celsius = scene.grid, warmth.celsius
    # A probe lags, and a cut may come by degrees: the first minutes of it still belong to its onset.
    early = celsius[raw.first : raw.first + grid.steps(ONSET_S)]
    on = max([on, *early[np.isfinite(early)].tolist()])
    if on < HOT_C - min(HOT_SLACK_K, warmth.unsure_k):
        return None
    same = _at_level(scene, raw, on, throttled)
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
    if not same and not new_high(scene, raw, on) and not _as_before(scene, above, below, on):
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
    spread, level = min(_settled(scene, celsius, raw.first, end) for end in _ends(scene, raw, dips))
    if level < on - LET_GO_K or spread > 2 * HELD_WITHIN_K + 2 * warmth.unsure_k:
        return None
    held = level >= on - 2 * HELD_WITHIN_K
    stayed = f"then held near {level:.1f} °C" if held else f"power stayed low as the phone cooled to {level:.1f} °C"
    return CauseVerdict(
        "heat",
        f"cut for good at {scene.said_c(raw, on)}, near the hottest of the run; {stayed}",
        "Phones also step down by a schedule of their own: repeat it with a fan to know.",
        likely=True,
    )
