"""From tables to what a run is read from: the meter's samples, check-ins and temperatures."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from zoneinfo import ZoneInfo

import numpy as np

from ...core.arrays import Array
from ...core.errors import CannotRead
from ...core.log import (
    LONGEST_BEFORE_S,
    CheckIns,
    ClockKind,
    Guess,
    HeatLog,
    Timeline,
    Whose,
    besides,
    find_placement,
    heat_log,
    make_check_ins,
    one_clock,
    power_trace,
    refuse_no_level,
    refuse_no_supply,
    refuse_no_temperature,
    refuse_outside,
    unmetered,
    whose_clock,
)
from ...core.reading import RunLog
from ...core.units import HOUR_S, MINUTE_S
from ...core.wording import counted, share
from .columns import Figures, Progress, no_progress, read_figures
from .source import Source
from .understanding import Understanding

WATTS_DISAGREE = 0.05
MOST_PHONE_W = 400.0


@dataclass(frozen=True)
class MeterLog:
    """The rows of a meter's log as written: clock, watts and where given volts and amps; all (n,). wh, ah : its own
    counters [Wh], [Ah], None where it has none, or where the watts come from them; celsius : the hottest of its columns
    of temperatures [°C]."""

    clock: Timeline
    watts: Array
    volts: Array | None
    amps: Array | None
    remarks: tuple[str, ...]
    wh: Array | None = None
    ah: Array | None = None
    celsius: Array | None = None


@dataclass(frozen=True)
class TimedReadings:
    """Check-ins on their own clock: percent : (m,) [%]."""

    clock: Timeline
    percent: Array


@dataclass(frozen=True)
class Temperatures:
    """Temperatures on their own clock: places : k names; celsius : (k,) [°C]."""

    clock: Timeline
    places: tuple[str, ...]
    celsius: Array


@dataclass(frozen=True)
class PhoneReports:
    """Watts as the phone itself reports them, on their own clock; watts : (k,) [W]."""

    clock: Timeline
    watts: Array


def meter_log(
    source: Source, understood: Understanding, zone: ZoneInfo | None = None, progress: Progress = no_progress,
    counters: bool = False,
) -> MeterLog:  # fmt: skip
    """A meter's log from its table; counters : whether a counter of mAh is wanted beside volts and amps.

    Raises
    ------
    CannotRead
        If there is no power in it, or a reading that no USB supply gives.
    """
    if "meter" not in understood.gives and not understood.problems:
        raise CannotRead("there are no watts in it, nor volts and amps", "a meter log needs them", file=source.name)
    figures = read_figures(source, understood, zone, progress, counters)

    def column(quantity: str) -> Array | None:
        columns = understood.of(quantity)
        return figures.columns.get(columns[0].index) if columns else None

    volts, amps, watts, energy, charge = (column(q) for q in ("volts", "amps", "watts", "energy", "charge"))
    refuse_no_supply(volts, amps, watts, figures.clock)
    remarks = [*figures.remarks, *_about_skipped(figures)]
    if amps is not None and (watts is None or volts is not None) and np.nanmax(amps) <= 0 < -np.nanmin(amps):
        amps = -amps
        remarks.append("The amps are negative throughout: the meter is the other way round, their sign was turned.")
    if volts is not None and amps is not None:
        power = volts * amps
        if watts is not None:
            remarks += _about_watts(power, watts)
            power = np.where(np.isnan(power), watts, power)
    elif watts is not None:
        power = watts
    elif energy is not None:
        power = _power_of_counter(figures.clock.seconds, energy, source)
        remarks.append("Watts are taken from the rise of the meter's energy counter.")
    else:
        assert charge is not None and volts is not None
        power = _power_of_counter(figures.clock.seconds, charge, source) * volts
        remarks.append("Watts are taken from the volts and the rise of the meter's mAh counter.")
    counted_only = watts is None and (volts is None or amps is None)
    finite = np.isfinite(power)
    if amps is None and volts is not None and np.all(volts[finite] > 0):
        amps = power / volts
    if volts is None or amps is None:
        volts = amps = None
    if not finite.any():
        raise CannotRead("no row of it gives watts", "check which columns are volts and amps", file=source.name)
    if not finite.all():
        remarks.append(f"{counted(int((~finite).sum()), 'row')} without a reading left out.")
        volts, amps = (None if v is None else v[finite] for v in (volts, amps))
        power = power[finite]
    wh, ah = (None if c is None or counted_only else c[finite] for c in (energy, charge))
    warm = [figures.columns[c.index][finite] for c in understood.of("celsius")]
    celsius = np.fmax.reduce(warm) if warm else None
    return MeterLog(figures.clock.only(finite), power, volts, amps, tuple(remarks), wh, ah, celsius)


def _about_skipped(figures: Figures) -> list[str]:
    if not figures.skipped:
        return []
    row, cell = figures.skipped[0]
    return [
        f"{counted(len(figures.skipped), 'row')} could not be read and left out, the first row {row} (“{cell[:20]}”)."
    ]


def _about_watts(power: Array, watts: Array) -> list[str]:
    both = np.isfinite(power) & np.isfinite(watts) & (power > 0.5)
    if not both.any():
        return []
    off = float(np.median(np.abs(watts[both] - power[both]) / power[both]))
    if off <= WATTS_DISAGREE:
        return []
    return [f"The column of watts differs from volts × amps by {share(off)}: volts × amps are used."]


def _power_of_counter(seconds: Array, counter: Array, source: Source) -> Array:
    """Rise of a counter an hour: watts of Wh, amps of Ah."""
    if len(seconds) < 2 or np.any(np.diff(counter) < 0):
        raise CannotRead(
            "its counter goes back",
            "reset it only before the log begins, or log watts",
            file=source.name,
        )
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.gradient(counter, seconds) * HOUR_S


def timed_readings(source: Source, understood: Understanding, zone: ZoneInfo | None = None) -> TimedReadings:
    """Check-ins from their table; rows without a percentage are passed over.

    Raises
    ------
    CannotRead
    """
    if not understood.of("percent") and not understood.problems:
        raise CannotRead("no column of it is a percentage", "check-ins are a time and a percentage", file=source.name)
    figures = read_figures(source, understood, zone)
    percent = figures.columns[understood.of("percent")[0].index]
    finite = np.isfinite(percent)
    clock, percent = figures.clock.only(finite), percent[finite]
    refuse_no_level(percent, clock)
    return TimedReadings(clock, percent)


def temperatures(source: Source, understood: Understanding, zone: ZoneInfo | None = None) -> Temperatures:
    """Temperatures from a table with a column of positions, or a column for each place.

    Raises
    ------
    CannotRead
    """
    if not understood.of("celsius") and not understood.problems:
        raise CannotRead("no column of it is a temperature", "head it with °C or °F", file=source.name)
    figures = read_figures(source, understood, zone)
    seconds, places, celsius = [], [], []
    for column in understood.of("celsius"):
        values = figures.columns[column.index]
        finite = np.isfinite(values)
        clock = figures.clock.only(finite)
        refuse_no_temperature(values[finite], clock)
        seconds.append(clock.seconds)
        celsius.append(values[finite])
        if figures.places is not None:
            places += [p for p, keep in zip(figures.places, finite, strict=True) if keep]
        else:
            places += [column.place] * int(finite.sum())
    clock = replace(figures.clock, seconds=np.concatenate(seconds), rows=None)
    return Temperatures(clock, tuple(places), np.concatenate(celsius))


def phone_reports(source: Source, understood: Understanding, zone: ZoneInfo | None = None) -> PhoneReports:
    """Watts as the phone itself reports them, from their table; rows without any are passed over.

    Raises
    ------
    CannotRead
    """
    figures = read_figures(source, understood, zone)
    if told := understood.of("phone_watts"):
        watts = figures.columns[told[0].index]
    else:
        volts, amps = (figures.columns[understood.of(q)[0].index] for q in ("phone_volts", "phone_amps"))
        watts = volts * amps
    finite = np.isfinite(watts)
    clock, watts = figures.clock.only(finite), watts[finite]
    wrong = np.flatnonzero((watts < -MOST_PHONE_W) | (watts > MOST_PHONE_W))
    if len(wrong):
        raise clock.refused(int(wrong[0]), f"{watts[wrong[0]]:g} W is no phone's power", "see whether it is in mW")
    # A battery that is charged reports watts in, or, the other way round, negative ones out.
    return PhoneReports(clock, -watts if len(watts) and np.median(watts) < 0 else watts)


def readings_after_placing(pairs: Iterable[tuple[float, float]]) -> TimedReadings:
    """Check-ins counted in minutes from the placing of the phone."""
    table = np.array(list(pairs), dtype=float).reshape(-1, 2)
    return TimedReadings(Timeline(ClockKind.AFTER_PLACING, table[:, 0] * MINUTE_S), table[:, 1])


def put_together(
    meter: MeterLog,
    readings: TimedReadings | None = None,
    heat: Temperatures | None = None,
    placed_s: float | None = None,
    ambient_c: float | None = None,
    phone: PhoneReports | None = None,
) -> RunLog:
    """Log of a run, cleaned and on one clock.

    `placed_s` [s] is needed only by times counted from the placing of the phone; without it, placing is first
    found in the log.

    Raises
    ------
    CannotRead
    """
    beside = [o.clock for o in (readings, heat, phone) if o is not None]
    times, aligned = one_clock(meter.clock, [o for o in beside if o.kind is not ClockKind.AFTER_PLACING])
    try:
        trace = power_trace(times, meter.watts, meter.volts, meter.amps)
    except CannotRead as error:
        raise error.within(meter.clock.file) from None
    remaining = iter(aligned)

    def on_log(clock: Timeline) -> Array:
        if clock.kind is not ClockKind.AFTER_PLACING:
            return next(remaining)
        return clock.seconds + find_placement(trace, placed_s, start_percent=_first_percent(readings)).at_s

    check_ins: CheckIns | None = None
    if readings is not None:
        seconds = on_log(readings.clock)
        if len(seconds):
            begins = trace.start_s if placed_s is None else min(trace.start_s, placed_s)
            if _on_one_clock(meter.clock, readings.clock) and seconds.max() >= trace.start_s:
                # Then an early one shows no wrong clock, but a meter that was started late.
                begins = trace.start_s - LONGEST_BEFORE_S
            refuse_outside(seconds, begins, readings.clock)
            check_ins = make_check_ins(seconds, readings.percent)
    surfaces: HeatLog | None = None
    if heat is not None:
        seconds = on_log(heat.clock)
        if len(seconds):
            surfaces = heat_log(list(heat.places), seconds, heat.celsius, ambient_c)
    reported = () if phone is None else zip(on_log(phone.clock).tolist(), phone.watts.tolist(), strict=True)
    return RunLog(trace, check_ins, surfaces, besides=besides(reported))


def _on_one_clock(meter: Timeline, other: Timeline) -> bool:
    """Whether two columns of times cannot be off against one another by where they count from."""
    dated = (ClockKind.ABSOLUTE, ClockKind.TIME_OF_DAY)
    alike = meter.kind is other.kind or (meter.kind is ClockKind.ABSOLUTE and other.kind is ClockKind.TIME_OF_DAY)
    return (alike and meter.kind in dated) or (
        meter.kind is other.kind and bool(meter.file) and meter.file == other.file
    )


@dataclass(frozen=True)
class WithoutMeter:
    """A run that no meter saw: its log, when the phone was placed where that is stated, and when the log began [s since
    1970] where it carries dates."""

    log: RunLog
    placed_s: float | None
    started_s: float | None


def without_meter(
    readings: TimedReadings | None,
    heat: Temperatures | None = None,
    placed_s: float | None = None,
    ambient_c: float | None = None,
    phone: PhoneReports | None = None,
) -> WithoutMeter:
    """A run without a meter, on the clock of its check-ins, or of its temperatures where there are none.

    Of dates the first row is 0. What counts from the placing does so from `placed_s` [s], else from the first check-in;
    where the check-ins themselves count from it, it is 0.

    Raises
    ------
    CannotRead
        If nothing is in it, or its clocks cannot be laid on each other.
    """
    if (readings is None or not len(readings.percent)) and (heat is None or not len(heat.celsius)):
        raise CannotRead("there is nothing in it to read", "give percentages, temperatures or both", file="files")
    series = [o for o in (readings, heat, phone) if o is not None and len(o.clock.seconds)]
    own = [o for o in series if o.clock.kind is not ClockKind.AFTER_PLACING]
    first, *others = [o.clock for o in own] or [Timeline(ClockKind.ELAPSED, np.zeros(1))]
    start, beside = one_clock(first, others)
    on_log = {id(o): seconds for o, seconds in zip(own, [start, *beside], strict=False)}
    if placed_s is None and readings is not None and len(readings.percent):
        counted = readings.clock.kind is ClockKind.AFTER_PLACING
        placed_s = 0.0 if counted else float(on_log[id(readings)].min())
        stated = placed_s if counted else None
    else:
        stated = placed_s
    on_log |= {id(o): o.clock.seconds + (placed_s or 0.0) for o in series if id(o) not in on_log}
    check_ins, surfaces = None, None
    reported: list[tuple[float, float]] = []
    moments = [] if stated is None else [stated]
    if readings is not None and id(readings) in on_log:
        check_ins = make_check_ins(on_log[id(readings)], readings.percent)
        moments += check_ins.time_s.tolist()
    if heat is not None and id(heat) in on_log:
        surfaces = heat_log(list(heat.places), on_log[id(heat)], heat.celsius, ambient_c)
        moments += on_log[id(heat)].tolist()
    if phone is not None and id(phone) in on_log:
        reported = list(zip(on_log[id(phone)].tolist(), phone.watts.tolist(), strict=True))
    log = RunLog(unmetered(min(moments), max(moments)), check_ins, surfaces, besides=besides(reported))
    return WithoutMeter(log, stated, float(first.seconds.min()) if first.kind is ClockKind.ABSOLUTE else None)


def _first_percent(readings: TimedReadings | None) -> float | None:
    if readings is None or not len(readings.percent):
        return None
    return float(readings.percent[int(np.argmin(readings.clock.seconds))])


def counted_from(clock: Timeline, whose: Whose) -> Timeline:
    """Relative times taken to count from the placing where that is said; others are as they are."""
    if whose == "log" or clock.kind is not ClockKind.ELAPSED:
        return clock
    return replace(clock, kind=ClockKind.AFTER_PLACING)


def guess_clock(
    meter: MeterLog, clock: Timeline, placed_s: float | None = None, first_percent: float | None = None
) -> Guess:
    """Whose clock the relative times beside a meter's log are on; see `core.clock.whose_clock`.

    Raises
    ------
    CannotRead
    """
    times, [seconds] = one_clock(meter.clock, [clock])
    trace = power_trace(times, meter.watts, meter.volts, meter.amps)
    placed = find_placement(trace, placed_s, start_percent=first_percent).at_s
    return whose_clock(seconds, trace.start_s, trace.end_s, placed)


def on_log_clock(readings: TimedReadings, placed_s: float) -> CheckIns:
    """Check-ins for a run that is stored already: counted from its placing [s], or on its log's clock.

    Raises
    ------
    CannotRead
        If they carry dates or times of day, which a stored log no longer knows.
    """
    if readings.clock.kind is ClockKind.AFTER_PLACING:
        return make_check_ins(readings.clock.seconds + placed_s, readings.percent)
    if readings.clock.kind is not ClockKind.ELAPSED:
        raise CannotRead("they are on a clock", "write minutes after placing", file="check-ins")
    return make_check_ins(readings.clock.seconds, readings.percent)
