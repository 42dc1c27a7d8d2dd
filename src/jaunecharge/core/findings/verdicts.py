"""The verdict on every charger of a block in a few words, and the best of the block for each purpose."""

from ..safety import STOP_C, WARN_C
from ..versus.sentences import HEAT_NOISE_K
from ..wording import counted, temperature_rise, threshold
from .bests import PURPOSES, Best, Purpose, RowHeat, bests_of, nights, price_between, warmths
from .block_figures import (
    cooler_figure,
    difference_figure,
    energy_figure,
    energy_of,
    heat_figure,
    night_figure,
    price_figure,
    time_figure,
)
from .blocks import Block, bundle_said, unknown_said
from .material import Material
from .telling import FindingSentence, Telling, begun, listed, strong

NO_DIFFERENCE_TO = "no difference shown to"


def key_of(kind: str, block: Block, label: str = "") -> str:
    """Key of a sentence about a block, or about one of its rows."""
    return "|".join([kind, block.key, label]).casefold()


def verdict(block: Block, n: int, material: Material) -> FindingSentence:
    """The verdict on a row: sooner or later than what, what else to know, and what to buy in a tie."""
    tell, parts, notes = Telling(), [], []
    faster = [m for m in block.timed if block.beats(m, n)]
    slower = [m for m in block.timed if block.beats(n, m)]
    level = [m for m in block.timed if m != n and m not in faster and m not in slower]
    against: int | None = None
    if not faster and not level and slower:
        against = slower[0]
        by = tell(difference_figure(block, n, against))
        parts.append(f"{by} sooner than {strong(block.cells[against].label)}")
    elif faster:
        against = faster[0]
        by = tell(difference_figure(block, n, against))
        parts.append(f"{by} later than {strong(block.cells[against].label)}")
    elif level:
        against = min(level, key=lambda m: abs(block.minutes(m) - block.minutes(n)))
        names = strong(block.cells[against].label)
        if len(level) > 1:
            names += f" and {counted(len(level) - 1, 'other')}"
        parts.append(f"{NO_DIFFERENCE_TO} {names}, {tell(difference_figure(block, n, against))}")
    else:
        parts.append("no time over this window")
    parts += _heat_words(block, n, material, tell)
    parts += _price_words(block, n, tell)
    if against is not None:
        pair = block.pair(n, against)
        notes = [x for x in (bundle_said(pair), unknown_said(pair), *pair.apart.order) if x]
    return tell.sentence(key_of("verdict", block, block.cells[n].label), begun("; ".join(parts)), "; ".join(notes))


def _heat_words(block: Block, n: int, material: Material, tell: Telling) -> list[str]:
    known = warmths(block)
    limit = material.question.limit_c
    if n not in known:
        return ["no temperature logged"] if limit is not None and n in block.timed else []
    fahrenheit, hottest_c = material.fahrenheit, known[n].warm.hottest_c
    heat = heat_figure(block, n, known[n], fahrenheit)
    if limit is not None and hottest_c >= limit:
        return [f"reached {tell(heat)}, over {threshold(limit, fahrenheit)}"]
    if hottest_c >= WARN_C:
        return [f"reached {tell(heat)}"]
    words = [f"hottest {tell(heat)}"] if limit is not None else []
    if len(known) > 1 and (cooler := _coolest_by(known, n)) is not None:
        by = tell(cooler_figure(block, n, cooler, known, fahrenheit))
        words.append(f"cooler by {by} than {strong(block.cells[cooler].label)}")
    return words


def _coolest_by(known: dict[int, RowHeat], n: int) -> int | None:
    """The next hotter row, where this one is shown to be the coolest of all."""
    others = sorted((m for m in known if m != n), key=lambda m: known[m].value)
    return others[0] if known[others[0]].value - known[n].value > HEAT_NOISE_K else None


