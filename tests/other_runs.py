"""A second generator of runs, kept apart from the product's simulator: other equations, other noise.

Two thermal nodes with a convection that grows faster than the difference; a probe that lags; a battery whose accepted
power falls with the charge that is left to a power of its own; a chain that is affine in its losses; slow wander on the
power. Everything is drawn at random from a seed. The figures are invented; nothing here is taken from the product.
"""

from dataclasses import dataclass, field, replace
from itertools import pairwise

import numpy as np
from numba import njit

MECHANISMS = (
    "none",
    "heat cycles",
    "heat cut",
    "heat level",
    "cut-out",
    "contact",
    "hot contact",
    "restart",
    "supply",
    "supply for good",
    "supply pinned",
    "unplugged",
    "hold",
    "hold that ends",
    "in use",
    "warm in use",
    "stages",
    "warm stages",
    "taper contact",
    "cut-out and contact",
    "heat cycles, then hold",
    "stages and contact",
    "heat cycles and contact",
)
"""What happens to a run. A single stop or step at the hottest moment is left out: nobody could tell its cause."""

HEATED = {
    "heat cycles", "heat cut", "heat level", "cut-out", "cut-out and contact", "heat cycles, then hold",
    "heat cycles and contact",
}  # fmt: skip


@dataclass(frozen=True)
class TrueDip:
    """A dip as it was made: log's clock [s]."""

    start_s: float
    end_s: float
    cause: str


@dataclass(frozen=True)
class MadeRun:
    """What would have been logged, all on one clock [s], and the truth."""

    mechanism: str
    time_s: np.ndarray
    volts: np.ndarray
    amps: np.ndarray
    checkin_s: np.ndarray
    percent: np.ndarray
    heat_s: np.ndarray
    celsius: np.ndarray
    placed_s: float
    capacity_mah: float
    ambient_c: float
    dips: tuple[TrueDip, ...]
    taper_s: float | None
    bounds_s: tuple[float, ...]
    no_load_w: float
    most_w: float
    settings: dict = field(default_factory=dict)
    lead: bool = True
    """Whether the log begins before the phone was placed."""

    crossings_s: dict = field(default_factory=dict)
    """When the phone first showed 50 and 80 %."""


@njit
def march(
    n, placed, stage_q, stage_w, knee, power, floor_w, wh, ratio, no_load, loss, g_core, g_air, c_core, c_back,
    probe_tau, room, kind, hot, cool, part, off, factor, hold_q, hold_len, idle_over, start_q, after_full, ramp_s, band,
):  # fmt: skip
    """One run, a value a second: watts at the meter, what it would have been, core, back and probe, charge, flag."""
    watts, free = np.zeros(n), np.zeros(n)
    back, probe, charge = np.zeros(n), np.zeros(n), np.zeros(n)
    flag, full_at, taper_at = np.zeros(n), -1, -1
    core_t, back_t, probe_t, q = room[0], room[0], room[0], start_q
    throttled, level, held, since = False, 1.0, 0.0, 1e9
    for i in range(n):
        want = stage_w[0]
        for k in range(len(stage_q)):
            if q >= stage_q[k]:
                want = stage_w[k]
        if q > knee:
            want = max(floor_w, want * max((1.0 - q) / (1.0 - knee), 1e-4) ** power)
        if q >= 0.999 and full_at < 0:
            full_at = i
        given, state = want, 0
        if kind == 1:  # falls and recovers
            throttled = back_t >= hot or (throttled and back_t > cool)
            if throttled:
                given, state = min(want, part * stage_w[0]), 1
        elif kind == 2:  # one cut for good
            throttled = throttled or back_t >= hot
            if throttled:
                given, state = min(want, part * stage_w[0]), 1
        elif kind == 3:  # kept at a level
            aim = min(1.0, max(0.15, 1.0 + (hot - back_t) / band))
            level += (aim - level) / 25.0
            given = want * level
            if level < 0.97:
                state = 1
        elif kind == 4:  # stops and comes back
            throttled = back_t >= hot or (throttled and back_t > cool)
            if throttled:
                given, state = 0.0, 1
        on = i >= placed and off[i] == 0 and full_at < 0
        if hold_q > 0 and q >= hold_q and held < hold_len and on:
            held += 1.0
            given, state = 0.0, 2
        if factor[i] < 1.0 and i >= placed and factor[i] * stage_w[0] < given:
            given, state = factor[i] * stage_w[0], 3
        if i >= placed and off[i] > 0:
            state = 4
        if taper_at < 0 and on and q > knee and given >= want:
            taper_at = i
        since = 0.0 if not on or given == 0.0 else since + 1.0
        rise = 1.0 - np.exp(-since / ramp_s)
        into = given * rise if on else 0.0
        would = want * (1.0 - np.exp(-(i - placed) / ramp_s)) if i >= placed and full_at < 0 else 0.0
        extra = idle_over if (state == 2 and on) else 0.0
        watts[i] = no_load + ratio * into + extra
        free[i] = no_load + ratio * would
        if full_at >= 0:
            watts[i] = after_full
        if on:
            q += into / 3600.0 / wh
        heat = loss * into * (1.0 + 0.3 * into / stage_w[0])
        flow = g_core * (core_t - back_t)
        lost = g_air * np.sign(back_t - room[i]) * abs(back_t - room[i]) ** 1.15
        core_t += (heat - flow) / c_core
        back_t += (flow - lost) / c_back
        probe_t += (back_t - probe_t) / probe_tau
        back[i], probe[i], charge[i], flag[i] = back_t, probe_t, q, state
    return watts, free, back, probe, charge, flag, full_at, taper_at


