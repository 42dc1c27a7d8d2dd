"""Two outputs of a pack at once: what they give together, and what the one does to the other."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..arrays import Array, running_sum
from ..errors import CannotRead
from ..log.energy import MeterSpec, energy_between
from ..log.trace import PowerTrace
from ..measured import Measured, total
from ..units import MINUTE_S
from .load_steps import LOADED_A, load_steps
from .load_test import PROFILE_V

ANSWERS_S = 30.0
"""An output that changes its volts within so many seconds of the other's load answers to it (own choice)."""


@dataclass(frozen=True)
class Yielded:
    """One output changed its volts as the other was loaded: which one [0 or 1], from and to [V]."""

    output: int
    at_s: float
    from_v: float
    to_v: float


@dataclass(frozen=True)
class Together:
    """Two outputs over the time that both were loaded: from and to [s], best_w : of each in its best minute of it,
    delivered_wh : of both, over that time and no longer."""

    start_s: float
    end_s: float
    best_w: tuple[float, float]
    delivered_wh: Measured
    yielded: tuple[Yielded, ...]

    @property
    def seconds(self) -> float:
        return self.end_s - self.start_s


def read_together(first: PowerTrace, second: PowerTrace, meter: MeterSpec = MeterSpec()) -> Together:
    """Read two outputs that were logged at once, on one clock.

    Raises
    ------
    CannotRead
        If one of them has no volts and amps, or they were never loaded at the same time for a minute.
    """
    outputs = (first, second)
    if any(t.volts is None or t.amps is None for t in outputs):
        raise CannotRead("watts alone show no load test", "log volts and amps of both outputs", file="two outputs")
    spans = [_loaded_span(t) for t in outputs]
    start_s, end_s = max(s for s, _ in spans), min(e for _, e in spans)
    if end_s - start_s < MINUTE_S:
        raise CannotRead(
            "the two outputs were not loaded at the same time for a minute", "log both at once, on one clock",
            file="two outputs",
        )  # fmt: skip
    energies = [energy_between(t, start_s, end_s, meter) for t in outputs]
    wh = total([e.metered if e.complete else e.bridged for e in energies])
    best = (_best_w(first, start_s, end_s), _best_w(second, start_s, end_s))
    began = [s for s, _ in spans]
    yielded = [y for n in (0, 1) for y in _yielded(outputs[n], n, began[1 - n])]
    return Together(start_s, end_s, best, wh, tuple(yielded))


def _loaded_span(trace: PowerTrace) -> tuple[float, float]:
    assert trace.amps is not None
    loaded = np.flatnonzero(trace.amps > LOADED_A)
    if not len(loaded):
        raise CannotRead("nothing was drawn from one of the outputs", "log with both loads on", file="two outputs")
    return float(trace.time_s[loaded[0]]), float(trace.time_s[loaded[-1]])


def _best_w(trace: PowerTrace, start_s: float, end_s: float) -> float:
    inside: Array = trace.power_w[(trace.time_s >= start_s) & (trace.time_s <= end_s)]
    count = max(1, min(len(inside), round(MINUTE_S / trace.step_s)))
    running = running_sum(inside)
    return float(((running[count:] - running[:-count]) / count).max()) if len(inside) else 0.0


def _yielded(trace: PowerTrace, output: int, other_s: float) -> list[Yielded]:
    """Changes of an output's volts right after the other one was loaded."""
    assert trace.volts is not None and trace.amps is not None
    on = np.asarray(trace.volts > 3.0)
    steps = load_steps(trace.time_s, trace.volts, trace.amps, on)
    return [
        Yielded(output, b.start_s, a.volts, b.volts)
        for a, b in pairwise(steps)
        if abs(a.volts - b.volts) > PROFILE_V and -1.0 <= b.start_s - other_s <= ANSWERS_S
    ]
