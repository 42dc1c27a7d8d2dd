"""Rehearsals of the product's own simulator with two to four causes in one, as people log them."""

from dataclasses import replace
from itertools import pairwise

import numpy as np

from jaunecharge.core.simulator.circumstances import Event
from jaunecharge.core.simulator.rehearsal import Rehearsal, rehearse
from jaunecharge.core.simulator.simulate import Scenario, Throttling, simulate
from tests.mixed_runs import APART_S, LOGS, MixedRun, as_logged
from tests.other_runs import MadeRun, TrueDip
from tests.own_runs import deep_dips, drawn_scenario

OWN_HEAT = {"heat cycles": "heat", "cut-out": "heat_cutout"}
OWN_OTHERS = ("contact", "restart", "supply", "hold")
EVENTS_APART_S = 900.0
LOWER_V = {5.0: 4.5, 9.0: 5.0, 12.0: 9.0}


def own_mixed(seed: int) -> MixedRun:
    """One random rehearsal of several causes, and a log of it as one of LOGS."""
    rng = np.random.default_rng([seed, 91])
    for attempt in range(300):
        heat = [str(rng.choice(list(OWN_HEAT)))] if rng.random() < 0.7 else []
        count = int(rng.integers(2 - len(heat), 4 - len(heat) + 1))
        causes = (*heat, *(str(c) for c in rng.choice(OWN_OTHERS, size=count, replace=False)))
        run = _try(np.random.default_rng([seed, attempt, 92]), causes, seed)
        if run is not None:
            return as_logged(run, causes, LOGS[seed % len(LOGS)], rng)
    raise RuntimeError(f"no mixed rehearsal came of seed {seed}")


def _try(rng: np.random.Generator, causes: tuple[str, ...], seed: int) -> MadeRun | None:
    heat = next((c for c in causes if c in OWN_HEAT), "")
    scenario = drawn_scenario(rng, bool(heat))
    free = simulate(scenario)
    top, full_min = free.hottest_c, free.minutes_to(80.0)
    least = max(38.6, scenario.ambient_c + 8.0)
    if full_min is None or (not heat and top > 37.5) or (heat and top - 1.5 <= least):
        return None
    if heat:
        scenario = replace(scenario, throttling=_throttling(rng, heat, float(rng.uniform(least, top - 1.5)), scenario))
    if "hold" in causes:
        scenario = replace(
            scenario, hold_percent=float(rng.choice([80, 85, 90])), hold_s=float(rng.uniform(1500, 5000))
        )
    span = (scenario.placed_s + 400.0, scenario.placed_s + 0.8 * full_min * 60.0)
    events = _events(rng, causes, scenario, span)
    if events is None:
        return None
    run = rehearse(replace(scenario, events=events), seed, interval_min=float(rng.choice([5, 10, 15])))
    if not all(_alone(run, e) for e in events):
        return None
    wanted = {OWN_HEAT.get(c, c) for c in causes}
    dips = tuple(sorted((d for c in wanted for d in deep_dips(run, c)), key=lambda d: d.start_s))
    if {d.cause for d in dips} != wanted or any(b.start_s - a.end_s < APART_S for a, b in pairwise(dips)):
        return None
    return _made(rng, run, causes, dips) if _told_apart(run, dips, heat, scenario.throttling) else None


def _alone(run: Rehearsal, event: Event) -> bool:
    """Whether full power flowed before and after something happened: heat that falls into it is neither's alone."""
    watts, at, end = run.charge.power_w, int(event.start_s), int(event.start_s + event.length_s)
    usual = 0.8 * float(np.max(watts[max(0, at - 900) : at]))
    return bool(np.all(watts[at - 60 : at - 5] > usual)) and bool(np.all(watts[end + 90 : end + 150] > 0.6 * usual))


def _throttling(rng: np.random.Generator, heat: str, limit_c: float, scenario: Scenario) -> Throttling:
    if heat == "cut-out":
        return Throttling(cut_c=limit_c, resume_c=limit_c - float(rng.uniform(1.8, 3.5)))
    less = scenario.stages[0][1] * float(rng.uniform(0.25, 0.6))
    return Throttling(hot_c=limit_c, cool_c=limit_c - float(rng.uniform(1.2, 2.8)), throttled_w=less)


def _events(rng: np.random.Generator, causes, scenario: Scenario, span) -> tuple[Event, ...] | None:
    """What happens, each well apart from the next; None where it does not fit."""
    times = iter(np.sort(rng.uniform(*span, 8)).tolist())
    events: list[Event] = []
    last = 0.0

    def next_s() -> float | None:
        return next((t for t in times if t - last >= EVENTS_APART_S), None)

    for cause in rng.permutation([c for c in causes if c in {"contact", "restart", "supply"}]):
        at = next_s()
        if at is None:
            return None
        if cause == "contact":
            events.append(Event("slip", round(at), round(rng.uniform(40, 400))))
        elif cause == "supply":
            draws = scenario.no_load_w + scenario.stages[0][1] / scenario.efficiency
            low_w = draws * float(rng.uniform(0.4, 0.75))
            events.append(Event("supply", round(at), float(rng.uniform(300, 1200)), low_w, LOWER_V[scenario.volts]))
        else:
            gap, long = float(rng.uniform(300, 800)), float(rng.integers(62, 90))
            events += [Event("restart", round(at + k * gap), long) for k in range(int(rng.integers(2, 5)))]
        last = events[-1].start_s + events[-1].length_s
    return tuple(events)


def _told_apart(run: Rehearsal, dips: tuple[TrueDip, ...], heat: str, limits: Throttling) -> bool:
    """Whether contact losses begin where nobody would take them for heat."""
    phone = run.charge.phone_c
    many = sum(d.cause == "heat" for d in dips) > 1
    for d in dips:
        warm = phone[int(d.start_s)] >= 37.5
        if d.cause == "contact" and warm and not (heat == "heat cycles" and many):
            limit = limits.cut_c if heat == "cut-out" else limits.hot_c
            if phone[int(d.start_s)] > limit - 1.0:
                return False
    return heat != "heat cycles" or run.charge.hottest_c <= limits.hot_c + 1.0


def _made(rng: np.random.Generator, run: Rehearsal, causes: tuple[str, ...], dips: tuple[TrueDip, ...]) -> MadeRun:
    scenario, n = run.charge.scenario, int(rng.choice([1, 1, 2, 10, 20]))
    watts = run.charge.power_w
    return MadeRun(
        " + ".join(causes), run.time_s, run.volts, run.amps, run.checkin_s, run.percent, run.heat_s[::n],
        run.back_c[::n], scenario.placed_s, 4000.0, scenario.ambient_c, dips, None, (),
        scenario.no_load_w, float(watts.max()),
    )  # fmt: skip
