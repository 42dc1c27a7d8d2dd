"""Random load tests of battery packs with known truth, made by equations that are not the product's.

A pack is cells with so much energy, a converter whose efficiency depends on the load, an output resistance, a
protection, a cut-off, a sleep. The log is what a meter shows of it: with a gain of its own for volts and amps, steps,
noise.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

KINDS = ("one load", "steps", "steps that trip", "ends early", "sleeps", "profile change")


@dataclass(frozen=True)
class MadePack:
    """A log and the truth. trip_a : (held, let go) [A]; cut_off_s, sleep_s : when [s], None where it did not."""

    kind: str
    rated_mah: float
    cell_v: float
    gain_percent: float
    time_s: np.ndarray
    volts: np.ndarray
    amps: np.ndarray
    wh: float
    ah: float
    start_s: float
    cut_off_s: float | None
    no_load_v: float
    resistance_ohm: float
    trip_a: tuple[float, float] | None
    lets_go_a: float | None
    sleep_s: float | None
    changes: int


@lru_cache(64)
def made_pack(seed: int, kind: str | None = None) -> MadePack:
    """One random load test."""
    rng = np.random.default_rng([seed, 55])
    kind = KINDS[seed % len(KINDS)] if kind is None else kind
    mah, cell_v = float(rng.choice([5000, 10000, 20000, 26800])), float(rng.choice([3.6, 3.7, 3.85]))
    health = float(rng.uniform(0.8, 1.02))
    out_v = float(rng.choice([5.1, 9.0, 12.0, 20.0]))
    ohm = float(rng.uniform(0.02, 0.12))
    most_a = float(rng.uniform(1.2, 3.2)) * min(1.0, 12.0 / out_v) + 0.4
    step_s = float(rng.choice([1.0, 1.0, 2.0, 5.0]))
    # An electronic load holds its current, its power or its resistance.
    holds = str(rng.choice(["A", "W", "ohm"])) if kind in {"one load", "ends early"} else "A"
    lead_s = float(rng.uniform(10, 60))
    loads = _loads(rng, kind, most_a)
    wh = mah * cell_v / 1000.0 * health
    sleep_after = float(rng.uniform(20, 60)) if kind == "sleeps" else np.inf
    trip_at = most_a * float(rng.uniform(1.06, 1.25)) if kind == "steps that trip" else np.inf
    t, left, off, since_small, at_load = 0.0, wh, False, 0.0, 0.0
    rows: list[tuple[float, float, float]] = []
    dt = 0.5
    start = cut_off = slept = None
    held, tripped = 0.0, None
    changes, index, now_v = 0, 0, out_v
    limit = 60 * 3600.0
    early = float(rng.uniform(0.3, 0.8)) * wh if kind == "ends early" else -np.inf
    tail = float(rng.uniform(30, 120))
    ends = np.inf
    while t < min(limit, ends):
        asked = 0.0 if t < lead_s else loads[index][1]
        if t >= lead_s:
            at_load += dt
            if at_load >= loads[index][0] and index < len(loads) - 1:
                index, at_load = index + 1, 0.0
                if kind == "profile change" and index == 2:
                    now_v, changes = (9.0 if out_v < 7 else 5.1), 1
        if off:
            volts = amps = 0.0
        else:
            amps = _drawn(holds, asked, now_v, ohm) if asked else 0.0
            volts = now_v - ohm * amps
        if amps > 0.0:
            start = max(lead_s, 0.0) if start is None else start
            power = volts * amps
            before, left = left, left - power / _efficiency(power) * dt / 3600.0
            since_small = since_small + dt if amps < 0.12 else 0.0
            if amps > trip_at:
                if tripped is None:
                    tripped = (held, amps)
                off, ends = True, t + tail
            elif at_load > 15.0:
                held = max(held, amps)
            if since_small > sleep_after:
                slept, off, ends = t, True, t + tail
            if left <= 0.02 * wh:
                # Within the step: what is true lies on no row.
                cut_off = t + dt * (before - 0.02 * wh) / max(1e-12, before - left)
                off, ends = True, t + tail
            if kind == "ends early" and left <= early:
                ends = t
        rows.append((t, volts, amps))
        t += dt
    table = np.array(rows)
    every = max(1, round(step_s / dt))
    kept = table[int(rng.integers(every)) :: every]
    loaded = table[(table[:, 0] >= start) & (table[:, 0] <= (cut_off or table[-1, 0]))]
    hours = dt / 3600.0
    gain = float(rng.choice([0.1, 0.5, 1.0]))
    spec = gain / 100.0
    seen_v = kept[:, 1] * (1 + rng.uniform(-spec, spec)) + rng.normal(0, 0.004, len(kept)) * (kept[:, 1] > 0)
    seen_a = np.maximum(0.0, kept[:, 2] * (1 + rng.uniform(-spec, spec)) + rng.normal(0, 0.001, len(kept)))
    return MadePack(
        kind, mah, cell_v, gain, kept[:, 0], np.round(seen_v, 3), np.round(seen_a, 4),
        float(np.sum(loaded[:, 1] * loaded[:, 2]) * hours), float(np.sum(loaded[:, 2]) * hours), float(start), cut_off,
        out_v, ohm, tripped, float(trip_at) if np.isfinite(trip_at) else None, slept, changes,
    )  # fmt: skip


def _drawn(holds: str, asked: float, open_v: float, ohm: float) -> float:
    """Amps of a load that holds what it would draw at `asked` amps from the open volts; by iteration."""
    amps = asked
    for _ in range(6):
        volts = open_v - ohm * amps
        amps = {"A": asked, "W": asked * open_v / volts, "ohm": volts / (open_v / asked)}[holds]
    return amps


def _efficiency(power: float) -> float:
    """Of the converter: little at a small load, falling again at a large one."""
    return power / (power * 1.06 + 0.25 + 0.0012 * power**2)


def _loads(rng: np.random.Generator, kind: str, most_a: float) -> list[tuple[float, float]]:
    """Loads in order: (seconds, amps); the last lasts until the pack is empty."""
    if kind in {"one load", "ends early"}:
        return [(1e9, most_a * float(rng.uniform(0.4, 0.95)))]
    if kind == "sleeps":
        return [(float(rng.uniform(60, 200)), most_a * 0.6), (1e9, float(rng.uniform(0.05, 0.11)))]
    steps = [(float(rng.uniform(40, 200)), most_a * s) for s in (0.2, 0.4, 0.6, 0.8, 0.95)]
    if kind == "steps that trip":
        return [*steps, *((float(rng.uniform(30, 60)), most_a * s) for s in (1.05, 1.15, 1.3)), (1e9, most_a * 1.5)]
    return [*steps, (1e9, most_a * 0.7)]
