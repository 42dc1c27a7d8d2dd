"""Why power fell: the cause of each dip by the evidence for it, the first that fits."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..arrays import Mask
from ..log.temperatures import HOT_C
from ..milestones import at_limit
from ..units import MINUTE_S
from ..wording import duration
from .cause_supply import by_supply
from .dips import RawDip
from .evidence import Scene, carried_on, full_power, new_high
from .verdict import CAUSES, Cause, CauseVerdict

HOLD_LEAST_S, HOLD_RISE, RUNS_DOWN = 15 * MINUTE_S, 1.0, 6.0
"""A phone at its limit lets its battery run down by a few points before it charges again (own choice)."""

CUTOUT_FALL_K, CUTOUT_FALL_OF_MANY_K, MANY = 1.5, 0.8, 3
RESTART_S, RESTART_SHARE = 150.0, 0.22
"""Two minutes, and the ramp back; "a watt or so", as a share of what was expected."""

HEAT_FALL_K = 0.4
SAME_LEVEL_K, TIGHT_K, HOT_SLACK_K = 1.0, 0.45, 0.5
STRONG_K, STRONG_MANY, STRONG_C, STRONG_RISE_K = 0.3, 4, 33.0, 6.0
"""Under 38 °C too it is heat where four or more dips begin within 0.3 K of one another, well over where it began: some
phones stop early, and a probe may lie beside the hot spot (found on simulated runs in a thick case)."""

REGULAR_SHARE, FAMILY = 0.25, 5
STOPS_ABOVE_K, RETURN_K = 1.0, 0.6
"""Kelvin by which a stop by heat begins above where heat takes part of the power; and how far from where the others
come back one of them may (first values of our own, checked on simulated runs)."""

MOVED = ("moved", "slip", "slid", "lifted", "bump", "knock", "off the", "shifted", "fell")


@dataclass(frozen=True)
class Dip:
    """A dip with its cause: steps [s], watts expected and left, temperature [°C] and percentage at its beginning.

    estimated : whether that temperature lies between readings; likely : as in `CauseVerdict`.
    """

    start_s: float
    end_s: float
    cause: Cause
    expected_w: float
    floor_w: float
    onset_c: float | None
    onset_percent: float | None
    low: bool
    lasting: bool
    why: str
    settle: str = ""
    overruled: str = ""
    estimated: bool = False
    likely: bool = False

    @property
    def depth_w(self) -> float:
        """Watts under what was expected, at its floor."""
        return self.expected_w - self.floor_w

    @property
    def throttle(self) -> bool:
        """Whether its cause is heat."""
        return CAUSES[self.cause].by_heat

    @property
    def minutes(self) -> float:
        return (self.end_s - self.start_s) / MINUTE_S


def explain(scene: Scene, dips: list[RawDip], cut_c: Sequence[float] = ()) -> list[CauseVerdict]:
    """The cause of each dip that returns, or that a trailing fall to no-load has; in the order of `dips`.

    cut_c [°C] : at which temperatures heat cut the power in part and for good, as far as that is known.
    """
    full = full_power(scene, dips)
    topped_up = _topped_up(scene, dips)
    verdicts: list[CauseVerdict | None] = [
        by_supply(scene, d) or _hold(scene, d) or topped_up.get(d.first) for d in dips
    ]
    open_ = [i for i, v in enumerate(verdicts) if v is None]
    lows = [dips[i] for i in open_ if dips[i].low]
    restarts = [i for i in open_ if _looks_restarted(scene, dips[i])]
    heats = _by_level(scene, [dips[i] for i in open_ if not dips[i].low and i not in restarts], full, low=False)
    steps_c = [*cut_c, *(c for d in dips if d.first in heats and (c := scene.onset_c(d)) is not None)]
    apart = [d for d in lows if _heat_steps_here(scene, d, steps_c, bool(cut_c))]
    cutouts = _by_level(scene, [d for d in lows if d not in apart], full, low=True)
    cutouts = _with_one_return(scene, lows, cutouts)
    again = [d for d in lows if d.first not in cutouts]
    for i in open_:
        dip = dips[i]
        if dip.low:
            elsewhere = "in this run heat takes only part of the power" if dip in apart else ""
            verdicts[i] = (
                cutouts.get(dip.first)
                or _regular_restart(scene, dip, again)
                or _contact(scene, dip, lows, elsewhere or _went_on(scene, dip, full))
            )
        elif i in restarts:
            verdicts[i] = _restart(scene, dip, len(restarts))
        else:
            verdicts[i] = heats.get(dip.first) or _unexplained(scene, dip)
    return [v for v in verdicts if v is not None]


def _went_on(scene: Scene, dip: RawDip, full: Mask) -> str:
    return "the run held full power as hot as that at other times" if carried_on(scene, dip, full) else ""


def _heat_steps_here(scene: Scene, dip: RawDip, steps_c: Sequence[float], for_good: bool) -> bool:
    """Whether heat takes part of the power in this run, at temperatures such as the one at which a fall to no-load
    began: then the fall has another cause. A phone may stop altogether once it gets clearly hotter than that.

    One step that returned shows at least that nothing happened below it.
    """
    on = scene.onset_c(dip)
    if on is None or not steps_c:
        return False
    return on < max(steps_c) + (STOPS_ABOVE_K if len(steps_c) > 1 or for_good else -RETURN_K)


def _with_one_return(
    scene: Scene, lows: Sequence[RawDip], verdicts: dict[int, CauseVerdict]
) -> dict[int, CauseVerdict]:
    """Stops by heat end where the phone has cooled to one level; those that come back elsewhere are none of them."""
    stops = [d for d in lows if d.first in verdicts and not d.trailing]
    ends = {d.first: low for d in stops if (low := scene.lowest_c(d)) is not None}
    if scene.warmth is None or scene.warmth.sparse or len(ends) <= MANY:
        return verdicts
    usual = float(np.median(list(ends.values())))
    within = max(RETURN_K, 3.0 * scene.warmth.unsure_k)
    near = [c for c in ends.values() if abs(c - usual) <= within]
    if len(near) < max(MANY, 0.6 * len(ends)):
        return verdicts
    return {first: v for first, v in verdicts.items() if abs(ends.get(first, usual) - usual) <= within}


def _regular_restart(scene: Scene, dip: RawDip, others: Sequence[RawDip]) -> CauseVerdict | None:
    """Short falls to the lowest level of a run whose no-load was not logged, alike in length and distance."""
    short = [d for d in others if scene.seconds(d) <= RESTART_S and not d.trailing]
    if scene.no_load_known or dip not in short or len(short) < MANY or not _regular(short):
        return None
    return CauseVerdict(
        "restart",
        f"down to {dip.floor_w:.1f} W and back by itself in {scene.seconds(dip):.0f} s, {len(short)} times, evenly"
        " spaced",
        "Log the no-load before placing: it tells a charger that starts over from a phone that lost contact.",
    )


def _hold(scene: Scene, dip: RawDip) -> CauseVerdict | None:
    """No-load for a quarter of an hour and more at a percentage where phones are told to stop.

    Where somebody saw that the limit is off, nothing explains it.
    """
    if not dip.low or scene.seconds(dip) < HOLD_LEAST_S or scene.readings is None:
        return None
    grid, readings = scene.grid, scene.readings
    begin_s, end_s = grid.edge_s(dip.first), grid.edge_s(dip.end)
    inside = (readings.time_s > begin_s + MINUTE_S) & (readings.time_s <= end_s + MINUTE_S)
    held = readings.percent[inside]
    if not len(held) or float(held.max() - held.min()) > HOLD_RISE:
        return None
    limit = at_limit(float(np.median(held)))
    if limit is None:
        return None
    fell = scene.fell_k(dip)
    if fell is not None and fell < -SAME_LEVEL_K:
        return None
    return _limited(scene, dip, limit, f"with the battery at {float(np.median(held)):g} %")


def _topped_up(scene: Scene, dips: Sequence[RawDip]) -> dict[int, CauseVerdict]:
    """Stops at one limit, again and again: the phone runs down a little and is charged back up to it."""
    if scene.readings is None:
        return {}
    at: dict[float, list[RawDip]] = {}
    for dip in dips:
        limit = at_limit(scene.percent_at(dip.first))
        if dip.low and limit is not None and scene.seconds(dip) >= HOLD_LEAST_S and _runs_down(scene, dip, limit):
            at.setdefault(limit, []).append(dip)
    return {
        dip.first: _limited(scene, dip, limit, f"from {limit:g} % on, where it stopped {len(stops)} times")
        for limit, stops in at.items()
        if len(stops) > 1
        for dip in stops
    }


def _runs_down(scene: Scene, dip: RawDip, limit: float) -> bool:
    """Whether the percentage stands or falls a little while nothing is drawn, and never rises."""
    assert scene.readings is not None
    begin_s, end_s = scene.grid.edge_s(dip.first), scene.grid.edge_s(dip.end)
    inside = (scene.readings.time_s > begin_s + MINUTE_S) & (scene.readings.time_s <= end_s - MINUTE_S)
    levels = scene.readings.percent[inside]
    return bool(np.all(np.diff(levels) <= 0) and np.all(levels >= limit - RUNS_DOWN) and np.all(levels <= limit + 1))


def _limited(scene: Scene, dip: RawDip, limit: float, where: str) -> CauseVerdict:
    """A charge limit; unexplained where somebody saw that it is off."""
    fell = scene.fell_k(dip)
    cooled = "" if fell is None else f", cooling by {max(0.0, fell):.1f} K"
    stood = f"{duration(scene.seconds(dip))} at no-load {where}{cooled}"
    if scene.limits == "seen off":
        return CauseVerdict(
            "unexplained",
            f"stopped at {limit:g} % with limits off: {stood}",
            "Look into the phone's settings again: some turn a limit back on by themselves. If it is off, repeat the"
            " run with another charger.",
        )
    asked = "" if scene.limits != "off" else "; the method says limits off: was one left on?"
    return CauseVerdict("hold", f"{stood}: a charge limit{asked}")


def _by_level(scene: Scene, dips: list[RawDip], full: Mask, low: bool) -> dict[int, CauseVerdict]:
    """Verdicts of heat, by first step: dips that begin hot, at one level, and end cooler."""
    if scene.warmth is None:
        return {}
    cause: Cause = "heat_cutout" if low else "heat"
    warm: list[tuple[RawDip, float, float]] = []
    coolest = float(np.nanmin(scene.warmth.celsius)) if np.isfinite(scene.warmth.celsius).any() else 0.0
    for d in dips:
        on, fell = scene.onset_c(d), scene.fell_k(d)
        lukewarm = on is not None and on >= STRONG_C and on >= coolest + STRONG_RISE_K
        if on is not None and fell is not None and lukewarm and not carried_on(scene, d, full):
            warm.append((d, on, fell))
    verdicts: dict[int, CauseVerdict] = _alike(scene, dips, cause) if scene.warmth.sparse else {}
    level = _level_c([on for _, on, _ in warm], scene.warmth.unsure_k)
    for d, on, fell in warm:
        if level is not None and abs(on - level[0]) > level[1]:
            continue
        peers = [other for other in warm if abs(other[1] - on) <= SAME_LEVEL_K]
        # Sparse readings leave the onset of one dip unsure; that of all together is less so.
        hot = float(np.median([p[1] for p in peers])) >= HOT_C - min(HOT_SLACK_K, scene.warmth.unsure_k)
        if not hot and sum(abs(other[1] - on) <= STRONG_K for other in warm) < STRONG_MANY:
            continue
        least = (CUTOUT_FALL_OF_MANY_K if len(peers) >= MANY else CUTOUT_FALL_K) if low else HEAT_FALL_K
        if len(peers) < 2 and (d.trailing or not new_high(scene, d, on)):
            continue
        if fell < least and not d.trailing:
            continue
        often = f"; {len(peers)} of them start within {SAME_LEVEL_K:g} K" if len(peers) > 1 else ""
        what = "stopped" if low else "dropped"
        why = f"{what} at {scene.said_c(d, on)}, came back {fell:.1f} K cooler{often}"
        once = "One such event could be chance: repeat the run, or the same with a fan." if len(peers) < 2 else ""
        verdicts[d.first] = CauseVerdict(cause, why, once, likely=len(peers) < 2)
    return verdicts


def _alike(scene: Scene, dips: list[RawDip], cause: Cause) -> dict[int, CauseVerdict]:
    """Between sparse readings one dip is unsure, many alike are less so: those of one length are judged as one."""
    if len(dips) < FAMILY:
        return {}
    lengths = np.array([d.end - d.first for d in dips], dtype=float)
    family = [d for d, n in zip(dips, lengths, strict=True) if abs(n / np.median(lengths) - 1.0) <= REGULAR_SHARE]
    onsets, falls = [scene.onset_c(d) for d in family], [scene.fell_k(d) for d in family]
    known = [(o, f) for o, f in zip(onsets, falls, strict=True) if o is not None and f is not None]
    if len(known) < max(FAMILY, 0.6 * len(dips)):
        return {}
    on, fell = (float(np.median([k[i] for k in known])) for i in (0, 1))
    least = CUTOUT_FALL_OF_MANY_K if cause == "heat_cutout" else HEAT_FALL_K
    apart = float(np.percentile([k[0] for k in known], 90) - np.percentile([k[0] for k in known], 10))
    if on < HOT_C - HOT_SLACK_K or fell < least or apart > 2 * SAME_LEVEL_K:
        return {}
    # One that itself began clearly elsewhere is none of the family, however long it lasted.
    usual = 1.4826 * float(np.median([abs(o - on) for o, _ in known]))
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
    return (float(np.median(most)), tight) if len(most) >= MANY else None


def restart_below_w(expected_w: float, low_w: float) -> float:
    """Down to this a charger goes that starts over [W]: a watt or so. low_w [W] : up to which it is no-load."""
    return max(RESTART_SHARE * expected_w, low_w * 1.5)


def _looks_restarted(scene: Scene, dip: RawDip) -> bool:
    """Down to a watt or so, not to no-load, and back within two minutes."""
    short = scene.seconds(dip) <= RESTART_S
    return short and not dip.low and dip.floor_w <= restart_below_w(dip.expected_w, scene.low_w)


def _restart(scene: Scene, dip: RawDip, times: int) -> CauseVerdict:
    often = f"{times} times" if times > 1 else "once"
    settle = "" if times > 1 else "Once says little: see whether it happens again."
    return CauseVerdict(
        "restart",
        f"down to {dip.floor_w:.1f} W, above no-load, and back by itself in {scene.seconds(dip):.0f} s; {often}",
        settle,
        likely=times == 1,
    )


def _contact(scene: Scene, dip: RawDip, others: Sequence[RawDip], not_heat: str) -> CauseVerdict:
    """Remaining causes of a fall to no-load: the phone off the coil; or, with no temperatures, perhaps heat.

    not_heat : why it is not heat although it is hot; empty where nothing says so.
    """
    note = _moved(scene, dip)
    if note:
        return CauseVerdict("contact", f"power dropped to no-load; a note says: {note}")
    if dip.trailing and (open_end := _not_over(scene, dip)) is not None:
        return open_end
    lasted = f"power dropped to no-load for {duration(scene.seconds(dip))}"
    if scene.warmth is None:
        if len(others) >= MANY and _regular(others):
            return CauseVerdict(
                "unexplained",
                f"{len(others)} stops at no-load, of equal length and evenly spaced",
                "Heat stops a phone like this, and so may a charger: measure the back of the phone to know.",
            )
        return CauseVerdict(
            "contact", f"{lasted}; no temperatures were logged", "Log the phone's temperature to rule out heat."
        )
    on = scene.onset_c(dip)
    if on is None:
        return CauseVerdict("contact", f"{lasted}; no temperature was read near it")
    where, fell = f"{lasted} at {scene.said_c(dip, on)}", scene.fell_k(dip)
    if not_heat:
        return CauseVerdict("contact", f"{where}; {not_heat}")
    if on >= HOT_C and fell is not None and fell < CUTOUT_FALL_K:
        return CauseVerdict("contact", f"{where}, and came back after cooling by only {max(0.0, fell):.1f} K")
    return CauseVerdict("contact", f"{where}, which is not hot" if on < HOT_C else f"{where}, unlike a stop by heat")


def _not_over(scene: Scene, dip: RawDip) -> CauseVerdict | None:
    """A stop that the log ends in, where what would prove a charge limit or heat is still to come."""
    level, on = scene.percent_at(dip.first), scene.onset_c(dip)
    lasts = duration(scene.seconds(dip))
    if level is not None and at_limit(level) is not None:
        if scene.limits == "seen off":
            why = f"stopped at {level:.0f} % with limits off, {lasts} before the log ends"
            return CauseVerdict("unexplained", why, "Look into the phone's settings again, and keep logging.")
        why = f"at no-load at {level:.0f} % for the last {lasts} of the log"
        return CauseVerdict("unexplained", why, "A charge limit shows after a quarter of an hour: keep logging.")
    if on is not None and on >= HOT_C:
        why = f"at no-load from {scene.said_c(dip, on)} on, for the last {lasts} of the log"
        return CauseVerdict("unexplained", why, "A stop by heat ends once it has cooled: keep logging.")
    if scene.seconds(dip) >= HOLD_LEAST_S:
        why = f"at no-load for the last {lasts} of the log"
        return CauseVerdict("unexplained", why, f"Was it taken off{scene.or_pack_empty}? A note would say.")
    return None


def _regular(dips: Sequence[RawDip]) -> bool:
    lengths = np.array([d.end - d.first for d in dips], dtype=float)
    apart = np.diff([d.first for d in dips]).astype(float)
    return bool(
        lengths.std() <= REGULAR_SHARE * lengths.mean() and apart.std() <= REGULAR_SHARE * max(1.0, apart.mean())
    )


def _moved(scene: Scene, dip: RawDip) -> str:
    begin_s, end_s = scene.grid.edge_s(dip.first), scene.grid.edge_s(dip.end)
    for at_s, text in scene.notes:
        near = begin_s - 2 * MINUTE_S <= at_s <= end_s + 5 * MINUTE_S
        if near and any(word in text.lower() for word in MOVED):
            return text
    return ""


def _unexplained(scene: Scene, dip: RawDip) -> CauseVerdict:
    if scene.warmth is None:
        return CauseVerdict(
            "unexplained",
            "part of the power went, and no temperature was logged",
            "Measure the back of the phone: heat shows as drops that start at one temperature.",
        )
    on = scene.onset_c(dip)
    if on is None:
        return CauseVerdict(
            "unexplained", "part of the power went, with no temperature read near it", "Log it throughout."
        )
    at = f"part of the power went at {scene.said_c(dip, on)}"
    if on < HOT_C - scene.warmth.unsure_k:
        why = f"{at}, which is not hot"
    elif (scene.fell_k(dip) or 0.0) < HEAT_FALL_K:
        why = f"{at}, and came back without the phone cooling"
    else:
        why = f"{at}, once, or not where heat would show"
    return CauseVerdict("unexplained", why, "Was the phone in use? Repeat it idle, with its screen off.")
