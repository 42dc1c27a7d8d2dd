"""A run, read: from the cleaned trace and the check-ins to every figure that they allow."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from ..arrays import median
from ..log import check_ins as bat
from ..log.check_ins import Account, Battery, CheckIns, Milestone
from ..log.clock import LONGEST_BEFORE_S
from ..log.energy import Energy, MeterSpec, energy_between, metered_idle, metered_power
from ..log.flow import flow_of
from ..log.pace import Pace, pace
from ..log.phone_reports import Besides
from ..log.placement import Placement, Stretch, charging_from, find_placement
from ..log.temperatures import HeatFacts, HeatLog, facts
from ..log.trace import PowerTrace
from ..measured import Measured
from ..milestones import SLOWS_FROM
from . import power_levels as levels
from .along_chain import AlongChain, along_chain
from .decisions import Decision, overruled
from .evidence import Limits
from .judgement import Judged, judge
from .output import USUAL_RATIO, Output, Ratio, by_account, by_idle, by_ratio, classify, prevented
from .thermal_node import Node, node_of
from .throttling import Throttle, throttle

LEAST_YIELD = 0.5
"""A pack delivers at least this share of its rated energy before it is empty (common practice)."""

READER_VERSION = 8
"""Rises when the same files would be read differently: stored readings are then made anew, in the background."""


@dataclass(frozen=True)
class Conditions:
    """Conditions of a run as the tester stated them; everything may be unknown.

    placed_s [s] on the log's clock; claimed_w [W]; interval_min [min]; ambient_c [°C].
    """

    battery: Battery | None = None
    placed_s: float | None = None
    claimed_w: float | None = None
    interval_min: float | None = None
    ambient_c: float | None = None
    meter: MeterSpec = field(default_factory=MeterSpec)
    simulated: bool = False
    shared_with: str = ""
    """Other loads on the meter: its watts are then of both, and none of them is credited to this phone."""

    ratio: Ratio = USUAL_RATIO
    phone_limit_w: float | None = None
    """Most that the phone takes by this transfer profile [W], where it is known."""

    overrulings: tuple[Decision, ...] = ()
    method_start: tuple[float, float] | None = None
    """Between which percentages its method card lets a run start."""

    limits: Limits = ""
    own_source: bool = False
    """Whether the charger brings its own supply: a pack, or another phone."""

    source_wh: float | None = None
    """Energy of that source when it is full [Wh], where it is known."""

    socket_meter: MeterSpec = field(default_factory=lambda: MeterSpec(None))
    """The meter at the socket."""

    socket_shared: bool = False
    """Whether more than this chain hung on the adapter, or on the meter at the socket."""


@dataclass(frozen=True)
class RunLog:
    """Log of a run, all on the log's clock."""

    trace: PowerTrace
    readings: CheckIns | None = None
    heat: HeatLog | None = None
    notes: tuple[tuple[float, str], ...] = ()
    """Notes of the tester, with its time [s]."""

    besides: Besides = field(default_factory=Besides)
    """Reports of phone, charger and room."""

    socket: PowerTrace | None = None
    """Power at the socket, before the adapter, where a meter stood there."""


@dataclass(frozen=True)
class Reading:
    """Every figure of one run. Powers [W] at the meter, energies [Wh], times [s] on the log's clock."""

    log: RunLog
    conditions: Conditions
    placement: Placement
    energy_in: Energy
    peak_w: float
    ramp_end_s: float
    no_load: Stretch | None
    after_full: Stretch | None
    best_settled: Stretch | None
    sustained: Stretch | None
    milestones: tuple[Milestone, ...]
    percent_at: tuple[tuple[float, float], ...]
    pace: tuple[Pace, ...]
    points_gained: Measured | None
    energy_battery: Measured | None
    account: Account | None
    account_energy: Energy | None
    account_battery: Measured | None
    efficiency: Measured | None
    heat: tuple[HeatFacts, ...]
    judged: Judged | None
    throttle: Throttle | None
    node: Node | None
    output: Output | None

    @property
    def placed_s(self) -> float:
        return self.placement.at_s

    @property
    def duration_s(self) -> float:
        """From the placing of the phone to the end of the log [s]."""
        return self.log.trace.end_s - self.placed_s

    def milestone(self, percent: int) -> Milestone | None:
        return next((m for m in self.milestones if m.percent == percent), None)

    def percent_at_s(self, at_s: float) -> float | None:
        """Battery level at a moment [%]; None outside the check-ins."""
        readings = self.log.readings
        level = bat.curve(readings) if readings is not None else None
        if level is None:
            return None
        value = float(level(at_s))
        return value if np.isfinite(value) else None

    @cached_property
    def along(self) -> AlongChain | None:
        """Energy along the chain; None where fewer than two points were logged over one window."""
        return along_chain(self)

    @property
    def phone_heat(self) -> HeatFacts | None:
        """Heat at the phone's hottest measured place."""
        surface = self.log.heat.phone() if self.log.heat else None
        return next((h for h in self.heat if surface and h.position == surface.position), None)


