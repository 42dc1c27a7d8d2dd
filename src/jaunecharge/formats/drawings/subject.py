"""Subject of the drawings of a finding: its phones and chargers with their runs, its packs, its chains."""

from dataclasses import dataclass, field

from ...core.packs import Stage
from ...documents.ribbon import RibbonDocument

Interval = tuple[float, float, float]
"""Earliest, estimate, latest [min]."""


@dataclass(frozen=True)
class DrawnLink:
    """A link of a chain: what it is, what it could pass and what flows [W at the meter], and why."""

    link: str
    passes_w: float
    flows_w: float
    label: str = ""


@dataclass(frozen=True)
class DrawnChain:
    """A chain as a channel; narrowest : the link that limits it."""

    title: str
    links: tuple[DrawnLink, ...]
    narrowest: str


@dataclass(frozen=True)
class DrawnRow:
    """A charger on a phone, by its typical run. minutes, noise [min] over the window; checkins : (minute, %);
    milestones : by percentage; hottest [°C]; price : amount and currency."""

    label: str
    ribbon: RibbonDocument
    checkins: tuple[tuple[float, float], ...]
    minutes: float
    noise: float
    place: str
    milestones: dict[int, Interval] = field(default_factory=dict)
    hottest: float | None = None
    price: tuple[float, str] | None = None


@dataclass(frozen=True)
class DrawnPhone:
    """A phone under like conditions and its chargers, the soonest first."""

    phone: str
    tier: str
    where: str
    window: tuple[float, float]
    rows: tuple[DrawnRow, ...]

    @property
    def head(self) -> str:
        """`15 W, magnetic: Ostrel Max`."""
        return f"{self.tier}: {self.phone}" if self.tier else self.phone


@dataclass(frozen=True)
class DrawnPack:
    """A pack and the walk of its energy."""

    label: str
    stages: tuple[Stage, ...]


@dataclass(frozen=True)
class Subject:
    """All that is drawn of a finding. foot : one line at the foot; fahrenheit : unit of its temperatures."""

    question: str
    foot: str
    phones: tuple[DrawnPhone, ...]
    packs: tuple[DrawnPack, ...] = ()
    chains: tuple[DrawnChain, ...] = ()
    fahrenheit: bool = False

    @property
    def full_watts(self) -> float:
        """Watts at which a band is as high as it may be, the same in all drawings."""
        return max([10.0, *(w for p in self.phones for r in p.rows for w in r.ribbon.watts if w is not None)])

    @property
    def minutes(self) -> float:
        """Minutes of the longest run shown."""
        return max([30.0, *(r.ribbon.minutes for p in self.phones for r in p.rows)])
