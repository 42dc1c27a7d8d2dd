"""Why power fell: the cause of each dip by the evidence for it, the first that fits."""

from collections.abc import Sequence
from dataclasses import dataclass

from ..arrays import Mask
from ..log.temperatures import HOT_C
from ..milestones import at_limit
from ..units import MINUTE_S
from ..wording import duration
from .cause_heat import CUTOUT_FALL_K, HEAT_FALL_K, by_level, one_of_many, steps_here, with_one_return
from .cause_hold import HOLD_LEAST_S, by_limit, topped_up_at_limit
from .cause_restart import alike_restart, looks_restarted, regular, regular_restart, restarted
from .cause_supply import by_pinned_amps, by_volts
from .dips import RawDip
from .evidence import HOTTER_K, MANY, SAME_LEVEL_K, Scene, carried_on, episodes, full_power, held_level
from .verdict import CAUSES, Cause, CauseVerdict

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


def explain(scene: Scene, dips: list[RawDip], cuts: Sequence[RawDip] = ()) -> list[CauseVerdict]:
    """The cause of each dip that returns, or that a trailing fall to no-load has; in the order of `dips`.

    cuts : by which heat took part of the power for good, as far as that is known.
    """
    cut_c = [c for d in cuts if (c := scene.onset_c(d)) is not None]
    full = full_power(scene, dips)
    topped_up = topped_up_at_limit(scene, dips)
    verdicts: list[CauseVerdict | None] = [
        by_volts(scene, d) or (None if one_of_many(scene, d, dips) else by_limit(scene, d)) or topped_up.get(d.first)
        for d in dips
    ]
    open_ = [i for i, v in enumerate(verdicts) if v is None]
    lows = [dips[i] for i in open_ if dips[i].low]
    restarts = [i for i in open_ if looks_restarted(scene, dips[i])]
    wholes = episodes(scene.grid, dips)
    heats = by_level(scene, [dips[i] for i in open_ if not dips[i].low and i not in restarts], full, wholes, cut_c)
    pinned = {d.first: v for d in dips if not d.low and (v := by_pinned_amps(scene, d)) is not None}
    # Heat that holds the power at one figure pins the amps as well: where it did so before, it is heat again.
    if sum(first not in pinned and not v.likely for first, v in heats.items()) < MANY - 1:
        heats = {first: v for first, v in heats.items() if first not in pinned}
    parts = [d for d in dips if d.first in heats]
    steps_c = [c for d in (*cuts, *parts) if (c := scene.hottest_c(d)) is not None]
    apart = [d for d in lows if steps_here(scene, d, steps_c, bool(cut_c)) or _in_held(scene, d, parts)]
    cutouts = by_level(scene, [d for d in lows if d not in apart], full)
    cutouts = with_one_return(scene, lows, cutouts)
    again = [d for d in lows if d.first not in cutouts]
    told = heats.keys() | pinned.keys()
    short = [dips[i] for i in open_ if not dips[i].low and i not in restarts and dips[i].first not in told]
    for i in open_:
        dip = dips[i]
        if dip.low:
            elsewhere = "in this run heat takes only part of the power" if dip in apart else ""
            verdicts[i] = (
                cutouts.get(dip.first)
                or regular_restart(scene, dip, again)
                or _contact(scene, dip, lows, elsewhere or _went_on(scene, dip, full))
            )
        elif i in restarts:
            verdicts[i] = restarted(scene, dip, len(restarts))
        else:
            verdicts[i] = (
                heats.get(dip.first)
                or pinned.get(dip.first)
                or alike_restart(scene, dip, short)
                or _unexplained(scene, dip)
            )
    return [v for v in verdicts if v is not None]


def _in_held(scene: Scene, dip: RawDip, parts: Sequence[RawDip]) -> bool:
    """Whether a stop follows on a long stretch in which heat took part of the power, no hotter than that was held."""
    on, close = scene.onset_c(dip), scene.grid.steps(MINUTE_S)
    for part in parts:
        began, top = scene.onset_c(part), scene.hottest_c(part)
        if on is None or began is None or top is None or abs(dip.first - part.end) > close:
            continue
        if held_level(scene, part, began) and on <= top + HOTTER_K:
            return True
    return False


def _went_on(scene: Scene, dip: RawDip, full: Mask) -> str:
    return "the run held full power as hot as that at other times" if carried_on(scene, dip, full) else ""


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
        if len(others) >= MANY and regular(others):
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
    if scene.grid.by_hand_s is not None and on >= HOT_C - SAME_LEVEL_K:
        return CauseVerdict(
            "unexplained",
            f"{where}: lost contact or a stop by heat",
            "Watts read by hand do not show when it began: a meter that logs would tell.",
        )
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
