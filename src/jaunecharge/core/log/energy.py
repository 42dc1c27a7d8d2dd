"""Energy through the meter: the trapezoid over metered time, holes kept apart, uncertainty after the GUM."""

import math
from dataclasses import dataclass

import numpy as np

from ..arrays import Array, Mask
from ..measured import Measured, Part, rectangle
from ..units import HOUR_S
from .trace import PowerTrace

BRIDGE_SHARE = 0.1
"""Least half-width of what the power may have done in a hole, as a share of the level beside it (own choice)."""

AT_ONCE = 65536
"""Windows worked out at a time."""


@dataclass(frozen=True)
class MeterSpec:
    """Accuracy of the meter as ±(% of reading + counts); the defaults are those of the command line. gain_percent is
    None where nobody knows it: what it leaves unsure is then in no figure."""

    gain_percent: float | None = 0.5
    counts_v: float = 0.01
    counts_a: float = 0.01


@dataclass(frozen=True)
class Energy:
    """Energy of a stretch: over metered time alone, and with its holes bridged.

    metered, bridged [Wh]; covered_s, span_s [s]. `bridged` equals `metered` where nothing is missing.
    """

    metered: Measured
    bridged: Measured
    covered_s: float
    span_s: float

    @property
    def mean_w(self) -> float:
        """Mean power over the metered time [W]; NaN where none of it was metered."""
        return self.metered.value * HOUR_S / self.covered_s if self.covered_s > 0 else math.nan

    @property
    def complete(self) -> bool:
        return math.isclose(self.covered_s, self.span_s, rel_tol=1e-9, abs_tol=1e-6)


def clip(trace: PowerTrace, start_s: float, end_s: float) -> tuple[Array, list[Array | None], Mask]:
    """Times and columns (power, volts, amps) from `start_s` to `end_s`, both ends interpolated on the log; and which of
    their steps lie in a hole of it (a clipped hole is still one)."""
    time_s = trace.time_s
    start_s, end_s = max(start_s, trace.start_s), min(end_s, trace.end_s)
    inside = slice(int(np.searchsorted(time_s, start_s, "right")), int(np.searchsorted(time_s, end_s, "left")))
    whole = slice(inside.start - 1, inside.stop + 1)
    # Where both ends are samples nothing is to be interpolated, nor copied.
    on_samples = time_s[whole.start] == start_s and time_s[whole.stop - 1] == end_s
    cut = time_s[whole] if on_samples else np.concatenate(([start_s], time_s[inside], [end_s]))

    def column(values: Array | None) -> Array | None:
        if values is None:
            return None
        if on_samples:
            return values[whole]
        ends = np.interp([start_s, end_s], time_s, values)
        return np.concatenate((ends[:1], values[inside], ends[1:]))

    hole = trace.steps_s[inside.start - 1 : inside.stop] > trace.hole_limit_s
    return cut, [column(c) for c in (trace.power_w, trace.volts, trace.amps)], hole


def energy_between(trace: PowerTrace, start_s: float, end_s: float, meter: MeterSpec = MeterSpec()) -> Energy:
    """Energy through the meter from `start_s` to `end_s` [s], as far as the log reaches.

    Trapezoid rule; a step over the trace's hole limit adds nothing to the metered figure and its trapezoid to the
    bridged one. Meter gain and counts are common to all samples, so they do not average out (JCGM 100:2008, 5.2.2).
    """
    if min(end_s, trace.end_s) <= max(start_s, trace.start_s):
        return Energy(Measured(0.0), Measured(0.0), 0.0, 0.0)
    time_s, (power_w, volts, amps), hole = clip(trace, start_s, end_s)
    assert power_w is not None
    hours = np.diff(time_s)
    hours /= HOUR_S
    halves = hours / 2.0
    whole = not hole.any()
    steps = np.empty_like(hours)

    def integral(values: Array, where: Mask) -> float:
        np.add(values[1:], values[:-1], out=steps)
        np.multiply(steps, halves, out=steps)
        return float(np.sum(steps if whole else steps[where]))

    def hidden(where: Mask) -> float:
        """Energy that may have flowed unseen over these steps, at the most [Wh]."""
        left, right = power_w[:-1][where], power_w[1:][where]
        half = np.maximum(np.abs(left - right) / 2.0, BRIDGE_SHARE * (left + right) / 2.0) * hours[where]
        return float(np.sum(half))

    metered = integral(power_w, ~hole)
    parts = _meter_parts(
        metered,
        None if volts is None else integral(volts, ~hole),
        None if amps is None else integral(amps, ~hole),
        meter,
    )
    if trace.sparse:
        parts = (*parts, Part("what happened between two readings", rectangle(hidden(~hole))))
    in_holes = 0.0 if whole else integral(power_w, hole)
    bridged = metered + in_holes
    bridge_parts = parts
    if not whole:
        scale = bridged / metered if metered else 1.0
        bridge_parts = (
            *(Part(p.source, p.standard * scale) for p in parts),
            Part("what the holes hid", rectangle(hidden(hole))),
        )
    return Energy(
        Measured(metered, parts),
        Measured(bridged, bridge_parts),
        float(np.sum(hours if whole else hours[~hole])) * HOUR_S,
        float(time_s[-1] - time_s[0]),
    )


