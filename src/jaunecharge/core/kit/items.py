"""Kit of the shelf: phones, chargers, adapters, cables, packs, meters, probes and cases, each with its facts.

Every kind is one frozen dataclass; the limits stand in the annotations, and `flaws` says what those cannot.
"""

from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import Ge, Gt, Le, Len

from ..units import battery_wh
from .standards import PORT_AMPS, TRANSFER_WATTS, pd_profiles
from .supply import PpsRange, SupplyProfile
from .transfer import MAGNETIC, Transfer

Fraction = Annotated[float, Gt(0), Le(1)]
Watts = Annotated[float, Gt(0), Le(400)]
Percent = Annotated[float, Ge(0), Le(100)]
Millimetres = Annotated[float, Gt(0), Le(1000)]
MOST_MAH = 100_000
Capacity = Annotated[float, Gt(0), Le(MOST_MAH)]
"""Of a phone's battery [mAh]."""

BodySize = Literal["small", "medium", "large"]
Magnets = Literal["built in", "by case", "none"]
Fan = Literal["none", "own", "switchable"]
ChargerKind = Literal["pad", "puck", "stand", "multi-stand", "pack", "phone"]
Agreeing = Literal["pd", "pps", "own", "5v"]
"""Ways of agreeing on a voltage: PD's fixed supplies, its programmable ones, a maker's own mode, or none: 5 V only."""


@dataclass(frozen=True)
class Price:
    """An amount and its currency, as three letters."""

    amount: Annotated[float, Ge(0), Le(1_000_000)]
    currency: Annotated[str, Len(3, 3)]


@dataclass(frozen=True)
class Flaw:
    """Flaws of one field, and what would mend it."""

    field: str
    what: str
    mend: str


@dataclass(frozen=True, kw_only=True)
class Item:
    """Fields that all kit has."""

    label: str
    note: str = ""
    price: Price | None = None


@dataclass(frozen=True, kw_only=True)
class Phone(Item):
    """A phone: battery, what it takes by coil and by wire, body, and what it gives away wirelessly."""

    kind: Literal["phone"] = "phone"
    capacity_mah: Capacity
    nominal_v: Annotated[float, Gt(0), Le(30)] = 3.87
    battery_health: Fraction | None = None
    accepts: tuple[Transfer, ...]
    wired_w: Watts | None = None
    body: BodySize = "medium"
    length_mm: Millimetres | None = None
    width_mm: Millimetres | None = None
    thickness_mm: Millimetres | None = None
    magnets: Magnets = "none"
    gives_w: Watts | None = None
    gives_stop_percent: Percent | None = None
    software: str = ""
    serial: str = ""

    @property
    def battery_wh(self) -> float:
        """Energy of the rated battery, times its health where that is known [Wh]."""
        return battery_wh(self.capacity_mah, self.nominal_v) * (self.battery_health or 1.0)


@dataclass(frozen=True)
class Pad:
    """One place on a charger: its name, and the profiles that it gives."""

    place: str
    gives: tuple[Transfer, ...]


@dataclass(frozen=True, kw_only=True)
class Charger(Item):
    """A transmitter: its pads, what it asks of its supply, and what its maker claims; source_wh [Wh] : energy that is
    printed on one that feeds itself."""

    kind: Literal["charger"] = "charger"
    form: ChargerKind = "pad"
    pads: tuple[Pad, ...]
    claimed_w: Watts | None = None
    asks: tuple[SupplyProfile, ...] = ()
    agrees: tuple[Agreeing, ...] = ("pd",)
    modes: tuple[str, ...] = ()
    fan: Fan = "none"
    fan_noise: str = ""
    captive_cable: bool = False
    source_wh: Annotated[float, Gt(0), Le(100_000)] | None = None
    no_load_w: Annotated[float, Ge(0), Le(50)] | None = None
    thickness_mm: Millimetres | None = None
    size: str = ""

    def pad(self, place: str = "") -> Pad:
        """The pad of a place; the first where none is named.

        Raises
        ------
        KeyError
        """
        return next((p for p in self.pads if p.place == place), None) or (self.pads[0] if not place else _no(place))

    @property
    def magnetic(self) -> bool:
        """Whether any of its pads holds a phone by magnets."""
        return any(t.name in MAGNETIC for p in self.pads for t in p.gives)