def made_run(seed: int, mechanism: str | None = None, every_heat_s: float | None = None) -> MadeRun:
    """One random run. `mechanism` of MECHANISMS, by the seed if not given."""
    rng = np.random.default_rng([seed, 20_27])
    mechanism = mechanism or MECHANISMS[seed % len(MECHANISMS)]
    for attempt in range(60):
        run = _try(np.random.default_rng([seed, attempt, 4]), mechanism, every_heat_s)
        if run is not None:
            return run
    raise RuntimeError(f"no {mechanism} run came of seed {seed} ({rng.bit_generator})")


def _try(rng: np.random.Generator, mechanism: str, every_heat_s: float | None) -> MadeRun | None:
    warm = mechanism in HEATED | {"hot contact", "warm stages", "warm in use"}
    placed = int(rng.integers(20, 150))
    ambient = float(rng.uniform(24, 34) if warm else rng.uniform(16, 30))
    n = int(rng.integers(6, 9) * 3600)
    room = ambient + rng.uniform(0, 0.8) * np.sin(np.arange(n) / rng.uniform(4000, 9000))
    capacity = float(rng.uniform(2800, 5200))
    wh = capacity * 3.87 / 1000
    into = float(rng.uniform(4.0, 11.0)) * wh / 16.0
    ratio, no_load = float(rng.uniform(1.45, 1.9)), float(rng.choice([0.1, 0.25, 0.4, 0.6, 1.2, 2.8]))
    start = float(rng.choice([0.02, 0.05, 0.08, 0.1, 0.15, 0.25]))
    knee = float(rng.uniform(0.7, 0.9))
    stage_q, stage_w = np.array([0.0]), np.array([into])
    if mechanism in {"stages", "warm stages", "stages and contact"}:
        count = int(rng.integers(2, 4))
        stage_q = np.concatenate(([0.0], np.sort(rng.uniform(start + 0.12, knee - 0.1, count - 1))))
        if np.any(np.diff(stage_q) < 0.12):
            return None
        stage_w = into * np.cumprod(np.concatenate(([1.0], rng.uniform(0.6, 0.85, count - 1))))
    c_core, c_back = float(rng.uniform(60, 110)), float(rng.uniform(40, 90))
    g_core = float(rng.uniform(0.35, 0.8))
    loss = float(rng.uniform(0.32, 0.55))
    rise = float(rng.uniform(13, 20) if warm else rng.uniform(4, 10))
    g_air = loss * into * 1.3 / rise**1.15
    kind, hot, cool, part = 0, 99.0, 98.0, 1.0
    steady = ambient + rise
    if mechanism in HEATED:
        hot = float(rng.uniform(38.6, min(46.0, steady - 0.5))) if steady > 40.5 else 0.0
        if hot < 38.6 or hot - ambient < 7:
            return None
        cycles = mechanism.startswith("heat cycles")
        cool = hot - float(rng.uniform(1.2, 3.0) if cycles else rng.uniform(2.0, 4.0))
        part = float(rng.uniform(0.35, 0.75))
        kind = 1 if cycles else {"heat cut": 2, "heat level": 3}.get(mechanism, 4)
        if cycles and ambient + rise * part**0.87 > cool - 1.0:
            return None
    off, factor = np.zeros(n), np.ones(n)
    volts0 = float(rng.choice([5.0, 9.0, 9.0, 9.0, 12.0, 15.0]))
    volts = np.full(n, volts0)
    minutes = wh * (knee - start) / into * 60
    span = (placed + 420.0, placed + minutes * 60 * 0.85)
    if "contact" in mechanism:
        times = np.sort(rng.uniform(*span, int(rng.integers(1, 5))))
        if mechanism == "taper contact":
            times = np.array([placed + minutes * 60 * rng.uniform(1.08, 1.3)])
        if mechanism == "hot contact":
            times = times[times > placed + 35 * 60]
            if not len(times):
                return None
        for t in times:
            off[int(t) : int(t + rng.uniform(30, 500))] = 1
        if np.any((np.diff(np.flatnonzero(off)) > 1) & (np.diff(np.flatnonzero(off)) < 90)):
            return None
    if mechanism == "restart":
        gap, long = rng.uniform(280, 900), rng.uniform(66, 95)
        low = rng.uniform(0.05, 0.11)
        for t in np.arange(span[0], span[1], gap)[: int(rng.integers(3, 12))]:
            factor[int(t) : int(t + long)] = low
    if mechanism in {"supply", "supply for good"}:
        t = rng.uniform(*span)
        end = n if mechanism == "supply for good" else int(t + rng.uniform(300, 2400))
        lower = {5.0: 4.5, 9.0: 5.0, 12.0: 9.0, 15.0: 9.0}[volts0]
        factor[int(t) : end] = rng.uniform(0.4, 0.75)
        volts[int(t) : end] = lower
    if mechanism == "unplugged":
        t = int(rng.uniform(*span))
        end = int(t + rng.uniform(60, 900))
        off[t:end], volts[t:end] = 2, 0.0
    if mechanism == "supply pinned":
        t = rng.uniform(*span)
        factor[int(t) : int(t + rng.uniform(400, 2400))] = rng.uniform(0.4, 0.75)
    if "in use" in mechanism:
        for t in np.sort(rng.uniform(*span, int(rng.integers(1, 4)))):
            factor[int(t) : int(t + rng.uniform(120, 700))] = rng.uniform(0.4, 0.78)
    hold_q, hold_len = -1.0, 0.0
    if "hold" in mechanism:
        hold_q = float(rng.choice([0.8, 0.85, 0.9, 0.95]))
        hold_len = 1e9 if mechanism == "hold" else float(rng.uniform(1200, 6000))
    after_full = no_load + float(rng.choice([0.0, 0.1, 0.3]))
    ramp_s, band, probe_tau = (float(rng.uniform(*x)) for x in ((4, 18), (1.5, 3.0), (15, 60)))
    watts, free, back, probe, charge, flag, full_at, taper_at = march(
        n, placed, stage_q, stage_w, knee, float(rng.uniform(0.7, 1.4)), into * float(rng.uniform(0.06, 0.14)), wh,
        ratio, no_load, loss, g_core, g_air, c_core, c_back, probe_tau, room, kind, hot, cool, part,
        off, factor, hold_q, hold_len, float(rng.choice([0.0, 0.1])), start, after_full, ramp_s, band,
    )  # fmt: skip
    if mechanism == "hold":
        at = int(np.argmax(flag == 2))
        end = min(n, at + int(rng.uniform(2400, 5400))) if flag.any() else n
    else:
        end = n if full_at < 0 else min(n, full_at + int(rng.uniform(300, 1200)))
    if mechanism == "warm stages" and probe[:end].max() < 39:
        return None
    if mechanism == "warm in use" and not _carries_on(factor[:end] < 1, back[:end], taper_at):
        return None
    if mechanism == "heat cut" and back[:end].max() > hot + 1.0:
        return None
    if mechanism == "hot contact" and not _carries_on(off[:end], back[:end], taper_at):
        return None
    if mechanism == "warm stages":
        steps = [int(np.argmax(charge >= q)) for q in stage_q[1:]]
        # A single step at the hottest moment cannot be told from heat by anybody: domain rules say so.
        if all(probe[s] > probe[:end].max() - 1.5 for s in steps):
            return None
    watts = watts * (volts > 0)
    causes = {1: "heat_cutout" if kind == 4 else "heat", 2: "hold", 3: _of_factor(mechanism), 4: "contact"}
    if mechanism == "unplugged":
        causes[4] = "supply"
    dips = true_dips(watts[:end], free[:end], flag[:end], causes, no_load, kind == 3)
    missing = {d.cause for d in dips}
    if mechanism == "cut-out and contact" and _touching(dips, back, hot):
        return None
    if mechanism == "heat cycles and contact" and any(b.start_s - a.end_s < 120 for a, b in pairwise(dips)):
        # What follows so closely is one fall with two causes, not two falls.
        return None
    expected = {
        "heat cycles and contact": {"heat", "contact"},
        "heat cycles, then hold": {"heat", "hold"},
        "cut-out and contact": {"heat_cutout", "contact"},
        "none": set(),
        "stages": set(),
        "warm stages": set(),
    }.get(mechanism)
    if (not dips) if expected is None else missing != expected:
        return None
    bounds = [float(np.argmax(charge >= q)) for q in stage_q[1:]]
    return logged(
        rng, mechanism, watts[:end], volts[:end], probe[:end], charge[:end], placed, full_at, ambient, capacity,
        dips, float(taper_at) if 0 < taper_at < end else None, tuple(bounds), no_load, every_heat_s,
        {"hot": hot, "cool": cool, "part": part, "no_load": no_load, "rise": rise},
    )  # fmt: skip


