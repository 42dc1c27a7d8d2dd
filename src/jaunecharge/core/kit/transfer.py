"""Transfer profiles: how a charger and a phone agree, and on how many watts."""

import re
from dataclasses import dataclass
from typing import Annotated

from annotated_types import Gt, Le

from ..errors import CannotRead
from .standards import TRANSFER_WATTS
from .supply import parts

MOST_TRANSFER_W = 100.0
TransferWatts = Annotated[float, Gt(0), Le(MOST_TRANSFER_W)]

_STATED = re.compile(
    r"^(?P<name>own:[^=@\s]+?|[a-z0-9-]+)(?:\s*[=@:\s]\s*(?P<watts>[-−]?\d+(?:[.,]\d+)?)\s*W?)?$", re.IGNORECASE
)
KNOWN = f"known are Qi, Qi2, {', '.join(TRANSFER_WATTS)} and own:NAME=WATTS"
BY_NAME = {"qi": ("bpp", "epp"), "qi2": ("mpp", "mpp25")}
"""Profiles of a standard as its name stands on boxes, the weakest first: Qi 5 W, Qi 15W, Qi2, Qi2 25W."""

NAMES = {"bpp": "Qi", "epp": "Qi", "mpp": "Qi2", "mpp25": "Qi2", "magnet-only": "magnets only"}
MAGNETIC = frozenset({"mpp", "mpp25", "magnet-only"})


@dataclass(frozen=True)
class Transfer:
    """A transfer profile and the most watts that this device gives or takes by it."""

    name: str
    watts: TransferWatts

    @property
    def own(self) -> bool:
        """Whether it is a maker's own."""
        return self.name.startswith("own:")

    def __str__(self) -> str:
        return self.name if self.watts == TRANSFER_WATTS.get(self.name) else f"{self.name}={self.watts:g}W"

    @property
    def standard(self) -> str:
        """The name of its standard, as it stands on boxes; of a maker's own its own name."""
        return NAMES.get(self.name, f"{self.name.removeprefix('own:')}, a maker's own")

    @property
    def said(self) -> str:
        """As a sentence has it."""
        own = f"{self.name.removeprefix('own:')} (a maker's own)"
        return f"{NAMES.get(self.name, own)} {self.watts:g} W"


@dataclass(frozen=True)
class Agreement:
    """Agreement of charger and phone: the profile, the watts it can deliver [W], between which, and why."""

    profile: str
    watts: float
    why: str
    held_by: str
    """Which of the two keeps it down: `charger`, `phone`, or empty where they match."""


def transfer(text: str, field: str) -> Transfer:
    """One profile, as `mpp`, `mpp@12` where the device stays below its watts, or `own:NAME=18`.

    Raises
    ------
    CannotRead
        If it is unknown, a maker's own without watts, or its watts cannot be.
    """
    match = _STATED.match(text.strip())
    name = match["name"] if match else ""
    if not name.lower().startswith("own:"):
        name = name.lower()
    if match is not None and name in BY_NAME:
        watts = None if match["watts"] is None else float(match["watts"].replace(",", ".").replace("−", "-"))
        return _by_name(name, watts, field)
    if match is None or not (name in TRANSFER_WATTS or name.lower().startswith("own:")):
        raise CannotRead(f"“{text.strip()}” is not a transfer profile", KNOWN, file=field)
    if match["watts"] is None:
        if name not in TRANSFER_WATTS:
            raise CannotRead(f"“{name}” is a maker's own profile without watts", f"write {name}=15", file=field)
        return Transfer(name, TRANSFER_WATTS[name])
    watts = float(match["watts"].replace(",", ".").replace("−", "-"))
    if not 0 < watts <= MOST_TRANSFER_W:
        raise CannotRead(f"“{text.strip()}”: {watts:g} W cannot be", "above 0 and at most 100 W", file=field)
    if name in TRANSFER_WATTS and watts > TRANSFER_WATTS[name]:
        raise CannotRead(
            f"“{text.strip()}”: {name} ends at {TRANSFER_WATTS[name]:g} W",
            "name the profile that gives more",
            file=field,
        )
    return Transfer(name.lower(), watts)


