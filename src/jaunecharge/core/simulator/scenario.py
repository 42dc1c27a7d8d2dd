"""A scenario for a chain: what its kit says, and presets by body size and charger class for the rest, each with origin.

The presets were chosen so that simulated runs show what practitioners measure (backs at 32 to 41 °C, 0.55 to 0.65 of
the meter side in the battery, 1.25 W drawn per watt delivered: common practice); the single figures are our own.
"""

from dataclasses import dataclass, replace

from ..chain.check import Chain, ChainCheck, check, holds_by_magnets
from ..errors import CannotRead
from ..kit.items import BodySize
from .cell import usual_cell
from .circumstances import IDLE_W, Circumstances
from .fitted import NEVER, Fitted
from .simulate import Nodes, Scenario, Throttling

OWN = "preset, our own"
COMMON = "preset, common practice"
KIT = "your kit"
CHAIN = "chain check"
FITTED = "fitted to a run"

BODIES: dict[BodySize, tuple[float, float, float]] = {
    "small": (130.0, 0.235, 0.20),
    "medium": (170.0, 0.29, 0.25),
    "large": (205.0, 0.345, 0.29),
}
"""Heat capacity [J/K], conductance to still air [W/K], and to the pad [W/K], by the size of the phone's body."""

FORMS: dict[str, tuple[float, float]] = {
    "puck": (60.0, 0.13), "pad": (110.0, 0.19), "stand": (130.0, 0.22), "multi-stand": (190.0, 0.26),
    "pack": (260.0, 0.28), "phone": (170.0, 0.25),
}  # fmt: skip
"""Heat capacity [J/K] and conductance to still air [W/K] of a charger, by its form."""

FAN_ON_PHONE, OWN_FAN = 2.1, 1.7
"""Factor of moving air on the conductance of the phone."""

OWN_FAN_W = 0.5
CASE_PER_MM = 0.06
"""Share of the phone's conductance to the air that a case takes for every millimetre at the back."""

EASY_C_RATE = 0.8
"""Watts per watt-hour that a battery takes before the phone begins to let the power fall (from memory)."""

EFFICIENCY = 0.82
EFFICIENCY_PER_MM = 0.03
"""Share of the coil's efficiency that each millimetre beyond the usual gap costs."""

SIDEWAYS_MM = 11.0
RECEIVER, WIRED_RECEIVER = 0.8, 0.9
NO_LOAD_W = 0.4
SAVES_ITSELF = Throttling(level_c=42.0, band_k=1.5, least_w=2.0, cut_c=47.0, resume_c=44.5)
"""Phones hold themselves near 42 °C and stop above it (common practice: one was seen to stop at 43 °C)."""


@dataclass(frozen=True)
class Given:
    """One figure of a scenario: what it is, its value with unit, and where it comes from."""

    what: str
    value: str
    origin: str


@dataclass(frozen=True)
class Prepared:
    """A scenario, and where its figures come from."""

    scenario: Scenario
    origins: tuple[Given, ...]
    checked: ChainCheck


def prepare(
    chain: Chain,
    around: Circumstances = Circumstances(),
    delivered_w: float | None = None,
    fitted: Fitted | None = None,
    checked: ChainCheck | None = None,
) -> Prepared:
    """The scenario of a chain under given circumstances.

    Parameters
    ----------
    chain : Chain
    around : Circumstances
    delivered_w : float, optional
        Watts that arrive at the phone; the likely value of the chain check if not given.
    fitted : Fitted, optional
        Figures of this phone in place of the presets.
    checked : ChainCheck, optional
        The check of this chain, if it is known already.

    Raises
    ------
    CannotRead
        If the circumstances cannot be.
    """
    if not 0.0 <= around.offset_mm <= 30.0:
        raise CannotRead(f"an offset of {around.offset_mm:g} mm cannot be", "0 to 30 mm from the centre")
    checked = checked or check(chain)
    arrives = likely_w(checked) if delivered_w is None else delivered_w
    arrives *= max(0.05, 1.0 - (around.offset_mm / 2.0 / SIDEWAYS_MM) ** 2)
    wired = chain.charger is None
    phone, charger = chain.phone, chain.charger
    heat_j, to_air, to_pad = BODIES[phone.body]
    if fitted is not None:
        heat_j, to_air = fitted.heat_capacity_j, fitted.conductance
    thickness = chain.case.thickness_mm if chain.case else 0.0
    to_air *= max(0.4, 1.0 - CASE_PER_MM * thickness)
    pad_j, pad_air = FORMS[charger.form] if charger else (20.0, 0.05)
    no_load = charger.no_load_w if charger and charger.no_load_w is not None else NO_LOAD_W
    if around.airflow == "fan on the phone":
        to_air, pad_air = to_air * FAN_ON_PHONE, pad_air * FAN_ON_PHONE
    elif around.airflow == "charger's own fan" and charger and charger.fan != "none":
        to_air, pad_air, no_load = to_air * OWN_FAN, pad_air * OWN_FAN, no_load + OWN_FAN_W
    efficiency = _efficiency(chain, around, thickness)
    nodes = Nodes(heat_j, pad_j, to_air, pad_air, 0.02 if wired else to_pad * max(0.3, 1.0 - 0.12 * thickness))
    scenario = Scenario(
        cell=usual_cell(phone.capacity_mah, phone.nominal_v, phone.battery_health or 1.0),
        nodes=nodes,
        stages=((0.0, max(arrives, 0.02)),),
        start_percent=around.start_percent,
        accepts_w=_accepts(chain, fitted),
        knee_percent=fitted.knee_percent if fitted else 82.0,
        last_share=fitted.last_share if fitted else 0.25,
        supply_w=max(checked.meter_w.high * 1.02, 0.1) if not wired else 400.0,
        volts=checked.deal.volts or 5.0,
        no_load_w=0.05 if wired else no_load,
        efficiency=0.99 if wired else efficiency,
        receiver=fitted.receiver if fitted else (WIRED_RECEIVER if wired else RECEIVER),
        idle_w=IDLE_W[around.phone_state],
        throttling=replace(SAVES_ITSELF, level_c=fitted.level_c) if fitted else SAVES_ITSELF,
        hold_percent=around.hold_percent,
        tail_s=around.tail_min * 60.0,
        ambient_c=around.ambient_c,
        most_s=36_000.0,
        events=around.events,
    )
    return Prepared(scenario, _origins(chain, around, scenario, delivered_w is None, fitted), checked)


