"""Course of a run in as few figures as a comparison needs; and one run as a comparison sees it."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from ..arrays import Array
from ..factors import Levels, in_order, levels_of, number_in
from ..log.check_ins import CheckIns
from ..log.fingerprint import Recording
from ..measured import Measured, Part
from ..reading.along_chain import adapter_share
from ..reading.read_run import Reading
from ..reading.ribbon import Ribbon, ribbon
from ..units import HOUR_S, MINUTE_S


@dataclass(frozen=True)
class Power:
    """Power along a run: step_min [min]; watts : (s,) mean of each step after placing [W], NaN where not metered;
    relative : standard uncertainty of its energy as a share of it; unsure : whether the meter's own share of that is
    not known, and left out."""

    step_min: float
    watts: Array
    relative: float
    unsure: bool = False

    @cached_property
    def energy_wh(self) -> Array:
        """Energy at the edges of the steps : (s + 1,) [Wh]; holes are bridged, NaN where the log does not reach."""
        known = np.flatnonzero(np.isfinite(self.watts))
        energy = np.full(len(self.watts) + 1, np.nan)
        if len(known):
            at = np.arange(known[0], known[-1] + 1)
            watts = np.interp(at, known, self.watts[known])
            energy[known[0]] = 0.0
            energy[at + 1] = np.cumsum(watts) * self.step_min * MINUTE_S / HOUR_S
        return energy

    def between(self, start: float, end: float) -> float | None:
        """Energy between two minutes [Wh]; None where the log does not reach so far, by more than a step."""
        edges = self.step_min * np.arange(len(self.energy_wh))
        metered = np.isfinite(self.energy_wh)
        if not metered.any() or start < edges[metered][0] - self.step_min or end > edges[metered][-1] + self.step_min:
            return None
        first, last = np.interp([start, end], edges[metered], self.energy_wh[metered])
        return float(last - first)

    def at(self, minute: float) -> float:
        """Power at a minute [W]; 0 where it is not known."""
        i = min(len(self.watts) - 1, max(0, int(minute / self.step_min)))
        return float(np.nan_to_num(self.watts[i]))


@dataclass(frozen=True)
class Warm:
    """Heat along a run: hottest_c [°C], rise_k : over the room [K], hottest_min : when [min after placing]; celsius :
    (s,) in the middle of each step after placing [°C], NaN where not measured, step_min [min]."""

    hottest_c: float
    rise_k: float | None = None
    hottest_min: float | None = None
    step_min: float = 1.0
    celsius: Array | None = None

    def within(self, start: float, end: float) -> "Warm | None":
        """The hottest between two moments [min]; None where nothing was measured in between.

        Where it is not known when the run was hottest, that of the whole run.
        """
        if self.hottest_min is None or start <= self.hottest_min <= end:
            return self
        if self.celsius is None:
            return None
        middles = self.step_min * (np.arange(len(self.celsius)) + 0.5)
        at = np.array([start, *middles[(middles > start) & (middles < end)], end])
        celsius = np.interp(at, middles, self.celsius)
        if not np.isfinite(celsius).any():
            return None
        top = np.nanargmax(celsius)
        # A step is drawn between readings: it cannot have been hotter than the hottest.
        hottest = min(float(celsius[top]), self.hottest_c)
        rise = None if self.rise_k is None else self.rise_k - (self.hottest_c - hottest)
        return Warm(hottest, rise, float(at[top]), self.step_min, self.celsius)


@dataclass(frozen=True)
class Course:
    """Course of a run. readings : seconds after placing, where there are any; power : where it was metered, and
    credited to this phone alone.

    start_c, room_c : the phone's and the room's temperature at placing [°C]; warm : its heat; lost_min : what heat cost
    below 80 % [min], losses : each time that it did, (from, to, minutes lost) [min]; holds, contacts : stops by a
    charge limit and lost placements, (from, to) [min].
    """

    readings: CheckIns | None
    power: Power | None = None
    start_c: float | None = None
    room_c: float | None = None
    warm: Warm | None = None
    lost_min: Measured | None = None
    losses: tuple[tuple[float, float, float], ...] = ()
    holds: tuple[tuple[float, float], ...] = ()
    contacts: tuple[tuple[float, float], ...] = ()
    through_adapter: Measured | None = None
    """Share of the socket's energy that gets to the meter, where both were logged (0–1)."""


