"""The phases of a run: straight pieces of its power curve, named. Dips are left out of the fit, they are no phases."""

from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

import numpy as np

from ..arrays import Array, median
from ..units import MINUTE_S
from .change_points import Piece, pieces
from .dips import RawDip
from .grid import Series

PhaseKind = Literal["no_load", "wake", "ramp", "plateau", "taper", "trickle", "hold", "full"]

FIT_S, MOST_FIT_STEPS = 10.0, 900
WAKE_WITHIN_S = 8 * MINUTE_S
"""A phone run down to dead may take 4 to 6 minutes to wake (common practice); until then low watts mean nothing."""

WAKE_SHARE, WAKE_W = 0.8, 7.0
"""Power under this share of what follows, or of what is expected, may be a wake; where nothing is expected, watts."""

FLAT_SHARE, CLIMB_SHARE, FLAT_OVER_S = 0.03, 0.08, 10 * MINUTE_S
"""Changes over ten minutes: a fall under 3 % is steady, and a climb under 8 %, since a constant current draws more as
the battery's voltage rises (found on a published cell, see tests/reference)."""

STEP_SHARE = 0.94
"""Of two levels the later is a step down where it lies under this share of the earlier one."""

LEAST_PLATEAU_S = 4 * MINUTE_S
TRICKLE_SHARE = 0.2
SAME_SHARE = 0.05
LEAST_NOISE_SHARE = 0.004
TAPER_FROM_PERCENT = 60.0
TAPER_FALL_SHARE = 0.1
"""First values of our own, checked on simulated runs, where domain rules leave them open."""

KNEE_REACH_S, KNEE_BEFORE_S, KNEE_AFTER_S = 6 * MINUTE_S, 6 * MINUTE_S, 4 * MINUTE_S
KNEE_TAUS_S = tuple(MINUTE_S * t for t in (4.0, 8.0, 16.0, 40.0, 200.0))
STEP_OF_FALL = 0.5
AT_LEVEL_SHARE, BEFORE_KNEE_S = 0.99, 90.0


@dataclass(frozen=True)
class Phase:
    """A named stretch of the power curve [s], with its mean power [W]."""

    kind: PhaseKind
    start_s: float
    end_s: float
    mean_w: float
    overruled: str = ""


@dataclass(frozen=True)
class Level:
    """A stretch of steady power over the steps from `first` up to `end`; mean [W]."""

    first: int
    end: int
    watts: float


@dataclass(frozen=True)
class PowerCourse:
    """The course of the power from the end of the ramp on, dips left out.

    levels : steady stretches before the taper, in order; taper, trickle : the step at which each begins, or None;
    end : where the charge ends (full, or the end of the log).
    """

    levels: tuple[Level, ...]
    taper: int | None
    trickle: int | None
    end: int


def course(
    grid: Series,
    first: int,
    end: int,
    dips: list[RawDip],
    settled_w: float,
    base_w: float,
    percent: Array | None,
) -> PowerCourse:
    """The levels that the power kept, and where the taper and the trickle begin.

    Parameters
    ----------
    grid : Series
    first, end : int
        Steps from the end of the ramp to full, or to the end of the log.
    dips : list of RawDip
    settled_w, base_w : float [W]
        Best settled and no-load power.
    percent : (n,) float array or None [%]
        Battery level at each step of the grid, NaN where it is not known.
    """
    parts = _pieces(grid, first, end, dips, settled_w)
    if not parts:
        return PowerCourse((), None, None, end)
    flat = [_is_flat(grid, p, base_w) for p in parts]
    low = [(p.mean_w - base_w) < TRICKLE_SHARE * (settled_w - base_w) for p in parts]
    trickle = _trickle(parts, flat, low)
    taper = _taper(grid, parts, flat, low, percent, dips)
    if taper is not None and trickle is not None and trickle <= taper:
        trickle = None
    stop = min(x for x in (taper, trickle, end) if x is not None)
    levels = []
    for piece, steady in zip(parts, flat, strict=True):
        if piece.first >= stop:
            break
        if steady:
            levels.append(Level(piece.first, min(piece.end, stop), piece.mean_w))
    return PowerCourse(tuple(levels), taper, trickle, end)


