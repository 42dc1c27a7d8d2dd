"""A comparison in money and watt-hours: price per minute saved, cost of a charge and of a year, hut battery."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from ..factors import NO_ADAPTER, WIRED
from ..measured import Measured, Part, total
from ..reading.standby import Habits
from .compare import Pair, Versus
from .sentences import battery_key, cell_energy, minutes_said, window_said


@dataclass(frozen=True)
class Charge:
    """Energy of one charge over the window. meter_wh : at the meter; wall_wh : from the socket, the adapter's own
    losses included, wall_measured : by a meter there, and not by an assumed share; hut_wh : from a hut's battery
    through inverter and adapter; cost : of one, and of a year."""

    meter_wh: Measured
    wall_wh: Measured
    hut_wh: Measured
    cost: float
    year_cost: float
    year_kwh: float
    wall_measured: bool = False


def charge(meter_wh: Measured, habits: Habits, through_adapter: Measured | None = None) -> Charge:
    """Money and watt-hours of one charge.

    Parameters
    ----------
    meter_wh : Measured [Wh]
        At the inline meter, behind the adapter.
    habits : Habits
        Tariff, charges a year, and what share of the energy gets to the meter from socket and hut battery.
    through_adapter : Measured or None
        Share of the socket's energy that gets to the meter, where that was measured (0–1).
    """

    def through(energy: Measured, share: float, what: str) -> Measured:
        value = energy.scaled(1.0 / share)
        return Measured(value.value, (*value.parts, Part(what, value.value * habits.share_u / share)))

    if through_adapter is None:
        wall = through(meter_wh, habits.adapter_share, "adapter's share")
        hut = through(meter_wh, habits.hut_share, "share from the hut battery")
    else:
        wall = meter_wh.over(through_adapter)
        # Of the share from the hut battery only the inverter's is still assumed.
        hut = through(wall, habits.hut_share / habits.adapter_share, "inverter's share")
    cost = wall.value / 1000.0 * habits.tariff
    return Charge(meter_wh, wall, hut, cost, cost * habits.charges_year, wall.value / 1000.0 * habits.charges_year,
                  through_adapter is not None)  # fmt: skip


def against_least(comparison: Versus, charges: Sequence[Charge | None]) -> list[float | None]:
    """Excess that each row takes from a hut's battery over the least of those that fill the same battery [%]; None
    where it is the only one."""
    keys = [battery_key(c) for c in comparison.cells]
    least: dict[str, float] = {}
    for key, c in zip(keys, charges, strict=True):
        if c is not None:
            least[key] = min(least.get(key, c.hut_wh.value), c.hut_wh.value)
    counted = Counter(key for key, c in zip(keys, charges, strict=True) if c is not None)
    return [
        None if c is None or counted[key] < 2 else (c.hut_wh.value / least[key] - 1.0) * 100.0
        for key, c in zip(keys, charges, strict=True)
    ]


def cell_charge(comparison: Versus, cell: int, habits: Habits) -> Charge | None:
    """Energy of a charge by the runs of a cell; None where none of them was metered, or a pack fed the charger."""
    if comparison.cells[cell].first.levels.get("adapter") == NO_ADAPTER:
        return None
    energy = cell_energy(comparison.cells[cell], comparison.timed.laps[cell])
    if energy is None or energy.value <= 0:
        return None
    shares = [run.course.through_adapter for run in comparison.cells[cell].runs if run.course.power is not None]
    known = [share for share in shares if share is not None]
    measured = len(known) == len(shares)
    return charge(energy, habits, total(known).scaled(1.0 / len(known)) if measured else None)


PRICED = ("charger", "adapter", "cable", "case")
"""Factors that name a thing which costs something."""

_FREE = frozenset({WIRED, "none", NO_ADAPTER})


def price_apart(comparison: Versus, pair: Pair) -> tuple[float, str] | None:
    """Excess cost of the first of a pair over the second, by all in which they differ: amount and currency.

    Returns
    -------
    None where they differ in nothing that costs, a price is not known, or two currencies meet.
    """
    amount, seen = 0.0, set[str]()
    for factor in (n for n in PRICED if n in pair.apart.differs):
        for place, sign in ((pair.a, 1.0), (pair.b, -1.0)):
            run = comparison.cells[place].first
            if run.levels.get(factor, "") in _FREE:
                continue
            price = run.prices.get(factor)
            if price is None:
                return None
            amount, seen = amount + sign * price[0], seen | {price[1]}
    return (amount, seen.pop()) if len(seen) == 1 else None


def price_said(amount: float, currency: str) -> str:
    """An amount without needless cents: `26 EUR`, `5.50 EUR`."""
    return f"{f'{abs(amount):.2f}'.removesuffix('.00')} {currency}"


@dataclass(frozen=True)
class Bargain:
    """A price against minutes: the dearer one, the cheaper, the price between them, whether it buys minutes at all, and
    what a minute saved costs : (least, most), None where that is so unsure that a figure would say nothing."""

    dearer: int
    cheaper: int
    more: float
    currency: str
    buys: bool
    per_minute: tuple[float, float] | None
    said: str


UNSURE_TIMES = 4.0
"""A price a minute is told where its ends lie within such a ratio (own choice)."""


def bargains(comparison: Versus) -> list[Bargain]:
    """Every pair of which the prices are known and differ, the best bargain first."""
    offers = []
    for pair in comparison.pairs:
        apart = price_apart(comparison, pair)
        if apart is None or apart[0] == 0.0 or pair.difference is None or "phone" in pair.apart.differs:
            continue
        dearer, cheaper = (pair.a, pair.b) if apart[0] > 0 else (pair.b, pair.a)
        more, currency, verdict = abs(apart[0]), apart[1], pair.difference.verdict
        saved = verdict.minutes_saved if dearer == pair.a else -verdict.minutes_saved
        over, names = window_said(comparison.window), (comparison.cells[dearer].label, comparison.cells[cheaper].label)
        price = price_said(more, currency)
        costs, each, buys = f"{names[0]} costs {price} more than {names[1]}", None, verdict.shown and saved > 0
        if not verdict.shown:
            text = f"{costs}, and no difference is shown {over}"
        elif not buys:
            text = f"{costs} and takes {minutes_said(saved, verdict.noise.minutes)} longer {over}"
        else:
            low, high = max(0.0, saved - verdict.noise.minutes), saved + verdict.noise.minutes
            text = f"{costs} and saves {low:.0f} to {high:.0f} min {over}"
            if low * UNSURE_TIMES >= high:
                each = (more / high, more / low)
                text += f": {each[0]:.2f} to {each[1]:.2f} {currency} for each minute"
        offers.append(Bargain(dearer, cheaper, more, currency, buys, each, text))
    return sorted(offers, key=lambda x: (not x.buys, x.per_minute is None, x.per_minute or (0.0, 0.0), x.more))


def best_said(offers: Sequence[Bargain]) -> list[str]:
    """The best bargain in one sentence, where a price buys minutes at all."""
    return [b.said for b in offers[:1] if b.buys]


def currencies(comparison: Versus) -> list[str]:
    """The currencies that prices stand in; more than one cannot be held against each other."""
    return sorted({currency for c in comparison.cells for r in c.runs for _, currency in r.prices.values()})
