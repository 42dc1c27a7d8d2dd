"""Energy of a run along its chain: at the socket, at the meter, as the phone says, in the battery; what is lost between
them, by measurement where two were logged."""

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import pairwise
from typing import TYPE_CHECKING, Literal

from ..log.energy import MeterSpec, energy_between
from ..log.phone_reports import Besides
from ..log.trace import PowerTrace, power_trace
from ..measured import Measured, Part, rectangle
from ..stages import Stage

if TYPE_CHECKING:
    from .read_run import Reading

Point = Literal["socket", "meter", "phone", "battery"]

WORDS: Mapping[Point, str] = {
    "socket": "from the socket", "meter": "at the meter", "phone": "as the phone says", "battery": "into the battery",
}  # fmt: skip

LEAST_COVERED = 0.5
"""A point that was logged over less of the window than this has no energy in it (own choice); what its holes may have
hidden widens its interval."""

LEAST_WINDOW_S = 600.0
"""Losses over less than this are told of nothing (own choice)."""

LEAST_READINGS = 5
"""Fewer readings say nothing of a draw at rest (own choice)."""

UNKNOWN_GAIN = 0.05
"""A meter of which nobody knows the accuracy may be off by so much before two of them contradict each other (own
choice)."""


@dataclass(frozen=True)
class Passage:
    """From one point to another: the share of the energy that came through (0–1), without its uncertainty where one
    of the two meters' accuracy is not known.

    own_word : whether one of the two is the phone's own figure, of which nobody knows how good it is; contradicts :
    whether more came out than went in, by more than both can be off: one of them is wrong, or it is not one chain.
    """

    start: Point
    end: Point
    share: Measured
    own_word: bool
    contradicts: bool


@dataclass(frozen=True)
class AlongChain:
    """Energy at each point that was logged, all over one window [s], in the order of the chain."""

    start_s: float
    end_s: float
    energies: tuple[tuple[Point, Measured], ...]
    passages: tuple[Passage, ...]
    whole: Passage | None = None
    """From the socket to the last point, where others lie between them and no meter contradicts another."""

    def energy(self, point: Point) -> Measured | None:
        return next((e for p, e in self.energies if p == point), None)

    @property
    def socket_to_battery(self) -> Measured | None:
        """Share of the socket's energy that got into the battery (0–1); None where that was not measured."""
        through = self.passage("socket", "battery") or self.whole
        return None if through is None or through.contradicts or through.end != "battery" else through.share

    def passage(self, start: Point, end: Point) -> Passage | None:
        return next((p for p in self.passages if (p.start, p.end) == (start, end)), None)


def along_chain(reading: "Reading") -> AlongChain | None:
    """Energy along the chain of a run; None where fewer than two points were logged over one window.

    The window is that of the battery account, where there is one: from a check-in to another, so that the battery can
    be held against the meters; else from the placing to full, or to the end of the log. A meter that feeds others as
    well says nothing of this phone.
    """
    log, conditions = reading.log, reading.conditions
    if conditions.shared_with:
        return None
    gained = reading.account_battery
    if gained is not None and reading.account is not None:
        start_s, end_s = reading.account.start_s, reading.account.end_s
    else:
        full = reading.milestone(100)
        start_s, end_s = reading.placed_s, log.trace.end_s if full is None else full.latest_s
    if end_s - start_s < LEAST_WINDOW_S:
        return None
    socket = None if conditions.socket_shared else log.socket
    traces: dict[Point, tuple[PowerTrace | None, MeterSpec]] = {
        "socket": (socket, conditions.socket_meter),
        "meter": (log.trace if log.trace.metered else None, conditions.meter),
        "phone": (_said_by_phone(log.besides), MeterSpec(None)),
    }
    if sum(t is not None and _reaches(t, start_s, end_s) for t, _ in traces.values()) + (gained is not None) < 2:
        return None
    energies: list[tuple[Point, Measured]] = []
    for point, (trace, meter) in traces.items():
        energy = None if trace is None else _energy(trace, start_s, end_s, meter)
        if energy is not None:
            # Each meter is off in its own way: nothing of it cancels against another's.
            parts = tuple(Part(f"{p.source} ({WORDS[point]})", p.standard) for p in energy.parts)
            energies.append((point, Measured(energy.value, parts)))
    if gained is not None:
        energies.append(("battery", gained))
    if len(energies) < 2:
        return None
    exact: set[Point] = {"battery", *(p for p, (_, meter) in traces.items() if meter.gain_percent is not None)}
    passages = tuple(_passage(a, b, exact) for a, b in pairwise(energies))
    whole = None
    if len(energies) > 2 and energies[0][0] == "socket":
        whole = _passage(energies[0], energies[-1], exact)
    if any(p.contradicts and not p.own_word for p in passages):
        whole = None
    return AlongChain(start_s, end_s, tuple(energies), passages, whole)


def _energy(trace: PowerTrace, start_s: float, end_s: float, meter: MeterSpec) -> Measured | None:
    if not _reaches(trace, start_s, end_s):
        return None
    energy = energy_between(trace, start_s, end_s, meter)
    enough = energy.covered_s >= LEAST_COVERED * (end_s - start_s)
    return energy.bridged if enough and energy.bridged.value > 0.0 else None


def _reaches(trace: PowerTrace, start_s: float, end_s: float) -> bool:
    """Whether a trace reaches from one end of the window to the other, but for a step of its own at each."""
    slack = max(2.0 * trace.step_s, 0.01 * (end_s - start_s))
    return trace.start_s <= start_s + slack and trace.end_s >= end_s - slack


def _said_by_phone(said: Besides) -> PowerTrace | None:
    return power_trace(said.time_s, said.watts) if len(said.time_s) > 1 else None


def _passage(a: tuple[Point, Measured], b: tuple[Point, Measured], exact: set[Point]) -> Passage:
    share = b[1].over(a[1])
    unknown = sum(point not in exact for point in (a[0], b[0]))
    contradicts = share.value - share.expanded - unknown * UNKNOWN_GAIN > 1.0
    return Passage(a[0], b[0], Measured(share.value) if unknown else share, "phone" in {a[0], b[0]}, contradicts)


def adapter_share(found: AlongChain) -> Measured | None:
    """Share of the socket's energy that adapter and cable let through, as it was measured; None where it was not, or
    cannot be. Of meters whose accuracy nobody knows it is as unsure as they may be.
    """
    through = found.passage("socket", "meter")
    if through is None or through.contradicts:
        return None
    unknown = Part("accuracy of a meter, not known", rectangle(UNKNOWN_GAIN) * through.share.value)
    return through.share if through.share.parts else Measured(through.share.value, (unknown,))


def level_within(trace: PowerTrace, start_s: float, end_s: float) -> float | None:
    """Mean of the readings between two moments [W], the last of which may be a mean that reaches beyond the end; None
    where they are too few.
    """
    watts = trace.power_w[(trace.time_s >= start_s) & (trace.time_s <= end_s - trace.step_s)]
    return float(watts.mean()) if len(watts) >= LEAST_READINGS else None


def chain_stages(found: AlongChain | None) -> tuple[Stage, ...]:
    """The same as stages of a walk of energy; none where less than two points were logged."""
    if found is None:
        return ()
    return tuple(
        Stage(point, WORDS[point], e.value, e.value - e.expanded, e.value + e.expanded, "measured")
        for point, e in found.energies
    )
