"""Efficiency of a pack's converter over its load, where its input and its output were both metered."""

from dataclasses import dataclass

import numpy as np

from ..errors import CannotRead
from ..log.energy import MeterSpec, energy_between
from ..log.trace import PowerTrace
from ..measured import Measured
from ..units import HOUR_S
from .load_steps import LOADED_A, load_steps

OFF_V = 3.0
MOST_EFFICIENCY = 1.03
"""More comes out of no converter; beyond what two meters may differ by it is none (own choice)."""


@dataclass(frozen=True)
class AtLoad:
    """Efficiency at one load: [W] in and out, their share (0–1), from and to [s]."""

    start_s: float
    end_s: float
    in_w: float
    out_w: float
    share: Measured


def converter_efficiency(before: PowerTrace, behind: PowerTrace, meter: MeterSpec = MeterSpec()) -> tuple[AtLoad, ...]:
    """Efficiency at each load of the output, smallest first.

    Parameters
    ----------
    before, behind : PowerTrace
        At the input (the cells, or the cord in while the pack neither fills nor empties) and at the output, on one
        clock.
    meter : MeterSpec
        Of both; two meters of one kind are counted as independent.

    Raises
    ------
    CannotRead
        If the output has no volts and amps, or nowhere both were logged under one load.
    """
    if behind.volts is None or behind.amps is None:
        raise CannotRead("watts alone show no loads", "log volts and amps of the output", file="output")
    found = []
    for step in load_steps(behind.time_s, behind.volts, behind.amps, np.asarray(behind.volts > OFF_V)):
        start_s, end_s = max(step.start_s, before.start_s), min(step.end_s, before.end_s)
        if step.amps < LOADED_A or end_s - start_s < before.step_s * 2:
            continue
        into, out = (energy_between(t, start_s, end_s, meter).metered for t in (before, behind))
        if into.value > 0 and out.value > 0:
            hours = (end_s - start_s) / HOUR_S
            found.append(AtLoad(start_s, end_s, into.value / hours, out.value / hours, out.over(into)))
    if not found:
        raise CannotRead(
            "input and output have no load in common", "log both meters at once, on one clock", file="converter"
        )
    if all(a.share.value > MOST_EFFICIENCY for a in found):
        raise CannotRead(
            "more comes out than goes in", "see whether the two logs are the wrong way round", file="converter"
        )
    return tuple(sorted(found, key=lambda a: a.out_w))
