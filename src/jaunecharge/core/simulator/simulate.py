"""The simulator: a phone, its charger and a room, second by second, deterministic.

The battery is an equivalent circuit charged with constant current, then constant voltage (`cell`). The phone takes
what its policy allows at a percentage, less when it is hot; losses of the coil warm pad and phone, two thermal nodes.
What is delivered is reckoned at the phone's coil; the meter sees it divided by the coil's efficiency, plus the
charger's own draw.
"""

import threading
from dataclasses import dataclass, field
from functools import cached_property, lru_cache

import numpy as np

from ..arrays import Array
from ..errors import CannotRead
from ..units import HOUR_S, MINUTE_S
from .cell import GRID, Cell, usual_cell
from .circumstances import Event
from .engine import FULL, HEAT, IDLE, IN, STORED, Figures, Tables, Traces, empty_traces, march
from .fitted import NEVER


class _Room(threading.local):
    """Room for the longest run so far, one for each thread: making it anew costs more than the run itself."""

    made: Traces | None = None

    def traces(self, seconds: int) -> Traces:
        if self.made is None or len(self.made.power_w) < seconds:
            self.made = empty_traces(seconds)
        first = self.made
        a, b, c, d, e, f, state = (trace[:seconds] for trace in first[:7])
        return Traces(a, b, c, d, e, f, state, first.account)


_room = _Room()
MOST_S = 86_400


@dataclass(frozen=True)
class Nodes:
    """The two thermal nodes: heat capacities [J/K], conductances to the air and between them [W/K]."""

    phone_j: float
    pad_j: float
    phone_air: float
    pad_air: float
    contact: float

    @lru_cache(maxsize=1024)  # noqa: B019 - frozen, and few of them are ever made
    def step(self) -> tuple[Array, Array]:
        """The exact step of one second: (2, 2) from the temperatures, (2, 3) from phone's heat, pad's heat and room."""
        from scipy.linalg import expm

        a = np.array([
            [-(self.phone_air + self.contact) / self.phone_j, self.contact / self.phone_j],
            [self.contact / self.pad_j, -(self.pad_air + self.contact) / self.pad_j],
        ])  # fmt: skip
        b = np.array([
            [1.0 / self.phone_j, 0.0, self.phone_air / self.phone_j],
            [0.0, 1.0 / self.pad_j, self.pad_air / self.pad_j],
        ])  # fmt: skip
        whole = np.zeros((5, 5))
        whole[:2, :2], whole[:2, 2:] = a, b
        exponential = expm(whole)
        return np.ascontiguousarray(exponential[:2, :2]), np.ascontiguousarray(exponential[:2, 2:])


@dataclass(frozen=True)
class Throttling:
    """Thermal protection of a phone; each way is off where its temperature is never reached.

    hot_c, cool_c, throttled_w : hysteresis, down to `throttled_w` delivered [W] between the two [°C]. level_c, band_k,
    least_w : regulation, the power falls over `band_k` [K] around `level_c`. cut_c, resume_c : charging stops between.
    """

    hot_c: float = NEVER
    cool_c: float = NEVER
    throttled_w: float = 0.0
    level_c: float = NEVER
    band_k: float = 1.5
    least_w: float = 1.0
    cut_c: float = 48.0
    resume_c: float = 45.0


@dataclass(frozen=True)
class Scenario:
    """A charge to be simulated.

    start_percent [%]. stages : (percent from which, watts delivered at most) in order. accepts_w [W] : what the phone
    would take by itself, as much as the stages if not given; from knee_percent on it lets that fall, to `last_share` of
    it at 100 %, so that a weak charger stays flat nearly to the end. supply_w [W] : the most drawn at the meter; volts
    [V]. no_load_w [W]; efficiency : of the coil, 0–1; receiver : of the phone's own charging path, 0–1; idle_w [W] :
    what the phone uses meanwhile; pad_share : the part of the coil's loss that warms the pad. hold_percent, hold_s : a
    charge limit. wake_s, wake_w : a dead phone at first. placed_s [s]; tail_s [s] logged after full; ambient_c [°C]
    and its drift [K] over the run; warm_k [K] : how much warmer than the room phone and pad start.
    """

    cell: Cell
    nodes: Nodes
    stages: tuple[tuple[float, float], ...]
    start_percent: float = 10.0
    accepts_w: float | None = None
    knee_percent: float = 82.0
    last_share: float = 0.25
    supply_w: float = 60.0
    volts: float = 9.0
    no_load_w: float = 0.4
    efficiency: float = 0.82
    receiver: float = 0.8
    idle_w: float = 0.15
    rise_s: float = 14.0
    pad_share: float = 0.55
    throttling: Throttling = field(default_factory=Throttling)
    hold_percent: float | None = None
    hold_s: float = NEVER
    wake_s: float = 0.0
    wake_w: float = 3.0
    placed_s: float = 60.0
    tail_s: float = 900.0
    ambient_c: float = 25.0
    drift_k: float = 0.0
    warm_k: float = 0.0
    most_s: float = 36_000.0
    events: tuple[Event, ...] = ()


