"""The phase that a lane is in just now, as far as it can be told before the run is over."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..arrays import Array
from ..log.check_ins import DEAD_PERCENT
from ..log.no_load import MOST_NO_LOAD_W, same_level_w
from ..units import MINUTE_S

NowKind = Literal["none", "no_load", "wake", "ramp", "plateau", "taper", "trickle", "changing", "no power", "full",
                  "on it"]  # fmt: skip

NO_LOAD_S = 20.0
RAMP_SHARE, RAMP_WITHIN_S = 0.95, 4 * MINUTE_S
WAKE_W, WAKE_WITHIN_S = 7.0, 8 * MINUTE_S
FLAT_SHARE, FLAT_OVER_S = 0.03, 4 * MINUTE_S
"""Flat: within 3 % over four minutes, between the means of their first and last (our own; the reading is stricter)."""

TAPER_FROM = 70.0
TRICKLE_SHARE = 0.2
SAME_LEVEL = 0.93
RECENT_S = 5 * MINUTE_S


@dataclass(frozen=True)
class Now:
    """The phase in one word, and in words with figures."""

    kind: NowKind
    said: str


def phase_now(
    now_s: float,
    placed_s: float | None,
    time_s: Array,
    watts: Array,
    percent: float | None = None,
    no_load_w: float | None = None,
    start_percent: float = 10.0,
) -> Now:
    """The phase of a lane.

    Parameters
    ----------
    now_s, placed_s : float [s]
        On the lane's clock; placed_s is None before the phone is placed.
    time_s, watts : (n,) float array [s], [W]
        Means of some seconds each, in order, since the lane began.
    percent : float, optional [%]
        The latest.
    no_load_w : float, optional [W]
    start_percent : float [%]
    """
    recent = (time_s > now_s - RECENT_S) & np.isfinite(watts)
    if placed_s is None:
        if not recent.any():
            return Now("none", "waiting for the meter")
        drawn_w = float(watts[recent][-1])
        if drawn_w > MOST_NO_LOAD_W:
            return Now("on it", f"a phone is on it already, {drawn_w:.1f} W")
        return Now("no_load", "waiting for the phone")
    since = time_s >= placed_s
    times, drawn = time_s[since & np.isfinite(watts)], watts[since & np.isfinite(watts)]
    if not len(times) or times[-1] <= now_s - RECENT_S:
        return Now("none", "logged by hand" if not len(times) else "nothing from the meter")
    base = 0.5 if no_load_w is None else no_load_w
    low = drawn <= same_level_w(base)
    level = float(drawn[times > times[-1] - MINUTE_S].mean())
    best = float(np.percentile(drawn, 98))
    if percent is not None and percent >= 100:
        return Now("full", f"full, {level:.1f} W")
    if low[-1]:
        up = np.flatnonzero(~low)
        lasts = float(times[-1] - (times[up[-1]] if len(up) else placed_s))
        if lasts >= NO_LOAD_S:
            return Now("no power", f"no power for {_said(lasts)}")
    if start_percent <= DEAD_PERCENT and now_s - placed_s < WAKE_WITHIN_S and level < WAKE_W:
        return Now("wake", f"waking, {level:.1f} W")
    if now_s - placed_s < RAMP_WITHIN_S and (times[-1] - times[0] < MINUTE_S or level < RAMP_SHARE * best):
        return Now("ramp", "ramp")
    return _level(times, drawn, level, best, percent)


def _level(times: Array, drawn: Array, level: float, best: float, percent: float | None) -> Now:
    window = drawn[times > times[-1] - FLAT_OVER_S]
    quarter = max(1, len(window) // 4)
    change = float(window[-quarter:].mean() - window[:quarter].mean()) / max(1e-9, level)
    high = percent is not None and percent >= TAPER_FROM
    if high and level < TRICKLE_SHARE * best:
        return Now("trickle", f"trickle, {level:.1f} W")
    if abs(change) <= FLAT_SHARE:
        return Now("plateau", "plateau" if level >= SAME_LEVEL * best else f"plateau, down from {best:.1f} W")
    if change < 0 and high:
        return Now("taper", "taper")
    return Now("changing", "falling" if change < 0 else "rising")


def _said(seconds: float) -> str:
    return f"{seconds:.0f} s" if seconds < 2 * MINUTE_S else f"{seconds / MINUTE_S:.0f} min"
