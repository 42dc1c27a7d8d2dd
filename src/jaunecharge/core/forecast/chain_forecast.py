"""Forecast of a chain with its range: % against minutes, milestones, the hottest moment, where heat takes power away.

The range runs from the most that may arrive to the least (chain check), each widened by the spread of one run.
"""

from collections.abc import Callable, Iterable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np

from ..arrays import Array
from ..chain.advice import Swap, swaps
from ..chain.check import Chain, ChainCheck, Range
from ..kit.items import Kit
from ..milestones import MILESTONES, SLOWS_FROM
from ..noise import ROOM_SPREAD
from ..simulator.circumstances import Circumstances
from ..simulator.engine import CUT_OUT, THROTTLED
from ..simulator.scenario import COMMON, Fitted, Given, Prepared, prepare
from ..simulator.simulate import Simulated, simulate
from ..units import MINUTE_S
from ..wording import duration

CURVE_STEP_MIN = 2.0
WORKERS = 2

Progress = Callable[[float], None]


@dataclass(frozen=True)
class Between:
    """A likely value between the lowest and the highest; None at an end that is never reached."""

    low: float | None
    likely: float | None
    high: float | None


@dataclass(frozen=True)
class ThrottleForecast:
    """Where heat first takes power away, and for how long below 80 % [min]."""

    minute: float
    percent: float
    celsius: float
    minutes_below_80: float


@dataclass(frozen=True)
class Forecast:
    """A forecast. minutes : (n,) [min]; least, likely, most : (n,) [%]; delivered_w [W]; hottest_c [°C]."""

    checked: ChainCheck
    origins: tuple[Given, ...]
    minutes: Array
    least: Array
    likely: Array
    most: Array
    likely_w: float
    delivered_w: Range
    to: dict[int, Between]
    hottest_c: Between
    throttle: ThrottleForecast | None
    drawn_wh: float


def forecast(chain: Chain, around: Circumstances = Circumstances(), fitted: Fitted | None = None) -> Forecast:
    """The forecast of one chain.

    Raises
    ------
    CannotRead
        If the circumstances cannot be.
    """
    return forecasts([(chain, fitted)], around)[0]


def forecasts(
    chains: Sequence[tuple[Chain, Fitted | None]],
    around: Circumstances = Circumstances(),
    progress: Progress = lambda fraction: None,
) -> list[Forecast]:
    """Forecasts of many chains in one batch, three charges each.

    Parameters
    ----------
    chains : sequence of (Chain, Fitted or None)
    around : Circumstances
        The same for all.
    progress : callable
        Called with the fraction that is done.

    Raises
    ------
    CannotRead
    """
    with ThreadPoolExecutor(WORKERS) as pool:
        done = []
        for prediction in pool.map(lambda pair: _forecast(_three(pair[0], around, pair[1])), chains):
            done.append(prediction)
            if len(done) % 8 == 0:
                progress(len(done) / len(chains))
    progress(1.0)
    return done


def _three(chain: Chain, around: Circumstances, fitted: Fitted | None) -> tuple[Prepared, Prepared, Prepared]:
    likely = prepare(chain, around, None, fitted)
    checked = likely.checked
    least, most = checked.delivered_w.low, checked.delivered_w.high
    return prepare(chain, around, least, fitted, checked), likely, prepare(chain, around, most, fitted, checked)


def _forecast(three: tuple[Prepared, Prepared, Prepared]) -> Forecast:
    charges = tuple(simulate(p.scenario) for p in three)
    low, likely, high = charges
    end = max(_minutes(c) for c in charges)
    minutes = np.arange(0.0, end + CURVE_STEP_MIN, CURVE_STEP_MIN)
    slower, sooner = 1.0 + ROOM_SPREAD, 1.0 - ROOM_SPREAD
    return Forecast(
        checked=three[1].checked,
        origins=(*three[1].origins, Given("spread of one run", f"{ROOM_SPREAD * 100:.0f} %, at both ends", COMMON)),
        minutes=minutes,
        least=_percent_at(low, minutes / slower),
        likely=_percent_at(likely, minutes),
        most=_percent_at(high, minutes / sooner),
        likely_w=likely.scenario.stages[0][1],
        delivered_w=three[1].checked.delivered_w,
        to={
            p: Between(_times(high.minutes_to(p), sooner), likely.minutes_to(p), _times(low.minutes_to(p), slower))
            for p in MILESTONES
        },
        hottest_c=Between(*sorted(c.hottest_c for c in charges)),
        throttle=throttle_of(likely),
        drawn_wh=likely.account.drawn,
    )


def timed_swaps(
    chain: Chain, shelf: Iterable[Kit], around: Circumstances, now: Forecast, fitted: Fitted | None = None
) -> list[tuple[Swap, str]]:
    """Swaps from the shelf that would lift a chain, each with its sentence, minutes to 80 % in it where both get
    there.
    """
    timed = []
    for swap in swaps(chain, shelf):
        text = swap.said().removesuffix(".")
        then, before = forecast(swap.chain, around, fitted).to[80].likely, now.to[80].likely
        if then is not None and before is not None:
            text += f" (80 % in {duration(then * MINUTE_S)} instead of {duration(before * MINUTE_S)})"
        timed.append((swap, f"{text}."))
    return timed


def throttle_of(charge: Simulated) -> ThrottleForecast | None:
    """Where heat first takes power away in a simulated charge; None where it does not."""
    hot = (charge.state == THROTTLED) | (charge.state == CUT_OUT)
    seconds = np.flatnonzero(hot)
    if not len(seconds):
        return None
    first = int(seconds[0])
    return ThrottleForecast(
        (first - charge.scenario.placed_s) / MINUTE_S,
        float(charge.shown[first]),
        float(charge.phone_c[first]),
        float(np.sum(hot & (charge.shown < SLOWS_FROM))) / MINUTE_S,
    )


def _minutes(charge: Simulated) -> float:
    return charge.minutes_to(100.0) or (len(charge.shown) - charge.scenario.placed_s) / MINUTE_S


def _percent_at(charge: Simulated, minutes: Array) -> Array:
    at = np.clip(charge.scenario.placed_s + minutes * MINUTE_S, 0, len(charge.charge) - 1)
    return np.asarray(charge.charge[at.astype(int)] * 100.0)


def _times(value: float | None, factor: float) -> float | None:
    return None if value is None else value * factor
