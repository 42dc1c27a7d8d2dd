"""Runs against each other: times over one window, each difference against its noise, places shared where none is shown.

Repeats are folded into cells first. The rule of the noise stands in `fair`, that of fairness in `fairness`.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..arrays import Array
from ..errors import CannotRead
from ..log.check_ins import REPORTED_MINUTES
from ..milestones import MILESTONES
from ..noise import (
    CHAMBER_SPREAD,
    CONFIDENCE,
    NO_DIFFERENCE,
    POWER,
    ROOM_SPREAD,
    DifferenceVerdict,
    Forward,
    Noise,
    Noises,
    Sides,
    Spread,
    measured_spread,
    noises,
)
from .contender import Contender
from .copies import without_copies
from .curves import Align, Gap, curves, gaps
from .pairing import Differences, differences, unfit
from .ranking import Places, holm, last_ranks, ranks
from .repeats import Repeats, fold
from .window import Lap, Window, checked_window, lap, shared_window, span

MOST_REPEATS = 20
"""More repeats than these nobody makes: the two are then a tie for all that matters."""

WELCH_RUNS = 3


@dataclass(frozen=True)
class Difference:
    """Difference of two sides over a window: the minutes and their noise, how much less time the faster took and how
    much higher its rate was [%]; p : probability of so large a difference by chance alone."""

    verdict: DifferenceVerdict
    less_time_percent: float
    higher_rate_percent: float
    p: float

    @property
    def said(self) -> str:
        return self.verdict.said


@dataclass(frozen=True)
class Timed:
    """The times of cells over one window: their laps, as sides, and the spread that each is judged by.

    Rows, sentences, differences and percentages are all made of the same times: the estimates of the laps. late : how
    much too late the end of each is told on average, where it is told by first sighting [min]: as much as two sides
    differ in that, their difference is off.
    """

    window: Window
    laps: tuple[tuple[Lap, ...], ...]
    sides: Sides
    late: Array
    spreads: Mapping[bool, Spread]
    chamber: NDArray[np.bool_]

    @cached_property
    def known(self) -> NDArray[np.bool_]:
        """Which cells have a time over it."""
        return np.isfinite(self.sides.minutes)

    def spread(self, i: int, j: int) -> Spread:
        """The spread that a pair is judged by: that of a chamber only where both were made in one."""
        return self.spreads[bool(self.chamber[i] and self.chamber[j])]

    def noises(self, i: Places, j: Places) -> Noises:
        """The noise of pairs of cells."""
        filled = Noises(*(np.full(len(i), np.nan) for _ in range(3)))
        both = self.chamber[i] & self.chamber[j]
        for chamber, spread in self.spreads.items():
            where = np.flatnonzero((both == chamber) & self.known[i] & self.known[j])
            part = noises(
                self.sides.taken(i[where]), self.sides.taken(j[where]), np.full(len(where), spread.share), spread
            )
            for whole, own in ((filled.standard, part.standard), (filled.dof, part.dof), (filled.factor, part.factor)):
                whole[where] = own
        return replace(filled, standard=np.hypot(filled.standard, self.late[i] - self.late[j]))

    def differences(self, i: Places, j: Places) -> list[Difference | None]:
        """Differences of pairs of cells; None where one has no time over the window."""
        from scipy.special import stdtr

        noise = self.noises(i, j)
        saved = self.sides.minutes[j] - self.sides.minutes[i]
        mine, other = self.sides.minutes[i], self.sides.minutes[j]
        slow, fast = np.fmax(mine, other), np.fmin(mine, other)
        with np.errstate(divide="ignore", invalid="ignore"):
            less, higher = 100.0 * (1.0 - fast / slow), 100.0 * (slow / fast - 1.0)
            p = np.where(noise.standard > 0, 2.0 * stdtr(noise.dof, -np.abs(saved) / noise.standard), 1.0)
        table = np.column_stack([saved, noise.standard, noise.dof, noise.factor, less, higher, p]).tolist()
        known = (self.known[i] & self.known[j]).tolist()
        return [
            Difference(DifferenceVerdict(r[0], Noise(r[1], r[2], r[3])), r[4], r[5], r[6]) if there else None
            for r, there in zip(table, known, strict=True)
        ]

    def standard(self, i: int) -> float:
        """Standard uncertainty of the mean time of a cell, as a difference counts it [min]."""
        spread = self.spread(i, i)
        squares = (spread.share * self.sides.minutes[i]) ** 2 + spread.interval_weight * self.sides.interval_var[i]
        return float(np.sqrt(squares / self.sides.runs[i]))

    def relatives(self, i: int, j: int) -> tuple[float, float]:
        """Standard uncertainty of each of two times as a share of it, as their ratio counts it."""
        late = float(self.late[i] - self.late[j]) / 2.0**0.5
        mine, other = (float(np.hypot(self.standard(k), late) / self.sides.minutes[k]) for k in (i, j))
        return mine, other

    def relative(self, i: int, j: int) -> float:
        """Standard uncertainty of the ratio of two times, as a share of it (JCGM 100:2008, 5.1.6)."""
        return float(np.hypot(*self.relatives(i, j)))

    def typical(self, i: int) -> int:
        """Which run of a cell stands for it: the one whose time is nearest their mean."""
        if not self.laps[i]:
            return 0
        return int(np.argmin([abs(x.estimate - self.sides.minutes[i]) for x in self.laps[i]]))

    def own_noise(self, i: int) -> float:
        """Within how many minutes of it the time of a cell would lie again, nineteen times in twenty."""
        from scipy.special import stdtrit

        spread = self.spread(i, i)
        return float(stdtrit(spread.dof, 1.0 - (1.0 - CONFIDENCE) / 2.0)) * self.standard(i)

    def welch(self, i: int, j: int) -> tuple[float, float] | None:
        """Welch's 95 % interval of the minutes that i saves, by the repeats alone; None under three on a side."""
        from scipy.special import stdtrit

        mine, other = (np.array([x.estimate for x in self.laps[k]]) for k in (i, j))
        if min(len(mine), len(other)) < WELCH_RUNS:
            return None
        variances = [x.var(ddof=1) / len(x) for x in (mine, other)]
        variance = sum(variances)
        if variance <= 0.0:
            return None
        dof = variance**2 / sum(v**2 / (len(x) - 1) for v, x in zip(variances, (mine, other), strict=True))
        half = float(stdtrit(dof, 1.0 - (1.0 - CONFIDENCE) / 2.0)) * float(np.sqrt(variance))
        saved = float(other.mean() - mine.mean())
        return saved - half, saved + half

    def repeats_to_settle(self, i: int, j: int) -> int | None:
        """Repeats that each side still needs to detect a difference of the size that was seen, with 80 % probability.

        Returns
        -------
        int, or None where even twenty would not.
        """
        slow, fast = sorted((i, j), key=lambda k: -self.sides.minutes[k])
        minutes = float(self.sides.minutes[slow])
        wanted = minutes - float(self.sides.minutes[fast])
        spread = self.spread(i, j)
        variance = float(max(self.sides.interval_var[i], self.sides.interval_var[j]))
        now = (int(self.sides.runs[slow]), int(self.sides.runs[fast]))
        # What is known of the spread by now is the assumption that more repeats are added to.
        assumed = Spread(spread.share, spread.dof)

        def shows(more: int) -> bool:
            runs = (now[0] + more, now[1] + more)
            forward = Forward(minutes, runs, variance * spread.interval_weight, assumed, 2.0 * more)
            return forward.power(wanted) >= POWER

        if wanted <= 0.0 or not shows(MOST_REPEATS):
            return None
        low, high = 0, MOST_REPEATS
        while high - low > 1:
            middle = (low + high) // 2
            low, high = (low, middle) if shows(middle) else (middle, high)
        return high


