"""The simulator's inner loop, compiled: one charge in steps of one second.

Everything of the job that it needs comes in as plain figures and tables; `simulate` says what they mean.
"""

import threading
from collections.abc import Callable
from typing import Any, NamedTuple, TypeVar

import numpy as np

from ..arrays import Array

NO_PHONE, CHARGING, THROTTLED, CUT_OUT, HOLDING, FULL, LOST, WAKING = range(8)
"""States of a second."""

IN, STORED, HEAT, IDLE = range(4)
"""Parts of the energy account."""


THERMAL_V = 0.05138
"""2RT/F at 25 °C [V]: the scale of the charge transfer's voltage (Butler–Volmer with symmetric transfer)."""


class Figures(NamedTuple):
    """One charge in plain figures: W, °C, s, A, V, Ah, fractions. See `simulate.Scenario` for their meaning."""

    start_charge: float
    phone_c: float
    pad_c: float
    no_load_w: float
    efficiency: float
    receiver: float
    idle_w: float
    rise_s: float
    pad_share: float
    hot_c: float
    cool_c: float
    throttled_w: float
    level_c: float
    level_band_k: float
    level_least_w: float
    cut_c: float
    resume_c: float
    hold_charge: float
    hold_s: float
    wake_s: float
    wake_w: float
    capacity_ah: float
    exchange_a: float
    slow_s: float
    most_a: float
    most_v: float
    end_a: float
    placed_s: float
    tail_s: float


class Tables(NamedTuple):
    """Tables over the charge 0–1 : accept_w, ocv_v, r_ohm, slow_ohm; over the seconds, the last value going on :
    cap_w, contact, ambient_c; and the exact step of the two thermal nodes, (2, 2) and (2, 3)."""

    accept_w: Array
    ocv_v: Array
    r_ohm: Array
    slow_ohm: Array
    cap_w: Array
    contact: Array
    ambient_c: Array
    step: Array
    drive: Array


class Traces(NamedTuple):
    """Traces, a value a second: meter [W], delivered [W], into the cell [W], phone and pad [°C], charge 0–1,
    and what happened; then the energy account [Wh]."""

    power_w: Array
    delivered_w: Array
    battery_w: Array
    phone_c: Array
    pad_c: Array
    charge: Array
    state: Array
    account: Array


def empty_traces(seconds: int) -> Traces:
    """Room for the traces of so many seconds."""
    a, b, c, d, e, f = (np.empty(seconds) for _ in range(6))
    return Traces(a, b, c, d, e, f, np.zeros(seconds, dtype=np.int8), np.zeros(4))


Compiled = TypeVar("Compiled", bound=Callable[..., object])


_compiled: list[Callable[..., object]] = []
_lock = threading.Lock()


def compiled(function: Compiled) -> Compiled:
    """Have a function compiled before its first use, together with those that it calls."""
    _compiled.append(function)
    return function


def _ready() -> None:
    """Put the compiled functions in the place of the plain ones, once: loading the compiler takes its time.

    They are kept on disk for the next start where any folder for that can be written to.
    """
    with _lock:
        if not _compiled:
            return
        from numba import njit

        for function in _compiled:
            compiled: Any
            try:
                compiled = njit(cache=True, nogil=True, error_model="numpy")(function)
            except RuntimeError:
                compiled = njit(nogil=True, error_model="numpy")(function)
            globals()[function.__name__] = compiled
        _compiled.clear()


def march(p: Figures, t: Tables, out: Traces) -> int:
    """Run the charge; how many seconds of `out` were filled."""
    _ready()
    return _march(p, t, out)


def cc_cv(p: Figures, t: Tables, amps: float, volts: Array, current_a: Array) -> int:
    """A bare cell charged with constant current, then at constant voltage; a value a second, how many there are."""
    _ready()
    return _cc_cv(p, t, amps, volts, current_a)


@compiled
def _place(points: int, charge: float) -> tuple[int, float]:
    """Where a charge 0–1 lies in a table: the point below it, and how far on to the next."""
    place = charge * (points - 1)
    below = int(place)
    if below < 0:
        return 0, 0.0
    if below > points - 2:
        return points - 2, 1.0
    return below, place - below


@compiled
def _at(table: Array, below: int, share: float) -> float:
    return float(table[below] + share * (table[below + 1] - table[below]))


@compiled
def _resistance(r: float, current: float, exchange_a: float) -> float:
    """Series resistance and charge transfer as one, at the current of the second before."""
    amps = max(abs(current), 1e-4)
    return float(r + THERMAL_V * np.arcsinh(amps / (2.0 * exchange_a)) / amps)


