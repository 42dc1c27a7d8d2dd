"""Runs with two to four causes in one, drawn at random, and the logs that people bring of them.

Made with the equations of `tests.other_runs`, not of the product. What nobody could tell apart is drawn again: a fall
that begins where heat takes power in the same run, and two causes so close to one another that they are one fall.
"""

from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from tests.other_runs import MadeRun, TrueDip, logged, march, true_dips, without_lead

HEAT = {"heat cycles": 1, "heat cut": 2, "heat level": 3, "cut-out": 4}
OTHERS = ("contact", "restart", "restart in the taper", "supply", "unplugged", "in use", "hold", "contact in the taper")
LOGS = ("whole", "no lead", "late start", "cut end", "hand-read")

LIMITED, HELD, LESS, OFF = 1, 2, 3, 4
"""What limits the power of a second, as `march` marks it."""

HOLD_AT = (0.8, 0.85, 0.9, 0.95)
VOLTS_BACK_TO = {5.0: 4.5, 9.0: 5.0, 12.0: 9.0, 15.0: 9.0}
APART_S, BESIDE_S = 120.0, 180.0
HAND_STEPS, HOT_FROM_C = 3, 37.0
"""A dip that hand-read watts must show lasts so many of their steps at least."""


@dataclass(frozen=True)
class MixedRun:
    """A run and its log. sure : dips that the log shows whole, to be found and named; perhaps : dips that it shows in
    part or hardly, which may be missed or called unexplained, but never be called something else."""

    run: MadeRun
    causes: tuple[str, ...]
    log: str
    sure: tuple[TrueDip, ...]
    perhaps: tuple[TrueDip, ...] = ()


def mixed_run(seed: int) -> MixedRun:
    """One random run of two to four causes, and a log of it as one of LOGS."""
    rng = np.random.default_rng([seed, 77])
    for attempt in range(400):
        causes = _drawn(rng)
        run = _try(np.random.default_rng([seed, attempt, 78]), causes)
        if run is not None:
            return as_logged(run, causes, LOGS[seed % len(LOGS)], rng)
    raise RuntimeError(f"no mixed run came of seed {seed}")


def _drawn(rng: np.random.Generator) -> tuple[str, ...]:
    heat = [str(rng.choice(list(HEAT)))] if rng.random() < 0.7 else []
    more = rng.choice(OTHERS, size=int(rng.integers(2 - len(heat), 5 - len(heat))), replace=False)
    return (*heat, *(str(m) for m in more))


