"""Evidence for heat as the cause of a dip: it begins hot, at one level, and ends cooler."""

from collections.abc import Mapping, Sequence

import numpy as np

from ..arrays import Mask, median, percentile
from ..log.temperatures import HOT_C
from .cause_restart import may_restart
from .dips import RawDip
from .evidence import MANY, SAME_LEVEL_K, Scene, carried_on, held_level, new_high
from .verdict import Cause, CauseVerdict

CUTOUT_FALL_K, CUTOUT_FALL_OF_MANY_K, HEAT_FALL_K = 1.5, 0.8, 0.4
TIGHT_K, HOT_SLACK_K = 0.45, 0.5
STRONG_K, STRONG_MANY, STRONG_C, STRONG_RISE_K = 0.3, 4, 33.0, 6.0
"""Under 38 °C too it is heat where four or more dips begin within 0.3 K of one another, well over where it began: some
phones stop early, and a probe may lie beside the hot spot (found on simulated runs in a thick case)."""

FAMILY, FAMILY_SHARE = 5, 0.25
"""So many dips are judged as one family, of lengths within a quarter of one another (own choice)."""

LONGER = 1.5
STOPS_ABOVE_K, RETURN_K = 1.0, 0.6
"""Kelvin by which a stop by heat begins above where heat takes part of the power; and how far from where the others
come back one of them may (first values of our own, checked on simulated runs)."""


def by_level(
    scene: Scene,
    dips: Sequence[RawDip],
    full: Mask,
    wholes: Mapping[int, RawDip] | None = None,
    cut_c: Sequence[float] = (),
) -> dict[int, CauseVerdict]:
    """Verdicts of heat, by first step: dips that begin hot, at one level, and end cooler.

    Either all of `dips` are stops at no-load or none is. wholes : the episodes that falls in part belong to.
    cut_c [°C] : where heat cut the power for good; one alone that began clearly cooler is not of heat.
    """
    if scene.warmth is None or not dips:
        return {}
    low = dips[0].low
    cause: Cause = "heat_cutout" if low else "heat"
    parts: dict[RawDip, list[RawDip]] = {}
    for d in dips:
        parts.setdefault((wholes or {}).get(d.first, d), []).append(d)
    warm: list[tuple[RawDip, float, float]] = []
    coolest = float(np.nanmin(scene.warmth.celsius)) if np.isfinite(scene.warmth.celsius).any() else 0.0
    for whole in parts:
        on, fell = scene.onset_c(whole), scene.fell_k(whole)
        if on is None or fell is None or not _warm(scene, on, coolest) or carried_on(scene, whole, full):
            continue
        warm.append((whole, on, fell))
    verdicts: dict[int, CauseVerdict] = _alike(scene, dips, cause) if scene.warmth.sparse else {}
    level = _level_c([on for _, on, _ in warm], scene.warmth.unsure_k if scene.grid.by_hand_s is None else SAME_LEVEL_K)
    for whole, on, fell in warm:
        if level is not None and abs(on - level[0]) > level[1]:
            continue
        peers = [other for other in warm if abs(other[1] - on) <= SAME_LEVEL_K]
        # Sparse readings leave the onset of one dip unsure; that of all together is less so.
        hot = median([p[1] for p in peers]) >= HOT_C - min(HOT_SLACK_K, scene.warmth.unsure_k)
        if not hot and sum(abs(other[1] - on) <= STRONG_K for other in warm) < STRONG_MANY:
            continue
        least = (CUTOUT_FALL_OF_MANY_K if len(peers) >= MANY else CUTOUT_FALL_K) if low else HEAT_FALL_K
        if len(peers) < 2 and (whole.trailing or not new_high(scene, whole, on)):
            continue
        if len(peers) < 2 and scene.warmth.sparse and not held_level(scene, whole, on):
            least += 2 * scene.warmth.unsure_k
        if fell < least and not whole.trailing:
            continue
        if low and scene.grid.by_hand_s is not None and len(peers) < 2:
            continue
        if len(peers) < 2 and cut_c and on < min(cut_c) - SAME_LEVEL_K:
            continue
        interrupted = whole not in parts[whole]
        again = len(peers) > 1 or any(abs(c - on) <= SAME_LEVEL_K for c in cut_c)
        if interrupted and not again and not held_level(scene, parts[whole][0], on):
            continue
        often = f"; {len(peers)} of them start within {SAME_LEVEL_K:g} K" if len(peers) > 1 else ""
        what = "stopped" if low else "dropped"
        back = "; full power came back after a stop," if interrupted else ", came back"
        why = f"{what} at {scene.said_c(whole, on)}{back} {fell:.1f} K cooler{often}"
        once = "One such event could be chance: repeat the run, or the same with a fan." if len(peers) < 2 else ""
        verdicts.update({d.first: CauseVerdict(cause, why, once, likely=len(peers) < 2) for d in parts[whole]})
    return verdicts