def _by_name(name: str, watts: float | None, field: str) -> Transfer:
    """A profile by the name of its standard: the weakest that gives so many watts; the first where none are said."""
    profiles = BY_NAME[name]
    if watts is None:
        return Transfer(profiles[0], TRANSFER_WATTS[profiles[0]])
    for profile in profiles:
        if 0 < watts <= TRANSFER_WATTS[profile]:
            return Transfer(profile, watts)
    most = TRANSFER_WATTS[profiles[-1]]
    mend = f"above 0 and at most {most:g} W; a maker's own mode is own:NAME={watts:g}"
    raise CannotRead(f"{name.capitalize()} does not give {watts:g} W", mend, file=field)


def transfers(text: str, field: str) -> tuple[Transfer, ...]:
    """Profiles separated by commas.

    Raises
    ------
    CannotRead
    """
    parsed = tuple(transfer(part, field) for part in parts(text))
    if not parsed:
        raise CannotRead("no transfer profile is given", KNOWN, file=field)
    if field.endswith("phone") and (wrong := next((t for t in parsed if t.name == "magnet-only"), None)):
        raise CannotRead(
            f"“{wrong.name}” is what a charger gives, not what a phone takes", "write what the phone takes: bpp, epp, "
            "mpp, mpp25 or own:NAME=WATTS", file=field,
        )  # fmt: skip
    return parsed


def agree(gives: tuple[Transfer, ...], takes: tuple[Transfer, ...]) -> Agreement:
    """The profile with the most watts that both sides know.

    Every charger and every phone knows the basic profile; a magnetic 25 W device knows the magnetic 15 W one. A phone
    that knows more than the basic profile takes 7.5 W from a pad that has magnets without the magnetic profile, and a
    magnetic phone the same from an extended pad (common practice).
    """
    best: tuple[float, str, Transfer, Transfer] | None = None
    for charger in _with_implied(gives, True):
        for phone in _with_implied(takes, False):
            named = _shared(charger.name, phone.name)
            if named is None:
                continue
            watts = min(charger.watts, phone.watts, _ceiling(charger.name, phone.name))
            if best is None or watts > best[0]:
                best = (watts, named, charger, phone)
    assert best is not None, "both sides know the basic profile"
    watts, name, _, _ = best
    most_given = max(t.watts for t in gives)
    most_taken = max(t.watts for t in takes)
    strongest = max(gives, key=lambda t: t.watts)
    wanted = max(takes, key=lambda t: t.watts)
    if watts >= most_given and watts >= most_taken:
        return Agreement(name, watts, f"both know {_one(name, watts)}", "")
    if watts >= most_given:
        return Agreement(name, watts, f"the charger ends at {most_given:g} W ({strongest.standard})", "charger")
    if watts >= most_taken:
        return Agreement(name, watts, f"the phone takes {most_taken:g} W at most ({wanted.standard})", "phone")
    return Agreement(
        name, watts, f"the charger's {strongest.said} and the phone's {wanted.said} differ: they meet at "
        f"{_one(name, watts)}", "charger",
    )  # fmt: skip


def phone_limit_w(gives: tuple[Transfer, ...], takes: tuple[Transfer, ...]) -> float | None:
    """Watts [W] at which the phone, not the charger, keeps a test down; None where it does not."""
    agreement = agree(gives, takes)
    return agreement.watts if agreement.held_by == "phone" else None


def _one(name: str, watts: float) -> str:
    return Transfer(name, watts).said


def _with_implied(known: tuple[Transfer, ...], charger: bool) -> tuple[Transfer, ...]:
    more = [Transfer("bpp", min(TRANSFER_WATTS["bpp"], max(t.watts for t in known)))]
    for t in known:
        if t.name == "mpp25":
            more.append(Transfer("mpp", min(TRANSFER_WATTS["mpp"], t.watts)))
        if charger and t.name in {"mpp", "mpp25"}:
            more.append(Transfer("magnet-only", min(TRANSFER_WATTS["magnet-only"], t.watts)))
    return (*known, *more)


def _shared(charger: str, phone: str) -> str | None:
    """The name under which the two meet, or None."""
    if charger == phone:
        return charger
    if charger == "magnet-only" and phone in {"epp", "mpp", "mpp25"}:
        return "magnet-only"
    if charger == "epp" and phone in {"mpp", "mpp25"}:
        return "epp"
    return None


def _ceiling(charger: str, phone: str) -> float:
    if charger == "epp" and phone in {"mpp", "mpp25"}:
        return TRANSFER_WATTS["magnet-only"]
    return TRANSFER_WATTS.get(charger, float("inf")) if not charger.startswith("own:") else float("inf")