def without_lead(run: MadeRun, late_s: float) -> MadeRun:
    """The same run as a meter, a probe and a person would have it who began so long after the placing [s]."""
    begin = run.placed_s + late_s
    meter, seen, warm = run.time_s >= begin, run.checkin_s >= run.placed_s, run.heat_s >= begin
    if late_s > 25:
        seen = run.checkin_s >= begin
    return replace(
        run, time_s=run.time_s[meter], volts=run.volts[meter], amps=run.amps[meter], checkin_s=run.checkin_s[seen],
        percent=run.percent[seen], heat_s=run.heat_s[warm], celsius=run.celsius[warm], lead=False,
        dips=tuple(d for d in run.dips if d.start_s > begin + 60), bounds_s=tuple(b for b in run.bounds_s if b > begin),
    )  # fmt: skip


def widened_run(seed: int) -> MadeRun:
    """One random run; every third has no lead: it begins as the phone was placed, or up to half a minute later."""
    run = made_run(seed)
    rng = np.random.default_rng([seed, 31])
    return without_lead(run, float(rng.choice([0.0, rng.uniform(0, 25)]))) if rng.random() < 1 / 3 else run


def _carries_on(off, back, taper_at) -> bool:
    """Whether each contact loss began hot, and the charge went on hotter than that for long: else it might be heat."""
    at = np.flatnonzero(np.diff(off.astype(float)) > 0) + 1
    stop = taper_at if taper_at > 0 else len(back)
    inside = [i for i in at if i < stop]
    return bool(inside) and all(back[i] > 38.5 and (back[i + 600 : stop] > back[i] + 0.4).sum() > 900 for i in inside)


