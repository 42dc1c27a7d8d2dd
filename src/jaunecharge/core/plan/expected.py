"""Outlook of a planned run: its length, heat and ribbon; how long its phone must drain before and cool after.

Forecast by the simulator first; what really happened is learned from.
"""

import math
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace

import numpy as np

from ..arrays import Array, running_sum
from ..factors import SAME_AMBIENT_K
from ..kit.items import BodySize, Charger, Phone
from ..log.check_ins import DEAD_PERCENT
from ..noise import ROOM_SPREAD
from ..reading.ribbon import Ribbon
from ..simulator.fitted import Fitted
from ..simulator.scenario import BODIES, prepare
from ..simulator.simulate import Simulated, simulate
from ..units import MINUTE_S
from .matrix import PlanCell
from .method import Card

WORKERS = 2
RIBBON_STEPS = 60
DRAIN_W: dict[BodySize, float] = {"small": 5.0, "medium": 6.0, "large": 7.0}
"""Draw of a phone with full brightness, a film and the lamp on, by the size of its body [W] (from memory)."""

UNTIL_IT_DIES_MIN = 15.0
"""Time of the last points until a phone switches itself off (our own)."""

NEVER_FULL_MIN = 600.0
"""Length of a run that is not expected to reach its end: it is broken off then (our own)."""

STEP_MIN = 5.0


@dataclass(frozen=True)
class Expected:
    """Expectation of the run of a cell.

    minutes [min] : the slot it gets, spread of one run and soak included; to : minutes to each percentage that the
    method judges, None where never; attended_min [min]; hottest_c, phone_end_c, pad_end_c [°C]; pad_tau_min [min] : how
    fast its charger cools; drawn_wh [Wh]; ribbon : its outline; reaches : whether it gets to its end; pack : what feeds
    it, where that is one, fill_min, rest_min [min] : to fill it before, and to let it rest after.
    """

    minutes: float
    to: dict[int, float | None]
    attended_min: float
    hottest_c: float
    phone_end_c: float
    pad_end_c: float
    pad_tau_min: float
    ambient_c: float
    drawn_wh: float
    ribbon: Ribbon
    reaches: bool
    pack: str = ""
    fill_min: float = 0.0
    rest_min: float = 0.0


def expected(cells: Sequence[PlanCell], card: Card, fitted: dict[str, Fitted], known: frozenset[str]) -> list[Expected]:
    """Expectation of the run of some cells.

    Parameters
    ----------
    cells : sequence of PlanCell
    card : Card
    fitted : dict of phone label to Fitted
        Figures fitted to measured runs, in place of presets.
    known : frozenset of str
        Chargers that have been run before: the first run of an unknown one is never left alone.
    """
    with ThreadPoolExecutor(WORKERS) as pool:
        return list(pool.map(lambda c: _expected(c, card, fitted.get(c.chain.phone.label), known), cells))


def _expected(cell: PlanCell, card: Card, fitted: Fitted | None, known: frozenset[str]) -> Expected:
    scenario = replace(prepare(cell.chain, cell.around, None, fitted, cell.checked).scenario, tail_s=MINUTE_S)
    charge = simulate(scenario)
    level = card.ends_at
    end = card.spot_min if level is None else charge.minutes_to(level)
    reaches = end is not None
    goes = NEVER_FULL_MIN if end is None else end
    slack = 0.0 if level is None else ROOM_SPREAD
    charged = _up(goes * (1.0 + slack)) if level is not None else goes
    whole = charged + card.tail_min
    last = min(len(charge.phone_c) - 1, int(scenario.placed_s + goes * MINUTE_S))
    charger = cell.chain.charger
    unknown = charger is not None and charger.label not in known
    return Expected(
        minutes=whole,
        to={p: charge.minutes_to(p) for p in card.judged_at},
        attended_min=charged if not card.continuous or unknown else 0.0,
        hottest_c=float(charge.phone_c[: last + 1].max()),
        phone_end_c=float(charge.phone_c[last]),
        pad_end_c=float(charge.pad_c[last]),
        pad_tau_min=scenario.nodes.pad_j / scenario.nodes.pad_air / MINUTE_S,
        ambient_c=cell.around.ambient_c,
        drawn_wh=float(np.sum(charge.power_w[int(scenario.placed_s) : last + 1])) / 3600.0,
        ribbon=ribbon_of(charge, whole),
        reaches=reaches,
        pack=charger.label if charger is not None and charger.form == "pack" else "",
        fill_min=fill_minutes(charger),
        rest_min=REST_MIN if charger is not None and charger.form == "pack" else 0.0,
    )


