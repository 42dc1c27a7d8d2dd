"""Invented runs from a small seeded model: one battery, one warm phone, one charger. For demonstrations only.

The figures are our own and stand for no product. A charge of so many watts at the meter reaches the battery by a fixed
share; above the knee the power falls off; the phone is one thermal node that halves its draw when it is hot.
"""

from dataclasses import dataclass

import numpy as np

from .trace import Array
from .units import HOUR_S, battery_wh

FULL_AT = 99.5


@dataclass(frozen=True)
class Recipe:
    """What happens in an invented run.

    stages : (percent from which, watts at the meter) in order; capacity_mah [mAh]; nominal_v [V]; share of the meter's
    energy that reaches the battery; knee_percent where the taper begins; no_load_w, after_full_w [W]; ambient_c [°C];
    kelvin_per_watt [K/W] and tau_s [s] of the phone; hot_c, cool_c [°C] between which it throttles to throttled_w [W];
    hold_percent where the phone stops for hold_s [s]; slips : (start, length) [s] off the coil; holes : the same for
    the log; tail_s [s] logged after full; interval_s [s] between check-ins.
    """

    stages: tuple[tuple[float, float], ...]
    capacity_mah: float
    start_percent: float = 5.0
    nominal_v: float = 3.87
    volts: float = 9.0
    share: float = 0.6
    knee_percent: float = 82.0
    no_load_w: float = 0.4
    after_full_w: float = 0.6
    ambient_c: float = 24.0
    kelvin_per_watt: float = 0.65
    tau_s: float = 900.0
    hot_c: float = 60.0
    cool_c: float = 58.0
    throttled_w: float = 0.0
    hold_percent: float | None = None
    hold_s: float = 3600.0
    slips: tuple[tuple[float, float], ...] = ()
    holes: tuple[tuple[float, float], ...] = ()
    tail_s: float = 900.0
    interval_s: float = 600.0
    placed_s: float = 60.0
    most_s: float = 36000.0


@dataclass(frozen=True)
class Generated:
    """An invented run: a meter's log, check-ins, temperatures at the back and in the room, all on one clock [s]."""

    time_s: Array
    volts: Array
    amps: Array
    checkin_s: Array
    percent: Array
    heat_s: Array
    back_c: Array
    room_c: Array


def generate(recipe: Recipe, seed: int) -> Generated:
    """An invented run in steps of one second; the same recipe and seed give the same run."""
    rng = np.random.default_rng(seed)
    capacity_wh = battery_wh(recipe.capacity_mah, recipe.nominal_v)
    level, celsius, power, throttled = recipe.start_percent, recipe.ambient_c, recipe.no_load_w, False
    held_s = ended_s = 0.0
    watts, levels, temperatures = [], [], []
    second = 0
    while second < recipe.most_s and ended_s < recipe.tail_s:
        placed = second >= recipe.placed_s
        slipped = any(start <= second < start + length for start, length in recipe.slips)
        full = level >= FULL_AT
        holding = recipe.hold_percent is not None and level >= recipe.hold_percent and held_s < recipe.hold_s
        if not placed or slipped:
            wanted = recipe.no_load_w
        elif full or holding:
            wanted = recipe.after_full_w if full else recipe.no_load_w
        else:
            wanted = _policy(recipe, level)
            throttled = celsius > recipe.hot_c or (throttled and celsius > recipe.cool_c)
            if throttled:
                wanted = min(wanted, recipe.throttled_w or recipe.no_load_w)
        held_s += holding
        ended_s += full or (recipe.hold_percent is not None and held_s >= recipe.hold_s)
        power += (wanted - power) / (15.0 if wanted > power else 4.0)
        charging = max(0.0, power - recipe.no_load_w) if placed and not slipped and not full and not holding else 0.0
        level = min(100.0, level + 100.0 * recipe.share * charging / HOUR_S / capacity_wh)
        celsius += (recipe.ambient_c + recipe.kelvin_per_watt * charging - celsius) / recipe.tau_s
        watts.append(power)
        levels.append(level)
        temperatures.append(celsius)
        second += 1
    return _written(recipe, rng, np.array(watts), np.array(levels), np.array(temperatures))


def _policy(recipe: Recipe, level: float) -> float:
    """Watts that the phone asks for at a battery level: its stage, less the taper above the knee."""
    watts = next(w for percent, w in reversed(recipe.stages) if level >= percent)
    if level <= recipe.knee_percent:
        return watts
    fall = (level - recipe.knee_percent) / (100.0 - recipe.knee_percent)
    return max(recipe.no_load_w + 1.6, watts * np.exp(-2.4 * fall))


def _written(recipe: Recipe, rng: np.random.Generator, watts: Array, levels: Array, celsius: Array) -> Generated:
    """What meter, phone and probe show of it, their noise and steps included."""
    time_s = np.arange(len(watts), dtype=float)
    volts = np.round(recipe.volts - 0.004 * watts + rng.normal(0.0, 0.004, len(watts)), 3)
    amps = np.round(watts / volts + rng.normal(0.0, 0.003, len(watts)), 4)
    kept = np.ones(len(watts), dtype=bool)
    for start, length in recipe.holes:
        kept &= ~((time_s >= start) & (time_s < start + length))
    at = np.arange(recipe.placed_s, len(watts), recipe.interval_s).astype(int)
    heat_at = np.arange(0, len(watts), 30)
    back = np.round(celsius[heat_at] + rng.normal(0.0, 0.06, len(heat_at)), 2)
    room = np.round(recipe.ambient_c + 0.3 * np.sin(heat_at / 4000.0) + rng.normal(0.0, 0.03, len(heat_at)), 2)
    return Generated(
        time_s[kept], volts[kept], np.maximum(amps, 0.0)[kept], at.astype(float), np.floor(levels[at] + 0.5),
        heat_at.astype(float), back, room,
    )  # fmt: skip
