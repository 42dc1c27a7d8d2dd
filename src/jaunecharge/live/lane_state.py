"""State of a lane: means of some seconds, last values, percentages; rebuilt from the store at any time."""

import datetime as dt
import math
from collections import deque
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from ..core.arrays import Array
from ..core.bench import Entered, LevelEntered, Now, SoFar, by_hand, pack_levels
from ..core.log import METER, SOCKET, is_phone, is_room
from ..store import bench_models as b
from ..store.bench.entries import SYSTEM, item_of, lane_s
from .steps import Steps

STEP_S = 10.0
"""Seconds of the lane in one step of its ribbon."""

LATEST_REPORTS = 40
HUMIDITY = "humidity"

FINE_S = 1.0
FINE_KEPT_S = 1200.0


@dataclass
class LaneState:
    """One lane. `lane` is its row as it was read last; entries are by id."""

    lane: b.Lane
    watts: Steps = field(default_factory=lambda: Steps(STEP_S))
    fine: Steps = field(default_factory=lambda: Steps(FINE_S, FINE_KEPT_S))
    volts: Steps = field(default_factory=lambda: Steps(STEP_S))
    heat: dict[str, Steps] = field(default_factory=dict)
    entries: dict[Any, b.LaneEntry] = field(default_factory=dict)
    reported: list[tuple[float, float]] = field(default_factory=list)
    latest_reports: deque[tuple[float, float]] = field(default_factory=lambda: deque(maxlen=LATEST_REPORTS))
    charging: tuple[float, bool] | None = None
    last: dict[str, tuple[float, float]] = field(default_factory=dict)
    """The newest watts, volts, amps, watts at other points, humidity: (at [s], figure)."""

    last_c: dict[str, tuple[float, float]] = field(default_factory=dict)
    """The newest temperature of each place: (at [s], °C)."""

    lowest_w: float = float("inf")
    spacing_s: float = 1.0
    newest_s: float = 0.0
    phase: tuple[object, Now] | None = None
    """The phase as it was told last, by what it was told from."""

    known: tuple[object, SoFar] | None = None
    """The reading so far as it was made last, by what it was made from."""

    def take(self, readings: Iterable[Any]) -> None:
        """Readings that are new; rows of the store, with `tick`."""
        for r in readings:
            if r.watts is not None and r.point != METER:
                _newest(self.last, r.point, r.t_s, r.watts)
            elif r.watts is not None:
                self.watts.add(r.t_s, r.watts, r.tick)
                self.fine.add(r.t_s, r.watts, r.tick)
                if r.volts is not None:
                    self.volts.add(r.t_s, r.volts, r.tick)
                before = self.last.get("watts")
                if before is not None and 0 < r.t_s - before[0] < 600:
                    self.spacing_s += 0.05 * (r.t_s - before[0] - self.spacing_s)
                _newest(self.last, "watts", r.t_s, r.watts)
                self.lowest_w = min(self.lowest_w, r.watts)
                for name in ("volts", "amps"):
                    if (value := getattr(r, name)) is not None:
                        _newest(self.last, name, r.t_s, value)
            if r.celsius is not None:
                place = r.position or "back"
                self.heat.setdefault(place, Steps(STEP_S)).add(r.t_s, r.celsius, r.tick)
                _newest(self.last_c, place, r.t_s, r.celsius)
            if r.percent is not None:
                self._report(r.t_s, r.percent)
            if r.humidity is not None:
                _newest(self.last, HUMIDITY, r.t_s, r.humidity)
            if r.charging is not None and (self.charging is None or self.charging[0] <= r.t_s):
                self.charging = (r.t_s, r.charging)
            if r.point == METER:
                self.newest_s = max(self.newest_s, r.t_s)
        self.fine.forget_before(self.newest_s - FINE_KEPT_S)

    def _report(self, t_s: float, percent: float) -> None:
        """A percentage that the phone reports; of a run of equal ones the first and the last are kept."""
        self.latest_reports.append((t_s, percent))
        rows = self.reported
        if rows and t_s < rows[-1][0]:
            rows.append((t_s, percent))
            rows.sort()
        elif len(rows) >= 2 and rows[-1][1] == rows[-2][1] == percent:
            rows[-1] = (t_s, percent)
        else:
            rows.append((t_s, percent))

    def enter(self, entry: b.LaneEntry) -> None:
        """An entry of the log that is new, or has changed."""
        self.entries[entry.id] = entry

    @property
    def standing(self) -> list[b.LaneEntry]:
        """Entries of persons that still stand, in order of time."""
        return sorted(
            (e for e in list(self.entries.values()) if e.kind not in SYSTEM and e.undone_at is None),
            key=lambda e: (e.t_s, e.tick),
        )

    @property
    def percents(self) -> list[tuple[float, float]]:
        """Every percentage, entered or reported, in order of time."""
        typed = [(e.t_s, float(e.value)) for e in self.standing if e.kind == "percent" and e.value is not None]
        return sorted([*typed, *self.reported])

    @property
    def celsius(self) -> dict[str, tuple[float, float]]:
        """The last temperature of each place: (at [s], °C)."""
        latest = dict(self.last_c)
        for e in self.standing:
            if (c := item_of(e).celsius) is not None and (e.text not in latest or latest[e.text][0] <= e.t_s):
                latest[e.text] = (e.t_s, c)
        return latest

    def phone_heat(self) -> tuple[Array, Array]:
        """Temperatures of the phone's hottest place just now: (k,) [s], (k,) [°C]."""
        now = self.celsius
        places = [p for p in now if is_phone(p)] or [p for p in now if not is_room(p)]
        if not places:
            return np.zeros(0), np.zeros(0)
        place = max(places, key=lambda p: now[p][1])
        times, values = self.heat[place].arrays() if place in self.heat else (np.zeros(0), np.zeros(0))
        typed = [(e.t_s, c) for e in self.standing if e.text == place and (c := item_of(e).celsius) is not None]
        if not typed:
            return times, values
        both = sorted([*zip(times.tolist(), values.tolist(), strict=True), *typed])
        return np.array([t for t, _ in both]), np.array([c for _, c in both])

    @property
    def pack_level(self) -> tuple[float, str] | None:
        """The level of the pack that was entered last: (at [s], as it is typed); None where none was."""
        levels = self.pack_levels
        return (levels[-1].t_s, levels[-1].text) if levels else None

    @property
    def pack_level_said(self) -> str:
        """The level of the pack that was entered last, as it is typed; empty where none was."""
        return "" if self.pack_level is None else self.pack_level[1]

    @property
    def pack_points(self) -> list[tuple[float, float]]:
        """Levels of the pack as points: (at [s], middle of what it was read as [%])."""
        return [(x.t_s, x.level().middle) for x in self.pack_levels]

    @property
    def pack_levels(self) -> list[LevelEntered]:
        """Levels of the pack that were entered, in order of time."""
        return pack_levels([Entered(e.t_s, item_of(e)) for e in self.standing if e.kind == "pack"])

    @property
    def typed_w(self) -> tuple[float, float] | None:
        """The watts that were typed last: (at [s], W); None where none were."""
        rows = by_hand([Entered(e.t_s, item_of(e)) for e in self.standing if e.kind == "meter"])
        return max(((at, watts) for at, watts, _, _ in rows), default=None)

    @property
    def socket_w(self) -> float | None:
        """The watts at the socket that were heard or typed last [W]; None where none were."""
        typed = [(e.t_s, e.value) for e in self.standing if e.kind == "socket watts" and e.value is not None]
        return max([*typed, *([self.last[SOCKET]] if SOCKET in self.last else [])], default=(0.0, None))[1]

    @property
    def typed_v(self) -> tuple[float, float] | None:
        """The volts that were typed last: (at [s], V); None where none were."""
        volts = [(e.t_s, e.value) for e in self.standing if e.kind == "meter" and e.unit == "v" and e.value is not None]
        return volts[-1] if volts else None

    @property
    def not_placed_s(self) -> float:
        """Until when the phone was not placed, whatever the meter saw [s]; -inf where nobody said so."""
        return max((e.t_s for e in list(self.entries.values()) if e.kind == "not placed"), default=-math.inf)

    @property
    def off(self) -> bool:
        """Whether the phone was said to be off the charger."""
        chargers = [e for e in self.standing if e.kind == "charger"]
        return bool(chargers) and chargers[-1].text == "off"

    @property
    def alarms(self) -> list[b.LaneEntry]:
        """The alarms that are on."""
        on: dict[str, b.LaneEntry] = {}
        for e in sorted(list(self.entries.values()), key=lambda e: (e.tick, e.kind)):
            if e.kind == "alarm":
                on[e.unit] = e
            elif e.kind == "alarm over":
                on.pop(e.unit, None)
        return list(on.values())

    def last_s(self, name: str) -> float | None:
        """When a figure was heard last [s]; None where it never was."""
        return self.last[name][0] if name in self.last else None

    @property
    def room_s(self) -> float | None:
        """When an instrument told anything of the room last [s]; None where none did."""
        times = [at for place, (at, _) in self.last_c.items() if is_room(place)]
        return max([*times, *([self.last[HUMIDITY][0]] if HUMIDITY in self.last else [])], default=None)

    def now_s(self, at: dt.datetime) -> float:
        """A moment on the lane's clock [s]."""
        return lane_s(self.lane, at)

    @property
    def metered(self) -> bool:
        """Whether a meter is to be asked, or has pushed."""
        return bool(self.lane.meter_address) or "watts" in self.last


def _newest(of: dict[str, tuple[float, float]], name: str, t_s: float, value: float) -> None:
    if name not in of or of[name][0] <= t_s:
        of[name] = (t_s, value)