def _try(rng: np.random.Generator, causes: tuple[str, ...]) -> MadeRun | None:
    heat = next((c for c in causes if c in HEAT), "")
    placed, n = int(rng.integers(20, 150)), int(rng.integers(6, 9) * 3600)
    warm = bool(heat) or rng.random() < 0.4
    ambient = float(rng.uniform(24, 34) if warm else rng.uniform(16, 30))
    room = ambient + rng.uniform(0, 0.8) * np.sin(np.arange(n) / rng.uniform(4000, 9000))
    capacity = float(rng.uniform(2800, 5200))
    wh = capacity * 3.87 / 1000
    into = float(rng.uniform(4.0, 11.0)) * wh / 16.0
    start, knee = float(rng.choice([0.02, 0.05, 0.1, 0.15, 0.25])), float(rng.uniform(0.7, 0.9))
    rise = float(rng.uniform(13, 20) if warm else rng.uniform(4, 10))
    loss = float(rng.uniform(0.32, 0.55))
    hot, cool, part = 99.0, 98.0, 1.0
    if heat:
        steady = ambient + rise
        hot = float(rng.uniform(38.6, min(46.0, steady - 0.5))) if steady > 40.5 else 0.0
        if hot < 38.6 or hot - ambient < 7:
            return None
        cool = hot - float(rng.uniform(1.2, 3.0) if heat == "heat cycles" else rng.uniform(2.0, 4.0))
        part = float(rng.uniform(0.35, 0.75))
        if heat == "heat cycles" and ambient + rise * part**0.87 > cool - 1.0:
            return None
    minutes = wh * (knee - start) / into * 60
    span = (placed + 420.0, placed + minutes * 60 * 0.85)
    late = (placed + minutes * 60 * 1.05, placed + minutes * 60 * 1.3)
    off, factor, why = np.zeros(n), np.ones(n), np.zeros(n)
    volts0 = float(rng.choice([5.0, 9.0, 9.0, 12.0, 15.0]))
    volts = np.full(n, volts0)

    def lost(times) -> None:
        for t in times:
            off[int(t) : int(t + rng.uniform(30, 500))] = 1

    def less(times, length, low, cause) -> None:
        for t in times:
            at = slice(int(t), int(t + length()))
            factor[at], why[at] = low(), cause

    if "contact" in causes:
        lost(rng.uniform(*span, int(rng.integers(1, 4))))
    if "contact in the taper" in causes:
        lost([rng.uniform(*late)])
    if "in use" in causes:
        less(rng.uniform(*span, int(rng.integers(1, 3))), lambda: rng.uniform(120, 700),
             lambda: rng.uniform(0.4, 0.78), 2)  # fmt: skip
    gap, long, low = rng.uniform(280, 900), rng.uniform(66, 95), rng.uniform(0.05, 0.11)
    for name, (begin, end) in (("restart", span), ("restart in the taper", late)):
        if name in causes:
            times = np.arange(rng.uniform(begin, (begin + end) / 2), end, gap)[: int(rng.integers(2, 9))]
            less(times, lambda: long, lambda: low, 1)
    if "supply" in causes:
        t = rng.uniform(*span)
        end = n if rng.random() < 0.4 else int(t + rng.uniform(300, 2400))
        factor[int(t) : end], why[int(t) : end] = rng.uniform(0.4, 0.75), 3
        volts[int(t) : end] = VOLTS_BACK_TO[volts0]
    if "unplugged" in causes:
        t = int(rng.uniform(*span))
        end = int(t + rng.uniform(60, 900))
        off[t:end], volts[t:end] = 2, 0.0
    hold_q = float(rng.choice(HOLD_AT)) if "hold" in causes else -1.0
    hold_len = 0.0 if hold_q < 0 else float(rng.choice([1e9, rng.uniform(1200, 6000)]))
    ratio, no_load = float(rng.uniform(1.45, 1.9)), float(rng.choice([0.1, 0.25, 0.4, 0.6, 1.2, 2.8]))
    watts, free, back, probe, charge, flag, full_at, taper_at = march(
        n, placed, np.array([0.0]), np.array([into]), knee, float(rng.uniform(0.7, 1.4)),
        into * float(rng.uniform(0.06, 0.14)), wh, ratio, no_load, loss, float(rng.uniform(0.35, 0.8)),
        loss * into * 1.3 / rise**1.15, float(rng.uniform(60, 110)), float(rng.uniform(40, 90)),
        float(rng.uniform(15, 60)), room, HEAT.get(heat, 0), hot, cool, part, off, factor, hold_q, hold_len,
        float(rng.choice([0.0, 0.1])), start, no_load + float(rng.choice([0.0, 0.1, 0.3])),
        float(rng.uniform(4, 18)), float(rng.uniform(1.5, 3.0)),
    )  # fmt: skip
    end = n if full_at < 0 else min(n, full_at + int(rng.uniform(300, 1200)))
    if hold_len > 1e8 and (flag == HELD).any():
        end = min(end, int(np.argmax(flag == HELD)) + int(rng.uniform(2400, 5400)))
    watts = watts * (volts > 0)
    code = flag + np.where(flag == LESS, 10 * why, 0) + np.where(flag == OFF, 10 * off, 0)
    by_heat = "heat_cutout" if heat == "cut-out" else "heat"
    shown = _without_swings(code, watts, free) if heat == "heat level" else watts
    named = {1: by_heat, 2: "hold", 13: "restart", 23: "unexplained", 33: "supply", 14: "contact", 24: "supply"}
    dips = true_dips(shown[:end], free[:end], code[:end], named, no_load, False)
    wanted = {
        "restart in the taper": "restart", "unplugged": "supply", "in use": "unexplained",
        "contact in the taper": "contact",
        "cut-out": "heat_cutout", "heat cut": "heat", "heat cycles": "heat", "heat level": "heat",
    }  # fmt: skip
    if {d.cause for d in dips} != {wanted.get(c, c) for c in causes}:
        return None
    shallow = [d for d in dips if d.cause == "heat" and np.median((watts / free)[int(d.start_s) : int(d.end_s)]) > 0.8]
    if heat == "heat level" and shallow:
        return None
    stop = taper_at if 0 < taper_at < end else end
    if not _apart(dips) or not _told_apart(dips, heat, hot, back, flag, stop):
        return None
    if heat == "heat cut" and back[:end].max() > hot + 1.0:
        return None
    return logged(
        rng, " + ".join(causes), watts[:end], volts[:end], probe[:end], charge[:end], placed, full_at, ambient,
        capacity, dips, None, (), no_load, None, {"hot": hot, "cool": cool, "part": part, "rise": rise},
    )  # fmt: skip


