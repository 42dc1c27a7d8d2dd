"""A load test of a pack from its log: what it delivered, how it held up, where it let go."""

from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np

from ..arrays import Array, Mask, median
from ..errors import CannotRead
from ..log.energy import MeterSpec, charge_between, energy_between
from ..log.trace import PowerTrace
from ..measured import COVERAGE_FACTOR, Measured, Part, half_of_two_rectangles, rectangle
from ..units import HOUR_S
from .load_steps import LOADED_A, STEP_V, LoadStep, least_a, load_steps
from .load_stops import AWAKE_S, SLEEP_A, Sleep, Trip, stops_of
from .rating import Rating, yield_of

OFF_V, OFF_SHARE = 3.0, 0.5
"""An output under 3 V, or under half of what it was, is gone: no USB supply gives so little."""

PROFILE_V = 1.2
"""Volts that change by more at once changed their profile: sag alone is less (own choice)."""

FOLDED_SHARE, FOLDED_S = 0.85, 60.0

FIT_LEAST, FIT_SPREAD = 3, 0.2

ONE_GO_SHARE, TWO_PACKS_SHARE = 0.4, 1.05
"""Two goes of 40 % of the rated energy each, and more than all of it together, came from no one pack (own choice)."""


@dataclass(frozen=True)
class ProfileChange:
    """The output changed its volts by itself, or was asked to."""

    at_s: float
    from_v: float
    to_v: float


@dataclass(frozen=True)
class Folded:
    """It gave less under the same load: from and to [W]."""

    at_s: float
    from_w: float
    to_w: float


@dataclass(frozen=True)
class VoltLine:
    """Volts over amps as a straight line: source resistance [Ω], volts without a load [V], points."""

    resistance_ohm: Measured
    no_load_v: float
    points: int


@dataclass(frozen=True)
class LoadTest:
    """A load test, read. delivered_wh, delivered_ah : from the first load to the cut-off, or at least so much, None
    where nobody metered it; sag_v : volts lost at the largest current that it held."""

    start_s: float
    end_s: float
    delivered_wh: Measured | None
    delivered_ah: Measured | None
    at_least: bool
    cut_off_s: float | None
    yield_: Measured | None
    no_load_v: Measured | None
    line: VoltLine | None
    sag_v: float | None
    steps: tuple[LoadStep, ...]
    profile_changes: tuple[ProfileChange, ...]
    trip: Trip | None
    sleeps: tuple[Sleep, ...]
    folded: tuple[Folded, ...]
    interruptions: tuple[tuple[float, float | None], ...] = field(default=())
    """Stops that nothing explains: from and to [s]."""

    by_eye: bool = False
    """Whether its figures were read off a display: its steps have no times then."""

    cut_off: Measured | None = None
    """Hours from the first load to the cut-off [h]; None where there was none, or nobody knows how long it took."""

    trip_a: Measured | None = None
    """Current at which protection lets go [A]: between the largest that it held and the one at which it did."""

    awake: LoadStep | None = None
    """The smallest load under which it stayed on for half an hour and more."""


def read_load(trace: PowerTrace, rated: Rating, meter: MeterSpec = MeterSpec()) -> LoadTest:
    """Read a load test.

    Parameters
    ----------
    trace : PowerTrace
        With volts and amps, as the load or a meter between logged them.
    rated : Rating
    meter : MeterSpec

    Raises
    ------
    CannotRead
        If there are no volts and amps, or no load.
    """
    if trace.volts is None or trace.amps is None:
        raise CannotRead("watts alone show no load test", "log volts and amps", file="load log")
    time_s, volts, amps = trace.time_s, trace.volts, trace.amps
    loaded = _loaded(amps, volts)
    if not loaded.any():
        raise CannotRead("nothing was drawn", "log with the load on", file="load log")
    first = int(np.argmax(loaded))
    on = _output_on(volts, loaded)
    steps = load_steps(time_s, volts, amps, on)
    stops = stops_of(time_s, volts, amps, on, first, steps, rated)
    # Load and cut-off come between two samples: half of that step belongs to the load, which the trapezoid gives.
    start_s, end_s = float(time_s[max(0, first - 1)]), float(time_s[-1]) if stops.cut_off_s is None else stops.cut_off_s
    _refuse_two(trace, stops.others, start_s, end_s, rated)
    energy = energy_between(trace, start_s, end_s, meter)
    seen = slice(max(0, first - 1), int(np.searchsorted(time_s, end_s)) + 1)
    delivered = _with_edges(energy.metered if energy.complete else energy.bridged, trace, trace.power_w[seen])
    charge = _with_edges(charge_between(trace, start_s, end_s, meter), trace, amps[seen])
    loads = tuple(s for s in steps if s.amps >= least_a(amps))
    idle = _no_load(time_s, volts, amps, first, on, meter)
    line = volt_line(steps, idle, meter)
    return LoadTest(
        start_s, end_s, delivered, charge, stops.cut_off_s is None, stops.cut_off_s, yield_of(delivered, rated), idle,
        line, sag_of(loads, idle), loads, _profile_changes(steps), stops.trip, stops.sleeps, _folds(loads),
        stops.others, cut_off=_cut_off(stops.cut_off_s, start_s, trace.step_s, begun=first > 0),
        trip_a=trip_of(stops.trip, meter),
        awake=_awake(loads),
    )  # fmt: skip


