"""Logs of whole afternoons: four phones in a row on one charger, each stopped at full, at 80 % or anywhere; made of
runs of the generator that is not the product's.
"""

import numpy as np

from tests.other_runs import made_run

PHONES = 4


def afternoon(seed, kinds=None):
    """Times [s] : (n,), watts : (n,) and when each phone was placed [s]; kinds : what may happen to a run."""
    rng = np.random.default_rng(seed)
    idle_w, at = rng.uniform(0.15, 1.5), float(rng.integers(20, 300))

    def idle(count):
        return idle_w + 0.01 * rng.normal(size=count)

    times, watts, placed = [np.arange(at)], [idle(int(at))], []
    for _ in range(PHONES):
        run = made_run(int(rng.integers(1, 10**6)), None if kinds is None else str(rng.choice(kinds)))
        time_s, drawn = run.time_s - run.placed_s, run.volts * run.amps - run.no_load_w + idle_w
        end = float(time_s[-1])
        how = rng.choice(["full", "80 %", "anywhere"])
        if how == "80 %":
            end = min(
                [float(t) - run.placed_s for t, p in zip(run.checkin_s, run.percent, strict=True) if p >= 80] or [end]
            )
        elif how == "anywhere":
            end *= rng.uniform(0.6, 1.0)
        inside = (time_s >= 0) & (time_s <= end)
        placed.append(at)
        times.append(time_s[inside] + at)
        watts.append(drawn[inside])
        at += end
        off = rng.uniform(60, 600) if rng.random() < 0.8 else rng.uniform(600, 3600)
        step = float(np.median(np.diff(time_s)))
        between = np.arange(step, off, step)
        times.append(between + at)
        watts.append(idle(len(between)))
        at += off
    return np.concatenate(times), np.concatenate(watts), placed
