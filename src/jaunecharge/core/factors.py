"""Factors: anything that can differ between two runs, each named once."""

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

NOT_STATED = ""

NO_ADAPTER = "none (a pack)"
"""The level of a charger that feeds itself, or a phone that gives away."""

WIRED = "wired"
"""The level of a run without a charger: the usual baseline."""

SAME_AMBIENT_K = 2.0
"""Ambients within 2 K are equal; so is a thing as cool as its room (common practice)."""

START_SLACK = 5.0
"""Points by which a start may miss the one that is meant (own choice)."""

NO_CASE = "none"
DARK_PAGE, SCREEN_ON = "screen on, dark page", "screen on"
"""Phone states of a run whose phone reports from its own browser: a lit screen warms it and drains it."""

OWN_FAN = "charger's own fan"
SHORT = {OWN_FAN: "own fan", "fan on the phone": "fan", NO_CASE: "no case", DARK_PAGE: "dark page"}
"""Levels as runs and cells are told apart by them, where their full name is long or says too little."""


def with_own_supply(factors: Mapping[str, str], charger_kind: str) -> dict[str, str]:
    """Factors that a run states, with the adapter of a charger that needs none named so."""
    own = charger_kind in {"pack", "phone"} and not factors.get("adapter")
    return {**factors, "adapter": NO_ADAPTER} if own else dict(factors)


@dataclass(frozen=True)
class Factor:
    """One factor: its name in records, how it is said, an example, and whether it is among the common ones."""

    name: str
    said: str
    example: str = ""
    common: bool = False


FACTORS: tuple[Factor, ...] = (
    Factor("phone", "phone", common=True),
    Factor("charger", "charger", common=True),
    Factor("adapter", "adapter", common=True),
    Factor("cable", "cable", common=True),
    Factor("case", "case or magnet ring", "none, thin case", common=True),
    Factor("airflow", "airflow", "still air, fan on the phone", common=True),
    Factor("phone_state", "phone state", f"off, idle, in use, {DARK_PAGE}", common=True),
    Factor("ambient", "ambient", "22 °C, 30 °C", common=True),
    Factor("software", "phone's software version", "6.1, 6.2"),
    Factor("place", "place on a multi-charger", "left, right"),
    Factor("beside", "what else charges on it", "nothing, a watch"),
    Factor("shares", "what else hangs on the adapter", "nothing, a lamp"),
    Factor("alignment", "alignment", "centred, 5 mm off"),
    Factor("orientation", "orientation", "upright, lying"),
    Factor("start", "start %", "0 %, 10 %"),
    Factor("meter_in_line", "meter in line or not", "in line, without"),
    Factor("method", "method", "from ten to full"),
)
"""Every factor, the common ones first."""

NAMES: tuple[str, ...] = tuple(f.name for f in FACTORS)
_BY_NAME = {f.name: f for f in FACTORS}


def said_of(name: str) -> str:
    """Words for a factor; of an unknown one its own name."""
    known = _BY_NAME.get(name)
    return name.replace("_", " ") if known is None else known.said


Levels = Mapping[str, str]
"""Factors that were stated, each level written as equal ones are: without capitals and needless spaces."""

_NOTHING = frozenset({"nothing", "none", "no", "-", "–"})


def more_on_adapter(factors: Mapping[str, str]) -> bool:
    """Whether a run states that something else hung on its adapter."""
    level = levels_of(factors).get("shares", "")
    return bool(level) and level not in _NOTHING


_NO_CASE = frozenset({"no", "none", "no case", "off", "without", "bare"})
_BEFORE_UNIT = re.compile(r"(?<=\d)\s+(?=[a-zµ°%])")


def levels_of(factors: Mapping[str, str]) -> Levels:
    """Factors that a run states, so written that equal levels are alike; what is not stated is left out."""
    levels = {}
    for name, text in factors.items():
        level = _BEFORE_UNIT.sub("", " ".join(text.casefold().split()))
        if name == "case" and level in _NO_CASE:
            level = NO_CASE
        if level:
            levels[name] = level
    return levels


def in_order(names: Iterable[str]) -> tuple[str, ...]:
    """Names of factors: the known ones in their order, others behind."""
    given = set(names)
    return (*(n for n in NAMES if n in given), *sorted(given - set(NAMES)))


_NUMBER = re.compile(r"[-−]?\d+(?:[.,]\d+)?")


def number_in(text: str) -> float | None:
    """The first number of a level."""
    match = _NUMBER.search(text)
    return float(match[0].replace("−", "-").replace(",", ".")) if match else None


@dataclass(frozen=True)
class Aliased:
    """Two things that always change together: neither can be told from the other."""

    a: str
    a_level: str
    b: str
    b_level: str

    @property
    def said(self) -> str:
        """In one sentence, with what would tell them apart."""
        return (
            f"Two things always change together: {_level(self.a, self.a_level)} and {_level(self.b, self.b_level)}. "
            f"Add one run of {self.a_level} with another {said_of(self.b)} to tell them apart."
        )


def _level(factor: str, level: str) -> str:
    return level if factor in {"phone", "charger"} else f"{said_of(factor)} “{level}”"


_INTRINSIC = frozenset({("charger", "place"), ("phone", "software")})
"""Pairs of which the second is a part of the first: no plan can take them apart."""


def aliased(runs: Sequence[Mapping[str, str]]) -> list[Aliased]:
    """Levels of two factors that stand in exactly the same runs of a plan, and not in all of them.

    Parameters
    ----------
    runs : sequence of mappings of factor name to level
        What is not stated counts as equal in all.
    """
    where: dict[tuple[str, str], frozenset[int]] = {}
    for name in NAMES:
        levels = {run.get(name, NOT_STATED) for run in runs}
        if len(levels) > 1:
            for level in sorted(levels - {NOT_STATED}):
                where[name, level] = frozenset(i for i, run in enumerate(runs) if run.get(name, NOT_STATED) == level)
    keys = list(where)
    pairs: list[Aliased] = []
    seen: set[tuple[str, str, frozenset[int]]] = set()
    for i, (a, a_level) in enumerate(keys):
        for b, b_level in keys[i + 1 :]:
            if a == b or (a, b) in _INTRINSIC or where[a, a_level] != where[b, b_level]:
                continue
            rest = frozenset(range(len(runs))) - where[a, a_level]
            # Of two levels each, either half says the same as the other.
            if (a, b, rest) not in seen:
                seen.add((a, b, where[a, a_level]))
                pairs.append(Aliased(a, a_level, b, b_level))
    return pairs
