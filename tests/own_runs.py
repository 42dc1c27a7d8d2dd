"""Random runs of the product's own simulator with known causes, for the confusion matrix of the reading."""

from dataclasses import replace
from itertools import pairwise

import numpy as np

from jaunecharge.core.log.check_ins import Battery, make_check_ins
from jaunecharge.core.log.temperatures import heat_log
from jaunecharge.core.log.trace import power_trace
from jaunecharge.core.reading.read_run import Conditions, Reading, RunLog, read_run
from jaunecharge.core.simulator.cell import usual_cell
from jaunecharge.core.simulator.circumstances import Event
from jaunecharge.core.simulator.rehearsal import Rehearsal, rehearse
from jaunecharge.core.simulator.simulate import Nodes, Scenario, Throttling, simulate
from tests.other_runs import TrueDip

KINDS = (
    "none", "heat cycles", "heat level", "cut-out", "contact", "restart", "supply", "hold", "stages",
    "heat and contact",
)  # fmt: skip
CAUSE = {
    "heat cycles": "heat", "heat level": "heat", "cut-out": "heat_cutout", "contact": "contact", "restart": "restart",
    "supply": "supply", "hold": "hold", "heat and contact": "heat",
}  # fmt: skip


def own_run(seed: int) -> tuple[str, Rehearsal, tuple[TrueDip, ...], float]:
    """What happens, the rehearsal, its true dips, and seconds between temperatures."""
    kind = KINDS[seed % len(KINDS)]
    for attempt in range(80):
        made = _try(np.random.default_rng([seed, attempt, 9]), kind, seed)
        if made is not None:
            return made
    raise RuntimeError(f"no {kind} run came of seed {seed}")


def drawn_scenario(rng: np.random.Generator, hot: bool) -> Scenario:
    """Phone, charger and room at random, with nothing that happens to them."""
    capacity = float(rng.uniform(3000, 5000))
    coil_w = float(rng.uniform(6, 14) if hot else rng.uniform(4, 15))
    nodes = Nodes(
        float(rng.uniform(130, 220)), float(rng.uniform(60, 140)), float(rng.uniform(0.16, 0.3)),
        float(rng.uniform(0.1, 0.3)), float(rng.uniform(0.1, 0.4)),
    )  # fmt: skip
    return Scenario(
        cell=usual_cell(capacity, 3.87),
        nodes=nodes,
        stages=((0.0, coil_w),),
        start_percent=float(rng.choice([2, 5, 10, 20])),
        knee_percent=float(rng.uniform(72, 90)),
        last_share=float(rng.uniform(0.08, 0.25)),
        no_load_w=float(rng.choice([0.2, 0.4, 0.8, 2.5])),
        efficiency=float(rng.uniform(0.68, 0.85)),
        receiver=float(rng.uniform(0.75, 0.9)),
        ambient_c=float(rng.uniform(25, 34) if hot else rng.uniform(17, 27)),
        volts=float(rng.choice([5.0, 9.0, 12.0])),
        drift_k=float(rng.uniform(0, 0.8)),
    )