@dataclass(frozen=True, kw_only=True)
class Adapter(Item):
    """A supply: profiles as printed on it, or a rating from which they are inferred until negotiated."""

    kind: Literal["adapter"] = "adapter"
    profiles: tuple[SupplyProfile, ...] = ()
    pps: tuple[PpsRange, ...] = ()
    rated_w: Watts | None = None
    modes: tuple[str, ...] = ()
    ports: Annotated[int, Ge(1), Le(20)] = 1
    shared_w: Watts | None = None
    computer_port: str | None = None

    @property
    def inferred(self) -> bool:
        """Whether its profiles follow from the rating alone: unknown until negotiated."""
        return not self.profiles and self.rated_w is not None and self.computer_port is None

    def offers(self) -> tuple[SupplyProfile, ...]:
        """Its fixed supplies, lowest voltage first; 5 V always among them."""
        if self.computer_port is not None:
            return (SupplyProfile(5.0, PORT_AMPS[self.computer_port]),)
        if self.profiles:
            return tuple(sorted(self.profiles, key=lambda p: (p.volts, p.amps)))
        return pd_profiles(self.rated_w) if self.rated_w else ()

    @property
    def most_w(self) -> float:
        """The most that one port gives [W]."""
        return max([p.watts for p in self.offers()] + [r.high_v * r.amps for r in self.pps], default=0.0)


@dataclass(frozen=True, kw_only=True)
class Cable(Item):
    """A cable: the amps that it carries, and its length."""

    kind: Literal["cable"] = "cable"
    amps: Annotated[float, Gt(0), Le(10)] = 3.0
    length_m: Annotated[float, Gt(0), Le(20)] | None = None


@dataclass(frozen=True, kw_only=True)
class Pack(Item):
    """A battery pack: its capacity at its cells' voltage, what it gives by wire and by coil, its weight, and how many
    lamps its gauge has, None where that is not known or it shows a percentage."""

    kind: Literal["pack"] = "pack"
    rated_mah: Annotated[float, Gt(0), Le(1_000_000)]
    cell_v: Annotated[float, Gt(0), Le(60)]
    outputs: tuple[SupplyProfile, ...] = ()
    gives: tuple[Transfer, ...] = ()
    claimed_w: Watts | None = None
    grams: Annotated[float, Gt(0), Le(100_000)] | None = None
    lamps: Annotated[int, Ge(1), Le(10)] | None = None

    @property
    def rated_wh(self) -> float:
        """Energy of its cells [Wh]."""
        return battery_wh(self.rated_mah, self.cell_v)


@dataclass(frozen=True, kw_only=True)
class Meter(Item):
    """A meter: ±(gain % of reading + counts), None where nobody knows; its step, whether devices negotiate through it,
    its address. stands : inline before the charger, or at the socket, before the adapter."""

    kind: Literal["meter"] = "meter"
    stands: Literal["inline", "socket"] = "inline"
    gain_percent: Annotated[float, Ge(0), Le(20)] | None = None
    counts_v: Annotated[float, Ge(0), Le(5)] = 0.01
    counts_a: Annotated[float, Ge(0), Le(5)] = 0.01
    step_s: Annotated[float, Gt(0), Le(3600)] = 1.0
    passes_negotiation: bool = True
    address: str = ""


@dataclass(frozen=True, kw_only=True)
class Probe(Item):
    """A probe of temperature: its kind, accuracy [K], and where it answers. measures : the phone, or the room, whose
    air is that of every lane."""

    kind: Literal["probe"] = "probe"
    measures: Literal["phone", "room"] = "phone"
    sensor: Literal["not known", "thermocouple", "thermistor", "infrared", "thermal camera"] = "not known"
    accuracy_k: Annotated[float, Ge(0), Le(20)] = 1.0
    address: str = ""


@dataclass(frozen=True, kw_only=True)
class Case(Item):
    """A phone's case: its thickness at the back, and whether it carries a ring of magnets."""

    kind: Literal["case"] = "case"
    thickness_mm: Annotated[float, Gt(0), Le(30)] = 1.5
    magnets: bool = False


Kit = Phone | Charger | Adapter | Cable | Pack | Meter | Probe | Case
KINDS: dict[str, type[Kit]] = {
    "phone": Phone, "charger": Charger, "adapter": Adapter, "cable": Cable, "pack": Pack, "meter": Meter,
    "probe": Probe, "case": Case,
}  # fmt: skip