PieceKind = Literal["plateau", "taper", "trickle", "falling", "rising"]


def latest_piece(
    grid: Series, first: int, settled_w: float, base_w: float, percent: float | None
) -> tuple[PieceKind, Piece] | None:
    """The last straight piece of a charge that goes on, and what it is by the same rules; None of too little power.

    A fall is a taper only at a percentage at which phones slow; without one it is a fall. Parameters as in `course`;
    percent [%] : the latest.
    """
    parts = _pieces(grid, first, len(grid), [], settled_w)
    if not parts:
        return None
    last = parts[-1]
    late = percent is not None and percent >= TAPER_FROM_PERCENT
    if _is_flat(grid, last, base_w):
        small = last.mean_w - base_w < TRICKLE_SHARE * (settled_w - base_w)
        return "trickle" if late and small and len(parts) > 1 else "plateau", last
    if last.end_w > last.start_w:
        return "rising", last
    return "taper" if late else "falling", last


def _pieces(grid: Series, first: int, end: int, dips: list[RawDip], settled_w: float) -> list[Piece]:
    """Straight pieces of the power without its dips, on the steps of the grid, small differences joined."""
    weight = grid.seen.astype(np.float64)
    guard = grid.steps(15.0)
    for d in dips:
        weight[max(0, d.first - guard) : d.end + guard * (4 if d.low else 1)] = 0.0
    wide = max(grid.steps(_fit_s(grid)), -(-(end - first) // MOST_FIT_STEPS))
    count = (end - first) // wide
    if count < 2:
        return []
    cut = slice(first, first + count * wide)
    w = weight[cut].reshape(count, wide)
    y = grid.watts[cut].reshape(count, wide)
    total = w.sum(axis=1)
    mean = np.where(total > 0, (w * y).sum(axis=1) / np.maximum(total, 1e-9), y.mean(axis=1))
    noise = max(grid.noise_w / np.sqrt(wide), LEAST_NOISE_SHARE * settled_w)
    parts = pieces(mean, (total > 0).astype(np.float64), noise)
    known = [p for p in parts if total[p.first : p.end].sum() > 0]
    joined: list[Piece] = []
    for p in known:
        last = joined[-1] if joined else None
        if last is not None and _alike(last, p, wide * grid.step_s):
            share = (p.end - p.first) / (p.end - last.first)
            both = (1 - share) * last.mean_w + share * p.mean_w
            joined[-1] = Piece(last.first, p.end, last.start_w, p.end_w, both)
        else:
            joined.append(p if last is None else Piece(last.end, p.end, p.start_w, p.end_w, p.mean_w))
    scaled = [Piece(first + p.first * wide, first + p.end * wide, p.start_w, p.end_w, p.mean_w) for p in joined]
    if scaled:
        tail = scaled[-1]
        scaled[-1] = Piece(tail.first, end, tail.start_w, tail.end_w, tail.mean_w)
        head = scaled[0]
        scaled[0] = Piece(first, head.end, head.start_w, head.end_w, head.mean_w)
    return scaled


def _fit_s(grid: Series) -> float:
    """Length of a step of the fit [s]: about one reading, where watts were read by hand."""
    return max(FIT_S, 2.0 * grid.unsure_s)


def _relative_slope(p: Piece, step_s: float, base_w: float = 0.0) -> float:
    """Change of a piece over ten minutes, as a share of its mean."""
    length_s = max(step_s, (p.end - p.first - 1) * step_s)
    return (p.end_w - p.start_w) / length_s * FLAT_OVER_S / max(1e-9, p.mean_w - base_w, 0.05 * p.mean_w)


def _alike(a: Piece, b: Piece, step_s: float) -> bool:
    """Whether two pieces side by side are one level: about flat, and hardly apart."""
    near = abs(a.mean_w - b.mean_w) <= SAME_SHARE * max(a.mean_w, b.mean_w)
    jump = abs(a.end_w - b.start_w) <= SAME_SHARE * max(a.mean_w, b.mean_w)
    return near and jump and max(abs(a.end_w - a.start_w), abs(b.end_w - b.start_w)) <= SAME_SHARE * a.mean_w


def _is_flat(grid: Series, p: Piece, base_w: float) -> bool:
    """Whether a piece is steady: of the power above no-load, which is not charging."""
    long = (p.end - p.first) * grid.step_s >= LEAST_PLATEAU_S
    return long and -FLAT_SHARE < _relative_slope(p, grid.step_s, base_w) < CLIMB_SHARE


def _trickle(parts: list[Piece], flat: list[bool], low: list[bool]) -> int | None:
    """Where the flat low end begins: the first flat low piece from which on all are low."""
    begin = None
    for piece, steady, small in reversed(list(zip(parts, flat, low, strict=True))):
        if not small:
            break
        if steady:
            begin = piece.first
    return begin if begin is not None and begin > parts[0].first else None


def _taper(
    grid: Series, parts: list[Piece], flat: list[bool], low: list[bool], percent: Array | None, dips: list[RawDip]
) -> int | None:
    """Where power leaves its last level for good, smoothly; None where it leaves it by a step, or never."""
    for k in range(len(parts) - 1, -1, -1):
        here, falls = parts[k], parts[k + 1 :]
        if low[k] or not flat[k] or not falls:
            continue
        if not _leaves_smoothly(grid, here, falls, flat[k + 1 :], low[k + 1 :], dips):
            if falls and not flat[k + 1]:
                continue
            return None
        level = _percent_at(percent, here.end)
        if level is not None and level < TAPER_FROM_PERCENT:
            bend = _later_bend(grid, falls, percent)
            if bend is not None:
                return bend
        return _knee(grid, here, falls, dips)
    falling = not any(f and not s for f, s in zip(flat, low, strict=True)) and parts[-1].end_w < 0.8 * parts[0].start_w
    level = _percent_at(percent, parts[0].first)
    return parts[0].first if falling and (level is None or level >= TAPER_FROM_PERCENT) else None


def _leaves_smoothly(
    grid: Series, level: Piece, falls: list[Piece], flat: list[bool], low: list[bool], dips: list[RawDip]
) -> bool:
    """Whether what follows a level is a fall without a leading step, and no steady level of its own before its end."""
    if flat[0]:
        return False
    lasting = [p for p, f, s in zip(falls, flat, low, strict=True) if f and not s]
    if lasting and lasting[-1].end != falls[-1].end:
        return False
    fall = level.end_w - min(p.end_w for p, f in zip(falls, flat, strict=True) if not f)
    if fall <= TAPER_FALL_SHARE * level.mean_w:
        return False
    beside = any(d.first - grid.steps(MINUTE_S) <= level.end <= d.end + grid.steps(MINUTE_S) for d in dips)
    long = (falls[0].end - falls[0].first) * grid.step_s >= LEAST_PLATEAU_S
    return (beside and long) or _step_w(grid, level.end, dips) < STEP_OF_FALL * fall


def _step_w(grid: Series, at: int, dips: list[RawDip]) -> float:
    """By how much power falls within two minutes around a moment, a dip that stands there left out [W]."""
    minute, some = grid.steps(MINUTE_S), grid.steps(10.0)
    first, end = at, at
    for d in dips:
        if d.first - minute <= at <= d.end + minute:
            first, end = min(first, d.first), max(end, d.end)
    before = grid.watts[max(0, first - minute - some) : max(1, first - some)]
    after = grid.watts[end + minute : end + 2 * minute]
    return median(before) - median(after) if len(before) and len(after) else 0.0


def _later_bend(grid: Series, falls: list[Piece], percent: Array | None) -> int | None:
    """Of a fall that begins early, the bend at a high percentage at which it gets steepest anew."""
    best, where = 0.0, None
    for before, after in pairwise(falls):
        level = _percent_at(percent, after.first)
        steeper = _relative_slope(before, grid.step_s) - _relative_slope(after, grid.step_s)
        if level is not None and level >= TAPER_FROM_PERCENT and steeper > best:
            best, where = steeper, after.first
    return where


def _percent_at(percent: Array | None, index: int) -> float | None:
    if percent is None:
        return None
    value = float(percent[min(index, len(percent) - 1)])
    return value if np.isfinite(value) else None


def _knee(grid: Series, level: Piece, falls: list[Piece], dips: list[RawDip]) -> int:
    """The bend itself: a straight line before, a decay after that meets it, where both fit best.

    A fall that begins in a dip, or as it ends, begins where the dip ends: a level counts until another is seen.
    """
    reach, close = grid.steps(KNEE_REACH_S), grid.steps(MINUTE_S)
    window, later = grid.steps(KNEE_BEFORE_S), grid.steps(KNEE_AFTER_S)
    around = level.end
    beside = [d for d in dips if d.first - close <= around <= d.end + close]
    begin = max(level.first, around - 2 * window)
    stop = min(falls[-1].end, max(around, min(falls[0].end, around + 2 * window)) + later)
    weight = grid.seen[begin:stop].copy()
    for d in dips:
        weight[max(0, d.first - begin - 3) : max(0, d.end - begin + 3)] = False
    x = np.arange(begin, stop, dtype=np.float64)[weight]
    y = grid.watts[begin:stop][weight]
    if beside or len(x) < 12:
        return max(beside, key=lambda d: d.end).end if beside else around
    # Slow wander may look like a bend; the power was at its level a little before the true one.
    usual = median(y[: max(12, len(x) // 2)])
    still = np.flatnonzero(grid.smooth[begin:stop] >= AT_LEVEL_SHARE * usual)
    earliest = begin + int(still[-1]) - grid.steps(BEFORE_KNEE_S) if len(still) else begin
    last = min(stop - 3, max(around + reach, falls[0].end, earliest + reach))
    rough = _best_bend(grid, x, y, level.slope_w, range(max(begin + 3, around - reach, earliest), last))
    if rough is None:
        return max(around, earliest)
    near = (x >= rough - window) & (x < rough + later)
    fine = range(max(begin + 3, earliest, rough - 2 * close), min(stop - 3, rough + 2 * close))
    exact = _best_bend(grid, x[near], y[near], level.slope_w, fine)
    return rough if exact is None else exact


def _best_bend(grid: Series, x: Array, y: Array, slope_w: float, candidates: range) -> int | None:
    """The candidate at which a decay that follows a straight line fits a stretch best; None where none can be tried."""
    tried = np.array(candidates[:: max(1, grid.steps(10.0))], dtype=np.float64)
    if len(x) < 12 or not len(tried):
        return None
    since = x - tried[:, None]
    level_y = y - slope_w * np.minimum(since, 0.0)
    falls_on = np.maximum(since, 0.0) * grid.step_s
    misfits = [_misfits(-np.expm1(-falls_on / tau), level_y) for tau in KNEE_TAUS_S]
    return int(tried[np.argmin(np.min(misfits, axis=0))])


def _misfits(shapes: Array, values: Array) -> Array:
    """Squared residuals of values after a constant and a multiple of one shape, of each row of both : (m, n)."""
    shapes, values = shapes - shapes.mean(axis=1, keepdims=True), values - values.mean(axis=1, keepdims=True)
    size, along = np.vecdot(shapes, shapes), np.vecdot(shapes, values)
    return np.vecdot(values, values) - np.divide(along**2, size, out=np.zeros(len(size)), where=size > 1e-12)
