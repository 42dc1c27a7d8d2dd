"""Advice on a chain: first from the user's own shelf, then in general."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Literal

from ..kit.items import OWN_SOURCE, Adapter, Cable, Case, Charger, Kit, Pack, as_charger, transmits
from ..kit.standards import REFERENCE_RATIO
from .check import Chain, ChainCheck, as_fed, check

WORTH_SAYING = 1.1
"""Gain in delivered watts from which a change is worth naming."""


@dataclass(frozen=True)
class Swap:
    """One piece of the shelf in the place of one in the chain, and the watts that may then be delivered [W]."""

    link: Literal["adapter", "cable", "charger", "case"]
    label: str
    delivered_w: float
    chain: Chain

    def said(self) -> str:
        """As a sentence."""
        return f"From your shelf: {self.label} would lift this chain to {self.delivered_w:.3g} W."


def swaps(chain: Chain, shelf: Iterable[Kit]) -> list[Swap]:
    """Single changes from the shelf that lift the delivered watts, the best of each link, the strongest first."""
    now = check(chain).delivered_w
    best: dict[str, Swap] = {}
    for item in shelf:
        for swap in _with(chain, item):
            if swap.delivered_w < max(now.high * WORTH_SAYING, now.high + 0.5) and not _surer(swap, now.low):
                continue
            if swap.link not in best or swap.delivered_w > best[swap.link].delivered_w:
                best[swap.link] = swap
    order = {"adapter": 0, "cable": 1, "case": 2, "charger": 3}
    return sorted(best.values(), key=lambda s: (-s.delivered_w, order[s.link]))


def _surer(swap: Swap, low: float) -> bool:
    return check(swap.chain).delivered_w.low > max(low * 1.3, low + 1.0)


def _with(chain: Chain, item: Kit) -> list[Swap]:
    if isinstance(item, Pack) and transmits(item):
        item = as_charger(item)
    changed: list[tuple[Literal["adapter", "cable", "charger", "case"], Chain]] = []
    if isinstance(item, Adapter) and chain.adapter is not None and item != chain.adapter:
        changed = [("adapter", replace(chain, adapter=item))]
    elif isinstance(item, Cable) and chain.cable is not None and item != chain.cable:
        changed = [("cable", replace(chain, cable=item))]
    elif isinstance(item, Case) and chain.case is not None and item != chain.case:
        changed = [("case", replace(chain, case=item))]
    elif isinstance(item, Charger) and chain.charger is not None and item.label != chain.charger.label:
        changed = [("charger", as_fed(replace(chain, charger=item, place=p.place))) for p in item.pads]
        changed = [c for c in changed if c[1].adapter is not None or item.form in OWN_SOURCE]
    return [Swap(link, item.label, check(c).delivered_w.high, c) for link, c in changed]


def advice(chain: Chain, result: ChainCheck, shelf: Iterable[Kit] = ()) -> list[str]:
    """Advice on a chain, as sentences; what stands on the shelf comes first. Never empty."""
    lines = [s.said() for s in swaps(chain, shelf)]
    deal, narrow = result.deal, result.narrow_link
    wanted = deal.wanted
    supply_short = narrow.link == "adapter" and deal.outcome in {"reduced", "missing", "starved"}
    if supply_short and wanted is not None:
        lines.append(
            f"An adapter that offers {wanted.said} ({wanted.watts:.0f} W) gives this charger its full profile; with "
            f"{deal.volts:g} V {deal.amps:.3g} A expect {_span(result.meter_w.low, result.meter_w.high)} at the meter."
        )
    if deal.outcome == "starved":
        lines.append("Expect the light to flicker and the phone not to charge: do not spend a run on it.")
    if narrow.link == "cable":
        lines.append(
            f"A cable for more than {narrow.watts / deal.volts:.3g} A lets more through: over 3 A it must carry 5 A."
        )
    if narrow.link == "charger" and not supply_short:
        lines.append(_charger_narrow(chain, result))
    if narrow.link == "phone":
        lines.append("A stronger adapter or charger changes nothing: the phone takes no more.")
    if narrow.link == "coupling":
        lines.append("Take the case off, or use a thinner one; hold the phone in place with magnets.")
    if narrow.link == "battery":
        lines.append("The battery is the narrowest link: it takes no more than this.")
    if narrow.link == "adapter" and (wanted is None or not supply_short):
        lines.append("The adapter is the narrowest link: one with more watts at the same voltage would lift it.")
    if deal.inferred:
        lines.append(
            "The adapter's profiles are inferred from its rating and unknown until negotiated: note the volts when the "
            "charger is plugged in."
        )
    if chain.charger is not None and chain.chargers_on_adapter > 1:
        lines.append("The adapter is shared: the same charger alone on it may do more. Compare only like with like.")
    return lines


def headline(chain: Chain, result: ChainCheck) -> tuple[str, str]:
    """Watts that will arrive, in bold, and why in a sentence."""
    low, high = result.delivered_w.low, result.delivered_w.high
    claim = chain.charger.claimed_w if chain.charger else None
    label, why = result.narrow_link.label, result.narrow_link.why
    if not result.charges:
        return "It will hardly charge.", f"{_sentence(label)} is the narrowest link: {why}."
    missed = f", not {claim:g}" if claim and result.reaches_claim is False else ""
    return f"{_span(low, high)} will arrive{missed}.", f"{_sentence(label)} is the narrowest link: {why}."


def _charger_narrow(chain: Chain, result: ChainCheck) -> str:
    assert result.agreement is not None
    arrives = result.agreement.watts
    most = max(t.watts for t in chain.phone.accepts)
    if most > arrives + 0.05:
        return f"A stronger adapter changes nothing; the phone would take {most:g} W from another charger."
    drawn = arrives * REFERENCE_RATIO
    return f"Charger and phone give all that both know: {arrives:g} W, {drawn:.3g} W at the meter."


def _sentence(text: str) -> str:
    return text[0].upper() + text[1:]


def _span(low: float, high: float) -> str:
    low, high = round(low, 1), round(high, 1)
    return f"{high:g} W" if low == high else f"{low:g} to {high:g} W"