def flaws(item: Kit) -> list[Flaw]:
    """Flaws of kit beyond the limits of its single fields."""
    listed = [] if item.label.strip() else [Flaw("label", "it has no label", "give it one")]
    if item.price and not (item.price.currency.isalpha() and item.price.currency.isupper()):
        listed.append(Flaw("price", f"“{item.price.currency}” is not a currency", "three capital letters, as EUR"))
    if isinstance(item, Phone):
        if not item.accepts:
            listed.append(
                Flaw(
                    "accepts", "Which wireless standard does the phone take, and how many watts at most?", "Qi at least"
                )
            )
        if any(t.name == "magnet-only" for t in item.accepts):
            listed.append(
                Flaw("accepts", "magnet-only is what a charger gives", "say what the phone takes: Qi, Qi 15W, Qi2")
            )
        if item.gives_stop_percent is not None and item.gives_w is None:
            listed.append(Flaw("gives_w", "a stop level without watts", "say how many watts it gives away"))
    elif isinstance(item, Charger):
        places = [p.place for p in item.pads]
        if not item.pads or any(not p.gives for p in item.pads):
            listed.append(
                Flaw("pads", "one of its places gives nothing", "say what each gives: Qi2, Qi 15W, Qi, or own:NAME=15")
            )
        if len(set(places)) < len(places):
            listed.append(Flaw("pads", "two of its places have one name", "give each its own: left, right, watch"))
        if "own" in item.agrees and not item.modes:
            listed.append(
                Flaw("modes", "a maker's own way of agreeing has no name", "name the mode that it insists on")
            )
        if not item.agrees:
            listed.append(
                Flaw("agrees", "no way of agreeing on a voltage", "pd, pps, own, or 5v where it takes only that")
            )
    elif isinstance(item, Adapter):
        if not (item.profiles or item.pps or item.rated_w or item.computer_port):
            listed.append(
                Flaw("profiles", "no supply profile is given", "as 5V3A,9V2.22A, or the rating alone, as 20W")
            )
        if item.computer_port is not None and item.computer_port not in PORT_AMPS:
            listed.append(
                Flaw("computer_port", f"“{item.computer_port}” is not known", f"one of {', '.join(PORT_AMPS)}")
            )
        if item.pps and any(r.low_v >= r.high_v for r in item.pps):
            listed.append(Flaw("pps", "a range runs from high to low", "the lower voltage first"))
    elif isinstance(item, Pack) and not (item.outputs or item.gives):
        listed.append(Flaw("outputs", "it gives nothing", "say its outputs by wire, its profiles by coil, or both"))
    return listed


OWN_SOURCE = frozenset({"pack", "phone"})
"""Forms of transmitters that feed themselves: no adapter stands before their coil."""


def transmits(item: Kit) -> bool:
    """Whether kit can stand in the charger's place: a charger, a pack with a coil, a phone that gives away."""
    if isinstance(item, Pack):
        return bool(item.gives)
    return isinstance(item, Charger) or (isinstance(item, Phone) and item.gives_w is not None)


def as_charger(item: Kit) -> Charger:
    """Kit as the transmitter that it is; a pack or a phone needs no adapter.

    Raises
    ------
    ValueError
        If it gives nothing by coil.
    """
    if isinstance(item, Charger):
        return item
    if isinstance(item, Pack) and item.gives:
        gives, form, claimed, wh = item.gives, "pack", item.claimed_w, item.rated_wh
    elif isinstance(item, Phone) and item.gives_w is not None:
        gives, form, claimed = (Transfer("bpp", min(item.gives_w, TRANSFER_WATTS["bpp"])),), "phone", None
        wh = item.battery_wh
    else:
        raise ValueError(f"{item.label} gives nothing by coil")
    kind: ChargerKind = "pack" if form == "pack" else "phone"
    return Charger(
        label=item.label, form=kind, pads=(Pad("", gives),), claimed_w=claimed,
        agrees=("5v",), captive_cable=True, source_wh=wh,
    )  # fmt: skip


def as_adapter(item: Kit) -> Adapter | None:
    """Kit as what feeds a cable: an adapter, or a pack by its socket; None where that is not known of it."""
    if isinstance(item, Pack) and item.outputs:
        return Adapter(label=item.label, profiles=item.outputs)
    return item if isinstance(item, Adapter) else None


def _no(place: str) -> Pad:
    raise KeyError(place)
