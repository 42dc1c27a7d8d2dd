"""The best of a block for each purpose: fastest, coolest, thriftiest, for a small battery, and the cheapest of those
that are not shown to be worse. A best that is shared is a tie, and no best at all is an answer."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from ..factors import NO_ADAPTER
from ..measured import Measured, Part
from ..reading.standby import Habits
from ..versus.compare import Versus
from ..versus.contender import Warm
from ..versus.cost import cell_charge, price_apart
from ..versus.energies import energy_difference
from ..versus.sentences import HEAT_NOISE_K, cell_energy, hottest, rooms_alike
from .blocks import Block
from .material import Material, OutputSeen

Purpose = Literal["fastest", "coolest", "thriftiest", "small battery", "cheapest"]
PURPOSES: dict[Purpose, str] = {
    "fastest": "Fastest",
    "coolest": "Coolest",
    "thriftiest": "Thriftiest",
    "small battery": "For a small car battery or a solar hut",
    "cheapest": "Cheapest that is not shown to be slower",
}
"""Purposes, and how they are headed."""


@dataclass(frozen=True)
class Best:
    """The rows of a block that may be best for a purpose: one, several where no difference is shown between them, none
    where nobody can say, and then why."""

    purpose: Purpose
    rows: tuple[int, ...]
    why_not: str = ""

    @property
    def alone(self) -> int | None:
        """The row that is shown to be best."""
        return self.rows[0] if len(self.rows) == 1 else None


@dataclass(frozen=True)
class RowHeat:
    """Hottest of a row over the window: as it is [°C], or over its room where the rooms differ [K]."""

    warm: Warm
    value: float
    over_room: bool


def bests_of(block: Block, material: Material) -> dict[Purpose, Best]:
    """The best of a block for every purpose."""
    return {
        "fastest": fastest(block),
        "coolest": coolest(block),
        "thriftiest": thriftiest(block),
        "small battery": for_small_battery(block, material),
        "cheapest": cheapest(block),
    }


def fastest(block: Block) -> Best:
    """The rows that nothing is shown to be faster than."""
    comparison = block.comparison
    if comparison is None or len(block.timed) < 2:
        return Best("fastest", (), "fewer than two chargers have a time over one window")
    return Best("fastest", tuple(n for n in block.timed if comparison.rank[n] == 1))


def warmths(block: Block) -> dict[int, RowHeat]:
    """The heat of the rows that have one, in a measure that compares."""
    comparison = block.comparison
    if comparison is None:
        return {}
    found = {
        n: w for n in block.timed if (w := hottest(comparison.cells[n], comparison.timed.laps[n])) is not None
    }  # fmt: skip
    if rooms_alike([comparison.cells[n] for n in found]):
        return {n: RowHeat(w, w.hottest_c, False) for n, w in found.items()}
    return {n: RowHeat(w, w.rise_k, True) for n, w in found.items() if w.rise_k is not None}


def coolest(block: Block) -> Best:
    """The rows within the repeatability of a probe of the coolest."""
    known = warmths(block)
    if len(known) < 2:
        return Best("coolest", (), "temperatures were logged for fewer than two of them")
    least = min(w.value for w in known.values())
    by_heat = sorted(known, key=lambda n: known[n].value)
    return Best("coolest", tuple(n for n in by_heat if known[n].value - least <= HEAT_NOISE_K))


def thriftiest(block: Block) -> Best:
    """The rows that take least energy at the meter, as far as that is shown."""
    comparison = block.comparison
    energies = _energies(block)
    if comparison is None or len(energies) < 2:
        return Best("thriftiest", (), "power was metered for fewer than two of them")
    return Best("thriftiest", _least(comparison, energies))


def _energies(block: Block) -> dict[int, float]:
    if block.comparison is None:
        return {}
    return {
        n: e.value
        for n in block.timed
        if (e := cell_energy(block.cells[n], block.comparison.timed.laps[n])) is not None and e.value > 0
    }


def _least(comparison: Versus, values: dict[int, float]) -> tuple[int, ...]:
    order = sorted(values, key=lambda n: values[n])
    kept = [order[0]]
    for n in order[1:]:
        apart = energy_difference(comparison, order[0], n)
        if apart is None or not apart.shown:
            kept.append(n)
    return tuple(kept)


@dataclass(frozen=True)
class NightEnergy:
    """Energy that a night takes from a small battery [Wh]: one charge over the window, and what is drawn after full;
    standby_wh : None where that was not metered."""

    charge_wh: Measured
    standby_wh: Measured | None

    @property
    def whole(self) -> Measured:
        if self.standby_wh is None:
            return self.charge_wh
        parts = (*self.charge_wh.parts, *self.standby_wh.parts)
        return Measured(self.charge_wh.value + self.standby_wh.value, parts)


def night_energy(block: Block, n: int, habits: Habits, outputs: Sequence[OutputSeen]) -> NightEnergy | None:
    """Energy of a row from a small battery; None where it was not metered, or feeds itself."""
    if block.comparison is None or block.cells[n].first.levels.get("adapter") == NO_ADAPTER:
        return None
    charge = cell_charge(block.comparison, n, habits)
    if charge is None:
        return None
    known = [o.after_full_w for o in outputs if o.after_full_w is not None]
    if not known:
        return NightEnergy(charge.hut_wh, None)
    watts = sum(w.value for w in known) / len(known)
    standard = max(w.standard for w in known)
    hours = habits.full_h / habits.hut_share
    relative = habits.share_u / habits.hut_share
    parts = (Part("draw after full", standard * hours), Part("share from the hut battery", watts * hours * relative))
    return NightEnergy(charge.hut_wh, Measured(watts * hours, parts))


def nights(block: Block, material: Material) -> dict[int, NightEnergy]:
    """Energy of a night of every row that was metered; with the draw after full only where that is known for all."""
    found = {
        n: e
        for n in block.timed
        if (e := night_energy(block, n, material.habits, outputs_of(block, n, material))) is not None
    }
    if all(e.standby_wh is not None for e in found.values()):
        return found
    return {n: replace(e, standby_wh=None) for n, e in found.items()}


def for_small_battery(block: Block, material: Material) -> Best:
    """The rows that take least of a small battery in a night: the charge, and the draw after full where it is known
    for all of them."""
    known = nights(block, material)
    if block.comparison is None or len(known) < 2:
        return Best("small battery", (), "power was metered for fewer than two of them")
    standby = all(e.standby_wh is not None for e in known.values())
    order = sorted(known, key=lambda n: known[n].whole.value)
    kept = [order[0]]
    for n in order[1:]:
        apart = energy_difference(block.comparison, order[0], n)
        if apart is None:
            kept.append(n)
            continue
        more, noise = apart.more_wh / material.habits.hut_share, apart.noise_wh / material.habits.hut_share
        if standby:
            a, b = known[order[0]].standby_wh, known[n].standby_wh
            assert a is not None and b is not None
            more += b.value - a.value
            own = [p.standard for s in (a, b) for p in s.parts if p.source == "draw after full"]
            noise = (noise**2 + sum((2.0 * u) ** 2 for u in own)) ** 0.5
        if abs(more) <= noise:
            kept.append(n)
    return Best("small battery", tuple(kept))


def outputs_of(block: Block, n: int, material: Material) -> list[OutputSeen]:
    """Output of the charger, by the readings of a row's runs."""
    return [o for key in block.runs_of(n) if (o := material.outputs.get(key)) is not None]


def cheapest(block: Block) -> Best:
    """Of the rows that nothing is shown to be faster than, the one that costs less than all others of them."""
    among = fastest(block).rows
    if not among:
        return Best("cheapest", (), "nothing is compared")
    if len(among) == 1:
        return Best("cheapest", among)
    for n in among:
        prices = [price_between(block, n, other) for other in among if other != n]
        if all(p is not None and p[0] <= 0.0 for p in prices):
            if all(p is not None and p[0] == 0.0 for p in prices):
                return Best("cheapest", among)
            ties = [o for o in among if o == n or ((p := price_between(block, n, o)) is not None and p[0] == 0.0)]
            return Best("cheapest", tuple(ties))
    return Best("cheapest", (), "not all prices are known in one currency")


def price_between(block: Block, a: int, b: int) -> tuple[float, str] | None:
    """Excess price of a row over another: amount and currency; None where it is not known."""
    assert block.comparison is not None
    pair = block.pair(a, b)
    apart = price_apart(block.comparison, pair)
    if apart is None:
        return None
    return apart if pair.a == a else (-apart[0], apart[1])
