"""Runs of a finding in blocks: one phone under like conditions, its chargers compared; runs that fit in none."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from ..errors import CannotRead
from ..factors import OWN_FAN, SAME_AMBIENT_K, SHORT, said_of
from ..kit.items import Phone
from ..versus.compare import Pair, Versus, versus
from ..versus.contender import Contender
from ..versus.copies import without_copies
from ..versus.pairing import differences, unfit
from ..versus.repeats import Repeats, grouped
from ..versus.run_names import is_wired, told_apart
from ..versus.window import Window, span, worthwhile_windows
from .material import Material, PhoneTier, tier_of
from .telling import listed

STILL_AIR = "still air"
_ALIKE = ("case", "airflow", "phone_state")
"""Conditions that must be alike within a block; the adapter is a part of what a buyer gets, and is told."""


@dataclass(frozen=True)
class LeftOut:
    """A run that no comparison of a finding uses, and why."""

    run: Contender
    why: str


@dataclass(frozen=True)
class Block:
    """One phone under like conditions.

    comparison : its chargers over one window; None where fewer than two can be compared. wired : runs by wire under the
    same conditions. conditions : what the runs state alike, by factor; room_c : their rooms (least, most) [°C]; left :
    runs that it does not use.
    """

    phone: str
    tier: PhoneTier | None
    conditions: Mapping[str, str]
    room_c: tuple[float, float] | None
    comparison: Versus | None
    single: tuple[Contender, ...]
    wired: tuple[Contender, ...]
    left: tuple[LeftOut, ...]
    nth: int = 0
    """Which of the blocks of this phone under the same conditions it is: they differ in their rooms."""

    @property
    def key(self) -> str:
        """Key of it, as long as its phone and conditions stay."""
        return "|".join([self.phone, self.where, *([str(self.nth)] if self.nth else [])]).casefold()

    @property
    def window(self) -> Window | None:
        return None if self.comparison is None else self.comparison.window

    @property
    def cells(self) -> tuple[Repeats, ...]:
        return () if self.comparison is None else self.comparison.cells

    @cached_property
    def timed(self) -> tuple[int, ...]:
        """Places of the rows that have a time, the soonest first."""
        if self.comparison is None:
            return ()
        known = [n for n, rank in enumerate(self.comparison.rank) if rank]
        return tuple(sorted(known, key=self.minutes))

    def minutes(self, n: int) -> float:
        """Time of a row over the window [min], the mean of its runs."""
        assert self.comparison is not None
        return float(self.comparison.timed.sides.minutes[n])

    def runs_of(self, n: int) -> tuple[str, ...]:
        """Keys of the runs of a row that have a time."""
        assert self.comparison is not None
        return tuple(r.key for r in self.cells[n].runs if not unfit(r, self.window))

    def beats(self, a: int, b: int) -> bool:
        """Whether a row is shown to be faster than another, within the whole ranking."""
        return self.comparison is not None and (a, b) in self.comparison.shown

    def pair(self, a: int, b: int) -> Pair:
        """The pair of two rows."""
        assert self.comparison is not None
        found = self.comparison.pair(a, b)
        assert found is not None
        return found

    @property
    def runs(self) -> tuple[Contender, ...]:
        """Every run that it uses, those by wire included."""
        return (*(r for c in self.cells for r in c.runs), *self.single, *self.wired)

    @property
    def where(self) -> str:
        """Its conditions in words: `no case, still air, 23 to 26 °C`."""
        parts = [_level(n, self.conditions.get(n, "")) for n in _ALIKE]
        return ", ".join([p for p in parts if p])


def _level(name: str, text: str) -> str:
    if name == "case" and text:
        return SHORT.get(text, text)
    return text


@dataclass(frozen=True)
class Blocks:
    """All blocks, the phones that take most watts first, of one phone the block with most chargers first; and the runs
    that no block uses at all."""

    blocks: tuple[Block, ...]
    left: tuple[LeftOut, ...]


def blocks_of(material: Material) -> Blocks:
    """The runs of a finding in blocks."""
    left: list[LeftOut] = []
    usable: list[Contender] = []
    single, copied = without_copies(list(material.runs))
    left += [LeftOut(run, f"a copy of {of.label}: the same file, read twice") for run, of in copied]
    for run in single:
        why = _unusable(run)
        if why:
            left.append(LeftOut(run, why))
        else:
            usable.append(run)
    blocks: list[Block] = []
    seen: Counter[str] = Counter()
    for own in _by_phone(usable):
        for alike in _alike(own):
            block = _block(alike, material)
            blocks.append(replace(block, nth=seen[block.key]))
            seen[block.key] += 1
    return Blocks(tuple(sorted(blocks, key=_order)), tuple(left))


def _unusable(run: Contender) -> str:
    if run.outcome == "void":
        return "void"
    if run.simulated:
        return "simulated, not measured"
    if run.spot:
        return "a spot check, without a charging time"
    if not run.levels.get("phone"):
        return "its phone is not stated"
    if not run.levels.get("charger") and not is_wired(run):
        return "its charger is not stated"
    return ""


def _order(block: Block) -> tuple[float, str, int, str]:
    watts = -1.0 if block.tier is None else block.tier.watts
    return (-watts, block.phone.casefold(), -len(block.timed), block.where)


def _by_phone(runs: Sequence[Contender]) -> list[list[Contender]]:
    by_phone: dict[str, list[Contender]] = {}
    for run in runs:
        by_phone.setdefault(run.levels["phone"], []).append(run)
    return list(by_phone.values())


def _conditions(run: Contender) -> tuple[str, ...]:
    """Conditions of a run as a block wants them alike; a charger's own fan is a part of the charger."""
    levels = dict(run.levels)
    if levels.get("airflow") == OWN_FAN:
        levels["airflow"] = STILL_AIR
    return tuple(levels.get(n, "") for n in _ALIKE)


