"""Small runs whose every second is known: levels of power, and the back of a phone that follows them."""

import numpy as np

from jaunecharge.core.log.check_ins import Battery
from jaunecharge.core.log.temperatures import heat_log
from jaunecharge.core.reading.read_run import Conditions, RunLog, read_run
from tests.cases import checkins, steps

PLACED = (60, 0.5)
FULL = (900, 0.6)


def falling(minutes, from_w, to_w):
    """A taper of one-minute levels."""
    course = to_w + (from_w - to_w) * np.exp(-np.arange(minutes) / (minutes / 4))
    return [(60, float(w)) for w in course]


TAPER = falling(60, 12.0, 1.2)


def follow(levels, hot_w_k=1.5, room_c=24.0, tau_s=700.0, every_s=30):
    """The back of a phone that follows its power as one node: (times, temperatures)."""
    watts = np.concatenate([np.full(round(s), w) for s, w in levels])
    celsius, found = room_c, []
    for w in watts:
        celsius += (room_c + hot_w_k * w - celsius) / tau_s
        found.append(celsius)
    at = np.arange(0, len(watts), every_s)
    return at.astype(float), np.round(np.array(found)[at], 2)


def read(levels, percents=None, heat=None, notes=(), step_s=1.0, **conditions):
    """A run of (seconds, watts) levels with check-ins of (minute, percent)."""
    surfaces = None if heat is None else heat_log(["back"] * len(heat[0]), heat[0], heat[1], 24.0)
    readings = checkins(*percents) if percents else None
    log = RunLog(steps(*levels, step_s=step_s), readings, surfaces, notes)
    return read_run(log, Conditions(battery=Battery(4400, 3.87), **conditions))


def rising(minutes, start=10.0, to=100.0, every=10):
    """Check-ins that rise evenly to 80 % and slower after."""
    return [(1 + m, round(start + (to - start) * (1 - (1 - m / minutes) ** 1.3))) for m in range(0, minutes + 1, every)]


def cycles(high, low, hot_c=42.0, cool_c=40.0, room_c=24.0, hours=1.4):
    """Levels of a phone that throttles between two temperatures, by the node of `follow`."""
    celsius, levels, throttled, held = room_c, [], False, 0
    for _ in range(int(hours * 3600)):
        watts = low if throttled else high
        celsius += (room_c + 1.5 * watts - celsius) / 700.0
        held += 1
        turn = celsius >= hot_c if not throttled else celsius <= cool_c
        if turn:
            levels.append((held, watts))
            throttled, held = not throttled, 0
    return [*levels[: len(levels) // 2 * 2], (200, high)]
