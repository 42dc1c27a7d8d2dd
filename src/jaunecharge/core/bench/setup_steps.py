"""Setting the bench: the ordered list before a phone is placed; what a meter or probe can see is ticked by itself."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from ..errors import CannotRead
from ..factors import SAME_AMBIENT_K
from ..log.check_ins import DEAD_PERCENT
from ..log.no_load import MOST_NO_LOAD_W

StepKey = Literal[
    "adapter", "charger", "volts", "no_load", "percent", "pack", "cool", "settings", "around", "place",
]  # fmt: skip
StepState = Literal["open", "seen", "ticked", "skipped"]

POWERED_V = 3.0
LEAST_NO_LOAD_W = 0.02
"""A charger that is plugged in draws at least so much (our own; the best stay under 0.1 W)."""

LOW_VOLTS_SHARE = 0.8
SAME_PERCENT = 2.0
"""A start within two points is the level that the method names (our own)."""


@dataclass(frozen=True)
class Wanted:
    """Promises of the lane: start [%], what it says of settings, case, air and phone, volts that are expected [V];
    lane : how its entries begin."""

    start_percent: float = 10.0
    limits: str = "off"
    case: str = "none"
    airflow: str = "still air"
    phone_state: str = "idle"
    expected_v: float | None = None
    by_wire: bool = False
    own_source: bool = False
    lane: str = "a"


@dataclass(frozen=True)
class OnBench:
    """Values from instruments and entries: volts [V], watts just now and settled no-load [W], percentage, temperatures
    [°C]. no_load_w is None unless the draw stands at a low level."""

    volts: float | None = None
    drawn_w: float | None = None
    no_load_w: float | None = None
    percent: float | None = None
    back_c: float | None = None
    ambient_c: float | None = None
    placed: bool = False

    @property
    def phone_on(self) -> bool:
        """Whether a phone lies on the charger already, though nobody said that it was placed."""
        return not self.placed and self.drawn_w is not None and self.drawn_w > MOST_NO_LOAD_W


@dataclass(frozen=True)
class Told:
    """A step as a person told it: done, or skipped with a reason."""

    skipped: bool = False
    reason: str = ""


@dataclass(frozen=True)
class Step:
    """A step: what is to be done, how it stands, what it showed, and what is odd about that."""

    key: StepKey
    said: str
    state: StepState
    value: str = ""
    odd: str = ""


def steps(wanted: Wanted, bench: OnBench, answers: Mapping[str, Told]) -> tuple[Step, ...]:
    """The steps of setting the bench, in order.

    Parameters
    ----------
    wanted : Wanted
    bench : OnBench
    answers : mapping of step key to Told
        What a person ticked or skipped.
    """
    listed: list[Step] = []
    lit = bench.drawn_w is not None and bench.drawn_w >= LEAST_NO_LOAD_W
    powered = bench.volts >= POWERED_V if bench.volts is not None else lit
    drawn = bench.no_load_w
    source = "Charger on" if wanted.own_source else "Adapter in"
    listed.append(step("adapter", source, powered, answers))
    if not wanted.by_wire and not wanted.own_source:
        seen = powered and drawn is not None and drawn >= LEAST_NO_LOAD_W
        listed.append(step("charger", "Charger in, nothing on it", seen, answers, odd=_on_it(bench)))
    if not wanted.own_source:
        listed.append(
            step(
                "volts",
                "Note the volts",
                powered and bench.volts is not None,
                answers,
                _v(bench.volts) if powered else "",
                _low(wanted, bench),
            )
        )
        listed.append(step("no_load", "Note the no-load watts", powered and drawn is not None, answers, _w(drawn)))
    listed.append(
        step(
            "percent", f"Phone at {wanted.start_percent:g} %", bench.percent is not None, answers,
            "" if bench.percent is None else f"{bench.percent:g} %", _off_level(wanted, bench.percent),
        )
    )  # fmt: skip
    cool, value, odd = _cool(wanted, bench)
    listed.append(step("cool", "Phone as cool as the room", cool, answers, value, odd))
    limits = "off" if wanted.limits == "off" else "left on, as the method says"
    listed.append(step("settings", f"Charge limit and optimised charging {limits}", False, answers))
    case = "no case" if wanted.case in {"", "none", "off"} else wanted.case
    listed.append(step("around", f"{case.capitalize()}, {wanted.airflow}, phone {wanted.phone_state}", False, answers))
    place = "Plug the phone in" if wanted.by_wire else "Place the phone"
    listed.append(step("place", f"{place}: t = 0", bench.placed, answers))
    return tuple(listed)


def next_step(listed: tuple[Step, ...]) -> Step | None:
    """The first step that is still open."""
    return next((s for s in listed if s.state == "open"), None)


def skipped(listed: tuple[Step, ...], answers: Mapping[str, Told]) -> list[str]:
    """The steps that were skipped, each with its reason: the run keeps them."""
    return [f"{s.said}: skipped, {answers[s.key].reason}" for s in listed if s.state == "skipped"]


ON_ALREADY = "the phone was on it already"
"""Why the no-load is skipped where somebody goes on without it."""

NOTED: dict[str, str] = {"volts": "9.02v", "no_load": "0.4w"}
"""Steps that are done by a figure, and how it is typed."""


def check_told(key: str, answer: Told, listed: Sequence[Step] = ()) -> None:
    """Refuse to skip a step without a reason, one that there is none of, and to tick a figure that nobody gave.

    Raises
    ------
    CannotRead
    """
    if key not in KEYS:
        raise CannotRead(f"“{key}” is no step of setting the bench", f"one of {', '.join(KEYS)}", file="step")
    if answer.skipped and not answer.reason.strip():
        raise CannotRead("a step is skipped with a reason", "say why; the run keeps the reason", file="reason")
    if not answer.skipped and key in NOTED and any(s.key == key and not s.value for s in listed):
        what = {"volts": "the volts", "no_load": "the no-load watts"}[key]
        mend = f"type what the meter shows, as {NOTED[key]}, or skip it with a reason"
        raise CannotRead(f"{what} are not known yet", mend, file="step")
    if answer.skipped and key == "place":
        raise CannotRead("a run begins when the phone is placed", "end the lane if it is not to be", file="step")


KEYS: tuple[StepKey, ...] = (
    "adapter", "charger", "volts", "no_load", "percent", "pack", "cool", "settings", "around", "place",
)  # fmt: skip


def step(key: StepKey, text: str, seen: bool, answers: Mapping[str, Told], value: str = "", odd: str = "") -> Step:
    """A step as it stands: seen, ticked, skipped or open."""
    mine = answers.get(key)
    state: StepState = "seen" if seen else "open"
    if mine is not None:
        state = "skipped" if mine.skipped else "ticked" if not seen else "seen"
    return Step(key, text, state, value, odd)


def _v(volts: float | None) -> str:
    return "" if volts is None else f"{volts:.2f} V"


def _w(watts: float | None) -> str:
    return "" if watts is None else f"{watts:.2f} W"


def _low(wanted: Wanted, bench: OnBench) -> str:
    volts, expected = bench.volts, wanted.expected_v
    if volts is None or expected is None or volts < POWERED_V or volts >= LOW_VOLTS_SHARE * expected:
        return ""
    return (
        f"{expected:g} V expected. Replug it, flip the cable if the meter needs it; "
        "some chargers ask for more only once a phone lies on them"
    )


def _on_it(bench: OnBench) -> str:
    return f"a phone is on it already: {bench.drawn_w:.1f} W" if bench.phone_on else ""


def _off_level(wanted: Wanted, percent: float | None) -> str:
    if percent is None or abs(percent - wanted.start_percent) <= SAME_PERCENT:
        return ""
    if percent > wanted.start_percent:
        level = "dead" if wanted.start_percent <= DEAD_PERCENT else f"{wanted.start_percent:g} %"
        return f"the method begins at {level}: drain it further, or compare only above {percent:g} %"
    return f"the method begins at {wanted.start_percent:g} %: it will be read from there on"


def _cool(wanted: Wanted, bench: OnBench) -> tuple[bool, str, str]:
    if bench.back_c is None:
        return False, "", ""
    if bench.ambient_c is None:
        return False, f"{bench.back_c:.1f} °C", f"Room temperature? Type {wanted.lane} 24c room"
    above = bench.back_c - bench.ambient_c
    value = f"{bench.back_c:.1f} °C, room {bench.ambient_c:.1f} °C"
    if abs(above) <= SAME_AMBIENT_K:
        return True, value, ""
    return False, value, f"still {above:.1f} K {'above' if above > 0 else 'off'} the room: let it settle"
