"""Levels of the power curve: end of the ramp, best settled, sustained, after full."""

import numpy as np

from ..arrays import median
from ..log.energy import energy_between, window_means
from ..log.no_load import same_level_w
from ..log.placement import GUARD_S, Stretch
from ..log.temperatures import HOT_C, HeatLog
from ..log.trace import PowerTrace
from ..units import HOUR_S, MINUTE_S

SETTLED_WINDOW_S = 60.0
RAMP_SHARE, LEVEL_SHARE, REAL_SHARE = 0.95, 0.93, 0.6
RAMP_WITHIN_S = 30.0 * MINUTE_S
RAMP_WINDOW_S = 10.0
LEAST_AFTER_FULL_S = 3.0 * MINUTE_S
AFTER_FULL_S = HOUR_S
LEAST_READINGS = 2
SUSTAINED_TO = 60
"""Sustained power is told from the end of the ramp to this percentage (common practice)."""


def mean_between(trace: PowerTrace, start_s: float, end_s: float) -> Stretch | None:
    """Mean power over a stretch as far as it was metered; None where none of it was."""
    energy = energy_between(trace, start_s, end_s)
    if energy.covered_s <= 0:
        return None
    return Stretch(energy.mean_w, max(start_s, trace.start_s), min(end_s, trace.end_s))


def cool_until(trace: PowerTrace, heat: HeatLog | None, placed_s: float) -> float:
    """When the phone first counts as hot [s]; the end of the log where it never does, or nobody measured."""
    surface = heat.phone() if heat else None
    if surface is None:
        return trace.end_s
    hot = np.flatnonzero((surface.celsius >= HOT_C) & (surface.time_s >= placed_s))
    return float(surface.time_s[hot[0]]) if len(hot) else trace.end_s


def end_of_ramp(trace: PowerTrace, placed_s: float) -> float:
    """When power first comes within 5 % of the best minute of the first half hour, or stands level before that.

    A dead phone's wake (some minutes at 2–7 W) is thereby part of what precedes the first real level. A constant
    current draws more as the battery's voltage rises: power that stays for minutes within 7 % of what follows, at 60 %
    of the best or more, has ended its ramp, though it climbs on.
    """
    begin = max(placed_s, trace.start_s)
    best = _best_window(trace, begin, begin + RAMP_WITHIN_S)
    if best is None:
        return begin
    starts = _starts(trace, begin, best.end_s - RAMP_WINDOW_S)
    means = window_means(trace, starts, RAMP_WINDOW_S)
    following = window_means(trace, starts + SETTLED_WINDOW_S, 2 * SETTLED_WINDOW_S)
    level = (means >= LEVEL_SHARE * following) & (means >= REAL_SHARE * best.watts)
    there = np.flatnonzero((means >= RAMP_SHARE * best.watts) | level)
    return float(starts[there[0]]) if len(there) else best.start_s


def best_settled(trace: PowerTrace, ramp_end_s: float, cool_s: float) -> Stretch | None:
    """The highest 60-s mean after the ramp while the phone is still cool; over the whole run if it was never cool."""
    if cool_s - ramp_end_s < SETTLED_WINDOW_S:
        cool_s = trace.end_s
    return _best_window(trace, ramp_end_s, cool_s)


def sustained(trace: PowerTrace, ramp_end_s: float, sixty_s: float | None) -> Stretch | None:
    """Mean power from the end of the ramp to 60 %; None where the run starts above it or never gets there."""
    if sixty_s is None or sixty_s <= ramp_end_s:
        return None
    return mean_between(trace, ramp_end_s, sixty_s)


def minutes_at_least(trace: PowerTrace, start_s: float, end_s: float, watts: float) -> float:
    """Minutes between two moments at which the power of a minute was so many watts or more, holes left out."""
    starts = np.arange(max(start_s, trace.start_s), min(end_s, trace.end_s), MINUTE_S)
    means = window_means(trace, starts, MINUTE_S, least_covered=0.5)
    return float(np.count_nonzero(np.nan_to_num(means) >= watts))


def after_full(trace: PowerTrace, full_s: float | None, settled_w: float | None) -> Stretch | None:
    """Mean draw in the last hour after full, once it has come to rest; None under three minutes of it.

    A phone may show 100 % and still take power for a while: the stretch begins where power last left the final level.
    """
    if full_s is None or trace.end_s - full_s < LEAST_AFTER_FULL_S:
        return None
    if trace.sparse and np.count_nonzero(trace.time_s > full_s) < LEAST_READINGS:
        return None
    tail = trace.time_s >= trace.end_s - LEAST_AFTER_FULL_S
    final_w = median(trace.power_w[tail])
    if settled_w is not None and final_w > 0.5 * settled_w:
        return None
    above = trace.power_w > same_level_w(final_w)
    rested = np.flatnonzero(above & (trace.time_s >= full_s))
    start_s = max(float(trace.time_s[rested[-1]]) + GUARD_S if len(rested) else full_s, trace.end_s - AFTER_FULL_S)
    return mean_between(trace, start_s, trace.end_s) if trace.end_s - start_s >= LEAST_AFTER_FULL_S else None


def _starts(trace: PowerTrace, start_s: float, end_s: float) -> np.ndarray:
    """Sample times from `start_s` to `end_s`, both ends among them, at most one a second."""
    first, end = np.searchsorted(trace.time_s, start_s, "right"), np.searchsorted(trace.time_s, end_s, "left")
    times = trace.time_s[first:end]
    if len(times) > 2 and times[-1] - times[0] < 0.5 * len(times):
        times = np.arange(start_s + 1.0, end_s, 1.0)
    return np.concatenate(([start_s], times, [max(start_s, end_s)]))


def _best_window(trace: PowerTrace, start_s: float, end_s: float) -> Stretch | None:
    last = min(end_s, trace.end_s) - SETTLED_WINDOW_S
    if last < start_s:
        return None
    starts = _starts(trace, start_s, last)
    means = window_means(trace, starts, SETTLED_WINDOW_S)
    if not np.isfinite(means).any():
        return None
    best = int(np.nanargmax(means))
    return Stretch(float(means[best]), float(starts[best]), float(starts[best]) + SETTLED_WINDOW_S)
