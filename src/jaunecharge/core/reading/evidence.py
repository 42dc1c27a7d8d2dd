"""Evidence of a cause: power, temperature, percentages and notes of a run, side by side."""

from dataclasses import dataclass
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

CARRIED_ON_S, CARRIED_MARGIN_K = 8 * MINUTE_S, 0.1
"""Full power carried on for so long at the temperature at which a dip began: then it was not the temperature."""

HOTTER_S, HOTTER_K = 6 * MINUTE_S, 0.4
"""So much of full power in all, before and after, clearly hotter than a dip began: then it was not the temperature."""

RISING_K, RISING_OVER_S = 0.2, 10 * MINUTE_S


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
    no_load_known: bool = True
    """Whether the draw with no phone on it was logged: else a low level is only the lowest of the run."""

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
        width = self.grid.steps(20.0)
        return self.warmth.at(min(dip.first, len(self.grid) - 1), width)

    def said_c(self, dip: RawDip, celsius: float) -> str:
        """A temperature at the beginning of a dip in words; between readings it is an estimate, and says so."""
        if self.warmth is None or not self.warmth.estimated(self.grid.edge_s(dip.first)):
            return f"{celsius:.1f} °C"
        return f"about {celsius:.1f} °C (estimated between readings)"

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
        as_hot = full & (scene.warmth.celsius >= on - CARRIED_MARGIN_K + doubt)
        hotter = full & (scene.warmth.celsius >= on + HOTTER_K + doubt)
    longest = max((b - a for a, b in runs(as_hot)), default=0)
    step_s = scene.grid.step_s
    return longest * step_s >= CARRIED_ON_S or float(hotter.sum()) * step_s >= HOTTER_S


def new_high(scene: Scene, dip: RawDip, on: float) -> bool:
    """Whether the temperature was still climbing when the dip began, to where it had not been before."""
    assert scene.warmth is not None
    grid, celsius = scene.grid, scene.warmth.celsius
    earlier = celsius[max(0, dip.first - grid.steps(RISING_OVER_S))]
    before = celsius[scene.first : max(scene.first + 1, dip.first - grid.steps(RISING_OVER_S))]
    known = before[np.isfinite(before)]
    hottest = float(known.max()) if len(known) else -np.inf
    return bool(np.isfinite(earlier)) and on - float(earlier) >= RISING_K and on >= hottest - 0.1
