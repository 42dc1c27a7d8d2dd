"""Claims of makers and sellers against what was measured: supported, not supported, or cannot be told, and by which
reading of the claim."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from ..errors import CannotRead
from ..kit.items import Charger
from ..units import from_fahrenheit
from ..versus.claims import Checked, check_cell, check_pair, read_claim
from ..versus.contender import Contender
from ..versus.run_names import charger_name
from ..versus.sentences import HEAT_NOISE_K, window_said
from ..wording import counted, plus_minus, temperature, threshold
from .blocks import Block
from .material import ClaimTyped, Material, OutputSeen, PackSeen
from .telling import FindingSentence, Stated, Telling, named, strong

Found = Literal["supported", "not supported", "cannot be told"]

_WATTS = re.compile(r"(?<![\d.,])(\d+(?:[.,]\d+)?)\s*w(?:atts?)?\b", re.IGNORECASE)
_DEGREES = re.compile(r"(\d{2,3}(?:[.,]\d)?)\s*(?:°\s*|degrees?\s*)?([CF])\b", re.IGNORECASE)
_CHARGES = re.compile(r"(\d+(?:[.,]\d+)?)\s*(?:full\s+|complete\s+)?(?:charges|times|×|x)\b", re.IGNORECASE)
MOST_CLAIM_W = 1000.0


@dataclass(frozen=True)
class ClaimRow:
    """A claim and how it fares. about : of what; claim : in whose words; by_maker : as it stands on the shelf, else as
    it was typed; on : the phone that it was tried on; reading : how the claim was read; sentence : what was found."""

    about: str
    claim: str
    by_maker: bool
    on: str
    found: Found
    reading: str
    sentence: FindingSentence


def claim_rows(blocks: Sequence[Block], material: Material) -> list[ClaimRow]:
    """Every claim that stands on the shelf or was typed, a row for each phone that tells something of it."""
    rows: list[ClaimRow] = []
    for charger in _chargers(blocks, material):
        if charger.claimed_w is not None:
            rows.append(_watts(charger.label, charger.claimed_w, f"{charger.claimed_w:g} W", True, blocks, material))
    for pack in material.packs:
        if pack.claimed_w is not None:
            rows.append(_pack_watts(pack, pack.claimed_w, f"{pack.claimed_w:g} W", True))
    for claim in material.claims:
        rows += typed_rows(claim, blocks, material)
    return rows


def _chargers(blocks: Sequence[Block], material: Material) -> list[Charger]:
    """Chargers of the shelf that the runs used, in the order of their names."""
    used = {r.levels["charger"] for b in blocks for r in b.runs if r.levels.get("charger")}
    return sorted((c for k, c in material.chargers.items() if k in used), key=lambda c: c.label.casefold())


def typed_rows(claim: ClaimTyped, blocks: Sequence[Block], material: Material) -> list[ClaimRow]:
    """The rows of a typed claim; one that cannot be read, or of which nothing was measured, is told so."""
    pack = next((p for p in material.packs if p.label.casefold() == claim.about.casefold()), None)
    charges, degrees, watts = (p.search(claim.text) for p in (_CHARGES, _DEGREES, _WATTS))
    if pack is not None and charges:
        return _pack_charges(pack, _number(charges[1]), claim, material)
    if pack is not None and watts:
        return [_pack_watts(pack, _number(watts[1]), claim.text, False)]
    if degrees:
        limit = _number(degrees[1])
        return _heat(claim, from_fahrenheit(limit) if degrees[2].upper() == "F" else limit, blocks, material)
    try:
        read = read_claim(claim.text)
    except CannotRead as error:
        if watts and 0 < _number(watts[1]) <= MOST_CLAIM_W:
            return [_watts(claim.about, _number(watts[1]), claim.text, False, blocks, material)]
        return [_nothing(claim, f"{error.what}; {error.mend}")]
    rows = []
    for block in blocks:
        if block.comparison is None:
            continue
        for n in _rows_of(block, claim.about):
            if read.kind == "reaches":
                checks, against = check_cell(read, block.comparison, n), ""
            else:
                others = [m for m in _rows_of(block, claim.against) if m != n] if claim.against else []
                if not others:
                    continue
                checks = check_pair(read, block.comparison, n, others[0])
                against = f", against {named(block.cells[others[0]].label)}"
            rows.append(_timed(claim, block, n, checks, read.said + against))
    if rows:
        return rows
    other = " and what it is held against" if claim.against or read.kind != "reaches" else ""
    return [_nothing(claim, f"no phone was charged by it{other} under like conditions")]


def _number(text: str) -> float:
    return float(text.replace(",", "."))


def _rows_of(block: Block, charger: str) -> list[int]:
    wanted = charger.casefold()
    exact = [n for n in block.timed if block.cells[n].label.casefold() == wanted]
    return exact or [n for n in block.timed if charger_name(block.cells[n].first).casefold() == wanted]


def _key(*parts: str) -> str:
    return "|".join(["claim", *parts]).casefold()


def _nothing(claim: ClaimTyped, why: str) -> ClaimRow:
    sentence = FindingSentence(_key(claim.about, claim.text), f"Nothing measured tells: {named(why)}")
    return ClaimRow(claim.about, claim.text, False, "", "cannot be told", "", sentence)


def _outcome(checks: Sequence[Checked], over: str) -> tuple[Found, Checked | None, str]:
    """The outcome over all readings of a claim, the reading that it rests on, and of how many readings it holds; where
    several do alike, the one over the window of the block stands for them."""
    told = sorted((c for c in checks if c.outcome != "not covered"), key=lambda c: not c.reading.endswith(over))
    if not told:
        return "cannot be told", None, ""
    good = [c for c in told if c.outcome == "supported"]
    if good:
        many = "" if len(told) == 1 else f"under {len(good)} of {counted(len(told), 'reading')}"
        return "supported", good[0], many
    if all(c.outcome == "not supported" for c in told):
        return "not supported", told[0], "nor by any other reading" if len(told) > 1 else ""
    open_ones = [c for c in told if c.outcome != "not supported"]
    return "cannot be told", open_ones[0], ""


def _timed(claim: ClaimTyped, block: Block, n: int, checks: Sequence[Checked], said: str) -> ClaimRow:
    assert block.window is not None
    found, by, many = _outcome(checks, window_said(block.window))
    tell = Telling()
    key = _key(claim.about, claim.text, block.key)
    if by is None or by.found is None or by.low is None or by.high is None:
        why = next((c.basis for c in checks if c.basis), "the runs do not cover what is claimed")
        return ClaimRow(claim.about, claim.text, False, block.phone, "cannot be told", said,
                        tell.sentence(key, f"Not covered: {named(why)}"))  # fmt: skip
    places = 2 if by.unit == "×" else 0
    unit = "" if by.unit == "×" else f" {by.unit}"
    text = f"{by.found:.{places}f}{unit}, {by.low:.{places}f} to {by.high:.{places}f}".replace("-", "−")
    text += " times" if by.unit == "×" else ""
    kind: Literal["time", "percent"] = "time" if by.unit == "min" else "percent"
    figure = Stated(
        f"{key}|found", text, kind, by.found, by.unit, by.low, by.high, block.runs_of(n), f"{by.reading}: {by.basis}."
    )
    return ClaimRow(claim.about, claim.text, False, block.phone, found, by.reading + (f"; {many}" if many else ""),
                    tell.sentence(key, tell(figure), named(by.basis)))  # fmt: skip


def _watts(
    about: str, claimed_w: float, text: str, by_maker: bool, blocks: Sequence[Block], material: Material
) -> ClaimRow:
    """A claim of watts, by the best settled output of any run with it."""
    runs = list({r.key: r for b in blocks for r in b.runs if _is_of(r, about)}.values())
    seen = [(r, o) for r in runs if (o := material.outputs.get(r.key)) is not None and o.watts is not None]
    key, tell = _key(about, text), Telling()
    reading = "best settled output of any run, by the reference ratio"
    if not seen:
        return ClaimRow(about, text, by_maker, "", "cannot be told", reading,
                        tell.sentence(key, "No run with it was metered: its output is not known"))  # fmt: skip
    judged = [(r, o, _reaches(o, claimed_w)) for r, o in seen]
    run, output, met = max(judged, key=lambda x: (x[2] is True, x[2] is False, x[1].watts.value if x[1].watts else 0.0))
    assert output.watts is not None
    half = output.watts.stated
    figure = Stated(
        f"{key}|watts", plus_minus(output.watts, "W"), "watts", output.watts.value, "W",
        None if half is None else output.watts.value - half, None if half is None else output.watts.value + half,
        (run.key,), "Best settled power at the meter ÷ the reference ratio; ± is k = 2. See the run.",
    )  # fmt: skip
    on = run.factors.get("phone", "")
    found: Found = "supported" if met else "cannot be told" if met is None else "not supported"
    why = f": {named(output.undecided)}" if met is None and output.undecided else ""
    words = f"Gives {tell(figure)} at its best, to {strong(on)}{why}"
    return ClaimRow(about, text, by_maker, on, found, reading, tell.sentence(key, words))


def _reaches(output: OutputSeen, claimed_w: float) -> bool | None:
    """Whether an output reaches a claim; None where something prevented the test."""
    if output.claimed_w == claimed_w:
        return output.claim_met
    assert output.watts is not None
    if output.watts.value + output.watts.expanded >= claimed_w:
        return True
    return None if output.undecided else False


def _is_of(run: Contender, about: str) -> bool:
    return run.levels.get("charger", "") == about.casefold() or charger_name(run).casefold() == about.casefold()


def _heat(claim: ClaimTyped, limit_c: float, blocks: Sequence[Block], material: Material) -> list[ClaimRow]:
    """A claim of a temperature that is never passed, phone by phone."""
    rows = []
    for block in blocks:
        warm = [
            (r, r.course.warm.hottest_c) for r in block.runs if _is_of(r, claim.about) and r.course.warm is not None
        ]
        if not warm:
            continue
        run, hottest = max(warm, key=lambda x: x[1])
        found: Found = "cannot be told"
        if abs(hottest - limit_c) > HEAT_NOISE_K:
            found = "supported" if hottest < limit_c else "not supported"
        key, tell = _key(claim.about, claim.text, block.key), Telling()
        figure = Stated(
            f"{key}|hottest", temperature(hottest, material.fahrenheit), "heat", hottest, "°C", hottest - HEAT_NOISE_K,
            hottest + HEAT_NOISE_K, (run.key,), "Highest reading of the phone's temperature in the whole run.",
        )  # fmt: skip
        words = f"Hottest reading {tell(figure)} in {counted(len(warm), 'run')}"
        reading = f"never over {threshold(limit_c, material.fahrenheit)}, a probe repeats within {HEAT_NOISE_K:g} K"
        rows.append(ClaimRow(claim.about, claim.text, False, block.phone, found, reading,
                             tell.sentence(key, words, block.where)))  # fmt: skip
    return rows or [_nothing(claim, "no temperature was logged with it")]


def _pack_charges(pack: PackSeen, claimed: float, claim: ClaimTyped, material: Material) -> list[ClaimRow]:
    """A claim of charges, by every phone that was charged from the pack; of those that it names by these alone."""
    seen = [c for c in pack.found.charges if c.phone]
    meant = [p for p in {*material.phones, *(c.phone.casefold() for c in seen)} if p in claim.text.casefold()]
    about = [c for c in seen if c.phone.casefold() in meant] if meant else seen
    rows = []
    for one in about:
        low, value, high = one.charges.low, one.charges.value, one.charges.high
        found: Found = "supported" if low >= claimed else "not supported" if high < claimed else "cannot be told"
        key, tell = _key(claim.about, claim.text, one.phone, one.way), Telling()
        top = f"{high:.1f}" if high != float("inf") else "more"
        figure = Stated(
            f"{key}|charges", f"{value:.1f}, {low:.1f} to {top}", "charges", value, "charges", low,
            high if high != float("inf") else None, (pack.label,),
            f"Points gained ÷ points of the pack used, by {one.way}, from {counted(one.times, 'charge')}.",
        )  # fmt: skip
        words = f"{tell(figure)} full charges by {one.way}"
        rows.append(ClaimRow(claim.about, claim.text, False, one.phone, found, f"full charges by {one.way}",
                             tell.sentence(key, words)))  # fmt: skip
    which = "that phone" if meant else "no phone"
    return rows or [_nothing(claim, f"{which} was {'not ' if meant else ''}charged from it")]


def _pack_watts(pack: PackSeen, claimed_w: float, text: str, by_maker: bool) -> ClaimRow:
    """A claim of a pack's output, by where it let go in a load test."""
    key, tell, power = _key(pack.label, text), Telling(), pack.found.power
    if power is None or not power.volts:
        sentence = tell.sentence(key, "No load test came to where it lets go: what it can hold is not known")
        return ClaimRow(pack.label, text, by_maker, "", "cannot be told", "power held under a load", sentence)
    figure = Stated(
        f"{key}|held", f"{power.held_w:.0f} W", "watts", power.held_w, "W", of=(pack.label,),
        how=f"{power.held_a:.2f} A at {power.volts:.2f} V, the most that it held before protection let go.",
    )  # fmt: skip
    met = not power.falls_short if power.claimed_w == claimed_w else power.held_w >= claimed_w
    found: Found = "supported" if met else "not supported"
    words = f"Held {tell(figure)} at most before it let go"
    return ClaimRow(pack.label, text, by_maker, "", found, "power held under a load", tell.sentence(key, words))
