"""The matrix of a plan: kit × conditions, each cell with its chain and what speaks against running it."""

import itertools
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from ..chain.check import Chain, ChainCheck, check
from ..errors import CannotRead
from ..factors import NAMES, NO_CASE, OWN_FAN, SHORT, number_in, said_of
from ..forecast.coverage import Row, not_worth_testing, with_best_adapter
from ..kit.items import Adapter, Cable, Case, Phone
from ..labels import label
from ..simulator.circumstances import AIRFLOWS, IDLE_W, Circumstances
from ..simulator.fitted import Fitted
from ..units import from_fahrenheit
from .method import AdapterRule, Card

MOST_LEVELS = 12
MOST_CELLS = 2000
NOTHING = "nothing"

MATRIX_FACTORS = frozenset({"phone", "charger", "adapter", "cable", "place", "method", "start"})
"""Factors that kit, adapter rule and card decide; the others can be given levels."""


@dataclass(frozen=True)
class Choice:
    """Choice of a matrix.

    rows : chargers at their places; a row without a charger is the wired baseline. adapters : the one for all first;
    the best for each is chosen among all of them. cases : by label. levels : levels of each factor that is named, the
    first that of the baseline. left_out, forced : keys of cells that are not run, and that are run all the same.
    """

    phones: tuple[Phone, ...]
    rows: tuple[Row, ...]
    adapters: tuple[Adapter, ...]
    cable: Cable | None = None
    cases: Mapping[str, Case] = field(default_factory=dict)
    levels: tuple[tuple[str, tuple[str, ...]], ...] = ()
    adapter_rule: AdapterRule = "one for all"
    left_out: frozenset[str] = frozenset()
    forced: frozenset[str] = frozenset()
    fitted: Mapping[str, Fitted] = field(default_factory=dict)


@dataclass(frozen=True)
class PlanCell:
    """A cell: its key, its chain and surroundings, the factors as a run will state them, why it is pointless, and
    whether it is in the plan."""

    key: str
    chain: Chain
    around: Circumstances
    factors: Mapping[str, str]
    checked: ChainCheck
    row: Row
    conditions: tuple[str, ...]
    pointless: str
    wanted: bool

    @property
    def said(self) -> str:
        """Charger and what sets it apart in this plan."""
        return ", ".join([self.row.label, *self.conditions])


def check_choice(choice: Choice) -> None:
    """Refuse a matrix that cannot be.

    Raises
    ------
    CannotRead
    """
    if not choice.phones or not choice.rows:
        missing = "phone" if not choice.phones else "charger"
        raise CannotRead(f"Pick at least one {missing}", "press its name", file="matrix")
    for phone in choice.phones:
        if not phone.capacity_mah > 0:
            raise CannotRead(f"“{phone.label}” has no capacity", "give its battery in mAh on the shelf", file="matrix")
    for name, levels in choice.levels:
        if name not in NAMES:
            raise CannotRead(f"“{name}” is no factor", f"one of {', '.join(NAMES)}", file="levels")
        if name in MATRIX_FACTORS:
            raise CannotRead(f"{said_of(name)} follows from kit and card", "pick it there", file="levels")
        if not 0 < len(levels) <= MOST_LEVELS or len(set(levels)) < len(levels):
            raise CannotRead(f"levels of {said_of(name)} cannot be", f"1 to {MOST_LEVELS}, each once", file="levels")
        for level in levels:
            _check_level(choice, name, level)
    cells = len(choice.phones) * len(choice.rows)
    for _, levels in choice.levels:
        cells *= len(levels)
    if cells > MOST_CELLS:
        raise CannotRead(f"the matrix has {cells:,} cells", f"at most {MOST_CELLS:,}: take levels out", file="matrix")


def _check_level(choice: Choice, name: str, level: str) -> None:
    if not label(level, said_of(name)):
        raise CannotRead(f"a level of {said_of(name)} is empty", "name it, or take it out", file="levels")
    known: dict[str, Sequence[str]] = {
        "airflow": AIRFLOWS, "phone_state": tuple(IDLE_W), "case": (NO_CASE, *choice.cases),
    }  # fmt: skip
    if name in known and level not in known[name]:
        raise CannotRead(f"“{level}” is no {said_of(name)}", f"one of {', '.join(known[name])}", file="levels")
    if name == "ambient":
        ambient_of(level)