def _warm(scene: Scene, on: float, coolest: float) -> bool:
    """Whether a dip began hot, or at least well over where the run began; a log begun late never saw that."""
    doubt = scene.warmth.unsure_k if scene.warmth is not None else 0.0
    return on >= HOT_C - max(HOT_SLACK_K, doubt) or (on >= STRONG_C and on >= coolest + STRONG_RISE_K)


def _alike(scene: Scene, dips: Sequence[RawDip], cause: Cause) -> dict[int, CauseVerdict]:
    """Between sparse readings one dip is unsure, many alike are less so: those of one length are judged as one."""
    dips = [d for d in dips if not may_restart(scene, d)]
    if len(dips) < FAMILY:
        return {}
    lengths = np.array([d.end - d.first for d in dips], dtype=float)
    family = [d for d, n in zip(dips, lengths, strict=True) if abs(n / np.median(lengths) - 1.0) <= FAMILY_SHARE]
    onsets, falls = [scene.onset_c(d) for d in family], [scene.fell_k(d) for d in family]
    known = [(o, f) for o, f in zip(onsets, falls, strict=True) if o is not None and f is not None]
    if len(known) < max(FAMILY, 0.6 * len(dips)):
        return {}
    on, fell = (median([k[i] for k in known]) for i in (0, 1))
    least = CUTOUT_FALL_OF_MANY_K if cause == "heat_cutout" else HEAT_FALL_K
    begun_c = [k[0] for k in known]
    apart = percentile(begun_c, 90) - percentile(begun_c, 10)
    if on < HOT_C - HOT_SLACK_K or fell < least or apart > 2 * SAME_LEVEL_K:
        return {}
    # One that itself began clearly elsewhere is none of the family, however long it lasted.
    usual = 1.4826 * median([abs(o - on) for o, _ in known])
    within = max(SAME_LEVEL_K, 3.0 * usual)
    near = [d for d, o in zip(family, onsets, strict=True) if o is None or abs(o - on) <= within]
    reason = f"{len(near)} alike start at about {on:.1f} °C and end {fell:.1f} K cooler (estimated between readings)"
    return {d.first: CauseVerdict(cause, reason) for d in near}


def _level_c(onsets: list[float], unsure_k: float) -> tuple[float, float] | None:
    """The temperature at which most dips begin, and how far from it one of them may lie; None where too few agree."""
    if len(onsets) < MANY:
        return None
    tight = min(SAME_LEVEL_K, max(TIGHT_K, 3.0 * unsure_k))
    around = [[o for o in onsets if abs(o - at) <= tight] for at in onsets]
    most = max(around, key=lambda group: (len(group), sum(group)))
    return (median(most), tight) if len(most) >= MANY else None


def one_of_many(scene: Scene, dip: RawDip, dips: Sequence[RawDip]) -> bool:
    """Whether a stop begins hot, ends as cool and lasts about as long as several others of its run."""
    on, low = scene.onset_c(dip), scene.lowest_c(dip)
    if on is None or low is None or not dip.low or on < HOT_C - HOT_SLACK_K or on - low < CUTOUT_FALL_OF_MANY_K:
        return False
    alike = 0
    for other in dips:
        their_on, their_low = scene.onset_c(other), scene.lowest_c(other)
        if other is dip or not other.low or their_on is None or their_low is None:
            continue
        near = abs(their_on - on) <= SAME_LEVEL_K and abs(their_low - low) <= SAME_LEVEL_K
        alike += near and scene.seconds(dip) <= LONGER * scene.seconds(other)
    return alike >= MANY


def with_one_return(scene: Scene, lows: Sequence[RawDip], verdicts: dict[int, CauseVerdict]) -> dict[int, CauseVerdict]:
    """Stops by heat end where the phone has cooled to one level; those that come back elsewhere are none of them."""
    stops = [d for d in lows if d.first in verdicts and not d.trailing]
    ends = {d.first: low for d in stops if (low := scene.lowest_c(d)) is not None}
    if scene.warmth is None or scene.warmth.sparse or len(ends) <= MANY:
        return verdicts
    usual = median(list(ends.values()))
    within = max(RETURN_K, 3.0 * scene.warmth.unsure_k)
    near = [c for c in ends.values() if abs(c - usual) <= within]
    if len(near) < max(MANY, 0.6 * len(ends)):
        return verdicts
    return {first: v for first, v in verdicts.items() if abs(ends.get(first, usual) - usual) <= within}


def steps_here(scene: Scene, dip: RawDip, steps_c: Sequence[float], for_good: bool) -> bool:
    """Whether heat takes part of the power in this run, at temperatures such as the one at which a fall to no-load
    began: then the fall has another cause. A phone may stop altogether once it gets clearly hotter than that.

    One step that returned shows at least that nothing happened below it.
    """
    on = scene.onset_c(dip)
    if on is None or not steps_c:
        return False
    return on < max(steps_c) + (STOPS_ABOVE_K if len(steps_c) > 1 or for_good else -RETURN_K)
