"""A phone's figures from one measured run: how well it charges, warms, slows down and saves itself.

The simulator is run with trial figures until meter, percentages and temperature are met best (least squares).
"""

from dataclasses import dataclass, replace

import numpy as np

from ..arrays import Array, percentile
from ..chain.check import Chain
from ..errors import CannotRead
from ..reading.read_run import Reading
from ..simulator.circumstances import Circumstances
from ..simulator.scenario import Fitted, prepare
from ..simulator.simulate import NEVER, Scenario, Simulated, simulate

LEAST_CHECKINS = 4
GRID_S = 60.0
FLAT_K = 1.0
"""Temperature held within this for long, near the run's maximum, is the phone holding itself [K]."""

LEAST_RISE_K = 3.0
"""Rise over the room from which heat can be fitted at all [K]."""

WATTS_PER_UNIT, POINTS_PER_UNIT, KELVIN_PER_UNIT = 1.0, 2.0, 1.0
"""Weights of the sum of squares."""

NAMES = ("watts", "receiver", "knee", "last", "air", "body", "level")
LOW = np.array([0.7, 0.45, 60.0, 0.03, 0.4, 0.4, -6.0])
HIGH = np.array([1.4, 0.97, 97.0, 0.9, 3.0, 2.5, 6.0])
FIRST = np.array([1.0, 0.8, 82.0, 0.25, 1.0, 1.0, 0.0])
SCALE = np.array([0.05, 0.05, 4.0, 0.1, 0.2, 0.2, 1.0])


@dataclass(frozen=True)
class FitResult:
    """Result of a fit, and how well it fits: root mean squares at the meter [W], of the percentages [points], of the
    temperature [K] (None without a heat log); `heat_fitted` whether the run was warm enough to tell."""

    fitted: Fitted
    rms_w: float
    rms_points: float
    rms_k: float | None
    heat_fitted: bool
    checkins: int
    runs_tried: int
    scenario: Scenario

    def said(self) -> str:
        """In a sentence."""
        heat = "" if self.rms_k is None else f", {self.rms_k:.1f} K at the phone"
        return f"misses the run by {self.rms_w:.1f} W at the meter, {self.rms_points:.1f} points of battery{heat} (rms)"


def fit_phone(reading: Reading, chain: Chain, around: Circumstances, run: str = "") -> FitResult:
    """Fit a phone's figures to a run.

    Parameters
    ----------
    reading : Reading
        Of the measured run: its meter's log, its check-ins, its heat if there is any.
    chain : Chain
        What charged it.
    around : Circumstances
        Airflow, state and offset of the run; start and room are taken from the log where it has them.
    run : str
        Label of the run, kept as the origin of the figures.

    Returns
    -------
    FitResult

    Raises
    ------
    CannotRead
        If there are too few check-ins, or no power to fit to.
    """
    from scipy.optimize import least_squares

    readings = reading.log.readings
    if readings is None or len(readings) < LEAST_CHECKINS:
        raise CannotRead("the run has too few check-ins to fit to", f"at least {LEAST_CHECKINS}", file="run")
    if reading.best_settled is None or reading.best_settled.watts < 1.0:
        raise CannotRead("the phone drew no power in this run", "choose a run that charged it", file="run")
    target = _Target(reading)
    around = replace(
        around,
        start_percent=float(min(readings.percent[0], 98.0)),
        ambient_c=target.room_c if target.room_c is not None else around.ambient_c,
        events=(),
    )
    base = prepare(chain, around).scenario
    base = replace(base, no_load_w=reading.no_load.watts if reading.no_load else base.no_load_w, supply_w=400.0)
    settled_w = max(0.3, (reading.best_settled.watts - base.no_load_w) * base.efficiency)
    base = replace(base, stages=((0.0, settled_w),), placed_s=0.0, most_s=max(600.0, target.end_s), tail_s=NEVER)
    hot = target.warm
    free = np.array([True, True, True, True, hot, hot, hot and target.level_c is not None])
    tried = 0

    def trial(x: Array) -> Scenario:
        values = FIRST.copy()
        values[free] = x
        return _with(base, values, target.level_c)

    def residual(x: Array) -> Array:
        nonlocal tried
        tried += 1
        return target.missed(simulate(trial(x)))

    low, high, scale = LOW[free], HIGH[free], SCALE[free]
    solution = least_squares(residual, FIRST[free], bounds=(low, high), x_scale=scale, diff_step=0.02, max_nfev=30)
    scenario = trial(solution.x)
    charge = simulate(scenario)
    nodes, throttling = scenario.nodes, scenario.throttling
    # The air's conductance is that of this airflow and case: bring it back to still air and no case.
    bare = prepare(replace(chain, case=None), replace(around, airflow="still air")).scenario.nodes.phone_air
    fitted = Fitted(
        receiver=scenario.receiver,
        conductance=nodes.phone_air * bare / base.nodes.phone_air,
        heat_capacity_j=nodes.phone_j,
        knee_percent=scenario.knee_percent,
        last_share=scenario.last_share,
        level_c=throttling.level_c,
        accepts_w=scenario.accepts_w,
        run=run,
    )
    return FitResult(
        fitted,
        target.rms_w(charge),
        target.rms_points(charge),
        target.rms_k(charge),
        hot,
        len(readings),
        tried,
        scenario,
    )


