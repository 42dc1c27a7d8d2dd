"""Output of the charger, by every method that the run allows, its class, and whether its claim is met."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..kit.standards import CLASSES_W, REFERENCE_RATIO, REFERENCE_RATIO_U
from ..measured import Measured, Part, rectangle

Point = Literal["charger", "battery"]
LOW_VOLTS, CLAIM_NEEDS_MORE_W = 6.5, 7.5
"""A claim above this is not reached from 5 V (common practice: the wanted profile missing gives 6 to 10 W drawn)."""

SETTLE_S = 60.0
OVERHEAD_SHARE = 0.5
"""Half-width of what the charger's own draw may be under load, as a share of the idle draw that stands for it."""


@dataclass(frozen=True)
class Ratio:
    """Watts drawn at the meter per watt delivered, and where it is from."""

    value: Measured
    source: str
    own: bool = False


USUAL_RATIO = Ratio(
    Measured(REFERENCE_RATIO, (Part("reference ratio, usual spread", REFERENCE_RATIO_U),)), "common practice"
)
GIVEN_RATIO_SHARE = 0.02
"""Standard uncertainty of a ratio that is given as a bare number, as a share of it (own choice)."""


def given_ratio(k: float) -> Ratio:
    """A ratio of one's own that came without its uncertainty."""
    return Ratio(Measured(k, (Part("reference ratio as given, 2 % taken", GIVEN_RATIO_SHARE * k),)), "as given", True)


def ratio_of_reference(drawn: Measured, delivered_w: float, run: str) -> Ratio:
    """k = P_ref / W_ref of a run on a chain that is known to deliver so many watts.

    Parameters
    ----------
    drawn : Measured [W]
        Best settled of the reference run, without the meter's gain where the same meter is used again.
    delivered_w : float [W]
    run : str
        Its label.

    Raises
    ------
    ValueError
        If the watts delivered are not above 0, or above those drawn.
    """
    if not 0 < delivered_w <= drawn.value:
        raise ValueError("a chain delivers more than 0 W, and no more than it draws")
    return Ratio(drawn.scaled(1.0 / delivered_w), f"{run}: {drawn.value:.2f} W drawn for {delivered_w:g} W", True)


@dataclass(frozen=True)
class OutputEstimate:
    """Estimate of the output by one method [W], where along the chain, and what it assumes."""

    method: str
    point: Point
    watts: Measured
    assumes: str
    formula: str
    numbers: str


@dataclass(frozen=True)
class OutputClass:
    """The class that fits best [W]; whether it fits at all; others that cannot be told apart; and the claim.

    claim_met : by the best settled power; None where there is none, or something prevented the test: `undecided` says
    what. kept : output on average to 60 % [W]; claim_kept : whether the claim is met by that as well.
    """

    watts: float
    fits: bool
    also_possible: tuple[float, ...]
    output: Measured
    claimed_w: float | None
    claim_met: bool | None
    undecided: str = ""
    kept: Measured | None = None
    claim_kept: bool | None = None


@dataclass(frozen=True)
class Output:
    """All estimates of the output, and the class."""

    ratio: Ratio
    estimates: tuple[OutputEstimate, ...]
    group: OutputClass | None


def by_ratio(settled: Measured, ratio: Ratio) -> OutputEstimate:
    """Output = P / k at the charger."""
    return OutputEstimate(
        "reference ratio",
        "charger",
        settled.over(ratio.value),
        "one ratio holds for all powers and phones",
        "output = best settled ÷ k",
        f"{settled.value:.2f} W ÷ {ratio.value.value:.3f} (± {ratio.value.expanded:.3f}; {ratio.source})",
    )


def by_idle(settled: Measured, idle: Measured, which: str) -> OutputEstimate:
    """Output = P − overhead at the charger, the overhead being an idle draw."""
    parts = (
        *settled.parts,
        *(p for p in idle.parts if "gain" not in p.source),
        Part("overhead under load, unlike the idle draw", rectangle(OVERHEAD_SHARE * idle.value)),
    )
    return OutputEstimate(
        f"idle subtraction, {which}",
        "charger",
        Measured(settled.value - idle.value, parts),
        "the charger's own draw is the same under load as idle; the coil's loss is not taken off",
        f"output = best settled − {which} draw",
        f"{settled.value:.2f} W − {idle.value:.2f} W",
    )


def by_account(gained_wh: Measured, seconds: float, window: tuple[float, float]) -> OutputEstimate:
    """Mean power that arrived in the battery over the account's window: a later point of the chain."""
    hours = seconds / 3600.0
    return OutputEstimate(
        "battery account",
        "battery",
        gained_wh.scaled(1.0 / hours),
        "the phone's percentage is linear in its charge, at the nominal voltage",
        "watts = points gained ÷ 100 × capacity × voltage ÷ time",
        f"{window[0]:g} to {window[1]:g} %: {gained_wh.value:.2f} Wh in {hours * 60:.0f} min",
    )


def classify(
    output: Measured, claimed_w: float | None, undecided: str = "", kept: Measured | None = None
) -> OutputClass:
    """The class of a charger's output, and its claim.

    A class fits where the interval (k = 2) reaches it. A claim is met where the interval reaches it; it stays undecided
    where it is not reached and something prevented the test. What was kept up is held against it apart.

    References
    ----------
    Classes: common practice. Coverage factor 2: JCGM 100:2008, 6.2.1.
    """
    classes = np.array(CLASSES_W)
    inside = classes[np.abs(classes - output.value) <= output.expanded]
    nearest = float(classes[int(np.argmin(np.abs(classes - output.value)))])
    best = nearest if not len(inside) else float(inside[int(np.argmin(np.abs(inside - output.value)))])
    met: bool | None = None
    lasts: bool | None = None
    if claimed_w is not None:
        reached = output.value + output.expanded >= claimed_w
        met = True if reached else (None if undecided else False)
        lasts = None if kept is None else kept.value + kept.expanded >= claimed_w
    return OutputClass(
        best,
        bool(len(inside)),
        tuple(float(c) for c in inside if c != best),
        output,
        claimed_w,
        met,
        undecided if met is None and claimed_w is not None else "",
        kept,
        lasts,
    )


def prevented(
    claimed_w: float | None,
    settled_volts: float | None,
    phone_limit_w: float | None,
    hot_s: float | None,
    limited_by_supply: bool,
) -> str:
    """Obstacle to the test of a claim: adapter, phone or heat; empty where nothing did.

    Parameters
    ----------
    claimed_w, phone_limit_w : float or None [W]
    settled_volts : float or None [V]
        Volts while the power was best settled.
    hot_s : float or None [s]
        How long after the ramp the phone first was hot; None if it never was.
    limited_by_supply : bool
        Whether the supply fell back before power had settled.
    """
    if claimed_w is None:
        return ""
    if phone_limit_w is not None and phone_limit_w < claimed_w:
        return f"the phone takes {phone_limit_w:g} W at most"
    if limited_by_supply:
        return "the adapter gave less from early on"
    if settled_volts is not None and settled_volts < LOW_VOLTS and claimed_w > CLAIM_NEEDS_MORE_W:
        return f"the adapter gave {settled_volts:.1f} V: the charger's profile is missing"
    if hot_s is not None and hot_s < SETTLE_S:
        return "the phone was hot before power had settled"
    return ""
