"""Evidence of a cause: power, temperature, percentages and notes of a run, side by side."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from ..arrays import Array, Mask
from ..log.check_ins import CheckIns
from ..units import MINUTE_S
from .dips import RawDip, runs
from .grid import Series
from .phases import PowerCourse
from .phone_temperature import Warmth

Limits = Literal["", "off", "seen off", "left on"]
"""Knowledge of the phone's charge limit: nothing, off by the method, seen to be off, or left on."""


def known_limits(left_on: bool, ticked_off: bool) -> Limits:
    """Knowledge of the charge limit where a method states it: left on, off, or off and seen so by somebody."""
    if left_on:
        return "left on"
    return "seen off" if ticked_off else "off"


MANY, SAME_LEVEL_K = 3, 1.0
"""So many events alike are a habit; temperatures so near to one another are one level (own choices)."""

CARRIED_ON_S, CARRIED_MARGIN_K, CARRIED_SHARE = 8 * MINUTE_S, 0.1, 0.95
"""Full power carried on for so long at the temperature at which a dip began: then it was not the temperature."""

HOTTER_S, HOTTER_K = 6 * MINUTE_S, 0.4
"""So much of full power in all, before and after, clearly hotter than a dip began: then it was not the temperature."""

HELD_LEAST_S, HELD_WITHIN_K = 15 * MINUTE_S, 1.0
BESIDE_S = 60.0
"""Two falls so close to one another are one episode: the ramp between them is no full power."""

RISING_K, RISING_OVER_S, NEAR_TOP_K = 0.2, 10 * MINUTE_S, 0.1


@dataclass(frozen=True)
class Scene:
    """All that a cause can be judged by. percent : (n,) [%], NaN where unknown; idle_v : volts with no phone placed."""

    grid: Series
    course: PowerCourse
    first: int
    settled_w: float
    low_w: float
    warmth: Warmth | None
    percent: Array | None
    readings: CheckIns | None
    idle_v: float | None
    notes: tuple[tuple[float, str], ...] = ()
    no_load_w: float | None = None
    """Draw with no phone on it [W] where that was logged: else a low level is only the lowest of the run."""

    base_w: float | None = None
    """The lowest level of the run, that stands for no-load where none was logged [W]."""

    limits: Limits = ""
    pack_empty: bool = False
    """Whether a pack fed it, of which nobody can say that it was not empty."""

    @property
    def or_pack_empty(self) -> str:
        return ", or had the pack run empty" if self.pack_empty else ""

    def percent_at(self, index: int) -> float | None:
        if self.percent is None or not np.isfinite(self.percent[min(index, len(self.percent) - 1)]):
            return None
        return float(self.percent[min(index, len(self.percent) - 1)])

    def onset_c(self, dip: RawDip) -> float | None:
        """Temperature at the beginning of a dip [°C], a mean of the seconds around it."""
        if self.warmth is None:
            return None
        if self.grid.by_hand_s is not None:
            # It began at its hottest, somewhere between two readings of the meter.
            near = self.grid.steps(self.grid.unsure_s)
            part = self.warmth.celsius[max(0, dip.first - near) : dip.first + near]
            return float(np.nanmax(part)) if np.isfinite(part).any() else None
        width = self.grid.steps(20.0)
        return self.warmth.at(min(dip.first, len(self.grid) - 1), width)

    def said_c(self, dip: RawDip, celsius: float) -> str:
        """A temperature at the beginning of a dip in words; between readings it is an estimate, and says so."""
        if self.warmth is None or not self.warmth.estimated(self.grid.edge_s(dip.first)):
            return f"{celsius:.1f} °C"
        return f"about {celsius:.1f} °C (estimated between readings)"

    def hottest_c(self, dip: RawDip) -> float | None:
        """Highest temperature while power was down [°C]."""
        if self.warmth is None:
            return None
        part = self.warmth.celsius[dip.first : dip.end]
        known = part[np.isfinite(part)]
        return float(known.max()) if len(known) else None

    def lowest_c(self, dip: RawDip) -> float | None:
        """Lowest temperature while power was down, some seconds around its end included [°C]."""
        if self.warmth is None:
            return None
        part = self.warmth.celsius[dip.first : min(len(self.grid), dip.end + self.grid.steps(15.0))]
        known = part[np.isfinite(part)]
        return float(known.min()) if len(known) else None

    def fell_k(self, dip: RawDip) -> float | None:
        on, low = self.onset_c(dip), self.lowest_c(dip)
        return None if on is None or low is None else on - low

    def seconds(self, dip: RawDip) -> float:
        return (dip.end - dip.first) * self.grid.step_s


