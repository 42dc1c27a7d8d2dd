"""Evidence for the supply as the cause of a dip: volts and amps that step together, a current that stands still."""

import numpy as np

from ..arrays import Array, median
from .dips import RawDip
from .evidence import Scene
from .verdict import CauseVerdict, core_of

VOLTS_SHARE = 0.95
PINNED_SHARE, PINNED_LEAST_S, PINNED_USUAL = 0.2, 180.0, 0.002


def by_volts(scene: Scene, dip: RawDip) -> CauseVerdict | None:
    """Volts that change with the power."""
    grid = scene.grid
    if grid.volts is None:
        return None
    inside, before = core_of(dip), _before(scene, dip)
    volts, earlier = median(grid.volts[inside]), median(grid.volts[before])
    if volts < VOLTS_SHARE * earlier:
        idles = dip.low and scene.idle_v is not None and abs(volts - scene.idle_v) < 0.05 * scene.idle_v
        # A charger may go back to its idle volts by itself when the phone is gone.
        if not idles:
            return CauseVerdict("supply", f"the volts dropped with it, from {earlier:.2f} to {volts:.2f} V")
    return None


def _before(scene: Scene, dip: RawDip) -> slice:
    grid = scene.grid
    return slice(max(scene.first, dip.first - grid.steps(180.0)), max(scene.first + 1, dip.first - grid.steps(10.0)))


def by_pinned_amps(scene: Scene, dip: RawDip) -> CauseVerdict | None:
    """Amps that stand pinned, unlike before and after: a supply at its limit."""
    grid = scene.grid
    inside, before = core_of(dip), _before(scene, dip)
    amps = grid.amps
    if amps is None or dip.low or grid.by_hand_s is not None or (dip.end - dip.first) * grid.step_s < PINNED_LEAST_S:
        return None
    after = slice(dip.end + grid.steps(30.0), dip.end + grid.steps(210.0))
    bend = scene.course.taper if scene.course.taper is not None else scene.course.end
    around = [amps[before], *([amps[after]] if after.stop <= bend else [])]
    usual, spread = min(_wander(a) for a in around), _wander(amps[inside])
    jitter, still = min(_jitter(a) for a in around), _jitter(amps[inside])
    if usual > PINNED_USUAL and spread < PINNED_SHARE * usual and still < PINNED_SHARE * jitter:
        return CauseVerdict("supply", f"the current stood still at {median(amps[inside]):.2f} A, unlike before")
    return None


def _wander(values: Array) -> float:
    """Spread of a stretch about its median, as a share of it, after its ends are set aside."""
    middle = median(values)
    return 1.4826 * median(np.abs(values - middle)) / middle if middle > 0 and len(values) > 8 else 0.0


def _jitter(values: Array) -> float:
    """Usual change from one step to the next, as a share of the middle."""
    middle = median(values) if len(values) > 8 else 0.0
    return median(np.abs(np.diff(values))) / middle if middle > 0 else 0.0
