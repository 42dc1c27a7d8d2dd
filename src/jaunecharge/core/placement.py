"""The moment the phone goes on the charger: t = 0 of a run."""

from dataclasses import dataclass

import numpy as np

from .clock import SLACK_S
from .errors import CannotRead
from .trace import Array, PowerTrace

LASTING_S = 10.0
LEAST_RISE_W = 0.4
RISE_SHARE = 0.15
UNPOWERED_V = 3.0
UNPOWERED_W = 0.01
BASE_WINDOW_S = 5.0
"""First values of our own, checked on simulated runs: how far above no-load counts as a rise."""


RISE = "first rise above no-load that lasts 10 s"


@dataclass(frozen=True)
class Placement:
    """When the phone was placed [s], and how that is known."""

    at_s: float
    how: str


def find_placement(trace: PowerTrace, given_s: float | None, first_checkin_s: float | None) -> Placement:
    """Placement: as given; else the first rise above no-load that lasts 10 s; else the first check-in.

    Parameters
    ----------
    trace : PowerTrace
    given_s, first_checkin_s : float or None [s], on the log's clock

    Raises
    ------
    CannotRead
        If the given moment lies outside the log.
    """
    if given_s is not None:
        if not trace.start_s - SLACK_S <= given_s < trace.end_s:
            raise CannotRead(
                f"the phone is said to be placed at {given_s:g} s, but the log runs from {trace.start_s:g} to"
                f" {trace.end_s:g} s",
                "count the placing on the log's clock, or leave it out",
                file="placed_s",
            )
        return Placement(given_s, "as given")
    rise = _first_rise(trace)
    if rise is not None:
        return Placement(rise, RISE)
    if first_checkin_s is not None:
        return Placement(first_checkin_s, "first check-in, as the log shows no rise from no-load")
    return Placement(trace.start_s, "start of the log, as it shows no rise from no-load")


def _first_rise(trace: PowerTrace) -> float | None:
    time_s, power_w = _powered(trace)
    if len(time_s) < 3:
        return None
    before = _before_charging(time_s, power_w)
    if before < 1:
        return None
    base_w, base_at = _lowest_level(time_s[: before + 1], power_w[: before + 1])
    if base_w > 0.5 * float(np.percentile(power_w, 95)):
        return None
    above = power_w > base_w + max(LEAST_RISE_W, RISE_SHARE * base_w)
    for start in np.flatnonzero(above[base_at + 1 :] & ~above[base_at:-1]) + base_at + 1:
        lasts = max(LASTING_S, time_s[start] - time_s[start - 1])
        # The next sample counts in any case: of a coarse log none may fall into those seconds.
        end = max(int(np.searchsorted(time_s, time_s[start] + lasts, "right")), int(start) + 2)
        if end <= len(time_s) and above[start:end].all():
            coarse = time_s[start] - time_s[start - 1] > LASTING_S
            return float((time_s[start] + time_s[start - 1]) / 2.0 if coarse else time_s[start])
    return None


def _powered(trace: PowerTrace) -> tuple[Array, Array]:
    """The log from the first moment that its supply is on."""
    on = trace.volts > UNPOWERED_V if trace.volts is not None else trace.power_w > UNPOWERED_W
    first = int(np.argmax(on)) if on.any() else 0
    return trace.time_s[first:], trace.power_w[first:]


def _before_charging(time_s: Array, power_w: Array) -> int:
    """Index of the first sample that begins a lasting stretch at half the usual charging power or more."""
    high = power_w >= 0.5 * float(np.percentile(power_w, 95))
    for start in np.flatnonzero(high & ~np.concatenate(([False], high[:-1]))):
        end = int(np.searchsorted(time_s, time_s[start] + LASTING_S, "right"))
        if high[start:end].all():
            return int(start)
    return len(time_s) - 1


def _lowest_level(time_s: Array, power_w: Array) -> tuple[float, int]:
    """Lowest level that lasts a few seconds, and the last sample at which it is seen."""
    width = max(1, round(BASE_WINDOW_S / max(1e-6, float(np.median(np.diff(time_s))))))
    width = min(width, len(power_w))
    windows = np.lib.stride_tricks.sliding_window_view(power_w, width)
    medians = np.median(windows, axis=1) if len(windows) * width < 5_000_000 else windows.mean(axis=1)
    at = int(np.argmin(medians))
    return float(medians[at]), at