def _refuse_two(
    trace: PowerTrace, others: tuple[tuple[float, float | None], ...], start_s: float, end_s: float, rated: Rating
) -> None:
    """Refuse a log in which more than is printed came in two goes, each of them a good part of a pack."""
    energy = trace.running[0]

    def given(from_s: float, to_s: float) -> float:
        return float(np.interp(to_s, trace.time_s, energy) - np.interp(from_s, trace.time_s, energy))

    for at_s, back_s in others:
        before, after = given(start_s, at_s), 0.0 if back_s is None else given(back_s, end_s)
        if min(before, after) >= ONE_GO_SHARE * rated.wh and before + after > TWO_PACKS_SHARE * rated.wh:
            raise CannotRead(
                f"it went off after {before:.1f} Wh and then gave {after:.1f} Wh more: that is more than the"
                f" {rated.wh:.1f} Wh of one full pack",
                "two packs, or a recharge between: cut the log apart there", file="load log",
            )  # fmt: skip


def _with_edges(total: Measured, trace: PowerTrace, drawn: Array) -> Measured:
    """A total of a load that came, changed and went somewhere between two samples each. drawn : (n,) [W] or [A]."""
    if not total.parts:
        return total
    half_h = trace.step_s / 2.0 / HOUR_S
    edges = float(np.sqrt(np.sum(rectangle(half_h) ** 2 * np.diff(drawn) ** 2)))
    return Measured(total.value, (*total.parts, Part("when the load changed, between samples", edges)))


def _loaded(amps: Array, volts: Array) -> Mask:
    return np.asarray((amps > least_a(amps)) & (volts > OFF_V))


def _output_on(volts: Array, loaded: Mask) -> Mask:
    """Steps at which the output was there : (n,)."""
    usual = median(volts[loaded])
    return np.asarray(volts > max(OFF_V, OFF_SHARE * min(usual, 5.0)))


def _no_load(time_s: Array, volts: Array, amps: Array, first: int, on: Mask, meter: MeterSpec) -> Measured | None:
    """Volts with nothing drawn, before the first load [V]."""
    before = on[:first] & (amps[:first] <= least_a(amps))
    if not before.any():
        return None
    level = median(volts[:first][before])
    return Measured(level, volt_parts(level, meter))


def _cut_off(at_s: float | None, start_s: float, step_s: float, begun: bool) -> Measured | None:
    """Hours to the cut-off. The output went between two rows, and where the log `begun` before the load that came
    between two as well: half a step each in the mean."""
    if at_s is None:
        return None
    half = half_of_two_rectangles(step_s / 2.0, step_s / 2.0 if begun else 0.0) / HOUR_S
    early = step_s if begun else step_s / 2.0
    return Measured((at_s - start_s - early) / HOUR_S, (Part("between two rows", half / COVERAGE_FACTOR),))


def trip_of(trip: Trip | None, meter: MeterSpec) -> Measured | None:
    """Current at which protection lets go [A]; None where nothing says from above where that is."""
    if trip is None or trip.tripped_at_a is None or trip.held_a <= 0:
        return None
    middle = (trip.held_a + trip.tripped_at_a) / 2.0
    half = half_of_two_rectangles((trip.tripped_at_a - trip.held_a) / 2.0, 0.0)
    parts = [Part("between two loads", half / COVERAGE_FACTOR)]
    if meter.gain_percent is not None:
        parts.append(Part("meter gain, amps", rectangle(meter.gain_percent / 100.0) * middle))
    return Measured(middle, tuple(parts))