@dataclass(frozen=True)
class EnergyAccount:
    """Where the energy went [Wh]: drawn at the meter; stored in the battery; heat of coil, receiver and cell; idle draw
    of charger and phone."""

    drawn: float
    stored: float
    heat: float
    idle: float


@dataclass(frozen=True)
class Simulated:
    """A simulated charge, a value a second from the beginning of the log. All arrays : (n,).

    power_w : meter side [W]; delivered_w : at the phone's coil [W]; battery_w : into the battery [W]; phone_c, pad_c
    [°C]; charge : 0–1; state : what happened, see `engine`.
    """

    scenario: Scenario
    power_w: Array
    delivered_w: Array
    battery_w: Array
    phone_c: Array
    pad_c: Array
    charge: Array
    state: Array
    account: EnergyAccount

    @cached_property
    def shown(self) -> Array:
        """The percentage that the phone shows: whole numbers, 100 once the charge has ended."""
        percent = np.floor(self.charge * 100.0 + 0.5)
        return np.where(self.state == FULL, 100.0, np.minimum(percent, 100.0))

    def minutes_to(self, percent: float) -> float | None:
        """Minutes after placing until the phone first shows a percentage; None if it never does."""
        first = int(np.argmax(self.shown >= percent))
        if self.shown[first] < percent:
            return None
        return max(0.0, first - self.scenario.placed_s) / MINUTE_S

    @property
    def hottest_c(self) -> float:
        """The phone's highest temperature [°C]."""
        return float(self.phone_c.max())


def check_scenario(scenario: Scenario) -> None:
    """Refuse a scenario that cannot be.

    Raises
    ------
    CannotRead
    """
    start, room, longest = scenario.start_percent, scenario.ambient_c, scenario.most_s
    between = "an efficiency lies between 0.2 and 1"
    wrong = [
        (not 0.0 <= start < 100.0, "a charge starts from 0 to under 100 %", f"{start:g} %"),
        (not (scenario.stages and all(w > 0 for _, w in scenario.stages)), "watts are above 0", "stages"),
        (not 0.2 < scenario.efficiency <= 1.0, between, f"{scenario.efficiency:g}"),
        (not 0.2 < scenario.receiver <= 1.0, between, f"{scenario.receiver:g}"),
        (scenario.no_load_w < 0 or scenario.idle_w < 0, "a draw is not below 0 W", "no-load or idle"),
        (not -40 <= room <= 80, "a room lies between -40 and 80 °C", f"{room:g} °C"),
        (not 60 <= longest <= MOST_S, "a run lasts from a minute to a day", f"{longest:g} s"),
    ]
    for bad, mend, what in wrong:
        if bad:
            raise CannotRead(f"{what} cannot be", mend)


def simulate(scenario: Scenario) -> Simulated:
    """Simulate a charge, in steps of one second, until it is full and the tail has been logged.

    Parameters
    ----------
    scenario : Scenario

    Returns
    -------
    Simulated
        The same scenario gives the same run, always.

    Raises
    ------
    CannotRead
        If the scenario cannot be.

    References
    ----------
    Equivalent circuit with constant current, then constant voltage: checked against a published parameter set (see
    tests/reference). Figures of phones and chargers: `presets`, common practice or from memory.
    """
    check_scenario(scenario)
    out = _room.traces(int(scenario.most_s))
    out.account[:] = 0.0
    n = march(_figures(scenario), _tables(scenario), out)
    return _simulated(scenario, out, n)