def read_run(log: RunLog, conditions: Conditions = Conditions()) -> Reading:
    """Read a run.

    Raises
    ------
    CannotRead
        If a check-in comes more than a day before the log begins.
    """
    trace = log.trace
    readings = log.readings if log.readings is not None and len(log.readings) else None
    if readings is not None:
        bat.refuse_outside(readings.time_s, trace.start_s - LONGEST_BEFORE_S)
    placement = find_placement(trace, conditions.placed_s, readings)
    if readings is not None and not conditions.shared_with:
        no_load_w = 0.0 if placement.no_load is None else placement.no_load.watts
        readings = replace(readings, flow=flow_of(trace, readings.time_s, no_load_w))
        log = replace(log, readings=readings)
    crossings = tuple(bat.milestones(readings)) if readings is not None else ()
    points = bat.points_gained(readings) if readings is not None else None
    account, account_energy, account_battery, efficiency = _account(log, readings, conditions)
    energy_in = energy_between(trace, trace.start_s, trace.end_s, conditions.meter)
    credited = _Credited(levels.end_of_ramp(trace, charging_from(trace, placement)))
    if not conditions.shared_with:
        reached = {m.percent: m for m in crossings}
        credited = _credited(log, conditions, placement, reached, energy_in, account, account_battery)
    return Reading(
        log=log,
        conditions=conditions,
        placement=placement,
        energy_in=energy_in,
        peak_w=float(trace.power_w.max()),
        ramp_end_s=credited.ramp_end_s,
        no_load=credited.no_load,
        after_full=credited.after_full,
        best_settled=credited.settled,
        sustained=credited.sustained,
        milestones=crossings,
        percent_at=tuple(bat.percent_at(readings, placement.at_s)) if readings is not None else (),
        pace=pace(readings) if readings is not None else (),
        points_gained=points,
        energy_battery=bat.energy_into_battery(points, conditions.battery) if points and conditions.battery else None,
        account=account,
        account_energy=account_energy,
        account_battery=account_battery,
        efficiency=efficiency,
        heat=tuple(facts(s, log.heat.ambient) for s in log.heat.surfaces) if log.heat else (),
        judged=credited.judged,
        throttle=credited.throttle,
        node=credited.node,
        output=credited.output,
    )


@dataclass(frozen=True)
class _Credited:
    """Results credited to this phone; none where the meter fed another one as well."""

    ramp_end_s: float
    no_load: Stretch | None = None
    after_full: Stretch | None = None
    settled: Stretch | None = None
    sustained: Stretch | None = None
    judged: Judged | None = None
    throttle: Throttle | None = None
    node: Node | None = None
    output: Output | None = None


def _credited(
    log: RunLog,
    conditions: Conditions,
    placement: Placement,
    reached: Mapping[int, Milestone],
    energy_in: Energy,
    account: Account | None,
    account_battery: Measured | None,
) -> _Credited:
    """The levels of the power, its judgement, and what rests on them."""
    trace, no_load = log.trace, placement.no_load
    no_load_w = None if no_load is None else no_load.watts
    begins_s = charging_from(trace, placement)
    ramp_end_s = levels.end_of_ramp(trace, begins_s)
    cool_s = levels.cool_until(trace, log.heat, begins_s)
    settled = None if trace.sparse else levels.best_settled(trace, ramp_end_s, cool_s)
    full_s = reached[100].latest_s if 100 in reached else None
    after_full = levels.after_full(trace, full_s, settled.watts if settled else None)
    judged = judge(
        trace,
        begins_s,
        ramp_end_s,
        settled,
        no_load_w,
        after_full.watts if after_full else None,
        log.readings if log.readings is not None and len(log.readings) else None,
        reached.get(100),
        log.heat,
        log.notes,
        conditions.limits,
        _perhaps_empty(energy_in, conditions),
    )
    heat_cost, node = None, None
    if judged is not None:
        judged = overruled(judged, trace, conditions.overrulings)
        # A dead phone's wake may stand so near its first level that the ramp seemed to end in it.
        ramp_end_s = max([ramp_end_s, *(p.end_s for p in judged.phases if p.kind == "wake")])
        # Between watts that were read now and then it may have throttled unseen.
        seen = not trace.sparse or any(d.throttle for d in judged.dips)
        if log.heat is not None and seen:
            heat_cost = throttle(judged, trace.end_s, reached.get(SLOWS_FROM), no_load_w or 0.0)
        if log.heat is not None and not trace.sparse:
            place = log.heat.phone()
            node = None if place is None else node_of(judged, place)
    sixty_s = reached[levels.SUSTAINED_TO].estimate_s if levels.SUSTAINED_TO in reached else None
    kept_up = None if trace.sparse else levels.sustained(trace, ramp_end_s, sixty_s)
    output = None
    if trace.metered and settled is not None:
        output = _output(
            log, conditions, energy_in, settled, kept_up, no_load, after_full, account, account_battery, judged
        )
    return _Credited(ramp_end_s, no_load, after_full, settled, kept_up, judged, heat_cost, node, output)