def _touching(dips, back, hot) -> bool:
    """Whether a contact loss comes so close to a stop by heat, in time or in temperature, that the two are one."""
    close = any(b.start_s - a.end_s < 120 for a, b in pairwise(dips))
    return close or any(d.cause == "contact" and back[int(d.start_s)] > hot - 0.6 for d in dips)


def _of_factor(mechanism: str) -> str:
    return "unexplained" if "in use" in mechanism else "restart" if mechanism == "restart" else "supply"


def true_dips(watts, free, flag, causes, no_load, level) -> tuple[TrueDip, ...]:
    """The dips of a run made second by second, by the code of what limited the power; `level` : heat keeps a level."""
    found = []
    for code, cause in causes.items():
        down = (flag == code) & (watts < 0.85 * free)
        if level and code == 1 and down.any():
            # One cut, however the regulation swings about its level; a shallow one is no dip.
            first, last = int(np.argmax(down)), len(down) - int(np.argmax(down[::-1]))
            depth = float(np.median(watts[first:last] / free[first:last]))
            found += [TrueDip(float(first), float(last), cause)] if depth < 0.8 else []
            continue
        edges = np.flatnonzero(np.diff(np.concatenate(([0], down.astype(int), [0]))))
        for a, b in zip(edges[::2], edges[1::2], strict=True):
            low = float(np.median(watts[a:b])) < no_load + 0.3
            if b - a >= (20 if low else 60):
                found.append(TrueDip(float(a), float(b), cause))
    return tuple(sorted(found, key=lambda d: d.start_s))


