"""The chain check: watts at every link from adapter to battery, the narrowest of them, and what arrives.

All walls are referred to the meter side, so that they compare: what a link could pass, seen where the inline meter
stands. A watt delivered is taken as 1.25 W drawn (`standards.REFERENCE_RATIO`).
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal, NamedTuple

from ..errors import CannotRead
from ..kit.items import OWN_SOURCE, Adapter, Cable, Case, Charger, Kit, Phone, as_adapter, as_charger, transmits
from ..kit.standards import REFERENCE_RATIO, REFERENCE_RATIO_U, TRANSFER_WATTS
from ..kit.transfer import MAGNETIC, Agreement, agree
from .negotiation import FULL_SPREAD, WIRED_SPREAD, Deal, asked_of, negotiate, wired_deal

LinkName = Literal["adapter", "cable", "charger", "coupling", "phone", "battery"]

WIRED_TO_BATTERY = 0.85
WIRELESS_TO_BATTERY = 0.62
"""Share of the meter side that reaches the battery (common practice: 0.55 to 0.65 wirelessly; wired from memory)."""

MOST_C_RATE = 1.2
"""Watts into a battery per watt-hour of it that phones rarely exceed without wire (from memory)."""

THICK_CASE_MM = 3.0
"""Case thickness from which a coil reaches the phone badly, if at all (common practice)."""

ANY_CABLE = Cable(label="any cable", amps=5.0)

PLAIN_COUPLING_W, MAGNETIC_COUPLING_W = 15.0, 50.0
"""The most that coils pass, laid together by hand and held by magnets or in a maker's own way [W] (from memory)."""


@dataclass(frozen=True)
class Chain:
    """Adapter, cable, charger, case and phone. Without a charger it is wired: the usual baseline.

    `place` names the charger's pad; `phones_on_charger` and `chargers_on_adapter` count what shares them, this one
    included. A charger that is a pack itself has no adapter.
    """

    adapter: Adapter | None
    cable: Cable | None
    charger: Charger | None
    phone: Phone
    case: Case | None = None
    place: str = ""
    phones_on_charger: int = 1
    chargers_on_adapter: int = 1


@dataclass(frozen=True)
class Range:
    """The lowest and the highest of an estimate."""

    low: float
    high: float


class Wall(NamedTuple):
    """A link before the narrowest is known: what it could pass and what it lets pass here [W, meter side], and why."""

    link: LinkName
    label: str
    watts: float
    passes_w: float
    why: str


@dataclass(frozen=True)
class Link:
    """One link: what it could pass by itself [W], what it lets pass here [W], both as seen at the meter, and why.

    `flows_w` is the power at this link's own point of the chain [W]: supply side up to the charger, delivered from
    the coupling on, into the battery at the end.
    """

    link: LinkName
    label: str
    watts: float
    passes_w: float
    flows_w: float
    why: str


@dataclass(frozen=True)
class ChainCheck:
    """Forecast of a chain: links in order, the narrowest, the deal on the voltage, watts drawn and delivered."""

    links: tuple[Link, ...]
    narrowest: LinkName
    deal: Deal
    agreement: Agreement | None
    meter_w: Range
    delivered_w: Range
    claimed_w: float | None

    @property
    def narrow_link(self) -> Link:
        """The narrowest link."""
        return next(link for link in self.links if link.link == self.narrowest)

    @property
    def charges(self) -> bool:
        """Whether the phone is likely to charge at all."""
        return self.delivered_w.high > TRANSFER_WATTS["bpp"] / 5.0

    @property
    def reaches_claim(self) -> bool | None:
        """Whether the most that may arrive reaches the charger's claim, as sure as the ratio is.

        None without a claim, and where it is not the charger that falls short: supply, case or phone then prevent it.
        """
        if self.claimed_w is None:
            return None
        if self.delivered_w.high * (1.0 + REFERENCE_RATIO_U / REFERENCE_RATIO) >= self.claimed_w:
            return True
        own = next(link for link in self.links if link.link == "charger")
        by_itself = own.passes_w / REFERENCE_RATIO * (1.0 + REFERENCE_RATIO_U / REFERENCE_RATIO)
        return False if by_itself < self.claimed_w else None


def check(chain: Chain) -> ChainCheck:
    """Watts at every link of a chain.

    Parameters
    ----------
    chain : Chain

    Returns
    -------
    ChainCheck

    References
    ----------
    USB PD 3.1 source power rules for profiles inferred from a rating; the rest common practice, marked where it stands.
    """
    return _wired(chain) if chain.charger is None else _wireless(chain, chain.charger)