def _accepts(chain: Chain, fitted: Fitted | None) -> float:
    """Power that the phone would take by itself [W]: its strongest profile, or what its battery takes easily."""
    if fitted is not None and fitted.accepts_w is not None:
        return fitted.accepts_w
    phone = chain.phone
    strongest = (phone.wired_w or 0.0) if chain.charger is None else max(t.watts for t in phone.accepts)
    return max(strongest, EASY_C_RATE * phone.battery_wh)


def likely_w(checked: ChainCheck) -> float:
    """Power that most likely arrives [W]: three quarters up the range, as most see the upper end of it (common
    practice).
    """
    return checked.delivered_w.low + 0.75 * (checked.delivered_w.high - checked.delivered_w.low)


def _efficiency(chain: Chain, around: Circumstances, thickness: float) -> float:
    gap = max(0.0, thickness - 1.0)
    held = chain.charger is not None and chain.charger.magnetic and holds_by_magnets(chain)
    offset = around.offset_mm if around.offset_mm else (0.0 if held else 2.0)
    share = (1.0 - EFFICIENCY_PER_MM * gap) * (1.0 - (offset / 2.0 / SIDEWAYS_MM) ** 2)
    return EFFICIENCY * max(0.35, share)


def _origins(
    chain: Chain, around: Circumstances, s: Scenario, from_check: bool, fitted: Fitted | None
) -> tuple[Given, ...]:
    phone, charger = chain.phone, chain.charger
    of_phone = f"{FITTED} {fitted.run}".strip() if fitted else OWN
    no_load_known = charger is not None and charger.no_load_w is not None
    return (
        Given("battery", f"{phone.capacity_mah:g} mAh at {phone.nominal_v:g} V", KIT),
        Given("watts that arrive", f"{s.stages[0][1]:.1f} W", CHAIN if from_check else "as set"),
        Given("charger's draw without a phone", f"{s.no_load_w:g} W", KIT if no_load_known else COMMON),
        Given("efficiency of the coil", f"{s.efficiency * 100:.0f} %", COMMON),
        Given("efficiency of the phone's charging", f"{s.receiver * 100:.0f} %", of_phone if fitted else COMMON),
        Given("phone's own use", f"{s.idle_w:g} W, {around.phone_state}", OWN),
        Given("body", f"{s.nodes.phone_j:.0f} J/K, {s.nodes.phone_air:.2f} W/K to the air", of_phone),
        Given("charger's body", f"{s.nodes.pad_j:.0f} J/K, {s.nodes.pad_air:.2f} W/K to the air", OWN),
        Given("holds itself at", _degrees(s.throttling.level_c), of_phone if fitted else COMMON),
        Given("slows down from", f"{s.knee_percent:.0f} %", of_phone if fitted else COMMON),
    )


def fit_figures(fitted: Fitted) -> tuple[Given, ...]:
    """Figures of a fit, one by one."""
    origin = f"{FITTED} {fitted.run}".strip()
    return (
        Given("efficiency of the phone's charging", f"{fitted.receiver * 100:.0f} %", origin),
        Given("body", f"{fitted.heat_capacity_j:.0f} J/K, {fitted.conductance:.2f} W/K to still air", origin),
        Given("slows down from", f"{fitted.knee_percent:.0f} %", origin),
        Given("power left at the end", f"{fitted.last_share * 100:.0f} %", origin),
        Given("holds itself at", _degrees(fitted.level_c), origin),
    )


def _degrees(celsius: float) -> str:
    return "no limit seen" if celsius >= NEVER else f"{celsius:.1f} °C"
