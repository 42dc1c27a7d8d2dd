"""Negotiation of the voltage between an adapter and its load, and the fallback where the wanted one is missing."""

from dataclasses import dataclass
from typing import Literal

from ..kit.items import Adapter, Cable, Charger
from ..kit.standards import PD_AMPS, REFERENCE_RATIO, pd_profiles
from ..kit.supply import SupplyProfile

Outcome = Literal["full", "reduced", "missing", "starved", "none needed"]

ENOUGH = 0.98
"""Share of the asked amps that counts as offered: profiles are printed rounded."""

FULL_SPREAD = 14.5 / 18.75
"""The least of what a full profile was seen to draw, as a share of its most (common practice: 18 to 19 W, some see
14.5 to 16)."""

WIRED_SPREAD = 0.8
"""The least that a wired phone was seen to draw, as a share of its most: it stops short of the offer (from memory)."""

REDUCED_FROM = 0.85
REDUCED = (11.0 / 18.75, 13.0 / 18.75)
"""The wanted voltage with a little less power: such a charger steps down to 11 to 13 W at the meter where it would draw
18.75 W (common practice, a 9 V 2 A adapter before a 9 V 2.22 A charger)."""

MISSING = (6.0 / 18.75, 10.0 / 18.75)
"""The wanted voltage not offered: 6 to 10 W at the meter (common practice)."""

STARVED_BELOW_W = 7.5
SMALL_W = 10.0
"""A charger that asks for no more than this takes what 5 V gives it, or flickers (from memory)."""

STARVED_W = 0.5
"""5 V 1 A before a charger that wants more than this twice over: about 0.5 W, flickers, does not charge (common
practice)."""

DEFAULT_ASKS = {
    "bpp": (SupplyProfile(5.0, 2.0),),
    "magnet-only": (SupplyProfile(9.0, 1.67), SupplyProfile(5.0, 2.0)),
    "epp": (SupplyProfile(9.0, 2.0),),
    "mpp": (SupplyProfile(9.0, 2.22),),
    "mpp25": (SupplyProfile(15.0, 2.0), SupplyProfile(9.0, 3.0), SupplyProfile(9.0, 2.22)),
}
"""Request of chargers of a class where nothing is printed (15 W magnetic: common practice; others from memory)."""


@dataclass(frozen=True)
class Deal:
    """An agreement: volts and amps asked of what is offered, and the watts that may be drawn by it [W]."""

    volts: float
    amps: float
    offered_w: float
    low_w: float
    high_w: float
    outcome: Outcome
    why: str
    wanted: SupplyProfile | None = None
    inferred: bool = False

    @property
    def negotiated(self) -> str:
        """As `9V2.22A`; empty where nothing is negotiated."""
        return f"{self.volts:g}V{round(self.amps, 2):g}A" if self.volts else ""


def asked_of(charger: Charger, gives_w: float) -> tuple[SupplyProfile, ...]:
    """Request of a charger, the profile for its full power first; of its class where nothing is printed."""
    if charger.asks:
        return charger.asks
    strongest = max((t for p in charger.pads for t in p.gives), key=lambda t: t.watts)
    if strongest.name in DEFAULT_ASKS:
        return DEFAULT_ASKS[strongest.name]
    wanted_w = gives_w * REFERENCE_RATIO
    volts = next((v for v in (9.0, 15.0, 20.0) if wanted_w <= v * PD_AMPS), 20.0)
    return (SupplyProfile(volts, round(min(wanted_w / volts, 5.0), 2)),)


def on_offer(
    adapter: Adapter, cable: Cable | None, agrees: tuple[str, ...], modes: tuple[str, ...], sharing: int
) -> list[SupplyProfile]:
    """Profiles of an adapter that can be agreed on: by these ways, through this cable, with so many drawing at once."""
    amps = cable.amps if cable else PD_AMPS
    fixed = shared_offer(adapter, sharing)
    five = [p for p in fixed if p.volts <= 5.5] or [SupplyProfile(5.0, min(3.0, max(0.5, adapter.most_w / 5.0)))]
    profiles = list(five)
    if "pd" in agrees or ("own" in agrees and set(modes) & set(adapter.modes)):
        profiles += fixed
    if "pps" in agrees and sharing <= 1:
        settings = (9.0, 11.0, 12.0, 15.0, 20.0)
        profiles += [SupplyProfile(v, r.amps) for r in adapter.pps for v in settings if r.low_v <= v <= r.high_v]
    return [SupplyProfile(p.volts, min(p.amps, amps)) for p in profiles]


