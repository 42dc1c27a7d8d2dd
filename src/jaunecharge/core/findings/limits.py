"""Limits of a finding: what was not tested, what its figures rest on, and the cautions that belong to it."""

from collections.abc import Sequence
from itertools import product

from ..packs.methods import pack_cautions
from ..safety import STOP_C, WARN_C
from ..units import MINUTE_S
from ..versus.sentences import mean_lap, spread_said, warnings_said, window_said
from ..versus.window import Window
from ..wording import counted, duration, temperature, threshold
from .block_figures import heat_figure
from .blocks import Block, Blocks
from .material import Material
from .telling import FindingSentence, Telling, begun, listed, named, strong
from .verdicts import hot_rows, key_of, too_hot

MOST_NAMED = 6


def method_said(blocks: Sequence[Block]) -> list[FindingSentence]:
    """The method: how many runs, under which conditions, over which window, and what spread they are judged by."""
    sentences = []
    for n, block in enumerate(blocks):
        runs = block.runs
        room = ""
        if block.room_c is not None:
            low, high = round(block.room_c[0]), round(block.room_c[1])
            room = f"a room of {low} °C" if low == high else f"a room of {low} to {high} °C"
        around = ", ".join(x for x in (block.where or "conditions not stated", room or "room not known") if x)
        over = f", compared {window_said(block.window)}" if block.window is not None else ""
        cards = sorted({r.card for r in runs if r.card})
        method = f", method {listed([f'“{named(c)}”' for c in cards])}" if cards else ""
        spread = "" if block.comparison is None else spread_said(block.comparison.timed)
        words = f"{strong(block.phone)}: {counted(len(runs), 'run')}, {around}{over}{method}"
        sentences.append(FindingSentence(key_of("method", block, str(n)), words, basis=spread))
    return sentences


def not_tested(found: Blocks, material: Material) -> list[FindingSentence]:
    """Gaps: runs of the plan that were not made, pairs without a run, conditions, percentages."""
    sentences = []
    open_runs = [w for w in material.wanted if w.to_come]
    dropped = [w for w in material.wanted if not w.to_come]
    for key, runs, word in (
        ("to come", open_runs, "Planned, not made yet"),
        ("dropped", dropped, "Planned and let go"),
    ):
        if runs:
            named_runs = list(dict.fromkeys(f"{strong(w.phone)} on {strong(w.said)}" for w in runs))
            sentences.append(FindingSentence(f"not tested|{key}", f"{word}: {_few(named_runs)}"))
    missing = _pairs_missing(found.blocks)
    if missing:
        sentences.append(FindingSentence("not tested|pairs", f"Never tried: {_few(missing)}"))
    sentences += _conditions(found.blocks)
    tops = sorted({b.window[1] for b in found.blocks if b.window is not None})
    if tops and tops[0] < 100:
        above = f"above {tops[0]:g} %" if len(tops) == 1 else f"above {tops[0]:g} to {tops[-1]:g} %"
        sentences.append(FindingSentence("not tested|window", f"Nothing is said of the charge {above}"))
    return sentences


def _few(names: Sequence[str]) -> str:
    shown = list(names[:MOST_NAMED])
    more = len(names) - len(shown)
    return listed([*shown, f"{counted(more, 'other')}"] if more else shown)


def _pairs_missing(blocks: Sequence[Block]) -> list[str]:
    """Phone and charger that never met, though both were used."""
    met: set[tuple[str, str]] = set()
    phones: dict[str, str] = {}
    chargers: dict[str, str] = {}
    for block in blocks:
        phones[block.phone.casefold()] = block.phone
        for run in block.runs:
            charger = run.levels.get("charger")
            if charger and run not in block.wired:
                chargers.setdefault(charger, run.factors["charger"])
                met.add((block.phone.casefold(), charger))
    if len(phones) < 2:
        return []
    return [f"{strong(phones[p])} on {strong(chargers[c])}" for p, c in product(phones, chargers) if (p, c) not in met]


def _conditions(blocks: Sequence[Block]) -> list[FindingSentence]:
    """Conditions that all runs share: nothing is known of others."""
    sentences = []
    where = {b.where for b in blocks if b.where}
    rooms = [b.room_c for b in blocks if b.room_c is not None]
    if len(where) == 1:
        said = f"Only {next(iter(where))}"
        if rooms:
            low, high = round(min(r[0] for r in rooms)), round(max(r[1] for r in rooms))
            said += f", at {low} °C" if low == high else f", at {low} to {high} °C"
        sentences.append(FindingSentence("not tested|conditions", f"{said}: other conditions may tell otherwise"))
    return sentences