def timed(cells: Sequence[Repeats], window: Window) -> Timed:
    """The times of cells over a window."""
    laps = tuple(
        tuple(
            timed_lap
            for run in cell.runs
            if not unfit(run, window)
            and run.course.readings is not None
            and (timed_lap := lap(run.course.readings, *window)) is not None
        )
        for cell in cells
    )
    chamber = np.array([all(r.chamber for r in cell.runs) for cell in cells], dtype=bool)
    spreads = {
        kind: measured_spread(
            Spread(CHAMBER_SPREAD if kind else ROOM_SPREAD),
            [[x.estimate for x in own] for own, c in zip(laps, chamber, strict=True) if c == kind],
        )
        for kind in (False, True)
    }
    nothing = float("nan")
    return Timed(
        window,
        laps,
        Sides(
            np.array([np.mean([x.estimate for x in own]) if own else nothing for own in laps]),
            np.array([max(1, len(own)) for own in laps], dtype=float),
            np.array([np.mean([x.variance for x in own]) if own else nothing for own in laps]),
        ),
        np.array([np.mean([x.late for x in own]) if own else nothing for own in laps]),
        spreads,
        chamber,
    )


@dataclass(frozen=True)
class Pair:
    """Two cells, by their places: what parts them, and how they differ where they can be compared."""

    a: int
    b: int
    apart: Differences
    difference: Difference | None
    gap: Gap | None

    @property
    def verdict(self) -> str:
        return self.difference.said if self.difference is not None else NO_DIFFERENCE


