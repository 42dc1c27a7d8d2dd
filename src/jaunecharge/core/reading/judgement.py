"""The judgement of a run's power: its phases, its dips and their causes."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..arrays import Array, Mask, median, percentile, running_sum
from ..log import check_ins as bat
from ..log.check_ins import DEAD_PERCENT, CheckIns, Milestone
from ..log.energy import mean_power
from ..log.no_load import MOST_NO_LOAD_W, same_level_w
from ..log.placement import GAINED_POINTS, LEAST_WAKE_S, Stretch
from ..log.temperatures import HeatLog
from ..log.trace import PowerTrace
from ..units import MINUTE_S
from .causes import Dip, explain
from .dips import RawDip, find_dips, low_level, runs, trailing_low
from .evidence import Limits, Scene
from .grid import Series, series
from .lasting_cuts import lasting_cuts
from .phases import STEP_SHARE, WAKE_SHARE, WAKE_WITHIN_S, Level, Phase, PhaseKind, PowerCourse, course
from .phone_temperature import Warmth, warmth
from .verdict import CauseVerdict

WAKE_PERCENT = DEAD_PERCENT + 3.0
"""The first check-in of a phone that was dead may come some minutes late (our own)."""

LEVEL_SHARE = 0.9
FLICKER_W = 1.2
"""5 V 1 A into a charger that wants more gives about 0.5 W, which flickers (common practice)."""

RAMP_SEEN_S = 60.0
"""A log that begins so long after the placing has not seen the ramp."""

LEAST_BY_HAND = 8
"""Of fewer watts read by hand nothing is told but what they are (own choice)."""

LEAST_CHARGING_S = 60.0
LOW_LASTS_S = 3 * MINUTE_S
TOP_UP_S = 10 * MINUTE_S
NEARLY_FULL = 95.0
"""A phone that is full may top itself up for some minutes; for longer than this, it was not full."""


@dataclass(frozen=True)
class Judged:
    """Judgement of the power. `outcome` is empty, or says that the run came to nothing."""

    grid: Series
    course: PowerCourse | None
    warmth: Warmth | None
    phases: tuple[Phase, ...]
    dips: tuple[Dip, ...]
    full_s: float | None
    low_w: float
    outcome: str = ""
    dismissed: tuple[Dip, ...] = ()


def judge(
    trace: PowerTrace,
    placed_s: float,
    ramp_end_s: float,
    settled: Stretch | None,
    no_load_w: float | None,
    after_full_w: float | None,
    readings: CheckIns | None,
    hundred: Milestone | None,
    heat: HeatLog | None,
    notes: tuple[tuple[float, str], ...] = (),
    limits: Limits = "",
    pack_empty: bool = False,
) -> Judged | None:
    """Segment a run and explain its dips; None where no power was metered, or too little to say anything.

    Of watts that were read now and then only what several of them show is told, and no phases.
    """
    if not trace.metered or trace.end_s - max(placed_s, trace.start_s) < MINUTE_S:
        return None
    if trace.sparse and np.count_nonzero(trace.time_s >= placed_s) < LEAST_BY_HAND:
        return None
    grid = series(trace)
    place = heat.phone() if heat else None
    warm = warmth(place, grid) if place is not None and len(place.time_s) else None
    peak_w = settled.watts if settled else percentile(grid.watts, 98)
    lowest = low_level(grid, peak_w, no_load_w, after_full_w)
    low_w = lowest.limit_w
    start = grid.index(placed_s)
    idle_w = low_w if no_load_w is None else same_level_w(no_load_w)
    idles = not _charges(grid, start, idle_w) or (no_load_w is None and peak_w < FLICKER_W)
    if idles and not _gains(readings):
        return Judged(grid, None, warm, (), (), None, low_w, "does not charge")
    percent = _percent(readings, grid)
    first = grid.index(ramp_end_s)
    waking = _wake(grid, start, percent, low_w)
    if waking is not None:
        first = max(first, _level_after(grid, waking))
    full = _full(grid, first, low_w, after_full_w, peak_w, hundred, readings, percent)
    tail = trailing_low(grid, first, low_w, peak_w) if full is None else None
    end = full if full is not None else (tail.first if tail is not None else len(grid))
    raw = find_dips(grid, first, end, peak_w, low_w)
    base_w = no_load_w if no_load_w is not None else (after_full_w or 0.0)
    along = course(grid, first, end, raw, peak_w, base_w, percent)
    idle_v = None
    if grid.volts is not None and start > 2:
        idle_v = median(grid.volts[:start])
    if tail is not None and _taken_off(grid, tail, readings):
        tail = None
    scene = Scene(grid, along, first, peak_w, low_w, warm, percent, readings, idle_v, notes, no_load_w, lowest.base_w,
                  limits, pack_empty)  # fmt: skip
    all_raw = [*raw, *([tail] if tail else [])]
    verdicts = explain(scene, all_raw)
    cuts = lasting_cuts(scene, all_raw, [r for r, v in zip(all_raw, verdicts, strict=True) if v.cause == "heat"])
    if by_heat := [r for r, v in cuts if v.cause == "heat"]:
        verdicts = explain(scene, all_raw, by_heat)
    dips = [
        _dip(scene, r, v, lasting=r.trailing)
        for r, v in zip(all_raw, verdicts, strict=True)
        if r.low or not any(c.first - grid.steps(MINUTE_S) <= r.first and r.end <= c.end for c, _ in cuts)
    ]
    dips += [_dip(scene, r, v, lasting=True) for r, v in cuts]
    dips.sort(key=lambda d: d.start_s)
    phases = [] if trace.sparse else _phases(trace, grid, placed_s, start, first, along, dips, full, waking)
    return Judged(grid, along, warm, tuple(phases), tuple(dips), None if full is None else grid.edge_s(full), low_w)


def stage_steps(judged: Judged) -> list[tuple[Level, Level]]:
    """Steps down for good that no dip explains: the levels above and below each."""
    if judged.course is None:
        return []
    cut, near, edge_s = [d.start_s for d in judged.dips if d.lasting], 2 * MINUTE_S, judged.grid.edge_s
    steps = [(a, b) for a, b in pairwise(judged.course.levels) if b.watts < STEP_SHARE * a.watts]
    return [s for s in steps if not any(edge_s(s[0].end) - near < at < edge_s(s[1].first) + near for at in cut)]


def _charges(grid: Series, start: int, low_w: float) -> bool:
    """Whether power was ever above no-load for a minute after placing."""
    wide = grid.steps(LEAST_CHARGING_S)
    above = (grid.watts[start:] > low_w).astype(float)
    if len(above) < wide:
        return bool(len(above)) and bool(above.mean() > 0.5)
    total = running_sum(above)
    return bool(np.max(total[wide:] - total[:-wide]) >= wide)


def _gains(readings: CheckIns | None) -> bool:
    """Whether the percentages show that it charged, whatever the meter says."""
    if readings is None or len(readings) < 2:
        return False
    return float(readings.percent.max() - readings.percent[0]) >= GAINED_POINTS


def _percent(readings: CheckIns | None, grid: Series) -> Array | None:
    """Battery level on the steps of the grid, level after the last check-in; None without check-ins."""
    if readings is None or not len(readings):
        return None
    level = bat.curve(readings)
    if level is None:
        return np.full(len(grid), float(readings.percent[0]))
    at = np.clip(grid.time_s, readings.time_s[0], readings.time_s[-1])
    return np.asarray(level(at))


def _full(
    grid: Series,
    first: int,
    low_w: float,
    after_full_w: float | None,
    peak_w: float,
    hundred: Milestone | None,
    readings: CheckIns | None,
    percent: Array | None,
) -> int | None:
    """The step at which the charge was over: power at its low end for three minutes, once 100 % may have been there."""
    rest_w = low_w
    if after_full_w is not None:
        rest_w = max(low_w, after_full_w + max(0.02 * peak_w, 0.08 * after_full_w))
    begin = first
    if hundred is not None:
        begin = max(first, grid.index(hundred.earliest_s))
    elif readings is not None and len(readings) and float(readings.percent.max()) < 99.0:
        return None
    resting = grid.watts <= rest_w
    resting[:begin] = False
    least = grid.steps(LOW_LASTS_S)
    total = running_sum(resting.astype(float))
    for at in (np.flatnonzero(resting[1:] & ~resting[:-1]) + 1).tolist():
        stop = min(len(grid), at + least)
        lasts = total[stop] - total[at] >= 0.9 * (stop - at) and stop - at >= min(least, grid.steps(MINUTE_S))
        if lasts and _longest(~resting[at:]) * grid.step_s < TOP_UP_S:
            if at == begin and hundred is not None:
                # Power was at rest before 100 % can have been seen: it was full from then on, if nearly so already.
                at = _rests_since(grid, at, first, rest_w, percent)
            return _when_full(grid, at, hundred, peak_w, first)
    return None


def _rests_since(grid: Series, at: int, first: int, rest_w: float, percent: Array | None) -> int:
    moving = np.flatnonzero(grid.watts[first:at] > rest_w)
    since = first + int(moving[-1]) + 1 if len(moving) else first
    return since if percent is None or float(percent[since]) >= NEARLY_FULL else at


def _longest(mask: Mask) -> int:
    return max((b - a for a, b in runs(mask)), default=0)


def _when_full(grid: Series, at: int, hundred: Milestone | None, peak_w: float, first: int) -> int | None:
    if hundred is None:
        # With nobody to read 100 %, only a fall that the power had led up to is taken for full.
        before = grid.smooth[max(first, at - grid.steps(5 * MINUTE_S)) : max(first + 1, at - grid.steps(MINUTE_S))]
        return at if len(before) and median(before) < 0.5 * peak_w else None
    return at


def _taken_off(grid: Series, tail: RawDip, readings: CheckIns | None) -> bool:
    """Whether the phone was simply taken off at the end: nobody read it afterwards."""
    if readings is None or not len(readings):
        return False
    return float(readings.time_s[-1]) <= grid.edge_s(tail.first) + MINUTE_S


def _dip(scene: Scene, raw: RawDip, verdict: CauseVerdict, lasting: bool) -> Dip:
    onset_c = scene.onset_c(raw)
    return Dip(
        scene.grid.edge_s(raw.first),
        scene.grid.edge_s(raw.end),
        verdict.cause,
        raw.expected_w,
        raw.floor_w,
        onset_c,
        scene.percent_at(raw.first),
        raw.low,
        lasting,
        verdict.why,
        verdict.settle,
        estimated=scene.warmth is not None and scene.warmth.estimated(scene.grid.edge_s(raw.first)),
        likely=verdict.likely,
    )


def _phases(
    trace: PowerTrace,
    grid: Series,
    placed_s: float,
    start: int,
    first: int,
    along: PowerCourse,
    dips: list[Dip],
    full: int | None,
    waking: int | None,
) -> list[Phase]:
    """The phases in order, side by side from the beginning of the log to its end."""
    edges: list[tuple[PhaseKind, float]] = []
    begin_s = max(placed_s, trace.start_s)
    # A stretch before a stated placing in which the phone drew power already is nothing that has a name.
    if placed_s > trace.start_s and mean_power(trace, trace.start_s, placed_s) <= MOST_NO_LOAD_W:
        edges.append(("no_load", trace.start_s))
    if waking is not None:
        edges.append(("wake", begin_s))
        edges.append(("ramp", grid.edge_s(waking)))
    elif placed_s >= trace.start_s - RAMP_SEEN_S:
        edges.append(("ramp", begin_s))
    ends = [x for x in (along.taper, along.trickle) if x is not None]
    stop = min([*ends, along.end])
    levels = along.levels
    if not levels and first < stop:
        edges.append(("plateau", grid.edge_s(first)))
    for k in range(len(levels)):
        begin = first if k == 0 else levels[k - 1].end
        edges.append(("plateau", grid.edge_s(begin)))
    if along.taper is not None:
        edges.append(("taper", grid.edge_s(along.taper)))
    if along.trickle is not None:
        edges.append(("trickle", grid.edge_s(along.trickle)))
    if full is not None:
        edges.append(("full", grid.edge_s(full)))
    elif along.end < len(grid):
        edges.append(("no_load", grid.edge_s(along.end)))
    spans = _spans(edges, trace.end_s)
    for d in dips:
        if d.cause == "hold":
            spans = _insert(spans, ("hold", d.start_s, d.end_s))
    phases = []
    for kind, begin_s, end_s in spans:
        if end_s - begin_s > 0:
            phases.append(Phase(kind, begin_s, end_s, mean_power(trace, begin_s, end_s)))
    return phases


Span = tuple[PhaseKind, float, float]


def _spans(edges: list[tuple[PhaseKind, float]], end_s: float) -> list[Span]:
    ends = [at for _, at in edges[1:]] + [end_s]
    return [(kind, begin, max(begin, stop)) for (kind, begin), stop in zip(edges, ends, strict=True) if stop > begin]


def _insert(spans: list[Span], new: Span) -> list[Span]:
    """The phases with another laid over them."""
    _, begin, end = new
    rest: list[Span] = []
    for k, a, b in spans:
        if b <= begin or a >= end:
            rest.append((k, a, b))
            continue
        if a < begin:
            rest.append((k, a, begin))
        if b > end:
            rest.append((k, end, b))
    rest.append(new)
    return sorted(rest, key=lambda s: s[1])


def _wake(grid: Series, start: int, percent: Array | None, low_w: float) -> int | None:
    """The step at which a dead phone's wake ends; None where it had none.

    From empty, power stands for a minute and a half or more at a level that it then leaves upwards for good.
    """
    if percent is not None and float(percent[start]) > WAKE_PERCENT:
        return None
    minute, least = grid.steps(MINUTE_S), grid.steps(LEAST_WAKE_S)
    stop = min(len(grid) - 2 * minute, start + grid.steps(WAKE_WITHIN_S))
    wake, most = None, 0.0
    for i in range(start + least, stop):
        before, after = float(grid.watts[i - minute : i].mean()), float(grid.watts[i : i + minute].mean())
        reached = float(grid.smooth[start + grid.steps(15.0) : max(start + 1, i - minute // 2)].max(initial=0.0))
        if low_w < before < WAKE_SHARE * after and reached < WAKE_SHARE * after and after - before > most:
            wake, most = i, after - before
    return wake


def _level_after(grid: Series, wake: int) -> int:
    """The step at which power has ramped up to what follows a wake."""
    reach = grid.steps(3 * MINUTE_S)
    level = median(grid.watts[wake + reach // 3 : wake + reach])
    there = np.flatnonzero(grid.watts[wake : wake + reach] >= LEVEL_SHARE * level)
    return wake + int(there[0]) if len(there) else wake
