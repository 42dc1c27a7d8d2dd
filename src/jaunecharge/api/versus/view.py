"""A comparison as its page wants it."""

import datetime as dt
import uuid
from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from ...core.measured import Measured
from ...core.reading import Habits
from ...core.units import MINUTE_S
from ...core.versus import (
    Charge,
    Contender,
    Pair,
    Timed,
    Versus,
    against_least,
    around_said,
    bargains,
    besides_said,
    best_said,
    cell_charge,
    copy_said,
    currencies,
    curves,
    distinct,
    effect_said,
    effects,
    gap_said,
    hottest,
    longest,
    lost_minutes,
    mean_lap,
    missing_said,
    nearest,
    noise_said,
    pair_words,
    place_said,
    shared_by_all,
    shared_said,
    shift,
    short_said,
    spread_said,
    summary_said,
    to_milestones,
    warnings_said,
    worth_telling,
)
from ...documents.numbers import MeasuredDocument
from ...documents.run_summary import Interval
from ..shapes import CurveShape
from . import shapes

MOST_PAIRS = 120
"""More pairs than these are not sent at once: nobody reads them."""

MOST_OFFERS, MOST_SETTLED = 24, 40
CURVE_POINTS = 160


def versus_shape(
    found: Versus, pool: Sequence[Contender], ribbons: Mapping[str, Any], habits: Habits, fahrenheit: bool
) -> shapes.VersusShape:
    """The whole comparison; `pool` is where fair pairs are looked for."""
    start, end = found.window
    by_top = to_milestones(found)
    told = worth_telling(found)
    able = distinct(pool, found.window)
    shared = shared_by_all(found.cells)
    charges = [cell_charge(found, n, habits) for n in range(len(found.cells))]
    more = against_least(found, charges)
    bought = bargains(found)
    return shapes.VersusShape(
        window=shapes.WindowShape(start=start, end=end),
        windows=[],
        align=found.align,
        shared=shared_said(shared),
        noise=spread_said(found.timed),
        tops=list(by_top),
        rows=[
            _row(found, n, by_top, ribbons, _charge(charges[n], more[n], habits), shared)
            for n in range(len(found.cells))
        ],
        pairs=[_pair(found, p, by_top, able, k) for k, p in enumerate(told[:MOST_PAIRS])],
        more_pairs=max(0, len(told) - MOST_PAIRS),
        sentences=[*summary_said(found, fahrenheit), *best_said(bought)],
        warnings=warnings_said(found),
        effects=[
            shapes.EffectShape(
                factor=e.factor,
                said=effect_said(e.factor),
                from_level=e.from_level,
                to_level=e.to_level,
                less_time_percent=e.less_time_percent,
                low_percent=e.low_percent,
                high_percent=e.high_percent,
                verdict=e.verdict,
                alike=e.alike,
                contrasts=[
                    shapes.ContrastShape(
                        where=c.where, a=c.a, b=c.b, minutes=c.minutes, noise_min=c.noise, shown=c.shown
                    )
                    for c in e.contrasts
                ],
            )
            for e in effects(found)
        ],
        bargains=[shapes.BargainShape(dearer=b.dearer, cheaper=b.cheaper, said=b.said, buys=b.buys) for b in bought],
        currencies=currencies(found),
        copies=[
            shapes.CopyShape(id=uuid.UUID(run.key), label=run.label, said=copy_said(run, of))
            for run, of in found.copied
        ],
        reading=[],
    )


def _measured(value: Measured | None) -> MeasuredDocument | None:
    return None if value is None else MeasuredDocument(value=value.value, expanded=value.stated)


def _known(value: Measured) -> MeasuredDocument:
    return MeasuredDocument(value=value.value, expanded=value.stated)


def _interval(laps: tuple[float, float, float] | None) -> Interval | None:
    return None if laps is None else Interval(earliest=laps[0], estimate=laps[1], latest=laps[2])


def _charge(found: Charge | None, more_percent: float | None, habits: Habits) -> shapes.ChargeShape | None:
    if found is None:
        return None
    return shapes.ChargeShape(
        meter_wh=_known(found.meter_wh),
        wall_wh=_known(found.wall_wh),
        hut_wh=_known(found.hut_wh),
        cost=found.cost,
        year_cost=found.year_cost,
        currency=habits.currency,
        year_kwh=found.year_kwh,
        more_percent=more_percent,
    )


