"""A chain from what is printed on its parts, or from a shelf, as options of a command say it."""

import re
from typing import TypeVar

from ..core.errors import CannotRead
from ..core.kit import (
    MOST_A,
    MOST_MAH,
    MOST_TRANSFER_W,
    Adapter,
    Cable,
    Case,
    Charger,
    Kit,
    Pad,
    Phone,
    Transfer,
    as_charger,
    offers,
    parts,
    supply_profiles,
    transfers,
    transmits,
)

USUAL_PHONE_MAH, USUAL_PHONE_V = 4400.0, 3.87
"""The battery where none is named: wide enough never to be the narrowest link of a usual chain."""

Piece = TypeVar("Piece", bound=Kit)


def printed_adapter(text: str) -> Adapter:
    """An adapter from its profiles or its rating."""
    offered = offers(text, "--adapter")
    return Adapter(label="adapter", profiles=offered.profiles, pps=offered.pps, rated_w=offered.rated_w)


def printed_cable(amps: float) -> Cable:
    """A cable from its amps."""
    return Cable(label="cable", amps=above(amps, "--cable-amps", "A", MOST_A))


def printed_charger(gives: str, needs: str, claim: float | None) -> Charger:
    """A charger from the profiles that it gives, what it asks for, and its claim [W]."""
    if not gives.strip():
        raise CannotRead("no charger is named", "say what it gives, as --charger Qi2, or --wired", file="--charger")
    return Charger(
        label="charger",
        pads=(Pad("", transfers(stated(gives) or "bpp", "--charger")),),
        asks=supply_profiles(needs, "--charger-needs") if needs else (),
        agrees=("pd", "pps"),
        claimed_w=None if claim is None else above(claim, "--charger-claims-w", "W", MOST_TRANSFER_W),
    )


UNSTATED = re.compile(r"^own:[^=@\s]+$", re.IGNORECASE)
"""A maker's own profile of which nobody said the watts."""


def stated(profiles: str) -> str:
    """Profiles less those whose watts nobody said; where none is left, both sides still know the basic one."""
    return ", ".join(p for p in parts(profiles) if not UNSTATED.match(p))


def unstated(gives: str, takes: str) -> list[str]:
    """Gaps left by makers' own profiles without watts, in words."""
    names = {p.casefold() for text in (gives, takes) for p in parts(text) if UNSTATED.match(p)}
    return [
        f"{name} states no watts: this is what is sure without it; where both sides know it, the phone may get more. "
        f"Write {name}=WATTS to have that answered too."
        for name in sorted(names)
    ]


def printed_phone(takes: str, limit_w: float | None, wired: bool, capacity_mah: float, nominal_v: float) -> Phone:
    """A phone from the profiles that it takes, its limit [W] and its battery."""
    limit = None if limit_w is None else above(limit_w, "--phone-limit-w", "W", MOST_TRANSFER_W)
    return Phone(
        label="phone",
        capacity_mah=above(capacity_mah, "--capacity-mah", "mAh", MOST_MAH),
        nominal_v=above(nominal_v, "--nominal-v", "V", 30),
        accepts=_accepts(takes, limit, wired),
        wired_w=limit if wired else None,
    )


def _accepts(takes: str, limit: float | None, wired: bool) -> tuple[Transfer, ...]:
    if not takes.strip():
        if wired:
            return transfers("bpp", "--phone")
        raise CannotRead("no phone is named", "say what it takes, as --phone Qi2", file="--phone")
    known = transfers(stated(takes) or "bpp", "--phone")
    return known if limit is None or wired else tuple(Transfer(t.name, min(t.watts, limit)) for t in known)


def above(value: float, option: str, unit: str, most: float) -> float:
    """The value, if it lies above 0 and is at most `most`.

    Raises
    ------
    CannotRead
    """
    if not 0 < value <= most:
        raise CannotRead(f"{value:g} {unit} cannot be", f"above 0 and at most {most:g} {unit}", file=option)
    return value


def from_shelf(shelf: tuple[Kit, ...], kind: type[Piece], text: str) -> Piece | None:
    """The piece of a kind on the shelf that has this label, or None."""
    wanted = text.strip().lower()
    return next((i for i in shelf if isinstance(i, kind) and i.label.lower() == wanted), None)


def charger_from_shelf(shelf: tuple[Kit, ...], text: str) -> Charger | None:
    """The transmitter of this label, as a charger: a charger, a pack, a phone that gives away."""
    wanted = text.strip().lower()
    return next((as_charger(i) for i in shelf if transmits(i) and i.label.lower() == wanted), None)


def printed_case(text: str) -> Case | None:
    """A case from its thickness [mm] at the back, magnets after it: `2`, `1.2 magnets`."""
    words = text.lower().replace("mm", " ").split()
    if not words:
        return None
    try:
        thickness = float(words[0].replace(",", "."))
    except ValueError as error:
        raise CannotRead(f"“{text}” is not a case", "its thickness in mm, as 2, or 1.2 magnets", "--case") from error
    return Case(label="case", thickness_mm=above(thickness, "--case", "mm", 30), magnets="magnets" in words[1:])
