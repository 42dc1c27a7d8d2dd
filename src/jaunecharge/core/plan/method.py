"""Method cards: the protocol that a run promises to follow, every school a choice, and the cards that come ready."""

from dataclasses import dataclass, field
from typing import Annotated, Literal

from annotated_types import Ge, Gt, Le

from ..factors import START_SLACK
from ..kit.items import Flaw
from ..log.check_ins import DEAD_PERCENT
from ..milestones import SLOWS_FROM
from ..noise import CHAMBER_SPREAD, ROOM_SPREAD, Spread, interval_variance
from ..simulator.circumstances import Airflow, Circumstances, PhoneState

Start = Literal["from dead", "from ten", "custom"]
End = Literal["to eighty", "to full", "soak after full", "spot check"]
Ambient = Literal["room", "chamber"]
CaseRule = Literal["off", "on"]
Limits = Literal["off", "left on"]
AdapterRule = Literal["one for all", "each its best"]
Output = Literal["reference ratio", "idle subtraction", "battery account"]
Faster = Literal["less time", "higher rate"]

DEAD, TEN = 0.0, 10.0
CONTINUOUS = 0.0
LOG_STEP_MIN = 1.0
"""Interval that a continuous log of the percentage counts as: phones step by a whole point about once a minute (from
memory).
"""

OUTPUTS: tuple[Output, ...] = ("reference ratio", "idle subtraction", "battery account")


def spreads_little(chamber: bool, interval_min: float | None) -> bool:
    """Whether runs spread as in a temperature-controlled chamber with a continuous log (common practice: half as much).

    Parameters
    ----------
    chamber : bool
    interval_min : float or None [min]
        Between check-ins; a log by the minute is as good as a continuous one, as phones step by a point a minute.
    """
    return chamber and interval_min is not None and interval_min <= LOG_STEP_MIN


@dataclass(frozen=True, kw_only=True)
class Card:
    """A method card.

    start_percent [%] counts with a custom start; soak_min and spot_min [min] with those ends; interval_min [min]
    between check-ins, 0 for a continuous log; ambient_c [°C] of the chamber, or what the room is expected to be.
    """

    name: str
    good_for: str = ""
    start: Start = "from ten"
    start_percent: Annotated[float, Ge(0), Le(95)] = TEN
    end: End = "to full"
    soak_min: Annotated[float, Ge(5), Le(1440)] = 60.0
    spot_min: Annotated[float, Ge(1), Le(60)] = 5.0
    interval_min: Annotated[float, Ge(0), Le(120)] = 10.0
    airflow: Airflow = "still air"
    ambient: Ambient = "room"
    ambient_c: Annotated[float, Ge(-10), Le(50)] = 25.0
    case: CaseRule = "off"
    phone_state: PhoneState = "idle"
    limits: Limits = "off"
    adapter_rule: AdapterRule = "one for all"
    output: tuple[Output, ...] = field(default=OUTPUTS)
    faster: Faster = "less time"
    repeats: Annotated[int, Gt(0), Le(20)] = 1

    @property
    def start_window(self) -> tuple[float, float]:
        """Between which percentages a run of this card may start: a phone cannot be drained to the point."""
        return max(0.0, self.starts_at - START_SLACK), self.starts_at + START_SLACK

    @property
    def starts_at(self) -> float:
        """Where its runs begin [%]."""
        return {"from dead": DEAD, "from ten": TEN}.get(self.start, self.start_percent)

    @property
    def ends_at(self) -> int | None:
        """The percentage at which its runs may end; None for a spot check."""
        return {"to eighty": SLOWS_FROM, "to full": 100, "soak after full": 100}.get(self.end)

    @property
    def judged_at(self) -> tuple[int, ...]:
        """The percentages to which its runs are timed: 80, as far as chargers differ; 100 as well where it goes on."""
        return {SLOWS_FROM: (SLOWS_FROM,), 100: (SLOWS_FROM, 100)}.get(self.ends_at or 0, ())

    @property
    def deep(self) -> bool:
        """Whether every run of it drains its phone to dead."""
        return not self.is_spot and self.starts_at <= DEAD_PERCENT

    @property
    def is_spot(self) -> bool:
        """Whether its runs are spot checks: minutes of watts, nothing about charging time."""
        return self.end == "spot check"

    @property
    def tail_min(self) -> float:
        """Minutes that its runs go on after their end level."""
        return self.soak_min if self.end == "soak after full" else 0.0

    @property
    def continuous(self) -> bool:
        """Whether the percentage is logged without anybody there."""
        return self.interval_min == CONTINUOUS

    @property
    def interval_var(self) -> float:
        """Variance of the interval in which a milestone of its runs will lie [min²]."""
        return interval_variance(self.interval_min or LOG_STEP_MIN)

    @property
    def spread(self) -> Spread:
        """The run-to-run spread that is assumed of it: smaller in a chamber with a continuous log."""
        return Spread(CHAMBER_SPREAD if self.spreads_little else ROOM_SPREAD)

    @property
    def spreads_little(self) -> bool:
        """Whether its runs are made in a chamber with a continuous log."""
        return spreads_little(self.ambient == "chamber", self.interval_min)

    def around(self) -> Circumstances:
        """Circumstances of its runs, for forecasts."""
        return Circumstances(
            start_percent=self.starts_at,
            ambient_c=self.ambient_c,
            airflow=self.airflow,
            phone_state=self.phone_state,
            interval_min=self.interval_min or LOG_STEP_MIN,
            tail_min=self.tail_min,
        )


@dataclass(frozen=True)
class School:
    """One choice of a method: what it is called, and in one line what it is good for."""

    choice: str
    good_for: str


@dataclass(frozen=True)
class Question:
    """A question that a method answers, with the schools that answer it."""

    field: str
    said: str
    schools: tuple[School, ...]