def course_of(reading: Reading, band: Ribbon | None = None) -> Course:
    """The course of a run that was read; `band` is its ribbon, where it was made already."""
    placed_s, check_ins = reading.placed_s, reading.log.readings
    readings = None
    if check_ins is not None and len(check_ins):
        keep = _steps(check_ins.percent)
        flow = None if check_ins.flow is None else check_ins.flow.shifted(-placed_s)
        readings = CheckIns(check_ins.time_s[keep] - placed_s, check_ins.percent[keep], flow=flow)
    power, warm = None, None
    band = band or ribbon(reading)
    if reading.log.trace.metered and not reading.conditions.shared_with:
        energy = reading.energy_in.bridged
        relative = energy.standard / energy.value if energy.value > 0 else 0.0
        power = Power(band.step_min, band.watts, relative, reading.conditions.meter.gain_percent is None)
    heat, surface = reading.phone_heat, reading.log.heat.phone() if reading.log.heat else None
    if heat is not None:
        warm = Warm(heat.max_c, heat.rise_k, (heat.max_at_s - placed_s) / MINUTE_S, band.step_min, band.celsius)
    room = reading.log.heat.ambient if reading.log.heat else None
    return Course(
        readings,
        power,
        None if surface is None else float(np.interp(placed_s, surface.time_s, surface.celsius)),
        reading.conditions.ambient_c if room is None else float(np.interp(placed_s, room.time_s, room.celsius)),
        warm,
        None if reading.throttle is None else reading.throttle.cost_min,
        ()
        if reading.throttle is None
        else tuple(
            ((a - placed_s) / MINUTE_S, (b - placed_s) / MINUTE_S, lost) for a, b, lost in reading.throttle.each
        ),
        _dips(reading, "hold"),
        _dips(reading, "contact"),
        None if (found := reading.along) is None else adapter_share(found),
    )


def _steps(percent: Array) -> Array:
    """Where a percentage changed: of equal readings in a row the first and the last say all."""
    changed = np.diff(percent) != 0
    starts: Array = np.concatenate([[True], changed]) | np.concatenate([changed, [True]])
    return starts


def _dips(reading: Reading, cause: str) -> tuple[tuple[float, float], ...]:
    dips = reading.judged.dips if reading.judged is not None else ()
    return tuple(
        ((d.start_s - reading.placed_s) / MINUTE_S, (d.end_s - reading.placed_s) / MINUTE_S)
        for d in dips
        if d.cause == cause
    )


@dataclass(frozen=True)
class Contender:
    """A run in a comparison: its key, label and factors as stated, its course, and what else makes it fair or not.

    ambient_c [°C] : the room, as measured or typed. group : same for repeats; empty where none are named. chamber :
    made in a temperature-controlled chamber with a continuous log. interval_min : between check-ins [min]. prices :
    of the kit that factors name, amount and currency. began_min, ended_min : when, on one clock of all runs [min].
    zone : that of the place where it was made (IANA). recording : what tells it again, where anything does; made : when
    it was read, on any clock: of two of one recording the later one is the copy. spot : a spot check, without a
    charging time.
    """

    key: str
    label: str
    factors: Mapping[str, str]
    course: Course
    ambient_c: float | None = None
    group: str = ""
    chamber: bool = False
    interval_min: float | None = None
    card: str = ""
    capacity_mah: float | None = None
    prices: Mapping[str, tuple[float, str]] = field(default_factory=dict)
    began_min: float | None = None
    ended_min: float | None = None
    zone: str = "UTC"
    simulated: bool = False
    spot: bool = False
    outcome: str = ""
    recording: Recording | None = None
    made: float = 0.0
    after: float | None = None
    """Minutes since another run of the same phone ended, where that is known."""

    @cached_property
    def levels(self) -> Levels:
        """Its factors, so written that equal ones are alike."""
        return levels_of(self.factors)

    @cached_property
    def named(self) -> tuple[str, ...]:
        """The factors that it states, the known ones in their order, others behind."""
        return in_order(self.levels)

    @cached_property
    def known_room_c(self) -> float | None:
        """Its room as measured or typed, or as its factor says [°C]."""
        return number_in(self.levels.get("ambient", "")) if self.ambient_c is None else self.ambient_c

    @cached_property
    def start_percent(self) -> float | None:
        """Where it began [%]."""
        readings = self.course.readings
        return float(readings.percent[0]) if readings is not None and len(readings) else None

    @cached_property
    def start_rise_k(self) -> float | None:
        """Excess of its phone's temperature over the room's when placed [K]."""
        course = self.course
        room = self.ambient_c if course.room_c is None else course.room_c
        return None if course.start_c is None or room is None else course.start_c - room


def lost_within(course: Course, start: float, end: float) -> Measured | None:
    """Cost of heat: what heat cost between two moments, below 80 % [min]; None where that is not known.

    Of a throttle that reaches over an end of the window its share by time; uncertain by the same share as the whole.
    """
    whole = course.lost_min
    if whole is None or not course.losses or whole.value <= 0.0:
        return whole
    lost = sum(m * max(0.0, min(b, end) - max(a, start)) / (b - a) for a, b, m in course.losses if b > a)
    return whole.scaled(lost / whole.value)


def window_energy(course: Course, lap_start: tuple[float, float], lap_end: tuple[float, float]) -> Measured | None:
    """Energy at the meter between two moments.

    Parameters
    ----------
    course : Course
    lap_start, lap_end : (moment [min after placing], width of the interval in which it lies [min])

    Returns
    -------
    Measured [Wh]: the meter's share as of the whole run, and what the unknown moments leave open; None where no meter
    log covers it.
    """
    power = course.power
    if power is None:
        return None
    value = power.between(lap_start[0], lap_end[0])
    if value is None:
        return None
    parts = [Part("meter", power.relative * value)]
    for name, (minute, width) in (("when it began", lap_start), ("when it ended", lap_end)):
        if width > 0:
            parts.append(Part(name, power.at(minute) * width * MINUTE_S / HOUR_S / 12**0.5))
    return Measured(value, tuple(parts))
