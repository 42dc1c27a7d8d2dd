"""Whether two runs may be compared: what differs, what nobody knows, and what makes them no pair at all."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

from ..factors import NAMES, NO_ADAPTER, SAME_AMBIENT_K, START_SLACK, WIRED, Levels, in_order, said_of
from ..wording import counted
from .contender import Contender
from .window import Window, crossing, span

Fair = Literal["fair", "bundle", "unknown", "not comparable"]

COOL_MIN = 30.0
"""A phone that was charged less than so many minutes ago may still be warm (own choice: two to three times the time
constant of a phone's heat); where a probe saw it cool, that counts instead."""

METHOD_FACTORS = frozenset({"method", "start"})
"""Differences of method: over the window that both share they do not part two chargers, but they are said."""

PART_OF = (("place", "charger"), ("software", "phone"))
"""Parts of other factors: where that differs, this does not count besides."""


WAY = "way_of_charging"
"""The one difference of a pack, or a phone, that charges a phone by its coil and by a cord."""

BY_WAY = frozenset({"charger", "adapter", "cable", "place", "alignment"})


@dataclass(frozen=True)
class Differences:
    """Differences of two runs.

    differs : factors; unknown : stated by one of them only; method, order : said in words; apart : why they are no pair
    at all, empty where they are one.
    """

    differs: tuple[str, ...]
    unknown: tuple[str, ...]
    method: tuple[str, ...] = ()
    order: tuple[str, ...] = ()
    apart: str = ""

    @property
    def fair(self) -> Fair:
        """`fair` where they differ in one factor at most, `bundle` in several, `unknown` where nobody can say."""
        if self.apart:
            return "not comparable"
        if len(self.differs) + bool(self.order) > 1:
            return "bundle"
        return "unknown" if self.unknown else "fair"

    @property
    def repeats(self) -> bool:
        """Whether nothing at all parts them."""
        return not (self.differs or self.unknown or self.order or self.apart)


def differences(a: Contender, b: Contender, unfit: str = "") -> Differences:
    """Differences of two runs.

    A factor that neither states counts as equal; one that only one of them states is unknown. Ambients within 2 K are
    equal. Warmth left from an earlier run counts as one more difference.

    Parameters
    ----------
    a, b : Contender
    unfit : str
        Why one of them is no side of any pair (see `unfit`); empty where both are.
    """
    mine, other = a.levels, b.levels
    differs: list[str] = []
    unknown: list[str] = []
    names = a.named if a.named == b.named else in_order((*mine, *other))
    for name in names:
        here, there = mine.get(name, ""), other.get(name, "")
        if here != there and name not in METHOD_FACTORS and name != "ambient":
            (differs if here and there else unknown).append(name)
    _room(a, b, differs, unknown)
    if _coil_and_cord(mine, other):
        # The charger of the one is the supply of the other: one thing differs, and the cable is a part of it.
        differs = [n for n in differs if n not in BY_WAY] + [WAY]
        unknown = [n for n in unknown if n not in BY_WAY]
    parts = [part for part, whole in PART_OF if whole in differs]
    if "charger" in differs and NO_ADAPTER in (mine.get("adapter"), other.get("adapter")):
        parts += ["adapter", "cable"]  # A pack brings its own supply: that is a part of it.
    if parts:
        differs = [n for n in differs if n not in parts]
        unknown = [n for n in unknown if n not in parts]
    return Differences(tuple(differs), tuple(unknown), tuple(_method(a, b)), tuple(_order(a, b)), unfit or _apart(a, b))


def _coil_and_cord(a: Levels, b: Levels) -> bool:
    """Whether the pack whose coil charged in the one run fed the cord of the other."""
    coil, cord = (a, b) if a.get("adapter") == NO_ADAPTER else (b, a)
    wired = cord.get("charger", WIRED) == WIRED
    return coil.get("adapter") == NO_ADAPTER and wired and coil.get("charger", "") == cord.get("adapter", "") != ""


def stated_by_neither(a: Contender, b: Contender) -> tuple[str, ...]:
    """Factors of the common ones that neither states: they count as equal, and are listed so."""
    rooms = a.known_room_c is not None or b.known_room_c is not None
    return tuple(
        name
        for name in NAMES
        if name not in METHOD_FACTORS
        and not (name == "ambient" and rooms)
        and name not in a.levels
        and name not in b.levels
    )


def _room(a: Contender, b: Contender, differs: list[str], unknown: list[str]) -> None:
    here, there = a.known_room_c, b.known_room_c
    if here is not None and there is not None:
        if abs(here - there) > SAME_AMBIENT_K:
            differs.append("ambient")
    elif here is not None or there is not None:
        unknown.append("ambient")
    elif a.levels.get("ambient", "") != b.levels.get("ambient", ""):
        both = "ambient" in a.levels and "ambient" in b.levels
        (differs if both else unknown).append("ambient")


def _method(a: Contender, b: Contender) -> list[str]:
    """Differences of the methods, in words."""
    reasons = []
    here, there = a.start_percent, b.start_percent
    if here is not None and there is not None and abs(here - there) > START_SLACK:
        reasons.append(f"started at {here:g} and {there:g} %: whichever began lower is warmer in the window they share")
    if a.card and b.card and a.card.casefold() != b.card.casefold():
        reasons.append(f"methods “{a.card}” and “{b.card}”")
    if a.chamber != b.chamber:
        reasons.append("one in a chamber with a continuous log, the other in a room")
    if a.interval_min is not None and b.interval_min is not None:
        few, many = sorted((a.interval_min, b.interval_min))
        if many > 2.0 * max(few, 1.0):
            reasons.append(f"check-ins every {few:g} and {many:g} min")
    return reasons


def _order(a: Contender, b: Contender) -> list[str]:
    """Warmth that one of two runs was left with and the other was not, in words."""
    here, there = a.start_rise_k, b.start_rise_k
    if here is not None and there is not None:
        if abs(here - there) > SAME_AMBIENT_K and max(here, there) > SAME_AMBIENT_K:
            warm, cool = (a, b) if here > there else (b, a)
            return [
                f"{warm.label} began with the phone {max(here, there):.1f} K over the room, "
                f"{cool.label} {min(here, there):.1f} K"
            ]
        return []
    soon = [run for run in (a, b) if run.after is not None and run.after < COOL_MIN and run.start_rise_k is None]
    if len(soon) == 1:
        return [f"{soon[0].label} began {soon[0].after:.0f} min after another run of the same phone"]
    return []


def _apart(a: Contender, b: Contender) -> str:
    if a.simulated == b.simulated:
        return ""
    simulated, measured = (a, b) if a.simulated else (b, a)
    return f"{simulated.label} is simulated, {measured.label} measured"


def unfit(run: Contender, window: Window | None) -> str:
    """Why a run cannot be compared over a window, in words; empty where it can."""
    readings = run.course.readings
    covered = span(readings)
    if readings is None or covered is None:
        return f"{run.label} has no check-ins that rise"
    if run.outcome == "void":
        return f"{run.label} is void"
    if window is None:
        return ""
    if covered[0] > window[0] or covered[1] < window[1]:
        return f"{run.label} covers {covered[0]:g} to {covered[1]:g} %, not {window[0]:g} to {window[1]:g} %"
    start, top = crossing(readings, window[0]), crossing(readings, window[1])
    if start is not None and top is not None and top.middle <= start.middle:
        return f"{run.label} has no reading between {window[0]:g} and {window[1]:g} %, so no time over it"
    for begun, ended in run.course.holds:
        if top is not None and top.estimate >= ended:
            return f"a charge limit held {run.label} for {counted(round(ended - begun), 'minute')} on the way"
    return ""


def previous_ends(runs: Sequence[Contender]) -> dict[str, float]:
    """For each run, by key, how long before it another run of the same phone ended [min]; unknown ones left out."""
    ends: dict[str, float] = {}
    by_phone: dict[str, list[Contender]] = {}
    for run in runs:
        if run.began_min is not None and run.ended_min is not None and run.levels.get("phone"):
            by_phone.setdefault(run.levels["phone"], []).append(run)
    for own in by_phone.values():
        ordered = sorted(own, key=lambda r: (r.began_min or 0.0, r.key))
        for earlier, later in pairwise(ordered):
            gap = (later.began_min or 0.0) - (earlier.ended_min or 0.0)
            if gap >= 0.0:
                ends[later.key] = gap
    return ends


def fair_said(apart: Differences) -> str:
    """Whether a pair is fair and why, in words."""
    if apart.apart:
        return f"not comparable: {apart.apart}"
    named = [said_of(n) for n in apart.differs]
    if apart.order:
        named.append("phone's warmth at the start")
    unknown = [said_of(n) for n in apart.unknown]
    if apart.fair == "bundle":
        parts = f"{', '.join(named[:-1])} and {named[-1]} {'both' if len(named) == 2 else 'all'} differ"
        return f"a bundle: {parts}" + (f"; {_list(unknown)} stated by one only" if unknown else "")
    if apart.fair == "unknown":
        known = f"{named[0]} differs, and " if named else ""
        return f"unknown: {known}{_list(unknown)} {'is' if len(unknown) == 1 else 'are'} stated by one of them only"
    return f"fair: only the {named[0]} differs" if named else "fair: repeats, no factor differs"


def _list(named: Sequence[str]) -> str:
    return named[0] if len(named) == 1 else f"{', '.join(named[:-1])} and {named[-1]}"