def _try(rng: np.random.Generator, kind: str, seed: int):
    hot = kind in {"heat cycles", "heat level", "cut-out", "heat and contact"}
    scenario = drawn_scenario(rng, hot)
    coil_w = scenario.stages[0][1]
    free = simulate(scenario)
    top, room = free.hottest_c, scenario.ambient_c
    full_s = free.minutes_to(80.0)
    if full_s is None or (not hot and top > 37.5):
        return None
    full_s *= 60.0
    span = (scenario.placed_s + 400.0, scenario.placed_s + 0.8 * full_s)
    at = np.sort(rng.uniform(*span, int(rng.integers(1, 5))))
    if hot and top < 41.0:
        return None
    limit = float(rng.uniform(max(38.6, room + 8.0), top - 1.5)) if hot and top - 1.5 > max(38.6, room + 8.0) else 0.0
    if hot and not limit:
        return None
    if kind in {"heat cycles", "heat and contact"}:
        lost = at if kind == "heat and contact" else at[:0]
        if np.any(np.diff(lost) < 600):
            return None
        scenario = replace(
            scenario,
            events=tuple(Event("slip", float(round(t)), float(round(rng.uniform(40, 300)))) for t in lost),
            throttling=Throttling(
                hot_c=limit,
                cool_c=limit - float(rng.uniform(1.2, 2.8)),
                throttled_w=coil_w * float(rng.uniform(0.25, 0.6)),
            ),
        )
    elif kind == "heat level":
        scenario = replace(scenario, throttling=Throttling(level_c=limit, band_k=1.5, least_w=1.0))
    elif kind == "cut-out":
        scenario = replace(scenario, throttling=Throttling(cut_c=limit, resume_c=limit - float(rng.uniform(1.8, 3.5))))
    elif kind == "contact":
        if np.any(np.diff(at) < 600):
            return None
        events = tuple(Event("slip", float(round(t)), float(round(rng.uniform(40, 400)))) for t in at)
        scenario = replace(scenario, events=events)
    elif kind == "restart":
        gap = float(rng.uniform(300, 800))
        times = np.arange(span[0], span[1], gap)[:8]
        scenario = replace(
            scenario, events=tuple(Event("restart", float(round(t)), float(rng.integers(62, 90))) for t in times)
        )
    elif kind == "supply":
        long = float(rng.uniform(300, 1800))
        draws = scenario.no_load_w + coil_w / scenario.efficiency
        lower = {5.0: 4.5, 9.0: 5.0, 12.0: 9.0}[scenario.volts]
        scenario = replace(
            scenario, events=(Event("supply", float(round(at[0])), long, draws * float(rng.uniform(0.4, 0.75)), lower),)
        )
    elif kind == "hold":
        scenario = replace(
            scenario, hold_percent=float(rng.choice([80, 85, 90])), hold_s=float(rng.uniform(1500, 5000))
        )
    elif kind == "stages":
        scenario = replace(
            scenario, stages=((0.0, coil_w), (float(rng.uniform(20, 35)), 0.75 * coil_w), (55.0, 0.5 * coil_w))
        )
    run = rehearse(scenario, seed, interval_min=float(rng.choice([5, 10, 15])))
    dips = deep_dips(run, CAUSE.get(kind))
    if kind in CAUSE and not dips:
        return None
    if kind == "heat and contact":
        lost = deep_dips(run, "contact")
        dips = tuple(sorted((*dips, *lost), key=lambda d: d.start_s))
        if not lost or any(b.start_s - a.end_s < 120 for a, b in pairwise(dips)):
            return None
    if kind in {"heat cycles", "heat and contact"} and run.charge.hottest_c > limit + 1.0:
        return None
    return kind, run, dips, float(rng.choice([30, 30, 60, 300, 600]))


def deep_dips(run: Rehearsal, cause: str | None) -> tuple[TrueDip, ...]:
    """True dips that are deep enough to be ones, against the power just before."""
    watts, found = run.charge.power_w, []
    kept = [d for d in run.truth.dips if d.cause == cause]
    if cause == "heat" and run.charge.scenario.throttling.level_c < 90 and kept:
        before = float(np.median(watts[int(kept[0].start_s) - 100 : int(kept[0].start_s) - 10]))
        deep = np.flatnonzero((watts < 0.85 * before) & (run.charge.state == 2))
        if len(deep) < 600 or np.median(watts[deep[0] : deep[0] + 1200]) > 0.8 * before:
            return ()
        return (TrueDip(float(kept[0].start_s), float(kept[-1].end_s), cause),)
    for d in kept:
        a, b = int(d.start_s), int(d.end_s)
        before = float(np.median(watts[max(0, a - 100) : a - 5]))
        low = float(np.median(watts[a:b])) < run.truth.no_load_w + 0.3
        if float(np.median(watts[a:b])) < 0.83 * before and b - a >= (20 if low else 60):
            found.append(TrueDip(d.start_s, d.end_s, d.cause))
    return tuple(found)


def own_lead(seed: int) -> bool:
    """Whether the log of a run begins before the phone is placed: of every third it does not."""
    return bool(np.random.default_rng([seed, 31]).random() >= 1 / 3)


def read_own(run: Rehearsal, every_s: float, lead: bool = True) -> Reading:
    """The reading of a rehearsal's log, with a temperature every so many seconds; without its lead if asked for."""
    kept = run.time_s >= (0.0 if lead else run.truth.placed_s)
    time_s, volts, amps = run.time_s[kept], run.volts[kept], run.amps[kept]
    trace = power_trace(time_s, volts * amps, volts, amps)
    n = max(1, round(every_s / 30.0))
    heat_s, back = run.heat_s[::n], run.back_c[::n]
    heat_s, back = heat_s[heat_s >= time_s[0]], back[heat_s >= time_s[0]]
    heat = heat_log(["back"] * len(heat_s), heat_s, back, run.charge.scenario.ambient_c)
    log = RunLog(trace, make_check_ins(run.checkin_s, run.percent), heat)
    return read_run(log, Conditions(battery=Battery(4000.0, 3.87)))