def _wireless(chain: Chain, charger: Charger) -> ChainCheck:
    pad = charger.pad(chain.place)
    agreement = agree(pad.gives, chain.phone.accepts)
    cable = None if charger.captive_cable else chain.cable
    given = max(t.watts for t in pad.gives)
    deal = negotiate(chain.adapter, cable, charger, given, chain.chargers_on_adapter)
    by_any_cable = negotiate(chain.adapter, ANY_CABLE, charger, given, chain.chargers_on_adapter)
    shared = _share(deal, charger, chain.phones_on_charger)
    coupling_w, coupling_why = _coupling(chain, charger)
    taken = max(t.watts for t in chain.phone.accepts)
    # Whoever keeps the agreement down has the lower wall; the other keeps its own.
    charger_w = min(agreement.watts if agreement.held_by == "charger" else given, given)
    phone_w = min(agreement.watts if agreement.held_by == "phone" else max(taken, agreement.watts), taken)
    walls: list[Wall] = []
    if chain.adapter is not None:
        walls.append(Wall("adapter", chain.adapter.label, deal.offered_w, shared.high_w, shared.why))
    if cable is not None and chain.adapter is not None:
        walls.append(_cable(cable, deal))
        if by_any_cable.high_w > deal.high_w + 0.01:
            walls = _by_cable(walls, by_any_cable, shared)
    asks_w = asked_of(charger, given)[0].watts if chain.adapter is not None else float("inf")
    own_w = min(charger_w * REFERENCE_RATIO, asks_w)
    walls.append(
        Wall(
            "charger",
            charger.label,
            own_w,
            own_w,
            _charger_why(agreement, charger, max(pad.gives, key=lambda t: t.watts).said),
        )
    )
    walls.append(Wall("coupling", coupling_label(chain, charger), coupling_w, coupling_w, coupling_why))
    phone_why = agreement.why if agreement.held_by == "phone" else f"takes {_most(chain.phone)}"
    walls.append(Wall("phone", chain.phone.label, phone_w * REFERENCE_RATIO, phone_w * REFERENCE_RATIO, phone_why))
    walls.append(_battery(chain.phone, WIRELESS_TO_BATTERY))
    narrowest = _narrowest(walls, deal)
    name, high = narrowest.link, narrowest.passes_w
    low = _low(shared, name, high, FULL_SPREAD)
    meter, delivered = Range(low, high), Range(low / REFERENCE_RATIO, high / REFERENCE_RATIO)
    flows = {"coupling": delivered.high, "phone": delivered.high, "battery": high * WIRELESS_TO_BATTERY}
    links = tuple(Link(w.link, w.label, w.watts, w.passes_w, flows.get(w.link, high), w.why) for w in walls)
    return ChainCheck(links, name, deal, agreement, meter, delivered, charger.claimed_w)


def _wired(chain: Chain) -> ChainCheck:
    limit_w = chain.phone.wired_w or chain.phone.battery_wh * MOST_C_RATE / WIRED_TO_BATTERY
    deal = wired_deal(chain.adapter, chain.cable, limit_w, chain.chargers_on_adapter)
    walls: list[Wall] = []
    if chain.adapter is not None:
        walls.append(Wall("adapter", chain.adapter.label, deal.offered_w, deal.high_w, deal.why))
    if chain.cable is not None and chain.adapter is not None:
        walls.append(_cable(chain.cable, deal))
        free = wired_deal(chain.adapter, ANY_CABLE, limit_w, chain.chargers_on_adapter)
        if free.high_w > deal.high_w + 0.01:
            walls = _by_cable(walls, free, deal)
    stated = "takes" if chain.phone.wired_w else "its wired limit is not stated; its battery suggests"
    walls.append(Wall("phone", chain.phone.label, limit_w, limit_w, f"{stated} {limit_w:.3g} W by wire"))
    walls.append(_battery(chain.phone, WIRED_TO_BATTERY))
    narrowest = _narrowest(walls, deal)
    name, high = narrowest.link, narrowest.passes_w
    low = _low(deal, name, high, WIRED_SPREAD)
    flows = {"battery": high * WIRED_TO_BATTERY}
    links = tuple(Link(w.link, w.label, w.watts, w.passes_w, flows.get(w.link, high), w.why) for w in walls)
    return ChainCheck(links, name, deal, None, Range(low, high), Range(low, high), None)


def as_fed(chain: Chain) -> Chain:
    """The chain as it is fed: a pack, or a phone that gives away, has no adapter before its coil.

    Raises
    ------
    CannotRead
        If a phone is to charge itself.
    """
    if chain.charger is None or chain.charger.form not in OWN_SOURCE:
        return chain
    if chain.charger.label == chain.phone.label:
        raise CannotRead(f"“{chain.phone.label}” cannot charge itself", "choose another phone", file="charger")
    return replace(chain, adapter=None, cable=None)