def _with(base: Scenario, values: Array, level_c: float | None) -> Scenario:
    watts, receiver, knee, last, air, body, level = (float(v) for v in values)
    nodes = replace(base.nodes, phone_air=base.nodes.phone_air * air, phone_j=base.nodes.phone_j * body)
    throttling = replace(base.throttling, level_c=NEVER if level_c is None else level_c + level)
    settled_w = base.stages[0][1] * watts
    return replace(
        base,
        stages=((0.0, settled_w),),
        accepts_w=settled_w,
        receiver=receiver,
        knee_percent=knee,
        last_share=last,
        nodes=nodes,
        throttling=throttling,
    )


class _Target:
    """Measurements on a grid of seconds after placing."""

    def __init__(self, reading: Reading) -> None:
        log, placed = reading.log, reading.placed_s
        assert log.readings is not None
        last = float(log.readings.time_s[-1])
        full = next((m.latest_s for m in reading.milestones if m.percent == 100), last)
        self.end_s = min(log.trace.end_s, max(full, last)) - placed
        self.at_s = np.arange(GRID_S, max(GRID_S * 3, self.end_s), GRID_S)
        edges = np.append(self.at_s - GRID_S / 2.0, self.at_s[-1] + GRID_S / 2.0) + placed
        self.watts = _means(log.trace.time_s, log.trace.power_w, edges)
        inside = (log.readings.time_s >= placed) & (log.readings.time_s - placed <= self.end_s)
        self.checkin_s, self.percent = log.readings.time_s[inside] - placed, log.readings.percent[inside]
        surface = log.heat.phone() if log.heat else None
        self.celsius: Array | None = None
        self.room_c: float | None = None
        self.level_c: float | None = None
        self.warm = False
        if surface is not None and log.heat is not None and len(surface.time_s) >= LEAST_CHECKINS:
            self.celsius = np.interp(self.at_s, surface.time_s - placed, surface.celsius)
            known = log.heat.ambient
            self.room_c = float(known.celsius.mean()) if known is not None else float(surface.celsius[0])
            self.warm = float(self.celsius.max()) - self.room_c >= LEAST_RISE_K
            top = percentile(self.celsius, 98)
            share_at_top = float(np.mean(self.celsius >= top - FLAT_K))
            early = self.watts[: max(3, len(self.watts) // 6)]
            later = self.watts[(self.celsius >= top - FLAT_K)]
            fallen = len(later) > 0 and np.nanmedian(later) < 0.92 * np.nanmax(early)
            self.level_c = top if share_at_top > 0.1 and fallen else None

    def _seen(self, charge: Simulated, trace: Array, at_s: Array) -> Array:
        return np.asarray(trace[np.clip(at_s.astype(int), 0, len(trace) - 1)])

    def missed(self, charge: Simulated) -> Array:
        """Residuals of all that was measured, in units that count alike."""
        watts = (self._seen(charge, charge.power_w, self.at_s) - self.watts) / WATTS_PER_UNIT
        watts = np.nan_to_num(watts) / np.sqrt(len(watts))
        percent = (self._points(charge) - self.percent) / POINTS_PER_UNIT / np.sqrt(len(self.percent))
        parts = [watts, percent]
        if self.celsius is not None and self.warm:
            heat = (self._seen(charge, charge.phone_c, self.at_s) - self.celsius) / KELVIN_PER_UNIT
            parts.append(heat / np.sqrt(len(heat)))
        return np.concatenate(parts)

    def _points(self, charge: Simulated) -> Array:
        return self._seen(charge, charge.charge * 100.0, self.checkin_s)

    def rms_w(self, charge: Simulated) -> float:
        return _rms(self._seen(charge, charge.power_w, self.at_s) - self.watts)

    def rms_points(self, charge: Simulated) -> float:
        return _rms(self._points(charge) - self.percent)

    def rms_k(self, charge: Simulated) -> float | None:
        if self.celsius is None:
            return None
        return _rms(self._seen(charge, charge.phone_c, self.at_s) - self.celsius)


def _means(time_s: Array, values: Array, edges: Array) -> Array:
    """Mean of the values between edges; NaN where there is none."""
    place = np.digitize(time_s, edges) - 1
    inside = (place >= 0) & (place < len(edges) - 1)
    count = np.bincount(place[inside], minlength=len(edges) - 1)
    total = np.bincount(place[inside], values[inside], minlength=len(edges) - 1)
    return np.asarray(np.where(count > 0, total / np.maximum(count, 1), np.nan))


def _rms(missed: Array) -> float:
    return float(np.sqrt(np.nanmean(missed**2)))
