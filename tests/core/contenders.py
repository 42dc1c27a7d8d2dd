"""Runs of a comparison, made from their charging time."""

import numpy as np

from jaunecharge.core.log.check_ins import CheckIns
from jaunecharge.core.versus.contender import Contender, Course, Power
from tests.cases import practice


def checked(pairs, label="run", course=None, **more):
    """A run with these check-ins, (minute, percent)."""
    table = np.array(pairs, dtype=float)
    readings = CheckIns(table[:, 0] * 60.0, table[:, 1])
    factors = more.pop("factors", {})
    return Contender(more.pop("key", label), label, factors, Course(readings, **(course or {})), **more)


def steady(label, minutes, start=10.0, to=100.0, every=10.0, phase=0.0, course=None, **more):
    """A run that rises evenly from `start` to 100 % in so many minutes, seen every `every` minutes, up to `to`."""
    at = np.append(0.0, np.arange(every - phase if phase else every, minutes + every, every))
    level = np.floor(start + (100.0 - start) * np.minimum(1.0, at / minutes))
    reached = np.flatnonzero(level >= to)
    last = int(reached[0]) + 1 if len(reached) else len(at)
    return checked(list(zip(at[:last], level[:last], strict=True)), label, course, **more)


def powered(watts, minutes, step_min=1.0, relative=0.005):
    """Even power over so many minutes."""
    return Power(step_min, np.full(round(minutes / step_min), float(watts)), relative)


def charger(name, **more):
    """What a run with this charger states; every common factor is named."""
    stated = {
        "phone": "Ostrel Max", "charger": name, "adapter": "Plug 20", "cable": "Braided 1.5", "case": "none",
        "airflow": "still air", "phone_state": "idle", "ambient": "23 °C",
    }  # fmt: skip
    return {k: v for k, v in {**stated, **more}.items() if v}


def practice_run(run_id):
    """A run measured by people who do this work: common practice, no published source."""
    found = next(r for r in practice()["runs"] if r["id"] == run_id)
    return checked(found["checkins"], run_id, capacity_mah=found["capacity_mah"])
