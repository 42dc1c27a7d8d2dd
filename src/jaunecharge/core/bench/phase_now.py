"""The phase that a lane is in just now, as far as it can be told before the run is over."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..arrays import Array
from ..log.check_ins import DEAD_PERCENT
from ..log.no_load import MOST_NO_LOAD_W, same_level_w
from ..log.trace import power_trace
from ..reading.dips import LEAST_LOW_S
from ..reading.grid import series
from ..reading.phases import STEP_SHARE, WAKE_SHARE, WAKE_W, WAKE_WITHIN_S, latest_piece
from ..reading.power_levels import SETTLED_WINDOW_S, best_settled, end_of_ramp
from ..units import MINUTE_S
from .so_far import SoFar, lower_said, stop_said

NowKind = Literal["none", "no_load", "wake", "ramp", "plateau", "taper", "trickle", "changing", "no power", "hold",
                  "full", "on it"]  # fmt: skip

RECENT_S = 5 * MINUTE_S
LOOKED_BACK_S = 45 * MINUTE_S


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
    expected_w: float | None = None,
    known: SoFar = SoFar(),
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
    expected_w : float, optional [W]
        What the chain should draw.
    known : SoFar
        What the reading says of it by now: why nothing is drawn, or less.
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
    if not len(time_s):
        return Now("none", "logged by hand")
    if not len(times) and now_s - placed_s < MINUTE_S:
        return Now("ramp", "ramp")
    if not len(times) or times[-1] <= now_s - RECENT_S:
        return Now("none", "nothing from the meter")
    base = 0.5 if no_load_w is None else no_load_w
    low = drawn <= (same_level_w(base) if known.low_w is None else known.low_w)
    level = float(drawn[times > times[-1] - MINUTE_S].mean())
    if percent is not None and percent >= 100:
        return Now("full", f"full, {level:.1f} W")
    if low[-1]:
        up = np.flatnonzero(~low)
        lasts = float(times[-1] - (times[up[-1]] if len(up) else placed_s))
        if lasts >= LEAST_LOW_S:
            kind: NowKind = "hold" if known.held_at is not None else "no power"
            return Now(kind, stop_said(known, now_s) or f"no power for {_said(lasts)}")
    below = WAKE_W if expected_w is None else WAKE_SHARE * expected_w
    if start_percent <= DEAD_PERCENT and now_s - placed_s < WAKE_WITHIN_S and level < below:
        return Now("wake", f"waking, {level:.1f} W")
    return _piece(times, drawn, placed_s, base, percent, lower_said(known))


def _piece(times: Array, drawn: Array, placed_s: float, base_w: float, percent: float | None, why: str) -> Now:
    """Course of the power at the end of what was metered so far, by the rules of the reading."""
    if len(times) < 2:
        return Now("ramp", "ramp")
    trace = power_trace(times, drawn)
    ramp_end_s = end_of_ramp(trace, placed_s)
    settled = best_settled(trace, ramp_end_s, trace.end_s)
    if settled is None or ramp_end_s > trace.end_s - SETTLED_WINDOW_S:
        return Now("ramp", "ramp")
    recent = times >= max(ramp_end_s, trace.end_s - LOOKED_BACK_S)
    grid = series(power_trace(times[recent], drawn[recent])) if np.count_nonzero(recent) > 1 else None
    latest = None if grid is None else latest_piece(grid, 0, settled.watts, base_w, percent)
    if latest is None:
        return Now("changing", "settling")
    kind, piece = latest
    match kind:
        case "trickle":
            return Now("trickle", f"trickle, {piece.mean_w:.1f} W")
        case "plateau":
            down = piece.mean_w < STEP_SHARE * settled.watts
            told = f"plateau, down from {settled.watts:.1f} W{f', {why}' if why else ''}"
            return Now("plateau", told if down else "plateau")
        case "taper":
            return Now("taper", "taper")
    return Now("changing", kind)


def _said(seconds: float) -> str:
    return f"{seconds:.0f} s" if seconds < 2 * MINUTE_S else f"{seconds / MINUTE_S:.0f} min"