@dataclass(frozen=True)
class Versus:
    """Runs compared over one window. rank, last_rank : first and last place that a cell may hold, 0 without a time;
    unfit : why it has none; dropped : why single repeats of a cell that has one were left out; copied : runs of
    which another is the same recording, each with that one; they are left out unless nothing else is there."""

    cells: tuple[Repeats, ...]
    timed: Timed
    pairs: tuple[Pair, ...]
    rank: tuple[int, ...]
    last_rank: tuple[int, ...]
    unfit: tuple[str, ...]
    align: Align
    dropped: tuple[str, ...] = ()
    copied: tuple[tuple[Contender, Contender], ...] = ()
    shown: frozenset[tuple[int, int]] = frozenset()
    """Pairs (faster, slower) of which the difference is shown within the whole ranking: what places are made of."""

    @property
    def window(self) -> Window:
        return self.timed.window

    @property
    def ranked(self) -> int:
        """Number of cells that have a place."""
        return sum(rank > 0 for rank in self.rank)

    def pair(self, a: int, b: int) -> Pair | None:
        """The pair of two cells, by their places."""
        return next((p for p in self.pairs if {p.a, p.b} == {a, b}), None)

    def percent_at(self, cell: int) -> list[tuple[float, float]]:
        """Battery level at the usual minutes, as far as check-ins reach, the mean of repeats: (minute, %)."""
        minutes = np.array(REPORTED_MINUTES)
        curve = curves([self.cells[cell]], self.timed.window, self.align, minutes)[0]
        return [(m, p) for m, p in zip(minutes.tolist(), curve.tolist(), strict=True) if np.isfinite(p)]