@compiled
def _march(p: Figures, t: Tables, out: Traces) -> int:
    """Run the charge; how many seconds of `out` were filled."""
    charge, slow_v, phone_c, pad_c = p.start_charge, 0.0, p.phone_c, p.pad_c
    delivered, held_s, tail_s, on_coil_s, current = 0.0, 0.0, 0.0, 0.0, 0.0
    throttled, cut, holding, full = False, False, False, False
    keep = np.exp(-1.0 / p.slow_s)
    n = len(out.power_w)
    last_cap, last_contact, last_room = len(t.cap_w) - 1, len(t.contact) - 1, len(t.ambient_c) - 1
    for i in range(n):
        below, share = _place(len(t.ocv_v), charge)
        ocv, slow_r = _at(t.ocv_v, below, share), _at(t.slow_ohm, below, share)
        r = _resistance(_at(t.r_ohm, below, share), current, p.exchange_a)
        contact = t.contact[min(i, last_contact)] if i >= p.placed_s else 0.0
        state = CHARGING
        # Heat: three ways in which a phone saves itself.
        throttled = phone_c >= p.hot_c or (throttled and phone_c > p.cool_c)
        cut = phone_c >= p.cut_c or (cut and phone_c > p.resume_c)
        kept_from = p.hold_charge - 0.02 if holding else p.hold_charge
        holding = charge >= kept_from and held_s < p.hold_s
        wanted = _at(t.accept_w, below, share)
        if throttled:
            wanted = min(wanted, p.throttled_w)
            state = THROTTLED
        room_left = (p.level_c + 0.5 * p.level_band_k - phone_c) / p.level_band_k
        if room_left < 1.0:
            level_w = max(p.level_least_w, wanted * max(room_left, 0.0))
            if level_w < wanted:
                wanted = level_w
                state = THROTTLED
        if contact <= 0.0:
            wanted = 0.0
            state = NO_PHONE if on_coil_s == 0.0 else LOST
        elif full:
            wanted, state = p.idle_w / p.receiver, FULL
        elif holding:
            held_s += 1.0
            wanted, state = 0.0, HOLDING
        elif cut:
            wanted, state = 0.0, CUT_OUT
        elif on_coil_s < p.wake_s:
            wanted, state = min(wanted, p.wake_w), WAKING
        wanted = min(wanted * contact, max(0.0, (t.cap_w[min(i, last_cap)] - p.no_load_w) * p.efficiency))
        if contact > 0.0:
            on_coil_s += 1.0
        # What the cell takes at most: constant current, then constant voltage.
        most_a = min(p.most_a, max(0.0, (p.most_v - ocv - slow_v) / r))
        if state in (FULL, HOLDING):
            most_a = 0.0
        most_w = (ocv + slow_v + most_a * r) * most_a
        wanted = min(wanted, (most_w + p.idle_w) / p.receiver)
        if wanted > delivered:
            delivered += (wanted - delivered) / p.rise_s
        else:
            delivered += (wanted - delivered) * 0.5
        if wanted <= 0.0 and delivered < 0.05:
            delivered = 0.0
        power = p.no_load_w + delivered / p.efficiency
        net = delivered * p.receiver - p.idle_w
        back = ocv + slow_v
        if state == FULL or (state == HOLDING and net < 0.0):
            # The phone lives on what comes by coil and leaves the battery alone.
            current = 0.0 if net >= 0.0 else net / back
        elif net >= 0.0:
            current = (-back + np.sqrt(back * back + 4.0 * r * net)) / (2.0 * r)
        else:
            current = net / back
        in_cell = (ocv + slow_v + current * r) * current
        spare = net - in_cell
        stored = ocv * current
        coil = power - p.no_load_w - delivered
        rest = delivered * (1.0 - p.receiver) + (slow_v + current * r) * current + spare
        phone_heat = (1.0 - p.pad_share) * coil + rest + p.idle_w
        pad_heat = p.no_load_w + p.pad_share * coil
        out.power_w[i] = power
        out.delivered_w[i] = delivered
        out.battery_w[i] = stored
        out.phone_c[i] = phone_c
        out.pad_c[i] = pad_c
        out.charge[i] = charge
        out.state[i] = state
        out.account[IN] += power / 3600.0
        out.account[STORED] += stored / 3600.0
        out.account[HEAT] += (coil + rest) / 3600.0
        out.account[IDLE] += (p.no_load_w + p.idle_w) / 3600.0
        if contact <= 0.0 and on_coil_s == 0.0:
            # Without a phone on it there is no phone to feed.
            out.account[IDLE] -= p.idle_w / 3600.0
            out.account[STORED] -= stored / 3600.0
            phone_heat = 0.0
            current = 0.0
        ambient = t.ambient_c[min(i, last_room)]
        next_phone = t.step[0, 0] * phone_c + t.step[0, 1] * pad_c
        next_pad = t.step[1, 0] * phone_c + t.step[1, 1] * pad_c
        next_phone += t.drive[0, 0] * phone_heat + t.drive[0, 1] * pad_heat + t.drive[0, 2] * ambient
        next_pad += t.drive[1, 0] * phone_heat + t.drive[1, 1] * pad_heat + t.drive[1, 2] * ambient
        phone_c, pad_c = next_phone, next_pad
        slow_v = slow_v * keep + current * slow_r * (1.0 - keep)
        charge += current / 3600.0 / p.capacity_ah
        ends = back + current * r >= p.most_v - 1e-3 and current <= p.end_a and charge > 0.9
        full = full or (state != NO_PHONE and (ends or charge >= 0.9999))
        if full:
            tail_s += 1.0
            if tail_s > p.tail_s:
                return i + 1
    return n


@compiled
def _cc_cv(p: Figures, t: Tables, amps: float, volts: Array, current_a: Array) -> int:
    """A bare cell charged with constant current, then at constant voltage; a value a second, how many there are."""
    charge, slow_v, current = p.start_charge, 0.0, amps
    keep = np.exp(-1.0 / p.slow_s)
    for i in range(len(volts)):
        below, share = _place(len(t.ocv_v), charge)
        ocv, slow_r = _at(t.ocv_v, below, share), _at(t.slow_ohm, below, share)
        r = _resistance(_at(t.r_ohm, below, share), current, p.exchange_a)
        current = min(amps, max(0.0, (p.most_v - ocv - slow_v) / r))
        volts[i] = ocv + slow_v + current * r
        current_a[i] = current
        slow_v = slow_v * keep + current * slow_r * (1.0 - keep)
        charge += current / 3600.0 / p.capacity_ah
        if current <= p.end_a:
            return i + 1
    return len(volts)
