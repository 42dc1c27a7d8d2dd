"""Advice by who asks: phone, budget, at home or on the way, whether a fan disturbs; each line stands on a difference
that was shown, and a tie is told as one: buy the cheaper."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from ..factors import OWN_FAN
from ..packs.rating import cabin_class
from ..versus.cost import price_said
from ..wording import plus_minus
from .answer import for_whom, picked
from .bests import thriftiest
from .block_figures import difference_figure, energy_figure, energy_of, price_figure, time_figure
from .blocks import Block
from .material import Material
from .telling import FindingSentence, Stated, Telling, listed, named, strong

Where = Literal["at home", "on the way"]


@dataclass(frozen=True)
class Asker:
    """Somebody who asks: tier : what their phone takes, in words, empty for all; budget : amount, with its currency;
    where : at home or on the way; quiet : whether a fan disturbs."""

    tier: str = ""
    budget: float | None = None
    currency: str = ""
    where: Where = "at home"
    quiet: bool = False


def advice(blocks: Sequence[Block], material: Material, asker: Asker) -> list[FindingSentence]:
    """Advice on what to buy, for whom asks; where nothing was shown, that is said."""
    own = [b for b in blocks if not asker.tier or tier_name(b) == asker.tier]
    lines = _packs(own, material, asker) if asker.where == "on the way" else []
    compared = [b for b in own if b.comparison is not None]
    for block in compared:
        lines.append(_block(block, material, asker))
    if not lines:
        lines.append(FindingSentence("advice|none", "Nothing was compared for such a phone: *no advice*"))
    return lines


def tier_name(block: Block) -> str:
    """The tier of a block as people choose it; of a phone that is not known its name."""
    return block.phone if block.tier is None else block.tier.said


def _price(block: Block, n: int) -> tuple[float, str] | None:
    return block.cells[n].first.prices.get("charger")


def _has_fan(block: Block, n: int, material: Material) -> bool:
    run = block.cells[n].first
    charger = material.chargers.get(run.levels.get("charger", ""))
    if charger is not None and charger.fan == "own":
        return True
    return run.levels.get("airflow") == OWN_FAN


def _block(block: Block, material: Material, asker: Asker) -> FindingSentence:
    """Advice on one phone: the one that is shown to be fastest of those that suit, or the cheapest of a tie."""
    tell, head = Telling(), for_whom([block])
    limit_hot = set(picked(block, material).passed_over)
    suits, dear, loud, unpriced = [], [], [], []
    for n in block.timed:
        price = _price(block, n)
        if n in limit_hot:
            continue
        if asker.quiet and _has_fan(block, n, material):
            loud.append(n)
        elif asker.budget is not None and price is None:
            unpriced.append(n)
        elif (
            asker.budget is not None
            and price is not None
            and (price[0] > asker.budget or (asker.currency and price[1] != asker.currency))
        ):
            dear.append(n)
        else:
            suits.append(n)
    key = f"advice|{block.key}"
    basis = "; ".join(
        f"left out, {why}: {listed([named(block.cells[n].label) for n in rows])}"
        for why, rows in (("over the budget", dear), ("with a fan", loud), ("price not known", unpriced))
        if rows
    )
    if not suits:
        return tell.sentence(key, f"{head}: *none of those compared suits*", basis)
    first = [n for n in suits if not any(block.beats(m, n) for m in suits)]
    words = f"{head}: "
    if len(first) == 1:
        n = first[0]
        words += f"{strong(block.cells[n].label)}, {tell(time_figure(block, n))}"
        rest = [m for m in suits if m != n]
        if rest:
            words += f", {tell(difference_figure(block, n, rest[0]))} sooner than {strong(block.cells[rest[0]].label)}"
    else:
        words += _tie(block, first, tell)
    words += _given_up(block, first, [*dear, *loud], tell)
    words += _thrift(block, first, tell)
    return tell.sentence(key, words, basis)


def _tie(block: Block, first: Sequence[int], tell: Telling) -> str:
    names = [strong(block.cells[n].label) for n in first]
    prices = {n: _price(block, n) for n in first}
    known = {n: p for n, p in prices.items() if p is not None}
    if len(known) < len(first) or len({p[1] for p in known.values()}) > 1:
        return f"*a tie* of {listed(names)}: either will do; not all prices are known"
    cheap, dearest = min(first, key=lambda n: known[n][0]), max(first, key=lambda n: known[n][0])
    figure = price_figure(block, dearest, cheap) if known[cheap][0] < known[dearest][0] else None
    if figure is None:
        return f"*a tie* of {listed(names)}, at one price: either will do"
    return f"*a tie* of {listed(names)}: buy the cheaper, {strong(block.cells[cheap].label)}, at {tell(figure)} less"


def _given_up(block: Block, first: Sequence[int], others: Sequence[int], tell: Telling) -> str:
    """Time that is given up by leaving out faster ones."""
    faster = [m for m in others if any(block.beats(m, n) for n in first)]
    if not faster:
        return ""
    best = min(faster, key=block.minutes)
    slow = next(n for n in first if block.beats(best, n))
    return f"; {strong(block.cells[best].label)} would be {tell(difference_figure(block, best, slow))} sooner"


def _thrift(block: Block, first: Sequence[int], tell: Telling) -> str:
    """Where another one is shown to take less energy than what is advised, that it does."""
    least = thriftiest(block).alone
    if least is None or least in first:
        return ""
    energy = energy_of(block, least)
    return (
        ""
        if energy is None
        else f"; least energy takes {strong(block.cells[least].label)}, {tell(energy_figure(block, least, energy))}"
    )


def _packs(blocks: Sequence[Block], material: Material, asker: Asker) -> list[FindingSentence]:
    """On the way: what each pack gives to the phones of that tier, what it weighs in money, and the cabin."""
    phones = {b.phone.casefold() for b in blocks}
    lines = []
    for pack in material.packs:
        if asker.budget is not None and (pack.price is None or pack.price[0] > asker.budget):
            continue
        tell = Telling()
        parts = []
        for one in pack.found.charges:
            if one.phone.casefold() not in phones and asker.tier:
                continue
            low, high = one.charges.low, one.charges.high
            text = f"{low:.1f} to {high:.1f}" if high != float("inf") else f"{low:.1f} or more"
            figure = Stated(
                f"advice|{pack.label}|{one.phone}|{one.way}".casefold(), text, "charges", one.charges.value, "charges",
                low, None if high == float("inf") else high, (pack.label,), "As measured, bounded by its gauge.",
            )  # fmt: skip
            parts.append(f"{tell(figure)} charges of {strong(one.phone or 'a phone')} by {one.way}")
        price = "" if pack.price is None else f"; {price_said(*pack.price)}"
        given = "; ".join(parts) or "*no charge of such a phone was measured*"
        delivered = pack.found.delivered
        basis = f"{cabin_class(pack.rated.wh)}" + (
            "" if delivered is None else f"; {plus_minus(delivered, 'Wh')} delivered"
        )
        lines.append(
            tell.sentence(f"advice|pack|{pack.label}".casefold(), f"{strong(pack.label)}: {given}{price}", basis)
        )
    return lines
