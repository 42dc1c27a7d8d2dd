"""Effects of single factors: every fair pair that isolates one, in one table, put together where a contrast recurs."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..arrays import Array
from ..factors import NAMES, WIRED
from ..noise import CONFIDENCE, NO_DIFFERENCE
from .compare import Pair, Versus
from .contender import Contender
from .repeats import Repeats

WIRELESS_NAME = "wirelessly"
MOST_MORE_PERCENT = -900.0
"""Less time than this [%], ten times as long, is where an interval ends that nothing bounds (own choice)."""

BASE_LEVELS = (WIRED, "none", "still air", "off", "centred", "nothing")
"""Levels that others are held against, where one of them is in a contrast."""


@dataclass(frozen=True)
class Contrast:
    """One fair pair as an effect: what else was the same, the minutes that b takes less than a, their noise, and the
    ratio of the times a : b with the relative standard uncertainty of each; a, b : places of the cells."""

    where: str
    a: int
    b: int
    minutes: float
    noise: float
    ratio: float
    relative: tuple[float, float]
    dof: float
    shown: bool


@dataclass(frozen=True)
class Effect:
    """Effect on the time of going from one level of a factor to another.

    less_time_percent and its interval : of all contrasts together; alike : whether they agree within their noise, or
    None where there is one only; verdict : `less time`, `more time`, `no difference shown` or `no single figure`.
    """

    factor: str
    from_level: str
    to_level: str
    contrasts: tuple[Contrast, ...]
    less_time_percent: float
    low_percent: float
    high_percent: float
    alike: bool | None

    @property
    def verdict(self) -> str:
        """One contrast alone shows what its pair shows; several, what their interval does, where they agree."""
        if self.alike is False:
            return "no single figure"
        if len(self.contrasts) == 1 and not self.contrasts[0].shown:
            return NO_DIFFERENCE
        if self.low_percent > 0:
            return "less time"
        return "more time" if self.high_percent < 0 else NO_DIFFERENCE


def effects(comparison: Versus) -> list[Effect]:
    """The effects of all factors that some fair pair isolates, in the order of the factors."""
    table: dict[tuple[str, str, str], list[Contrast]] = {}
    for pair in comparison.pairs:
        if pair.difference is None or pair.apart.fair != "fair" or len(pair.apart.differs) != 1 or pair.apart.order:
            continue
        factor = pair.apart.differs[0]
        levels = [comparison.cells[k].first.factors.get(factor, "") for k in (pair.a, pair.b)]
        if factor == "ambient":
            levels = [_room(comparison.cells[k]) for k in (pair.a, pair.b)]
        turned = _turned(*levels)
        a, b = (pair.b, pair.a) if turned else (pair.a, pair.b)
        first, second = (levels[1], levels[0]) if turned else (levels[0], levels[1])
        contrast = _contrast(comparison, pair, a, b, factor)
        table.setdefault((factor, first, second), []).append(contrast)
        if factor == "charger" and first.casefold() == WIRED:
            table.setdefault((WIRED, WIRED, WIRELESS_NAME), []).append(contrast)
    order = {name: n for n, name in enumerate((WIRED, *NAMES))}
    made_effects = [_effect(key, own) for key, own in table.items()]
    return sorted(made_effects, key=lambda e: (order.get(e.factor, 99), e.from_level.casefold(), e.to_level.casefold()))


def _room(cell: Repeats) -> str:
    celsius = cell.first.ambient_c
    return cell.first.factors.get("ambient", "") if celsius is None else f"{celsius:.0f} °C"


def _turned(first: str, second: str) -> bool:
    """Whether a contrast is told from its second level: bases first, else by name, so that it always reads alike."""
    base = [level.casefold() in BASE_LEVELS for level in (first, second)]
    return base[1] if base[0] != base[1] else second.casefold() < first.casefold()


def _contrast(comparison: Versus, pair: Pair, a: int, b: int, factor: str) -> Contrast:
    assert pair.difference is not None
    verdict, timed = pair.difference.verdict, comparison.timed
    minutes = float(timed.sides.minutes[a] - timed.sides.minutes[b])
    return Contrast(
        _where(comparison.cells[a].first, factor),
        a,
        b,
        minutes,
        verdict.noise.minutes,
        float(timed.sides.minutes[a] / timed.sides.minutes[b]),
        timed.relatives(a, b),
        verdict.noise.dof,
        verdict.shown,
    )


def _where(run: Contender, factor: str) -> str:
    """Common levels of both, in short: the phone, and the charger where that is not what differs."""
    named = [run.factors.get(n, "") for n in ("phone", "charger") if n != factor]
    return " × ".join(n for n in named if n) or run.label


def _effect(key: tuple[str, str, str], own: Sequence[Contrast]) -> Effect:
    """Contrasts put together: the mean of the log ratios, each weighted by its variance; the fewest degrees of freedom.

    References
    ----------
    Inverse-variance weighting and Cochran's Q (Cochran 1954, from memory). Contrasts that share a cell share its error
    (JCGM 100:2008, 5.2.2). The spread is common to all of them, so that its degrees of freedom do not add up.
    """
    from scipy.special import chdtri, stdtrit

    logs = np.log([c.ratio for c in own])
    covariance = _covariance(own)
    weights = 1.0 / np.diag(covariance)
    mean = float(np.sum(weights * logs) / np.sum(weights))
    q = float(np.sum(weights * (logs - mean) ** 2))
    alike = bool(q <= float(chdtri(len(own) - 1, 1.0 - CONFIDENCE))) if len(own) > 1 else None
    weights /= np.sum(weights)
    standard = float(np.sqrt(weights @ covariance @ weights))
    half = float(stdtrit(min(c.dof for c in own), 1.0 - (1.0 - CONFIDENCE) / 2.0)) * standard
    low, high = _between(own[0]) if len(own) == 1 else (float(np.exp(mean - half)), float(np.exp(mean + half)))
    least, less, most = (100.0 * (1.0 - 1.0 / max(1e-9, x)) for x in (low, float(np.exp(mean)), high))
    return Effect(*key, tuple(own), less, max(least, min(less, MOST_MORE_PERCENT)), most, alike)


def _between(own: Contrast) -> tuple[float, float]:
    """Where the ratio of two times lies: it leaves 1 out just when their difference exceeds its noise.

    From 0, or to infinity, where one of the times is so unsure that nothing bounds the ratio.

    References
    ----------
    Fieller's interval of a ratio (Fieller 1954, from memory).
    """
    from scipy.special import stdtrit

    t = float(stdtrit(own.dof, 1.0 - (1.0 - CONFIDENCE) / 2.0))
    up, down = ((t * u) ** 2 for u in own.relative)
    half = float(np.sqrt(max(0.0, up + down - up * down)))
    low = own.ratio * (1.0 - up) / (1.0 + half) if up < 1.0 else 0.0
    return low, own.ratio * (1.0 + half) / (1.0 - down) if down < 1.0 else float("inf")


def _covariance(own: Sequence[Contrast]) -> Array:
    """Of the log ratios of contrasts : (k, k); what two of them have in common is the error of the cell they share."""
    cells = sorted({k for c in own for k in (c.a, c.b)})
    variance = {}
    signs = np.zeros((len(own), len(cells)))
    for row, c in enumerate(own):
        for place, relative, sign in ((c.a, c.relative[0], 1.0), (c.b, c.relative[1], -1.0)):
            signs[row, cells.index(place)] = sign
            variance[place] = relative**2
    covariance: Array = signs @ np.diag([variance[k] for k in cells]) @ signs.T
    return covariance