def chain_of_kit(used: Mapping[str, Kit], place: str = "") -> Chain | None:
    """The chain that kit makes, each under the factor that names it; None where phone or charger is not among it.

    What is not kit of the kind that its factor wants is left out; a run by wire has no charger among its factors.

    Raises
    ------
    CannotRead
        If a phone is to charge itself.
    """
    phone, charger = used.get("phone"), used.get("charger")
    adapter, cable, case = used.get("adapter"), used.get("cable"), used.get("case")
    if charger is not None and transmits(charger):
        charger = as_charger(charger)
    if not isinstance(phone, Phone) or not isinstance(charger, Charger | None):
        return None
    known = isinstance(charger, Charger) and place in {p.place for p in charger.pads}
    return as_fed(
        Chain(
            None if adapter is None else as_adapter(adapter),
            cable if isinstance(cable, Cable) else None,
            charger,
            phone,
            case if isinstance(case, Case) else None,
            place if known else "",
        )
    )


def _narrowest(walls: list[Wall], deal: Deal) -> Wall:
    """The lowest wall; among equals a supply that gives what is asked is not to blame, any other is."""
    order = ["charger", "phone", "coupling", "adapter", "cable", "battery"]
    if deal.outcome != "full":
        order.insert(0, "adapter")
    return min(walls, key=lambda w: (round(w.passes_w, 3), order.index(w.link)))


def _low(deal: Deal, narrowest: LinkName, high: float, spread: float) -> float:
    """The least that such a chain draws [W]: known where the supply decides, else a usual share of the most."""
    if narrowest == "adapter" and deal.outcome != "full":
        return min(deal.low_w, high)
    return min(deal.low_w, high * spread)


def _share(deal: Deal, charger: Charger, phones: int) -> Deal:
    """Share of one of several phones on a charger; each pad's own overhead is drawn once."""
    if phones <= 1:
        return deal
    overhead = (charger.no_load_w if charger.no_load_w is not None else 0.4) * phones
    per_phone = max(0.0, deal.high_w - overhead) / phones + overhead / phones
    why = f"{deal.why}; shared by {phones} phones, {per_phone:.3g} W each, overheads of the pads included"
    return replace(deal, high_w=per_phone, low_w=min(deal.low_w / phones, per_phone), why=why)


def _coupling(chain: Chain, charger: Charger) -> tuple[float, str]:
    held = charger.magnetic and holds_by_magnets(chain)
    watts = MAGNETIC_COUPLING_W if held else PLAIN_COUPLING_W
    if any(t.own for p in charger.pads for t in p.gives):
        watts = MAGNETIC_COUPLING_W
    why = "held by magnets" if held else "laid by hand: an offset of some millimetres costs power"
    thickness = chain.case.thickness_mm if chain.case else 0.0
    if thickness >= THICK_CASE_MM:
        share = max(0.0, 1.0 - 0.25 * (thickness - THICK_CASE_MM + 1.0))
        watts *= share
        why = f"the case is {thickness:g} mm thick: the coil reaches badly through it, perhaps not at all"
    return watts * REFERENCE_RATIO, why


def holds_by_magnets(chain: Chain) -> bool:
    """Whether magnets of phone or case can hold the phone."""
    if chain.case is not None:
        return chain.case.magnets
    return chain.phone.magnets != "none" or any(t.name in MAGNETIC for t in chain.phone.accepts)


def coupling_label(chain: Chain, charger: Charger) -> str:
    """The coupling in words: what holds the phone, and the case between."""
    held = "magnets" if charger.magnetic and holds_by_magnets(chain) else "laid on"
    return f"{held}, {chain.case.label} {chain.case.thickness_mm:g} mm" if chain.case else f"{held}, no case"


def _charger_why(agreement: Agreement, charger: Charger, gives: str) -> str:
    if agreement.held_by == "charger":
        if charger.claimed_w and charger.claimed_w > agreement.watts + 0.05:
            return f"claims {charger.claimed_w:g} W; {agreement.why}"
        return agreement.why
    return f"gives {gives}"


def _most(phone: Phone) -> str:
    return max(phone.accepts, key=lambda t: t.watts).said


def _cable(cable: Cable, deal: Deal) -> Wall:
    watts = deal.volts * cable.amps
    return Wall("cable", cable.label, watts, watts, f"carries {cable.amps:g} A at {deal.volts:g} V")


def _by_cable(walls: list[Wall], free: Deal, held: Deal) -> list[Wall]:
    """The same walls where it is the cable that holds the deal down: the adapter alone would have given more."""
    adapter, cable = walls
    by_it = f"{cable.why}: with it the adapter gives {held.volts:g} V {held.amps:.3g} A"
    return [
        adapter._replace(watts=free.offered_w, passes_w=free.high_w, why=free.why),
        cable._replace(passes_w=min(cable.watts, held.high_w), why=by_it),
    ]


def _battery(phone: Phone, share: float) -> Wall:
    watts = phone.battery_wh * MOST_C_RATE / share
    return Wall("battery", f"battery {phone.capacity_mah:,.0f} mAh", watts, watts,
            f"{phone.nominal_v:g} V, {phone.battery_wh:.3g} Wh; {share * 100:.0f} % of the meter side")  # fmt: skip
