"""A comparison in money and watt-hours: price per minute saved, cost of a charge and of a year, hut battery."""

from collections.abc import Sequence
from dataclasses import dataclass

from .factors import NO_ADAPTER, WIRED
from .measured import Measured, Part
from .standby import Habits
from .versus import Pair, Versus
from .versus_words import cell_energy, minutes_said, window_said


@dataclass(frozen=True)
class Charge:
    """What one charge over the window takes. meter_wh : at the meter; wall_wh : from the socket, the adapter's own
    losses included; hut_wh : from a hut's battery through inverter and adapter; cost : of one, and of a year."""

    meter_wh: Measured
    wall_wh: Measured
    hut_wh: Measured
    cost: float
    year_cost: float
    year_kwh: float


def charge(meter_wh: Measured, habits: Habits) -> Charge:
    """Money and watt-hours of one charge.

    Parameters
    ----------
    meter_wh : Measured [Wh]
        At the inline meter, behind the adapter.
    habits : Habits
        Tariff, charges a year, and what share of the energy gets to the meter from socket and hut battery.
    """

    def through(share: float, what: str) -> Measured:
        value = meter_wh.scaled(1.0 / share)
        return Measured(value.value, (*value.parts, Part(what, value.value * habits.share_u / share)))

    wall, hut = (
        through(habits.adapter_share, "adapter's share"),
        through(habits.hut_share, "share from the hut battery"),
    )
    cost = wall.value / 1000.0 * habits.tariff
    return Charge(meter_wh, wall, hut, cost, cost * habits.charges_year, wall.value / 1000.0 * habits.charges_year)


def against_least(charges: Sequence[Charge | None]) -> list[float | None]:
    """How much more each takes from a hut's battery than the least of them does [%]."""
    least = min((c.hut_wh.value for c in charges if c is not None), default=0.0)
    return [None if c is None else (c.hut_wh.value / least - 1.0) * 100.0 for c in charges]


def cell_charge(found: Versus, cell: int, habits: Habits) -> Charge | None:
    """What a charge by the runs of a cell takes; None where none of them was metered, or a pack fed the charger."""
    if found.cells[cell].first.levels.get("adapter") == NO_ADAPTER:
        return None
    energy = cell_energy(found.cells[cell], found.timed.laps[cell])
    return None if energy is None or energy.value <= 0 else charge(energy, habits)


PRICED = ("charger", "adapter", "cable", "case")
"""Factors that name a thing which costs something."""

_FREE = frozenset({WIRED, "none", NO_ADAPTER})


def price_apart(found: Versus, pair: Pair) -> tuple[float, str] | None:
    """How much more the first of a pair costs than the second, by all in which they differ: amount and currency.

    Returns
    -------
    None where they differ in nothing that costs, a price is not known, or two currencies meet.
    """
    amount, seen = 0.0, set[str]()
    for factor in (n for n in PRICED if n in pair.apart.differs):
        for place, sign in ((pair.a, 1.0), (pair.b, -1.0)):
            run = found.cells[place].first
            if run.levels.get(factor, "") in _FREE:
                continue
            price = run.prices.get(factor)
            if price is None:
                return None
            amount, seen = amount + sign * price[0], seen | {price[1]}
    return (amount, seen.pop()) if len(seen) == 1 else None


@dataclass(frozen=True)
class Bargain:
    """A price against minutes: the dearer one, the cheaper, the price between them, and what a minute saved costs (None
    where the dearer is not shown to be faster)."""

    dearer: int
    cheaper: int
    more: float
    currency: str
    per_minute: float | None
    said: str


def bargains(found: Versus) -> list[Bargain]:
    """Every pair of which the prices are known and differ, the best bargain first."""
    made = []
    for pair in found.pairs:
        apart = price_apart(found, pair)
        if apart is None or apart[0] == 0.0 or pair.difference is None or "phone" in pair.apart.differs:
            continue
        dearer, cheaper = (pair.a, pair.b) if apart[0] > 0 else (pair.b, pair.a)
        more, currency, verdict = abs(apart[0]), apart[1], pair.difference.verdict
        saved = verdict.minutes_saved if dearer == pair.a else -verdict.minutes_saved
        over, names = window_said(found.window), (found.cells[dearer].label, found.cells[cheaper].label)
        price = f"{more:.2f} {currency}"
        if not verdict.shown:
            each, said = None, f"{names[0]} costs {price} more than {names[1]}, and no difference is shown {over}"
        elif saved < 0:
            slower = minutes_said(saved, verdict.noise.minutes)
            each, said = None, f"{names[0]} costs {price} more than {names[1]} and takes {slower} longer {over}"
        else:
            each = more / saved
            minutes = minutes_said(saved, verdict.noise.minutes)
            said = (
                f"{price} more for {names[0]} than for {names[1]} buys {minutes} {over}: "
                f"{each:.2f} {currency} a minute, once"
            )
        made.append(Bargain(dearer, cheaper, more, currency, each, said))
    return sorted(made, key=lambda x: (x.per_minute is None, x.per_minute or 0.0, x.more))


def best_said(found: Sequence[Bargain]) -> list[str]:
    """The best bargain in one sentence, where a price buys minutes at all."""
    return [b.said for b in found[:1] if b.per_minute is not None]


def currencies(found: Versus) -> list[str]:
    """The currencies that prices stand in; more than one cannot be held against each other."""
    return sorted({currency for c in found.cells for r in c.runs for _, currency in r.prices.values()})
