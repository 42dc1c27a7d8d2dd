"""Shapes of a lane as every window shows it."""

import datetime as dt
import uuid
from dataclasses import dataclass


@dataclass(frozen=True)
class AlarmView:
    """An alarm that is on: since when [s], how bad (0 note, 1 warn, 2 stop), what was seen, what to do."""

    key: str
    level: int
    since_s: float
    seen: str
    do: str


@dataclass(frozen=True)
class StepView:
    """A step of setting the bench."""

    key: str
    said: str
    state: str
    value: str
    odd: str
    reason: str


@dataclass(frozen=True)
class EntryView:
    """An entry of the log: when [s], in words, as it is typed, and its first value where it was corrected."""

    id: uuid.UUID
    t_s: float
    kind: str
    said: str
    line: str
    by: str
    first: str
    undone: bool


@dataclass(frozen=True)
class DueView:
    """The next check-in: quiet, due, late or none; its moment [s]."""

    state: str
    at_s: float | None


@dataclass(frozen=True)
class FinishView:
    """When a percentage will be reached [s on the lane's clock], with its range; None: not to be expected."""

    percent: int
    low_s: float | None
    likely_s: float | None
    high_s: float | None
    pace: float


@dataclass(frozen=True)
class PlaceView:
    """The last temperature of one place [°C], when [s], and whether it is on the phone."""

    place: str
    t_s: float
    celsius: float
    phone: bool


@dataclass(frozen=True)
class LaneView:
    """A lane. Times [s] are on its own clock, which stood at `now_s` at the moment `at`.

    watts are the inline meter's; socket_w and phone_w those of other points; reported_s : when the phone last reported
    its level itself; reports :
    whether it does so just now; charging : whether it then says that it charges.
    """

    id: uuid.UUID
    name: str
    state: str
    label: str
    kind: str
    pack: str
    pack_level: str
    pack_test: uuid.UUID | None
    phone: str
    chain: str
    method: str
    method_said: str
    start_percent: float
    interval_min: float
    speed: float
    simulated: bool
    zone: str
    meter: str
    probe: str
    socket: str
    room: str
    shared_with: list[str]
    survey: uuid.UUID | None
    run: uuid.UUID | None
    outcome: str
    at: dt.datetime
    opened_at: dt.datetime
    now_s: float
    placed_s: float | None
    percent: float | None
    percent_s: float | None
    watts: float | None
    watts_s: float | None
    silent_s: float
    volts: float | None
    socket_w: float | None
    phone_w: float | None
    humidity: float | None
    reported_s: float | None
    reports: bool
    charging: bool | None
    places: list[PlaceView]
    hottest_c: float | None
    phase: str
    phase_said: str
    due: DueView
    checkins: list[tuple[float, float]]
    ticks: list[tuple[int, float]]
    finish: FinishView | None
    alarms: list[AlarmView]
    steps: list[StepView]
    next_step: str
    phone_on: bool
    entries: list[EntryView]
    off: bool


@dataclass(frozen=True)
class Traced:
    """The ribbon of a lane so far: [index of a step, mean] of the watts, and of the phone's hottest place.

    A hole longer than `hole_s` [s] is not metered time.
    """

    step_s: float
    hole_s: float
    watts: list[tuple[int, float]]
    celsius: list[tuple[int, float]]


@dataclass(frozen=True)
class Ghost:
    """Forecast: minutes after placing between steps, and watts."""

    step_min: float
    watts: list[float]


@dataclass(frozen=True)
class LaneFull:
    """A lane with its ribbon so far and its forecast."""

    view: LaneView
    traced: Traced
    ghost: Ghost | None