def _without_swings(code, watts, free):
    """Power as its dips are told from it: a regulated cut swings about its level, and is one until it is over."""
    level = watts.copy()
    cut = code == LIMITED
    down = cut & (watts < 0.85 * free)
    edges = np.flatnonzero(np.diff(np.concatenate(([0], down.astype(int), [0]))))
    for (_, end), (begin, _) in pairwise(zip(edges[::2], edges[1::2], strict=True)):
        if begin - end < APART_S and np.all(cut[end:begin]):
            level[end:begin] = 0.0
    return level


def _apart(dips: tuple[TrueDip, ...]) -> bool:
    """Whether no two dips stand so close that they are one fall; one in a long cut may, with enough on both sides."""
    for a, b in pairwise(dips):
        if b.start_s < a.end_s:
            if b.start_s - a.start_s < BESIDE_S or a.end_s - b.end_s < BESIDE_S:
                return False
        elif b.start_s - a.end_s < APART_S and not _within_heat(a, b):
            return False
    return True


def _within_heat(a: TrueDip, b: TrueDip) -> bool:
    """Whether one is a fall to nothing in the middle of a cut by heat that is long enough to be seen by itself."""
    cut = next((d for d in (a, b) if d.cause == "heat"), None)
    return cut is not None and "contact" in (a.cause, b.cause) and cut.end_s - cut.start_s >= BESIDE_S


def _told_apart(dips, heat: str, hot: float, back, flag, stop: int) -> bool:
    """Whether contact losses and uses of the phone begin where nobody would take them for heat: cool; or, where heat
    limits this run, clearly under that level; or, where it does not, with the charge going on hotter for long."""
    free = (flag == 0) & (np.arange(len(flag)) < stop)
    heats = sum(d.cause == "heat" for d in dips)
    for d in dips:
        at = int(d.start_s)
        if d.cause not in {"contact", "unexplained"} or back[at] < 37.5:
            continue
        if heat == "cut-out" or (heat and (d.cause == "unexplained" or heats < 2)):
            if back[at] > hot - 1.0:
                return False
        elif not heat:
            hotter = (free[at + 600 :] & (back[at + 600 : len(flag)] > back[at] + 0.5)).sum() >= 1000
            cooled = back[at] < back[:at].max() - 1.0
            if not hotter and not cooled:
                return False
    return True


def as_logged(run: MadeRun, causes: tuple[str, ...], log: str, rng: np.random.Generator) -> MixedRun:
    """A run, logged in one of the ways that people do."""
    if log == "no lead":
        run = without_lead(run, float(rng.choice([0.0, rng.uniform(0, 25)])))
    elif log == "late start":
        late_s = next(late for late in rng.uniform(180, 3000, 200) if not _stopped(run, run.placed_s + late))
        return _since(run, causes, float(late_s))
    elif log == "cut end":
        return _until(run, causes, float(rng.uniform(0.35, 0.95)) * float(run.time_s[-1]))
    elif log == "hand-read":
        return _by_hand(run, causes, rng)
    return MixedRun(run, causes, log, run.dips)


