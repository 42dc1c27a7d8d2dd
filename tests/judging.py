"""How judged dips are held against the true ones: matched by overlap, counted into a confusion matrix."""

from collections import Counter
from dataclasses import dataclass, field

import numpy as np

from jaunecharge.core.log.check_ins import Battery, make_check_ins
from jaunecharge.core.log.temperatures import heat_log
from jaunecharge.core.log.trace import power_trace
from jaunecharge.core.reading.read_run import Conditions, Reading, RunLog, read_run
from tests.mixed_runs import MixedRun
from tests.other_runs import MadeRun

NONE = "none"
NO_LOAD_OFF_W = 0.1
"""A no-load is stated right where it is no further off the true one."""


def read_made(run: MadeRun, with_heat: bool = True, every: int = 1, watts_alone: bool = False) -> Reading:
    """A made run, read as its files would be: with every n-th row of the meter, without volts, or without heat."""
    time_s, volts, amps = run.time_s[::every], run.volts[::every], run.amps[::every]
    trace = power_trace(time_s, volts * amps, None if watts_alone else volts, None if watts_alone else amps)
    heat = heat_log(["back"] * len(run.heat_s), run.heat_s, run.celsius, run.ambient_c) if with_heat else None
    log = RunLog(trace, make_check_ins(run.checkin_s, run.percent), heat)
    return read_run(log, Conditions(battery=Battery(run.capacity_mah, 3.87)))


def true_no_load(reading: Reading, mixed: MixedRun) -> bool:
    """Whether a no-load is stated only where one was logged, and then rightly. The log of a late start may show one all
    the same: when the phone was off the charger or the supply was back before it."""
    stated = reading.no_load
    if stated is None:
        return True
    near = abs(stated.watts - mixed.run.no_load_w) <= NO_LOAD_OFF_W
    return near and (mixed.run.lead or any(d.start_s <= stated.start_s + 10 for d in mixed.perhaps))


def overlap(a_start: float, a_end: float, b_start: float, b_end: float) -> float:
    """Length in common as a share of the length of both together."""
    common = min(a_end, b_end) - max(a_start, b_start)
    return max(0.0, common) / (max(a_end, b_end) - min(a_start, b_start))


def matched(true_dips, found_dips) -> list[tuple[str, str]]:
    """(true cause, found cause) of each dip; `none` where one has no counterpart with over half in common."""
    pairs, left = [], list(found_dips)
    for t in true_dips:
        best = max(left, key=lambda d: overlap(t.start_s, t.end_s, d.start_s, d.end_s), default=None)
        if best is not None and overlap(t.start_s, t.end_s, best.start_s, best.end_s) > 0.5:
            pairs.append((t.cause, best.cause))
            left.remove(best)
        else:
            pairs.append((t.cause, NONE))
    return pairs + [(NONE, d.cause) for d in left]


def covered(sure, perhaps, read_dips) -> list[tuple[str, str]]:
    """(true cause, read cause), where a stretch may be told in one piece or in several: a dip counts as read right
    where half of it is told so, what is told where half of it is true. perhaps : dips that may be missed."""
    pairs = []
    for t in sure:
        if _share(t, [d for d in read_dips if d.cause == t.cause]) >= 0.5:
            pairs.append((t.cause, t.cause))
            continue
        best = max(read_dips, key=lambda d: overlap(t.start_s, t.end_s, d.start_s, d.end_s), default=None)
        near = best is not None and _share(t, [best]) > 0.5 and _share(best, [t]) > 0.5
        pairs.append((t.cause, best.cause if best is not None and near else NONE))
    every = [*sure, *perhaps]
    for d in read_dips:
        if _share(d, [t for t in every if t.cause == d.cause]) >= 0.5:
            continue
        if d.cause == "unexplained" and _share(d, perhaps) >= 0.5:
            continue
        if any(_share(t, [d]) > 0.5 and _share(d, [t]) > 0.5 for t in sure):
            continue  # told above, as a dip of another cause
        pairs.append((NONE, d.cause))
    return pairs


def _share(one, others) -> float:
    """Share of one dip that lies in others."""
    common = sum(max(0.0, min(one.end_s, o.end_s) - max(one.start_s, o.start_s)) for o in others)
    return common / max(1e-9, one.end_s - one.start_s)


@dataclass
class Confusion:
    """How often each true cause was read as each."""

    pairs: Counter = field(default_factory=Counter)

    def add(self, found: list[tuple[str, str]]) -> None:
        self.pairs.update(found)

    @property
    def causes(self) -> list[str]:
        return sorted({c for pair in self.pairs for c in pair})

    @property
    def right(self) -> float:
        """Share of all dips, true or found, that were read as what they are."""
        return sum(n for (t, f), n in self.pairs.items() if t == f) / max(1, sum(self.pairs.values()))

    def recall(self, cause: str) -> float:
        total = sum(n for (t, _), n in self.pairs.items() if t == cause)
        return self.pairs[cause, cause] / total if total else float("nan")

    def heat_true(self) -> float:
        """Share of the verdicts of heat, cut-outs among them, that heat is true of."""
        said = {k: n for k, n in self.pairs.items() if k[1] in {"heat", "heat_cutout"}}
        true = sum(n for (t, _), n in said.items() if t in {"heat", "heat_cutout"})
        return true / sum(said.values()) if said else float("nan")

    def table(self) -> str:
        causes = self.causes
        lines = ["| true \\ read as | " + " | ".join(causes) + " | recall |", "|---" * (len(causes) + 2) + "|"]
        for t in causes:
            row = " | ".join(str(self.pairs[t, f]) for f in causes)
            recall = self.recall(t)
            lines.append(f"| {t} | {row} | {'' if np.isnan(recall) or t == NONE else f'{recall:.1%}'} |")
        return "\n".join(lines)