def charge_between(trace: PowerTrace, start_s: float, end_s: float, meter: MeterSpec = MeterSpec()) -> Measured:
    """Charge through the meter from `start_s` to `end_s` [Ah], holes bridged; by the trapezoid, as the energy is.

    Its amps must have been logged.
    """
    time_s, (_, _, amps), hole = clip(trace, start_s, end_s)
    assert amps is not None
    hours = np.diff(time_s) / HOUR_S
    steps = (amps[1:] + amps[:-1]) / 2.0 * hours
    charge = float(np.sum(steps))
    if meter.gain_percent is None:
        return Measured(charge)
    parts = [
        Part("meter gain, amps", rectangle(meter.gain_percent / 100.0) * abs(charge)),
        Part("meter counts, amps", rectangle(meter.counts_a) * float(np.sum(hours))),
    ]
    if hole.any():
        half = np.maximum(np.abs(np.diff(amps)) / 2.0, BRIDGE_SHARE * (amps[1:] + amps[:-1]) / 2.0) * hours
        parts.append(Part("what the holes hid", rectangle(float(np.sum(half[hole])))))
    return Measured(charge, tuple(parts))


def _meter_parts(
    energy_wh: float, volt_hours: float | None, amp_hours: float | None, meter: MeterSpec
) -> tuple[Part, ...]:
    if meter.gain_percent is None:
        return ()
    gain = rectangle(meter.gain_percent / 100.0) * abs(energy_wh)
    parts = [Part("meter gain, volts", gain), Part("meter gain, amps", gain)]
    if volt_hours is not None and amp_hours is not None:
        parts.append(Part("meter counts, volts", rectangle(meter.counts_v) * abs(amp_hours)))
        parts.append(Part("meter counts, amps", rectangle(meter.counts_a) * abs(volt_hours)))
    return tuple(parts)


def window_means(trace: PowerTrace, starts_s: Array, width_s: float, least_covered: float = 0.9) -> Array:
    """Mean power [W] over [t, t + width) for every start t : (m,) [s]; NaN where too little of it was metered."""
    found = np.empty(len(starts_s))
    # Some at a time: a million at once do not stay in the processor's own memory.
    for first in range(0, len(starts_s), AT_ONCE):
        some = slice(first, first + AT_ONCE)
        found[some] = _some_means(trace, starts_s[some], width_s, least_covered)
    return found


def _some_means(trace: PowerTrace, starts_s: Array, width_s: float, least_covered: float) -> Array:
    energy, covered = trace.running
    begin, end = _Reader(trace.time_s, starts_s), _Reader(trace.time_s, starts_s + width_s)
    wh, seconds = end.of(energy) - begin.of(energy), end.of(covered) - begin.of(covered)
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.where(seconds >= least_covered * width_s, wh * HOUR_S / seconds, np.nan)


class _Reader:
    """Reads tables at ever later moments, as `numpy.interp` does; most of a log's moments are samples of it, whose
    entries need no search."""

    def __init__(self, time_s: Array, at_s: Array) -> None:
        self._time_s, self._at_s = time_s, at_s
        first = int(np.searchsorted(time_s, at_s[1], "left")) if len(at_s) > 2 else 0
        samples = slice(first, first + len(at_s) - 2)
        alike = len(at_s) > 2 and np.array_equal(time_s[samples], at_s[1:-1])
        self._samples = samples if alike else None

    def of(self, table: Array) -> Array:
        """The table at each moment."""
        if self._samples is None:
            return np.interp(self._at_s, self._time_s, table)
        ends = np.interp(self._at_s[[0, -1]], self._time_s, table)
        return np.concatenate((ends[:1], table[self._samples], ends[1:]))


def mean_power(trace: PowerTrace, start_s: float, end_s: float) -> float:
    """Mean power from `start_s` to `end_s` over its metered time [W]; 0 where none of it was metered."""
    energy, covered = trace.running
    wh, seconds = (
        float(np.interp(end_s, trace.time_s, table) - np.interp(start_s, trace.time_s, table))
        for table in (energy, covered)
    )
    return wh * HOUR_S / seconds if seconds > 0 else 0.0


USUAL_V = 9.0
"""Volts that are taken where a meter wrote watts alone (common practice)."""


def metered_power(watts: float, whole: Energy) -> Measured:
    """A power with the meter's uncertainty [W]: the relative one of the whole log's energy."""
    scale = watts / whole.metered.value if whole.metered.value else 0.0
    meter = [p for p in whole.metered.parts if p.source.startswith("meter")]
    return Measured(watts, tuple(Part(p.source, abs(p.standard * scale)) for p in meter))


def metered_idle(watts: float, trace: PowerTrace, meter: MeterSpec) -> Measured:
    """A small draw with the meter's uncertainty [W]: at so few amps its counts weigh most."""
    if meter.gain_percent is None:
        return Measured(watts)
    volts = USUAL_V if trace.volts is None else float(trace.volts.mean())
    gain = rectangle(meter.gain_percent / 100.0) * watts
    return Measured(
        watts,
        (
            Part("meter gain, volts", gain),
            Part("meter gain, amps", gain),
            Part("meter counts, amps", rectangle(meter.counts_a) * volts),
        ),
    )