def versus(
    runs: Sequence[Contender],
    start: float | None = None,
    end: float | None = None,
    align: Align = "placement",
    with_gaps: bool = True,
) -> Versus:
    """Compare runs.

    Parameters
    ----------
    runs : sequence of Contender, two at least
    start, end : float [%], optional
        The window; the widest that all share where nothing is given.
    align : "placement" or "common percent"
        What the curves are laid together by; the times over the window do not depend on it.
    with_gaps : bool
        Whether the largest gap of each pair is looked for.

    Raises
    ------
    CannotRead
        One run only, no window that two of them share, runs without check-ins, a window that cannot be.
    """
    if len(runs) < 2:
        raise CannotRead("there is one run only" if runs else "no run is given", "choose two or more", file="runs")
    single, copied = without_copies(runs)
    runs = single if len(single) > 1 else runs
    spans = [span(r.course.readings) for r in runs]
    bare = [r.label for r, s in zip(runs, spans, strict=True) if s is None]
    if len(runs) - len(bare) < 2:
        raise CannotRead(
            f"{bare[0]} has no check-ins that rise", "a comparison needs battery percentages of both", file="runs"
        )
    window = shared_window(spans) if start is None or end is None else (start, end)
    if window is None:
        (a, x), (b, y) = [(r.label, s) for r, s in zip(runs, spans, strict=True) if s is not None][:2]
        raise CannotRead(
            f"{a} covers {x[0]:g} to {x[1]:g} % and {b} {y[0]:g} to {y[1]:g} %: they share no window",
            "compare runs that pass the same percentages",
            file="runs",
        )
    window = checked_window(window[0] if start is None else start, window[1] if end is None else end)
    cells, dropped = _fitting(fold(runs), window)
    times = timed(cells, window)
    if times.known.sum() < min(2, len(cells)):
        reason = next(r for run in runs if (r := unfit(run, window)))
        raise CannotRead(f"{reason}: nothing is left to compare", "choose another window or other runs", file="window")
    i, j = np.triu_indices(len(cells), 1)
    between = times.differences(i, j)
    reasons = ["" if known else unfit(c.first, window) for c, known in zip(cells, times.known, strict=True)]
    apart = [
        differences(cells[a].first, cells[b].first, reasons[a] or reasons[b])
        for a, b in zip(i.tolist(), j.tolist(), strict=True)
    ]
    widest = gaps(cells, window, align, i, j) if with_gaps else [None] * len(i)
    pairs = tuple(
        Pair(a, b, d, None if d.apart else m, g)
        for a, b, d, m, g in zip(i.tolist(), j.tolist(), apart, between, widest, strict=True)
    )
    shown = _shown(pairs)
    first, last = _places(times, shown)
    return Versus(
        tuple(cells), times, pairs, first, last, tuple(reasons), align, tuple(dropped), tuple(copied), frozenset(shown)
    )


def to_milestones(comparison: Versus) -> dict[float, Timed]:
    """The times from where the window begins to each milestone within it, and to later ones that two cells reach."""
    start, end = comparison.window
    by_top = {top: timed(comparison.cells, (start, top)) for top in map(float, MILESTONES) if top > start}
    return {top: at for top, at in by_top.items() if top <= end or at.known.sum() > 1}


def _fitting(cells: Sequence[Repeats], window: Window) -> tuple[list[Repeats], list[str]]:
    """Cells without the repeats that do not cover a window, where others do; and why those were left out."""
    fitting, dropped = [], []
    for cell in cells:
        reasons = [unfit(run, window) for run in cell.runs]
        fit = tuple(run for run, reason in zip(cell.runs, reasons, strict=True) if not reason)
        fitting.append(replace(cell, runs=fit) if fit else cell)
        dropped += [f"a repeat is left out: {reason}" for reason in reasons if reason and fit]
    return fitting, dropped


_WORTH = {"fair": 0, "unknown": 1, "bundle": 2, "not comparable": 3}


def worth_telling(comparison: Versus) -> list[Pair]:
    """The pairs as they are told: fair ones first, of those the surest differences."""

    def order(pair: Pair) -> tuple[int, float]:
        return _WORTH[pair.apart.fair], pair.difference.p if pair.difference is not None else 1.0

    return sorted(comparison.pairs, key=order)


def _shown(pairs: Sequence[Pair]) -> list[tuple[int, int]]:
    """The pairs of which a difference is shown within the whole ranking: (faster, slower)."""
    p = np.array([q.difference.p if q.difference is not None else np.nan for q in pairs])
    return [
        (q.a, q.b) if q.difference is not None and q.difference.verdict.minutes_saved > 0 else (q.b, q.a)
        for q, s in zip(pairs, holm(p).tolist(), strict=True)
        if s
    ]


def _places(times: Timed, ordered: Sequence[tuple[int, int]]) -> tuple[tuple[int, ...], tuple[int, ...]]:
    """The first and the last place that each cell may hold."""
    faster, slower = (np.array([pair[k] for pair in ordered], dtype=np.intp) for k in (0, 1))
    first, last = ranks(len(times.laps), slower), last_ranks(times.known, faster)
    known = times.known.tolist()
    return (
        tuple(int(r) if k else 0 for r, k in zip(first, known, strict=True)),
        tuple(int(r) if k else 0 for r, k in zip(last, known, strict=True)),
    )