def _alike(runs: Sequence[Contender]) -> list[list[Contender]]:
    """Runs of one phone, put together where case, airflow, use and room are alike. One that does not state a condition
    goes where it stands alone least: its pairs then say that nobody knows."""
    by_conditions: dict[tuple[str, ...], list[Contender]] = {}
    for run in runs:
        by_conditions.setdefault(_conditions(run), []).append(run)
    whole = [k for k in by_conditions if all(k)]
    for key in [k for k in by_conditions if not all(k)]:
        fitting = [w for w in whole if all(x in ("", y) for x, y in zip(key, w, strict=True))]
        if fitting:
            best = max(fitting, key=lambda w: len(by_conditions[w]))
            by_conditions[best] += by_conditions.pop(key)
    return [group for own in by_conditions.values() for group in _by_room(own)]


def _by_room(runs: Sequence[Contender]) -> list[list[Contender]]:
    """Runs by their rooms: within 2 K of the coolest of a group they are alike; those of an unknown room go to the
    largest."""
    known = sorted((r for r in runs if r.known_room_c is not None), key=lambda r: r.known_room_c or 0.0)
    groups: list[list[Contender]] = []
    for run in known:
        first = groups[-1][0].known_room_c if groups else None
        if first is not None and (run.known_room_c or 0.0) - first <= SAME_AMBIENT_K:
            groups[-1].append(run)
        else:
            groups.append([run])
    unknown = [r for r in runs if r.known_room_c is None]
    if unknown:
        max(groups, key=len).extend(unknown) if groups else groups.append(unknown)
    return groups


