"""The run that would tell most for each hour: where it is not settled which charger is first, from the noise so far."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from ..noise import Forward
from ..units import MINUTE_S
from ..wording import counted, duration
from .answer import picked
from .blocks import Block
from .material import Material, WantedRun
from .telling import FindingSentence, Stated, Telling, named, strong

DRAIN_MIN = 150.0
"""Minutes that a phone takes to drain and cool before a run, where no plan knows better (own choice)."""

MOST_MORE = 6
LEAST_GAIN = 0.05
"""Less of a chance than this that a run settles anything is not worth an afternoon (own choice)."""


@dataclass(frozen=True)
class NextRun:
    """A run that would tell much. chance : that it settles what is open; hours : that it takes, the drain included;
    more : runs of each side until a difference of the size seen would show with 80 % probability, None where even many
    would not."""

    phone: str
    charger: str
    why: str
    chance: float
    hours: float
    more: int | None

    @property
    def per_hour(self) -> float:
        return self.chance / self.hours


def next_runs(blocks: Sequence[Block], material: Material, drains: Mapping[str, float] = {}) -> list[NextRun]:
    """Runs worth making, that which tells most for each hour first.

    Parameters
    ----------
    blocks : sequence of Block
    material : Material
    drains : mapping of phone (without capitals) to minutes
        That draining and cooling take, where it is known.
    """
    found: list[NextRun] = []
    for block in blocks:
        extra = drains.get(block.phone.casefold(), DRAIN_MIN)
        found += _undecided(block, material, extra)
        found += _unwatched(block, material, extra)
    found += [_planned(w) for w in _never_run(material.wanted, blocks)]
    best: dict[tuple[str, str], NextRun] = {}
    for run in found:
        key = (run.phone.casefold(), run.charger.casefold())
        if key not in best or run.per_hour > best[key].per_hour:
            best[key] = run
    return sorted((r for r in best.values() if r.chance >= LEAST_GAIN), key=lambda r: -r.per_hour)


def _undecided(block: Block, material: Material, extra_min: float) -> list[NextRun]:
    """Of rows that tie for first place: how likely one more run of either settles it."""
    pick = picked(block, material)
    if pick.outcome != "tie" or block.comparison is None:
        return []
    times = block.comparison.timed
    runs = []
    lead = pick.rows[0]
    for other in pick.rows[1:]:
        gap = block.minutes(other) - block.minutes(lead)
        if gap <= 0.0:
            continue
        more = times.repeats_to_settle(lead, other)
        for n, label in ((lead, block.cells[lead].label), (other, block.cells[other].label)):
            chance = _chance(block, lead, other, n, gap)
            hours = (block.minutes(n) + extra_min) / 60.0
            why = f"{named(block.cells[lead].label)} and {named(block.cells[other].label)} are not told apart"
            runs.append(NextRun(block.phone, label, why, chance, hours, more))
    return runs


def _chance(block: Block, lead: int, other: int, more_of: int, gap: float) -> float:
    """Probability that one more run of a row shows a difference of the size that was seen."""
    assert block.comparison is not None
    times = block.comparison.timed
    counts = {n: int(times.sides.runs[n]) + (n == more_of) for n in (lead, other)}
    spread = times.spread(lead, other)
    # Measured spread and assumption together are what the next run is added to.
    assumed = replace(spread, assumed=spread.share, assumed_dof=spread.dof, measured=0.0, measured_dof=0.0)
    variance = float(max(times.sides.interval_var[lead], times.sides.interval_var[other]))
    forward = Forward(
        block.minutes(other), (counts[other], counts[lead]), variance * spread.interval_weight, assumed, 1.0
    )
    return forward.power(gap)


def _unwatched(block: Block, material: Material, extra_min: float) -> list[NextRun]:
    """Rows in the running of which nobody knows how hot they got, where the question asks."""
    pick = picked(block, material)
    return [
        NextRun(
            block.phone, block.cells[n].label, "no temperature was logged with it", 1.0,
            (block.minutes(n) + extra_min) / 60.0, 1,
        )
        for n in pick.rows
        if n in pick.unwatched
    ]  # fmt: skip


def _never_run(wanted: Sequence[WantedRun], blocks: Sequence[Block]) -> list[WantedRun]:
    """Planned runs of a phone on a charger that was never run, once each."""
    made = {(b.phone.casefold(), r.label.casefold()) for b in blocks for c in b.cells for r in c.runs}
    made |= {(b.phone.casefold(), r.levels.get("charger", "")) for b in blocks for r in b.runs}
    seen: dict[tuple[str, str], WantedRun] = {}
    for run in wanted:
        key = (run.phone.casefold(), run.said.casefold())
        if run.to_come and key not in made:
            seen.setdefault(key, run)
    return list(seen.values())


def _planned(run: WantedRun) -> NextRun:
    return NextRun(run.phone, run.said, "planned, and never run", 1.0, max(0.1, run.minutes / 60.0), None)


def next_said(runs: Sequence[NextRun]) -> list[FindingSentence]:
    """The next run in one sentence; that nothing would tell much more is an answer too."""
    if not runs:
        return [FindingSentence("next|none", "No further run would be likely to change this answer")]
    best, tell = runs[0], Telling()
    hours = Stated(
        "next|hours", duration(best.hours * 60.0 * MINUTE_S), "time", best.hours * 60.0, "min",
        how="The run as it took so far or is expected to take, with draining and cooling before it.",
    )  # fmt: skip
    words = f"Next, run {strong(best.phone)} on {strong(best.charger)}, {tell(hours)} with its drain: {best.why}"
    if best.chance < 1.0:
        chance = Stated(
            "next|chance", f"{best.chance * 100:.0f} %", "percent", best.chance * 100.0, "%",
            how="Probability that one more run shows a difference as large as the one seen: the rule of the noise, run"
            " forward.",
        )  # fmt: skip
        words += f"; it settles that with {tell(chance)} probability"
    basis = ""
    if best.more is not None and best.chance < 1.0:
        basis = f"{counted(best.more, 'more run')} of each would, with 80 % probability"
    elif best.more is None and best.chance < 1.0:
        basis = "even many more runs may not: the two are that close"
    return [tell.sentence("next|run", words, basis)]