SCHOOLS: tuple[Question, ...] = (
    Question("start", "start", (
        School("from dead", "the whole charge; the phone may need minutes to wake, and each drain ages the battery"),
        School("from ten", "avoids the slow wake-up and gives the highest settled power"),
        School("custom", "where one level interests you; comparable only over the window that runs share"),
    )),
    Question("end", "end", (
        School("to eighty", "after 80 to 85 % every charger slows, so differences vanish"),
        School("to full", "how long until it is really full"),
        School("soak after full", "catches the draw after full, which decides the cost of a night"),
        School("spot check", "minutes only: the ramp and the settled watts, not the charging time"),
    )),
    Question("interval_min", "check-ins", (
        School("5", "every 5 min: finer times, hands full"),
        School("10", "every 10 min: the usual compromise"),
        School("15", "every 15 min: several phones at once, coarser times"),
        School("0", "a continuous log: the finest times, and nobody need be there"),
    )),
    Question("airflow", "airflow", (
        School("still air", "as on a bedside table"),
        School("fan on the phone", "takes heat out of the comparison: shows what a charger could do"),
        School("charger's own fan", "as its maker meant it, with its noise"),
    )),
    Question("ambient", "ambient", (
        School("room", "as people charge; runs differ by some 6 %"),
        School("chamber", "25 °C held: runs differ by some 3 % with a continuous log"),
    )),
    Question("case", "case", (
        School("off", "the charger by itself"),
        School("on", "as the phone is carried; it costs power and holds heat"),
    )),
    Question("phone_state", "phone", (
        School("off", "nothing of the phone's own in the figures"),
        School("idle", "as overnight: screen off, radios on"),
        School("in use", "as at a desk: the phone eats part of what arrives"),
    )),
    Question("limits", "charge limits", (
        School("off", "the whole curve; put them back on after the test"),
        School("left on", "what the owner really gets; the run may hold at 80 %"),
    )),
    Question("adapter_rule", "adapter", (
        School("one for all", "isolates the charger"),
        School("each its best", "what a buyer gets"),
    )),
    Question("output", "output by", (
        School("reference ratio", "watts at the phone, from a chain known to deliver its class"),
        School("idle subtraction", "what is drawn beyond the charger's own use; two lines, before and after full"),
        School("battery account", "what the battery gained; a later point of the chain, always less"),
    )),
    Question("faster", "“faster” means", (
        School("less time", "1 − fast ÷ slow: 120 instead of 160 min is 25 % less time"),
        School("higher rate", "slow ÷ fast − 1: the same is a 33 % higher rate"),
    )),
    Question("repeats", "repeats", (
        School("1", "one run: the spread is assumed, and said to be"),
        School("3", "three runs: the spread is measured, and a fluke shows"),
    )),
)  # fmt: skip
"""Every school, as a question with its choices."""

READY: tuple[Card, ...] = (
    Card(name="From ten to full", good_for="the usual question: how fast, how hot, to the end"),
    Card(
        name="From dead", good_for="the whole charge, wake-up included; costs each phone a deep discharge a run",
        start="from dead", interval_min=5.0,
    ),
    Card(
        name="Spot check", good_for="minutes instead of hours: which class a charger is in", end="spot check",
        start="custom", start_percent=30.0, interval_min=5.0, output=("reference ratio", "idle subtraction"),
    ),
    Card(
        name="To eighty, three repeats", good_for="a ranking that stands: the spread is measured", end="to eighty",
        interval_min=5.0, repeats=3,
    ),
    Card(
        name="Soak after full", good_for="what a charger costs overnight, once the phone is full",
        end="soak after full", start="custom", start_percent=60.0, soak_min=120.0, interval_min=15.0,
    ),
    Card(
        name="Chamber 25 °C", good_for="small differences: the room taken out, the percentage logged without a break",
        ambient="chamber", interval_min=CONTINUOUS, end="to eighty",
    ),
)  # fmt: skip
"""The cards that come ready."""


def ready(name: str) -> Card:
    """A ready card by its name.

    Raises
    ------
    KeyError
    """
    return next((c for c in READY if c.name.lower() == name.lower()), None) or _no(name)


def _no(name: str) -> Card:
    raise KeyError(name)


def card_flaws(card: Card) -> list[Flaw]:
    """Flaws of a card beyond the limits of its single fields."""
    flaws = [] if card.name.strip() else [Flaw("name", "it has no name", "give it one")]
    ends = card.ends_at
    if ends is not None and card.starts_at > ends - 10:
        flaws.append(
            Flaw(
                "start_percent",
                f"from {card.starts_at:g} to {ends} % there is hardly a charge to time",
                "start at least 10 points lower, or choose a later end",
            )
        )
    if not card.output:
        flaws.append(Flaw("output", "no estimate of the output is chosen", "choose one at least"))
    return flaws


def in_words(card: Card) -> str:
    """A card in one line."""
    level = {"from dead": "from dead", "from ten": "from 10 %"}.get(card.start, f"from {card.starts_at:g} %")
    ends = {
        "to eighty": "to 80 %", "to full": "to full", "soak after full": f"to full and {card.soak_min:g} min more",
        "spot check": f"for {card.spot_min:g} min",
    }[card.end]  # fmt: skip
    checks = "a continuous log" if card.continuous else f"check-ins every {card.interval_min:g} min"
    room = f"chamber {card.ambient_c:g} °C" if card.ambient == "chamber" else f"room about {card.ambient_c:g} °C"
    runs = "one run each" if card.repeats == 1 else f"{card.repeats} runs each"
    return (
        f"{level} {ends}, {checks}, {room}, {card.airflow}, case {card.case}, phone {card.phone_state}, "
        f"charge limits {card.limits}, {runs}"
    )
