"""The draft of a finding: answer, verdicts, claims, method, what was not tested, limits, cautions, what next."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..measured import Measured
from ..versus.compare import Versus
from ..versus.ranking import place_said
from .answer import answers, picked
from .bests import warmths
from .block_figures import energy_of
from .blocks import Block, Blocks, blocks_of
from .claim_rows import ClaimRow, claim_rows
from .limits import cautions_said, foreign_said, limits_said, method_said, not_tested, wired_said
from .material import Material
from .next_run import NextRun, next_runs, next_said
from .pack_words import pack_sentences
from .telling import FindingSentence
from .verdicts import purposes, verdict


@dataclass(frozen=True)
class DraftRow:
    """A charger of a block. runs : keys, the one nearest their mean first; place, minutes [min], noise_min [min],
    hottest_c [°C], energy [Wh], price as far as they are known."""

    label: str
    runs: tuple[str, ...]
    place: str
    minutes: float
    noise_min: float
    hottest_c: float | None
    energy: Measured | None
    price: tuple[float, str] | None
    verdict: FindingSentence


@dataclass(frozen=True)
class DraftBlock:
    """A phone under like conditions. tier : what it takes, in words; where : its conditions; window : (from, to) [%];
    wired : time by wire in words; rows : the chargers, the soonest first; best : for each purpose."""

    phone: str
    tier: str
    where: str
    window: tuple[float, float] | None
    wired: str
    rows: tuple[DraftRow, ...]
    best: tuple[FindingSentence, ...]
    alone: tuple[str, ...]


@dataclass(frozen=True)
class Draft:
    """A finding as it was drawn up. settled : whether each phone has one answer that no planned run could change."""

    answer: tuple[FindingSentence, ...]
    blocks: tuple[DraftBlock, ...]
    packs: tuple[FindingSentence, ...]
    claims: tuple[ClaimRow, ...]
    foreign: tuple[FindingSentence, ...]
    method: tuple[FindingSentence, ...]
    not_tested: tuple[FindingSentence, ...]
    limits: tuple[FindingSentence, ...]
    cautions: tuple[FindingSentence, ...]
    next: tuple[FindingSentence, ...]
    state: str

    @property
    def sentences(self) -> tuple[FindingSentence, ...]:
        """Every sentence that can be edited, in the order of the page."""
        return (
            *self.answer,
            *(s for b in self.blocks for s in (*(r.verdict for r in b.rows), *b.best)),
            *self.packs, *(c.sentence for c in self.claims), *self.foreign, *self.method, *self.not_tested,
            *self.limits, *self.cautions, *self.next,
        )  # fmt: skip


def draft(material: Material, drains: Mapping[str, float] | None = None) -> Draft:
    """A finding, drawn up by rules from its material.

    Parameters
    ----------
    material : Material
    drains : mapping of phone (without capitals) to minutes
        That draining and cooling take.
    """
    found = blocks_of(material)
    worth = next_runs(found.blocks, material, drains or {})
    return Draft(
        tuple(answers(found.blocks, material)),
        tuple(_block(b, material) for b in found.blocks),
        tuple(pack_sentences(material)),
        tuple(claim_rows(found.blocks, material)),
        tuple(foreign_said(material)),
        tuple(method_said(found.blocks)),
        tuple(not_tested(found, material)),
        tuple(limits_said(found, material)),
        tuple(cautions_said(found.blocks, material)),
        tuple(next_said(worth)),
        state_said(found, material, worth),
    )


def _block(block: Block, material: Material) -> DraftBlock:
    rows = () if block.comparison is None else tuple(_row(block, block.comparison, n, material) for n in block.timed)
    alone = dict.fromkeys(r.factors.get("charger", r.label) for r in block.single)
    return DraftBlock(
        block.phone, "" if block.tier is None else block.tier.said, block.where, block.window,
        "" if block.window is None else wired_said(block, block.window), rows,
        tuple(s for _, s in purposes(block, material)) if rows else (), tuple(alone),
    )  # fmt: skip


def _row(block: Block, comparison: Versus, n: int, material: Material) -> DraftRow:
    warm = warmths(block).get(n)
    keys = list(block.runs_of(n))
    typical = comparison.cells[n].runs[comparison.timed.typical(n)].key
    keys.sort(key=lambda k: k != typical)
    return DraftRow(
        comparison.cells[n].label, tuple(keys),
        place_said(comparison.rank[n], comparison.last_rank[n], comparison.ranked), block.minutes(n),
        comparison.timed.own_noise(n), None if warm is None else warm.warm.hottest_c, energy_of(block, n),
        comparison.cells[n].first.prices.get("charger"), verdict(block, n, material),
    )  # fmt: skip


def state_said(found: Blocks, material: Material, worth: Sequence[NextRun]) -> str:
    """Progress of the answer, in a few words."""
    to_come = sum(w.to_come for w in material.wanted)
    picks = [picked(b, material) for b in found.blocks if b.comparison is not None]
    if not picks:
        return "nothing to compare yet"
    if to_come:
        return f"{to_come} {'run' if to_come == 1 else 'runs'} to come"
    if all(p.outcome == "shown" for p in picks):
        return "answered"
    if any(p.outcome == "shown" for p in picks):
        return "answered for some phones"
    return "a tie" if all(p.outcome == "tie" for p in picks) else "not settled"