def _awake(loads: tuple[LoadStep, ...]) -> LoadStep | None:
    """The smallest load of those so small that packs go to sleep under them, held for so long that one would have."""
    small = [s for s in loads if s.amps <= SLEEP_A and s.seconds >= AWAKE_S]
    return min(small, key=lambda s: s.amps) if small else None


def volt_parts(volts: float, meter: MeterSpec) -> tuple[Part, ...]:
    if meter.gain_percent is None:
        return ()
    return (
        Part("meter gain, volts", rectangle(meter.gain_percent / 100.0) * volts),
        Part("meter counts, volts", rectangle(meter.counts_v)),
    )


def volt_line(steps: list[LoadStep], idle: Measured | None, meter: MeterSpec) -> VoltLine | None:
    """Source resistance: the slope of volts over amps across the steps of one profile, by least squares.

    Each by its first two minutes: over hours the volts fall by what was taken from the cells as well.

    Its uncertainty is that of the slope, with Student's t for as few points as there are, widened to k = 2 (JCGM
    100:2008, G.3); with two points that of the meter's counts.
    """
    near = _one_profile(steps)
    points = [s.at_first for s in near]
    unloaded = any(a < LOADED_A for a, _ in points)
    if idle is not None and near and not unloaded and abs(idle.value - near[0].volts) < PROFILE_V:
        points.append((0.0, idle.value))
    if len(points) < 2:
        return None
    from scipy.special import stdtrit

    a, v = (np.array(x) for x in zip(*points, strict=True))
    if float(np.ptp(a)) < FIT_SPREAD * float(a.max()):
        return None
    slope, level, error = straight_line(a, v)
    parts: list[Part] = []
    if error is not None:
        parts.append(Part("scatter about the line", error * float(stdtrit(len(a) - 2, 0.975)) / COVERAGE_FACTOR))
    elif meter.gain_percent is not None:
        parts.append(Part("meter counts, volts", rectangle(meter.counts_v) * np.sqrt(2.0) / float(np.ptp(a))))
    if meter.gain_percent is not None:
        gain = rectangle(meter.gain_percent / 100.0) * abs(slope)
        parts += [Part("meter gain, volts", gain), Part("meter gain, amps", gain)]
    return VoltLine(Measured(-slope, tuple(parts)), level, len(a))


def straight_line(x: Array, y: Array) -> tuple[float, float, float | None]:
    """Slope, level at 0 and the slope's standard error of y over x by least squares : (n,) each; no error for two."""
    apart, middle = x - x.mean(), float(np.sum((x - x.mean()) ** 2))
    slope = float(np.sum(apart * y)) / middle
    level = float(y.mean()) - slope * float(x.mean())
    if len(x) < FIT_LEAST:
        return slope, level, None
    left = float(np.sum((y - level - slope * x) ** 2)) / (len(x) - 2)
    return slope, level, float(np.sqrt(left / middle))


def _one_profile(steps: list[LoadStep]) -> list[LoadStep]:
    """The steps of the voltage that most of them have."""
    best: list[LoadStep] = []
    for step in steps:
        near = [s for s in steps if abs(s.volts - step.volts) < PROFILE_V]
        if len(near) > len(best):
            best = near
    return best


def sag_of(loads: tuple[LoadStep, ...], idle: Measured | None) -> float | None:
    """Volts lost at the largest current that it held, against no load of the same profile [V]."""
    near = [s for s in loads if idle is not None and abs(s.volts - idle.value) < PROFILE_V]
    if idle is None or not near:
        return None
    return idle.value - max(near, key=lambda s: s.amps).volts


def _profile_changes(steps: list[LoadStep]) -> tuple[ProfileChange, ...]:
    return tuple(
        ProfileChange(b.start_s, a.volts, b.volts) for a, b in pairwise(steps) if abs(a.volts - b.volts) > PROFILE_V
    )


def _folds(loads: tuple[LoadStep, ...]) -> tuple[Folded, ...]:
    """Where the output gave less for a minute and more, at the same volts or at fewer amps by itself."""
    return tuple(
        Folded(b.start_s, a.watts, b.watts)
        for a, b in pairwise(loads)
        if b.seconds >= FOLDED_S
        and a.seconds >= FOLDED_S
        and b.watts < FOLDED_SHARE * a.watts
        and b.volts < a.volts - STEP_V
        and abs(a.volts - b.volts) <= PROFILE_V
    )