def episodes(grid: Series, dips: Sequence[RawDip]) -> dict[int, RawDip]:
    """Falls in part, by first step, each with the stops beside it and what follows them: from the first fall in part to
    where power came back. A phone that was limited when it lost contact may be limited still, or have cooled by then.
    """
    close = grid.steps(BESIDE_S)
    joined: dict[int, RawDip] = {}
    chain: list[RawDip] = []
    for dip in sorted((d for d in dips if not d.trailing), key=lambda d: d.first):
        if chain and (dip.first - chain[-1].end > close or dip.low == chain[-1].low):
            chain = []
        if not chain and dip.low:
            continue
        chain.append(dip)
        whole = replace(chain[0], end=dip.end, floor_w=min(d.floor_w for d in chain if not d.low))
        joined.update({d.first: whole for d in chain if not d.low})
    return joined


def full_power(scene: Scene, dips: list[RawDip]) -> Mask:
    """Steps at which power was what the chain gives: between ramp and taper, in no dip, metered : (n,)."""
    grid = scene.grid
    mask = grid.seen.copy()
    mask[: scene.first] = False
    stop = scene.course.taper if scene.course.taper is not None else scene.course.trickle
    mask[stop if stop is not None else scene.course.end :] = False
    for d in dips:
        mask[d.first : d.end] = False
    return mask


def carried_on(scene: Scene, dip: RawDip, full: Mask) -> bool:
    """Whether full power went on at temperatures as high as the one at which this dip began: for long at a stretch, or,
    where it was clearly hotter, in many short ones that add up."""
    on = scene.onset_c(dip)
    if on is None or scene.warmth is None:
        return False
    # Where readings are sparse both temperatures are unsure: only what is clearly as hot counts.
    doubt = scene.warmth.unsure_k if scene.warmth.sparse else 0.0
    with np.errstate(invalid="ignore"):
        carried = full & (scene.grid.smooth >= CARRIED_SHARE * dip.expected_w)
        as_hot = carried & (scene.warmth.celsius >= on - CARRIED_MARGIN_K + doubt)
        hotter = carried & (scene.warmth.celsius >= on + HOTTER_K + doubt)
    longest = max((b - a for a, b in runs(as_hot)), default=0)
    step_s = scene.grid.step_s
    return longest * step_s >= CARRIED_ON_S or float(hotter.sum()) * step_s >= HOTTER_S


def new_high(scene: Scene, dip: RawDip, on: float) -> bool:
    """Whether the temperature was still climbing when the dip began, to where it had not been before."""
    assert scene.warmth is not None
    grid, celsius = scene.grid, scene.warmth.celsius
    begin = max(0, dip.first - grid.steps(RISING_OVER_S))
    # A stop on the way lets it cool; what counts is that it climbed to here.
    lately, before = celsius[begin : dip.first + 1], celsius[scene.first : max(scene.first + 1, begin)]
    coolest = float(np.nanmin(lately, initial=np.inf))
    hottest = float(np.nanmax(before, initial=-np.inf))
    doubt = scene.warmth.unsure_k if scene.warmth.sparse else NEAR_TOP_K
    passed = float(np.nanmax(lately, initial=-np.inf)) > on + HOTTER_K + doubt
    return bool(np.isfinite(celsius[begin])) and on - coolest >= RISING_K and on >= hottest - doubt and not passed


def held_level(scene: Scene, dip: RawDip, on: float) -> bool:
    """Whether the phone stayed near the temperature at which a fall in part began, for long."""
    if scene.warmth is None or scene.seconds(dip) < HELD_LEAST_S:
        return False
    inside = scene.warmth.celsius[dip.first : dip.end]
    known = inside[np.isfinite(inside)]
    within = HELD_WITHIN_K + 2 * scene.warmth.unsure_k
    return len(known) > 0 and float(np.mean(np.abs(known - on) <= within)) > 0.5