def _stopped(run: MadeRun, at_s: float) -> bool:
    """Whether the charge had stopped for a while: of a log that begins there nobody knows what it waits for."""
    stops = [d for d in run.dips if d.cause in {"heat_cutout", "hold", "restart"}]
    return any(d.start_s - 20 <= at_s <= d.end_s + 20 for d in stops)


def _since(run: MadeRun, causes: tuple[str, ...], late_s: float) -> MixedRun:
    begin = run.placed_s + late_s
    sure = tuple(d for d in run.dips if d.start_s > begin + 300)
    perhaps = tuple(d for d in run.dips if d.start_s <= begin + 300 and d.end_s > begin)
    # Of a cut that was in force already, and is again after a stop, the log never saw the full power.
    for cut in [d for d in perhaps if d.cause == "heat"]:
        until_s = cut.end_s
        for d in [d for d in sure if d.start_s >= cut.end_s]:
            if d.start_s - until_s > APART_S:
                break
            until_s = d.end_s
            if d.cause == "heat":
                sure, perhaps = tuple(s for s in sure if s is not d), (*perhaps, d)
    return MixedRun(without_lead(run, late_s), causes, "late start", sure, perhaps)


def _until(run: MadeRun, causes: tuple[str, ...], end_s: float) -> MixedRun:
    meter, seen, warm = run.time_s <= end_s, run.checkin_s <= end_s, run.heat_s <= end_s
    cut = replace(
        run, time_s=run.time_s[meter], volts=run.volts[meter], amps=run.amps[meter], checkin_s=run.checkin_s[seen],
        percent=run.percent[seen], heat_s=run.heat_s[warm], celsius=run.celsius[warm],
    )  # fmt: skip
    sure = tuple(d for d in run.dips if d.end_s < end_s - 300)
    perhaps = tuple(replace(d, end_s=min(d.end_s, end_s)) for d in run.dips if d.start_s < end_s <= d.end_s + 300)
    return MixedRun(cut, causes, "cut end", sure, perhaps)


def _by_hand(run: MadeRun, causes: tuple[str, ...], rng: np.random.Generator) -> MixedRun:
    """Read by eye every few minutes, not on the second."""
    every = float(rng.choice([120, 180, 240, 300]))
    begin = run.placed_s - float(rng.uniform(0, 20)) if rng.random() < 0.5 else run.placed_s + float(rng.uniform(5, 60))
    at_s = np.arange(max(run.time_s[0], begin), run.time_s[-1], every)
    at_s = np.sort(at_s + rng.uniform(-10, 10, len(at_s)))
    at = np.unique(np.clip(np.searchsorted(run.time_s, at_s), 0, len(run.time_s) - 1))
    by_hand = replace(
        run, time_s=run.time_s[at], volts=run.volts[at], amps=run.amps[at], lead=bool(begin < run.placed_s)
    )
    # A stop that begins hot is no more a contact than heat to whoever reads watts now and then, and two stops close to
    # one another are one.
    hot_at = np.interp([d.start_s for d in run.dips], run.heat_s, run.celsius) >= HOT_FROM_C
    stops = [d for d in run.dips if d.cause in {"contact", "heat_cutout", "hold"}]

    def told(d: TrueDip, hot: bool) -> bool:
        beside = any(s is not d and s.start_s - d.end_s < 2 * every and d.start_s - s.end_s < 2 * every for s in stops)
        alone = d not in stops or not beside
        return d.end_s - d.start_s >= HAND_STEPS * every + 20 and alone and not (hot and d.cause == "contact")

    long = [told(d, bool(hot)) for d, hot in zip(run.dips, hot_at, strict=True)]
    sure = tuple(d for d, seen in zip(run.dips, long, strict=True) if seen)
    perhaps = tuple(d for d, seen in zip(run.dips, long, strict=True) if not seen)
    return MixedRun(by_hand, causes, "hand-read", sure, perhaps)
