"""Logs of a run on one clock: the meter's trace, check-ins, temperatures, what phone and charger told;
cleaned, placed, and refused where it cannot be."""

from .by_minute import Minutes, by_minute
from .check_ins import Battery, CheckIns, Milestone, level_points, looked_every, make_check_ins, refuse_outside
from .clock import (
    LONGEST_BEFORE_S,
    ClockKind,
    Guess,
    Timeline,
    Whose,
    moment_of,
    one_clock,
    refuse_backwards,
    unwrapped,
    whose_clock,
    without_clock_change,
    without_restarts,
    zone_named,
)
from .energy import MeterSpec, metered_idle
from .fingerprint import Recording, levels_mark, recording_of
from .flow import Flow
from .no_load import LEAST_JUMP_W, MOST_NO_LOAD_W, idle_level, idle_now
from .phone_reports import Besides, besides
from .placement import LASTING_S, Stretch, find_placement, latest_rise, placed_said
from .placings import Placing, placings
from .plausible import BOUNDS, refuse_no_level, refuse_no_supply, refuse_no_temperature, refuse_other_units
from .points import METER, PHONE, POINTS, SOCKET
from .temperatures import MOST_PLACES, HeatLog, Surface, heat_log, is_phone, is_room
from .trace import (
    HOLE_FLOOR_S,
    HOLE_STEPS,
    Cleaned,
    PowerTrace,
    clean_trace,
    hole_limit,
    holes_in,
    power_trace,
    unmetered,
)
from .typed_check_ins import typed_checkins, typed_temperatures

__all__ = [
    "BOUNDS",
    "HOLE_FLOOR_S",
    "HOLE_STEPS",
    "LASTING_S",
    "LEAST_JUMP_W",
    "LONGEST_BEFORE_S",
    "METER",
    "MOST_NO_LOAD_W",
    "MOST_PLACES",
    "PHONE",
    "POINTS",
    "SOCKET",
    "Battery",
    "Besides",
    "CheckIns",
    "Cleaned",
    "ClockKind",
    "Flow",
    "Guess",
    "HeatLog",
    "MeterSpec",
    "Milestone",
    "Minutes",
    "Placing",
    "PowerTrace",
    "Recording",
    "Stretch",
    "Surface",
    "Timeline",
    "Whose",
    "besides",
    "by_minute",
    "clean_trace",
    "find_placement",
    "heat_log",
    "hole_limit",
    "holes_in",
    "idle_level",
    "idle_now",
    "is_phone",
    "is_room",
    "latest_rise",
    "level_points",
    "levels_mark",
    "looked_every",
    "make_check_ins",
    "metered_idle",
    "moment_of",
    "one_clock",
    "placed_said",
    "placings",
    "power_trace",
    "recording_of",
    "refuse_backwards",
    "refuse_no_level",
    "refuse_no_supply",
    "refuse_no_temperature",
    "refuse_other_units",
    "refuse_outside",
    "typed_checkins",
    "typed_temperatures",
    "unmetered",
    "unwrapped",
    "whose_clock",
    "without_clock_change",
    "without_restarts",
    "zone_named",
]