def shared_offer(adapter: Adapter, sharing: int) -> tuple[SupplyProfile, ...]:
    """Offer of one port while `sharing` of them draw: each gets its share by the power rules."""
    total = adapter.shared_w or (adapter.most_w if adapter.ports > 1 else None)
    if sharing <= 1 or not adapter.offers():
        return adapter.offers()
    each = (total or adapter.most_w) / sharing
    own = {p.volts: p.amps for p in adapter.offers()}
    return tuple(SupplyProfile(p.volts, min(p.amps, own[p.volts])) for p in pd_profiles(each) if p.volts in own)


def negotiate(adapter: Adapter | None, cable: Cable | None, charger: Charger, gives_w: float, sharing: int = 1) -> Deal:
    """Supply of a charger from its adapter.

    Parameters
    ----------
    adapter : Adapter or None
        None where the charger is its own source (a pack).
    cable : Cable or None
        None: one that carries 3 A.
    charger : Charger
    gives_w : float
        The most that this pad gives [W].
    sharing : int
        Chargers that draw from the adapter at once.

    Returns
    -------
    Deal
    """
    full_w = gives_w * REFERENCE_RATIO
    if adapter is None:
        return Deal(0.0, 0.0, full_w, full_w, full_w, "none needed", "the pack feeds its own coil")
    asks = asked_of(charger, gives_w)
    offered = on_offer(adapter, cable, charger.agrees, charger.modes, sharing)
    wanted = asks[0]
    doubt = ", inferred from the rating and unknown until negotiated" if adapter.inferred else ""

    def deal(used: SupplyProfile, amps: float, low_w: float, high_w: float, outcome: Outcome, why: str) -> Deal:
        return Deal(used.volts, amps, used.watts, low_w, high_w, outcome, why + doubt, wanted, adapter.inferred)

    for ask in asks:
        best = max((p for p in offered if p.volts == ask.volts), key=lambda p: p.amps, default=None)
        if best is None or best.amps < ENOUGH * ask.amps:
            continue
        amps = min(best.amps, ask.amps)
        if ask is wanted:
            return deal(best, amps, best.watts, best.watts, "full", f"offers what is asked: {ask.said}")
        watts = min(ask.watts, full_w)
        why = f"lacks {wanted.said}; offers the next one that is asked: {ask.said}"
        return deal(best, amps, watts * FULL_SPREAD, watts, "reduced", why)
    near = max((p for p in offered if p.volts == wanted.volts), key=lambda p: p.amps, default=None)
    if near is not None and near.watts >= REDUCED_FROM * wanted.watts:
        low, high = (min(near.watts, share * full_w) for share in REDUCED)
        why = f"{near.said} where {wanted.said} is asked: such chargers step down"
        return deal(near, near.amps, low, high, "reduced", why)
    used = max([p for p in offered if p.volts <= wanted.volts] or offered, key=lambda p: (p.watts, p.volts))
    refusal = _refusal(adapter, charger, wanted)
    if used.watts < STARVED_BELOW_W and full_w > 2.0 * used.watts:
        why = f"{used.said} only{refusal}: flickers, does not charge"
        return deal(used, used.amps, 0.0, min(STARVED_W, used.watts), "starved", why)
    low, high = (min(used.watts, share * full_w) for share in MISSING)
    if wanted.watts <= SMALL_W:
        low, high = 0.0, min(used.watts, full_w)
    return deal(used, used.amps, low, high, "missing", f"{used.said}, not the {wanted.said} that is asked{refusal}")


def _refusal(adapter: Adapter, charger: Charger, wanted: SupplyProfile) -> str:
    """Why a profile that the adapter has is not agreed on, if that is so."""
    has = any(p.volts == wanted.volts and p.amps >= ENOUGH * wanted.amps for p in adapter.offers())
    if not has:
        return ""
    if charger.agrees == ("5v",):
        return "; the charger takes 5 V only"
    if "own" in charger.agrees and "pd" not in charger.agrees:
        return f"; the charger refuses PD and insists on {' or '.join(charger.modes)}"
    if charger.agrees == ("pps",):
        return "; the charger agrees by PPS only"
    return "; the cable or the sharing takes it away"


def wired_deal(adapter: Adapter | None, cable: Cable | None, limit_w: float, sharing: int = 1) -> Deal:
    """Supply of a phone by wire: the profile that gives it the most, the lowest voltage among equals."""
    if adapter is None:
        return Deal(0.0, 0.0, limit_w, limit_w, limit_w, "none needed", "no adapter is named")
    offered = on_offer(adapter, cable, ("pd", "pps"), (), sharing)
    best = max(offered, key=lambda p: (min(p.watts, limit_w), -p.volts))
    amps = min(best.amps, limit_w / best.volts)
    doubt = ", inferred from the rating and unknown until negotiated" if adapter.inferred else ""
    outcome: Outcome = "full" if best.watts >= ENOUGH * limit_w else "reduced"
    why = f"offers {best.said}{doubt}"
    return Deal(
        best.volts, amps, best.watts, best.watts * WIRED_SPREAD, best.watts, outcome, why, None, adapter.inferred
    )