def _row(
    found: Versus,
    n: int,
    by_top: Mapping[float, Timed],
    ribbons: Mapping[str, Any],
    energy: shapes.ChargeShape | None,
    shared: Mapping[str, str],
) -> shapes.VersusRow:
    cell, laps = found.cells[n], found.timed.laps[n]
    warm = hottest(cell, laps)
    price = cell.first.prices.get("charger")
    times = [x.estimate for x in laps]
    return shapes.VersusRow(
        label=cell.label,
        around=around_said(cell.first, shared),
        runs=[_run(found, r, ribbons) for r in cell.runs],
        minutes=_interval(mean_lap(laps)),
        between=[min(times), max(times)] if len(times) > 1 else [],
        noise_min=found.timed.own_noise(n) if laps else None,
        rank=found.rank[n],
        place=place_said(found.rank[n], found.last_rank[n], found.ranked),
        typical=found.timed.typical(n),
        milestones=[
            shapes.MilestoneRow(percent=top, minutes=interval)
            for top, at in by_top.items()
            if (interval := _interval(mean_lap(at.laps[n]))) is not None
        ],
        percent_at=[shapes.PercentAt(minute=minute, percent=p) for minute, p in found.percent_at(n)],
        curve=_curve(found, n),
        hottest_c=None if warm is None else warm.hottest_c,
        rise_k=None if warm is None else warm.rise_k,
        lost_min=_measured(lost_minutes(cell, laps)),
        charge=energy,
        price=None if price is None else price[0],
        currency="" if price is None else price[1],
        unfit=found.unfit[n],
    )


def _run(found: Versus, run: Contender, ribbons: Mapping[str, Any]) -> shapes.ComparedRun:
    readings = run.course.readings
    laps = [x for c, own in zip(found.cells, found.timed.laps, strict=True) for r, x in zip(c.runs, own, strict=False)
            if r.key == run.key]  # fmt: skip
    kept = ribbons.get(run.key)
    return shapes.ComparedRun(
        id=uuid.UUID(run.key),
        label=run.label,
        started_at=None if run.began_min is None else dt.datetime.fromtimestamp(run.began_min * MINUTE_S, dt.UTC),
        zone=run.zone,
        simulated=run.simulated,
        offset=0.0 if readings is None else shift(readings, found.window, found.align),
        minutes=laps[0].estimate if laps else None,
        ribbon=kept,
    )


def _curve(found: Versus, n: int) -> CurveShape:
    minutes = np.linspace(0.0, longest(found.cells), CURVE_POINTS)
    percent = curves([found.cells[n]], found.window, found.align, minutes)[0]
    return CurveShape(
        minute=[round(x, 2) for x in minutes.tolist()],
        percent=[round(p, 2) if np.isfinite(p) else None for p in percent.tolist()],
    )


def _pair(
    found: Versus, pair: Pair, by_top: Mapping[float, Timed], able: Sequence[Contender], k: int
) -> shapes.PairShape:
    words = pair_words(found, pair, with_settle=k < MOST_SETTLED)
    verdict = None if pair.difference is None else pair.difference.verdict
    a, b = found.cells[pair.a].first, found.cells[pair.b].first
    fair = pair.apart.fair
    asked = fair != "fair" and k < MOST_OFFERS
    offers = nearest(a, b, able) if asked else []
    return shapes.PairShape(
        a=pair.a,
        b=pair.b,
        verdict=pair.verdict,
        minutes_saved=None if verdict is None else verdict.minutes_saved,
        noise_min=None if verdict is None else verdict.noise.minutes,
        said=words.said,
        rates=words.rates,
        fair=fair,
        fair_said=words.fair,
        notes=list(words.notes),
        settle=words.settle,
        basis="" if verdict is None else noise_said(found.timed, pair.a, pair.b, verdict.noise),
        gap="" if pair.gap is None or abs(pair.gap.points) < 1.0 else gap_said(found, pair, pair.gap),
        welch=None if verdict is None or (welch := found.timed.welch(pair.a, pair.b)) is None else list(welch),
        besides=besides_said(found.window[0], _at(found, pair, by_top), words.settle),
        offers=[
            shapes.OfferShape(
                runs=[uuid.UUID(o.a.key), uuid.UUID(o.b.key)], label=f"{o.a.label} and {o.b.label}", said=o.said
            )
            for o in offers
        ],
        missing=missing_said(a, b) if asked and not offers else "",
    )


def _at(found: Versus, pair: Pair, by_top: Mapping[float, Timed]) -> list[tuple[float, str, bool]]:
    """The same pair to the other milestones, shortly, and whether it is shown."""
    if pair.difference is None:
        return []
    made = []
    for top, times in by_top.items():
        there = times.differences(np.array([pair.a]), np.array([pair.b]))[0]
        if there is not None and top != found.window[1]:
            made.append((top, *short_said(there, found.cells[pair.a].label, found.cells[pair.b].label)))
    return made