def logged(
    rng, mechanism, watts, volts, probe, charge, placed, full_at, ambient, capacity, dips, taper, bounds, no_load,
    every_heat_s, settings,
) -> MadeRun:  # fmt: skip
    n = len(watts)
    wander = np.zeros(n)
    size, slow = rng.choice([0.0, 0.004, 0.012]), rng.uniform(60, 400)
    if mechanism == "supply pinned":
        # Amps that stand pinned can be told only from amps that did not stand still before.
        size, slow = 0.015, rng.uniform(30, 120)
    kicks = rng.normal(0, 1, n) * size * np.sqrt(2 / slow)
    keep = np.exp(-1 / slow)
    for block in range(1, n):
        wander[block] = keep * wander[block - 1] + kicks[block]
    seen = watts * (1 + wander)
    step = int(rng.choice([1, 1, 2, 5]))
    at = np.arange(0, n, step)
    live = np.maximum(volts[at], 1e-3)
    sag = volts[at] - rng.uniform(0.03, 0.15) * np.minimum(seen[at] / live, 5.0) * (volts[at] > 0)
    amps = np.where(volts[at] > 0, seen[at] / np.maximum(sag, 1e-3), 0.0)
    amps = amps * (1 + rng.uniform(-0.004, 0.004)) + rng.normal(0, rng.choice([0.0005, 0.002, 0.006]), len(at))
    amps = np.maximum(0, np.round(amps / 0.001) * 0.001)
    sag = np.maximum(0.0, sag + rng.normal(0, 0.004, len(at)))
    for d in dips if mechanism == "supply pinned" else ():
        # A supply at its limit gives just so many amps; what made them wander before no longer shows.
        inside = (at > d.start_s + 5) & (at < d.end_s - 5)
        amps[inside] = float(np.median(amps[inside])) + rng.normal(0, 0.0003, int(inside.sum()))
    for _ in range(int(rng.integers(0, 3))):
        amps[int(rng.integers(0, len(at)))] *= float(rng.choice([0.0, 2.0]))
    every = int(rng.choice([300, 600, 600, 900, 60]))
    check = np.arange(placed, n, every)
    shown = np.floor(charge * 100 + rng.uniform(0.2, 0.5))
    crossings = {p: float(np.argmax(shown >= p)) for p in (50, 80) if shown.max() >= p and shown[placed] < p}
    percent = np.minimum(100, shown[check])
    if full_at >= 0:
        percent[check >= full_at] = 100
    percent = np.maximum.accumulate(percent)
    period = int(every_heat_s or rng.choice([10, 30, 30, 60, 300, 600]))
    warm = np.arange(int(rng.integers(0, max(1, min(period, 60)))), n, period)
    noise = rng.choice([0.03, 0.08, 0.15])
    celsius = np.round(probe[warm] + rng.normal(0, noise, len(warm)), 1)
    return MadeRun(
        mechanism, at.astype(float), sag, amps, check.astype(float), percent, warm.astype(float), celsius,
        float(placed), capacity, ambient, dips, taper, bounds, no_load, float(watts.max()), settings,
        crossings_s=crossings,
    )  # fmt: skip