def _block(runs: Sequence[Contender], material: Material) -> Block:
    phone = runs[0].factors["phone"]
    kit: Phone | None = material.phones.get(runs[0].levels["phone"])
    wired = tuple(r for r in runs if is_wired(r))
    by_coil = [r for r in runs if not is_wired(r)]
    window = window_of(by_coil, material.question.to)
    fit = [r for r in by_coil if window is not None and not unfit(r, window)]
    left = [LeftOut(r, _why_unfit(r, window, material.question.to)) for r in by_coil if r not in fit]
    comparison, single = None, tuple(fit)
    folded = _distinct(grouped(_named(fit)))
    if len({r.group for r in folded}) > 1 and window is not None:
        try:
            comparison, single = versus(folded, *window, with_gaps=False), ()
        except CannotRead as error:
            left += [LeftOut(r, error.what) for r in fit]
            single = ()
    rooms = [c for r in runs if (c := r.known_room_c) is not None]
    return Block(
        phone, None if kit is None else tier_of(kit), dict(zip(_ALIKE, _conditions(_most(runs)), strict=True)),
        (min(rooms), max(rooms)) if rooms else None, comparison, single, wired, tuple(left),
    )  # fmt: skip


def _named(runs: Sequence[Contender]) -> list[Contender]:
    """The same runs, named by what tells them apart; a fan of the charger's own is always in its name, so that it does
    not depend on what else was run."""
    bare = [replace(r, factors={k: v for k, v in r.factors.items() if k != "airflow"}) for r in runs]
    return [
        replace(run, label=f"{said.label}, {SHORT[OWN_FAN]}" if run.levels.get("airflow") == OWN_FAN else said.label)
        for run, said in zip(runs, told_apart(bare), strict=True)
    ]


def _distinct(runs: Sequence[Contender]) -> list[Contender]:
    """The same runs, those of two groups of one name told apart by what only one of them states."""
    heads: dict[str, list[Contender]] = {}
    names: dict[str, str] = {}
    for run in runs:
        own = heads.setdefault(run.label.casefold(), [])
        if run.group not in {h.group for h in own}:
            own.append(run)
    for own in heads.values():
        for n, head in enumerate(own[1:], 2):
            unknown = [x for x in differences(own[0], head).unknown if not head.levels.get(x)]
            what = f"{said_of(unknown[0])} not stated" if unknown else f"set {n}"
            taken = {names.get(h.group, h.label) for h in own}
            name = f"{head.label}, {what}"
            names[head.group] = name if name not in taken else f"{name} {n}"
    return [replace(r, label=names.get(r.group, r.label)) for r in runs]


def _most(runs: Sequence[Contender]) -> Contender:
    """The run that states most of the conditions."""
    return max(runs, key=lambda r: sum(map(bool, _conditions(r))))


def window_of(runs: Sequence[Contender], to: float) -> Window | None:
    """The window of a block, up to the percentage of the question: that which covers most points of most runs."""
    capped = [(s[0], min(s[1], to)) for r in runs if (s := span(r.course.readings)) is not None and s[0] < to]
    reaching = [c for c in capped if c[1] >= to]
    windows = worthwhile_windows(reaching if len(reaching) > 1 else capped)
    if windows:
        return windows[0][0]
    return max(capped, key=lambda c: c[1] - c[0], default=None)


def _why_unfit(run: Contender, window: Window | None, to: float) -> str:
    covered = span(run.course.readings)
    if covered is None:
        return "no percentages that rise"
    if window is None:
        return f"it covers {covered[0]:g} to {covered[1]:g} %, nothing below {to:g} %"
    return unfit(run, window).removeprefix(f"{run.label} ")


def bundle_said(pair: Pair) -> str:
    """Differences of two chargers of a block besides themselves, in words; empty where there are none."""
    # Within a block the airflow differs by a charger's own fan alone: that is in its name.
    besides = [said_of(n) for n in pair.apart.differs if n not in {"charger", "place", "way_of_charging", "airflow"}]
    return f"{listed(besides)} {'differs' if len(besides) == 1 else 'differ'} as well" if besides else ""


def unknown_said(pair: Pair) -> str:
    """Factors stated for one of two chargers only, in words; empty where there are none."""
    unknown = [said_of(n) for n in pair.apart.unknown]
    return f"{listed(unknown)} stated for one of them only" if unknown else ""
