"""The answer to a question: for each tier of phone which charger, or between which no difference is shown."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from ..versus.sentences import window_said
from ..wording import threshold
from .bests import price_between, warmths
from .block_figures import difference_figure, heat_figure, price_figure, time_figure, times_figure
from .blocks import Block
from .material import Material
from .telling import FindingSentence, Telling, listed, named, strong
from .verdicts import key_of

Outcome = Literal["shown", "tie", "alone", "too hot", "nothing"]


@dataclass(frozen=True)
class Picked:
    """Answer of a block. rows : those that may be the one, the soonest first; outcome : one is shown, several tie,
    only one was run, all got too hot, or nothing can be said; passed_over : faster ones that got too hot; unwatched :
    rows of which nobody knows how hot they got, where the question asks."""

    block: Block
    rows: tuple[int, ...]
    outcome: Outcome
    passed_over: tuple[int, ...] = ()
    unwatched: tuple[int, ...] = ()


def picked(block: Block, material: Material) -> Picked:
    """The row of a block that answers the question, or those among which it cannot be told."""
    if block.comparison is None:
        return Picked(block, (), "alone" if block.single else "nothing")
    limit, known = material.question.limit_c, warmths(block)
    hot, unwatched = [], []
    if limit is not None:
        hot = [n for n in block.timed if n in known and known[n].warm.hottest_c >= limit]
        unwatched = [n for n in block.timed if n not in known]
    fit = [n for n in block.timed if n not in hot]
    if not fit:
        return Picked(block, (), "too hot" if hot else "nothing", tuple(hot))
    first = tuple(n for n in fit if not any(block.beats(m, n) for m in fit))
    faster = tuple(h for h in hot if any(block.beats(h, n) for n in first))
    return Picked(block, first, "shown" if len(first) == 1 else "tie", faster, tuple(unwatched))


def answers(blocks: Sequence[Block], material: Material) -> list[FindingSentence]:
    """The answer, a sentence for each group of phones: those whose one winner is the same are told together."""
    mains = _main(blocks)
    found = [picked(block, material) for block in mains]
    sentences, done = [], set[int]()
    for i, one in enumerate(found):
        if i in done:
            continue
        same = [j for j in range(i, len(found)) if j not in done and _same(one, found[j])]
        done.update(same)
        sentences.append(_said([found[j] for j in same], material))
    if not sentences:
        sentences.append(FindingSentence("answer|none", "Nothing to compare yet: *no runs* with a phone and a charger"))
    return sentences


def _main(blocks: Sequence[Block]) -> list[Block]:
    """The block of each phone that says most: the first with a comparison, else the first."""
    by_phone: dict[str, Block] = {}
    for block in blocks:
        key = block.phone.casefold()
        if key not in by_phone or (by_phone[key].comparison is None and block.comparison is not None):
            by_phone[key] = block
    return list(by_phone.values())


def _winner(one: Picked) -> str:
    return one.block.cells[one.rows[0]].label.casefold() if one.outcome == "shown" else ""


def _same(a: Picked, b: Picked) -> bool:
    if a is b:
        return True
    plain = not (a.passed_over or b.passed_over or a.unwatched or b.unwatched)
    alike = a.block.window == b.block.window and a.block.where == b.block.where
    return plain and alike and bool(_winner(a)) and _winner(a) == _winner(b)


def for_whom(blocks: Sequence[Block]) -> str:
    """`For phones that take 12 W, magnetic (Ostrel Mini)`, or `On Fen 5`."""
    phones = listed([named(b.phone) for b in blocks])
    tiers = list(dict.fromkeys(b.tier.said for b in blocks if b.tier is not None))
    if len({b.phone.casefold() for b in blocks if b.tier is None}):
        return f"On {phones}"
    return f"For phones that take {listed(tiers, 'or')} (tested: {phones})"


def _said(group: Sequence[Picked], material: Material) -> FindingSentence:
    one, tell = group[0], Telling()
    block, head = one.block, for_whom([p.block for p in group])
    key = key_of("answer", block)
    over = {window_said(p.block.window) for p in group if p.block.window is not None}
    basis = ", ".join([*sorted(over), *dict.fromkeys(p.block.where for p in group if p.block.where)])
    if one.outcome == "nothing":
        return tell.sentence(key, f"{head}: *nothing can be said*, no two runs compare", basis)
    if one.outcome == "alone":
        names = list(dict.fromkeys(strong(r.factors.get("charger", r.label)) for r in block.single))
        return tell.sentence(key, f"{head}: only {listed(names)} was run, *nothing to compare it with*", basis)
    if one.outcome == "too hot":
        return _too_hot(one, material, tell, head, key, basis)
    words = _shown(group, material, tell) if one.outcome == "shown" else _tie(one, material, tell)
    return tell.sentence(key, f"{head}: {words}{_heat(group, material, tell)}", basis)


def _shown(group: Sequence[Picked], material: Material, tell: Telling) -> str:
    one = group[0]
    block, n = one.block, one.rows[0]
    name = strong(block.cells[n].label)
    if len(group) > 1:
        return f"{name} is fastest, in {tell(times_figure([(p.block, p.rows[0]) for p in group]))}"
    rest = [m for m in block.timed if m != n and m not in one.passed_over]
    beaten = [m for m in rest if block.beats(n, m)]
    time = tell(time_figure(block, n))
    if not beaten:
        return f"{name}, {time}"
    by = tell(difference_figure(block, n, beaten[0]))
    return f"{name} is fastest, in {time}, {by} sooner than {strong(block.cells[beaten[0]].label)}"


def _tie(one: Picked, material: Material, tell: Telling) -> str:
    block = one.block
    names = {n: strong(block.cells[n].label) for n in one.rows}
    cheap = _cheaper(one)
    price = None if cheap is None else price_figure(block, cheap[1], cheap[0])
    if cheap is None or price is None or _advised(one, material) is None:
        apart = tell(difference_figure(block, one.rows[0], one.rows[-1]))
        words = f"*no difference shown* between {listed(list(names.values()))} ({apart} apart)"
        return words if cheap is None or price is None else f"{words}; {names[cheap[0]]} costs {tell(price)} less"
    rest = [n for n in one.rows if n != cheap[0]]
    apart = tell(
        difference_figure(block, cheap[0], max(rest, key=lambda n: abs(block.minutes(n) - block.minutes(cheap[0]))))
    )
    to = listed([names[n] for n in rest], "or")
    words = f"buy {names[cheap[0]]}, no difference shown to {to} ({apart})"
    dearer = "" if len(rest) == 1 else " than the dearest of them"
    return f"{words}, at {tell(price)} less{dearer}"


def _advised(one: Picked, material: Material) -> int | None:
    """The row of a tie that a buyer is told to take: the cheapest of it, where another costs more."""
    cheap = _cheaper(one) if one.outcome == "tie" and material.audience != "engineer" else None
    if cheap is None:
        return None
    return cheap[0] if price_figure(one.block, cheap[1], cheap[0]) is not None else None


def _cheaper(one: Picked) -> tuple[int, int] | None:
    """The cheapest and the dearest of a tie, where all prices are known."""
    block, dearest = one.block, one.rows[0]
    for n in one.rows:
        prices = {m: price_between(block, m, n) for m in one.rows if m != n}
        if any(p is None or p[0] < 0 for p in prices.values()):
            continue
        dearest = max(prices, key=lambda m: (prices[m] or (0.0, ""))[0])
        return n, dearest
    return None


def _heat(group: Sequence[Picked], material: Material, tell: Telling) -> str:
    """Heat of the picked ones, where the question asks; and what was faster but too hot."""
    limit = material.question.limit_c
    if limit is None:
        return ""
    under, words = threshold(limit, material.fahrenheit), ""
    hottest = [
        (p.block, n, w)
        for p in group
        for n in p.rows
        if (w := warmths(p.block).get(n)) is not None
    ]  # fmt: skip
    unwatched = [n for p in group for n in p.rows if n in p.unwatched]
    advised = _advised(group[0], material) if len(group) == 1 else None
    if hottest:
        of_it = [x for x in hottest if x[1] == advised]
        block, n, warmth = max(of_it or hottest, key=lambda x: x[2].warm.hottest_c)
        words += f"; hottest reading {tell(heat_figure(block, n, warmth, material.fahrenheit))}"
        if not of_it and len({p.block.cells[k].label for p in group for k in p.rows}) > 1:
            words += f" on {strong(block.cells[n].label)}"
    if unwatched:
        names = list(dict.fromkeys(strong(p.block.cells[n].label) for p in group for n in p.rows if n in p.unwatched))
        words += f"; whether {listed(names)} stayed under {under} *is not known*: no temperature was logged"
    for p in group:
        for n in p.passed_over:
            hot = tell(heat_figure(p.block, n, warmths(p.block)[n], material.fahrenheit))
            words += f"; {strong(p.block.cells[n].label)} is faster but reached {hot}"
    return words


def _too_hot(one: Picked, material: Material, tell: Telling, head: str, key: str, basis: str) -> FindingSentence:
    block, known = one.block, warmths(one.block)
    assert material.question.limit_c is not None
    least = min(one.passed_over, key=lambda n: known[n].warm.hottest_c)
    under = threshold(material.question.limit_c, material.fahrenheit)
    coolest = (
        f"{strong(block.cells[least].label)}, {tell(heat_figure(block, least, known[least], material.fahrenheit))}"
    )
    return tell.sentence(key, f"{head}: *none stayed under {under}*; the coolest was {coolest}", basis)