FILL_W, FILLED_SHARE, REST_MIN = 15.0, 1.3, 60.0
"""Watts at which a pack is mostly filled, what goes in for what is printed on it, and how long it rests after it was
emptied (from memory)."""


def fill_minutes(charger: Charger | None) -> float:
    """Time to fill a pack before a run that it feeds [min]; 0 for what is none. In steps of 5 min."""
    if charger is None or charger.form != "pack" or charger.source_wh is None:
        return 0.0
    return _up(charger.source_wh * FILLED_SHARE / FILL_W * 60.0)


def _up(minutes: float) -> float:
    return math.ceil(minutes / STEP_MIN - 1e-9) * STEP_MIN


def ribbon_of(charge: Simulated, minutes: float) -> Ribbon:
    """The ribbon of a simulated charge over so many minutes after placing."""
    placed, step = charge.scenario.placed_s, minutes * MINUTE_S / RIBBON_STEPS
    edges = placed + step * np.arange(RIBBON_STEPS + 1)
    at = np.clip(edges, 0, len(charge.power_w) - 1).astype(int)
    summed: Array = running_sum(charge.power_w)
    width = np.maximum(1, at[1:] - at[:-1])
    watts = (summed[at[1:]] - summed[at[:-1]]) / width
    watts[at[1:] == at[:-1]] = charge.power_w[-1]
    ticks = tuple((p, m) for p in range(10, 101, 10) if (m := charge.minutes_to(p)) is not None and 0 < m <= minutes)
    return Ribbon(step / MINUTE_S, watts, charge.phone_c[at[:-1]], ticks, minutes)


def drain_minutes(phone: Phone, card: Card) -> float:
    """Drain that a phone needs before a run of a card, cooling from it included [min]; in steps of 5 min.

    The battery is taken as full: runs to full leave it so, and after others it is mostly on the safe side.
    """
    if card.is_spot:
        return 0.0
    watts = DRAIN_W[phone.body]
    from_percent = float(card.ends_at or 100)
    points = from_percent - card.starts_at
    heat_j, to_air, _ = BODIES[phone.body]
    minutes = phone.battery_wh * points / 100.0 / watts * 60.0
    minutes += cooling_minutes(watts / to_air, heat_j / to_air / MINUTE_S)
    if card.starts_at <= DEAD_PERCENT:
        minutes += UNTIL_IT_DIES_MIN
    return _up(minutes)


def cool_minutes(phone: Phone, runs: Sequence[Expected]) -> float:
    """Cool-down that a phone needs after its runs, the warmest of them [min]; in steps of 5 min."""
    heat_j, to_air, _ = BODIES[phone.body]
    above = max((r.phone_end_c - r.ambient_c for r in runs), default=0.0)
    return _up(cooling_minutes(above, heat_j / to_air / MINUTE_S))


def cooling_minutes(above_k: float, tau_min: float) -> float:
    """Minutes until something that is so much above its room counts as cool."""
    return tau_min * math.log(above_k / SAME_AMBIENT_K) if above_k > SAME_AMBIENT_K else 0.0


def still_warm_k(above_k: float, tau_min: float, minutes: float) -> float:
    """Excess over its room that is left after so many minutes [K]."""
    return above_k * math.exp(-max(0.0, minutes) / tau_min)


def learned(forecast_min: float, seen_min: Sequence[float]) -> float:
    """A time forecast, and learned from what really happened: the forecast counts as one observation [min]."""
    return _up((forecast_min + sum(seen_min)) / (1 + len(seen_min)))
