"""Material of a finding: runs and packs as others read them, what was planned, what makers and other testers say."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

from ..kit.items import Charger, Phone
from ..kit.transfer import MAGNETIC
from ..measured import Measured
from ..packs.overview import Overview
from ..packs.rating import Rating
from ..reading.standby import Habits
from ..versus.contender import Contender
from .question import FindingQuestion

Audience = Literal["buyer", "association", "engineer"]
Got = Literal["not stated", "bought", "lent", "sponsored"]


@dataclass(frozen=True)
class OutputSeen:
    """Output of the charger in a run, as its reading has it: watts [W]; claimed_w [W]; claim_met : None where it is
    undecided, and `undecided` says why; after_full_w : draw once full [W]; source : the run's label."""

    watts: Measured | None = None
    claimed_w: float | None = None
    claim_met: bool | None = None
    undecided: str = ""
    after_full_w: Measured | None = None


@dataclass(frozen=True)
class PackSeen:
    """A pack by its tests; price : amount and currency."""

    label: str
    rated: Rating
    found: Overview
    price: tuple[float, str] | None = None
    claimed_w: float | None = None


@dataclass(frozen=True)
class WantedRun:
    """A run of a plan that is still to come, or was let go: its phone, its charger, what sets it apart, whether it is
    still to come, and how long it takes with its drain [min]."""

    phone: str
    said: str
    to_come: bool
    minutes: float


@dataclass(frozen=True)
class ClaimTyped:
    """A claim as somebody makes it: of what (charger or pack), in which words, against what where it compares."""

    about: str
    text: str
    against: str = ""


@dataclass(frozen=True)
class Foreign:
    """A figure that somebody else published: never reckoned with, always marked."""

    what: str
    figure: str
    source: str
    date: str = ""


@dataclass(frozen=True)
class Disclosed:
    """Origin of a piece of kit: bought, lent, sponsored."""

    label: str
    got: Got = "not stated"
    note: str = ""


@dataclass(frozen=True)
class PhoneTier:
    """Tier of phones by what they take by coil: watts [W], and whether by magnets; one that is not known has none."""

    watts: float
    magnetic: bool

    @property
    def said(self) -> str:
        """`15 W, magnetic`."""
        return f"{self.watts:g} W{', magnetic' if self.magnetic else ''}"


def tier_of(phone: Phone) -> PhoneTier | None:
    """The tier of a phone; None where what it takes is not known."""
    if not phone.accepts:
        return None
    return PhoneTier(max(t.watts for t in phone.accepts), any(t.name in MAGNETIC for t in phone.accepts))


@dataclass(frozen=True)
class Material:
    """All that a finding is drawn up from.

    runs : with their power where it was metered; phones, chargers : kit that the runs used, by label without capitals;
    outputs : by key of the run; wanted : runs of its plan that were not made; out : runs that were chosen and are no
    longer there, by label.
    """

    question: FindingQuestion
    audience: Audience
    runs: Sequence[Contender]
    phones: Mapping[str, Phone] = field(default_factory=dict)
    chargers: Mapping[str, Charger] = field(default_factory=dict)
    outputs: Mapping[str, OutputSeen] = field(default_factory=dict)
    packs: Sequence[PackSeen] = ()
    wanted: Sequence[WantedRun] = ()
    claims: Sequence[ClaimTyped] = ()
    foreign: Sequence[Foreign] = ()
    disclosed: Sequence[Disclosed] = ()
    habits: Habits = field(default_factory=Habits)
    fahrenheit: bool = False