def ambient_of(level: str) -> float:
    """The room's temperature that a level names [°C].

    Raises
    ------
    CannotRead
    """
    number = number_in(level)
    if number is not None and re.search(r"\d\s*(?:°\s*)?f\b", level, re.IGNORECASE):
        number = from_fahrenheit(number)
    if number is None or not -10.0 <= number <= 50.0:
        raise CannotRead(f"“{level}” is no temperature of a room", "as 22 °C, between −10 and 50", file="levels")
    return number


def cells_of(choice: Choice, card: Card) -> list[PlanCell]:
    """Every cell of a matrix, phone by phone, row by row, condition by condition.

    Raises
    ------
    CannotRead
    """
    check_choice(choice)
    named = [name for name, _ in choice.levels]
    cells = []
    for phone, row in itertools.product(choice.phones, choice.rows):
        if row.charger is not None and row.charger.label == phone.label:
            continue  # a phone that gives away does not charge itself
        for n, picked in enumerate(itertools.product(*(levels for _, levels in choice.levels))):
            cells.append(_cell(choice, card, phone, row, dict(zip(named, picked, strict=True)), n))
    return cells


def _cell(choice: Choice, card: Card, phone: Phone, row: Row, picked: dict[str, str], number: int) -> PlanCell:
    key = "|".join([phone.label, row.label, *(f"{k}={v}" for k, v in picked.items())])
    around = _around(card, picked)
    case = choice.cases.get(picked.get("case", NO_CASE))
    bare = Chain(None, choice.cable, row.charger, phone, case, row.place)
    bare = replace(bare, phones_on_charger=_sharing(picked, "beside"), chargers_on_adapter=_sharing(picked, "shares"))
    chain = with_best_adapter(bare, choice.adapters[:1] if choice.adapter_rule == "one for all" else choice.adapters)
    checked = check(chain)
    pointless = _pointless(chain, checked, around, number)
    wanted = key not in choice.left_out and (not pointless or key in choice.forced)
    # The first level of a factor is the usual one: a cell is told apart by what differs from it.
    shown = tuple(SHORT.get(picked[name], picked[name]) for name, levels in choice.levels if picked[name] != levels[0])
    return PlanCell(key, chain, around, _factors(chain, around, card, picked), checked, row, shown, pointless, wanted)


def _sharing(picked: dict[str, str], name: str) -> int:
    """Number of sharers of a charger or an adapter: this one, and one more where something else is named."""
    level = picked.get(name, NOTHING).strip().lower()
    return 1 if level in {"", NOTHING, "none"} else 2


def _around(card: Card, picked: dict[str, str]) -> Circumstances:
    around = card.around()
    if "airflow" in picked:
        around = replace(around, airflow=next(a for a in AIRFLOWS if a == picked["airflow"]))
    if "phone_state" in picked:
        around = replace(around, phone_state=next(s for s in IDLE_W if s == picked["phone_state"]))
    if "ambient" in picked:
        around = replace(around, ambient_c=ambient_of(picked["ambient"]))
    if "alignment" in picked:
        off = abs(number_in(picked["alignment"]) or 0.0)
        around = replace(around, offset_mm=min(off, 30.0))
    return around


def _pointless(chain: Chain, checked: ChainCheck, around: Circumstances, number: int) -> str:
    if chain.charger is None and number > 0:
        return "the baseline needs one condition only: the first"
    if around.airflow == OWN_FAN and (chain.charger is None or chain.charger.fan == "none"):
        return "it has no fan of its own"
    return not_worth_testing(checked, chain)


def stated(chain: Chain, around: Circumstances) -> dict[str, str]:
    """Conditions of a run of this chain: phone, chain and surroundings."""
    return {
        "phone": chain.phone.label,
        "charger": Row(chain.charger).label,
        "place": chain.place,
        "adapter": chain.adapter.label if chain.adapter else "",
        "cable": chain.cable.label if chain.cable else "",
        "case": chain.case.label if chain.case else NO_CASE,
        "airflow": around.airflow,
        "phone_state": around.phone_state,
    }


def _factors(chain: Chain, around: Circumstances, card: Card, picked: dict[str, str]) -> dict[str, str]:
    factors = {
        **picked,
        **stated(chain, around),
        "software": picked.get("software", chain.phone.software),
        "ambient": picked.get("ambient", f"{around.ambient_c:g} °C"),
        "start": f"{around.start_percent:g} %",
        "method": card.name,
    }
    return {name: factors[name] for name in NAMES if factors.get(name)}
