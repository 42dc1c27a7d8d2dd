"""A lane at a moment, as the watch rules see it, and the alarms that they give."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from ..arrays import Array
from ..units import MINUTE_S
from .so_far import SoFar

Level = Literal["note", "warn", "stop"]
Key = Literal[
    "low class", "no power", "held", "cooling", "restarts", "stuck", "hot", "stop", "steep", "meter silent",
    "probe silent", "phone silent", "probe off", "full", "low volts", "output off", "pack full", "unattended",
    "socket silent", "room silent",
]  # fmt: skip


@dataclass(frozen=True)
class Seen:
    """State of a lane at a moment; times [s] on the lane's clock.

    time_s, watts : (n,) of the last quarter of an hour; heat_s, celsius : (k,) of the phone's hottest place; percents :
    (at, %) in order; expected_w [W] : what the chain should draw at the meter; no_load_w [W]; volts : the latest;
    expected_v : what it was to negotiate; step_s : of the meter; silent_s : how long nothing may come; ends_at : the
    percentage that the method ends at; soak : whether it goes on after full; off : whether the phone was taken off;
    known : what the reading says by now; reported_s : when the phone last reported its level itself; report_every_s :
    how often it does, None where it does not do so steadily; kind : of the lane, as `pack_lane.LaneKind`; beside : what
    else measures there, the meter at the socket and the room's sensor, and when each was last heard (None: never).
    """

    now_s: float
    placed_s: float | None = None
    time_s: Array = field(default_factory=lambda: np.zeros(0))
    watts: Array = field(default_factory=lambda: np.zeros(0))
    heat_s: Array = field(default_factory=lambda: np.zeros(0))
    celsius: Array = field(default_factory=lambda: np.zeros(0))
    percents: Sequence[tuple[float, float]] = ()
    expected_w: float | None = None
    class_w: float | None = None
    no_load_w: float | None = None
    volts: float | None = None
    expected_v: float | None = None
    metered: bool = False
    probed: bool = False
    silent_s: float = 30.0
    start_percent: float = 10.0
    ends_at: int | None = 100
    soak: bool = False
    off: bool = False
    known: SoFar = field(default_factory=SoFar)
    reported_s: float | None = None
    report_every_s: float | None = None
    kind: str = "charge"
    beside: Mapping[Literal["socket", "room"], float | None] = field(default_factory=dict)


@dataclass(frozen=True)
class Alarm:
    """Something odd: which rule, how bad, what was seen, what to do."""

    key: Key
    level: Level
    seen: str
    do: str


Rule = Callable[[Seen, bool], Alarm | None]


def minutes(seconds: float) -> str:
    """A time in seconds or minutes, as an alarm says it."""
    return f"{seconds:.0f} s" if seconds < 100 else f"{seconds / MINUTE_S:.0f} min"