def _perhaps_empty(energy_in: Energy, conditions: Conditions) -> bool:
    """Whether a pack that feeds the run may have run empty: nobody knows what it holds, or that is nearly drawn."""
    if not conditions.own_source:
        return False
    return conditions.source_wh is None or energy_in.bridged.value >= LEAST_YIELD * conditions.source_wh


def _account(
    log: RunLog, readings: CheckIns | None, conditions: Conditions
) -> tuple[Account | None, Energy | None, Measured | None, Measured | None]:
    """The battery account: window, meter-side energy in it (holes bridged), battery-side energy, efficiency."""
    # What was read before the meter's log begins has no energy to be held against.
    window = bat.account_window(bat.since(readings, log.trace.start_s)) if readings is not None else None
    if window is None or conditions.battery is None:
        return window, None, None, None
    energy = energy_between(log.trace, window.start_s, window.end_s, conditions.meter)
    gained = bat.energy_into_battery(bat.account_points(window), conditions.battery)
    reaches = window.end_s <= log.trace.end_s + bat.MINUTE_S
    if not reaches or energy.bridged.value <= 0 or conditions.shared_with:
        return window, None, gained, None
    return window, energy, gained, gained.over(energy.bridged)


def _output(
    log: RunLog,
    conditions: Conditions,
    energy_in: Energy,
    settled: Stretch,
    sustained: Stretch | None,
    no_load: Stretch | None,
    after_full: Stretch | None,
    account: Account | None,
    gained: Measured | None,
    judged: Judged | None,
) -> Output:
    """Every estimate of the output that the run allows, and the class."""
    trace, best = log.trace, metered_power(settled.watts, energy_in)
    estimates = [by_ratio(best, conditions.ratio)]
    for idle, which in ((no_load, "no-load"), (after_full, "after full")):
        if idle is not None:
            estimates.append(by_idle(best, metered_idle(idle.watts, trace, conditions.meter), which))
    if account is not None and gained is not None and account.end_s > account.start_s:
        window = (account.from_percent, account.to_percent)
        estimates.append(by_account(gained, account.end_s - account.start_s, window))
    if judged is not None and judged.outcome:
        return Output(conditions.ratio, tuple(estimates), None)
    volts = None
    if trace.volts is not None:
        inside = (trace.time_s >= settled.start_s) & (trace.time_s <= settled.end_s)
        volts = median(trace.volts[inside]) if inside.any() else None
    placed_s = judged.phases[0].start_s if judged is not None and judged.phases else trace.start_s
    ramp_end_s = (
        next((p.end_s for p in judged.phases if p.kind == "ramp"), placed_s) if judged is not None else placed_s
    )
    hot_s = levels.cool_until(trace, log.heat, placed_s) if log.heat else None
    early = any(d.cause == "supply" and d.start_s < settled.start_s for d in judged.dips) if judged else False
    undecided = prevented(
        conditions.claimed_w,
        volts,
        conditions.phone_limit_w,
        None if hot_s is None or hot_s >= trace.end_s else max(0.0, hot_s - ramp_end_s),
        early,
    )
    at_battery = (
        None if sustained is None else by_ratio(metered_power(sustained.watts, energy_in), conditions.ratio).watts
    )
    return Output(
        conditions.ratio, tuple(estimates), classify(estimates[0].watts, conditions.claimed_w, undecided, at_battery)
    )
