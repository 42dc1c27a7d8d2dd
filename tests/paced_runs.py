"""Percentages of charges made of straight pieces and an exponential end, read as a tester reads them; not from the
simulator.
"""

from dataclasses import dataclass

import numpy as np

from jaunecharge.core.log.check_ins import CheckIns


@dataclass(frozen=True)
class Paced:
    """Check-ins, and the truth: when the pace fell by a third or more [s], and the pace of the first piece."""

    readings: CheckIns
    slows_s: float | None
    first_rate: float


def _level(minutes, bends, start):
    """Level [%] at minutes : (n,); bends : (minute, points a minute) of every piece."""
    edges = np.array([at for at, _ in bends] + [1e6])
    rates = np.array([rate for _, rate in bends])
    lasts = np.clip(minutes[:, None] - edges[:-1], 0.0, np.diff(edges))
    return start + lasts @ rates


def paced_run(rng, kind):
    """One run of a kind: straight, step, taper, hold, pause."""
    rate, start, every = rng.uniform(0.4, 1.6), rng.uniform(3.0, 20.0), float(rng.choice([5, 10, 15]))
    minutes, slows = np.arange(0.0, 300.0, 0.25), None
    if kind == "straight":
        level = start + rate * minutes
    elif kind == "taper":
        top = rng.uniform(72.0, 86.0)
        bend, tau = (top - start) / rate, (100.0 - top) / rate
        level = np.where(
            minutes < bend, start + rate * minutes, 100.0 - (100.0 - top) * np.exp(-(minutes - bend) / tau)
        )
        slows = bend + tau * np.log(1.5)
    else:
        at = {"step": rng.uniform(30.0, 70.0), "hold": 80.0, "pause": rng.uniform(30.0, 60.0)}[kind]
        slows = (at - start) / rate
        after = {"step": rate * rng.uniform(0.2, 0.62), "hold": 0.0, "pause": 0.0}[kind]
        bends = [(0.0, rate), (slows, after)]
        if kind == "pause":
            bends.append((slows + rng.uniform(20.0, 40.0), rate))
        level = _level(minutes, bends, start)
    last = slows + 60.0 if kind == "hold" else float(minutes[min(np.argmax(level >= 99.6) or 1200, len(minutes) - 1)])
    last = max(last, 5 * every)
    noted = np.arange(0.0, last, every)
    looked = noted + (rng.uniform(-0.5, 0.5, len(noted)) if rng.random() < 0.5 else 0.0)
    looked[0] = 0.0
    shown = np.interp(looked, minutes, level) + rng.choice([0.0, 0.2]) * rng.normal(size=len(noted))
    percent = np.clip(np.floor(shown) if rng.random() < 0.5 else np.round(shown), 0, 100)
    known = slows if slows is None or slows < noted[-1] - 2 * every else None
    return Paced(CheckIns(noted * 60.0, percent), None if known is None else known * 60.0, rate)