def limits_said(found: Blocks, material: Material) -> list[FindingSentence]:
    """Limits of the figures, and runs that were left out, with the reason."""
    sentences = []
    tiers: dict[str, list[str]] = {}
    for block in found.blocks:
        if block.tier is not None and block.comparison is not None:
            tiers.setdefault(block.tier.said, []).append(block.phone)
    alone = [f"{tier} ({named(phones[0])})" for tier, phones in tiers.items() if len(set(phones)) == 1]
    if alone:
        words = f"One phone stands for each of these: {listed(alone)}; others that take as much may differ"
        sentences.append(FindingSentence("limits|phones", words))
    for n, block in enumerate(found.blocks):
        if block.comparison is None:
            continue
        for k, warning in enumerate(warnings_said(block.comparison)):
            words = f"{strong(block.phone)}: {named(warning).removesuffix('.')}"
            sentences.append(FindingSentence(f"limits|{n}|{k}", words))
    left = [(x.run.label, x.why) for b in found.blocks for x in b.left] + [(x.run.label, x.why) for x in found.left]
    for n, (label, why) in enumerate(left[: 3 * MOST_NAMED]):
        sentences.append(FindingSentence(f"limits|left|{n}", f"Left out: {named(label)}: {named(why)}"))
    if len(left) > 3 * MOST_NAMED:
        sentences.append(
            FindingSentence("limits|left|more", f"{counted(len(left) - 3 * MOST_NAMED, 'more run')} left out")
        )
    return sentences


def cautions_said(blocks: Sequence[Block], material: Material) -> list[FindingSentence]:
    """Cautions: what got hot, what a charger or pack asks for, and what comes back on after a test."""
    sentences, fahrenheit = [], material.fahrenheit
    for block in blocks:
        for n, warmth in hot_rows(block):
            tell = Telling()
            hot = tell(heat_figure(block, n, warmth, fahrenheit))
            limit = STOP_C if too_hot(warmth.warm.hottest_c) else WARN_C
            what = "stop and separate at" if limit == STOP_C else "charging guidance (JEITA) ends full-rate charging at"
            pair = f"{strong(block.phone)} on {strong(block.cells[n].label)}"
            words = f"{pair} reached {hot}: {what} {threshold(limit, fahrenheit)}"
            sentences.append(tell.sentence(key_of("caution", block, block.cells[n].label), words))
    whole = [
        (r, r.course.warm.hottest_c)
        for b in blocks
        for r in (*b.single, *b.wired)
        if r.course.warm is not None and r.course.warm.hottest_c >= WARN_C
    ]
    for run, celsius in whole:
        words = (
            f"{named(run.label)} reached {temperature(celsius, fahrenheit)}: charging guidance (JEITA) ends full-rate"
        )
        sentences.append(
            FindingSentence(f"caution|run|{run.key}", f"{words} charging at {threshold(WARN_C, fahrenheit)}")
        )
    fixed = [
        "Stop and separate phone and charger at swelling, smell, smoke, hiss, or a surface that you cannot hold",
        "Keep magnets and coils 15 cm or more from implants (common advice) and away from cards; nothing metal between",
        "Never leave a charger or pack unattended on its first run; put it on what does not burn",
        "Put charge limits and optimised charging back on after a test",
    ]
    packs = list(dict.fromkeys(c.rstrip(".") for p in material.packs for c in pack_cautions(p.rated)))
    return [*sentences, *(FindingSentence(f"caution|{n}", x) for n, x in enumerate([*fixed, *packs]))]


def wired_said(block: Block, window: Window) -> str:
    """Time by wire on the same phone under the same conditions, in words; empty where none was run."""
    from ..versus.compare import timed
    from ..versus.repeats import Repeats

    if not block.wired:
        return ""
    times = timed([Repeats("wired", "by wire", block.wired)], window)
    lap = mean_lap(times.laps[0])
    return "" if lap is None else duration(lap[1] * MINUTE_S)


def foreign_said(material: Material) -> list[FindingSentence]:
    """Figures of others: marked, and in no reckoning."""
    return [
        FindingSentence(
            f"foreign|{n}", begun(f"{named(f.what)}: {named(f.figure)}"), basis=f"{f.source} {f.date}".strip()
        )
        for n, f in enumerate(material.foreign)
    ]
