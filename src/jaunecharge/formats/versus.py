"""A comparison as one JSON document, and as tables for people."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from ..core.noise import DifferenceVerdict
from ..core.versus import (
    Lap,
    Pair,
    Timed,
    Versus,
    cell_energy,
    hottest,
    lost_minutes,
    mean_lap,
    pair_words,
    summary_said,
    to_milestones,
    versus,
    warnings_said,
    worth_telling,
)
from ..core.wording import plain
from ..documents.numbers import measured, number
from .write.csv_xlsx import Cell

DOCUMENT_NAMES = {"ambient": "ambient_c"}
"""Factors that a run's document names otherwise."""

FIXED_MINUTE = 30.0
MOST_AMONG = 30
"""More repeats of one row are not held against one another."""


def versus_document(comparison: Versus) -> dict[str, Any]:
    """The comparison as the command line gives it out."""
    by_top = to_milestones(comparison)
    return {
        "window": list(comparison.window),
        "rows": [_row(comparison, n, by_top) for n in range(len(comparison.cells))],
        "pairs": [*(_pair(comparison, p) for p in comparison.pairs), *_repeats(comparison)],
        "sentences": [
            *(plain(s) + "." for s in summary_said(comparison)),
            *(pair_said(comparison, p) for p in comparison.pairs[:MOST_SAID]),
        ],
        "warnings": warnings_said(comparison),
    }


PAIR_HEADINGS = (
    "a", "b", "from_percent", "to_percent", "a_runs", "b_runs", "a_min", "b_min", "minutes_saved", "noise_min",
    "verdict", "less_time_percent", "higher_rate_percent", "fair", "differs_in", "unknown", "said",
)  # fmt: skip


def pair_rows(comparison: Versus) -> list[list[Cell]]:
    """Every pair as a row of a table, in the order in which pairs are told."""
    rows: list[list[Cell]] = []
    for pair in worth_telling(comparison):
        known = _pair(comparison, pair)
        times = [mean_lap(comparison.timed.laps[n]) for n in (pair.a, pair.b)]
        rows.append(
            [
                known["a"],
                known["b"],
                *comparison.window,
                *(len(comparison.cells[n].runs) for n in (pair.a, pair.b)),
                *(None if t is None else round(t[1], 2) for t in times),
                *(known[k] for k in ("minutes_saved", "noise_min", "verdict")),
                *(known[k] for k in ("less_time_percent", "higher_rate_percent", "fair")),
                "; ".join(known["differs_in"]),
                "; ".join(known["unknown"]),
                pair_said(comparison, pair, with_settle=False),
            ]
        )
    return rows


MOST_SAID = 200
"""More pairs than these nobody reads as sentences; their figures stand under `pairs` all the same."""


def pair_said(comparison: Versus, pair: Pair, with_settle: bool = True) -> str:
    """A pair as one sentence, fairness included."""
    words = pair_words(comparison, pair, with_settle=with_settle and len(comparison.pairs) <= MOST_SAID)
    more = "; ".join(x for x in (words.rates, words.fair, *words.notes, words.settle) if x)
    return f"{plain(words.said)}: {more}."


def _repeats(comparison: Versus) -> list[dict[str, Any]]:
    """The repeats of each row against one another: how far apart they lie; marked, and no part of the ranking."""
    rows: list[dict[str, Any]] = []
    for cell, known in zip(comparison.cells, comparison.timed.known, strict=True):
        if known and 1 < len(cell.runs) <= MOST_AMONG:
            among = versus([replace(run, group="") for run in cell.runs], *comparison.window, align=comparison.align)
            rows += [{**_pair(among, pair), "repeats": True} for pair in among.pairs]
    return rows


def _interval(laps: Sequence[Lap]) -> dict[str, float] | None:
    minutes = mean_lap(laps)
    if minutes is None:
        return None
    return dict(zip(("earliest", "estimate", "latest"), (round(m, 3) for m in minutes), strict=True))


def _row(comparison: Versus, n: int, by_top: Mapping[float, Timed]) -> dict[str, Any]:
    """Minutes, milestones and heat count from where the window begins; what was not measured is left out."""
    cell, laps = comparison.cells[n], comparison.timed.laps[n]
    at = dict(comparison.percent_at(n))
    energy, warm, lost = cell_energy(cell, laps), hottest(cell, laps), lost_minutes(cell, laps)
    return {
        "label": cell.label,
        "runs": len(cell.runs),
        "minutes": _interval(laps),
        "milestones": [
            {"percent": top, **interval}
            for top, timed in by_top.items()
            if (interval := _interval(timed.laps[n])) is not None
        ],
        "rank": comparison.rank[n] or None,
        "last_rank": comparison.last_rank[n] or None,
        "percent_at_30": None if FIXED_MINUTE not in at else round(at[FIXED_MINUTE], 1),
        "percent_at": [{"minute": m, "percent": round(p, 1)} for m, p in at.items()],
        **({"energy_wh": measured(energy)} if energy is not None else {}),
        **({"hottest_c": number(warm.hottest_c, 2), "rise_k": number(warm.rise_k, 2)} if warm is not None else {}),
        **({"heat_cost_min": measured(lost)} if lost is not None else {}),
        **({"unfit": comparison.unfit[n]} if comparison.unfit[n] else {}),
    }


def _pair(comparison: Versus, pair: Pair) -> dict[str, Any]:
    a, b = comparison.cells[pair.a], comparison.cells[pair.b]
    difference = pair.difference
    verdict: DifferenceVerdict | None = None if difference is None else difference.verdict
    welch = comparison.timed.welch(pair.a, pair.b) if difference is not None else None
    return {
        "a": a.label,
        "b": b.label,
        "minutes_saved": None if verdict is None else round(verdict.minutes_saved, 3),
        "less_time_percent": None if difference is None else round(difference.less_time_percent, 2),
        "higher_rate_percent": None if difference is None else round(difference.higher_rate_percent, 2),
        "noise_min": None if verdict is None else round(verdict.noise.minutes, 3),
        "verdict": pair.verdict,
        "differs_in": [DOCUMENT_NAMES.get(n, n) for n in pair.apart.differs],
        "unknown": [DOCUMENT_NAMES.get(n, n) for n in pair.apart.unknown],
        "fair": pair.apart.fair,
        **({"why": pair.apart.apart} if pair.apart.apart else {}),
        **({"method": list(pair.apart.method)} if pair.apart.method else {}),
        **({"order": list(pair.apart.order)} if pair.apart.order else {}),
        **({"welch_min": [round(x, 3) for x in welch]} if welch is not None else {}),
        **(
            {"largest_gap": {"points": round(pair.gap.points, 1), "minute": round(pair.gap.minute, 1)}}
            if pair.gap is not None
            else {}
        ),
    }
