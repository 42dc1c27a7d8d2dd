"""Method cards of pack tests: what each is good for, how it is done, and the cautions that hold for all."""

from dataclasses import dataclass
from typing import Literal

from .rating import CABIN_WH, Rating

PackTestKind = Literal["load", "charge", "recharge", "standby", "pass_through", "phone_to_phone"]


@dataclass(frozen=True)
class PackMethod:
    """A method: its name, the kind of test, what it is good for, its steps in order, minutes between looks at the
    gauge, hours that the pack rests before it, and whether it must be full then."""

    name: str
    kind: PackTestKind
    good_for: str
    steps: tuple[str, ...]
    interval_min: float = 30.0
    rest_h: float = 1.0
    from_full: bool = True


METHODS: tuple[PackMethod, ...] = (
    PackMethod(
        "Full to empty at one load", "load", "what it gives: watt-hours, hours, cut-off", (
            "Fill it, and let it rest for an hour at room temperature.",
            "Read the volts with nothing on it.",
            "One load, about a fifth of its rated watt-hours an hour: what capacities are rated at (0.2 of the capacity"
            " an hour, IEC 61960-3, from memory).",
            "Log until the output goes off by itself; stay by it the first time.",
        )),
    PackMethod(
        "Load in steps", "load", "how it holds up: volts under load, resistance, where it lets go", (
            "Fill it; read the volts with nothing on it.",
            "Half an ampere more every three minutes, at one voltage, until it lets go.",
            "Note how its output comes back: by itself, by its button, or once the load is off.",
        ), interval_min=10.0),
    PackMethod(
        "Small load", "load",
        "whether it sleeps under a watch or earphones, with its mode for small loads and without", (
            "100 mA, then 50 mA, half an hour each.",
            "The same with its mode for small loads on.",
        ), interval_min=15.0, from_full=False),
    PackMethod(
        "Empty to full", "recharge", "hours to full, what that takes, and with a load test the round trip", (
            "Empty it under a load; let it cool to the room.",
            "Log the cord in until it draws next to nothing for five minutes.",
        ), from_full=False),
    PackMethod(
        "One phone from full", "charge", "full charges of a phone, by coil and by cord", (
            "Fill the pack; the phone cool, at 5 to 10 %.",
            "Read pack and phone before and after; once by coil, once by cord, with nothing else changed.",
        ), interval_min=15.0),
    PackMethod(
        "Phones in turn", "charge", "what a pack gives until it is empty: no rest of its gauge is left to guess", (
            "Fill the pack; charge one phone after the other, none of them to more than 80 %.",
            "Where the pack goes off, read the phone: that counts.",
        ), interval_min=15.0),
    PackMethod(
        "Left unused", "standby", "what it loses by itself", (
            "Fill it; read its level; read it again after some weeks, unused, at room temperature.",
        )),
    PackMethod(
        "Passing power through", "pass_through",
        "whether it feeds something while it is charged, and what that costs", (
            "Fill it first. A meter before it and one behind it, on one clock; one load after the other.",
        )),
    PackMethod(
        "Phone to phone", "phone_to_phone", "what a phone gives another, and at which level it stops", (
            "Both cool; read both together every quarter of an hour, until the one that gives stops.",
            "Read its temperature: some stop by heat, not by their level.",
        ), interval_min=15.0, rest_h=0.5),
)  # fmt: skip
"""The methods that come ready (common practice)."""


def methods_of(kind: PackTestKind) -> tuple[PackMethod, ...]:
    """The methods of a kind of test."""
    return tuple(m for m in METHODS if m.kind == kind)


def method_named(name: str, kind: PackTestKind) -> PackMethod | None:
    """A method by its name; of an empty name the first of its kind."""
    return next((m for m in methods_of(kind) if not name.strip() or m.name.casefold() == name.strip().casefold()), None)


UNATTENDED = (
    "Never leave the first discharge of an unknown pack unattended; put it on a surface that does not burn, away from"
    " what does."
)
STOP = (
    "Take the load off and separate at swelling, smell, smoke, hiss, or a surface that you cannot hold; do not charge"
    " such a pack again."
)
LOADS = (
    "Use a load that is certified for these volts and amps: its resistor grows hot, and its fan must run. Local"
    " electrical codes decide."
)
LARGE = "More than 100 Wh: transport and storage have rules of their own; ask the carrier and the local authority."


def pack_cautions(rated: Rating) -> list[str]:
    """Cautions for a pack of this rating (common practice); nothing here says that a pack is safe."""
    return [UNATTENDED, STOP, LOADS, *([LARGE] if rated.wh > CABIN_WH else [])]