def _price_words(block: Block, n: int, tell: Telling) -> list[str]:
    """In a tie, what the cheapest of those that share a place costs less than the one it ties with."""
    ties = [m for m in block.timed if m != n and not block.beats(m, n) and not block.beats(n, m)]
    if not ties or any(block.beats(m, n) for m in block.timed):
        return []
    apart = [(m, p) for m in ties if (p := price_between(block, m, n)) is not None]
    if len(apart) < len(ties) or any(p[0] < 0 for _, p in apart):
        return []
    dearest = max(apart, key=lambda x: x[1][0])[0]
    figure = price_figure(block, dearest, n)
    return [] if figure is None else [f"{tell(figure)} less than {strong(block.cells[dearest].label)}: buy this one"]


def purposes(block: Block, material: Material) -> list[tuple[Purpose, FindingSentence]]:
    """The best for every purpose, each in one sentence; ties and what nobody can say are answers."""
    return [(purpose, _best_said(block, best, material)) for purpose, best in bests_of(block, material).items()]


def _best_said(block: Block, best: Best, material: Material) -> FindingSentence:
    tell, head, key = Telling(), PURPOSES[best.purpose], key_of(best.purpose, block)
    if not best.rows:
        return tell.sentence(key, f"{head}: *cannot be told*, {best.why_not}")
    names = [strong(block.cells[n].label) for n in best.rows]
    if best.purpose == "cheapest":
        return _cheapest_said(block, best, tell, key, names)
    figures = [x for n in best.rows if (x := _figure(block, n, best.purpose, material, tell))]
    if len(names) == 1:
        basis = _standing_by(block, material) if best.purpose == "small battery" else ""
        return tell.sentence(key, f"{head}: {names[0]}, {figures[0]}", basis)
    within = f"no difference shown between {listed(names)}"
    basis = ""
    if best.purpose == "coolest":
        basis = f"a probe repeats within {temperature_rise(HEAT_NOISE_K, material.fahrenheit)}"
    elif best.purpose == "small battery":
        basis = _standing_by(block, material)
    return tell.sentence(key, f"{head}: {within} ({', '.join(figures)})", basis)


def _figure(block: Block, n: int, purpose: Purpose, material: Material, tell: Telling) -> str:
    if purpose == "fastest":
        return tell(time_figure(block, n))
    if purpose == "coolest":
        known = warmths(block)
        if known[n].over_room:
            return f"{tell(heat_figure(block, n, known[n], material.fahrenheit))} in its own room"
        return tell(heat_figure(block, n, known[n], material.fahrenheit))
    if purpose == "thriftiest":
        energy = energy_of(block, n)
        return "" if energy is None else tell(energy_figure(block, n, energy))
    night = nights(block, material).get(n)
    return "" if night is None else tell(night_figure(block, n, night))


def _standing_by(block: Block, material: Material) -> str:
    if all(x.standby_wh is not None for x in nights(block, material).values()):
        return f"a charge and {material.habits.full_h:g} h after full"
    return "the charge alone: the draw after full was not metered for all of them"


def _cheapest_said(block: Block, best: Best, tell: Telling, key: str, names: list[str]) -> FindingSentence:
    head = PURPOSES["cheapest"]
    if len(best.rows) > 1:
        return tell.sentence(key, f"{head}: {listed(names)} cost the same")
    n = best.rows[0]
    others = [m for m in block.timed if m != n and not block.beats(n, m)]
    if not others:
        return tell.sentence(key, f"{head}: {names[0]}, as all others are slower")
    dearest = max(others, key=lambda m: (price_between(block, m, n) or (0.0, ""))[0])
    figure = price_figure(block, dearest, n)
    less = "" if figure is None else f", {tell(figure)} less than {strong(block.cells[dearest].label)}"
    return tell.sentence(key, f"{head}: {names[0]}{less}")


def hot_rows(block: Block) -> list[tuple[int, RowHeat]]:
    """Rows of which the phone came to where charging guidance ends full-rate charging, the hottest first."""
    hot = [(n, w) for n, w in warmths(block).items() if w.warm.hottest_c >= WARN_C]
    return sorted(hot, key=lambda x: -x[1].warm.hottest_c)


def too_hot(celsius: float) -> bool:
    """Whether a phone was so hot that charging should have been stopped."""
    return celsius >= STOP_C
