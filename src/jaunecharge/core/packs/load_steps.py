"""Stretches of one load in a load test."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..arrays import Array, Mask, percentile
from ..reading.grid import tame

LOADED_A, LOADED_SHARE = 0.03, 0.02
"""A load draws 30 mA and more, and 2 % of the largest (own choice): less is the meter's own."""

STEP_SHARE, STEP_A, STEP_V, LEAST_STEP_S = 0.05, 0.02, 0.45, 8.0
"""A new step where amps change by 5 % or the volts by half a volt, for 8 s at least (own choice)."""


EARLY_S = 120.0
"""Two minutes of a load tell its volts before the cells have given much (own choice)."""


@dataclass(frozen=True)
class LoadStep:
    """A stretch of one load: from and to [s], amps and volts, means; early : the same of its first two minutes, before
    the cells sag by what was taken from them, None where that is all of it."""

    start_s: float
    end_s: float
    amps: float
    volts: float
    early: tuple[float, float] | None = None

    @property
    def at_first(self) -> tuple[float, float]:
        """Amps and volts of its beginning."""
        return self.early or (self.amps, self.volts)

    @property
    def seconds(self) -> float:
        return self.end_s - self.start_s

    @property
    def watts(self) -> float:
        return self.amps * self.volts


def least_a(amps: Array) -> float:
    return max(LOADED_A, LOADED_SHARE * percentile(amps, 98))


def load_steps(time_s: Array, volts: Array, amps: Array, on: Mask) -> list[LoadStep]:
    """Stretches of one load and one voltage, the output being on; those too short to be one are passed over."""
    least = least_a(amps)
    a, v = tame(amps), tame(volts)
    jump = (np.abs(np.diff(a)) > np.maximum(STEP_A, STEP_SHARE * np.maximum(a[1:], a[:-1]))) | (
        np.abs(np.diff(v)) > STEP_V
    )
    cut = jump | (on[1:] != on[:-1]) | ((a[1:] > least) != (a[:-1] > least))
    edges = [0, *(np.flatnonzero(cut) + 1).tolist(), len(time_s)]
    steps: list[LoadStep] = []
    for first, end in pairwise(edges):
        if not on[first]:
            continue
        last = min(end, len(time_s) - 1)
        # The sample at each edge may lie between two loads.
        inner = slice(first + 1, end - 1) if end - first > 4 else slice(first, end)
        begins = slice(inner.start, max(inner.start + 1, int(np.searchsorted(time_s, time_s[inner.start] + EARLY_S))))
        early = (float(amps[begins].mean()), float(volts[begins].mean())) if begins.stop < inner.stop else None
        step = LoadStep(
            float(time_s[first]), float(time_s[last]), float(amps[inner].mean()), float(volts[inner].mean()), early
        )
        if step.seconds < LEAST_STEP_S:
            continue
        if steps and _same(steps[-1], step) and step.start_s - steps[-1].end_s < LEAST_STEP_S:
            steps[-1] = _merged(steps[-1], step)
        else:
            steps.append(step)
    return steps


def _same(a: LoadStep, b: LoadStep) -> bool:
    close = abs(a.amps - b.amps) <= max(STEP_A, STEP_SHARE * max(a.amps, b.amps))
    return close and abs(a.volts - b.volts) <= STEP_V


def _merged(a: LoadStep, b: LoadStep) -> LoadStep:
    share = a.seconds / max(1e-9, a.seconds + b.seconds)
    amps, volts = share * a.amps + (1 - share) * b.amps, share * a.volts + (1 - share) * b.volts
    return LoadStep(a.start_s, b.end_s, amps, volts, a.at_first)
