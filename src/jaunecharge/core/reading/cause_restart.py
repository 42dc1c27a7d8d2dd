"""Evidence for a charger that starts over: down to a watt or so, not to no-load, and back by itself."""

from collections.abc import Sequence

import numpy as np

from .dips import RawDip
from .evidence import MANY, Scene
from .verdict import CauseVerdict

RESTART_S, RESTART_SHARE, OF_SETTLED = 150.0, 0.22, 0.1
"""Two minutes, and the ramp back; "a watt or so", as a share of what was expected, or of best settled over no-load."""

FALLS_BY_HALF = 0.5
ALIKE_BELOW, ALIKE_SHARE, ALIKE_W = 0.35, 0.05, 0.1
"""So low and so alike are the floors of a charger that starts over again and again (own choice)."""

REGULAR_SHARE, LENGTHS_SHARE = 0.25, 0.12
ABOVE_W, ABOVE_NOISES = 0.1, 3.0
"""So far above no-load is clearly above it (own choice)."""


def restart_below_w(expected_w: float, low_w: float, settled_w: float = 0.0) -> float:
    """Down to this a charger goes that starts over [W]: a watt or so. low_w [W] : up to which it is no-load.

    In a taper little is expected, and a watt is no small share of it: settled_w [W] is what it gave at its best.
    """
    small = min(low_w + OF_SETTLED * settled_w, FALLS_BY_HALF * expected_w)
    return max(RESTART_SHARE * expected_w, low_w * 1.5, small)


def looks_restarted(scene: Scene, dip: RawDip) -> bool:
    """Down to a watt or so, not to no-load, and back within two minutes."""
    short = scene.seconds(dip) <= RESTART_S
    return short and not dip.low and dip.floor_w <= restart_below_w(dip.expected_w, scene.low_w, scene.settled_w)


def restarted(scene: Scene, dip: RawDip, times: int) -> CauseVerdict:
    often = f"{times} times" if times > 1 else "once"
    settle = "" if times > 1 else "Once says little: see whether it happens again."
    return CauseVerdict(
        "restart",
        f"down to {dip.floor_w:.1f} W, above no-load, and back by itself in {scene.seconds(dip):.0f} s; {often}",
        settle,
        likely=times == 1,
    )


def regular_restart(scene: Scene, dip: RawDip, others: Sequence[RawDip]) -> CauseVerdict | None:
    """Short falls to the lowest level of a run, alike in length: clearly above what it draws otherwise with no phone on
    it, or, where no no-load was logged, evenly spaced or so many of one length that no hand does it."""
    short = [d for d in others if scene.seconds(d) <= RESTART_S and not d.trailing]
    if dip not in short:
        return None
    above = _just_above(scene, dip, short)
    if above is not None or scene.no_load_w is not None or len(short) < MANY:
        return above
    lengths = [scene.seconds(d) for d in short]
    alike = len(short) > MANY and max(lengths) - min(lengths) <= LENGTHS_SHARE * max(lengths)
    if not alike and not regular(short):
        return None
    return CauseVerdict(
        "restart",
        f"down to {dip.floor_w:.1f} W and back by itself in {scene.seconds(dip):.0f} s, {len(short)} times"
        f" {'alike' if alike else 'evenly spaced'}",
        "Log the no-load before placing: it tells a charger that starts over from a phone that lost contact.",
    )


def _just_above(scene: Scene, dip: RawDip, short: Sequence[RawDip]) -> CauseVerdict | None:
    """Short stops, all as long and all at one level a little above no-load: a small charger that starts over draws
    hardly more than one that idles."""
    if scene.base_w is None:
        return None
    least = max(ABOVE_W, ABOVE_NOISES * scene.grid.noise_w)
    alike = [d for d in short if abs(d.floor_w - dip.floor_w) <= least / 2.0]
    lengths = [scene.seconds(d) for d in alike]
    above = min(d.floor_w for d in alike) - scene.base_w
    many = MANY if scene.no_load_w is not None else MANY - 1
    if len(alike) < many or above < least or max(lengths) - min(lengths) > REGULAR_SHARE * max(lengths):
        return None
    return CauseVerdict(
        "restart",
        f"down to {dip.floor_w:.2f} W, above the {scene.base_w:.2f} W that it draws idle, and back by itself in"
        f" {scene.seconds(dip):.0f} s, {len(alike)} times alike",
        likely=len(alike) < MANY,
    )


def may_restart(scene: Scene, dip: RawDip) -> bool:
    """Whether a fall is so short and so low that, with no no-load logged, a charger that starts over explains it."""
    low = dip.floor_w <= ALIKE_BELOW * scene.settled_w
    return scene.no_load_w is None and not dip.low and low and scene.seconds(dip) <= RESTART_S


def alike_restart(scene: Scene, dip: RawDip, others: Sequence[RawDip]) -> CauseVerdict | None:
    """Short falls to one low level in a run whose no-load was not logged: a charger that draws much by itself."""
    if not may_restart(scene, dip):
        return None
    alike = [
        d for d in others
        if abs(d.floor_w - dip.floor_w) <= ALIKE_W + ALIKE_SHARE * dip.floor_w and scene.seconds(d) <= RESTART_S
    ]  # fmt: skip
    lengths = [scene.seconds(d) for d in alike]
    if len(alike) < MANY or max(lengths) - min(lengths) > 2 * REGULAR_SHARE * max(lengths):
        return None
    return CauseVerdict(
        "restart",
        f"down to {dip.floor_w:.1f} W and back by itself in {scene.seconds(dip):.0f} s, {len(alike)} times alike",
        "Log the no-load before placing: it tells a charger that starts over from a phone that lost contact.",
    )


def regular(dips: Sequence[RawDip]) -> bool:
    lengths = np.array([d.end - d.first for d in dips], dtype=float)
    apart = np.diff([d.first for d in dips]).astype(float)
    return bool(
        lengths.std() <= REGULAR_SHARE * lengths.mean() and apart.std() <= REGULAR_SHARE * max(1.0, apart.mean())
    )
