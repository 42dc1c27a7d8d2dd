"""Subject of the drawings of a finding, from the store."""

from collections.abc import Mapping

from sqlalchemy.orm import Session

from ...core.chain import chain_of_kit, check
from ...core.errors import CannotRead
from ...core.kit import Kit
from ...core.units import MINUTE_S
from ...documents.finding import FindingBlock, FindingRow
from ...documents.run_summary import RunSummary
from ...formats.drawings.subject import DrawnChain, DrawnLink, DrawnPack, DrawnPhone, DrawnRow, Subject
from .. import models as m
from ..finding_models import Finding
from ..runs.readings import kit_used
from .material import pack_seen, run_ids, runs_of

FACTORS = ("phone", "charger", "adapter", "cable", "case")
MOST_CHAINS = 5


def subject_of(session: Session, found: Finding) -> Subject:
    """All that is drawn of a finding: its rows by their typical runs as they are now, its packs, its chains."""
    runs = {str(r.id): r for r in runs_of(session, run_ids(session, found.document))}
    blocks = [b for b in found.draft.blocks if b.rows and b.window is not None]
    phones = tuple(p for b in blocks if (p := _phone(b, runs)).rows)
    used = sum(len(r.runs) for b in blocks for r in b.rows)
    foot = f"Jaunecharge, {found.drawn_at:%d %B %Y}, {used} runs".replace(" 0", " ")
    packs = tuple(DrawnPack(p.label, p.found.stages) for p in pack_seen(session, found.document.packs))
    return Subject(found.question, foot, phones, packs, _chains(blocks, runs), found.document.degrees == "F")


def _phone(block: FindingBlock, runs: Mapping[str, m.Run]) -> DrawnPhone:
    rows = tuple(_row(row, runs[row.runs[0]].summary) for row in block.rows if row.runs and row.runs[0] in runs)
    low, high = block.window or (0.0, 100.0)
    return DrawnPhone(block.phone, block.tier, block.where, (low, high), rows)


def _row(row: FindingRow, summary: RunSummary) -> DrawnRow:
    course = summary.course.course() if summary.course is not None else None
    readings = None if course is None else course.readings
    table = () if readings is None else zip(readings.time_s.tolist(), readings.percent.tolist(), strict=True)
    return DrawnRow(
        row.label, summary.ribbon, tuple((t / MINUTE_S, p) for t, p in table), row.minutes, row.noise_min, row.place,
        {x.percent: (x.earliest, x.estimate, x.latest) for x in summary.milestones}, row.hottest_c,
        None if row.price is None else (row.price, row.currency),
    )  # fmt: skip


def _chains(blocks: list[FindingBlock], runs: Mapping[str, m.Run]) -> tuple[DrawnChain, ...]:
    """The chain of each charger on the first phone, as it was run."""
    chains = []
    for row in blocks[0].rows[:MOST_CHAINS] if blocks else ():
        run = runs.get(row.runs[0]) if row.runs else None
        if run is None:
            continue
        try:
            kit: dict[str, Kit] = {f: item for f in FACTORS if (item := kit_used(run, f)) is not None}
            chain = chain_of_kit(kit, run.factors.get("place", ""))
            if chain is None or chain.charger is None:
                continue
            checked = check(chain)
        except CannotRead:
            continue  # Kit of long ago that cannot be read leaves out this one drawing.
        links = tuple(DrawnLink(x.link, x.passes_w, x.flows_w, x.label) for x in checked.links)
        chains.append(DrawnChain(f"{row.label} with {blocks[0].phone}", links, checked.narrowest))
    return tuple(chains)
