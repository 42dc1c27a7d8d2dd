"""Packs: how often 600 random load tests are read right, and how long a log of 100,000 samples takes."""

import statistics
import sys
import time
from collections.abc import Callable

import numpy as np
from tests.other_packs import made_pack

from benchmarks.table import line
from jaunecharge.core.log.energy import MeterSpec
from jaunecharge.core.log.trace import power_trace
from jaunecharge.core.packs import LoadTest, rating, read_load

RUNS, FIRST_SEED = 600, 10_000
MOST_S = 0.15
LEAST_INSIDE, MOST_INSIDE, LEAST_EVENTS = 0.93, 0.99, 0.97


def read_made(seed: int) -> tuple[object, LoadTest, float]:
    """A random load test, its reading, and its step [s]."""
    made = made_pack(seed)
    trace = power_trace(made.time_s, made.volts * made.amps, made.volts, made.amps)
    spec = MeterSpec(made.gain_percent, 0.001, 0.0005)
    return made, read_load(trace, rating(made.rated_mah, made.cell_v), spec), trace.step_s


def read_once() -> float:
    """Median seconds of reading a load test of 100,000 samples whole."""
    rng = np.random.default_rng(2)
    at = np.arange(100_000.0)
    amps = np.where(at < 60, 0.0, np.where(at > 99_900, 0.0, 0.4 + 0.3 * ((at // 9000) % 5)))
    volts = np.where(at > 99_900, 0.0, 5.1 - 0.06 * amps) + rng.normal(0, 0.004, len(at)) * (at <= 99_900)
    times = []
    for _ in range(7):
        began = time.perf_counter()
        read_load(power_trace(at, volts * amps, volts, amps), rating(200_000, 3.7))
        times.append(time.perf_counter() - began)
    return statistics.median(times)


def results() -> list[tuple[str, str, str, str, bool]]:
    """Figures beside their yardsticks."""
    read = [read_made(seed) for seed in range(FIRST_SEED, FIRST_SEED + RUNS)]

    def share(inside: Callable[..., bool | None]) -> float:
        told = [x for row in read if (x := inside(*row)) is not None]
        return sum(told) / len(told)

    wh = share(lambda m, f, _: abs(f.delivered_wh.value - m.wh) <= f.delivered_wh.expanded)
    stepped = ("steps", "steps that trip", "profile change")
    ohm = share(
        lambda m, f, _: (
            None
            if m.kind not in stepped
            else abs(f.line.resistance_ohm.value - m.resistance_ohm) <= f.line.resistance_ohm.expanded
        )
    )
    cut = share(
        lambda m, f, s: (
            f.cut_off_s is None
            if m.cut_off_s is None
            else f.cut_off_s is not None and abs(f.cut_off_s - m.cut_off_s) <= 2 * s
        )
    )
    trip = share(lambda m, f, _: (f.trip is None) == (m.trip_a is None))
    sleep = share(lambda m, f, _: bool(f.sleeps) == (m.sleep_s is not None))
    took = read_once()
    inside = f"{LEAST_INSIDE:.0%} to {MOST_INSIDE:.0%}"
    rows = [
        (name, f"{value:.1%}", f"{RUNS} random packs", inside, LEAST_INSIDE <= value <= MOST_INSIDE)
        for name, value in (("delivered Wh in what is stated", wh), ("resistance in what is stated", ohm))
    ]
    rows += [
        (name, f"{value:.1%}", "", f">= {LEAST_EVENTS:.0%}", value >= LEAST_EVENTS)
        for name, value in (("cut-off read right", cut), ("protection read right", trip), ("sleep read right", sleep))
    ]
    return [*rows, ("a load test of 100,000 samples read", f"{took * 1000:.0f} ms", "", "150 ms", took <= MOST_S)]


if __name__ == "__main__":
    found = results()
    for row in found:
        line(*row)
    sys.exit(0 if all(r[-1] for r in found) else 1)
