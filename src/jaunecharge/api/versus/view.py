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
    comparison: Versus, pool: Sequence[Contender], ribbons: Mapping[str, Any], habits: Habits, fahrenheit: bool
) -> shapes.VersusShape:
    """The whole comparison; `pool` is where fair pairs are looked for."""
    start, end = comparison.window
    by_top = to_milestones(comparison)
    pairs = worth_telling(comparison)
    able = distinct(pool, comparison.window)
    shared = shared_by_all(comparison.cells)
    charges = [cell_charge(comparison, n, habits) for n in range(len(comparison.cells))]
    more = against_least(comparison, charges)
    bought = bargains(comparison)
    return shapes.VersusShape(
        window=shapes.WindowShape(start=start, end=end),
        windows=[],
        align=comparison.align,
        shared=shared_said(shared),
        noise=spread_said(comparison.timed),
        tops=list(by_top),
        rows=[
            _row(comparison, n, by_top, ribbons, _charge(charges[n], more[n], habits), shared)
            for n in range(len(comparison.cells))
        ],
        pairs=[_pair(comparison, p, by_top, able, k) for k, p in enumerate(pairs[:MOST_PAIRS])],
        more_pairs=max(0, len(pairs) - MOST_PAIRS),
        sentences=[*summary_said(comparison, fahrenheit), *best_said(bought)],
        warnings=warnings_said(comparison),
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
            for e in effects(comparison)
        ],
        bargains=[shapes.BargainShape(dearer=b.dearer, cheaper=b.cheaper, said=b.said, buys=b.buys) for b in bought],
        currencies=currencies(comparison),
        copies=[
            shapes.CopyShape(id=uuid.UUID(run.key), label=run.label, said=copy_said(run, of))
            for run, of in comparison.copied
        ],
        reading=[],
    )


def _measured(value: Measured | None) -> MeasuredDocument | None:
    return None if value is None else MeasuredDocument(value=value.value, expanded=value.stated)


def _known(value: Measured) -> MeasuredDocument:
    return MeasuredDocument(value=value.value, expanded=value.stated)


def _interval(laps: tuple[float, float, float] | None) -> Interval | None:
    return None if laps is None else Interval(earliest=laps[0], estimate=laps[1], latest=laps[2])


def _charge(charge: Charge | None, more_percent: float | None, habits: Habits) -> shapes.ChargeShape | None:
    if charge is None:
        return None
    return shapes.ChargeShape(
        meter_wh=_known(charge.meter_wh),
        wall_wh=_known(charge.wall_wh),
        wall_measured=charge.wall_measured,
        hut_wh=_known(charge.hut_wh),
        cost=charge.cost,
        year_cost=charge.year_cost,
        currency=habits.currency,
        year_kwh=charge.year_kwh,
        more_percent=more_percent,
    )


def _row(
    comparison: Versus,
    n: int,
    by_top: Mapping[float, Timed],
    ribbons: Mapping[str, Any],
    energy: shapes.ChargeShape | None,
    shared: Mapping[str, str],
) -> shapes.VersusRow:
    cell, laps = comparison.cells[n], comparison.timed.laps[n]
    warm = hottest(cell, laps)
    price = cell.first.prices.get("charger")
    times = [x.estimate for x in laps]
    return shapes.VersusRow(
        label=cell.label,
        around=around_said(cell.first, shared),
        runs=[_run(comparison, r, ribbons) for r in cell.runs],
        minutes=_interval(mean_lap(laps)),
        between=[min(times), max(times)] if len(times) > 1 else [],
        noise_min=comparison.timed.own_noise(n) if laps else None,
        rank=comparison.rank[n],
        place=place_said(comparison.rank[n], comparison.last_rank[n], comparison.ranked),
        typical=comparison.timed.typical(n),
        milestones=[
            shapes.MilestoneRow(percent=top, minutes=interval)
            for top, at in by_top.items()
            if (interval := _interval(mean_lap(at.laps[n]))) is not None
        ],
        percent_at=[shapes.PercentAt(minute=minute, percent=p) for minute, p in comparison.percent_at(n)],
        curve=_curve(comparison, n),
        hottest_c=None if warm is None else warm.hottest_c,
        rise_k=None if warm is None else warm.rise_k,
        lost_min=_measured(lost_minutes(cell, laps)),
        charge=energy,
        price=None if price is None else price[0],
        currency="" if price is None else price[1],
        unfit=comparison.unfit[n],
    )


def _run(comparison: Versus, run: Contender, ribbons: Mapping[str, Any]) -> shapes.ComparedRun:
    readings = run.course.readings
    by_cell = zip(comparison.cells, comparison.timed.laps, strict=True)
    laps = [x for cell, own in by_cell for r, x in zip(cell.runs, own, strict=False) if r.key == run.key]
    ribbon = ribbons.get(run.key)
    return shapes.ComparedRun(
        id=uuid.UUID(run.key),
        label=run.label,
        started_at=None if run.began_min is None else dt.datetime.fromtimestamp(run.began_min * MINUTE_S, dt.UTC),
        zone=run.zone,
        simulated=run.simulated,
        offset=0.0 if readings is None else shift(readings, comparison.window, comparison.align),
        minutes=laps[0].estimate if laps else None,
        ribbon=ribbon,
    )


def _curve(comparison: Versus, n: int) -> CurveShape:
    minutes = np.linspace(0.0, longest(comparison.cells), CURVE_POINTS)
    percent = curves([comparison.cells[n]], comparison.window, comparison.align, minutes)[0]
    return CurveShape(
        minute=[round(x, 2) for x in minutes.tolist()],
        percent=[round(p, 2) if np.isfinite(p) else None for p in percent.tolist()],
    )


def _pair(
    comparison: Versus, pair: Pair, by_top: Mapping[float, Timed], able: Sequence[Contender], k: int
) -> shapes.PairShape:
    words = pair_words(comparison, pair, with_settle=k < MOST_SETTLED)
    verdict = None if pair.difference is None else pair.difference.verdict
    a, b = comparison.cells[pair.a].first, comparison.cells[pair.b].first
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
        basis="" if verdict is None else noise_said(comparison.timed, pair.a, pair.b, verdict.noise),
        gap="" if pair.gap is None or abs(pair.gap.points) < 1.0 else gap_said(comparison, pair, pair.gap),
        welch=None if verdict is None or (welch := comparison.timed.welch(pair.a, pair.b)) is None else list(welch),
        besides=besides_said(comparison.window[0], _at(comparison, pair, by_top), words.settle),
        offers=[
            shapes.OfferShape(
                runs=[uuid.UUID(o.a.key), uuid.UUID(o.b.key)], label=f"{o.a.label} and {o.b.label}", said=o.said
            )
            for o in offers
        ],
        missing=missing_said(a, b) if asked and not offers else "",
    )


def _at(comparison: Versus, pair: Pair, by_top: Mapping[float, Timed]) -> list[tuple[float, str, bool]]:
    """The same pair to the other milestones, shortly, and whether it is shown."""
    if pair.difference is None:
        return []
    milestones = []
    for top, times in by_top.items():
        there = times.differences(np.array([pair.a]), np.array([pair.b]))[0]
        if there is not None and top != comparison.window[1]:
            milestones.append((top, *short_said(there, comparison.cells[pair.a].label, comparison.cells[pair.b].label)))
    return milestones
