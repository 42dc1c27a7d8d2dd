"""When the question of a plan is answered: a rule that may be asked after every run and keeps its error at 5 %.

Each pair of chargers of a phone has its share of the 5 %, spent along its runs; what is spent at a look is the most
that this look may err, so that all looks together err no more, however often somebody looks (union bound). A pair that
the rest of the plan would hardly show any more is let go: that claims nothing.

References
----------
Lan, K. K. G. and DeMets, D. L. (1983), Discrete sequential boundaries for clinical trials, Biometrika 70, 659–663;
Kim, K. and DeMets, D. L. (1987), Design and analysis of group sequential tests based on the type I error spending rate
function, Biometrika 74, 149–154 (the power family); Lan, K. K. G., Simon, R. and Halperin, M. (1982), Stochastically
curtailed tests, Comm. Statist. C 1, 207–219. All from memory; the error is checked by simulation in the tests.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import combinations

import numpy as np

from ..noise import CONFIDENCE, Forward, Side, Sides, Spread, measured_spread, noises
from ..units import MINUTE_S
from ..versus.contender import Contender
from ..versus.pairing import unfit
from ..versus.window import Window, lap
from ..wording import counted, duration
from .blocks import window_of
from .telling import listed, strong

POWER_OF_SPENDING = 3.0
"""Exponent of the spending function: little is spent early, most is left for the end of the plan (own choice)."""

LEAST_FOR_TIE, HOPELESS = 2, 0.2
"""Runs of each side, and the chance of still showing a difference, below which a pair is let go (own choice)."""

Outcome = tuple[str, str]
"""Faster and slower, by their names."""


@dataclass(frozen=True)
class PlannedTimes:
    """A cell of a plan: phone, charger, how many runs of it are planned, and the times [min] of those that were made,
    each with its turn among all runs of the plan; interval_var [min²] : of one of them."""

    phone: str
    charger: str
    planned: int
    times: tuple[tuple[int, float], ...] = ()
    interval_var: float = 0.0

    def until(self, turn: int) -> list[float]:
        """Times of the runs that were made by then."""
        return [minutes for at, minutes in self.times if at <= turn]


@dataclass(frozen=True)
class PhoneAnswer:
    """State of the question on one phone: chargers that may still be first; open : pairs of them that the rest of the
    plan may tell apart."""

    phone: str
    first: tuple[str, ...]
    open: tuple[Outcome, ...]

    @property
    def settled(self) -> bool:
        """Whether no planned run is likely to change it."""
        return not self.open


@dataclass(frozen=True)
class Stopping:
    """Whether the question of a plan is answered, by how many of its runs, and what the rest would take."""

    phones: tuple[PhoneAnswer, ...]
    made: int
    planned: int

    @property
    def answered(self) -> bool:
        return bool(self.phones) and all(p.settled for p in self.phones)

    @property
    def left(self) -> int:
        """Runs that are still to come."""
        return self.planned - self.made


@dataclass(frozen=True)
class PlannedRuns:
    """A cell of a plan with its runs: phone, charger as it is said, how many are planned, those that were made, each
    with its turn among all runs of the plan."""

    phone: str
    charger: str
    planned: int
    runs: tuple[tuple[int, Contender], ...] = ()


def planned_times(cells: Sequence[PlannedRuns], to: float) -> list[PlannedTimes]:
    """Cells of a plan with the times of their runs, phone by phone over the window that its runs cover, up to `to` %;
    void runs, and those that do not cover it, count as not made."""
    windows = {}
    for phone in dict.fromkeys(c.phone.casefold() for c in cells):
        own = [r for c in cells if c.phone.casefold() == phone for _, r in c.runs]
        windows[phone] = window_of([r for r in own if not unfit(r, None)], to)
    return [_timed(c, windows[c.phone.casefold()]) for c in cells]


def _timed(cell: PlannedRuns, window: Window | None) -> PlannedTimes:
    if window is None:
        return PlannedTimes(cell.phone, cell.charger, cell.planned)
    laps = [
        (turn, x)
        for turn, run in cell.runs
        if not unfit(run, window) and run.course.readings is not None
        if (x := lap(run.course.readings, *window)) is not None
    ]
    variance = float(np.mean([x.variance for _, x in laps])) if laps else 0.0
    return PlannedTimes(cell.phone, cell.charger, cell.planned, tuple((t, x.estimate) for t, x in laps), variance)


def spent(fraction: float, error: float = 1.0 - CONFIDENCE) -> float:
    """Error that may have been spent by a fraction (0–1) of the information."""
    return error * min(1.0, max(0.0, fraction)) ** POWER_OF_SPENDING


def stopping(cells: Sequence[PlannedTimes], assumed: Spread = Spread()) -> Stopping:
    """State of the question “which is fastest on each phone”, by the runs made so far.

    Parameters
    ----------
    cells : sequence of PlannedTimes
        Every cell of the plan, those without runs too.
    assumed : Spread
        What is assumed of the method.
    """
    by_phone: dict[str, list[PlannedTimes]] = {}
    for cell in cells:
        by_phone.setdefault(cell.phone.casefold(), []).append(cell)
    pairs = sum(len(own) * (len(own) - 1) // 2 for own in by_phone.values())
    shown = {key: set[tuple[int, int]]() for key in by_phone}
    used: dict[tuple[str, int, int], float] = {}
    turns = sorted({at for c in cells for at, _ in c.times})
    for turn in turns:
        spread = _spread(cells, turn, assumed)
        for key, own in by_phone.items():
            for i, j in combinations(range(len(own)), 2):
                _look(own, i, j, turn, spread, (1.0 - CONFIDENCE) / max(1, pairs), used, key, shown[key])
    last = turns[-1] if turns else 0
    spread = _spread(cells, last, assumed)
    phones = tuple(_answer(own, shown[key], last, spread, pairs) for key, own in by_phone.items() if len(own) > 1)
    made = sum(len(c.times) for c in cells)
    return Stopping(phones, made, max(made, sum(max(c.planned, len(c.times)) for c in cells)))


def _spread(cells: Sequence[PlannedTimes], turn: int, assumed: Spread) -> Spread:
    return measured_spread(assumed, [c.until(turn) for c in cells])


def _sides(own: Sequence[PlannedTimes], i: int, turn: int) -> Side | None:
    times = own[i].until(turn)
    return Side(float(np.mean(times)), len(times), own[i].interval_var) if times else None


def _look(
    own: Sequence[PlannedTimes], i: int, j: int, turn: int, spread: Spread, error: float,
    used: dict[tuple[str, int, int], float], key: str, shown: set[tuple[int, int]],
) -> None:  # fmt: skip
    """One look at a pair that has a new run: what may be spent by now is, and the pair is held against it."""
    a, b = _sides(own, i, turn), _sides(own, j, turn)
    if a is None or b is None or not any(at == turn for c in (own[i], own[j]) for at, _ in c.times):
        return
    planned = 1.0 / max(own[i].planned, a.runs) + 1.0 / max(own[j].planned, b.runs)
    by_now = spent(planned / (1.0 / a.runs + 1.0 / b.runs), error)
    level = by_now - used.get((key, i, j), 0.0)
    used[key, i, j] = by_now
    if level <= 0.0 or {(i, j), (j, i)} & shown:
        return
    if _p(a, b, spread) <= level:
        shown.add((i, j) if a.minutes < b.minutes else (j, i))


def _p(a: Side, b: Side, spread: Spread) -> float:
    """Probability of so large a difference by chance alone, by the rule of the noise."""
    from scipy.special import stdtr

    found = noises(Sides.of([a]), Sides.of([b]), np.array([spread.share]), spread)
    if found.standard[0] <= 0.0:
        return 1.0
    return float(2.0 * stdtr(found.dof[0], -abs(a.minutes - b.minutes) / found.standard[0]))


def _answer(
    own: Sequence[PlannedTimes], shown: set[tuple[int, int]], turn: int, spread: Spread, pairs: int
) -> PhoneAnswer:
    beaten = {slow for _, slow in shown}
    first = [n for n in range(len(own)) if n not in beaten]
    still = [(i, j) for i, j in combinations(first, 2) if _is_open(own, i, j, turn, spread, pairs)]
    return PhoneAnswer(
        own[0].phone, tuple(own[n].charger for n in first), tuple((own[i].charger, own[j].charger) for i, j in still)
    )


def _is_open(own: Sequence[PlannedTimes], i: int, j: int, turn: int, spread: Spread, pairs: int) -> bool:
    """Whether the runs to come may tell two cells apart: at the difference seen and one standard error more."""
    a, b = _sides(own, i, turn), _sides(own, j, turn)
    counts = (max(own[i].planned, 1 if a is None else a.runs), max(own[j].planned, 1 if b is None else b.runs))
    to_come = any(len(own[k].times) < own[k].planned for k in (i, j))
    if not to_come:
        return False
    if a is None or b is None or min(a.runs, b.runs) < min(LEAST_FOR_TIE, *counts):
        return True
    noise = noises(Sides.of([a]), Sides.of([b]), np.array([spread.share]), spread)
    slow = max(a.minutes, b.minutes)
    gap = min(abs(a.minutes - b.minutes) + float(noise.standard[0]), 0.9 * slow)
    known = replace(spread, assumed=spread.share, assumed_dof=spread.dof, measured=0.0, measured_dof=0.0)
    variance = max(a.interval_var, b.interval_var) * spread.interval_weight
    forward = Forward(slow, counts, variance, known, float(max(0, sum(counts) - a.runs - b.runs)), max(1, pairs))
    return forward.power(gap) >= HOPELESS


def stopping_said(state: Stopping, to_come: int, minutes_left: float) -> str:
    """State of the question in one sentence; to_come : runs that are planned still, minutes_left : that they would
    take [min]."""
    if not state.phones:
        return "Nothing to tell apart: no phone has two chargers"
    if not state.answered:
        waiting = [strong(p.phone) for p in state.phones if not p.settled]
        if not to_come:
            return f"Not answered on {listed(waiting)}, and no run of it is planned any more"
        return f"Not answered yet on {listed(waiting)}: {counted(to_come, 'run')} to come"
    answers = []
    for phone in state.phones:
        names = [strong(c) for c in phone.first]
        told = f"{names[0]} is fastest" if len(names) == 1 else f"no difference shown between {listed(names)}"
        answers.append(f"{told} on {strong(phone.phone)}")
    saved = f", {duration(minutes_left * MINUTE_S)} saved" if minutes_left > 0 else ""
    rest = f"; {counted(to_come, 'run')} can be let go{saved}" if to_come else ""
    return f"Answered after {state.made} of {counted(state.planned, 'run')}: {'; '.join(answers)}{rest}"
