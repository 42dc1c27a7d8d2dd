"""A load test read off a display: what a tester without a logging meter can say of a pack."""

from dataclasses import dataclass

from ..errors import CannotRead
from ..log.energy import MeterSpec
from ..measured import Measured, Part, rectangle
from ..units import MINUTE_S
from .load_notes import MOST_A
from .load_steps import LOADED_A, LoadStep
from .load_stops import Trip
from .load_test import LoadTest, VoltLine, sag_of, trip_of, volt_line, volt_parts
from .rating import MOST_MAH, Rating, check_delivered, yield_of
from .refill import display_parts

MOST_MINUTES = 60.0 * 24 * 30


@dataclass(frozen=True)
class SeenByEye:
    """Figures off a display. wh [Wh], or mah [mAh] at volts [V]: delivered; minutes : under load; emptied : whether it
    went off by itself; loads : (amps, volts), one pair a load; held_a, let_go_a [A] : of its protection."""

    wh: float | None = None
    mah: float | None = None
    volts: float | None = None
    minutes: float | None = None
    emptied: bool = False
    loads: tuple[tuple[float, float], ...] = ()
    held_a: float | None = None
    let_go_a: float | None = None


def seen_wh(seen: SeenByEye) -> float | None:
    """Delivered energy off a display [Wh]; None where nobody read it.

    Raises
    ------
    CannotRead
        If it is none, or milliampere-hours without the volts of the output.
    """
    if seen.wh is not None:
        return check_delivered(seen.wh)
    if seen.mah is None:
        return None
    if seen.volts is None:
        raise CannotRead(
            f"{seen.mah:g} mAh say nothing of energy without a voltage", "add the volts of the output that gave them",
            file="delivered mAh",
        )  # fmt: skip
    if not 0 < seen.mah <= MOST_MAH or not 0 < seen.volts <= 60.0:
        raise CannotRead("that was delivered by no pack", "write mAh and volts above 0", file="delivered mAh")
    return check_delivered(seen.mah * seen.volts / 1000.0)


def read_by_eye(seen: SeenByEye, rated: Rating, meter: MeterSpec = MeterSpec()) -> LoadTest:
    """A load test from figures off a display.

    Parameters
    ----------
    seen : SeenByEye
    rated : Rating
    meter : MeterSpec
        Of the display; its last digit comes on top.

    Raises
    ------
    CannotRead
        If nothing was read, or one of the figures cannot be.
    """
    wh = seen_wh(seen)
    _check(seen)
    if wh is None and not seen.loads and seen.let_go_a is None:
        raise CannotRead("nothing was read", "write Wh, or loads with their volts, or where it let go", file="load")
    delivered = None if wh is None else Measured(wh, display_parts(wh, meter))
    end_s = 0.0 if seen.minutes is None else seen.minutes * MINUTE_S
    steps = [LoadStep(0.0, 0.0, a, v) for a, v in seen.loads]
    idle_v = next((v for a, v in seen.loads if a < LOADED_A), None)
    idle = None if idle_v is None else Measured(idle_v, volt_parts(idle_v, meter))
    loads = tuple(s for s in steps if s.amps >= LOADED_A)
    trip = None if seen.let_go_a is None else Trip(0.0, _held(seen), seen.let_go_a, None)
    charge = None if seen.mah is None else Measured(seen.mah / 1000.0, display_parts(seen.mah / 1000.0, meter))
    emptied = wh is not None and seen.emptied
    return LoadTest(
        start_s=0.0, end_s=end_s, delivered_wh=delivered, delivered_ah=charge,
        at_least=delivered is not None and not seen.emptied, cut_off_s=end_s if emptied and end_s else None,
        yield_=None if delivered is None else yield_of(delivered, rated), no_load_v=idle,
        line=_line(steps, meter), sag_v=sag_of(loads, idle), steps=loads, profile_changes=(), trip=trip,
        sleeps=(), folded=(), by_eye=True, trip_a=trip_of(trip, meter),
    )  # fmt: skip


def _line(steps: list[LoadStep], meter: MeterSpec) -> VoltLine | None:
    """The line through the loads; a few readings may lie on it by chance, so that the last digit counts besides."""
    line = volt_line(steps, None, meter)
    if line is None or meter.gain_percent is None or line.points < 3:
        return line
    amps = [s.amps for s in steps]
    middle = sum(amps) / len(amps)
    digit = rectangle(meter.counts_v / 2.0) / sum((a - middle) ** 2 for a in amps) ** 0.5
    resistance = line.resistance_ohm
    parts = (*resistance.parts, Part("last digit of the volts", digit))
    return VoltLine(Measured(resistance.value, parts), line.no_load_v, line.points)


def _held(seen: SeenByEye) -> float:
    return seen.held_a if seen.held_a is not None else max((a for a, _ in seen.loads), default=0.0)


def _check(seen: SeenByEye) -> None:
    if seen.minutes is not None and not 0 < seen.minutes <= MOST_MINUTES:
        raise CannotRead(f"{seen.minutes:g} minutes are no test", f"write 1 to {MOST_MINUTES:g}", file="minutes")
    for name, amps in (("held", seen.held_a), ("let go", seen.let_go_a)):
        if amps is not None and not 0 < amps <= MOST_A:
            raise CannotRead(f"{amps:g} A is no load", f"write 0 to {MOST_A:g} A", file=name)
    if seen.let_go_a is not None and _held(seen) >= seen.let_go_a:
        raise CannotRead(
            f"it held {_held(seen):g} A and let go at {seen.let_go_a:g} A", "what it let go at is more than it held",
            file="let go",
        )  # fmt: skip
