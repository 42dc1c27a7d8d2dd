"""A rehearsal: a simulated charge as meter, phone and probe would have shown it, and the truth beside it."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..arrays import Array
from ..kit.items import Meter
from ..milestones import MILESTONES
from ..reading.verdict import Cause
from ..safety import THRESHOLDS_C
from ..units import MINUTE_S
from .circumstances import Event
from .engine import CUT_OUT, FULL, HOLDING, LOST, THROTTLED
from .simulate import Scenario, Simulated, room_c, simulate

VOLT_NOISE, AMP_NOISE = 0.003, 0.003
SHARE_OF_SPEC = 0.4
"""Share of its stated gain error that a meter shows at most (from memory: meters are mostly better than their
sheet).
"""

USUAL_GAIN_PERCENT = 0.5
"""Accuracy of a simulated meter where it is unknown: that of common inline meters (common practice)."""

CABLE_OHM = 0.12
HEAT_STEP_S, HEAT_NOISE_K = 30, 0.06
BY_STATE: dict[int, Cause] = {THROTTLED: "heat", CUT_OUT: "heat_cutout", LOST: "contact", HOLDING: "hold"}
LEAST_DIP_S = 20
SLIPS_BETWEEN_S, SLIP_S = (900.0, 6000.0), (40.0, 240.0)
CROSSINGS = (20, *MILESTONES)


@dataclass(frozen=True)
class TrueDip:
    """A true dip: seconds on the log's clock, cause, temperature [°C] and percentage at its beginning."""

    start_s: float
    end_s: float
    cause: str
    onset_c: float
    onset_percent: float


@dataclass(frozen=True)
class Truth:
    """Truth of a rehearsal: energies [Wh], milestones [min after placing], temperatures [°C], dips, seed."""

    seed: int
    placed_s: float
    energy_in_wh: float
    energy_battery_wh: float
    crossings_min: dict[int, float]
    no_load_w: float
    after_full_w: float | None
    max_c: float
    minutes_over: dict[int, float]
    dips: tuple[TrueDip, ...]
    account_error: float


@dataclass(frozen=True)
class Rehearsal:
    """Logs of a rehearsal, all on one clock [s]: meter, check-ins, back of the phone, room; and the truth."""

    time_s: Array
    volts: Array
    amps: Array
    checkin_s: Array
    percent: Array
    heat_s: Array
    back_c: Array
    room_c: Array
    truth: Truth
    charge: Simulated


def rehearse(scenario: Scenario, seed: int, meter: Meter | None = None, interval_min: float = 10.0) -> Rehearsal:
    """Simulate a run and log it with instruments.

    Parameters
    ----------
    scenario : Scenario
    seed : int
        Of the noise of meter and probe and the meter's gain; the charge itself is deterministic.
    meter : Meter, optional
        Its step, counts and gain error.
    interval_min : float [min]
        Between check-ins.

    Raises
    ------
    CannotRead
        If the scenario cannot be.
    """
    charge = simulate(scenario)
    rng = np.random.default_rng(seed)
    meter = meter or Meter(label="meter")
    n = len(charge.power_w)
    seconds = np.arange(n, dtype=float)
    supply = np.full(n, scenario.volts)
    for event in scenario.events:
        if event.kind == "supply" and event.volts:
            supply[_during(event, seconds)] = event.volts
    true_amps = charge.power_w / supply
    volts = supply - CABLE_OHM * true_amps
    true_amps = charge.power_w / volts
    spec = USUAL_GAIN_PERCENT if meter.gain_percent is None else meter.gain_percent
    gain = 1.0 + rng.uniform(-1.0, 1.0) * SHARE_OF_SPEC * spec / 100.0
    seen_v = _stepped(volts + rng.normal(0.0, VOLT_NOISE, n), meter.counts_v / 10.0)
    seen_a = _stepped(true_amps * gain + rng.normal(0.0, AMP_NOISE, n), meter.counts_a / 10.0)
    sampled = np.zeros(n, dtype=bool)
    sampled[:: max(1, round(meter.step_s))] = True
    for event in scenario.events:
        if event.kind == "gap":
            sampled &= ~_during(event, seconds)
    placed = int(scenario.placed_s)
    at = np.arange(placed, n, max(1, round(interval_min * MINUTE_S)))
    shown = charge.shown
    heat_at = np.arange(0, n, HEAT_STEP_S)
    back = charge.phone_c[heat_at] + rng.normal(0.0, HEAT_NOISE_K, len(heat_at))
    room = room_c(scenario, heat_at.astype(float)) + rng.normal(0.0, HEAT_NOISE_K / 2.0, len(heat_at))
    return Rehearsal(
        seconds[sampled],
        seen_v[sampled],
        np.maximum(seen_a, 0.0)[sampled],
        at.astype(float),
        shown[at],
        heat_at.astype(float),
        np.round(back, 2),
        np.round(room, 2),
        truth_of(charge, seed),
        charge,
    )


def random_slips(number: int, seed: int) -> tuple[Event, ...]:
    """Slips off the coil at random moments of the first hour and a half; the same seed gives the same ones."""
    rng = np.random.default_rng([seed, 1])
    starts = np.sort(rng.uniform(*SLIPS_BETWEEN_S, number))
    return tuple(Event("slip", float(round(s)), float(round(rng.uniform(*SLIP_S)))) for s in starts)


def truth_of(charge: Simulated, seed: int) -> Truth:
    """Truth of a simulated charge."""
    scenario = charge.scenario
    crossings = {p: m for p in CROSSINGS if (m := charge.minutes_to(p)) is not None}
    full = charge.state == FULL
    settled = np.flatnonzero(full)[60:]
    account = charge.account
    return Truth(
        seed=seed,
        placed_s=scenario.placed_s,
        energy_in_wh=account.drawn,
        energy_battery_wh=account.stored,
        crossings_min=crossings,
        no_load_w=scenario.no_load_w,
        after_full_w=float(charge.power_w[settled].mean()) if len(settled) else None,
        max_c=charge.hottest_c,
        minutes_over={c: float(np.sum(charge.phone_c >= c)) / MINUTE_S for c in THRESHOLDS_C},
        dips=tuple(_dips(charge)),
        account_error=(account.stored + account.heat + account.idle) / account.drawn - 1.0,
    )


def _dips(charge: Simulated) -> list[TrueDip]:
    """Stretches in which heat, a slip, a hold, a restart or the supply took power away, in order."""
    dips: list[TrueDip] = []
    cause = np.full(len(charge.state), "", dtype=object)
    for state, name in BY_STATE.items():
        cause[charge.state == state] = name
    seconds = np.arange(len(charge.state), dtype=float)
    for event in charge.scenario.events:
        if event.kind in {"restart", "supply"}:
            cause[_during(event, seconds) & (charge.state != FULL)] = event.kind
    edges = np.flatnonzero(cause[1:] != cause[:-1]) + 1
    for start, end in zip([0, *edges.tolist()], [*edges.tolist(), len(cause)], strict=True):
        if cause[start] and end - start >= LEAST_DIP_S:
            onset = (float(charge.phone_c[start]), float(charge.shown[start]))
            dips.append(TrueDip(float(start), float(end), str(cause[start]), *onset))
    return dips


def _during(event: Event, seconds: Array) -> NDArray[np.bool_]:
    return np.asarray((seconds >= event.start_s) & (seconds < event.start_s + event.length_s))


def _stepped(values: Array, step: float) -> Array:
    return np.round(values / step) * step if step > 0 else values