def warm_up() -> None:
    """Have the inner loop compiled, or loaded if it was before: the first run is then as fast as the others."""
    nodes = Nodes(170.0, 90.0, 0.3, 0.15, 0.25)
    simulate(Scenario(usual_cell(1000.0, 3.87), nodes, ((0.0, 5.0),), most_s=60.0))


def _simulated(scenario: Scenario, out: Traces, n: int) -> Simulated:
    drawn, stored, heat, idle = (float(out.account[k]) for k in (IN, STORED, HEAT, IDLE))
    # Only what was filled is kept: the room that was made is for the longest run.
    power, delivered, battery, phone_c, pad_c, charge, state = (a[:n].copy() for a in out[:7])
    account = EnergyAccount(drawn, stored, heat, idle)
    return Simulated(scenario, power, delivered, battery, phone_c, pad_c, charge, state, account)


def accept_table(scenario: Scenario) -> Array:
    """Watts that the policy lets in at each charge 0–1 [W] : (GRID,)."""
    percent = np.linspace(0.0, 100.0, GRID)
    starts = np.array([p for p, _ in scenario.stages])
    watts = np.array([w for _, w in scenario.stages])
    level = watts[np.clip(np.searchsorted(starts, percent, side="right") - 1, 0, None)]
    above = np.clip((percent - scenario.knee_percent) / max(1e-6, 100.0 - scenario.knee_percent), 0.0, 1.0)
    own = level if scenario.accepts_w is None else np.full(GRID, scenario.accepts_w)
    return np.minimum(level, own * scenario.last_share**above)


def _figures(s: Scenario) -> Figures:
    h = s.throttling
    cell = s.cell
    return Figures(
        start_charge=s.start_percent / 100.0,
        phone_c=s.ambient_c + s.warm_k,
        pad_c=s.ambient_c + s.warm_k,
        no_load_w=s.no_load_w,
        efficiency=s.efficiency,
        receiver=s.receiver,
        idle_w=s.idle_w,
        rise_s=s.rise_s,
        pad_share=s.pad_share,
        hot_c=h.hot_c,
        cool_c=h.cool_c,
        throttled_w=h.throttled_w,
        level_c=h.level_c,
        level_band_k=h.band_k,
        level_least_w=h.least_w,
        cut_c=h.cut_c,
        resume_c=h.resume_c,
        hold_charge=NEVER if s.hold_percent is None else s.hold_percent / 100.0,
        hold_s=s.hold_s,
        wake_s=s.wake_s,
        wake_w=s.wake_w,
        capacity_ah=cell.capacity_ah,
        exchange_a=cell.exchange_a,
        slow_s=cell.slow_s,
        most_a=cell.most_a,
        most_v=cell.most_v,
        end_a=cell.end_a,
        placed_s=s.placed_s,
        tail_s=s.tail_s,
    )


def _tables(s: Scenario) -> Tables:
    # A second at which nothing changes any more is enough: the last value goes on.
    at = np.arange(2 + int(max((e.start_s + e.length_s for e in s.events), default=0.0)))
    cap, contact = np.full(len(at), s.supply_w), np.ones(len(at))
    for event in s.events:
        during = (at >= event.start_s) & (at < event.start_s + event.length_s)
        if event.kind == "slip":
            contact[during] = 0.0
        elif event.kind == "restart":
            # A watt or so while the two talk, then up again by itself.
            contact[during] *= 0.06
        elif event.kind == "supply":
            cap[during] = np.minimum(cap[during], event.watts)
    ambient = room_c(s, np.arange(s.most_s)) if s.drift_k else np.full(1, s.ambient_c)
    step, drive = s.nodes.step()
    c = s.cell
    return Tables(accept_table(s), c.ocv_v, c.r_ohm, c.slow_ohm, cap, contact, ambient, step, drive)


def room_c(s: Scenario, at_s: Array) -> Array:
    """The room at given seconds [°C]: a slow swing around its mean."""
    return np.asarray(s.ambient_c + s.drift_k * np.sin(np.pi * at_s / (4.0 * HOUR_S)))
